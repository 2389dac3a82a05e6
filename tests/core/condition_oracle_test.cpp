// Random conditions and orders, written in the language as a person might, held against an oracle that knows the
// records and goes over them one by one: the same records in the same order on every engine.
#include <algorithm>
#include <functional>
#include <random>

#include "core/scope/scope.h"
#include "support/document.h"

namespace iterandum::test {
namespace {

struct Tree {
  int id = 0;
  int species = 1;
  std::optional<int> condition;
  std::optional<int> height;  // in quarters
  std::optional<std::string> note;
  int inspections = 0;
  int sound = 0;  // of the inspections
  int photos = 0;
};

const char* const kSpecies[] = {"", "lime", "oak", "elm"};
const std::vector<std::string> kNotes = {
    "",    "a",  "A",        "ab",   "Ab%c", "x_y", "o'clock", " blank ", "blank",     "blank ", "10", "9",
    "and", "or", "no value", ">= 3", "not",  "äÄ",  "Ärger",   "straße",  "say \"x\"", "a\\b",   "*",  "(a, b)"};

// Small letters, of those letters that are used here.
std::string folded(const std::string& text) {
  std::string out;
  for (std::size_t i = 0; i < text.size(); ++i) {
    if (text.compare(i, 2, "Ä") == 0) {
      out += "ä";
      ++i;
    } else {
      out += static_cast<char>(text[i] >= 'A' && text[i] <= 'Z' ? text[i] + 32 : text[i]);
    }
  }
  return out;
}

std::string quoted(const std::string& text) {
  std::string out = "'";
  for (const char c : text) out += c == '\'' ? "''" : std::string(1, c);
  return out + "'";
}

// A pattern of *, ? and characters, tried the simple way. Every character of ours that is no letter of one byte is
// asked for by *.
bool fits(const std::string& pattern, const std::string& text) {
  if (pattern.empty()) return text.empty();
  if (pattern[0] == '*') return fits(pattern.substr(1), text) || (!text.empty() && fits(pattern, text.substr(1)));
  if (text.empty()) return false;
  return (pattern[0] == '?' || pattern[0] == text[0]) && fits(pattern.substr(1), text.substr(1));
}

using Holds = std::function<bool(const Tree&)>;
struct Said {
  std::string text;
  Holds holds;
};

class Speaker {
 public:
  explicit Speaker(unsigned seed) : random_(seed) {}

  Said condition(int depth) {
    if (depth == 0 || pick(3) == 0) return single();
    switch (pick(3)) {
      case 0: {
        const Said inner = condition(depth - 1);
        return {"not (" + inner.text + ")", [inner](const Tree& t) { return !inner.holds(t); }};
      }
      case 1: {
        const Said a = condition(depth - 1);
        const Said b = condition(depth - 1);
        return {"(" + a.text + ") and (" + b.text + ")", [a, b](const Tree& t) { return a.holds(t) && b.holds(t); }};
      }
      default: {
        const Said a = condition(depth - 1);
        const Said b = condition(depth - 1);
        return {"(" + a.text + ") or (" + b.text + ")", [a, b](const Tree& t) { return a.holds(t) || b.holds(t); }};
      }
    }
  }
  int pick(int count) { return static_cast<int>(random_() % static_cast<unsigned>(count)); }
  std::mt19937& random() { return random_; }

 private:
  Said single() {
    switch (pick(8)) {
      case 0:
        return number("condition", 1, [](const Tree& t) { return t.condition; });
      case 1:
        return number("height", 4, [](const Tree& t) { return t.height; });
      case 2:
        return species();
      case 3:
        return pointing();
      case 4:
        return otherColumn();
      default:
        return note();
    }
  }

