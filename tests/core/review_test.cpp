// Review: all findings at once, effects, and that nothing is left behind.
#include "support/test_database.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;

class ReviewTest : public EngineTest {
 protected:
  TestDatabase db{smallRegister(GetParam()), GetParam()};
};
ITERANDUM_ON_ALL_ENGINES(ReviewTest);

class ReviewOnSqliteTest : public ::testing::Test {
 protected:
  TestDatabase db{kSmallRegister};
};

TEST_P(ReviewTest, AllProblemsAreReportedAtOnceAndNothingIsLeftBehind) {
  db.run("UPDATE tree SET condition = 5 WHERE tree_id = 9");
  const std::string before = db.dump();
  EXPECT_EQ(
      "cell-changed 0 tree[9].condition from=4 to=3 now=5\n"
      "record-gone 1 tree[99]\n"
      "not-editable 2 tree[7].double_height\n"
      "value-refused 2 tree[7].condition from=2 to=9\n"
      "duplicate 3 tree[].tag to=T8\n"
      "parent-missing 4 tree[8].species_id to=77\n"
      "still-referenced 5 species[2] rows=1 in tree\n"
      "structure-changed 6 shrub[1]\n"
      "structure-changed 7 tree[8].colour",
      db.review("edit tree tree_id=9 condition:4->3\n"
                "edit tree tree_id=99 condition:4->3\n"
                "edit tree tree_id=7 condition:2->9\n"
                "add tree tag=\"T8\" species_id=1\n"
                "edit tree tree_id=8 species_id:1->77\n"
                "remove species species_id=2 name:\"oak\"\n"
                "edit shrub shrub_id=1 name:\"a\"->\"b\"\n"
                "edit tree tree_id=8 colour:1->2\n"
                "edit tree tree_id=7 double_height:25->26"));
  EXPECT_EQ(before, db.dump());
}

TEST_P(ReviewTest, ReadingAloneFindsTheSame) {
  const std::string changes =
      "edit tree tree_id=7 condition:1->3\nadd tree tag=\"T8\" species_id=1\nedit tree tree_id=8 species_id:1->77\n"
      "remove species species_id=2 name:\"oak\"\nadd inspection tree_id=8 inspected_on=\"2026-01-01\" grade=\"odd\"";
  EXPECT_EQ(db.review(changes, true), db.review(changes, false));
}

TEST_P(ReviewTest, ValuesAreCheckedByTypeRangeLengthAndNull) {
  EXPECT_EQ(
      "value-refused 0 tree[7].condition from=2 to=much\n"
      "value-refused 1 tree[8].tag from=T8 to=far too long\n"
      "value-refused 2 tree[9].tag from=T9 to=-\n"
      "value-refused 3 tree[].species_id\n"
      "value-refused 4 inspection[].grade to=odd\n"
      "value-refused 5 inspection[].inspected_on to=yesterday",
      db.review("edit tree tree_id=7 condition:2->\"much\"\nedit tree tree_id=8 tag:\"T8\"->\"far too long\"\nedit "
                "tree tree_id=9 tag:\"T9\"->null\n"
                "add tree tag=\"T11\"\nadd inspection tree_id=8 inspected_on=\"2026-01-01\" grade=\"odd\"\nadd "
                "inspection tree_id=8 inspected_on=\"yesterday\""));
}

TEST_F(ReviewOnSqliteTest, RulesTheDatabaseAloneKnowsAreFoundByRehearsal) {
  db.run(
      "CREATE TABLE plot (id INTEGER PRIMARY KEY, low INT, high INT, CHECK (low < high)); INSERT INTO plot VALUES (1, "
      "1, 2), (2, 1, 2);"
      "CREATE TRIGGER guard BEFORE DELETE ON plot BEGIN SELECT RAISE(ABORT, 'plots stay'); END");
  const std::string changes = "edit plot id=1 low:1->5\nremove plot id=2 low:1";
  EXPECT_EQ("value-refused 0 plot[1].low to=5\ndatabase-refused 1 plot[2]", db.review(changes));
  EXPECT_EQ("value-refused 0 plot[1].low\nready", db.review("edit plot id=1 low:1->5", false) + "\nready");
}

TEST_F(ReviewOnSqliteTest, ATriggerThatRollsTheTransactionBackDoesNotHideTheOthers) {
  db.run(
      "CREATE TRIGGER hard BEFORE UPDATE OF note ON tree WHEN NEW.note = 'x' BEGIN SELECT RAISE(ROLLBACK, 'no x "
      "here'); END");
  EXPECT_EQ("database-refused 0 tree[7].note to=x\nduplicate 2 species[1].name to=oak",
            db.review("edit tree tree_id=7 note:\"old\"->\"x\"\nedit tree tree_id=8 condition:2->3\nedit species "
                      "species_id=1 name:\"lime\"->\"oak\""));
  EXPECT_EQ("2", db.rows("SELECT condition FROM tree WHERE tree_id = 8"));
}

TEST_P(ReviewTest, DoublesInsideTheChangeSetAreFound) {
  EXPECT_EQ("duplicate 1 species[].name to=ash", db.review("add species name=\"ash\"\nadd species name=\"ash\""));
}

