// Files and house rules in the window: corrections from a list beside the sheet, what is shown written to a file, rules
// stated from a sheet and held to by the review and by applying.
#include <QCheckBox>
#include <QComboBox>
#include <QMimeData>
#include <fstream>

#include "app/files_fixture.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;
using ::testing::Not;

TEST_F(WindowFilesTest, AListIsHeldAgainstTheRecordsAndStagedAsOneGesture) {
  openTable("tree");
  answerWith(
      write("list.csv", "Corrections\ntree_id;condition;note;who\n7;3;old;Ada\n8;2;seen;Bo\n77;1;;\n9;nine;;\n"));
  key(Qt::Key_I, kCtrlAlt);
  ++acts;
  ASSERT_TRUE(wait([&] { return part<QPushButton>("fileStage")->isEnabled(); })) << words();
  EXPECT_THAT(words(), HasSubstr("4 lines: 2 records change in 2 cells, 0 are so already, 2 fail."));
  EXPECT_EQ("is left alone", part<QComboBox>("heading who")->currentText().toStdString());
  EXPECT_THAT(lines(), HasSubstr("line 5: no record is named by it"));
  EXPECT_THAT(lines(), HasSubstr("line 6: "));
  EXPECT_THAT(lines(), HasSubstr("tree 7: condition 2 → 3"));
  EXPECT_TRUE(changes().empty()) << "nothing is staged before it was looked at";
  comeBack();
  part<QComboBox>("fileMatch")->setFocus();
  key(Qt::Key_Return, kCtrl);
  ++acts;
  EXPECT_EQ("edit 7 condition=3; edit 8 note=seen", staged());
  EXPECT_EQ("Corrections from list.csv", changes().lastGesture().title);
  EXPECT_FALSE(part<QWidget>("fileLines")->isVisible());
  // The dialog's path and Enter are two more.
  EXPECT_LE(acts + 2, 7);
  ASSERT_TRUE(wait([&] { return view().hasFocus(); }));
  key(Qt::Key_Z, kCtrl);
  EXPECT_TRUE(changes().empty());
}

TEST_F(WindowFilesTest, WhatNamesARecordAndHowValuesAreWrittenCanBeChosen) {
  openTable("tree");
  answerWith(write("list.csv", "tag;height\nT7;1,5\nT9;20,25\nT10;1,0\n"));
  key(Qt::Key_I, kCtrlAlt);
  ASSERT_TRUE(wait([&] { return words().find("no line of it names") != std::string::npos; })) << words();
  comeBack();
  auto* match = part<QComboBox>("fileMatch");
  match->setCurrentIndex(match->findText("tag"));
  ASSERT_TRUE(wait([&] { return words().find("3 fail") != std::string::npos; })) << words();
  part<QComboBox>("fileDecimal")->setCurrentIndex(1);
  ASSERT_TRUE(wait([&] { return part<QPushButton>("fileStage")->isEnabled(); })) << words();
  EXPECT_THAT(words(), HasSubstr("1 record changes in 1 cell, 1 is so already, 1 fails"));
  QTest::mouseClick(part<QPushButton>("fileStage"), Qt::LeftButton);
  EXPECT_EQ("edit 7 height=1.5", staged());
}

