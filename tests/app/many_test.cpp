// Acts on many records: the slip beside the sheet, its proof, staging, recipes and spellings; by keys and by mouse,
// with the acts that they take counted.
#include <QCheckBox>
#include <QComboBox>
#include <QPlainTextEdit>
#include <QRadioButton>
#include <QTableWidget>
#include <fstream>

#include "app/counted_hands.h"
#include "app/file_dialog.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;

class ManyTest : public CountedHandsTest {
 protected:
  [[nodiscard]] std::string counted() const { return part<QLabel>("actCounts")->text().toStdString(); }
  [[nodiscard]] std::string hint() const { return part<QLabel>("actHint")->text().toStdString(); }
  [[nodiscard]] std::string proof() const {
    auto* list = part<QListWidget>("proof");
    QStringList out;
    for (int i = 0; i < list->count(); ++i) out << list->item(i)->text();
    return out.join(QLatin1Char('\n')).toStdString();
  }
  [[nodiscard]] bool proved() const { return part<QPushButton>("actStage")->isEnabled(); }
  void chooseAct(const char* words) const {
    auto* kind = part<QComboBox>("actKind");
    kind->setCurrentIndex(kind->findText(QString::fromUtf8(words)));
  }
};

TEST_F(ManyTest, OneValueInAllThatMatchByKeyboard) {
  openLeaves(3390);
  at(0, "size");
  chord(Qt::Key_M, kCtrl);
  value("7");
  ASSERT_TRUE(wait([&] { return proved(); }));
  EXPECT_EQ("3,051 change · 339 are so already", counted());
  EXPECT_EQ("leaf 1: 1 → 7", proof().substr(0, proof().find('\n')));
  chord(Qt::Key_Return, kCtrl);
  EXPECT_EQ(3051U, counts().cells);
  EXPECT_EQ("size to 7 in 3051 records", changes().lastGesture().title);
  EXPECT_LE(acts, 6);
  // One gesture, one step back.
  ASSERT_TRUE(wait([&] { return view().hasFocus(); }));
  key(Qt::Key_Z, kCtrl);
  EXPECT_TRUE(changes().empty());
}

TEST_F(ManyTest, OneWordEverywhereWithItsCount) {
  openTable("tree");
  at(0, "note");
  chord(Qt::Key_L, kCtrlShift);
  value("OLD", Qt::Key_Tab);
  ASSERT_TRUE(wait([&] { return proved(); }));
  EXPECT_EQ("1 changes · 2 stay as they are", counted());
  EXPECT_EQ("T7: old → empty text", proof());
  value("ancient");
  ASSERT_TRUE(wait([&] { return proof() == "T7: old → ancient"; }));
  chord(Qt::Key_Return, kCtrl);
  EXPECT_EQ("edit 7 note=ancient", staged());
  EXPECT_LE(acts, 6);
}

TEST_F(ManyTest, OnlyWhatIsSelectedIsMeantAndStagedValuesCount) {
  openTable("tree");
  at(0, "condition");
  type("5");
  key(Qt::Key_Return);
  ASSERT_EQ("edit 7 condition=5", staged());
  at(0, "condition");
  key(Qt::Key_Down, Qt::ShiftModifier);
  key(Qt::Key_M, kCtrl);
  EXPECT_TRUE(part<QRadioButton>("actSelected")->isChecked());
  chooseAct("is computed");
  part<QPlainTextEdit>("actExpression")->setFocus();
  type("[condition] - 1");
  ASSERT_TRUE(wait([&] { return proved() && proof() == "T7: 5 → 4\nT8: 2 → 1"; })) << proof();
  click(part<QPushButton>("actStage"));
  EXPECT_EQ("edit 7 condition=4; edit 8 condition=1", staged());
  // What was staged over remembers what the database holds.
  EXPECT_EQ(2, changes().table({"", "tree"})->cell(0, "condition")->from.asInteger());
  EXPECT_FALSE(sheet()->findChild<QWidget*>("proof")->isVisible());
}

