// What went round the other tests when somebody tried to make the program write a wrong record, lose one, or say an
// untruth: each case with variants, on every engine it can happen on.
#include <thread>

#include "core/catalogue/column_rules.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;
using ::testing::Not;

std::string takeBack(TestDatabase& db) {
  Progress progress;
  // As a document, as another machine would get it.
  const auto receipt = readReceiptJson(receiptJson(db.receipt()));
  if (!receipt) return receipt.error().text();
  const auto back = applyChanges(db.session(), db.catalogue(), revertReceipt(*receipt).changes, {}, progress);
  if (!back) return back.error().text();
  return back->receipt ? "applied" : findingsText(back->review);
}

class AttackTest : public EngineTest {
 protected:
  // Applies, looks at the end, takes back, and comes to the start again.
  void comesTo(const std::string& changes, const std::string& query, const std::string& wanted) {
    const std::string before = db.dump();
    const std::string review = db.review(changes);
    EXPECT_EQ(before, db.dump()) << "a review leaves nothing behind";
    ASSERT_EQ("applied", db.apply(changes)) << review;
    EXPECT_EQ(wanted, db.rows(query));
    EXPECT_EQ("applied", takeBack(db));
    EXPECT_EQ(before, db.dump()) << "taken back";
  }
  TestDatabase db{{}, GetParam()};
};
ITERANDUM_ON_ALL_ENGINES(AttackTest);

// --- unique values that change places under references
// ----------------------------------------------------------------

TEST_P(AttackTest, ChildrenFollowAKeyThatChangesPlaces) {
  db.run(
      "CREATE TABLE p (id int PRIMARY KEY, code varchar(10) UNIQUE); CREATE TABLE c (id int PRIMARY KEY, code "
      "varchar(10), "
      "FOREIGN KEY (code) REFERENCES p (code) ON UPDATE CASCADE); INSERT INTO p VALUES (1, 'A'), (2, 'B'), (3, 'C');"
      "INSERT INTO c VALUES (10, 'A'), (20, 'B'), (30, 'C')");
  comesTo("edit p id=1 code:\"A\"->\"B\"\nedit p id=2 code:\"B\"->\"A\"", "SELECT * FROM c ORDER BY id",
          "10|B\n20|A\n30|C");
  comesTo("edit p id=1 code:\"A\"->\"B\"\nedit p id=2 code:\"B\"->\"C\"\nedit p id=3 code:\"C\"->\"A\"",
          "SELECT * FROM c ORDER BY id", "10|B\n20|C\n30|A");
}

TEST_P(AttackTest, ChildrenOfCompositeKeysFollowOverSeveralLevels) {
  db.run(
      "CREATE TABLE p (a int NOT NULL, b int NOT NULL, v int, PRIMARY KEY (a, b));"
      "CREATE TABLE c (id int PRIMARY KEY, a int NOT NULL, b int NOT NULL, n int NOT NULL, UNIQUE (a, b, n), FOREIGN "
      "KEY (a, "
      "b) REFERENCES p (a, b) ON UPDATE CASCADE);"
      "CREATE TABLE d (id int PRIMARY KEY, a int, b int, n int, FOREIGN KEY (a, b, n) REFERENCES c (a, b, n) ON UPDATE "
      "CASCADE); INSERT INTO p VALUES (1, 1, 0), (1, 2, 0); INSERT INTO c VALUES (10, 1, 1, 5), (20, 1, 2, 5);"
      "INSERT INTO d VALUES (100, 1, 1, 5), (200, 1, 2, 5)");
  comesTo("edit p a=1 b=1 b:1->2\nedit p a=1 b=2 b:2->1 v:0->7", "SELECT id, b FROM d ORDER BY id", "100|2\n200|1");
}

TEST_P(AttackTest, ChildrenLetGoWhereTheRuleSaysSoAndThatIsForetold) {
  db.run(
      "CREATE TABLE p (id int PRIMARY KEY, code varchar(10) UNIQUE); CREATE TABLE c (id int PRIMARY KEY, code "
      "varchar(10), "
      "FOREIGN KEY (code) REFERENCES p (code) ON UPDATE SET NULL); INSERT INTO p VALUES (1, 'A'), (2, 'B');"
      "INSERT INTO c VALUES (10, 'A'), (20, 'B')");
  const char* const swap = "edit p id=1 code:\"A\"->\"B\"\nedit p id=2 code:\"B\"->\"A\"";
  EXPECT_EQ("cascade-set 0 c.code rows=1\ncascade-set 1 c.code rows=1", db.effects(swap));
  comesTo(swap, "SELECT * FROM c ORDER BY id", "10|-\n20|-");
}