// A list goes in, is applied, and the same list comes back with what became of each line.
TEST_F(WindowFilesTest, TheOutcomeOfEachLineGoesBackWhereTheListCameFrom) {
  openTable("tree");
  const std::string list = write("list.csv", "tree_id,condition,note\n7,3,old\n8,2,\n77,1,x\n9,nine,x\n");
  const auto openList = [&] {
    answerWith(list);
    key(Qt::Key_I, kCtrlAlt);
    ASSERT_TRUE(wait([&] { return part<QPushButton>("fileOutcome")->isVisible(); })) << words();
    comeBack();
  };
  openList();
  EXPECT_THAT(words(), Not(HasSubstr("Applied before")));
  QTest::mouseClick(part<QPushButton>("fileStage"), Qt::LeftButton);
  ASSERT_EQ("edit 7 condition=3", staged());
  goToReview();
  // The review says which line asked for it, and so does the receipt.
  EXPECT_THAT(review()->findChild<QLabel*>("groupRecords")->text().toStdString(), HasSubstr("line 2 of list.csv"));
  ASSERT_TRUE(wait([&] { return review()->ready(); }));
  key(Qt::Key_Return, kCtrlShift);
  ASSERT_TRUE(wait([&] { return changes().empty() && sheet() != nullptr; }));
  key(Qt::Key_H, kCtrl);
  ASSERT_TRUE(wait([&] { return !window->findChildren<QLabel*>("receiptRecordHead").empty(); }));
  EXPECT_THAT(window->findChild<QLabel*>("receiptRecordHead")->text().toStdString(), HasSubstr("line 2 of list.csv"));
  openTable("tree");
  openList();
  ASSERT_TRUE(wait([&] { return words().find("Applied before: 1 line of this very file") != std::string::npos; }))
      << words();
  answerWith(db.file("outcome.csv"));
  QTest::mouseClick(part<QPushButton>("fileOutcome"), Qt::LeftButton);
  ASSERT_TRUE(wait([&] { return message().contains("each with what became of it"); })) << message().toStdString();
  comeBack();
  const std::string outcome = read("outcome.csv");
  EXPECT_THAT(outcome, HasSubstr("tree_id,condition,note,outcome\r\n"));
  EXPECT_THAT(outcome, ::testing::ContainsRegex("7,3,old,\"?applied [^\r]*\r"));
  EXPECT_THAT(outcome, HasSubstr("8,2,,is so already\r"));
  EXPECT_THAT(outcome, HasSubstr("77,1,x,no record is named by it\r"));
  EXPECT_THAT(outcome, ::testing::HasSubstr("9,nine,x,\"a whole number from 0 to 5 is wanted in condition"));
  // Changed again meanwhile: it is not said to be as the list wants it.
  db.run("UPDATE tree SET condition = 1 WHERE tree_id = 7");
  key(Qt::Key_Escape);
  openList();
  ASSERT_TRUE(wait([&] { return words().find("Applied before") != std::string::npos; })) << words();
  answerWith(db.file("again.csv"));
  QTest::mouseClick(part<QPushButton>("fileOutcome"), Qt::LeftButton);
  ASSERT_TRUE(wait([&] { return QFile::exists(QString::fromStdString(db.file("again.csv"))); }));
  comeBack();
  EXPECT_THAT(read("again.csv"), HasSubstr("; differs again: condition"));
  // Another list under the same name has nothing to do with it.
  write("list.csv", "tree_id,condition,note\n7,3,old\n8,2,\n");
  key(Qt::Key_Escape);
  openList();
  QTest::qWait(300);
  EXPECT_THAT(words(), Not(HasSubstr("Applied before")));
}

TEST_F(WindowFilesTest, ATableOfAWebPageIsATableToo) {
  openTable("tree");
  auto* held = new QMimeData;
  held->setText("tree_id\ncondition\n7\n3\n");
  held->setHtml(
      "<table><tr><td><p>Corrections</p><table border=1><tr><th>tree_id</th><th>condition</th><th>note</th></tr>"
      "<tr><td>7</td><td>3</td><td>two<br>lines</td></tr><tr><td>8</td><td>&nbsp;4 </td><td>\"so\"</td></tr>"
      "</table></td></tr></table>");
  QApplication::clipboard()->setMimeData(held);
  key(Qt::Key_K, kCtrl);
  choose("table on the clipboard");
  ASSERT_TRUE(wait([&] { return part<QPushButton>("fileStage")->isEnabled(); })) << words();
  QTest::mouseClick(part<QPushButton>("fileStage"), Qt::LeftButton);
  EXPECT_EQ("edit 7 condition=3 note=two\nlines; edit 8 condition=4 note=\"so\"", staged());
  key(Qt::Key_Z, kCtrl);
  // And pasted into cells.
  auto* cells = new QMimeData;
  cells->setText("5 1");
  cells->setHtml("<table><tr><td>5</td><td>1</td></tr></table>");
  QApplication::clipboard()->setMimeData(cells);
  at(0, "condition");
  key(Qt::Key_V, kCtrl);
  EXPECT_EQ("edit 7 condition=5 height=1", staged());
}

