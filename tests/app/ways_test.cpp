// The ways out of a finding, taken in the review itself by the mouse, and a change file from elsewhere.
#include <QTableView>
#include <fstream>

#include "app/counted_hands.h"
#include "app/file_dialog.h"
#include "app/review/finding_editor.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;

class WindowWaysTest : public WindowTest {
 protected:
  [[nodiscard]] bool offers(const QString& text) const {
    const auto all = review()->findChildren<QPushButton*>();
    return std::any_of(all.begin(), all.end(), [&](QPushButton* b) { return b->isVisible() && b->text() == text; });
  }
  void reviewed() {
    ASSERT_TRUE(wait([&] { return review()->review().has_value() && !review()->busy(); }));
  }
  void toFinding() {
    key(Qt::Key_F8);
    QCoreApplication::processEvents();
  }
  // A species that trees are of.
  void toTheFindingOfARemovedSpecies() {
    openTable("species");
    at(1, "name");
    key(Qt::Key_Delete, Qt::ControlModifier);
    goToReview();
    toFinding();
  }
  // A grade that somebody else changed meanwhile, with the editor open where that is said.
  void openConflict() {
    openTable("tree");
    at(0, "condition");
    type("3");
    key(Qt::Key_Return);
    db.run("UPDATE tree SET condition = 4 WHERE tree_id = 7");
    goToReview();
    toFinding();
    pressInReview("Something else…");
    ASSERT_TRUE(wait([&] { return review()->findChild<CellEditor*>() != nullptr; }));
    key(Qt::Key_A, Qt::ControlModifier);
  }
  void openFile(const std::string& content) {
    const std::string path = db.file("from elsewhere.json");
    std::ofstream(path) << content;
    answerWith(path);
    key(Qt::Key_Q, Qt::ControlModifier | Qt::AltModifier);
    window->activateWindow();
    ASSERT_TRUE(QTest::qWaitForWindowActive(window.get()));
  }
};

// With its key and what was changed of it; what the database refuses then is corrected in the new record's group.
TEST_F(WindowWaysTest, ARecordThatIsGoneIsAddedAgain) {
  openTable("photo");
  for (const int row : {0, 1}) {
    at(row, "caption");
    type("leaves");
    key(Qt::Key_Return);
  }
  db.run("DELETE FROM photo");
  goToReview();
  toFinding();
  pressInReview("Add all of them again");
  ASSERT_TRUE(wait([&] { return review()->ready(); })) << staged();
  EXPECT_EQ("add caption=leaves photo_id=1; add caption=leaves photo_id=2", staged());
  key(Qt::Key_Z, Qt::ControlModifier);
  EXPECT_EQ("edit 1 caption=leaves; edit 2 caption=leaves", staged()) << "one step of undo";
  reviewed();
  toFinding();
  pressInReview("Add it again");
  ASSERT_TRUE(wait([&] { return counts().added == 1; })) << staged();
  EXPECT_EQ("edit 2 caption=leaves; add caption=leaves photo_id=1", staged());
}

// Two spellings of one species: giving one of them the other's name says that they are the same thing.
TEST_F(WindowWaysTest, RecordsThatWouldHaveOneValueAreMerged) {
  openTable("species");
  at(1, "name");
  type("lime");
  key(Qt::Key_Return);
  goToReview();
  toFinding();
  pressInReview("Merge the two…");
  ASSERT_TRUE(wait([&] { return sheet() != nullptr && sheet()->findChild<QPushButton*>("mergeStage")->isEnabled(); }))
      << message().toStdString();
  EXPECT_TRUE(changes().empty()) << staged();
  EXPECT_TRUE(sheet()->findChild<QWidget*>("mergeWords")->isVisible());
  QTest::mouseClick(sheet()->findChild<QPushButton*>("mergeStage"), Qt::LeftButton);
  EXPECT_EQ("remove 2; edit 9 species_id=1", staged());
  goToReview();
  ASSERT_TRUE(wait([&] { return review()->ready(); })) << staged();
}

TEST_F(WindowWaysTest, AThirdValueIsTypedWhereTheConflictIs) {
  openConflict();
  type("1");
  key(Qt::Key_Return);
  ASSERT_TRUE(wait([&] { return review()->ready(); })) << staged();
  EXPECT_EQ("edit 7 condition=1", staged());
  EXPECT_EQ(nullptr, review()->findChild<CellEditor*>());
  // One step of undo: the correction as it was, and the conflict with it.
  key(Qt::Key_Z, Qt::ControlModifier);
  ASSERT_TRUE(wait([&] { return review()->review().has_value() && !review()->busy() && !review()->ready(); }));
  EXPECT_EQ("edit 7 condition=3", staged());
  key(Qt::Key_Y, Qt::ControlModifier);
  ASSERT_TRUE(wait([&] { return review()->ready(); }));
  key(Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier);
  ASSERT_TRUE(wait([&] { return changes().empty(); }));
  EXPECT_EQ("1", db.rows("SELECT condition FROM tree WHERE tree_id = 7"));
}