TEST_P(AttackTest, NobodyIsSilentlyRepointedWhereChildrenDoNotFollow) {
  db.run(
      "CREATE TABLE p (id int PRIMARY KEY, code varchar(10) UNIQUE); CREATE TABLE c (id int PRIMARY KEY, code "
      "varchar(10), "
      "FOREIGN KEY (code) REFERENCES p (code)); INSERT INTO p VALUES (1, 'A'), (2, 'B'); INSERT INTO c VALUES (10, "
      "'A')");
  EXPECT_THAT(db.apply("edit p id=1 code:\"A\"->\"B\"\nedit p id=2 code:\"B\"->\"A\""),
              HasSubstr("still-referenced 0 p[1] rows=1 in c"));
  EXPECT_EQ("1|A\n2|B", db.rows("SELECT * FROM p ORDER BY id"));
  // What points there is dealt with in the same file.
  comesTo("edit p id=1 code:\"A\"->\"B\"\nedit p id=2 code:\"B\"->\"A\"\nedit c id=10 code:\"A\"->\"B\"",
          "SELECT * FROM c", "10|B");
}

// A child whose own key moves along is written by its own name, not by that of whoever takes it.
TEST_P(AttackTest, AChildWhoseKeyMovesAlongIsNotTakenForAnother) {
  db.run(
      "CREATE TABLE p (code varchar(5) PRIMARY KEY); CREATE TABLE c (code varchar(5) NOT NULL, n int NOT NULL, v int, "
      "PRIMARY "
      "KEY (code, n), FOREIGN KEY (code) REFERENCES p (code) ON UPDATE CASCADE); INSERT INTO p VALUES ('A'), ('B');"
      "INSERT INTO c VALUES ('A', 1, 11), ('B', 1, 22)");
  comesTo("edit p code=\"A\" code:\"A\"->\"B\"\nedit p code=\"B\" code:\"B\"->\"A\"\nedit c code=\"A\" n=1 v:11->12",
          "SELECT * FROM c ORDER BY v", "B|1|12\nA|1|22");
}

// --- a parent that is replaced
// ------------------------------------------------------------------------------------------

TEST_P(AttackTest, AChildOfAReplacedParentEndsAsAskedFor) {
  db.run(
      "CREATE TABLE p (id int PRIMARY KEY, v int); CREATE TABLE c (id int PRIMARY KEY, pid int, w int, FOREIGN KEY "
      "(pid) "
      "REFERENCES p (id) ON DELETE SET NULL); INSERT INTO p VALUES (1, 1), (2, 2); INSERT INTO c VALUES (10, 1, 0), "
      "(20, 2, "
      "0)");
  const std::string replace = "remove p id=1 v:1\nadd p id=1 v=5\n";
  comesTo(replace + "add c id=30 pid=1 w=0", "SELECT id, pid FROM c ORDER BY id", "10|-\n20|2\n30|1");
  comesTo(replace + "edit c id=20 pid:2->1", "SELECT id, pid FROM c ORDER BY id", "10|-\n20|1");
  comesTo(replace + "edit c id=10 pid:1->1 w:0->3", "SELECT id, pid FROM c ORDER BY id", "10|1\n20|2");
  EXPECT_THAT(db.effects("remove p id=1 v:1\nadd p id=1 v=5"), ::testing::StartsWith("cascade-set 0 c.pid rows=1"));
}

TEST_P(AttackTest, ARecordThatGoesAlongCannotBeChangedAsWell) {
  db.run(
      "CREATE TABLE p (id int PRIMARY KEY, v int); CREATE TABLE c (id int PRIMARY KEY, pid int, w int, FOREIGN KEY "
      "(pid) "
      "REFERENCES p (id) ON DELETE CASCADE); INSERT INTO p VALUES (1, 1); INSERT INTO c VALUES (10, 1, 0)");
  const std::string before = db.dump();
  EXPECT_THAT(db.apply("remove p id=1 v:1\nedit c id=10 w:0->1"), HasSubstr("record-gone 1 c[10]"));
  EXPECT_EQ(before, db.dump());
}

// --- taking back
// --------------------------------------------------------------------------------------------------------

