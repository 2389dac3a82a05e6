// The catalogue of SQLite files as they are out there.
#include "support/test_database.h"

namespace iterandum::test {
namespace {

class CatalogueTest : public ::testing::Test {
 protected:
  const Table& table(const std::string& name) {
    const Table* t = db.catalogue().find({"", name});
    EXPECT_NE(nullptr, t) << name;
    return *t;
  }
  std::string identity(const std::string& name) {
    static const char* const kinds[] = {"none", "primary", "unique", "rowid", "whole"};
    const Identity& i = table(name).identity;
    std::string out = kinds[static_cast<int>(i.kind)];
    for (const std::string& c : i.columns) out += " " + c;
    return out;
  }
  TestDatabase db;
};

TEST_F(CatalogueTest, HowRecordsAreNamed) {
  db.run(R"sql(CREATE TABLE a (id INTEGER PRIMARY KEY, x);
    CREATE TABLE b (x TEXT, y INT, PRIMARY KEY (y, x)) WITHOUT ROWID;
    CREATE TABLE c (x TEXT NOT NULL, y TEXT, UNIQUE (x));
    CREATE TABLE d (x TEXT UNIQUE, y);
    CREATE TABLE e (rowid TEXT, x);
    CREATE TABLE f (rowid, _rowid_, oid);
    CREATE TABLE g (x TEXT NOT NULL); CREATE UNIQUE INDEX g1 ON g (x) WHERE x <> ''; CREATE UNIQUE INDEX g2 ON g (lower(x));
    CREATE TABLE h (x TEXT PRIMARY KEY);
    CREATE TABLE i (x INT PRIMARY KEY DESC))sql");
  EXPECT_EQ("primary id", identity("a"));
  EXPECT_EQ("primary y x", identity("b"));
  EXPECT_EQ("unique x", identity("c"));
  EXPECT_EQ("rowid rowid", identity("d")) << "a unique column that may be NULL names nothing";
  EXPECT_EQ("rowid _rowid_", identity("e"));
  EXPECT_EQ("whole rowid _rowid_ oid", identity("f"));
  EXPECT_EQ("rowid rowid", identity("g"));
  EXPECT_TRUE(table("h").primaryKeyMayBeNull);
  EXPECT_FALSE(table("a").primaryKeyMayBeNull);
  EXPECT_TRUE(table("a").columns[0].generatedKey);
  EXPECT_FALSE(table("i").columns[0].generatedKey);
}

// Nothing is asked about a table that its own text answers, in whatever letters that is written.
TEST_F(CatalogueTest, WhatATablesTextSaysInSmallLetters) {
  db.run(R"sql(create table p (id integer primary key, plain text, folded text collate nocase);
    create table c (id integer primary key, p_id integer references p);
    create table u (id integer primary key, code text unique);
    create table late (id integer primary key, code text); create unique index late_code on late (code))sql");
  EXPECT_TRUE(table("p").column("plain")->foundExactly);
  EXPECT_FALSE(table("p").column("folded")->foundExactly);
  ASSERT_EQ(1U, table("c").references.size());
  EXPECT_EQ("p", table("c").references[0].target.name);
  EXPECT_EQ(std::vector<std::string>{"id"}, table("c").references[0].targetColumns);
  EXPECT_TRUE(table("p").references.empty());
  EXPECT_EQ(1U, table("p").keys.size());
  EXPECT_EQ(2U, table("u").keys.size());
  EXPECT_EQ(2U, table("late").keys.size());
  EXPECT_TRUE(table("late").canFindBy({1}));
}

TEST_F(CatalogueTest, RulesAreUnderstoodWhereTheyArePlain) {
  db.run(R"sql(CREATE TABLE t (
    grade TEXT CHECK (grade IN ('a', 'b''c')), n INTEGER CONSTRAINT few CHECK (n BETWEEN 0 AND 5), p INTEGER CHECK (p > 0 AND p < 10),
    m INTEGER CHECK (m IS NULL OR m >= -3), code TEXT CHECK (length(code) <= 4), r REAL CHECK (r > 0), "odd [name" INT CHECK ("odd [name" <= 7), /* CHECK (x) */
    CHECK (n < p OR m = 1)))sql");
  const Table& t = table("t");
  EXPECT_EQ(2U, t.column("grade")->allowed.size());
  EXPECT_EQ(Value::text("b'c"), t.column("grade")->allowed[1]);
  EXPECT_EQ(Value::integer(5), t.column("n")->maximum);
  EXPECT_EQ(Value::integer(1), t.column("p")->minimum);
  EXPECT_EQ(Value::integer(9), t.column("p")->maximum);
  EXPECT_EQ(Value::integer(-3), t.column("m")->minimum);
  EXPECT_EQ(4, t.column("code")->maxLength);
  EXPECT_FALSE(t.column("r")->minimum.has_value()) << "above 0 is no bound for numbers that are not whole";
  EXPECT_EQ(Value::integer(7), t.column("odd [name")->maximum);
  ASSERT_EQ(8U, t.checks.size());
  EXPECT_EQ("few", t.checks[1].name);
  EXPECT_FALSE(t.checks[5].understood);
  EXPECT_FALSE(t.checks[7].understood);
}

TEST_F(CatalogueTest, TablesThatCannotBeEditedSayWhy) {
  db.run(
      "CREATE TABLE plain (x INT); CREATE VIEW v AS SELECT x FROM plain; CREATE VIEW gone AS SELECT y FROM nowhere;"
      "CREATE VIRTUAL TABLE words USING fts5(text); CREATE TABLE auto (id INTEGER PRIMARY KEY AUTOINCREMENT);"
      "CREATE TABLE g (a INT, b INT AS (a + 1) STORED, c INT AS (a + 2))");
  EXPECT_THAT(table("v").notEditable, ::testing::HasSubstr("it is a view"));
  EXPECT_THAT(table("gone").unusable, ::testing::HasSubstr("nowhere"));
  EXPECT_THAT(table("words").notEditable, ::testing::HasSubstr("virtual table"));
  EXPECT_THAT(table("words_data").notEditable, ::testing::HasSubstr("belongs to a virtual table"));
  EXPECT_EQ(TableKind::Internal, table("sqlite_sequence").kind);
  EXPECT_EQ("the database computes it", table("g").columns[1].notEditable);
  EXPECT_EQ("the database computes it", table("g").columns[2].notEditable);
  EXPECT_EQ("", table("plain").notEditable);
}

TEST_F(CatalogueTest, AMissingModuleOrCollationSpoilsItsOwnTableOnly) {
  db.run(
      "CREATE TABLE plain (x TEXT); INSERT INTO plain VALUES ('a'); CREATE TABLE sorted (x TEXT); PRAGMA "
      "writable_schema = ON;"
      "INSERT INTO sqlite_schema VALUES ('table', 'strange', 'strange', 0, 'CREATE VIRTUAL TABLE strange USING "
      "no_such_module(x)');"
      "UPDATE sqlite_schema SET sql = 'CREATE TABLE sorted (x TEXT COLLATE klingon UNIQUE)' WHERE name = 'nothing'; "
      "PRAGMA writable_schema = OFF");
  db.forget();
  EXPECT_THAT(table("strange").unusable, ::testing::HasSubstr("no_such_module"));
  EXPECT_EQ("applied", db.apply("edit plain rowid=1 x:\"a\"->\"b\""));
}

TEST_F(CatalogueTest, OddNamesWork) {
  db.run(
      "CREATE TABLE \"odd.name \"\"x\"\" [y]\" (\"select\" INTEGER PRIMARY KEY, \"a b\" TEXT, \"日本\" TEXT, \"a'b\" "
      "INT); INSERT INTO \"odd.name \"\"x\"\" [y]\" VALUES (1, 'x', 'y', 3)");
  const Table& t = table("odd.name \"x\" [y]");
  EXPECT_EQ("\"odd.name \"\"x\"\" [y]\"", displayName(t.name));
  EXPECT_EQ(t.name, *parseTableName(displayName(t.name)));
  ChangeList changes;
  Change change;
  change.table = t.name;
  change.keyColumns = {"select"};
  change.key = {Value::integer(1)};
  change.cells = {{"a b", true, Value::text("x"), Value::text("z")},
                  {"日本", true, Value::text("y"), Value()},
                  {"a'b", true, Value::integer(3), Value::integer(4)}};
  changes.add(change);
  Progress progress;
  const auto result = applyChanges(db.session(), db.catalogue(), changes, {}, progress);
  ASSERT_TRUE(result && result->receipt);
  EXPECT_EQ("1|z|-|4", db.rows("SELECT * FROM \"odd.name \"\"x\"\" [y]\""));
}

TEST_F(CatalogueTest, ReferencesAreResolvedAndMissingTargetsMarked) {
  db.run(
      "CREATE TABLE p (a INT, b INT, PRIMARY KEY (a, b)); CREATE TABLE c (x INT, y INT, z INT REFERENCES nowhere, "
      "FOREIGN KEY (x, y) REFERENCES P ON DELETE SET NULL); INSERT INTO c VALUES (NULL, NULL, NULL)");
  const Table& c = table("c");
  ASSERT_EQ(2U, c.references.size());
  const Reference& whole = c.references[c.references[0].columns.size() == 2 ? 0 : 1];
  EXPECT_EQ("p", whole.target.name) << "names fold case";
  EXPECT_EQ((std::vector<std::string>{"a", "b"}), whole.targetColumns);
  EXPECT_EQ(ReferenceAction::SetNull, whole.onDelete);
  EXPECT_EQ(1U, db.catalogue().referencesTo({"", "p"}).size());
  EXPECT_THAT(db.review("edit c rowid=1 z:null->3"), ::testing::StartsWith("structure-changed 0 c[1]"));
  EXPECT_EQ("applied", db.apply("edit c rowid=1 x:null->3"));
}

TEST_F(CatalogueTest, StrictTablesRefuseWhatDoesNotFit) {
  db.run(
      "CREATE TABLE s (id INTEGER PRIMARY KEY, n INT, t TEXT, b BLOB, a ANY) STRICT; INSERT INTO s VALUES (1, 1, 'x', "
      "x'00', 5)");
  EXPECT_EQ("value-refused 0 s[1].n from=1 to=x\nvalue-refused 0 s[1].b from=AA== to=text",
            db.review("edit s id=1 n:1->\"x\" b:{\"base64\":\"AA==\"}->\"text\""));
  EXPECT_EQ("applied", db.apply("edit s id=1 n:1->\"7\" a:5->\"5\""));
  EXPECT_EQ("7|integer|5|text", db.rows("SELECT n, typeof(n), a, typeof(a) FROM s"));
}

TEST_F(CatalogueTest, AnEmptyFileIsADatabaseWithoutTables) {
  EXPECT_TRUE(db.catalogue().tables().empty());
  EXPECT_EQ("structure-changed 0 tree[1]", db.review("edit tree id=1 x:1->2"));
}

TEST_F(CatalogueTest, TheDefaultSchemaMayBeNamed) {
  db.run("CREATE TABLE t (id INTEGER PRIMARY KEY, x INT); INSERT INTO t VALUES (1, 1)");
  EXPECT_EQ("applied", db.apply("edit main.t id=1 x:1->2"));
  EXPECT_EQ("structure-changed 0 temp.t[1]", db.review("edit temp.t id=1 x:2->3"));
}

TEST_F(CatalogueTest, NamesThatAreNearlyRightAreSuggested) {
  db.run("CREATE TABLE inspection (x)");
  EXPECT_EQ("inspection", db.catalogue().closestName("inspections"));
  EXPECT_EQ("", db.catalogue().closestName("sheep"));
}

// What is learnt from rules is the same on every engine, however it writes them down.
class LearntRulesTest : public EngineTest {};
ITERANDUM_ON_ALL_ENGINES(LearntRulesTest);

TEST_P(LearntRulesTest, BoundsAndListsAreLearntFromRules) {
  TestDatabase db(
      "CREATE TABLE t (grade varchar(8) CHECK (grade IN ('a', 'b''c')), n integer CHECK (n BETWEEN 0 AND 5), "
      "p integer CHECK (p > 0 AND p < 10), m integer CHECK (m IS NULL OR m >= -3), "
      "d decimal(5,2) CHECK (d >= 0.5 AND d <= 80), q integer CHECK (q >= 2 AND q >= 1), "
      "w integer CHECK (w >= 0 OR w = -9), CHECK (n < p OR m = 1))",
      GetParam());
  const Table& t = *db.catalogue().find({"", "t"});
  EXPECT_EQ((std::vector<Value>{Value::text("a"), Value::text("b'c")}), t.column("grade")->allowed);
  EXPECT_EQ(Value::integer(0), t.column("n")->minimum);
  EXPECT_EQ(Value::integer(5), t.column("n")->maximum);
  EXPECT_EQ(Value::integer(1), t.column("p")->minimum);
  EXPECT_EQ(Value::integer(9), t.column("p")->maximum);
  EXPECT_EQ(Value::integer(-3), t.column("m")->minimum);
  EXPECT_EQ(Value::decimal("0.5"), t.column("d")->minimum);
  EXPECT_EQ(Value::integer(2), t.column("q")->minimum) << "the stricter of two bounds";
  EXPECT_FALSE(t.column("w")->minimum.has_value());
  ASSERT_EQ(8U, t.checks.size());
  // MariaDB's usual collation takes 'A' for 'a': there the list is for choosing from, and the rule decides.
  EXPECT_EQ(GetParam() == Engine::MariaDb, t.column("grade")->allowedIsAdvice);
  EXPECT_EQ(GetParam() == Engine::MariaDb ? 5 : 6,
            std::count_if(t.checks.begin(), t.checks.end(), [](const CheckRule& r) { return r.understood; }));
  const auto spans =
      std::find_if(t.checks.begin(), t.checks.end(), [](const CheckRule& r) { return r.columns.size() == 3; });
  ASSERT_NE(t.checks.end(), spans);
  EXPECT_FALSE(spans->understood);
}

class NeighboursTest : public EngineTest {};
ITERANDUM_ON_SERVERS(NeighboursTest);

// A table of the same name elsewhere, with rules and code of its own, lends nothing to this one.
TEST_P(NeighboursTest, LendNothing) {
  const bool maria = GetParam() == Engine::MariaDb;
  TestDatabase db("CREATE TABLE t (id INTEGER PRIMARY KEY, parent INTEGER, n INTEGER)", GetParam());
  const std::string other = "neighbour_of_tests";
  db.run(std::string("DROP ") + (maria ? "DATABASE" : "SCHEMA") + " IF EXISTS " + other + (maria ? "" : " CASCADE"));
  db.run(std::string("CREATE ") + (maria ? "DATABASE " : "SCHEMA ") + other);
  db.run("CREATE TABLE " + other +
         ".t (id INTEGER PRIMARY KEY, parent INTEGER, n INTEGER CHECK (n > 3), more INTEGER, " +
         "UNIQUE (n), FOREIGN KEY (parent) REFERENCES " + other + ".t (id))");
  if (maria) {
    db.run("CREATE TRIGGER " + other + ".counts BEFORE INSERT ON " + other + ".t FOR EACH ROW SET NEW.more = 1");
  }
  db.forget();
  const Table& t = *db.catalogue().find({"", "t"});
  EXPECT_EQ(3U, t.columns.size());
  EXPECT_EQ(1U, t.keys.size());
  EXPECT_TRUE(t.references.empty());
  EXPECT_TRUE(t.checks.empty());
  EXPECT_TRUE(t.triggers.empty());
  db.run(std::string("DROP ") + (maria ? "DATABASE " : "SCHEMA ") + other + (maria ? "" : " CASCADE"));
}

// A domain over a domain is, in the end, the type that it was made of.
TEST_P(NeighboursTest, DomainsOverDomains) {
  if (GetParam() != Engine::PostgreSql) GTEST_SKIP() << "only PostgreSQL has domains";
  TestDatabase db(
      "CREATE DOMAIN grade AS integer CHECK (VALUE < 9); CREATE DOMAIN good_grade AS grade NOT NULL; "
      "CREATE TABLE t (id INTEGER PRIMARY KEY, a grade, b good_grade, c text COLLATE \"C\", d varchar(4)); "
      "COMMENT ON TABLE t IS 'all trees'; COMMENT ON COLUMN t.b IS 'how good'",
      GetParam());
  const Table& t = *db.catalogue().find({"", "t"});
  EXPECT_EQ("all trees", t.comment);
  EXPECT_EQ(TypeClass::Integer, t.column("a")->type);
  EXPECT_TRUE(t.column("a")->nullable);
  EXPECT_EQ(TypeClass::Integer, t.column("b")->type);
  EXPECT_FALSE(t.column("b")->nullable);
  EXPECT_EQ("how good", t.column("b")->comment);
  EXPECT_EQ("", t.column("a")->comment);
  EXPECT_EQ(TypeClass::Text, t.column("c")->type);
  EXPECT_EQ(4, t.column("d")->maxLength);
}

}  // namespace
}  // namespace iterandum::test
