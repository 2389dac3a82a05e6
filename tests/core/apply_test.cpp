// Applying: what is written, what is compared before, and that it is all or nothing.
#include "support/test_database.h"

namespace iterandum::test {
namespace {

std::string treeIn(const TestDatabase& db, int id) {
  return db.rows("SELECT tag, species_id, condition, height, note, stamped FROM tree WHERE tree_id = " +
                 std::to_string(id));
}

class ApplyTest : public EngineTest {
 protected:
  [[nodiscard]] std::string tree(int id) const { return treeIn(db, id); }
  TestDatabase db{smallRegister(GetParam()), GetParam()};
};
ITERANDUM_ON_ALL_ENGINES(ApplyTest);

class ApplyOnSqliteTest : public ::testing::Test {
 protected:
  [[nodiscard]] std::string tree(int id) const { return treeIn(db, id); }
  TestDatabase db{kSmallRegister};
};

TEST_P(ApplyTest, EditsAreWrittenAndTheReceiptHoldsTheRecordBeforeAndAfter) {
  EXPECT_EQ("applied", db.apply("edit tree tree_id=7 condition:2->3"));
  EXPECT_EQ("T7|1|3|12.5|old|stamped", tree(7));
  ASSERT_EQ(1U, db.receipt().blocks.size());
  const ReceiptBlock& block = db.receipt().blocks[0];
  EXPECT_EQ((std::vector<std::string>{"tree_id", "tag", "species_id", "condition", "height", "note", "stamped",
                                      "double_height"}),
            block.columns);
  EXPECT_EQ(Value::integer(2), block.before[3].at(0));
  EXPECT_EQ(Value::integer(3), block.after[3].at(0));
  EXPECT_EQ(Value::text("stamped"), block.after[6].at(0));
  EXPECT_EQ("steward", db.receipt().appliedBy);
}

TEST_P(ApplyTest, RecordEditedBySomebodyElseIsReportedAndNothingIsWritten) {
  db.run("UPDATE tree SET condition = 4 WHERE tree_id = 7");
  const std::string before = db.dump();
  EXPECT_EQ("cell-changed 0 tree[7].condition from=2 to=3 now=4",
            db.apply("edit tree tree_id=7 condition:2->3\nedit tree tree_id=8 condition:2->3"));
  EXPECT_EQ(before, db.dump());
}

TEST_P(ApplyTest, MineWritesOverWhatSomebodyElseChanged) {
  db.run("UPDATE tree SET condition = 4 WHERE tree_id = 7");
  EXPECT_EQ("applied", db.apply("edit tree tree_id=7 condition:2->3", OnConflict::Mine));
  EXPECT_EQ("3", db.rows("SELECT condition FROM tree WHERE tree_id = 7"));
}

TEST_P(ApplyTest, TheirsDropsTheCellsThatSomebodyElseChangedAndWritesTheRest) {
  db.run("UPDATE tree SET condition = 4 WHERE tree_id = 7");
  EXPECT_EQ("applied",
            db.apply("edit tree tree_id=7 condition:2->3 note:\"old\"->\"new\"\nremove tree tree_id=8 condition:1",
                     OnConflict::Theirs));
  EXPECT_EQ("T7|1|4|12.5|new|stamped", tree(7));
  EXPECT_EQ("T8|1|2|9|-|-", tree(8));
}

TEST_P(ApplyTest, NeitherMineNorTheirsTouchesOtherFindings) {
  EXPECT_EQ("record-gone 0 tree[99]", db.apply("edit tree tree_id=99 condition:2->3", OnConflict::Mine));
  EXPECT_EQ("record-gone 0 tree[99]", db.apply("edit tree tree_id=99 condition:2->3", OnConflict::Theirs));
}

TEST_P(ApplyTest, AChangeThatIsSoAlreadyIsANoteAndIsNotWrittenAgain) {
  db.run("UPDATE tree SET condition = 3 WHERE tree_id = 7; UPDATE tree SET stamped = NULL");
  EXPECT_EQ("already-so 0 tree[7].condition from=2 to=3 now=3 (note)\nready",
            db.review("edit tree tree_id=7 condition:2->3"));
  EXPECT_EQ("applied", db.apply("edit tree tree_id=7 condition:2->3"));
  EXPECT_EQ("-", db.rows("SELECT stamped FROM tree WHERE tree_id = 7")) << "the trigger must not have fired";
  EXPECT_EQ(Outcome::AlreadySo, db.receipt().blocks[0].outcomes[0]);
}

TEST_P(ApplyTest, ACellThatIsSoAlreadyIsToldFromOneThatWasChanged) {
  db.run("UPDATE tree SET tag = 'X7', condition = 3, note = 'new' WHERE tree_id = 7");
  EXPECT_EQ(
      "cell-changed 0 tree[7].tag from=T7 to=A7 now=X7\nalready-so 0 tree[7].condition from=2 to=3 now=3 (note)\n"
      "already-so 0 tree[7].note from=old to=new now=new (note)",
      db.review("edit tree tree_id=7 tag:\"T7\"->\"A7\" condition:2->3 note:\"old\"->\"new\""));
}

TEST_P(ApplyTest, NullEmptyTextAndNumbersAreTold) {
  EXPECT_EQ("cell-changed 0 tree[8].note from= to=x now=-", db.apply("edit tree tree_id=8 note:\"\"->\"x\""));
  EXPECT_EQ("cell-changed 0 tree[9].note from=- to=x now=", db.apply("edit tree tree_id=9 note:null->\"x\""));
  EXPECT_EQ("applied", db.apply("edit tree tree_id=9 note:\"\"->null height:20.25->\"12.50\""));
  EXPECT_EQ("T9|2|4|12.5|-|-", tree(9));
}

TEST_P(ApplyTest, TwoAndTwoPointNoughtAreTheSameNumber) {
  EXPECT_EQ("applied", db.apply("edit tree tree_id=7.0 condition:2.0->3.0"));
  EXPECT_EQ("3", db.rows("SELECT condition FROM tree WHERE tree_id = 7"));
}

TEST_F(ApplyOnSqliteTest, NumbersTakeTheFormThatTheColumnGivesThem) {
  EXPECT_EQ("applied", db.apply("edit tree tree_id=9 height:20.25->\"12.50\"\nedit tree tree_id=7 condition:2->3.0"));
  EXPECT_EQ("real", db.rows("SELECT typeof(height) FROM tree WHERE tree_id = 9"));
  EXPECT_EQ("integer", db.rows("SELECT typeof(condition) FROM tree WHERE tree_id = 7"));
}

TEST_F(ApplyOnSqliteTest, AnyTypeColumnsKeepNumbersAndTextsApart) {
  EXPECT_EQ("cell-changed 0 log[3].message from=2.5 to=x now=2.5", db.apply("edit log rowid=3 message:\"2.5\"->\"x\""));
  EXPECT_EQ("applied", db.apply("edit log rowid=3 message:2.5->\"5\" line:\"two\"->2"));
  EXPECT_EQ("2|integer|5|text",
            db.rows("SELECT line, typeof(line), message, typeof(message) FROM log WHERE rowid = 3"));
}

TEST_P(ApplyTest, RemovalsTakeCascadesAlongAndTheReceiptKeepsThemWhole) {
  EXPECT_EQ("applied", db.apply("remove tree tree_id=7 tag:\"T7\""));
  EXPECT_EQ("", tree(7));
  EXPECT_EQ("9", db.rows("SELECT tree_id FROM inspection"));
  EXPECT_EQ("-|crown", db.rows("SELECT tree_id, caption FROM photo WHERE photo_id = 1"));
  std::size_t cascaded = 0;
  for (const ReceiptBlock& b : db.receipt().blocks) cascaded += b.cascaded ? b.rows() : 0;
  EXPECT_EQ(3U, cascaded);
}

TEST_P(ApplyTest, AdditionsGetTheirKeysAndOthersCanPointAtThem) {
  EXPECT_EQ("applied", db.apply("add tree tag=\"T10\" species_id={\"ref\":\"new\"}\nadd species name=\"lime x\" "
                                "@new\nedit tree tree_id=8 species_id:1->{\"ref\":\"new\"}"));
  EXPECT_EQ("4|lime x", db.rows("SELECT * FROM species WHERE species_id > 3"));
  EXPECT_EQ("T8|4\nT10|4", db.rows("SELECT tag, species_id FROM tree WHERE species_id = 4 ORDER BY tree_id"));
}

TEST_P(ApplyTest, ARemovalAndAnAdditionOfTheSameKeyAreAReplacement) {
  EXPECT_EQ("applied", db.apply("remove photo photo_id=1 caption:\"crown\"\nadd photo photo_id=1 caption=\"root\""));
  EXPECT_EQ("1|-|root", db.rows("SELECT * FROM photo WHERE photo_id = 1"));
}

TEST_P(ApplyTest, EditsOfOneRecordAreMergedIntoOne) {
  EXPECT_EQ("applied", db.apply("edit tree tree_id=7 condition:2->3\nedit tree tag=\"T7\" note:\"old\"->\"new\""));
  EXPECT_EQ("T7|1|3|12.5|new|stamped", tree(7));
  EXPECT_EQ(1U, db.receipt().appliedCount());
}

TEST_P(ApplyTest, EditAndRemovalOfOneRecordIsAnErrorOfTheFile) {
  EXPECT_THAT(db.apply("edit tree tree_id=7 condition:2->3\nremove tree tree_id=7 tag:\"T7\""),
              ::testing::StartsWith("error: /changes/1: tree 7 is edited and removed"));
}

TEST_F(ApplyOnSqliteTest, AKeyFoundOnlyByFoldingCaseIsNotThatRecord) {
  db.run("CREATE TABLE crew (name TEXT PRIMARY KEY COLLATE NOCASE, lead TEXT); INSERT INTO crew VALUES ('Alder', 'x')");
  EXPECT_EQ("record-gone 0 crew[ALDER]", db.apply("edit crew name=\"ALDER\" lead:\"x\"->\"y\""));
  EXPECT_EQ("applied", db.apply("edit crew name=\"Alder\" lead:\"x\"->\"y\""));
}

TEST_F(ApplyOnSqliteTest, RecordsThatAreExactlyAlikeAreNotTouched) {
  db.run(
      "CREATE TABLE plain (\"rowid\", \"_rowid_\", \"oid\"); INSERT INTO plain VALUES (1, 2, 3), (1, 2, 3), (4, 5, 6)");
  EXPECT_EQ("record-ambiguous 0 plain[1,2,3]", db.apply("edit plain rowid=1 _rowid_=2 oid=3 oid:3->4"));
  EXPECT_EQ("applied", db.apply("edit plain rowid=4 _rowid_=5 oid=6 oid:6->7"));
  EXPECT_EQ("1|2|3\n1|2|3\n4|5|7", db.rows("SELECT * FROM plain ORDER BY 1"));
}

TEST_F(ApplyOnSqliteTest, APrimaryKeyThatHoldsNullDoesNotNameARecordButItsRowIdDoes) {
  db.run("CREATE TABLE tag (name TEXT PRIMARY KEY, meaning TEXT); INSERT INTO tag VALUES (NULL, 'a'), (NULL, 'b')");
  EXPECT_EQ("not-editable 0 tag[]", db.apply("edit tag name=null meaning:\"a\"->\"c\""));
  EXPECT_EQ("applied", db.apply("edit tag rowid=2 meaning:\"b\"->\"c\""));
  EXPECT_EQ("a\nc", db.rows("SELECT meaning FROM tag ORDER BY rowid"));
}

TEST_F(ApplyOnSqliteTest, ViewsWithTriggersAreWrittenThroughAndDroppedWritesAreSeen) {
  db.run(
      "CREATE VIEW tagged AS SELECT tree_id, tag, note FROM tree;"
      "CREATE TRIGGER tagged_edit INSTEAD OF UPDATE ON tagged BEGIN UPDATE tree SET note = NEW.note WHERE tree_id = "
      "OLD.tree_id; END");
  EXPECT_EQ("applied", db.apply("edit tagged tree_id=7 tag=\"T7\" note=\"old\" note:\"old\"->\"seen\""));
  EXPECT_EQ("seen", db.rows("SELECT note FROM tree WHERE tree_id = 7"));
  EXPECT_THAT(db.apply("edit tagged tree_id=8 tag=\"T8\" note=null tag:\"T8\"->\"X8\""),
              ::testing::StartsWith("database-refused 0 tagged[8,T8,]"));
  EXPECT_THAT(db.apply("remove tagged tree_id=8 tag=\"T8\" note=null"), ::testing::StartsWith("not-editable 0"));
}

TEST_F(ApplyOnSqliteTest, ATriggerThatIgnoresTheWriteIsReported) {
  db.run("CREATE TRIGGER quiet BEFORE UPDATE OF note ON tree BEGIN SELECT RAISE(IGNORE); END");
  EXPECT_EQ("database-refused 0 tree[7].note to=x", db.apply("edit tree tree_id=7 note:\"old\"->\"x\""));
}

TEST_F(ApplyOnSqliteTest, ATriggerThatSetsTheOldValueAgainIsReported) {
  db.run(
      "CREATE TRIGGER stubborn AFTER UPDATE OF note ON tree BEGIN UPDATE tree SET note = OLD.note WHERE tree_id = "
      "NEW.tree_id; END");
  EXPECT_EQ("database-refused 0 tree[7].note to=x", db.apply("edit tree tree_id=7 note:\"old\"->\"x\""));
  EXPECT_EQ("old", db.rows("SELECT note FROM tree WHERE tree_id = 7"));
}

TEST_F(ApplyOnSqliteTest, RecordsBrokenBeforeAreNotOurs) {
  db.run(
      "PRAGMA foreign_keys = OFF; INSERT INTO tree (tree_id, tag, species_id) VALUES (50, 'T50', 77); INSERT INTO "
      "photo VALUES (9, 777, 'x')");
  EXPECT_EQ("applied",
            db.apply("edit tree tree_id=50 note:null->\"still broken\"\nremove photo photo_id=9 caption:\"x\""));
}

TEST_P(ApplyTest, AnEmptyChangeSetIsAppliedAsNothing) {
  EXPECT_EQ("ready", db.review(""));
  EXPECT_EQ("applied", db.apply(""));
}

TEST_F(ApplyOnSqliteTest, NoConflictClauseOfTheTableReplacesRecordsBehindOurBack) {
  db.run(
      "CREATE TABLE spot (id INTEGER PRIMARY KEY, code TEXT UNIQUE ON CONFLICT REPLACE); INSERT INTO spot VALUES (1, "
      "'a'), (2, 'b')");
  EXPECT_EQ("duplicate 0 spot[2].code to=a", db.apply("edit spot id=2 code:\"b\"->\"a\""));
  EXPECT_EQ("1|a\n2|b", db.rows("SELECT * FROM spot"));
}

TEST_P(ApplyTest, WhatKeepReceiptRefusesIsNotApplied) {
  Progress progress;
  ApplyOptions options;
  LambdaKeeper keeper(
      [](const Receipt&, ReceiptStage) -> Status { return fail(ErrorKind::InvalidFile, "no room for the receipt"); });
  options.keeper = &keeper;
  const std::string before = db.dump();
  const auto result = applyChanges(db.session(), db.catalogue(),
                                   TestDatabase::changes("edit tree tree_id=7 condition:2->3"), options, progress);
  ASSERT_FALSE(result.has_value());
  EXPECT_EQ("the receipt cannot be kept: no room for the receipt; nothing was written", result.error().message);
  EXPECT_EQ(before, db.dump());
}

}  // namespace
}  // namespace iterandum::test
