// Random change sets over a schema with references, unique keys and CHECK rules, held against a small in-memory oracle:
// the same verdict, and the same end. What the oracle does is written for clarity, not speed.
#include <map>
#include <optional>
#include <random>
#include <set>

#include "support/test_database.h"

namespace iterandum::test {
namespace {

constexpr const char* kSchema =
    "CREATE TABLE p (id INTEGER PRIMARY KEY, code INTEGER NOT NULL UNIQUE CHECK (code >= 0));"
    "CREATE TABLE c (id INTEGER PRIMARY KEY, p INTEGER REFERENCES p (id), slot INTEGER UNIQUE, grade INTEGER CHECK "
    "(grade "
    "BETWEEN 0 AND 5));"
    "CREATE TABLE d (id INTEGER PRIMARY KEY, c INTEGER NOT NULL REFERENCES c (id) ON DELETE CASCADE);";

using Cell = std::optional<int>;
using Row = std::vector<Cell>;  // without the id
using Rows = std::map<int, Row>;

struct World {
  Rows p;
  Rows c;
  Rows d;
};

std::string text(const World& w) {
  std::string out;
  for (const auto& [name, rows] : {std::pair<const char*, const Rows*>{"p", &w.p}, {"c", &w.c}, {"d", &w.d}}) {
    out += std::string(name) + ":";
    for (const auto& [id, row] : *rows) {
      out += " " + std::to_string(id);
      for (const Cell& cell : row) out += "," + (cell ? std::to_string(*cell) : "-");
    }
    out += "\n";
  }
  return out;
}

struct Step {
  char action;  // e, a, r
  char table;
  int id;
  std::size_t column = 0;
  Cell from;
  Cell to;
  Row row;
};

const char* const kColumns[3][3] = {{"code", nullptr, nullptr}, {"p", "slot", "grade"}, {"c", nullptr, nullptr}};
std::size_t columnCount(char table) { return table == 'c' ? 3 : 1; }
Rows& rowsOf(World& w, char table) { return table == 'p' ? w.p : (table == 'c' ? w.c : w.d); }
const char* columnName(char table, std::size_t c) { return kColumns[table == 'p' ? 0 : (table == 'c' ? 1 : 2)][c]; }

// The end state that the steps ask for, or nothing where some rule forbids it. Order plays no part.
std::optional<World> oracle(const World& start, const std::vector<Step>& steps) {
  World w = start;
  for (const Step& s : steps) {
    if (s.action != 'r') continue;
    if (!rowsOf(w, s.table).erase(s.id)) return std::nullopt;
  }
  for (const Step& s : steps) {
    if (s.action != 'e') continue;
    auto row = rowsOf(w, s.table).find(s.id);
    if (row == rowsOf(w, s.table).end()) return std::nullopt;
    Cell& cell = row->second[s.column];
    if (cell != s.from && cell != s.to) return std::nullopt;
    cell = s.to;
  }
  for (const Step& s : steps) {
    if (s.action == 'a' && !rowsOf(w, s.table).emplace(s.id, s.row).second) return std::nullopt;
  }
  // Cascades from c to d.
  for (auto it = w.d.begin(); it != w.d.end();) {
    const bool parentRemoved = it->second[0] && start.c.contains(*it->second[0]) && !w.c.contains(*it->second[0]);
    const bool touched = std::any_of(steps.begin(), steps.end(), [&](const Step& s) {
      return s.table == 'd' && s.id == it->first && s.action != 'r';
    });
    if (parentRemoved && touched) return std::nullopt;
    it = parentRemoved ? w.d.erase(it) : std::next(it);
  }
  std::set<int> codes;
  for (const auto& [id, row] : w.p) {
    if (!row[0] || *row[0] < 0 || !codes.insert(*row[0]).second) return std::nullopt;
  }
  std::set<int> slots;
  for (const auto& [id, row] : w.c) {
    if (row[0] && !w.p.contains(*row[0])) return std::nullopt;
    if (row[1] && !slots.insert(*row[1]).second) return std::nullopt;
    if (row[2] && (*row[2] < 0 || *row[2] > 5)) return std::nullopt;
  }
  for (const auto& [id, row] : w.d) {
    if (!row[0] || !w.c.contains(*row[0])) return std::nullopt;
  }
  return w;
}

class Generator {
 public:
  explicit Generator(unsigned seed) : random_(seed) {}

  World world() {
    World w;
    for (int i = 1; i <= 5; ++i) w.p[i] = {i * 10};
    for (int i = 1; i <= 8; ++i) w.c[i] = {maybe(1 + below(5), 6), maybe(i, 4), maybe(below(6), 6)};
    for (int i = 1; i <= 6; ++i) w.d[i] = {1 + below(8)};
    return w;
  }