TEST_P(AttackTest, TwoCascadesOnOneRecordAreBothTakenBack) {
  db.run(
      "CREATE TABLE p (id int PRIMARY KEY, code varchar(5) UNIQUE); CREATE TABLE c (id int PRIMARY KEY, pid int, code "
      "varchar(5), FOREIGN KEY (pid) REFERENCES p (id) ON UPDATE CASCADE, FOREIGN KEY (code) REFERENCES p (code) ON "
      "DELETE SET "
      "NULL ON UPDATE CASCADE); INSERT INTO p VALUES (1, 'A'), (2, 'B'); INSERT INTO c VALUES (10, 2, 'A'), (20, 1, "
      "'B'), (30, "
      "2, 'B')");
  comesTo("edit p id=2 id:2->7 code:\"B\"->null", "SELECT * FROM c ORDER BY id", "10|7|A\n20|1|-\n30|7|-");
}

TEST_P(AttackTest, ATreeThatACascadeTookComesBack) {
  db.run(
      "CREATE TABLE n (id int PRIMARY KEY, up int, FOREIGN KEY (up) REFERENCES n (id) ON DELETE CASCADE); INSERT INTO "
      "n VALUES "
      "(1, NULL), (9, 1), (5, 9), (7, 5), (3, 7)");
  comesTo("remove n id=1 up:null", "SELECT count(*) FROM n", "0");
  comesTo("add n id=20 up=21\nadd n id=21 up=22\nadd n id=22 up=1", "SELECT count(*) FROM n WHERE id >= 20", "3");
}

TEST_P(AttackTest, RecordsThatPointAtEachOtherAreRemovedTogether) {
  const char* const later = GetParam() == Engine::Sqlite ? "" : "ALTER TABLE a ADD FOREIGN KEY (b) REFERENCES b (id);";
  db.run(std::string("CREATE TABLE a (id int PRIMARY KEY, b int") +
         (GetParam() == Engine::Sqlite ? ", FOREIGN KEY (b) REFERENCES b (id)" : "") +
         "); CREATE TABLE b (id int PRIMARY KEY, a int NOT NULL, FOREIGN KEY (a) REFERENCES a (id));" + later +
         "INSERT INTO a VALUES (1, NULL); INSERT INTO b VALUES (1, 1); UPDATE a SET b = 1;"
         "CREATE TABLE s (id int PRIMARY KEY, o int, FOREIGN KEY (o) REFERENCES s (id)); INSERT INTO s VALUES (1, "
         "NULL), (2, 1); "
         "UPDATE s SET o = 2 WHERE id = 1");
  comesTo("remove a id=1 b:1\nremove b id=1 a:1\nremove s id=1 o:2\nremove s id=2 o:1",
          "SELECT (SELECT count(*) FROM a) + (SELECT count(*) FROM b) + (SELECT count(*) FROM s)", "0");
}

// --- labels
// -------------------------------------------------------------------------------------------------------------

TEST_P(AttackTest, ANewRecordMayPointTwiceAtItselfOrAtAnotherNewOne) {
  const std::string key = GetParam() == Engine::Sqlite       ? "INTEGER PRIMARY KEY"
                          : GetParam() == Engine::PostgreSql ? "int GENERATED BY DEFAULT AS IDENTITY PRIMARY KEY"
                                                             : "int AUTO_INCREMENT PRIMARY KEY";
  db.run("CREATE TABLE n (id " + key +
         ", name varchar(9) UNIQUE, a int, b int, c varchar(9), FOREIGN KEY (a) REFERENCES n (id), FOREIGN KEY (b) "
         "REFERENCES n "
         "(id), FOREIGN KEY (c) REFERENCES n (name))");
  EXPECT_EQ("applied", db.apply("add n name=\"x\" a={\"ref\":\"x\"} b={\"ref\":\"x\"} c={\"ref\":\"x\"} @x\n"
                                "add n name=\"y\" a={\"ref\":\"x\"} b={\"ref\":\"x\"} @y\n"
                                "add n name=\"z\" a={\"ref\":\"y\"} b={\"ref\":\"x\"} c={\"ref\":\"y\"}"));
  EXPECT_EQ(
      "x|x|x|x\ny|x|x|-\nz|y|x|y",
      db.rows("SELECT n.name, a.name, b.name, n.c FROM n JOIN n a ON a.id = n.a JOIN n b ON b.id = n.b ORDER BY 1"));
}