TEST_F(WindowFilesTest, HowAFileIsWrittenIsShownAndCanBeChosen) {
  openTable("tree");
  // A semicolon in the heads would be found; the letter is another one in Central Europe's code page.
  answerWith(write("list.csv", "tree_id;note\n7;\xF5sz\n8;a\n"));
  key(Qt::Key_I, kCtrlAlt);
  ASSERT_TRUE(wait([&] { return part<QPushButton>("fileStage")->isEnabled(); })) << words();
  comeBack();
  EXPECT_EQ("parted by semicolons, as found", part<QComboBox>("fileParted")->currentText().toStdString());
  EXPECT_EQ("windows-1252, as found", part<QComboBox>("fileLetters")->currentText().toStdString());
  part<QComboBox>("fileLetters")->setCurrentText("windows-1250");
  ASSERT_TRUE(wait([&] { return lines().find("\xC5\x91sz") != std::string::npos; })) << lines();
  part<QComboBox>("fileParted")->setCurrentText("parted by commas");
  ASSERT_TRUE(wait([&] { return !part<QPushButton>("fileStage")->isEnabled() && words().find("Reading") != 0; }));
  part<QComboBox>("fileParted")->setCurrentIndex(0);
  ASSERT_TRUE(wait([&] { return part<QPushButton>("fileStage")->isEnabled(); })) << words();
  // Records that it does not name go only where that is asked for, and that is said before.
  EXPECT_EQ("Stage 2 records", part<QPushButton>("fileStage")->text().toStdString());
  QTest::mouseClick(part<QCheckBox>("fileRemove"), Qt::LeftButton, {}, QPoint(8, 8));
  ASSERT_TRUE(wait([&] { return words().find("1 record missing in it goes") != std::string::npos; })) << words();
  EXPECT_THAT(lines(), HasSubstr("tree 9: is removed"));
  QTest::mouseClick(part<QPushButton>("fileStage"), Qt::LeftButton);
  EXPECT_EQ("edit 7 note=\xC5\x91sz; edit 8 note=a; remove 9", staged());
  // The next file begins without it.
  answerWith(db.file("list.csv"));
  key(Qt::Key_I, kCtrlAlt);
  ASSERT_TRUE(wait([&] { return part<QCheckBox>("fileRemove")->isVisible(); }));
  comeBack();
  EXPECT_FALSE(part<QCheckBox>("fileRemove")->isChecked());
}

TEST_F(WindowFilesTest, WhereLettersAreWrittenInTwoWaysSomebodySaysWhich) {
  openTable("tree");
  answerWith(write("list.csv", "tree_id,note\n7,\xC3\xA4\n8,\xE4\n"));
  key(Qt::Key_I, kCtrlAlt);
  ASSERT_TRUE(wait([&] { return words().find("in two ways") != std::string::npos; })) << words();
  EXPECT_FALSE(part<QPushButton>("fileStage")->isEnabled());
  ASSERT_TRUE(part<QComboBox>("fileLetters")->isVisible());
  part<QComboBox>("fileLetters")->setCurrentText("windows-1252");
  ASSERT_TRUE(wait([&] { return part<QPushButton>("fileStage")->isEnabled(); })) << words();
  EXPECT_THAT(lines(), HasSubstr("\xC3\x83\xC2\xA4"));
}

TEST_F(WindowFilesTest, AFileThatIsNoneIsSaid) {
  openTable("tree");
  answerWith(write("list.xlsx", "PK\x03\x04 nothing"));
  key(Qt::Key_I, kCtrlAlt);
  ASSERT_TRUE(wait([&] { return words().find("no spreadsheet") != std::string::npos; })) << words();
  EXPECT_FALSE(part<QPushButton>("fileStage")->isEnabled());
  comeBack();
  part<QComboBox>("fileMatch")->setFocus();
  key(Qt::Key_Escape);
  EXPECT_TRUE(view().hasFocus());
}

TEST_F(WindowFilesTest, WhatIsShownIsWrittenAsItIsShown) {
  openTable("tree");
  sheet()->scope().setFilter(static_cast<int>(*sheet()->table().columnIndex("condition")), "2");
  ASSERT_TRUE(shows("tag", "T7 T8"));
  answerWith(db.file("out.csv"));
  key(Qt::Key_E, kCtrlAlt);
  ASSERT_TRUE(wait([&] { return QFile::exists(QString::fromStdString(db.file("out.csv"))); }))
      << message().toStdString();
  EXPECT_THAT(read("out.csv"), HasSubstr("7,T7,1,2,12.5,old"));
  EXPECT_THAT(read("out.csv"), Not(HasSubstr("T9")));
  ASSERT_TRUE(wait([&] { return message().contains("2 records written to"); })) << message().toStdString();
  comeBack();
  answerWith(db.file("out.doc"));
  key(Qt::Key_E, kCtrlAlt);
  EXPECT_TRUE(message().contains("The ending says which form")) << message().toStdString();
  EXPECT_FALSE(QFile::exists(QString::fromStdString(db.file("out.doc"))));
}

