// The script: it reads well, and the plain client runs it to the same end as apply.
#include "support/test_database.h"

namespace iterandum::test {
namespace {

// A rehearsal uses up numbers of a server's sequences, which the comparison would see.
std::string scriptOf(TestDatabase& db, const std::string& lines, bool rehearse = true) {
  Progress progress;
  ReviewOptions options;
  options.rehearse = rehearse;
  const auto review = reviewChanges(db.session(), db.catalogue(), TestDatabase::changes(lines), options, progress);
  return review ? reviewScript(*review) : "error: " + review.error().text();
}

// Runs the script in a fresh register with the plain client, and gives what that then holds.
std::string afterPlainClient(Engine engine, const std::string& script, bool stops) {
  TestDatabase copy(smallRegister(engine), engine);
  const std::string said = copy.runInPlainClient(script);
  EXPECT_EQ(stops, !said.empty()) << said;
  return copy.dump();
}

TEST(ScriptTest, TheSameChangeToManyRecordsIsOneStatement) {
  TestDatabase db(kSmallRegister);
  EXPECT_THAT(scriptOf(db,
                       "edit tree tree_id=7 condition:2->3\nedit tree tree_id=8 condition:2->3\nedit tree tree_id=9 "
                       "condition:4->3"),
              ::testing::EndsWith(
                  "BEGIN;\nPRAGMA defer_foreign_keys = ON;\nINSERT INTO temp.\"iterandum_whole\" VALUES (2);\n"
                  "UPDATE OR ABORT \"tree\" SET \"condition\" = 3 WHERE \"tree_id\" IN (7, 8) AND \"condition\" = 2;\n"
                  "INSERT INTO temp.\"iterandum_check\" VALUES (1, 2, changes());\n"
                  "UPDATE OR ABORT \"tree\" SET \"condition\" = 3 WHERE \"tree_id\" = 9 AND \"condition\" = 4;\n"
                  "INSERT INTO temp.\"iterandum_check\" VALUES (2, 1, changes());\nCOMMIT;\n"));
}

TEST(ScriptTest, FindingsAreCommentsAtItsHead) {
  TestDatabase db(kSmallRegister);
  EXPECT_THAT(scriptOf(db, "edit tree tree_id=7 condition:1->3"),
              ::testing::StartsWith("-- BLOCKS cell-changed, change 0: tree 7: condition held 1"));
}

TEST(ScriptTest, ThePlainClientComesToTheSameEnd) {
  const char* const sets[] = {
      "edit tree tree_id=7 condition:2->3\nremove tree tree_id=9 tag:\"T9\"\nadd species name=\"ash\" @a\nedit tree "
      "tree_id=8 species_id:1->{\"ref\":\"a\"}",
      "edit species species_id=1 name:\"lime\"->\"oak\"\nedit species species_id=2 name:\"oak\"->\"lime\"",
      "edit photo photo_id=1 photo_id:1->2 caption:\"crown\"->\"top\"\nedit photo photo_id=2 photo_id:2->1",
      "edit tree tree_id=7 note:\"old\"->\"it's\\r\\n\\\"so\\\";\\\\--\\t'' \\u0000 end\" height:12.5->0.1",
      "edit log rowid=3 line:\"two\"->{\"float\":\"Infinity\"} message:2.5->{\"base64\":\"AAH/Jw==\"}",
      "edit tree tree_id=7 note:\"old\"->\".quit\"\nedit tree tree_id=8 note:null->\"ü 🌳\"\nadd log line=1e300 "
      "message=-9223372036854775808",
      "remove log rowid=1 line:1 message:\"taken_over\"",  // guarded: this is not what it held
  };
  for (const char* lines : sets) {
    SCOPED_TRACE(lines);
    TestDatabase db(kSmallRegister);
    const std::string script = scriptOf(db, lines);
    const std::string start = db.dump();
    const std::string outcome = db.apply(lines);
    EXPECT_EQ(outcome == "applied" ? db.dump() : start, afterPlainClient(Engine::Sqlite, script, outcome != "applied"))
        << script;
  }
}

// Through a view nothing is counted; it is all or nothing all the same.
TEST(ScriptTest, ThroughAViewItIsAllOrNothingToo) {
  TestDatabase db(
      "CREATE TABLE t (id INTEGER PRIMARY KEY, v INTEGER); INSERT INTO t VALUES (1, 1), (2, 2); CREATE VIEW w AS "
      "SELECT id, v "
      "FROM t; CREATE TRIGGER wu INSTEAD OF UPDATE ON w BEGIN UPDATE t SET v = NEW.v WHERE id = OLD.id; END; CREATE "
      "TRIGGER wd "
      "INSTEAD OF DELETE ON w BEGIN DELETE FROM t WHERE id = OLD.id; END; CREATE TRIGGER wi INSTEAD OF INSERT ON w "
      "BEGIN INSERT "
      "INTO t VALUES (NEW.id, NEW.v); END");
  const std::string script = scriptOf(db, "edit w id=1 v=1 v:1->5\nremove w id=2 v=2 v:2\nadd w id=9 v=9");
  db.run("UPDATE t SET v = 77 WHERE id = 1");
  EXPECT_NE("", db.runInPlainClient(script));
  EXPECT_EQ("1|77\n2|2", db.rows("SELECT * FROM t ORDER BY id"));
  db.run("UPDATE t SET v = 1 WHERE id = 1");
  EXPECT_EQ("", db.runInPlainClient(script));
  EXPECT_EQ("1|5\n9|9", db.rows("SELECT * FROM t ORDER BY id"));
}

// After rolling back by itself the engine would go on statement by statement.
TEST(ScriptTest, WhatARollbackOfTheDatabaseLeavesIsNothing) {
  TestDatabase db(
      "CREATE TABLE t (id INTEGER PRIMARY KEY, v INTEGER); INSERT INTO t VALUES (1, 1), (2, 2), (3, 3); CREATE TRIGGER "
      "x BEFORE "
      "UPDATE ON t WHEN NEW.v = 6 BEGIN SELECT RAISE(ROLLBACK, 'rolled'); END");
  EXPECT_NE("", db.runInPlainClient(scriptOf(db, "edit t id=1 v:1->5\nedit t id=2 v:2->6\nedit t id=3 v:3->7", false)));
  EXPECT_EQ("1|1\n2|2\n3|3", db.rows("SELECT * FROM t ORDER BY id"));
}

// Each statement that writes over a value has its guard: any record that is another one by then stops all of it.
class ScriptGuardTest : public EngineTest {};
ITERANDUM_ON_ALL_ENGINES(ScriptGuardTest);

TEST_P(ScriptGuardTest, WhoeverWasThereMeanwhileStopsAllOfIt) {
  const char* const sets[] = {
      "edit t id=1 code:\"A\"->\"B\"\nedit t id=2 code:\"B\"->\"A\"",
      "edit t id=3 v:3->9\nadd t id=9 code=\"N\" v=1\nedit t id=1 v:1->7",
      "remove t id=3 code:\"C\" v:3\nedit t id=1 v:1->2",
      "edit t id=2 v:2->0\nedit t id=1 v:1->0\nedit t id=3 v:3->0",
  };
  const char* const meanwhile[] = {"UPDATE t SET code = 'Z', v = 40 WHERE id = 1", "DELETE FROM t WHERE id = 1"};
  for (const char* lines : sets) {
    for (const char* other : meanwhile) {
      SCOPED_TRACE(std::string(lines) + "\n" + other);
      TestDatabase db(
          "CREATE TABLE t (id int PRIMARY KEY, code varchar(9) UNIQUE, v int); INSERT INTO t VALUES (1, 'A', 1), "
          "(2, 'B', 2), (3, 'C', 3)",
          GetParam());
      const std::string script = scriptOf(db, lines);
      db.run(other);
      const std::string before = db.dump();
      EXPECT_NE("", db.runInPlainClient(script));
      EXPECT_EQ(before, db.dump());
    }
  }
}

TEST_P(ScriptGuardTest, AnErrorInTheMiddleStopsAllOfIt) {
  TestDatabase db("CREATE TABLE t (id int PRIMARY KEY, v int); INSERT INTO t VALUES (1, 100), (2, 100)", GetParam());
  const std::string script = scriptOf(db, "edit t id=1 v:100->0\nadd t id=3 v=7\nedit t id=2 v:100->1");
  db.run("INSERT INTO t VALUES (3, 0)");
  EXPECT_NE("", db.runInPlainClient(script));
  EXPECT_EQ("1|100\n2|100\n3|0", db.rows("SELECT * FROM t ORDER BY id"));
}

TEST_P(ScriptGuardTest, LabelsStandForWhatIsPointedAtAndMayDifferByCase) {
  const std::string key = GetParam() == Engine::Sqlite       ? "INTEGER PRIMARY KEY"
                          : GetParam() == Engine::PostgreSql ? "int GENERATED BY DEFAULT AS IDENTITY PRIMARY KEY"
                                                             : "int AUTO_INCREMENT PRIMARY KEY";
  TestDatabase db(
      "CREATE TABLE p (id " + key + ", n varchar(9), code int DEFAULT 41 UNIQUE); CREATE TABLE c (id " + key +
          ", n varchar(9), pid int, code int, FOREIGN KEY (pid) REFERENCES p (id), FOREIGN KEY (code) REFERENCES p "
          "(code))",
      GetParam());
  const std::string script = scriptOf(db,
                                      "add p n=\"upper\" code=1 @A\nadd p n=\"lower\" @a\nadd c n=\"of_upper\" "
                                      "pid={\"ref\":\"A\"} code={\"ref\":\"a\"}",
                                      false);
  EXPECT_EQ("", db.runInPlainClient(script)) << script;
  EXPECT_EQ("of_upper|upper|lower",
            db.rows("SELECT c.n, p.n, q.n FROM c JOIN p ON p.id = c.pid JOIN p q ON q.code = c.code"));
}

TEST(ScriptTest, ADatabaseInUtf16GetsTheTextThatIsMeant) {
  for (const char* encoding : {"UTF-16le", "UTF-16be", "UTF-8"}) {
    SCOPED_TRACE(encoding);
    TestDatabase db;
    db.run(std::string("PRAGMA encoding = '") + encoding +
           "'; CREATE TABLE t (id INTEGER PRIMARY KEY, s TEXT); INSERT INTO t VALUES (1, 'old')");
    EXPECT_EQ("", db.runInPlainClient(scriptOf(db, "edit t id=1 s:\"old\"->\"a\\nü🌳\"")));
    EXPECT_EQ("a\nü🌳", db.rows("SELECT s FROM t"));
  }
}

TEST(ScriptTest, AMonthIsNoThirtyDays) {
  if (serversAtHand().empty()) GTEST_SKIP() << "no server";
  TestDatabase db(
      "CREATE TABLE t (id int PRIMARY KEY, i interval); INSERT INTO t VALUES (1, '1 mon'); CREATE TABLE k (a text, b "
      "int); INSERT INTO k VALUES ('x', 1)",
      Engine::PostgreSql);
  const std::string one = scriptOf(db, "edit t id=1 i:\"P1M\"->\"P2M\"");
  const std::string two = scriptOf(db, "edit k a=\"x\" b=1 b:1->2");
  db.run("UPDATE t SET i = '30 days'; INSERT INTO k VALUES ('x', 1)");
  EXPECT_NE("", db.runInPlainClient(one));
  EXPECT_NE("", db.runInPlainClient(two)) << "a twin has come";
  EXPECT_EQ("30 days", db.rows("SELECT i::text FROM t"));
  EXPECT_EQ("1\n1", db.rows("SELECT b FROM k"));
}

// The same on the servers, through their own plain clients under default settings.
class ScriptOnServersTest : public EngineTest {};
ITERANDUM_ON_SERVERS(ScriptOnServersTest);

TEST_P(ScriptOnServersTest, ThePlainClientComesToTheSameEnd) {
  const char* const sets[] = {
      "edit tree tree_id=7 condition:2->3\nremove tree tree_id=9 tag:\"T9\"\nadd species name=\"ash\" @a\nedit tree "
      "tree_id=8 species_id:1->{\"ref\":\"a\"}",
      "edit species species_id=1 name:\"lime\"->\"oak\"\nedit species species_id=2 name:\"oak\"->\"lime\"",
      "edit photo photo_id=1 photo_id:1->2 caption:\"crown\"->\"top\"\nedit photo photo_id=2 photo_id:2->1",
      "edit tree tree_id=7 note:\"old\"->\"it's\\r\\n\\\"so\\\";\\\\--\\t''\\\\n$$:x\u0020end\" height:12.5->0.1",
      "edit tree tree_id=7 note:\"old\"->\"\\\\q\"\nedit tree tree_id=8 note:null->\"ü🌳\"\nadd species "
      "name=\"\\\\!echo\"",
      "edit tree tree_id=7 note:\"OLD\"->\"new\"",  // guarded: this is not what it held, whatever the collation says
      "edit inspection tree_id=7 inspected_on=\"2025-03-02\" grade:\"sound\"->\"poor\" inspected_on:\"2025-03-02\"->"
      "\"2025-03-03\"",
  };
  for (const char* lines : sets) {
    SCOPED_TRACE(lines);
    TestDatabase db(smallRegister(GetParam()), GetParam());
    const std::string script = scriptOf(db, lines, false);
    const std::string start = db.dump();
    const std::string outcome = db.apply(lines);
    EXPECT_EQ(outcome == "applied" ? db.dump() : start, afterPlainClient(GetParam(), script, outcome != "applied"))
        << script;
  }
}

}  // namespace
}  // namespace iterandum::test