TEST_F(WindowWaysTest, WhatDoesNotFitStaysInTheEditorWithTheReasonAndEscapeLeavesIt) {
  openConflict();
  type("many");
  key(Qt::Key_Return);
  ASSERT_NE(nullptr, review()->findChild<CellEditor*>());
  EXPECT_EQ("many", review()->findChild<CellEditor*>()->text().toStdString());
  EXPECT_EQ("edit 7 condition=3", staged());
  key(Qt::Key_Escape);
  ASSERT_TRUE(wait([&] { return review()->findChild<FindingEditor*>() == nullptr; }));
  EXPECT_EQ("edit 7 condition=3", staged());
}

TEST_F(WindowWaysTest, AReferenceIsChosenByNameOrItsRecordIsAdded) {
  openFile(R"({"format":"iterandum-changes","version":1,"title":"Two lost","changes":[
    {"action":"edit","table":"tree","key":{"tree_id":7},"cells":{"species_id":{"from":1,"to":98}}},
    {"action":"edit","table":"tree","key":{"tag":"T9"},"cells":{"species_id":{"to":99}}}]})");
  reviewed();
  EXPECT_EQ("Two lost", review()->findChild<QLineEdit*>("reviewTitle")->text().toStdString());
  EXPECT_EQ("edit 7 species_id=98; edit 9 species_id=99", staged()) << "its key is another one here";
  EXPECT_THAT(message().toStdString(),
              HasSubstr("2 changes of from elsewhere.json are staged; nothing is written yet"));
  EXPECT_THAT(message().toStdString(), HasSubstr("1 value came without what was seen there"));
  pressInReview("Correct it here…");
  ASSERT_TRUE(wait([&] { return review()->findChild<CellEditor*>() != nullptr; }));
  key(Qt::Key_A, Qt::ControlModifier);
  type("oak");
  key(Qt::Key_Return);
  ASSERT_TRUE(wait([&] { return staged() == "edit 7 species_id=2; edit 9 species_id=99"; })) << staged();
  reviewed();
  toFinding();
  pressInReview("Add it");
  ASSERT_TRUE(wait([&] { return counts().added == 1; })) << staged();
  reviewed();
  EXPECT_FALSE(review()->ready()) << "it wants a name";
  window->activateWindow();
  toFinding();
  pressInReview("Correct it here…");
  ASSERT_TRUE(wait([&] { return review()->findChild<CellEditor*>() != nullptr; }));
  type("yew");
  key(Qt::Key_Return);
  ASSERT_TRUE(wait([&] { return review()->ready(); })) << staged();
  key(Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier);
  ASSERT_TRUE(wait([&] { return changes().empty(); }));
  EXPECT_EQ("7|2\n9|99", db.rows("SELECT tree_id, species_id FROM tree WHERE tree_id <> 8 ORDER BY 1"));
  EXPECT_EQ("99|yew", db.rows("SELECT * FROM species WHERE species_id > 3"));
}

TEST_F(WindowWaysTest, ThosePointingAreShownOrGoToo) {
  toTheFindingOfARemovedSpecies();
  EXPECT_FALSE(offers("Let them point at nothing")) << "a tree is of some species";
  pressInReview("Show them");
  ASSERT_TRUE(wait([&] { return sheet() != nullptr && settled() && sheet()->table().name.name == "tree"; }));
  EXPECT_EQ(1, sheet()->model().source().rows());
  key(Qt::Key_F7, Qt::ShiftModifier);
  ASSERT_TRUE(wait([&] { return sheet() == nullptr; })) << "back at the review";
  pressInReview("Remove them too");
  ASSERT_TRUE(wait([&] { return review()->ready(); })) << staged();
  EXPECT_EQ("remove 9; remove 2; remove 9", staged()) << "the tree, and the inspection that goes with it";
  key(Qt::Key_Z, Qt::ControlModifier);
  ASSERT_TRUE(wait([&] { return counts().removed == 1; })) << "one gesture";
}

