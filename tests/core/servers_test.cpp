// What servers have that files have not: schemas, rights, views, storage that cannot roll back, types of their own.
#include "support/test_database.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;
using ::testing::StartsWith;

bool isAtHand(Engine engine) {
  const std::vector<Engine> all = enginesAtHand();
  return std::find(all.begin(), all.end(), engine) != all.end();
}

class PostgreSqlTest : public ::testing::Test {
 protected:
  void SetUp() override {
    if (!isAtHand(Engine::PostgreSql)) GTEST_SKIP() << "no server";
    db = std::make_unique<TestDatabase>("", Engine::PostgreSql);
  }
  const Table& table(const std::string& name) {
    const Table* t = db->catalogue().find(*parseTableName(name));
    EXPECT_NE(nullptr, t) << name;
    return *t;
  }
  std::unique_ptr<TestDatabase> db;
};

class MariaDbTest : public ::testing::Test {
 protected:
  void SetUp() override {
    if (!isAtHand(Engine::MariaDb)) GTEST_SKIP() << "no server";
    db = std::make_unique<TestDatabase>("", Engine::MariaDb);
  }
  const Table& table(const std::string& name) {
    const Table* t = db->catalogue().find({"", name});
    EXPECT_NE(nullptr, t) << name;
    return *t;
  }
  std::unique_ptr<TestDatabase> db;
};

TEST_F(PostgreSqlTest, SchemasTypesAndKeysAreKnown) {
  db->run(
      "CREATE SCHEMA \"yard book\"; CREATE TYPE mood AS ENUM ('glad', 'sad'); CREATE DOMAIN short AS varchar(4) CHECK "
      "(VALUE <> 'no');"
      "CREATE TABLE \"yard book\".\"odd.name\" (a int, b text NOT NULL, PRIMARY KEY (b, a));"
      "CREATE TABLE kinds (id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY, s serial, m mood, d short, n numeric(6,2) "
      "NOT "
      "NULL DEFAULT 1, c char(3), twice numeric GENERATED ALWAYS AS (n * 2) STORED, tags text[], who \"yard "
      "book\".\"odd.name\");"
      "CREATE TABLE spots (at point, r int4range, UNIQUE (r))");
  EXPECT_EQ((std::vector<std::string>{"b", "a"}), table("\"yard book\".\"odd.name\"").identity.columns);
  const Table& kinds = table("kinds");
  EXPECT_TRUE(kinds.column("id")->generatedKey);
  EXPECT_TRUE(kinds.column("s")->generatedKey);
  EXPECT_EQ((std::vector<Value>{Value::text("glad"), Value::text("sad")}), kinds.column("m")->allowed);
  EXPECT_EQ(4, kinds.column("d")->maxLength);
  EXPECT_EQ(6, kinds.column("n")->mostDigits);
  EXPECT_TRUE(kinds.column("n")->hasDefault);
  EXPECT_TRUE(kinds.column("c")->paddedWithBlanks);
  EXPECT_EQ("the database computes it", kinds.column("twice")->notEditable);
  EXPECT_EQ(Identity::Kind::WholeRecord, table("spots").identity.kind) << "a unique column that may be NULL";
  EXPECT_EQ("applied", db->apply("add kinds m=\"sad\" d=\"yes\" c=\"a\" tags=\"{x,\\\"y,z\\\"}\""));
  EXPECT_EQ("1|sad|yes|1.00|a  |{x,\"y,z\"}",
            db->rows("SELECT id, m::text, d, n::text, c, tags::text FROM kinds WHERE id = 1"));
  EXPECT_EQ("value-refused 0 kinds[1].n from=1 to=1.234\nvalue-refused 0 kinds[1].m from=sad to=so-so",
            db->review("edit kinds id=1 n:\"1.00\"->\"1.234\" m:\"sad\"->\"so-so\""));
  EXPECT_THAT(db->review("edit kinds id=1 d:\"yes\"->\"no\""), StartsWith("value-refused 0 kinds[1]"))
      << "a rule of the domain is the database's own affair";
}