  // A column of numbers, kept in parts of one `unit`.
  Said number(const std::string& column, int unit, const std::function<std::optional<int>(const Tree&)>& of) {
    const int n = pick(6 * unit);
    const int m = n + pick(2 * unit);
    const auto written = [&](int value) {
      std::string out = std::to_string(value / unit);
      const char* const quarters[] = {"", ".25", ".5", ".75"};
      return out + quarters[value % unit * 4 / unit];
    };
    const auto with = [&](const std::string& test, const std::function<bool(int)>& holds) {
      return Said{column + " " + test, [of, holds](const Tree& t) { return of(t) && holds(*of(t)); }};
    };
    switch (pick(18)) {
      case 10:
        return with(written(n) + " or less", [n](int v) { return v <= n; });
      case 11:
        return with("is " + written(n) + " or more", [n](int v) { return v >= n; });
      case 12:
        return {column + " is not above " + written(n), [of, n](const Tree& t) { return !of(t) || *of(t) <= n; }};
      case 13:
        return with("is not no value and above " + written(n), [n](int v) { return v > n; });
      case 14:
        // What has no operator goes on with the one before it.
        return {"(" + column + " < " + written(n) + " or " + written(m) + ")",
                [of, n, m](const Tree& t) { return of(t) && (*of(t) < n || *of(t) < m); }};
      case 15:
        return {column + " != " + written(n) + " and " + written(m),
                [of, n, m](const Tree& t) { return !of(t) || (*of(t) != n && *of(t) != m); }};
      case 16:
        return {column + " between [species_id] and " + written(m),
                [of, m, unit](const Tree& t) { return of(t) && *of(t) >= t.species * unit && *of(t) <= m; }};
      case 17:
        return {column + " not in ([species_id], " + written(n) + ")",
                [of, n, unit](const Tree& t) { return !of(t) || (*of(t) != t.species * unit && *of(t) != n); }};
      case 0:
        return with("= " + written(n), [n](int v) { return v == n; });
      case 1:
        return {column + " is not " + written(n), [of, n](const Tree& t) { return !of(t) || *of(t) != n; }};
      case 2:
        return with("< " + written(n), [n](int v) { return v < n; });
      case 3:
        return with(">= " + written(n), [n](int v) { return v >= n; });
      case 4:
        return with("between " + written(n) + " and " + written(m), [n, m](int v) { return v >= n && v <= m; });
      case 5:
        return with(written(n) + " .. " + written(m), [n, m](int v) { return v >= n && v <= m; });
      case 6:
        return with("in (" + written(n) + ", " + written(m) + ")", [n, m](int v) { return v == n || v == m; });
      case 7:
        return {column + " in (" + written(n) + ", no value)",
                [of, n](const Tree& t) { return !of(t) || *of(t) == n; }};
      case 8:
        return {column + " no value", [of](const Tree& t) { return !of(t); }};
      default:
        return {column + " is not between " + written(n) + " and " + written(m),
                [of, n, m](const Tree& t) { return !of(t) || *of(t) < n || *of(t) > m; }};
    }
  }