TEST_P(AttackTest, TheirsOnAPartOfACompositeKeyIsNoDuplicate) {
  db.run(
      "CREATE TABLE k (id int PRIMARY KEY, a int, b int, UNIQUE (a, b)); INSERT INTO k VALUES (1, 1, 1), (2, 2, 9), "
      "(3, 5, 9)");
  // Somebody else moved record 1 on in `a`; theirs is kept there, and (5, 2) is free.
  db.run("UPDATE k SET a = 5 WHERE id = 1");
  EXPECT_EQ("applied", db.apply("edit k id=1 a:1->2 b:1->2", OnConflict::Theirs));
  EXPECT_EQ("5|2", db.rows("SELECT a, b FROM k WHERE id = 1"));
}

// --- keys that only look alike
// --------------------------------------------------------------------------------------------

TEST_P(AttackTest, AKeyIsFoundAmongAnyNumberOfFoldedNeighbours) {
  const char* const fold = GetParam() == Engine::Sqlite ? " COLLATE NOCASE" : "";
  db.run("CREATE TABLE t (id int PRIMARY KEY, name varchar(20)" + std::string(fold) +
         ", v int); INSERT INTO t VALUES (1, 'A', 0), (2, 'A', 0), (3, 'A', 0), (4, 'a', 0), (5, 'Lime', 0), (6, "
         "'LIME', 0), (7, "
         "'lIME', 0), (8, 'lime', 0)");
  EXPECT_EQ("applied", db.apply("edit t name=\"a\" v:0->1\nedit t name=\"lime\" v:0->2"));
  EXPECT_EQ("4|1\n8|2", db.rows("SELECT id, v FROM t WHERE v <> 0 ORDER BY id"));
  db.run("UPDATE t SET name = 'a' WHERE id = 2");
  EXPECT_EQ("record-ambiguous 0 t[a]", db.apply("edit t name=\"a\" v:1->3"));
}

// --- what cannot be written is a finding
// -----------------------------------------------------------------------------------

TEST_P(AttackTest, WhatEndsOtherwiseThanAskedForBlocksUnlessATriggerIsNamed) {
  db.run("CREATE TABLE t (id int PRIMARY KEY, price decimal(6,2), note varchar(20)); INSERT INTO t VALUES (1, 1, 'x')");
  EXPECT_EQ("applied", db.apply("edit t id=1 price:\"1.00\"->\"2.50\" note:\"x\"->\"y\""));
  const bool pg = GetParam() == Engine::PostgreSql;
  db.run(pg ? "CREATE FUNCTION f() RETURNS trigger LANGUAGE plpgsql AS 'BEGIN NEW.note = upper(NEW.note); RETURN NEW; "
              "END';"
              "CREATE TRIGGER g BEFORE UPDATE ON t FOR EACH ROW EXECUTE FUNCTION f()"
         : GetParam() == Engine::MariaDb
             ? "CREATE TRIGGER g BEFORE UPDATE ON t FOR EACH ROW SET NEW.note = upper(NEW.note)"
             : "CREATE TRIGGER g AFTER UPDATE OF note ON t BEGIN UPDATE t SET note = upper(NEW.note) WHERE id = "
               "NEW.id; END");
  db.forget();
  EXPECT_EQ("database-set 0 t.note z->Z", db.effects("edit t id=1 note:\"y\"->\"z\""));
}

TEST_P(AttackTest, TheReceiptThatCannotBeConfirmedIsNoReasonToSayThatNothingWasWritten) {
  db.run("CREATE TABLE t (id int PRIMARY KEY, v int); INSERT INTO t VALUES (1, 1)");
  Progress progress;
  LambdaKeeper keeper([](const Receipt&, ReceiptStage) -> Status { return {}; });
  keeper.confirmation = fail(ErrorKind::InvalidFile, "the store is locked");
  ApplyOptions options;
  options.keeper = &keeper;
  const auto result =
      applyChanges(db.session(), db.catalogue(), TestDatabase::changes("add t id=2 v=2"), options, progress);
  ASSERT_TRUE(result && result->receipt);
  ASSERT_TRUE(result->afterwards.has_value());
  EXPECT_EQ("the store is locked", result->afterwards->message);
  EXPECT_EQ(0, keeper.dropped);
  EXPECT_EQ("1\n2", db.rows("SELECT id FROM t ORDER BY id"));
}

// --- looking writes nothing
// ------------------------------------------------------------------------------------------------

class LookingTest : public EngineTest {};
ITERANDUM_ON_SERVERS(LookingTest);

