// Where engines would understand a condition in their own way: collations, values that are not of their column's type,
// letters with more than one small form, moments in several forms, and the end of the calendar.
#include "core/scope/column_path.h"
#include "core/scope/condition_text.h"
#include "core/scope/scope.h"

#include "support/test_database.h"

namespace iterandum::test {
namespace {

// The first column of the records that fit, or the error.
std::string shown(TestDatabase& db, const char* name, const std::string& text, const std::string& order = {}) {
  using namespace std::chrono;
  const Table& table = *db.catalogue().find({"", name});
  const auto condition = parseCondition(table, text, {&db.catalogue(), sys_days(2026y / November / 26)});
  if (!condition) return condition.error().text();
  Query query;
  query.table = &table;
  query.columns = {table.columns[0].name};
  query.where = *condition;
  query.order = {{order.empty() ? table.columns[0].name : order, false, {}, !order.empty()}};
  std::string out;
  Progress progress;
  const Status status = db.session().select(
      query,
      [&](ValueTuple&& row) {
        out += (out.empty() ? "" : " ") + canonicalText(row[0]);
        return true;
      },
      progress);
  return status ? out : status.error().text();
}

class ConditionTrapsTest : public EngineTest {};
ITERANDUM_ON_ALL_ENGINES(ConditionTrapsTest);

TEST_P(ConditionTrapsTest, LettersHaveOneSmallForm) {
  TestDatabase db(
      "CREATE TABLE place (id INTEGER PRIMARY KEY, name VARCHAR(40));"
      "INSERT INTO place VALUES (1, 'ΟΔΟΣ'), (2, 'οδος'), (3, 'ΟΔΟΣ ΜΙΑ'), (4, 'İstanbul'), (5, 'ISTANBUL'),"
      "(6, 'Straße'), (7, 'ÅNGSTRÖM')",
      GetParam());
  const auto places = [&](const std::string& text) { return shown(db, "place", text); };
  EXPECT_EQ("1 2 3", places("name contains οδος"));
  EXPECT_EQ("1 2 3", places("name contains ΟΔΟΣ"));
  EXPECT_EQ("1 2 3", places("name starts οδοσ"));
  EXPECT_EQ("1 2", places("name ends ς"));
  EXPECT_EQ("1 2", places("name like ?δο?"));
  EXPECT_EQ("4 5", places("name istan"));
  EXPECT_EQ("4 5", places("name like istanbul"));
  EXPECT_EQ("4 5", places("name like ?stanbul")) << "one letter is one letter";
  EXPECT_EQ("6", places("name straß"));
  EXPECT_EQ("", places("name STRASS"));
  EXPECT_EQ("7", places("name ångström"));
  EXPECT_EQ("1 2 3", places("name >= οδοσ and name < οδοσσ"));
}

TEST_P(ConditionTrapsTest, ForEverIsPartOfEveryStretchThatReachesIt) {
  const std::string moment = GetParam() == Engine::MariaDb ? "DATETIME(6)" : "TIMESTAMP";
  TestDatabase db("CREATE TABLE lease (id INTEGER PRIMARY KEY, day DATE, moment " + moment +
                      ");"
                      "INSERT INTO lease VALUES (1, '2026-11-26', '2026-11-26 10:00:00'), (2, '9999-12-31',"
                      "'9999-12-31 23:59:59'), (3, '9999-12-31', '9999-12-31 00:00:00')",
                  GetParam());
  const auto leases = [&](const std::string& text) { return shown(db, "lease", text); };
  EXPECT_EQ("2 3", leases("day 9999"));
  EXPECT_EQ("2 3", leases("day = 9999-12"));
  EXPECT_EQ("2 3", leases("day 9999-12-31"));
  EXPECT_EQ("1 2 3", leases("day <= 9999"));
  EXPECT_EQ("1", leases("day not 9999"));
  EXPECT_EQ("", leases("day > 9999"));
  EXPECT_EQ("1 2 3", leases("day between 2026 and 9999"));
  EXPECT_EQ("2 3", leases("day next 9000 years"));
  EXPECT_EQ("2 3", leases("moment 9999"));
  EXPECT_EQ("2 3", leases("moment 9999-12-31"));
  EXPECT_EQ("1 2 3", leases("moment <= 9999-12"));
  EXPECT_EQ("", leases("moment > 9999"));
  EXPECT_EQ("2 3", leases("moment after 2026"));
  EXPECT_EQ("1 2 3", leases("moment in (2026, 9999)"));
  EXPECT_EQ("1", leases("moment last 3000 years")) << "from the first year there is";
  EXPECT_THAT(leases("day = 3000 years ago"), ::testing::HasSubstr("a date like 2026-11-25 is wanted in day"));
}

TEST_P(ConditionTrapsTest, EqualIsByteForByteUnderEveryCollation) {
  const char* const columns[] = {
      "name TEXT COLLATE NOCASE",
      "name TEXT COLLATE loose",
      "name VARCHAR(40) CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci",
  };
  const std::string before =
      GetParam() == Engine::PostgreSql
          ? "CREATE COLLATION loose (provider = icu, locale = 'und-u-ks-level1', deterministic = false);"
          : "";
  TestDatabase db(
      before + "CREATE TABLE person (id INTEGER PRIMARY KEY, " + columns[static_cast<int>(GetParam())] +
          ", motto VARCHAR(40));"
          "INSERT INTO person VALUES (1, 'Tom', 'tom'), (2, 'tom', 'tom'), (3, 'TÖM', 'töm'), (4, NULL, 'Tom')",
      GetParam());
  const auto people = [&](const std::string& text) { return shown(db, "person", text); };
  EXPECT_EQ("1", people("name = Tom"));
  EXPECT_EQ("1", people("name 'Tom'"));
  EXPECT_EQ("2 3 4", people("name != Tom"));
  EXPECT_EQ("1 3", people("name in (Tom, TÖM, TOM)"));
  EXPECT_EQ("2 4", people("name not in (Tom, TÖM)"));
  EXPECT_EQ("2", people("name = [motto]"));
  EXPECT_EQ("1 3 4", people("name != [motto]"));
  EXPECT_EQ("3", people("name > [motto] or name contains exactly Ö"));
  EXPECT_EQ("1 2", people("name < n or name tom")) << "in small letters, whatever the collation";
}

TEST_P(ConditionTrapsTest, EqualIsByteForByteForTypesThatFoldCase) {
  if (GetParam() != Engine::PostgreSql) return;  // no such types elsewhere
  TestDatabase db(
      "CREATE EXTENSION citext; CREATE TABLE person (id INTEGER PRIMARY KEY, name citext, code CHAR(5));"
      "INSERT INTO person VALUES (1, 'Tom', 'ab'), (2, 'tom', 'AB'), (3, NULL, NULL)",
      GetParam());
  EXPECT_EQ("1", shown(db, "person", "name = Tom"));
  EXPECT_EQ("2 3", shown(db, "person", "name != Tom"));
  EXPECT_EQ("2", shown(db, "person", "name in (tom, TOM)"));
  EXPECT_EQ("1 2", shown(db, "person", "name TO"));
  EXPECT_EQ("1 2", shown(db, "person", "name < tomb"));
  EXPECT_EQ("1", shown(db, "person", "code = ab")) << "the blanks that fill it up are no part of it";
  EXPECT_EQ("1 2", shown(db, "person", "code ends b"));
}

TEST_P(ConditionTrapsTest, BothReferencesOfOneTablePointHere) {
  TestDatabase db(
      "CREATE TABLE tower (id INTEGER PRIMARY KEY, name VARCHAR(20));"
      "CREATE TABLE move (id INTEGER PRIMARY KEY, source_id INTEGER, goal_id INTEGER,"
      "  CONSTRAINT from_tower FOREIGN KEY (source_id) REFERENCES tower (id),"
      "  CONSTRAINT to_tower FOREIGN KEY (goal_id) REFERENCES tower (id));"
      "INSERT INTO tower VALUES (1, 'Mere'), (2, 'Ash'), (3, 'Elm'), (4, 'Oak');"
      "INSERT INTO move VALUES (1, 1, 2), (2, 3, 3), (3, 1, NULL)",
      GetParam());
  const auto towers = [&](const std::string& text) { return shown(db, "tower", text); };
  EXPECT_EQ("4", towers("no move"));
  EXPECT_EQ("1 2 3", towers("any move"));
  EXPECT_EQ("2 4", towers("no move.source_id"));
  EXPECT_EQ("2 3", towers("any move.to_tower"));
  EXPECT_EQ("1", towers("count of move = 2")) << "a move from here to here is one";
  EXPECT_EQ("2 3", towers("count of MOVE = 1"));
  EXPECT_EQ("2", towers("any move where to_tower.name = Ash and no move.from_tower"));
  EXPECT_EQ("1 3", shown(db, "move", "from_tower.name = Mere"));
  EXPECT_EQ("1 3", shown(db, "move", "from_tower Mer"));
  EXPECT_THAT(shown(db, "move", "tower.name = Mere"),
              ::testing::HasSubstr("several point there; name it by its column"));
}

TEST_P(ConditionTrapsTest, ALetterThatTheColumnCannotHoldIsInNoRecord) {
  if (GetParam() != Engine::MariaDb) return;  // one character set for all elsewhere
  TestDatabase db(
      "CREATE TABLE place (id INTEGER PRIMARY KEY, name VARCHAR(20) CHARACTER SET latin1);"
      "INSERT INTO place VALUES (1, 'é'), (2, 'E'), (3, '?'), (4, NULL)",
      GetParam());
  EXPECT_EQ("", shown(db, "place", "name = 😀"));
  EXPECT_EQ("1 2 3 4", shown(db, "place", "name != 😀"));
  EXPECT_EQ("1 3", shown(db, "place", "name in (😀, é, '?')"));
  EXPECT_EQ("1", shown(db, "place", "name É"));
  EXPECT_EQ("", shown(db, "place", "name contains 😀"));
}

TEST_P(ConditionTrapsTest, AListMayBeLong) {
  TestDatabase db(
      "CREATE TABLE tag (id INTEGER PRIMARY KEY, name VARCHAR(20), size DECIMAL(8, 2));"
      "INSERT INTO tag VALUES (1, 'QH-7', 7.5), (2, 'qh-7', 8), (3, 'QH-99999', 99999.25), (4, NULL, NULL)",
      GetParam());
  std::string names = "name in (no value";
  std::string sizes = "size not in (7.50";
  for (int i = 0; i < 70000; ++i) {
    names += ", QH-" + std::to_string(i);
    if (i < 9000) sizes += ", " + std::to_string(i);
  }
  EXPECT_EQ("1 4", shown(db, "tag", names + ")"));
  EXPECT_EQ("3 4", shown(db, "tag", sizes + ")"));
}

TEST_P(ConditionTrapsTest, NamesAreTakenInAnyCaseWhereOneFits) {
  // SQLite and MariaDB take no two columns that differ by case alone.
  const std::string twins = GetParam() == Engine::PostgreSql ? ", \"Tag\" INTEGER, \"TAG\" INTEGER" : ", tag INTEGER";
  TestDatabase db("CREATE TABLE tree (id INTEGER PRIMARY KEY, girth INTEGER" + twins + ")", GetParam());
  db.run("INSERT INTO tree (id, girth) VALUES (1, 5), (2, 6)");
  EXPECT_EQ("1", shown(db, "tree", "GIRTH = 5"));
  if (GetParam() != Engine::PostgreSql) return;
  EXPECT_EQ("", shown(db, "tree", "Tag = 5"));
  EXPECT_THAT(shown(db, "tree", "tag = 5"), ::testing::HasSubstr("'tag' is no column of tree"));
}

TEST_P(ConditionTrapsTest, OddNamesCanBeSaidAndAreSaidSo) {
  const char q = GetParam() == Engine::MariaDb ? '`' : '"';
  const auto odd = [&](const std::string& name) { return q + name + q; };
  TestDatabase db("CREATE TABLE " + odd("a.b c") + " (id INTEGER PRIMARY KEY, " + odd("or") + " VARCHAR(20));" +
                      "CREATE TABLE t (id INTEGER PRIMARY KEY, " + odd("x y") + " INTEGER, " + odd("no") +
                      " INTEGER, " + odd("ref 1") + " INTEGER, FOREIGN KEY (" + odd("ref 1") + ") REFERENCES " +
                      odd("a.b c") + "(id));" + "INSERT INTO " + odd("a.b c") +
                      " VALUES (1, 'and'), (2, 'x or y');"
                      "INSERT INTO t VALUES (1, 5, 1, 1), (2, 6, 0, 2), (3, 5, NULL, NULL)",
                  GetParam());
  const Table& t = *db.catalogue().find({"", "t"});
  for (const auto& [text, expected] : std::vector<std::pair<std::string, std::string>>{
           {"\"x y\" = 5", "1 3"},
           {"\"no\" = 1 and [x y] > 4", "1"},
           {"\"ref 1\".\"or\" = 'x or y'", "2"},
           {"\"a.b c\".\"or\" in ('and', no value)", "1 3"},
           {"\"ref 1\" contains 'x or'", "2"},
           {"\"x y\" > [id] and \"ref 1\".\"or\" does not contain 'and'", "2 3"},
       }) {
    const auto condition = parseCondition(t, text, {&db.catalogue(), {}});
    ASSERT_TRUE(condition.has_value()) << text << ": " << condition.error().text();
    EXPECT_EQ(expected, shown(db, "t", text)) << text;
    EXPECT_EQ(expected, shown(db, "t", conditionInWords(t, *condition))) << conditionInWords(t, *condition);
  }
  EXPECT_EQ("1", shown(db, "a.b c", "any t where \"no\" = 1"));
  EXPECT_EQ("1 2", shown(db, "a.b c", "any t.\"ref 1\""));
}

// --- SQLite, which keeps whatever it is given ------------------------------------------------------------------------

class SqliteTrapsTest : public ::testing::Test {
 protected:
  TestDatabase db{
      "CREATE TABLE t (id INTEGER PRIMARY KEY, steps INTEGER, built DATE, opened TIMESTAMP, at TIME);"
      "CREATE INDEX t_opened ON t (opened);"
      "INSERT INTO t VALUES (1, 3, '2025-03-02', '2025-03-02 10:00:00', '09:30');"
      "INSERT INTO t VALUES (2, 'many', 'soon', '2025-03-02T10:00', '09:30:00');"
      "INSERT INTO t VALUES (3, '', 20250302, '2025-03-02T12:00:00+02:00', 'noon');"
      "INSERT INTO t VALUES (4, NULL, NULL, 'later', '10:00');"
      "INSERT INTO t VALUES (5, 200, '2025-03-03', '2025-03-01T23:30:00-02:00', 1000)"};
  std::string of(const std::string& text) { return shown(db, "t", text); }
};

TEST_F(SqliteTrapsTest, WhatIsNoNumberHasNoPlaceInTheOrder) {
  EXPECT_EQ("5", of("steps > 100"));
  EXPECT_EQ("1 5", of("steps > 0"));
  EXPECT_EQ("1 5", of("steps 0 .."));
  EXPECT_EQ("2 3 4", of("steps not between 0 and 1000"));
  EXPECT_EQ("1 5", of("steps >= [id]"));
  EXPECT_EQ("4", of("steps no value"));
  EXPECT_EQ("3", of("steps = ''"));
  EXPECT_EQ("3", of("steps is empty text"));
  EXPECT_EQ("2", of("steps = 'many'"));
  EXPECT_EQ("2", of("steps contains MAN"));
  EXPECT_EQ("2 3", of("steps in ('many', '')"));
  EXPECT_THAT(of("steps many"), ::testing::HasSubstr("a whole number is wanted in steps, not 'many'"));
  EXPECT_THAT(of("steps not many"), ::testing::HasSubstr("a whole number is wanted"));
  EXPECT_THAT(of("steps > 'many'"), ::testing::HasSubstr("a whole number is wanted"));
}

TEST_F(SqliteTrapsTest, WhatIsNoDayIsOnNeitherSideOfAny) {
  EXPECT_EQ("1 5", of("built > 2024"));
  EXPECT_EQ("", of("built < 2024"));
  EXPECT_EQ("1", of("built < 2025-03-03"));
  EXPECT_EQ("1 5", of("built 2025"));
  EXPECT_EQ("2 3 4", of("built not 2025"));
  EXPECT_EQ("2", of("built = 'soon'"));
  EXPECT_EQ("3", of("built = '20250302'"));
  EXPECT_THAT(of("built = soon"), ::testing::HasSubstr("a date like 2026-11-25 is wanted in built, not 'soon'"));
  EXPECT_THAT(of("built > 5"), ::testing::HasSubstr("a date like 2026-11-25 is wanted in built"));
  EXPECT_THAT(of("built = 2025-02-30"), ::testing::HasSubstr("a date like"));
}

TEST_F(SqliteTrapsTest, MomentsAreTheSameInWhateverForm) {
  EXPECT_EQ("1 2 3", of("opened = 2025-03-02 10:00"));
  EXPECT_EQ("1 2 3", of("opened = 2025-03-02T10:00:00Z"));
  EXPECT_EQ("1 2 3", of("opened in (2025-03-02 10:00:00, 2020-01-01 00:00)"));
  EXPECT_EQ("1 2 3", of("opened > 2025-03-02 09:59:59"));
  EXPECT_EQ("1 2 3 5", of("opened 2025-03-02")) << "-02:00 puts it into that day";
  EXPECT_EQ("", of("opened 2025-03-01"));
  EXPECT_EQ("5", of("opened <= 2025-03-02 02:00"));
  EXPECT_EQ("4", of("opened = 'later'"));
  EXPECT_EQ("4 5", of("opened not between 2025-03-02 10:00 and 2025-03-02 11:00"));
  EXPECT_EQ("1 2", of("at = 09:30"));
  EXPECT_EQ("1 2 4", of("at >= 09:00"));
  EXPECT_EQ("1 2", of("at before 10:00"));
  EXPECT_THAT(of("opened = soon"), ::testing::HasSubstr("a date and time like"));
}

TEST_F(SqliteTrapsTest, AnOrderIsTheSameInEveryEncoding) {
  for (const char* encoding : {"UTF-8", "UTF-16le", "UTF-16be"}) {
    TestDatabase texts(
        std::string("PRAGMA encoding = '") + encoding +
        "'; CREATE TABLE t (id INTEGER PRIMARY KEY, name TEXT);"
        "INSERT INTO t VALUES (1, 'Ā'), (2, 'b'), (3, 'Ω 10'), (4, 'Ω 9'), (5, 'a'), (6, '𝄞'), (7, 'ﬀ')");
    EXPECT_EQ("2 5", shown(texts, "t", "name < c")) << encoding;
    EXPECT_EQ("6 7", shown(texts, "t", "name > 'ω ω'")) << encoding;
    EXPECT_EQ("7", shown(texts, "t", "name comes after 'ω ω' and name < '𝄞'")) << encoding;
    EXPECT_EQ("5 2 1 4 3 7 6", shown(texts, "t", "name has a value", "name")) << encoding;
    EXPECT_EQ("3 4", shown(texts, "t", "name Ω")) << encoding;
    EXPECT_EQ("3", shown(texts, "t", "name like '* 1?'")) << encoding;
  }
}

TEST_F(SqliteTrapsTest, ReferencesGoByTheirOwnNames) {
  TestDatabase named{
      "CREATE TABLE p (id INTEGER PRIMARY KEY, name TEXT, a INTEGER, UNIQUE (id, a));"
      "CREATE TABLE c (id INTEGER PRIMARY KEY, x INTEGER CONSTRAINT by_x REFERENCES p (id),"
      "  y INTEGER CONSTRAINT small CHECK (y < 99) REFERENCES p, z INTEGER, w INTEGER,"
      "  CONSTRAINT \"By Z\" FOREIGN KEY (z) REFERENCES p (id), CONSTRAINT pair UNIQUE (x, y),"
      "  FOREIGN KEY (w) REFERENCES p (id), CONSTRAINT both FOREIGN KEY (x, w) REFERENCES p (id, a))"};
  std::map<std::string, std::vector<std::string>> names;
  const Table& c = *named.catalogue().find({"", "c"});
  for (const Reference& r : c.references) {
    if (!r.name.starts_with("reference ")) names[r.name] = c.columnNames(r.columns);
  }
  using Columns = std::vector<std::string>;
  EXPECT_EQ((std::map<std::string, Columns>{{"by_x", {"x"}}, {"By Z", {"z"}}, {"both", {"x", "w"}}}), names);
}

}  // namespace
}  // namespace iterandum::test