TEST_F(WindowWaysTest, ThosePointingAreGivenAnother) {
  db.run("UPDATE tree SET species_id = 2 WHERE tree_id = 8");
  toTheFindingOfARemovedSpecies();
  pressInReview("Let them point at another…");
  ASSERT_TRUE(wait([&] { return review()->findChild<CellEditor*>() != nullptr; }));
  key(Qt::Key_A, Qt::ControlModifier);
  type("elm");
  key(Qt::Key_Return);
  ASSERT_TRUE(wait([&] { return review()->ready(); })) << staged();
  EXPECT_EQ("remove 2; edit 8 species_id=3; edit 9 species_id=3", staged());
  EXPECT_EQ("Let 2 records point at another", changes().lastGesture().title) << "one gesture";
  EXPECT_EQ(nullptr, review()->findChild<CellEditor*>());
  key(Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier);
  ASSERT_TRUE(wait([&] { return changes().empty(); }));
  EXPECT_EQ("7|1\n8|3\n9|3", db.rows("SELECT tree_id, species_id FROM tree ORDER BY 1"));
  EXPECT_EQ("1\n3", db.rows("SELECT species_id FROM species ORDER BY 1"));
}

// What is typed there is meant for all of them: going elsewhere takes nothing.
TEST_F(WindowWaysTest, AnotherIsChosenOnlyWhenItIsSaid) {
  toTheFindingOfARemovedSpecies();
  pressInReview("Let them point at another…");
  ASSERT_TRUE(wait([&] { return review()->findChild<CellEditor*>() != nullptr; }));
  key(Qt::Key_A, Qt::ControlModifier);
  type("elm");
  review()->findChild<QLineEdit*>("reviewTitle")->setFocus();
  ASSERT_TRUE(wait([&] { return review()->findChild<CellEditor*>() == nullptr; }));
  EXPECT_EQ("remove 2", staged());
}

TEST_F(WindowWaysTest, ARecordThatWasChangedGoesAllTheSame) {
  openTable("photo");
  at(0, "caption");
  key(Qt::Key_Delete, Qt::ControlModifier);
  db.run("UPDATE photo SET caption = 'crown and root', tree_id = 8 WHERE photo_id = 1");
  goToReview();
  ASSERT_FALSE(review()->ready());
  toFinding();
  pressInReview("Remove it all the same");
  ASSERT_TRUE(wait([&] { return review()->ready(); })) << staged();
  key(Qt::Key_Z, Qt::ControlModifier);
  ASSERT_TRUE(wait([&] { return review()->review().has_value() && !review()->busy() && !review()->ready(); }));
  key(Qt::Key_Y, Qt::ControlModifier);
  ASSERT_TRUE(wait([&] { return review()->ready(); }));
  // Read as it was when that was said: what is changed after that is another matter.
  db.run("UPDATE photo SET caption = 'root' WHERE photo_id = 1");
  key(Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier);
  ASSERT_TRUE(wait([&] { return !review()->busy() && !review()->ready(); }));
  EXPECT_EQ("2", db.rows("SELECT count(*) FROM photo"));
}

// Two hundred records that somebody else changed: five of them are ours, the others theirs.
class ConflictTableTest : public CountedHandsTest {};

TEST_F(ConflictTableTest, FiveOfTwoHundredAreKept) {
  openLeaves(200);
  std::vector<CellEdit> edits;
  for (int id = 1; id <= 200; ++id) {
    edits.push_back({{{"", "leaf"}, {Value::integer(id)}, 0}, "size", Value::integer(id % 10), Value::integer(70)});
  }
  window->desk()->staged().stageEdits("seventy", edits);
  db.run("UPDATE leaf SET size = leaf_id + 1000");
  acts = 0;
  chord(Qt::Key_R, kCtrl);
  ASSERT_TRUE(wait([&] { return review()->review().has_value() && !review()->busy(); }));
  auto* table = review()->findChild<QTableView*>("conflicts");
  ASSERT_NE(nullptr, table);
  EXPECT_EQ(200, table->model()->rowCount());
  const auto cell = [&](int row, int column) { return table->model()->index(row, column).data().toString(); };
  EXPECT_EQ("4", cell(3, 2).toStdString());
  EXPECT_EQ("1004", cell(3, 3).toStdString());
  EXPECT_EQ("70", cell(3, 4).toStdString());
  EXPECT_EQ("Keep mine", review()->findChild<QPushButton*>("keepChosen")->text().toStdString()) << "in the first";
  for (const int row : {0, 2, 3, 5, 6}) {
    ++acts;
    QTest::mouseClick(table->viewport(), Qt::LeftButton, row == 0 ? Qt::NoModifier : Qt::ControlModifier,
                      table->visualRect(table->model()->index(row, 3)).center());
  }
  ++acts;
  pressInReview("Keep mine in 5");
  ASSERT_TRUE(wait([&] { return review()->review().has_value() && !review()->busy(); }));
  ASSERT_TRUE(wait([&] {
    auto* now = review()->findChild<QTableView*>("conflicts");
    return now != nullptr && now->model()->rowCount() == 195;
  }));
  ++acts;
  pressInReview("Take theirs in all");
  ASSERT_TRUE(wait([&] { return review()->ready(); }));
  EXPECT_LE(acts, 12);
  EXPECT_EQ("edit 1 size=70; edit 3 size=70; edit 4 size=70; edit 6 size=70; edit 7 size=70", staged());
  // By keys alone: all of those that are chosen.
  key(Qt::Key_Z, kCtrl);
  ASSERT_TRUE(wait([&] { return review()->findChild<QTableView*>("conflicts") != nullptr && !review()->busy(); }));
  review()->findChild<QTableView*>("conflicts")->setFocus();
  key(Qt::Key_A, kCtrl);
  pressInReview("Keep mine in 195");
  ASSERT_TRUE(wait([&] { return review()->ready(); }));
  chord(Qt::Key_Return, kCtrlShift);
  ASSERT_TRUE(wait([&] { return changes().empty(); }));
  EXPECT_EQ("200", db.rows("SELECT count(*) FROM leaf WHERE size = 70"));
}