TEST_F(ManyTest, WhatCannotBeIsShownAndLeftOut) {
  openTable("tree");
  at(0, "condition");
  key(Qt::Key_M, kCtrl);
  chooseAct("is computed");
  part<QPlainTextEdit>("actExpression")->setFocus();
  type("if tree_id = 8 then 1 / 0 else [condition] * 2");
  ASSERT_TRUE(wait([&] { return proved(); }));
  EXPECT_EQ("1 changes · 2 cannot, and are left out", counted());
  EXPECT_THAT(proof(), HasSubstr("T8: division by zero"));
  EXPECT_THAT(proof(), HasSubstr("T9: a whole number from 0 to 5 is wanted in condition, not '8'"));
  EXPECT_THAT(proof(), HasSubstr("T7: 2 → 4"));
  click(part<QPushButton>("actStage"));
  EXPECT_EQ("edit 7 condition=4", staged());
}

TEST_F(ManyTest, WhatIsOffIsSaidWhileItIsTyped) {
  openTable("tree");
  at(0, "condition");
  key(Qt::Key_M, kCtrl);
  EXPECT_FALSE(proved());
  value("many");
  ASSERT_TRUE(wait([&] { return counted() == "0 change · 3 cannot, and are left out"; })) << counted();
  EXPECT_FALSE(proved());
  chooseAct("is computed");
  part<QPlainTextEdit>("actExpression")->setFocus();
  type("[colour]");
  ASSERT_TRUE(wait([&] { return hint().find("'colour' is no column of tree") != std::string::npos; })) << hint();
  part<QPlainTextEdit>("actExpression")->clear();
  ASSERT_TRUE(wait([&] { return hint().find("For example") != std::string::npos; }));
  // Enter leads to the button; there is nothing to stage, and nothing is.
  key(Qt::Key_Return, kCtrl);
  EXPECT_TRUE(changes().empty());
  key(Qt::Key_Escape);
  EXPECT_TRUE(view().hasFocus());
}

TEST_F(ManyTest, AReferenceIsSetByName) {
  openTable("tree");
  at(0, "species_id");
  key(Qt::Key_M, kCtrl);
  value("elm");
  ASSERT_TRUE(wait([&] { return proved(); })) << hint();
  EXPECT_EQ("3 change", counted());
  key(Qt::Key_Return, kCtrl);
  EXPECT_EQ("edit 7 species_id=3; edit 8 species_id=3; edit 9 species_id=3", staged());
  EXPECT_EQ("species_id to elm in 3 records", changes().lastGesture().title);
}

TEST_F(ManyTest, AListOfNamesGoesOverAReference) {
  openTable("tree");
  at(0, "species_id");
  key(Qt::Key_M, kCtrl);
  chooseAct("has a text replaced");
  part<QLineEdit>("actFind")->setFocus();
  type("1");
  ASSERT_TRUE(wait([&] { return hint().find("species_id holds keys") != std::string::npos; })) << hint();
  EXPECT_FALSE(proved());
  chooseAct("goes by a list of old and new");
  part<QPlainTextEdit>("actList")->setPlainText("lime → elm\noak → birch");
  ASSERT_TRUE(wait([&] { return hint() == "no record of species is called “birch”"; })) << hint();
  part<QPlainTextEdit>("actList")->setPlainText("lime → elm");
  ASSERT_TRUE(wait([&] { return proved(); })) << hint();
  EXPECT_TRUE(wait([&] { return proof() == "T7: lime → elm\nT8: lime → elm"; })) << proof();
}

TEST_F(ManyTest, NumbersAreReckonedAndDaysShifted) {
  db.run("UPDATE tree SET height = 12.5 WHERE tree_id = 7");
  openTable("tree");
  at(0, "height");
  key(Qt::Key_M, kCtrl);
  chooseAct("is shifted, multiplied or rounded");
  auto* how = part<QComboBox>("actReckoning");
  auto* by = part<QLineEdit>("actBy");
  const auto first = [&] { return proof().substr(0, proof().find('\n')); };
  const std::tuple<const char*, const char*, const char*> ways[] = {
      {"plus (a number, or a time like 3 months)", "0.75", "T7: 12.5 → 13.25"},
      {"minus", "-1", "T7: 12.5 → 13.5"},
      {"times", "1.1", "T7: 12.5 → 13.75"},
      {"divided by", "4", "T7: 12.5 → 3.125"},
      {"rounded to so many decimals", "0", "T7: 12.5 → 13"}};
  for (const auto& [words, typed, becomes] : ways) {
    how->setCurrentIndex(how->findText(QString::fromUtf8(words)));
    by->setFocus();
    by->selectAll();
    type(typed);
    ASSERT_TRUE(wait([&] { return proved() && first() == becomes; })) << words << ": " << hint() << first();
  }
  key(Qt::Key_Return, kCtrl);
  EXPECT_THAT(changes().lastGesture().title, HasSubstr("height rounded, decimals: 0 in "));
  // Of a reference, what is read is a name.
  at(0, "species_id");
  key(Qt::Key_M, kCtrl);
  chooseAct("is shifted, multiplied or rounded");
  by->setFocus();
  type("1");
  ASSERT_TRUE(wait([&] { return hint().find("species_id holds keys") != std::string::npos; })) << hint();
  openTable("inspection");
  at(0, "inspected_on");
  const std::string was = column("inspected_on").substr(0, 10);
  key(Qt::Key_M, kCtrl);
  chooseAct("is shifted, multiplied or rounded");
  part<QLineEdit>("actBy")->setFocus();
  type("1 year");
  ASSERT_TRUE(wait([&] { return proved(); })) << hint();
  EXPECT_THAT(first(), HasSubstr(was + " → " + std::to_string(std::stoi(was) + 1) + was.substr(4)));
}