TEST_P(LookingTest, WhatAViewDoesWhenItIsReadCannotWrite) {
  TestDatabase db({}, GetParam());
  db.run(GetParam() == Engine::PostgreSql
             ? "CREATE TABLE done (n int); CREATE FUNCTION e() RETURNS int LANGUAGE plpgsql AS 'BEGIN INSERT INTO done "
               "VALUES "
               "(1); PERFORM set_config(''default_transaction_read_only'', ''off'', false); RETURN 1; END';"
               "CREATE VIEW report AS SELECT 1 AS n WHERE e() = 1"
             : "CREATE TABLE done (n int) ENGINE=MyISAM; CREATE FUNCTION e() RETURNS int BEGIN SET SESSION "
               "tx_read_only = 0; "
               "INSERT INTO done VALUES (1); RETURN 1; END; CREATE VIEW report AS SELECT 1 AS n FROM (SELECT 1) x "
               "WHERE e() = 1");
  Progress progress;
  const Table& report = *db.catalogue().find({"", "report"});
  Query query;
  query.table = &report;
  query.columns = {"n"};
  for (int i = 0; i < 2; ++i) {
    EXPECT_FALSE(db.session()
                     .select(
                         query, [](ValueTuple&&) { return true; }, progress)
                     .has_value());
    EXPECT_FALSE(db.session().count(query, progress).has_value());
  }
  EXPECT_EQ("0", db.rows("SELECT count(*) FROM done"));
}

// --- PostgreSQL
// ------------------------------------------------------------------------------------------------------------

class AttackOnPostgreSqlTest : public ::testing::Test {
 protected:
  void SetUp() override {
    if (serversAtHand().empty()) GTEST_SKIP() << "no server";
    db = std::make_unique<TestDatabase>("", Engine::PostgreSql);
  }
  std::unique_ptr<TestDatabase> db;
};

TEST_F(AttackOnPostgreSqlTest, ATriggerThatMovesTheSearchPathMovesNoWrite) {
  db->run(
      "CREATE TABLE a (id int PRIMARY KEY, v int); CREATE TABLE b (id int PRIMARY KEY, v int); CREATE SCHEMA tenant; "
      "CREATE TABLE "
      "tenant.b (id int PRIMARY KEY, v int); INSERT INTO a VALUES (1, 1); INSERT INTO b VALUES (1, 1); INSERT INTO "
      "tenant.b "
      "VALUES (1, 1); CREATE FUNCTION f() RETURNS trigger LANGUAGE plpgsql AS 'BEGIN PERFORM "
      "set_config(''search_path'', "
      "''tenant, public'', true); CREATE TEMP TABLE IF NOT EXISTS b (id int PRIMARY KEY, v int); RETURN NEW; END';"
      "CREATE TRIGGER s BEFORE UPDATE ON a FOR EACH ROW EXECUTE FUNCTION f()");
  EXPECT_EQ("applied", db->apply("edit a id=1 v:1->2\nedit b id=1 v:1->2"));
  EXPECT_EQ("2|1", db->rows("SELECT p.v, t.v FROM public.b p, tenant.b t"));
}

// An operator or a function of somebody's own is not the one that our statements mean.
TEST_F(AttackOnPostgreSqlTest, OperatorsAndFunctionsOfSomebodyElseDoNotAnswer) {
  db->run(
      "CREATE TABLE ran (n int); CREATE TABLE t (id varchar(9) PRIMARY KEY, v varchar(9)); INSERT INTO t VALUES ('a', "
      "'x'), ('b', "
      "'y');"
      "CREATE FUNCTION public.mine(varchar, varchar) RETURNS boolean LANGUAGE plpgsql AS 'BEGIN INSERT INTO ran VALUES "
      "(1); "
      "RETURN true; END'; CREATE OPERATOR public.= (LEFTARG = varchar, RIGHTARG = varchar, FUNCTION = public.mine);"
      "CREATE FUNCTION public.lower(varchar) RETURNS text LANGUAGE plpgsql AS 'BEGIN INSERT INTO ran VALUES (2); "
      "RETURN ''x''; "
      "END'; CREATE FUNCTION public.unnest(text[]) RETURNS SETOF text LANGUAGE plpgsql AS 'BEGIN INSERT INTO ran "
      "VALUES (3); "
      "RETURN QUERY SELECT ''a''::text; END';");
  db->run("ALTER ROLE quill SET search_path = public, pg_catalog");
  db->forget();
  Progress progress;
  Query query;
  query.table = db->catalogue().find({"", "t"});
  ASSERT_NE(nullptr, query.table);
  query.columns = {"id"};
  query.where.op = Condition::Op::Equal;
  query.where.column = "v";
  query.where.value = Value::text("y");
  std::string found;
  const Status read = db->session().select(
      query,
      [&](ValueTuple&& row) {
        found += canonicalText(row[0]);
        return true;
      },
      progress);
  EXPECT_TRUE(read.has_value()) << read.error().text();
  EXPECT_EQ("b", found);
  EXPECT_EQ("applied", db->apply("edit t id=\"a\" v:\"x\"->\"z\""));
  db->run("ALTER ROLE quill RESET search_path");
  EXPECT_EQ("a|z\nb|y", db->rows("SELECT id, v FROM t ORDER BY id"));
  EXPECT_EQ("", db->rows("SELECT n FROM ran"));
}