TEST_F(PostgreSqlTest, TheSearchPathAndCommentsAreKnown) {
  db->run(
      "CREATE SCHEMA yard; CREATE TABLE yard.tree (id int PRIMARY KEY, v text); INSERT INTO yard.tree VALUES (1, 'a');"
      "CREATE TABLE public.tree (id int PRIMARY KEY, v text); INSERT INTO public.tree VALUES (1, 'other');"
      "COMMENT ON TABLE yard.tree IS 'trees of the yard'; COMMENT ON COLUMN yard.tree.v IS 'what it is';"
      "DO $$ BEGIN EXECUTE format('ALTER DATABASE %I SET search_path = yard, public', current_database()); END $$");
  EXPECT_EQ("trees of the yard", table("tree").comment);
  EXPECT_EQ("what it is", table("tree").column("v")->comment);
  EXPECT_EQ("applied", db->apply("edit tree id=1 v:\"a\"->\"b\"\nedit public.tree id=1 v:\"other\"->\"c\""));
  EXPECT_EQ("b|c", db->rows("SELECT y.v, p.v FROM yard.tree y, public.tree p"));
}

TEST_F(PostgreSqlTest, ForeignTablesAreEditedWhereTheirServerLetsThem) {
  db->run(
      "CREATE TABLE real (id int, v text); INSERT INTO real VALUES (1, 'a'), (2, 'b');"
      "CREATE EXTENSION file_fdw; CREATE SERVER files FOREIGN DATA WRAPPER file_fdw;"
      "CREATE FOREIGN TABLE listed (a int, b text) SERVER files OPTIONS (program 'echo 1,x', format 'csv');"
      "CREATE EXTENSION postgres_fdw;"
      "DO $$ BEGIN EXECUTE format('CREATE SERVER self FOREIGN DATA WRAPPER postgres_fdw OPTIONS (host ''127.0.0.1'', "
      "port %L, dbname %L)', inet_server_port(), current_database()); END $$;"
      "CREATE USER MAPPING FOR quill SERVER self OPTIONS (user 'quill');"
      "CREATE FOREIGN TABLE far (id int, v text) SERVER self OPTIONS (table_name 'real')");
  EXPECT_THAT(table("listed").notEditable, HasSubstr("foreign table"));
  EXPECT_EQ("", table("far").notEditable);
  EXPECT_EQ("applied", db->apply("edit far id=1 v=\"a\" v:\"a\"->\"c\"\nremove far id=2 v=\"b\" v:\"b\""));
  EXPECT_EQ("1|c", db->rows("SELECT * FROM real"));
}

TEST_F(PostgreSqlTest, ViewsPartitionsAndInheritance) {
  db->run(
      "CREATE TABLE t (id int PRIMARY KEY, x int, y int); INSERT INTO t VALUES (1, 1, 1), (2, 2, 2);"
      "CREATE VIEW simple AS SELECT id, x FROM t WHERE x < 5; CREATE VIEW sums AS SELECT x, count(*) AS n FROM t GROUP "
      "BY x;"
      "CREATE MATERIALIZED VIEW frozen AS SELECT * FROM t;"
      "CREATE TABLE part (k int, v text, PRIMARY KEY (k)) PARTITION BY RANGE (k);"
      "CREATE TABLE part_low PARTITION OF part FOR VALUES FROM (0) TO (10); CREATE TABLE part_high PARTITION OF part "
      "FOR "
      "VALUES FROM (10) TO (20); INSERT INTO part VALUES (1, 'a'), (11, 'b');"
      "CREATE TABLE base (id int PRIMARY KEY, v text); CREATE TABLE derived () INHERITS (base); INSERT INTO base "
      "VALUES (1, "
      "'base'); INSERT INTO derived VALUES (1, 'derived')");
  EXPECT_EQ("", table("simple").notEditable);
  EXPECT_THAT(table("sums").notEditable, HasSubstr("neither its query nor an INSTEAD OF trigger"));
  EXPECT_THAT(table("frozen").notEditable, HasSubstr("materialized view"));
  EXPECT_EQ("applied", db->apply("edit simple id=1 x=1 x:1->3"));
  EXPECT_EQ("3", db->rows("SELECT x FROM t WHERE id = 1"));
  EXPECT_EQ("applied", db->apply("edit part k=1 k:1->12\nedit part k=11 v:\"b\"->\"c\"")) << "into another partition";
  EXPECT_EQ("11|c\n12|a", db->rows("SELECT * FROM part ORDER BY k"));
  EXPECT_EQ("record-ambiguous 0 base[1]", db->review("edit base id=1 v:\"base\"->\"x\""));
}