TEST_F(ManyTest, TwoColumnsAreExchanged) {
  openTable("tree");
  at(0, "note");
  key(Qt::Key_M, kCtrl);
  chooseAct("is exchanged with another column");
  auto* with = part<QComboBox>("actSwapped");
  with->setCurrentIndex(with->findText("note"));
  ASSERT_TRUE(wait([&] { return hint() == "a column is exchanged with another one, not with itself"; })) << hint();
  with->setCurrentIndex(with->findText("tag"));
  ASSERT_TRUE(wait([&] { return !proof().empty(); })) << hint();
  // One has no note: a tag there must be.
  ASSERT_TRUE(wait([&] { return counted().find("1 cannot, and is left out") != std::string::npos; })) << counted();
  ASSERT_TRUE(wait([&] { return proved(); }));
  key(Qt::Key_Return, kCtrl);
  EXPECT_THAT(staged(), HasSubstr("edit 7 note=T7 tag=old"));
  EXPECT_THAT(changes().lastGesture().title, HasSubstr("note and tag exchanged in "));
}

TEST_F(ManyTest, AListComesFromAFile) {
  openTable("tree");
  at(0, "note");
  key(Qt::Key_M, kCtrl);
  chooseAct("goes by a list of old and new");
  const std::string path = db.file("list.csv");
  const auto open = [&](const std::string& content) {
    std::ofstream(path) << content;
    answerWith(path);
    click(part<QPushButton>("actListFile"));
    window->activateWindow();
    ASSERT_TRUE(QTest::qWaitForWindowActive(window.get()));
  };
  open("old,new,once too many\n");
  EXPECT_THAT(hint(), HasSubstr("two fields are wanted"));
  open("old,\"ancient, hollow\"\n,\"\"\n\"\",\n");
  ASSERT_TRUE(wait([&] { return proved(); })) << hint();
  EXPECT_EQ("T7: old → ancient, hollow\nT8: no value → empty text\nT9: empty text → no value", proof());
}

// What is borrowed follows the reference as it is staged.
TEST_F(ManyTest, BorrowedColumnsFollowWhatIsStaged) {
  openTable("tree");
  at(0, "species_id");
  type("elm");
  key(Qt::Key_Return);
  ASSERT_TRUE(wait([&] { return staged() == "edit 7 species_id=3"; })) << staged();
  at(0, "note");
  key(Qt::Key_M, kCtrl);
  chooseAct("is computed");
  part<QPlainTextEdit>("actExpression")->setFocus();
  type("[species.name] & ' ' & [tag]");
  ASSERT_TRUE(wait([&] { return proved(); }));
  EXPECT_EQ("T7: old → elm T7\nT8: no value → lime T8\nT9: empty text → oak T9", proof());
}

TEST_F(ManyTest, AListIsPastedAndGoesOverTheColumn) {
  openTable("tree");
  at(0, "tag");
  acts = 0;
  chord(Qt::Key_M, kCtrl);
  chooseAct("goes by a list of old and new");
  ++acts;
  QApplication::clipboard()->setText("T7\tA-7\nT8\tA-8\nT99\tA-99\n");
  part<QPlainTextEdit>("actList")->setFocus();
  chord(Qt::Key_V, kCtrl);
  ASSERT_TRUE(wait([&] { return proved(); })) << hint();
  EXPECT_EQ("2 change · 1 stays as it is", counted());
  chord(Qt::Key_Return, kCtrl);
  EXPECT_EQ("edit 7 tag=A-7; edit 8 tag=A-8", staged());
  EXPECT_LE(acts, 4);
}