  Said note() {
    const std::string text = kNotes[static_cast<std::size_t>(pick(static_cast<int>(kNotes.size())))];
    const std::string low = folded(text);
    const auto with = [](const std::string& test, const std::function<bool(const std::string&)>& holds) {
      return Said{"note " + test, [holds](const Tree& t) { return t.note && holds(*t.note); }};
    };
    const auto has = [low](const std::string& v) { return folded(v).find(low) != std::string::npos; };
    switch (pick(18)) {
      case 11:
        return with("comes before " + quoted(text), [low](const std::string& v) { return folded(v) < low; });
      case 12:
        return {"note does not come after " + quoted(text),
                [low](const Tree& t) { return !t.note || folded(*t.note) <= low; }};
      case 13:
        return with("comes not before " + quoted(text), [low](const std::string& v) { return folded(v) >= low; });
      case 14:
        return with("a .. " + quoted(text),
                    [low](const std::string& v) { return folded(v) >= "a" && folded(v) <= low; });
      case 15:
        return {"note is not empty text", [](const Tree& t) { return !t.note || !t.note->empty(); }};
      case 16:
        return {"note in (" + quoted(text) + ", Empty Text, No Value)",
                [text](const Tree& t) { return !t.note || t.note->empty() || *t.note == text; }};
      case 17: {
        const auto tag = [](const Tree& t) { return "t" + std::to_string(t.id); };
        return {"tag contains [note]",
                [tag](const Tree& t) { return t.note && tag(t).find(folded(*t.note)) != std::string::npos; }};
      }
      case 0:
        return with("= " + quoted(text), [text](const std::string& v) { return v == text; });
      case 1:
        return {"note != " + quoted(text), [text](const Tree& t) { return !t.note || *t.note != text; }};
      case 2:
        return with("contains " + quoted(text), has);
      case 3:
        return {"note does not contain " + quoted(text), [has](const Tree& t) { return !t.note || !has(*t.note); }};
      case 4:
        return with("starts with " + quoted(text), [low](const std::string& v) { return folded(v).starts_with(low); });
      case 5:
        return with("ends with " + quoted(text), [low](const std::string& v) { return folded(v).ends_with(low); });
      case 6:
        return with("contains exactly " + quoted(text),
                    [text](const std::string& v) { return v.find(text) != std::string::npos; });
      case 7:
        return with("< " + quoted(text), [low](const std::string& v) { return folded(v) < low; });
      case 8:
        return with(">= " + quoted(text), [low](const std::string& v) { return folded(v) >= low; });
      case 9: {
        const std::string pattern =
            std::vector<std::string>{"a*", "*a*", "*k", "?", "*l*n*", "1?", "*"}[static_cast<std::size_t>(pick(7))];
        return with("like " + quoted(pattern), [pattern](const std::string& v) { return fits(pattern, folded(v)); });
      }
      default:
        return {"note has a value", [](const Tree& t) { return t.note.has_value(); }};
    }
  }

  Said species() {
    const std::string name = kSpecies[1 + pick(3)];
    const bool byColumn = pick(2) == 0;
    const std::string column = byColumn ? "species_id.name" : "species.name";
    const auto is = [name](const Tree& t) { return kSpecies[t.species] == name; };
    switch (pick(8)) {
      case 3:
        return {"species = " + name, is};
      case 4:
        return {"Species_ID is not " + name, [is](const Tree& t) { return !is(t); }};
      case 5:
        return {"species_id " + name.substr(1), [name](const Tree& t) {
                  return std::string(kSpecies[t.species]).find(name.substr(1)) != std::string::npos;
                }};
      case 6:
        return {"species_id in (" + name + ", 2, no value)", [is](const Tree& t) { return is(t) || t.species == 2; }};
      case 7:
        return {"species.name not in (" + name + ", no value)", [is](const Tree& t) { return !is(t); }};
      case 0:
        return {column + " = " + name, [name](const Tree& t) { return kSpecies[t.species] == name; }};
      case 1:
        return {column + " is not " + name, [name](const Tree& t) { return kSpecies[t.species] != name; }};
      default:
        return {column + " contains L",
                [](const Tree& t) { return std::string(kSpecies[t.species]).find('l') != std::string::npos; }};
    }
  }

  Said pointing() {
    const int n = pick(3);
    const std::string number = std::to_string(n);
    switch (pick(9)) {
      case 5:
        return {"number of inspection is " + number + " or more", [n](const Tree& t) { return t.inspections >= n; }};
      case 6:
        return {"number of inspection where (grade is sound) is not " + number,
                [n](const Tree& t) { return t.sound != n; }};
      case 7:
        // The first is in 2020, the second in 2021.
        return {"any inspection where inspected_on after 2020", [](const Tree& t) { return t.inspections > 1; }};
      case 8:
        return {"no inspection where (inspected_on 2020 and grade has a value)",
                [](const Tree& t) { return t.inspections == 0; }};
      case 0:
        return {"no photo", [](const Tree& t) { return t.photos == 0; }};
      case 1:
        return {"any inspection where (grade = sound)", [](const Tree& t) { return t.sound > 0; }};
      case 2:
        return {"no inspection where (grade is not sound)", [](const Tree& t) { return t.inspections == t.sound; }};
      case 3:
        return {"count of inspection >= " + number, [n](const Tree& t) { return t.inspections >= n; }};
      default:
        return {"count of photo < " + number, [n](const Tree& t) { return t.photos < n; }};
    }
  }