TEST_F(PostgreSqlTest, RightsPoliciesAndDroppedWritesAreSaid) {
  db->run(
      "DO $$ BEGIN CREATE ROLE clerk LOGIN PASSWORD 'lime tree'; EXCEPTION WHEN OTHERS THEN NULL; END $$;"
      "CREATE TABLE t (id int PRIMARY KEY, open text, shut text); INSERT INTO t VALUES (1, 'a', 'b');"
      "GRANT SELECT ON t TO clerk; GRANT UPDATE (open) ON t TO clerk; CREATE TABLE hidden (id int PRIMARY KEY);"
      "CREATE TABLE mine (id int PRIMARY KEY, owner text); INSERT INTO mine VALUES (1, 'clerk'), (2, 'quill');"
      "ALTER TABLE mine ENABLE ROW LEVEL SECURITY; GRANT ALL ON mine TO clerk; CREATE POLICY own ON mine USING (owner "
      "= "
      "current_user)");
  std::string address = db->address();
  address.replace(address.find("quill@"), 6, "clerk@");
  OpenOptions options;
  options.password = "lime tree";
  auto session = openSession(address, options);
  ASSERT_TRUE(session.has_value()) << session.error().message;
  Progress progress;
  auto catalogue = (*session)->readCatalogue(progress);
  ASSERT_TRUE(catalogue.has_value());
  const Table& t = *catalogue->find({"", "t"});
  EXPECT_EQ("", t.column("open")->notEditable);
  EXPECT_EQ("you have no right to change it", t.column("shut")->notEditable);
  EXPECT_EQ("you have no right to remove its records", t.cannotRemove);
  EXPECT_EQ("you have no right to read its column id", catalogue->find({"", "hidden"})->unusable);
  const auto reviewed = [&](const char* lines) {
    const auto review = reviewChanges(**session, *catalogue, TestDatabase::changes(lines), {}, progress);
    return review ? findingsText(*review) : review.error().message;
  };
  EXPECT_EQ("ready", reviewed("edit t id=1 open:\"a\"->\"c\""));
  EXPECT_EQ("not-editable 0 t[1].shut", reviewed("edit t id=1 shut:\"b\"->\"c\""));
  EXPECT_EQ("record-gone 0 mine[2]", reviewed("edit mine id=2 owner:\"quill\"->\"clerk\"")) << "the policy hides it";
  EXPECT_EQ("not-editable 0 mine[1].owner to=quill", reviewed("edit mine id=1 owner:\"clerk\"->\"quill\""));
}

TEST_F(PostgreSqlTest, ExclusionDeferredAndTriggerRulesAreFound) {
  db->run(
      "CREATE TABLE stay (id int PRIMARY KEY, during int4range, EXCLUDE USING gist (during WITH &&)); INSERT INTO stay "
      "VALUES "
      "(1, '[1,5)'), (2, '[5,9)');"
      "CREATE TABLE seat (id int PRIMARY KEY, no int UNIQUE DEFERRABLE INITIALLY DEFERRED); INSERT INTO seat VALUES "
      "(1, 1), (2, 2);"
      "CREATE TABLE guarded (id int PRIMARY KEY, v int); INSERT INTO guarded VALUES (1, 1), (2, 2), (3, 3);"
      "CREATE FUNCTION watch() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN IF NEW.v = 13 THEN RAISE EXCEPTION "
      "'unlucky'; END "
      "IF; IF NEW.v = 99 THEN RETURN NULL; END IF; RETURN NEW; END $$;"
      "CREATE TRIGGER w BEFORE UPDATE ON guarded FOR EACH ROW EXECUTE FUNCTION watch()");
  EXPECT_THAT(db->review("edit stay id=1 during:\"[1,5)\"->\"[1,7)\""), StartsWith("database-refused 0 stay[1]"));
  EXPECT_EQ("applied", db->apply("edit seat id=1 no:1->2\nedit seat id=2 no:2->1"));
  // A rule that is checked at the end only is told in its own words.
  db->run(
      "CREATE TABLE mirror (no int UNIQUE DEFERRABLE INITIALLY DEFERRED); INSERT INTO mirror VALUES (7);"
      "CREATE FUNCTION mirrored() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN INSERT INTO mirror VALUES (NEW.no); "
      "RETURN NEW; END $$; CREATE TRIGGER m AFTER UPDATE ON seat FOR EACH ROW EXECUTE FUNCTION mirrored()");
  EXPECT_THAT(db->review("edit seat id=1 no:2->7"), StartsWith("duplicate 0 seat[1]"));
  EXPECT_EQ("ready", db->review("edit seat id=1 no:2->8"));
  const std::string said = db->review("edit guarded id=1 v:1->13\nedit guarded id=2 v:2->99\nedit guarded id=3 v:3->4");
  EXPECT_EQ("database-refused 0 guarded[1].v to=13\ndatabase-refused 1 guarded[2].v to=99", said)
      << "both are found, and neither hides the third, which is good";
}