TEST_F(WindowFilesTest, ARuleIsStatedFromASheetShownAndHeldTo) {
  openTable("tree");
  // All records that break it are what the sheet shows: a filter, the rule, its name.
  sheet()->scope().setFilter(static_cast<int>(*sheet()->table().columnIndex("condition")), "> 3");
  ASSERT_TRUE(shows("tag", "T9"));
  key(Qt::Key_X, kCtrlShift);
  key(Qt::Key_A, kCtrl);
  type("no bad trees");
  key(Qt::Key_Return);
  ASSERT_EQ(1U, window->desk()->kept().houseRules().size()) << message().toStdString();
  EXPECT_EQ("not (condition is above 3)", window->desk()->kept().houseRules().front().holds);
  // Kept for the next time.
  window.reset();
  start();
  openTable("tree");
  ASSERT_EQ(1U, window->desk()->kept().houseRules().size());
  sheet()->clearFilters();
  ASSERT_TRUE(shows("tag", "T7 T8 T9"));
  at(0, "condition");
  type("4");
  key(Qt::Key_Return);
  at(2, "note");
  type("x");
  key(Qt::Key_Return);
  goToReview();
  ASSERT_TRUE(review()->review().has_value()) << message().toStdString();
  const Review& found = *review()->review();
  EXPECT_FALSE(found.ready);
  ASSERT_EQ(2U, found.findings.size());
  EXPECT_EQ("tree 7: it would break the house rule 'no bad trees': it must hold that condition is not above 3",
            found.findings[0].message);
  EXPECT_FALSE(found.findings[1].blocks) << "what was so before just the same is a note";
  // And so does applying, whatever the review said.
  window->desk()->applying().start("");
  ASSERT_TRUE(wait([&] { return !window->desk()->applying().running(); }));
  EXPECT_EQ("2", db.rows("SELECT condition FROM tree WHERE tree_id = 7"));
  EXPECT_EQ(2U, counts().edited);
  key(Qt::Key_P, kCtrlShift);
  choose("no bad");
  ASSERT_TRUE(shows("tag", "T7 T9") || shows("tag", "T9")) << sentence();
  EXPECT_THAT(sentence(), HasSubstr("condition is above 3"));
  key(Qt::Key_K, kCtrl);
  type("Forget a house");
  key(Qt::Key_Return);
  choose("no bad");
  EXPECT_TRUE(window->desk()->kept().houseRules().empty());
}

TEST_F(WindowFilesTest, RulesComeFromAFileAndOnesWithoutAPlaceStopNothing) {
  openTable("tree");
  answerWith(write("rules.json", R"({"format": "iterandum-rules", "version": 1, "rules": [
    {"name": "gone", "table": "bush", "holds": "x = 1"}, {"name": "fine", "table": "tree", "stops": false, "holds": "condition < 3"}]})"));
  key(Qt::Key_K, kCtrl);
  choose("Import house rules");
  ASSERT_TRUE(wait([&] { return message().contains("Kept, but not held to: house rule 'gone'"); }))
      << message().toStdString();
  comeBack();
  at(0, "condition");
  type("4");
  key(Qt::Key_Return);
  goToReview();
  EXPECT_TRUE(review()->review()->ready) << "one only warns, the other has no place";
  ASSERT_EQ(1U, review()->review()->findings.size());
  EXPECT_EQ("fine", review()->review()->findings.front().rule);
  EXPECT_TRUE(message().contains("Not held to: house rule 'gone'")) << message().toStdString();
  // Nothing can be stated of all records.
  key(Qt::Key_Escape);
  openTable("species");
  key(Qt::Key_X, kCtrlShift);
  EXPECT_TRUE(message().contains("This shows all records")) << message().toStdString();
}

}  // namespace
}  // namespace iterandum::test