  std::vector<Step> steps(World& w) {
    std::vector<Step> out;
    std::set<std::pair<char, int>> used;
    std::set<std::pair<char, int>> removed;
    const int count = 1 + below(7);
    for (int i = 0; i < count; ++i) {
      Step s{};
      s.table = "pcd"[below(3)];
      s.action = "eeeear"[below(6)];
      s.id = s.action == 'a' ? 20 + i : 1 + below(9);
      if (s.action == 'a' && below(8) == 0) s.id = 1 + below(9);  // a key that may be taken
      if (s.action != 'a' && !used.insert({s.table, s.id}).second) continue;
      const auto row = rowsOf(w, s.table).find(s.id);
      if (s.action == 'e') {
        s.column = static_cast<std::size_t>(below(static_cast<int>(columnCount(s.table))));
        s.from = row == rowsOf(w, s.table).end() ? Cell(1) : row->second[s.column];
        if (below(15) == 0) s.from = 77;  // somebody else was there
        s.to = value(s.table, s.column);
      }
      if (s.action == 'a') {
        for (std::size_t c = 0; c < columnCount(s.table); ++c) s.row.push_back(value(s.table, c));
      }
      out.push_back(s);
    }
    return out;
  }

 private:
  int below(int n) { return static_cast<int>(random_() % static_cast<unsigned>(n)); }
  Cell maybe(int v, int n) { return below(n) == 0 ? Cell() : Cell(v); }
  Cell value(char table, std::size_t column) {
    if (table == 'p') return maybe(10 * below(8) - (below(12) == 0 ? 11 : 0), 20);
    if (table == 'd') return maybe(1 + below(9), 12);
    if (column == 0) return maybe(1 + below(6), 5);
    if (column == 1) return maybe(1 + below(10), 5);
    return maybe(below(7), 5);
  }
  std::mt19937 random_;
};

std::string sql(const World& w) {
  std::string out;
  for (const auto& [name, rows] : {std::pair<const char*, const Rows*>{"p", &w.p}, {"c", &w.c}, {"d", &w.d}}) {
    for (const auto& [id, row] : *rows) {
      out += std::string("INSERT INTO ") + name + " VALUES (" + std::to_string(id);
      for (const Cell& cell : row) out += "," + (cell ? std::to_string(*cell) : "NULL");
      out += ");";
    }
  }
  return out;
}

std::string stateOf(const TestDatabase& db) {
  std::string out;
  for (const char* name : {"p", "c", "d"}) {
    out += std::string(name) + ":";
    std::string rows = db.rows(std::string("SELECT * FROM ") + name + " ORDER BY id");
    std::replace(rows.begin(), rows.end(), '|', ',');
    std::replace(rows.begin(), rows.end(), '\n', ' ');
    out += (rows.empty() ? "" : " ") + rows + "\n";
  }
  return out;
}

std::string lines(const std::vector<Step>& steps) {
  const auto json = [](const Cell& c) { return c ? std::to_string(*c) : std::string("null"); };
  std::string out;
  for (const Step& s : steps) {
    const std::string id = "id=" + std::to_string(s.id);
    if (s.action == 'e')
      out += std::string("edit ") + s.table + " " + id + " " + columnName(s.table, s.column) + ":" + json(s.from) +
             "->" + json(s.to) + "\n";
    if (s.action == 'r') out += std::string("remove ") + s.table + " " + id + "\n";
    if (s.action == 'a') {
      out += std::string("add ") + s.table + " " + id;
      for (std::size_t c = 0; c < s.row.size(); ++c)
        out += std::string(" ") + columnName(s.table, c) + "=" + json(s.row[c]);
      out += "\n";
    }
  }
  return out;
}

class DifferentialTest : public EngineTest {};
ITERANDUM_ON_ALL_ENGINES(DifferentialTest);

TEST_P(DifferentialTest, SameVerdictAndSameEndAsTheOracle) {
  unsigned applied = 0;
  const unsigned rounds = GetParam() == Engine::Sqlite ? 700 : 250;
  TestDatabase db({}, GetParam());
  for (unsigned seed = 1; seed <= rounds; ++seed) {
    Generator generator(seed);
    World world = generator.world();
    const std::vector<Step> steps = generator.steps(world);
    const std::string changes = lines(steps);
    SCOPED_TRACE("seed " + std::to_string(seed) + "\n" + text(world) + changes);
    db.empty();
    db.run(kSchema + sql(world));
    const std::string start = stateOf(db);
    ASSERT_EQ(text(world), start);
    const std::optional<World> wanted = oracle(world, steps);
    const std::string review = db.review(changes);
    EXPECT_EQ(wanted.has_value(), review.ends_with("ready")) << review;
    ASSERT_EQ(start, stateOf(db)) << "a review leaves nothing behind";
    const std::string read = db.review(changes, false);
    EXPECT_EQ(wanted.has_value(), read.ends_with("ready")) << "by reading alone: " << read;
    const std::string outcome = db.apply(changes);
    EXPECT_EQ(wanted.has_value(), outcome == "applied") << outcome;
    EXPECT_EQ(wanted ? text(*wanted) : start, stateOf(db));
    if (outcome == "applied") {
      ++applied;
      // What was applied can be taken back, to the very start.
      Progress progress;
      const auto back = applyChanges(db.session(), db.catalogue(), revertReceipt(db.receipt()).changes, {}, progress);
      ASSERT_TRUE(back && back->receipt) << (back ? findingsText(back->review) : back.error().text());
      EXPECT_EQ(start, stateOf(db));
    }
    if (::testing::Test::HasFailure()) break;
  }
  EXPECT_LT(rounds / 10, applied) << "too few change sets were good ones for this to say much";
}

}  // namespace
}  // namespace iterandum::test