TEST_P(ReviewTest, ChildrenRemovedOrRepointedByTheSameChangeSetDoNotCount) {
  EXPECT_EQ("ready", db.review("remove species species_id=2 name:\"oak\"\nedit tree tree_id=9 species_id:2->1"));
  EXPECT_EQ("still-referenced 0 species[1] rows=1 in tree",
            db.review("remove species species_id=1 name:\"lime\"\nremove tree tree_id=8 tag:\"T8\""));
}

TEST_P(ReviewTest, AParentThatTheSameChangeSetRemovesIsMissing) {
  EXPECT_EQ("parent-missing 1 tree[7].species_id to=3",
            db.review("remove species species_id=3 name:\"elm\"\nedit tree tree_id=7 species_id:1->3"));
}

TEST_P(ReviewTest, MissingGuardsAreNotes) {
  EXPECT_EQ("unguarded 0 tree[7].note to=x now=old (note)\nunguarded 1 photo[2] (note)\nready",
            db.review("edit tree tree_id=7 note->\"x\"\nremove photo photo_id=2"));
}

TEST_P(ReviewTest, EffectsOfTriggersDefaultsComputedColumnsAndCascades) {
  EXPECT_EQ(
      "database-set 0 tree.stamped ->stamped\n"
      "database-set 1 tree.double_height 18.0->20.0\n"
      "database-set 2 inspection.grade ->unknown\n"
      "cascade-remove 3 inspection rows=1\n"
      "cascade-set 3 photo.tree_id rows=1",
      db.effects("edit tree tree_id=7 condition:2->3\nedit tree tree_id=8 height:9->10\nadd inspection tree_id=8 "
                 "inspected_on=\"2026-01-01\"\nremove tree tree_id=9 tag:\"T9\""));
}

TEST_P(ReviewTest, CascadesAreFollowedOverSeveralTables) {
  db.run(
      "CREATE TABLE note (id INTEGER PRIMARY KEY, tree_id INT, inspected_on DATE, FOREIGN KEY (tree_id, inspected_on) "
      "REFERENCES inspection (tree_id, inspected_on) ON DELETE CASCADE);"
      "INSERT INTO note VALUES (1, 7, '2025-03-02'), (2, 7, '2025-03-02'), (3, 9, '2025-05-05');"
      "CREATE TABLE stamp_on (note_id INT REFERENCES note (id) ON DELETE RESTRICT); INSERT INTO stamp_on VALUES (3)");
  EXPECT_THAT(db.effects("remove tree tree_id=7 tag:\"T7\""), HasSubstr("cascade-remove 0 note rows=2"));
  EXPECT_EQ("still-referenced 0 tree[9] rows=1 in stamp_on", db.review("remove tree tree_id=9 tag:\"T9\""));
}

TEST_P(ReviewTest, MessagesNameTheRecordWhatIsWrongAndWhatToDo) {
  db.run("UPDATE tree SET condition = 4 WHERE tree_id = 7");
  Progress progress;
  const auto review = reviewChanges(
      db.session(), db.catalogue(),
      TestDatabase::changes("edit tree tree_id=7 condition:2->3\nedit tree tree_id=8 condition:2->9"), {}, progress);
  ASSERT_TRUE(review.has_value());
  ASSERT_EQ(2U, review->findings.size());
  EXPECT_EQ("tree 7: condition held 2 when this was staged and holds 4 now; keep yours, take theirs, or put it back",
            review->findings[0].message);
  EXPECT_EQ("tree 8: a whole number from 0 to 5 is wanted in condition, not '9'", review->findings[1].message);
}

TEST_F(ReviewOnSqliteTest, AReadOnlyFileCanBeReviewedByReadingAlone) {
  OpenOptions options;
  options.readOnly = true;
  auto session = openSession(db.path(), options);
  ASSERT_TRUE(session.has_value());
  Progress progress;
  const ChangeList changes = TestDatabase::changes("edit tree tree_id=7 condition:2->3");
  const auto rehearsed = reviewChanges(**session, db.catalogue(), changes, {}, progress);
  ASSERT_FALSE(rehearsed.has_value());
  EXPECT_EQ(ErrorKind::ReadOnly, rehearsed.error().kind);
  ReviewOptions reading;
  reading.rehearse = false;
  const auto read = reviewChanges(**session, db.catalogue(), changes, reading, progress);
  ASSERT_TRUE(read.has_value());
  EXPECT_TRUE(read->ready);
}

TEST_P(ReviewTest, NumbersThatARehearsalUsesUpAreSaid) {
  Progress progress;
  const auto review =
      reviewChanges(db.session(), db.catalogue(), TestDatabase::changes("add species name=\"ash\""), {}, progress);
  ASSERT_TRUE(review.has_value());
  const std::string said =
      "the rehearsal used up numbers that the database gives out for species.species_id; the new "
      "records get later ones";
  EXPECT_EQ(GetParam() == Engine::Sqlite ? "" : said, usedUpInWords(*review));
}

TEST_P(ReviewTest, CancellingStopsIt) {
  Progress progress;
  progress.cancel();
  const auto review = reviewChanges(db.session(), db.catalogue(),
                                    TestDatabase::changes("edit tree tree_id=7 condition:2->3"), {}, progress);
  // A review this small may be through before anybody looks; it must not be half done either way.
  if (!review) {
    EXPECT_EQ(ErrorKind::Cancelled, review.error().kind);
  }
  EXPECT_FALSE(db.session().inTransaction());
}

}  // namespace
}  // namespace iterandum::test
