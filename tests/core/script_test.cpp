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
std::string afterPlainClient(Engine engine, const std::string& script) {
  TestDatabase copy(smallRegister(engine), engine);
  const std::string said = copy.runInPlainClient(script);
  return said + copy.dump();
}

TEST(ScriptTest, TheSameChangeToManyRecordsIsOneStatement) {
  TestDatabase db(kSmallRegister);
  EXPECT_EQ(
      "PRAGMA foreign_keys = ON;\nBEGIN IMMEDIATE;\nPRAGMA defer_foreign_keys = ON;\n"
      "UPDATE OR ABORT \"tree\" SET \"condition\" = 3 WHERE \"tree_id\" IN (7, 8) AND \"condition\" = 2;\n"
      "UPDATE OR ABORT \"tree\" SET \"condition\" = 3 WHERE \"tree_id\" = 9 AND \"condition\" = 4;\nCOMMIT;\n",
      scriptOf(db,
               "edit tree tree_id=7 condition:2->3\nedit tree tree_id=8 condition:2->3\nedit tree tree_id=9 "
               "condition:4->3"));
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
    EXPECT_EQ(outcome == "applied" ? db.dump() : start, afterPlainClient(Engine::Sqlite, script)) << script;
  }
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
    EXPECT_EQ(outcome == "applied" ? db.dump() : start, afterPlainClient(GetParam(), script)) << script;
  }
}

}  // namespace
}  // namespace iterandum::test