TEST_F(ManyTest, AllSpellingsBecomeOne) {
  db.run(
      "UPDATE tree SET note = 'Harbour Row' WHERE tree_id <> 8; UPDATE tree SET note = 'Harbor row' WHERE tree_id = 8");
  openTable("tree");
  at(0, "note");
  chord(Qt::Key_D, kCtrlShift);
  auto* values = part<QListWidget>("values");
  ASSERT_TRUE(wait([&] { return !values->findItems("    all become “Harbour Row”", Qt::MatchExactly).isEmpty(); }));
  QListWidgetItem* right = values->findItems("    all become “Harbour Row”", Qt::MatchExactly).front();
  ++acts;
  QTest::mouseClick(values->viewport(), Qt::LeftButton, {}, values->visualItemRect(right).center());
  ASSERT_TRUE(wait([&] { return proved(); })) << hint();
  EXPECT_EQ("T8: Harbor row → Harbour Row", proof());
  chord(Qt::Key_Return);
  EXPECT_EQ("edit 8 note=Harbour Row", staged());
  EXPECT_LE(acts, 5);
}

// Two records that are the same tree, with what points at them: by keys, the acts counted.
TEST_F(ManyTest, TwoRecordsAreMergedWithTheirChildren) {
  openTable("tree");
  at(0, "tag");
  acts = 0;
  chord(Qt::Key_Down, Qt::ShiftModifier);
  chord(Qt::Key_Y, kCtrlShift);
  auto* values = part<QTableWidget>("mergeValues");
  auto* button = part<QPushButton>("mergeStage");
  ASSERT_TRUE(wait([&] { return button->isEnabled(); })) << part<QLabel>("mergeWords")->text().toStdString();
  EXPECT_EQ("Nothing points at those that go.", part<QLabel>("mergeWords")->text().toStdString());
  // What differs comes first: the tag, the height, the note.
  EXPECT_EQ("tag", values->verticalHeaderItem(0)->text().toStdString());
  chord(Qt::Key_Down);
  chord(Qt::Key_Right);
  EXPECT_EQ("9", values->currentItem()->text().toStdString());
  chord(Qt::Key_Return);
  ASSERT_TRUE(wait([&] { return button->isEnabled(); }));
  chord(Qt::Key_Return, kCtrl);
  EXPECT_EQ("edit 7 height=9; remove 8", staged());
  EXPECT_LE(acts, 8);
}

TEST_F(ManyTest, MergingRepointsWhatPointsAtTheOthersAndAsksAboutDoubles) {
  db.run("INSERT INTO inspection VALUES (8, '2025-03-02', 'poor'); UPDATE photo SET tree_id = 8");
  openTable("tree");
  at(0, "tag");
  key(Qt::Key_Down, Qt::ShiftModifier);
  key(Qt::Key_Y, kCtrlShift);
  auto* button = part<QPushButton>("mergeStage");
  auto* doubles = part<QCheckBox>("mergeDoubles");
  ASSERT_TRUE(wait([&] { return doubles->isVisible(); }));
  EXPECT_FALSE(button->isEnabled());
  EXPECT_THAT(part<QLabel>("mergeWords")->text().toStdString(), HasSubstr("inspection 8, 2025-03-02"));
  click(doubles);
  ASSERT_TRUE(wait([&] { return button->isEnabled(); }));
  EXPECT_EQ("What points at those that go points at it then: 2 of photo.",
            part<QLabel>("mergeWords")->text().toStdString());
  click(button);
  EXPECT_EQ("remove 8; edit 1 tree_id=7; edit 2 tree_id=7; remove 8", staged());
  EXPECT_EQ("Merge 1 record into T7", changes().lastGesture().title);
  goToReview();
  ASSERT_TRUE(wait([&] { return review()->ready(); }));
  key(Qt::Key_Return, kCtrlShift);
  ASSERT_TRUE(wait([&] { return changes().empty(); }));
  EXPECT_EQ("7\n9", db.rows("SELECT tree_id FROM tree ORDER BY 1"));
  EXPECT_EQ("7\n7", db.rows("SELECT tree_id FROM photo"));
}