TEST_F(WindowWaysTest, ThosePointingLetGo) {
  window.reset();
  db.run(
      "CREATE TABLE crew (crew_id INTEGER PRIMARY KEY, name TEXT); CREATE TABLE job (job_id INTEGER PRIMARY KEY, "
      "crew_id INTEGER REFERENCES crew ON DELETE RESTRICT); INSERT INTO crew VALUES (1, 'North'), (2, 'South'); "
      "INSERT INTO job VALUES (10, 1), (11, 1), (12, 2)");
  start();
  openTable("crew");
  at(0, "name");
  key(Qt::Key_Delete, Qt::ControlModifier);
  goToReview();
  toFinding();
  pressInReview("Let them point at nothing");
  ASSERT_TRUE(wait([&] { return review()->ready(); })) << staged();
  key(Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier);
  ASSERT_TRUE(wait([&] { return changes().empty(); }));
  EXPECT_EQ("10|-\n11|-\n12|2", db.rows("SELECT * FROM job ORDER BY 1"));
  EXPECT_EQ("2|South", db.rows("SELECT * FROM crew"));
}

// One of two is staged to point elsewhere already: that stays as it is, whatever is done with the other.
TEST_F(WindowWaysTest, WhatIsStagedAlreadyIsLeftAsItIs) {
  window.reset();
  db.run(
      "CREATE TABLE crew (crew_id INTEGER PRIMARY KEY, name TEXT); CREATE TABLE job (job_id INTEGER PRIMARY KEY, "
      "crew_id INTEGER REFERENCES crew ON DELETE RESTRICT); INSERT INTO crew VALUES (1, 'North'), (2, 'South'); "
      "INSERT INTO job VALUES (10, 1), (11, 1)");
  start();
  openTable("job");
  at(0, "crew_id");
  type("2");
  key(Qt::Key_Return);
  ASSERT_TRUE(wait([&] { return staged() == "edit 10 crew_id=2"; })) << staged();
  openTable("crew");
  at(0, "name");
  key(Qt::Key_Delete, Qt::ControlModifier);
  goToReview();
  toFinding();
  pressInReview("Remove them too");
  ASSERT_TRUE(wait([&] { return message().contains("job 10 hangs on it in the database"); }))
      << message().toStdString();
  EXPECT_EQ("remove 1; edit 10 crew_id=2", staged());
  pressInReview("Let them point at nothing");
  ASSERT_TRUE(wait([&] { return review()->ready(); })) << staged();
  EXPECT_EQ("remove 1; edit 10 crew_id=2; edit 11 crew_id=-", staged());
}

TEST_F(WindowWaysTest, WhoHasAValueIsShown) {
  openTable("tree");
  at(0, "tag");
  type("T8");
  key(Qt::Key_Return);
  goToReview();
  toFinding();
  pressInReview("Show who has it");
  ASSERT_TRUE(wait([&] { return sheet() != nullptr && settled(); }));
  EXPECT_EQ("8", canonicalText(sheet()->model().source().key(0)[0]));
}

TEST_F(WindowWaysTest, AFileThatIsNoneStagesNothing) {
  openTable("tree");
  openFile("{\"format\": \"iterandum-changes\", \"version\": 1, \"changes\": [{\"action\": \"edit\"}]}");
  ASSERT_TRUE(wait([&] { return message().contains("Nothing of from elsewhere.json was staged"); }))
      << message().toStdString();
  EXPECT_THAT(message().toStdString(), HasSubstr("/changes/0"));
  EXPECT_TRUE(changes().empty());
}

}  // namespace
}  // namespace iterandum::test