TEST_F(AttackOnPostgreSqlTest, WhatCodeOfTheDatabaseRaisesIsNotTakenForTheServersOwn) {
  db->run(
      "CREATE TABLE t (id int PRIMARY KEY, v varchar(5)); INSERT INTO t VALUES (1, 'x'), (2, 'x'); CREATE FUNCTION f() "
      "RETURNS "
      "trigger LANGUAGE plpgsql AS 'BEGIN IF NEW.v <> ''fine'' THEN RAISE EXCEPTION ''made up'' USING ERRCODE = NEW.v; "
      "END IF; "
      "RETURN NEW; END'; CREATE TRIGGER g BEFORE UPDATE ON t FOR EACH ROW EXECUTE FUNCTION f()");
  for (const char* state : {"55P03", "57P01", "42P01", "40001", "40P01", "57014", "53100", "08006", "25006"}) {
    SCOPED_TRACE(state);
    EXPECT_EQ("database-refused 0 t[1].v to=" + std::string(state),
              db->apply("edit t id=1 v:\"x\"->\"" + std::string(state) + "\"\nedit t id=2 v:\"x\"->\"fine\""));
  }
  EXPECT_EQ("applied", db->apply("edit t id=2 v:\"x\"->\"fine\""));
}

TEST_F(AttackOnPostgreSqlTest, ATableThatSomebodyHoldsIsNotWaitedForForEver) {
  db->run("CREATE TABLE t (id int PRIMARY KEY, v int); INSERT INTO t VALUES (1, 1)");
  const std::unique_ptr<OtherConnection> unused;
  OpenOptions options;
  options.lockTimeout = std::chrono::milliseconds(300);
  auto holder = openSession(db->address(), options);
  ASSERT_TRUE(holder.has_value());
  (void)db->catalogue();
  db->run("BEGIN; LOCK TABLE t IN ACCESS EXCLUSIVE MODE");
  Progress progress;
  const auto begun = std::chrono::steady_clock::now();
  auto catalogue = (*holder)->readCatalogue(progress);
  ApplyOptions how;
  how.lockTimeout = std::chrono::milliseconds(300);
  const auto result =
      applyChanges(**holder, db->catalogue(), TestDatabase::changes("edit t id=1 v:1->2"), how, progress);
  db->run("ROLLBACK");
  EXPECT_LT(std::chrono::steady_clock::now() - begun, std::chrono::seconds(5));
  ASSERT_FALSE(result.has_value());
  EXPECT_EQ(ErrorKind::LockTimeout, result.error().kind);
  EXPECT_THAT(result.error().message, ::testing::EndsWith("nothing was written"));
}

TEST_F(AttackOnPostgreSqlTest, AnEntryTooLongForItsIndexIsAFinding) {
  db->run("CREATE TABLE t (id int PRIMARY KEY, v text UNIQUE); INSERT INTO t VALUES (1, 'x')");
  std::string noise;
  unsigned state = 1;
  for (int i = 0; i < 20000; ++i)
    noise += static_cast<char>('a' + ((state = state * 1103515245U + 12345U) >> 16U) % 26U);
  EXPECT_THAT(db->apply("edit t id=1 v:\"x\"->\"" + noise + "\""), HasSubstr("value-refused 0 t[1].v"));
}

// --- MariaDB
// ---------------------------------------------------------------------------------------------------------------

class AttackOnMariaDbTest : public ::testing::Test {
 protected:
  void SetUp() override {
    if (serversAtHand().empty()) GTEST_SKIP() << "no server";
    db = std::make_unique<TestDatabase>("", Engine::MariaDb);
  }
  std::unique_ptr<TestDatabase> db;
};