TEST_F(PostgreSqlTest, RecordsExactlyAlikeAreNotTouchedAndOthersWithoutKeyAre) {
  db->run(
      "CREATE TABLE log (line text, n int, spot point); INSERT INTO log VALUES ('a', 1, '(1,1)'), ('a', 1, '(1,1)'), "
      "('b', NULL, NULL)");
  EXPECT_EQ("record-ambiguous 0 log[a,1,(1,1)]",
            db->review("edit log line=\"a\" n=1 spot=\"(1,1)\" line:\"a\"->\"c\""));
  EXPECT_EQ("applied", db->apply("edit log line=\"b\" n=null spot=null line:\"b\"->\"c\" n:null->5"));
  EXPECT_EQ("c|5", db->rows("SELECT line, n FROM log WHERE spot IS NULL"));
}

TEST_F(MariaDbTest, TypesKeysAndCollationsAreKnown) {
  db->run(
      "CREATE TABLE kinds (id bigint unsigned PRIMARY KEY AUTO_INCREMENT, e enum('a','b''c') NOT NULL DEFAULT 'a', n "
      "decimal(6,2), hidden int INVISIBLE, twice int AS (hidden * 2) VIRTUAL, t tinyint unsigned, c char(5), folded "
      "varchar(10) "
      "COLLATE utf8mb4_general_ci UNIQUE)");
  const Table& kinds = table("kinds");
  EXPECT_TRUE(kinds.column("id")->unsigned64);
  EXPECT_TRUE(kinds.column("id")->generatedKey);
  EXPECT_EQ((std::vector<Value>{Value::text("a"), Value::text("b'c")}), kinds.column("e")->allowed);
  EXPECT_EQ(255, kinds.column("t")->maxInteger);
  EXPECT_EQ("the database computes it", kinds.column("twice")->notEditable);
  EXPECT_EQ("applied", db->apply("add kinds id=18446744073709551615 c=\"x \" folded=\"Äb\" hidden=4"));
  EXPECT_EQ("18446744073709551615|x|8", db->rows("SELECT id, c, twice FROM kinds"));
  EXPECT_THAT(db->review("add kinds folded=\"äB\""), HasSubstr("duplicate 0 kinds[]"));
  EXPECT_EQ("value-refused 0 kinds[18446744073709551615].t from=- to=256",
            db->review("edit kinds id=18446744073709551615 t:null->256"));
}

TEST_F(MariaDbTest, AKeyFoundOnlyByFoldingIsNotThatRecord) {
  db->run(
      "CREATE TABLE k (name varchar(20) COLLATE utf8mb4_general_ci PRIMARY KEY, v int); INSERT INTO k VALUES ('Ash', "
      "1)");
  EXPECT_EQ("record-gone 0 k[ash]", db->review("edit k name=\"ash\" v:1->2"));
  EXPECT_EQ("applied", db->apply("edit k name=\"Ash\" name:\"Ash\"->\"ash\" v:1->2")) << "case alone can be put right";
  EXPECT_EQ("ash|2", db->rows("SELECT * FROM k"));
}