TEST_F(ManyTest, WhatIsStagedStandsAgainstAMerge) {
  db.run("UPDATE photo SET tree_id = 8 WHERE photo_id = 1");
  openTable("photo");
  at(0, "tree_id");
  type("T9");
  key(Qt::Key_Return);
  ASSERT_TRUE(wait([&] { return staged() == "edit 1 tree_id=9"; })) << staged();
  openTable("tree");
  at(0, "tag");
  key(Qt::Key_Down, Qt::ShiftModifier);
  key(Qt::Key_Y, kCtrlShift);
  auto* words = part<QLabel>("mergeWords");
  ASSERT_TRUE(wait([&] { return words->text().contains(QLatin1String("has something staged")); }));
  EXPECT_FALSE(part<QPushButton>("mergeStage")->isEnabled());
  key(Qt::Key_Escape);
  at(0, "tag");
  key(Qt::Key_Y, kCtrlShift);
  EXPECT_THAT(message().toStdString(), HasSubstr("two or more"));
}

TEST_F(ManyTest, ARecipeIsKeptUsedAndForgotten) {
  openTable("tree");
  at(0, "condition");
  chord(Qt::Key_M, kCtrl);
  value("3");
  ASSERT_TRUE(wait([&] { return proved(); }));
  click(part<QPushButton>("actKeep"));
  value("regrade", Qt::Key_Return);
  EXPECT_EQ("Kept as the recipe “regrade”.", message().toStdString());
  EXPECT_LE(acts, 10);
  key(Qt::Key_Escape);
  ASSERT_EQ(1U, window->desk()->kept().recipes().size());
  // Another window of the same person has it, too.
  window.reset();
  start();
  openTable("tree");
  acts = 0;
  chord(Qt::Key_I, kCtrlShift);
  value("regrade", Qt::Key_Return);
  ASSERT_TRUE(wait([&] { return proved(); }));
  EXPECT_EQ("3 change", counted());
  chord(Qt::Key_Return);
  EXPECT_EQ("edit 7 condition=3; edit 8 condition=3; edit 9 condition=3", staged());
  EXPECT_EQ("regrade in 3 records", changes().lastGesture().title);
  EXPECT_LE(acts, 3);
}

TEST_F(ManyTest, ARecipeAsksForWhatItNeeds) {
  openTable("tree");
  Recipe recipe;
  recipe.name = "grade and say";
  recipe.table = "tree";
  recipe.questions = {{"grade", "New grade", RecipeQuestion::Kind::Number, "4"}};
  recipe.acts = {{Act::Kind::To, "condition", "{grade}", {}, {}, false, {}},
                 {Act::Kind::Compute, "note", "'now ' & {grade}", {}, {}, false, {}}};
  window->desk()->kept().saveRecipe(recipe);
  at(2, "condition");
  key(Qt::Key_I, kCtrlShift);
  choose("grade and");
  ASSERT_TRUE(wait([&] { return proved(); })) << hint();
  EXPECT_THAT(proof(), HasSubstr("T7 · note: old → now 4"));
  part<QLineEdit>("question")->selectAll();
  type("1");
  ASSERT_TRUE(wait([&] { return proved() && proof().find("now 1") != std::string::npos; }));
  key(Qt::Key_Return, kCtrl);
  EXPECT_EQ("edit 7 condition=1 note=now 1; edit 8 condition=1 note=now 1; edit 9 condition=1 note=now 1", staged());
}

// Somebody stages in the same sheet while the proof is open: it is made again, and stages what it shows.
TEST_F(ManyTest, TheProofFollowsWhatIsStagedMeanwhile) {
  openTable("tree");
  at(0, "condition");
  key(Qt::Key_M, kCtrl);
  chooseAct("is computed");
  part<QPlainTextEdit>("actExpression")->setFocus();
  type("[condition] + 1");
  ASSERT_TRUE(wait([&] { return proved(); }));
  at(0, "condition");
  view().setFocus();
  type("0");
  key(Qt::Key_Return);
  ASSERT_TRUE(wait([&] { return proved() && proof().find("T7: 0 → 1") != std::string::npos; })) << proof();
  at(1, "condition");
  key(Qt::Key_Delete, kCtrl);
  ASSERT_TRUE(wait([&] { return proved() && proof().find("T8") == std::string::npos; })) << proof();
  click(part<QPushButton>("actStage"));
  EXPECT_THAT(staged(), HasSubstr("edit 7 condition=1"));
  EXPECT_THAT(staged(), HasSubstr("remove 8"));
  EXPECT_THAT(staged(), HasSubstr("edit 9 condition=5"));
}