TEST_F(AttackOnMariaDbTest, WhatEndsUpInStorageThatStaysIsNotRehearsed) {
  db->run(
      "CREATE TABLE y (id int PRIMARY KEY, v int) ENGINE=MyISAM; INSERT INTO y VALUES (1, 1); CREATE VIEW inner_view "
      "AS SELECT id, "
      "v FROM y; CREATE VIEW outer_view AS SELECT id, v FROM inner_view;"
      "CREATE TABLE log (m varchar(9)) ENGINE=Aria; CREATE TABLE t (id int PRIMARY KEY, v int); INSERT INTO t VALUES "
      "(1, 1);"
      "CREATE PROCEDURE note(x varchar(9)) INSERT INTO log VALUES (x);"
      "CREATE TABLE between_both (id int PRIMARY KEY, v int); CREATE TRIGGER second AFTER INSERT ON between_both FOR "
      "EACH ROW CALL "
      "note('x'); CREATE TRIGGER first AFTER UPDATE ON t FOR EACH ROW INSERT INTO between_both VALUES (NEW.v, 0)");
  for (const char* changes : {"edit outer_view id=1 v=1 v:1->2", "edit t id=1 v:1->2", "add between_both id=7 v=1"}) {
    SCOPED_TRACE(changes);
    EXPECT_THAT(db->review(changes), HasSubstr("not-atomic 0"));
  }
  EXPECT_EQ("1|0", db->rows("SELECT (SELECT v FROM y), (SELECT count(*) FROM log)"));
  // An addition there was the end of the program.
  EXPECT_EQ("applied", db->apply("add y id=2 v=2\nadd between_both id=7 v=1"));
  EXPECT_EQ("2|1", db->rows("SELECT (SELECT count(*) FROM y), (SELECT count(*) FROM log)"));
}

TEST_F(AttackOnMariaDbTest, WhatStaysIsSaidAndNotDenied) {
  db->run(
      "CREATE TABLE y (id int PRIMARY KEY, v int CHECK (v < 10)) ENGINE=MyISAM; INSERT INTO y VALUES (1, 1), (2, 2);"
      "CREATE TABLE t (id int PRIMARY KEY, v int); INSERT INTO t VALUES (1, 1);"
      "CREATE TRIGGER g BEFORE UPDATE ON y FOR EACH ROW IF NEW.id = 2 THEN SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = "
      "'no'; END "
      "IF");
  Progress progress;
  const auto result =
      applyChanges(db->session(), db->catalogue(),
                   TestDatabase::changes("edit y id=1 v:1->5\nedit y id=2 v:2->6\nedit t id=1 v:1->9"), {}, progress);
  ASSERT_FALSE(result.has_value());
  EXPECT_EQ(ErrorKind::PartlyWritten, result.error().kind);
  EXPECT_THAT(result.error().message, Not(HasSubstr("nothing was written")));
  EXPECT_THAT(result.error().message, HasSubstr("(y)"));
  EXPECT_EQ("1", db->rows("SELECT v FROM t"));
}

TEST_F(AttackOnMariaDbTest, ATriggerThatSignalsADeadlockEndsNoTransaction) {
  db->run(
      "CREATE TABLE t (id int PRIMARY KEY, v int); INSERT INTO t VALUES (1, 1), (2, 1); CREATE TRIGGER g BEFORE UPDATE "
      "ON t FOR EACH "
      "ROW IF NEW.v = 1213 THEN SIGNAL SQLSTATE '40001' SET MYSQL_ERRNO = 1213, MESSAGE_TEXT = 'made up'; ELSEIF NEW.v "
      "= 1205 "
      "THEN SIGNAL SQLSTATE 'HY000' SET MYSQL_ERRNO = 1205, MESSAGE_TEXT = 'made up'; ELSEIF NEW.v = 2013 THEN SIGNAL "
      "SQLSTATE "
      "'HY000' SET MYSQL_ERRNO = 2013, MESSAGE_TEXT = 'made up'; ELSEIF NEW.v = 1317 THEN SIGNAL SQLSTATE '70100' SET "
      "MYSQL_ERRNO "
      "= 1317, MESSAGE_TEXT = 'made up'; END IF");
  for (const char* number : {"1213", "1205", "2013", "1317"}) {
    SCOPED_TRACE(number);
    EXPECT_EQ("database-refused 0 t[1].v to=" + std::string(number),
              db->apply("edit t id=1 v:1->" + std::string(number) + "\nedit t id=2 v:1->7"));
    EXPECT_FALSE(db->session().inTransaction());
  }
  // Nothing is left locked.
  db->run("SET SESSION innodb_lock_wait_timeout = 1; UPDATE t SET v = 3 WHERE id = 2");
  EXPECT_EQ("1|1\n2|3", db->rows("SELECT * FROM t ORDER BY id"));
}