  Said otherColumn() {
    if (pick(2) == 0) {
      return {"condition > [species_id]", [](const Tree& t) { return t.condition && *t.condition > t.species; }};
    }
    return {"condition is not [species_id]", [](const Tree& t) { return !t.condition || *t.condition != t.species; }};
  }

  std::mt19937 random_;
};

class ConditionOracleTest : public EngineTest {
 protected:
  ConditionOracleTest() {
    db.run("DELETE FROM inspection; DELETE FROM photo; DELETE FROM tree");
    std::mt19937 random(4);
    const auto pick = [&](int count) { return static_cast<int>(random() % static_cast<unsigned>(count)); };
    int photo = 1;
    for (int id = 1; id <= 60; ++id) {
      Tree t;
      t.id = id;
      t.species = 1 + pick(3);
      if (pick(6) != 0) t.condition = pick(6);
      if (pick(6) != 0) t.height = pick(24);
      if (pick(6) != 0) t.note = kNotes[static_cast<std::size_t>(pick(static_cast<int>(kNotes.size())))];
      t.inspections = pick(3);
      t.photos = pick(3);
      insert(t);
      for (int i = 0; i < t.inspections; ++i) {
        const bool sound = pick(2) == 0;
        t.sound += sound ? 1 : 0;
        db.run("INSERT INTO inspection VALUES (" + std::to_string(id) + ", '202" + std::to_string(i) + "-03-02', '" +
               (sound ? "sound" : "poor") + "')");
      }
      for (int i = 0; i < t.photos; ++i) {
        db.run("INSERT INTO photo VALUES (" + std::to_string(photo++) + ", " + std::to_string(id) + ", NULL)");
      }
      trees_.push_back(t);
    }
  }

  void insert(const Tree& t) const {
    std::string note = "NULL";
    if (t.note) {
      note = quoted(*t.note);
      // A backslash is itself everywhere but on MariaDB.
      if (GetParam() == Engine::MariaDb) {
        for (std::size_t at = note.find('\\'); at != std::string::npos; at = note.find('\\', at + 2))
          note.insert(at, "\\");
      }
    }
    db.run("INSERT INTO tree (tree_id, tag, species_id, condition, height, note) VALUES (" + std::to_string(t.id) +
           ", 'T" + std::to_string(t.id) + "', " + std::to_string(t.species) + ", " +
           (t.condition ? std::to_string(*t.condition) : "NULL") + ", " +
           (t.height ? std::to_string(*t.height / 4.0) : "NULL") + ", " + note + ")");
  }

  std::string show(const Scope& scope) {
    std::vector<ScopeProblem> problems;
    const auto read = readScope(scope, {&db.catalogue(), {}}, problems);
    if (!read || !problems.empty()) return !read ? read.error().text() : problems.front().error.text();
    Query query;
    query.table = read->table;
    query.columns = {"tree_id"};
    query.where = read->where();
    query.order = read->order;
    std::string out;
    Progress progress;
    const Status status = db.session().select(
        query,
        [&](ValueTuple&& row) {
          out += canonicalText(row[0]) + " ";
          return true;
        },
        progress);
    return status ? out : status.error().text();
  }

