// docs/conditions.md is the contract of the language: every line of its tables is written, read and run on every engine
// over the records that the document shows.
#include <fstream>

#include "core/scope/condition_text.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

using Cells = std::vector<std::string>;

std::string stripped(const std::string& text) {
  const std::size_t begin = text.find_first_not_of(' ');
  return begin == std::string::npos ? "" : text.substr(begin, text.find_last_not_of(' ') - begin + 1);
}

// The lines of the document's tables under a head that begins with this name.
std::vector<Cells> linesUnder(const std::string& head) {
  std::ifstream file(TEST_DATA "/../../docs/conditions.md");
  std::vector<Cells> out;
  bool inside = false;
  for (std::string line; std::getline(file, line);) {
    if (!line.starts_with("|")) {
      inside = false;
      continue;
    }
    Cells cells;
    for (std::size_t at = 1, end = 0; (end = line.find('|', at)) != std::string::npos; at = end + 1) {
      cells.push_back(stripped(line.substr(at, end - at)));
    }
    if (inside && !cells[0].starts_with("---")) out.push_back(cells);
    inside = inside || cells[0] == head;
  }
  return out;
}

constexpr const char* kTables = R"(
  CREATE TABLE street (street_id INTEGER PRIMARY KEY, name VARCHAR(40) NOT NULL, town VARCHAR(40));
  CREATE TABLE tree (tree_id INTEGER PRIMARY KEY, tag VARCHAR(20) NOT NULL, note VARCHAR(60), grade INTEGER,
    height DECIMAL(5, 2), planted DATE, seen $moment, felled BOOLEAN, street_id INTEGER,
    CONSTRAINT tree_street FOREIGN KEY (street_id) REFERENCES street (street_id));
  CREATE TABLE work (work_id INTEGER PRIMARY KEY, tree_id INTEGER, next_to_id INTEGER, kind VARCHAR(20),
    CONSTRAINT work_tree FOREIGN KEY (tree_id) REFERENCES tree (tree_id),
    CONSTRAINT work_beside FOREIGN KEY (next_to_id) REFERENCES tree (tree_id));
  INSERT INTO street VALUES (1, 'Harbour Row', 'Quillhaven'), (2, 'Lantern Street', 'Quillhaven'), (3, 'Mere Lane', NULL);
)";

std::string tables(Engine engine) {
  std::string sql = kTables;
  sql.replace(sql.find("$moment"), 7, engine == Engine::MariaDb ? "DATETIME" : "TIMESTAMP");
  for (const Cells& cells : linesUnder("tree_id")) {
    std::string values;
    for (std::size_t c = 0; c < cells.size(); ++c) {
      std::string value = "'" + cells[c] + "'";
      if (cells[c] == "*no value*") value = "NULL";
      if (cells[c] == "*empty text*") value = "''";
      if (cells[c] == "yes" || cells[c] == "no") value = cells[c] == "yes" ? "TRUE" : "FALSE";
      values += (c > 0 ? ", " : "") + value;
    }
    sql += "INSERT INTO tree VALUES (" + values + ");";
  }
  return sql + "INSERT INTO work VALUES (1, 1, 2, 'prune'), (2, 2, NULL, 'water'), (3, NULL, 5, 'prune')";
}

class ConditionDocumentTest : public EngineTest {
 protected:
  ConditionContext context() {
    using namespace std::chrono;
    return {&db.catalogue(), sys_days(2026y / November / 26)};
  }
  std::string shown(const Condition& condition) {
    Query query;
    query.table = &tree;
    query.columns = {"tree_id"};
    query.where = condition;
    std::string out;
    Progress progress;
    const Status status = db.session().select(
        query,
        [&](ValueTuple&& row) {
          out += (out.empty() ? "" : " ") + canonicalText(row[0]);
          return true;
        },
        progress);
    if (!status) return "failed: " + status.error().text();
    return out.empty() ? "none" : out;
  }
  std::string shown(const std::string& text) {
    const auto condition = parseCondition(tree, text, context());
    return condition ? shown(*condition) : "error: " + condition.error().text();
  }

  TestDatabase db{tables(GetParam()), GetParam()};
  const Table& tree = *db.catalogue().find({"", "tree"});
};
ITERANDUM_ON_ALL_ENGINES(ConditionDocumentTest);

TEST_P(ConditionDocumentTest, EveryLineShowsWhatItSays) {
  const std::vector<Cells> lines = linesUnder("written");
  ASSERT_GT(lines.size(), 130U);
  for (const Cells& cells : lines) {
    ASSERT_EQ(3U, cells.size()) << cells[0];
    const std::string text = cells[0].substr(1, cells[0].size() - 2);
    // As the document says, there are only 0 and 1 there.
    if (GetParam() == Engine::MariaDb && text.starts_with("felled")) continue;
    EXPECT_EQ(cells[1], shown(text)) << text;
  }
}

TEST_P(ConditionDocumentTest, TheSentenceOfEveryLineMeansTheSame) {
  for (const Cells& cells : linesUnder("written")) {
    const std::string text = cells[0].substr(1, cells[0].size() - 2);
    const auto condition = parseCondition(tree, text, context());
    if (!condition) continue;
    const std::string words = conditionInWords(tree, *condition);
    EXPECT_EQ(cells[1], shown(words)) << text << "\nsaid: " << words;
    // Said again it is the same sentence: words do not drift.
    const auto again = parseCondition(tree, words, context());
    EXPECT_EQ(words, again ? conditionInWords(tree, *again) : again.error().text()) << text;
  }
}

}  // namespace
}  // namespace iterandum::test