TEST_F(AttackOnMariaDbTest, LargeRecordsWithoutAKeyGoInBatchesThatTheServerTakes) {
  db->run(
      "CREATE TABLE k (a mediumtext, n int); INSERT INTO k SELECT concat(seq, repeat('x', 80000)), 0 FROM "
      "seq_1_to_300");
  std::string changes;
  for (int i = 1; i <= 300; ++i)
    changes += "remove k a=\"" + std::to_string(i) + std::string(80000, 'x') + "\" n=0 n:0\n";
  EXPECT_EQ("applied", db->apply(changes));
  EXPECT_EQ("0", db->rows("SELECT count(*) FROM k"));
}

TEST_F(AttackOnMariaDbTest, LabelsOfAnEnumMayHoldBackslashesAndQuotes) {
  db->run("CREATE TABLE e (id int PRIMARY KEY, v enum('a', 'b\\\\c', 'd''e', 'f,g')); INSERT INTO e VALUES (1, 'a')");
  for (const char* label : {"b\\\\c", "d'e", "f,g", "a"}) {
    SCOPED_TRACE(label);
    EXPECT_EQ("applied", db->apply("edit e id=1 v->\"" + std::string(label) + "\""));
  }
}

// --- SQLite
// ----------------------------------------------------------------------------------------------------------------

TEST(AttackOnSqliteTest, ARecordWithoutAKeyIsNamedByItsRowId) {
  TestDatabase db("CREATE TABLE log (line TEXT, n INTEGER); INSERT INTO log VALUES ('a', 1), ('a', 1), ('b', 2)");
  const std::string before = db.dump();
  EXPECT_EQ("applied", db.apply("edit log rowid=1 n:1->5\nremove log rowid=2 line:\"a\" n:1"));
  EXPECT_EQ("a|5\nb|2", db.rows("SELECT * FROM log ORDER BY rowid"));
  EXPECT_EQ("applied", takeBack(db));
  EXPECT_EQ("a|1\na|1\nb|2", db.rows("SELECT * FROM log ORDER BY line"));
}

TEST(AttackOnSqliteTest, AnAdditionToATableWhoseKeyMayBeNullIsTakenBack) {
  TestDatabase db("CREATE TABLE t (code TEXT PRIMARY KEY, v INTEGER)");
  EXPECT_EQ("applied", db.apply("add t code=\"x\" v=1\nadd t code=null v=2"));
  EXPECT_EQ("applied", takeBack(db));
  EXPECT_EQ("", db.rows("SELECT * FROM t"));
}

TEST(AttackOnSqliteTest, ANumberWhereADateIsMeantIsSaid) {
  TestDatabase db(
      "CREATE TABLE t (id INTEGER PRIMARY KEY, d DATE); INSERT INTO t VALUES (1, '2025-01-01'), (2, 20000)");
  EXPECT_EQ("value-refused 0 t[1].d from=2025-01-01 to=77 now=2025-01-01 (note)\nready",
            db.review("edit t id=1 d:\"2025-01-01\"->77"));
  EXPECT_EQ("ready", db.review("edit t id=2 d:20000->20001")) << "it is counted in numbers here";
  const Column& date = *db.catalogue().find({"", "t"})->column("d");
  EXPECT_EQ("2020-04-03", canonicalText(*typedValue(date, "2020-4-3")));
}

TEST(AttackOnSqliteTest, ViewsAreReadWithoutWriting) {
  TestDatabase db("CREATE TABLE t (id INTEGER PRIMARY KEY); CREATE VIEW v AS SELECT * FROM t");
  const auto left = openSession(db.address());
  ASSERT_TRUE(left.has_value());
  // No statement of a session that only looks can write, whatever it is made to run.
  EXPECT_EQ("ready", db.review("add t id=1"));
  EXPECT_EQ("", db.rows("SELECT * FROM t"));
}

}  // namespace
}  // namespace iterandum::test