  TestDatabase db{smallRegister(GetParam()), GetParam()};
  std::vector<Tree> trees_;
};
ITERANDUM_ON_ALL_ENGINES(ConditionOracleTest);

TEST_P(ConditionOracleTest, RandomConditionsFindWhatTheySay) {
  Speaker speaker(11);
  for (int round = 0; round < 400; ++round) {
    const Said said = speaker.condition(3);
    std::string expected;
    for (const Tree& t : trees_) expected += said.holds(t) ? std::to_string(t.id) + " " : "";
    ASSERT_EQ(expected, show({"tree", {{"", said.text}}, {}, {}})) << said.text;
  }
}

// The core alone, told what the records hold, says the same of each.
TEST_P(ConditionOracleTest, TheCoreTellsTheSameOfEachRecord) {
  const Table& tree = *db.catalogue().find({"", "tree"});
  const ConditionContext context{&db.catalogue(), {}};
  Speaker speaker(12);
  for (int round = 0; round < (GetParam() == Engine::Sqlite ? 2000 : 400); ++round) {
    const Said said = speaker.condition(3);
    const auto condition = parseCondition(tree, said.text, context);
    ASSERT_TRUE(condition.has_value()) << said.text << ": " << condition.error().text();
    RecordNeeds needs;
    const auto check = ConditionCheck::make(tree, *condition, needs);
    ASSERT_TRUE(check.has_value()) << check.error().text();
    std::string expected;
    for (const Tree& t : trees_) expected += said.holds(t) ? std::to_string(t.id) + " " : "";
    std::string told;
    for (const KnownTree& known : readTrees(db, tree, needs)) {
      told += check->holds({known.columns, known.facts, 1}) ? known.id + " " : "";
    }
    ASSERT_EQ(expected, told) << said.text;
  }
}

// What the sentence says, read again as a condition, shows the same records.
TEST_P(ConditionOracleTest, RandomSentencesMeanWhatTheyWereMadeOf) {
  const Table& tree = *db.catalogue().find({"", "tree"});
  const ConditionContext context{&db.catalogue(), {}};
  Speaker speaker(13);
  for (int round = 0; round < (GetParam() == Engine::Sqlite ? 10000 : 1000); ++round) {
    const Said said = speaker.condition(3);
    const auto condition = parseCondition(tree, said.text, context);
    ASSERT_TRUE(condition.has_value()) << said.text << ": " << condition.error().text();
    const std::string words = conditionInWords(tree, *condition);
    std::string expected;
    for (const Tree& t : trees_) expected += said.holds(t) ? std::to_string(t.id) + " " : "";
    ASSERT_EQ(expected, show({"tree", {{"", words}}, {}, {}})) << said.text << "\nsaid: " << words;
  }
}

TEST_P(ConditionOracleTest, RandomOrdersPutThemWhereTheySay) {
  using Less = std::function<int(const Tree&, const Tree&)>;
  const auto compare = [](const auto& a, const auto& b) { return a < b ? -1 : (b < a ? 1 : 0); };
  // std::optional puts what has no value first, as the sheet does.
  const std::vector<std::pair<std::string, Less>> columns = {
      {"condition", [&](const Tree& a, const Tree& b) { return compare(a.condition, b.condition); }},
      {"height", [&](const Tree& a, const Tree& b) { return compare(a.height, b.height); }},
      {"species.name",
       [&](const Tree& a, const Tree& b) {
         return compare(std::string(kSpecies[a.species]), std::string(kSpecies[b.species]));
       }},
      {"species_id", [&](const Tree& a, const Tree& b) { return compare(a.species, b.species); }},
      {"tree_id", [&](const Tree& a, const Tree& b) { return compare(a.id, b.id); }}};
  Speaker speaker(12);
  for (int round = 0; round < 120; ++round) {
    std::vector<std::pair<std::string, Less>> chosen = columns;
    std::shuffle(chosen.begin(), chosen.end(), speaker.random());
    chosen.resize(static_cast<std::size_t>(1 + speaker.pick(3)));
    const Said said = speaker.condition(1);
    Scope scope{"tree", {{"", said.text}}, {}, {}};
    for (const auto& [name, less] : chosen) scope.order.push_back({name, speaker.pick(2) == 0});
    std::vector<Tree> wanted;
    std::copy_if(trees_.begin(), trees_.end(), std::back_inserter(wanted), said.holds);
    std::sort(wanted.begin(), wanted.end(), [&](const Tree& a, const Tree& b) {
      for (std::size_t c = 0; c < chosen.size(); ++c) {
        const int order = chosen[c].second(a, b);
        if (order != 0) return (order < 0) != scope.order[c].descending;
      }
      return a.id < b.id;
    });
    std::string expected;
    for (const Tree& t : wanted) expected += std::to_string(t.id) + " ";
    ASSERT_EQ(expected, show(scope)) << said.text << " by " << scopeToJson("", scope);
  }
}

}  // namespace
}  // namespace iterandum::test