TEST_F(MariaDbTest, VersionedTablesPaddedTextsAndCommentsAreKnown) {
  db->run(
      "CREATE TABLE kept (id int PRIMARY KEY, v int COMMENT 'what it is', c char(5), p varchar(5)) WITH SYSTEM "
      "VERSIONING COMMENT 'every state stays'; INSERT INTO kept VALUES (1, 1, 'a', 'a '), (2, 2, 'b', 'b')");
  EXPECT_EQ("every state stays", table("kept").comment);
  EXPECT_EQ("what it is", table("kept").column("v")->comment);
  EXPECT_EQ("applied", db->apply("edit kept id=1 v:1->5 c:\"a\"->\"d\" p:\"a\\u0020\"->\"d\\u0020\"\n"
                                 "remove kept id=2 v:2"));
  EXPECT_EQ("1|5|d|d_", db->rows("SELECT id, v, c, replace(p, ' ', '_') FROM kept"));
  EXPECT_EQ("3", db->rows("SELECT count(*) FROM kept FOR SYSTEM_TIME ALL")) << "what was before stays";
  EXPECT_THAT(db->review("edit kept id=1 p:\"d\"->\"e\""), StartsWith("cell-changed 0 kept[1].p"))
      << "the blank at the end counts, whatever the collation says";
}

TEST_F(MariaDbTest, StorageThatCannotRollBackIsNotedRehearsedByReadingAndWrittenLast) {
  db->run(
      "CREATE TABLE stays (id int PRIMARY KEY, v int CHECK (v < 10)) ENGINE=MyISAM; INSERT INTO stays VALUES (1, 1), "
      "(2, 2);"
      "CREATE TABLE rolls (id int PRIMARY KEY, v int); INSERT INTO rolls VALUES (1, 1)");
  EXPECT_TRUE(table("stays").cannotRollBack);
  EXPECT_EQ("not-atomic 0 stays[1] (note)\nready", db->review("edit stays id=1 v:1->2"));
  EXPECT_EQ("1|1\n2|2", db->rows("SELECT * FROM stays")) << "a rehearsal writes nothing to it";
  EXPECT_THAT(db->apply("edit stays id=1 v:1->5\nedit rolls id=9 v:1->2"), HasSubstr("record-gone 1 rolls[9]"));
  EXPECT_EQ("1|1\n2|2", db->rows("SELECT * FROM stays")) << "something else stands in the way";
  EXPECT_EQ("applied", db->apply("edit stays id=1 v:1->5\nedit rolls id=1 v:1->2"));
  EXPECT_EQ("5|2", db->rows("SELECT s.v, r.v FROM stays s JOIN rolls r USING (id) WHERE id = 1"));
}

TEST_F(MariaDbTest, WhatStaysIsWrittenOnlyWhenAReceiptOfItCanBeKept) {
  db->run("CREATE TABLE stays (id int PRIMARY KEY, v int) ENGINE=MyISAM; INSERT INTO stays VALUES (1, 1)");
  const ChangeList changes = TestDatabase::changes("edit stays id=1 v:1->5");
  Progress progress;
  ApplyOptions options;
  LambdaKeeper refusing(
      [](const Receipt&, ReceiptStage) -> Status { return fail(ErrorKind::InvalidFile, "no room for the receipt"); });
  options.keeper = &refusing;
  ASSERT_FALSE(applyChanges(db->session(), db->catalogue(), changes, options, progress).has_value());
  EXPECT_EQ("1", db->rows("SELECT v FROM stays"));
  std::vector<ReceiptStage> stages;
  std::string after;
  LambdaKeeper keeping([&](const Receipt& receipt, ReceiptStage stage) -> Status {
    stages.push_back(stage);
    if (stage == ReceiptStage::Final) after = canonicalText(receipt.blocks[0].after[1].at(0));
    return {};
  });
  options.keeper = &keeping;
  ASSERT_TRUE(applyChanges(db->session(), db->catalogue(), changes, options, progress).has_value());
  EXPECT_EQ((std::vector<ReceiptStage>{ReceiptStage::Trial, ReceiptStage::Final}), stages);
  EXPECT_EQ("5", after);
  EXPECT_EQ("5", db->rows("SELECT v FROM stays"));
}