// The database changes between the proof and the review: the review says so, and nothing is written over.
TEST_F(ManyTest, WhatSomebodyWritesAfterTheProofIsAFinding) {
  openTable("tree");
  at(0, "condition");
  key(Qt::Key_M, kCtrl);
  value("3");
  ASSERT_TRUE(wait([&] { return proved(); }));
  db.run("UPDATE tree SET condition = 5 WHERE tree_id = 8");
  key(Qt::Key_Return, kCtrl);
  goToReview();
  EXPECT_FALSE(review()->ready());
  EXPECT_THAT(findingsText(*review()->review()), HasSubstr("cell-changed"));
  EXPECT_EQ("5", db.rows("SELECT condition FROM tree WHERE tree_id = 8"));
}

// A record that is gone when the proof is made is counted, not staged.
TEST_F(ManyTest, WhatIsGoneIsSaid) {
  openTable("tree");
  db.run("DELETE FROM inspection WHERE tree_id = 9; DELETE FROM tree WHERE tree_id = 9");
  at(0, "condition");
  key(Qt::Key_M, kCtrl);
  value("3");
  ASSERT_TRUE(wait([&] { return proved(); }));
  EXPECT_EQ("2 change · 1 is gone from the database", counted());
  key(Qt::Key_Return, kCtrl);
  EXPECT_EQ("edit 7 condition=3; edit 8 condition=3", staged());
}

// New records are in no database yet: they are passed over, and that is said.
TEST_F(ManyTest, NewRecordsArePassedOver) {
  openTable("photo");
  key(Qt::Key_N, kCtrl);
  at(0, "caption");
  key(Qt::Key_M, kCtrl);
  value("seen");
  ASSERT_TRUE(wait([&] { return proved(); }));
  EXPECT_EQ("2 change · 1 new is passed over", counted());
  key(Qt::Key_Return, kCtrl);
  EXPECT_EQ("edit 1 caption=seen; edit 2 caption=seen; add", staged());
}

// A recipe for another table opens a sheet of that; one that is off says what is not there.
TEST_F(ManyTest, ARecipeFindsItsTable) {
  Recipe recipe;
  recipe.name = "captions";
  recipe.table = "photo";
  recipe.acts = {{Act::Kind::To, "caption", "seen", {}, {}, false, {}}};
  Recipe off = recipe;
  off.name = "off";
  off.acts[0].column = "colour";
  openTable("tree");
  window->desk()->kept().saveRecipe(recipe);
  window->desk()->kept().saveRecipe(off);
  key(Qt::Key_I, kCtrlShift);
  choose("captions");
  ASSERT_TRUE(wait([&] { return sheet()->table().name.name == "photo" && proved(); }));
  EXPECT_EQ("2 change", counted());
  key(Qt::Key_Escape);
  key(Qt::Key_I, kCtrlShift);
  choose("off");
  ASSERT_TRUE(wait([&] { return hint().find("'colour' is no column of photo") != std::string::npos; })) << hint();
  EXPECT_FALSE(proved());
}

// By mouse alone: the column's menu, the fields, the button.
TEST_F(ManyTest, ByMouseAlone) {
  openTable("tree");
  at(0, "note");
  key(Qt::Key_Space, Qt::ControlModifier);
  auto* offer = sheet()->findChild<QPushButton*>("offerChange");
  ASSERT_TRUE(wait([&] { return offer->isVisible(); }));
  click(offer);
  ASSERT_TRUE(part<QListWidget>("proof")->isVisible());
  EXPECT_TRUE(part<QRadioButton>("actSelected")->isChecked());
  click(part<QLineEdit>("actValue"));
  value("seen");
  ASSERT_TRUE(wait([&] { return proved(); }));
  click(part<QPushButton>("actStage"));
  EXPECT_EQ("edit 7 note=seen; edit 8 note=seen; edit 9 note=seen", staged());
  EXPECT_LE(acts, 6);
}

}  // namespace
}  // namespace iterandum::test