TEST_F(MariaDbTest, ViewsTriggersAndRecordsWithoutKey) {
  db->run(
      "CREATE TABLE t (id int PRIMARY KEY, x int); INSERT INTO t VALUES (1, 1), (2, 2); CREATE VIEW simple AS SELECT "
      "id, x FROM t;"
      "CREATE VIEW sums AS SELECT x, count(*) AS n FROM t GROUP BY x; CREATE TRIGGER w BEFORE UPDATE ON t FOR EACH ROW "
      "IF NEW.x "
      "= 13 THEN SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'unlucky'; END IF;"
      "CREATE TABLE log (line varchar(20), n float); INSERT INTO log VALUES ('a', 0.1), ('A', 0.1), ('b', NULL), ('b', "
      "NULL)");
  EXPECT_THAT(table("sums").notEditable, HasSubstr("it is a view"));
  EXPECT_EQ("database-refused 0 t[1].x to=13", db->review("edit t id=1 x:1->13\nedit t id=2 x:2->3"));
  EXPECT_EQ("applied", db->apply("edit log line=\"a\" n=0.1 n:0.1->0.2"));
  EXPECT_EQ("0.1|A\n0.2|a", db->rows("SELECT n, line FROM log WHERE n IS NOT NULL ORDER BY n"));
  EXPECT_EQ("record-ambiguous 0 log[b,]", db->review("edit log line=\"b\" n=null n:null->1"));
}

// The identity of a record in all its forms, on every engine.
class IdentityTest : public EngineTest {};
ITERANDUM_ON_ALL_ENGINES(IdentityTest);

TEST_P(IdentityTest, AKeyThatNoRecordCanHaveHidesNoOther) {
  TestDatabase db(smallRegister(GetParam()), GetParam());
  EXPECT_EQ(
      "record-gone 0 tree[abc]\nrecord-gone 1 tree[99999999999999999999]\nrecord-gone 2 inspection[7,2025-02-31]\n"
      "record-gone 3 inspection[7,yesterday]",
      db.review("edit tree tree_id=\"abc\" condition:2->3\nedit tree tree_id=99999999999999999999 condition:2->3\n"
                "edit inspection tree_id=7 inspected_on=\"2025-02-31\" grade:\"sound\"->\"poor\"\n"
                "edit inspection tree_id=7 inspected_on=\"yesterday\" grade:\"sound\"->\"poor\"\n"
                "edit inspection tree_id=7 inspected_on=\"2025-03-02\" grade:\"sound\"->\"poor\"\n"
                "edit tree tree_id=7 condition:2->3"));
}

TEST_P(IdentityTest, CompositeKeysAreEditedAndSwapped) {
  TestDatabase db(
      "CREATE TABLE c (a integer NOT NULL, b varchar(10) NOT NULL, v integer, PRIMARY KEY (a, b)); INSERT INTO c "
      "VALUES (1, 'x', "
      "10), (1, 'y', 20), (2, 'x', 30)",
      GetParam());
  EXPECT_EQ("applied", db.apply("edit c a=1 b=\"x\" b:\"x\"->\"y\"\nedit c a=1 b=\"y\" b:\"y\"->\"x\" v:20->21"));
  EXPECT_EQ("1|x|21\n1|y|10\n2|x|30", db.rows("SELECT * FROM c ORDER BY a, b"));
  EXPECT_THAT(db.review("edit c a=2 b=\"x\" a:2->1"), StartsWith("duplicate 0 c[2,x]"));
}

TEST_P(IdentityTest, AUniqueKeyWithoutNullsNamesARecord) {
  TestDatabase db(
      "CREATE TABLE u (tag varchar(10) NOT NULL, v integer, UNIQUE (tag)); INSERT INTO u VALUES ('a', 1), ('b', 2)",
      GetParam());
  EXPECT_EQ("applied", db.apply("edit u tag=\"a\" v:1->5\nremove u tag=\"b\" v:2"));
  EXPECT_EQ("a|5", db.rows("SELECT * FROM u"));
}

TEST_P(IdentityTest, ManyRefusedRecordsAreAllNamed) {
  std::string schema = "CREATE TABLE m (id integer PRIMARY KEY, n integer NOT NULL);";
  std::string changes;
  for (int i = 1; i <= 200; ++i) {
    schema += "INSERT INTO m VALUES (" + std::to_string(i) + ", 0);";
    changes += "edit m id=" + std::to_string(i) + " n:0->" + (i % 50 == 0 ? "99999999999" : std::to_string(i)) + "\n";
  }
  TestDatabase db(schema, GetParam());
  if (GetParam() == Engine::Sqlite) GTEST_SKIP() << "its integers hold that";
  const std::string said = db.review(changes);
  for (const char* id : {"[50]", "[100]", "[150]", "[200]"}) EXPECT_THAT(said, HasSubstr(std::string("m") + id));
  EXPECT_EQ(4, std::count(said.begin(), said.end(), '\n') + 1);
}

}  // namespace
}  // namespace iterandum::test
