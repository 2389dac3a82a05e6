// Working copies in the window: handed out from a sheet, corrected with another program's library, brought back and
// staged; several of them, where two disagree. Then what a list from elsewhere may call its columns and records.
#include <QCheckBox>
#include <QClipboard>
#include <QComboBox>
#include <fstream>

#include "app/files_fixture.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;

class WindowWorkingCopyTest : public WindowFilesTest {
 protected:
  void correct(const std::string& words) {
    const std::string call = "cd '" + db.file("") + "' && '" CORRECT_COPY "' " + words + " > corrected";
    ASSERT_EQ(0, std::system(call.c_str()));
  }
  void handOut(const std::string& name) {
    key(Qt::Key_A, kCtrlAlt);
    ++acts;
    ASSERT_TRUE(part<QWidget>("copyColumns")->isVisible());
    comeBack();
    part<QWidget>("copyColumns")->setFocus();
    answerWith(db.file(name));
    key(Qt::Key_Return, kCtrl);
    ++acts;
    ASSERT_TRUE(wait([&] { return QFile::exists(QString::fromStdString(db.file(name))); })) << message().toStdString();
    ASSERT_TRUE(wait([&] { return !part<QWidget>("copyColumns")->isVisible(); }));
    ASSERT_TRUE(wait([&] { return message().contains("handed out"); }));
    comeBack();
  }
  [[nodiscard]] std::string returned() const { return part<QLabel>("returnWords")->text().toStdString(); }
};

TEST_F(WindowWorkingCopyTest, GoesOutAndComesBackInFewActs) {
  openTable("tree");
  handOut("out.xlsx");
  EXPECT_LE(acts + 2, 6) << "the dialog's path and Enter are two";
  correct("out.xlsx back.xlsx 7=condition:4 9=note:leaning");
  acts = 0;
  answerWith(db.file("back.xlsx"));
  key(Qt::Key_I, kCtrlAlt);
  ++acts;
  ASSERT_TRUE(wait([&] { return part<QPushButton>("returnStage")->isEnabled(); })) << returned();
  EXPECT_THAT(returned(), HasSubstr("2 records change in 2 cells"));
  EXPECT_TRUE(changes().empty()) << "nothing is staged before it was looked at";
  comeBack();
  part<QWidget>("returnLines")->setFocus();
  key(Qt::Key_Return, kCtrl);
  ++acts;
  EXPECT_LE(acts + 2, 6);
  EXPECT_EQ("edit 7 condition=4; edit 9 note=leaning", staged());
  EXPECT_EQ("Corrections from back.xlsx", changes().lastGesture().title);
  key(Qt::Key_Z, kCtrl);
  EXPECT_TRUE(changes().empty());
}

TEST_F(WindowWorkingCopyTest, OnlyTickedColumnsMayBeChanged) {
  openTable("tree");
  key(Qt::Key_A, kCtrlAlt);
  comeBack();
  auto* columns = part<QListWidget>("copyColumns");
  EXPECT_EQ("tree_id: protected (it says which record it is)", columns->item(0)->text().toStdString());
  for (int i = 1; i < columns->count(); ++i) {
    if (columns->item(i)->text() != "note" && columns->item(i)->checkState() == Qt::Checked)
      columns->item(i)->setCheckState(Qt::Unchecked);
  }
  columns->setFocus();
  answerWith(db.file("out.xlsx"));
  key(Qt::Key_Return, kCtrl);
  ASSERT_TRUE(wait([&] { return QFile::exists(QString::fromStdString(db.file("out.xlsx"))); }));
  comeBack();
  correct("out.xlsx back.xlsx 7=note:x 8=condition:5");
  EXPECT_THAT(read("corrected"), HasSubstr("open: note\n"));
  answerWith(db.file("back.xlsx"));
  key(Qt::Key_I, kCtrlAlt);
  ASSERT_TRUE(wait([&] { return part<QPushButton>("returnStage")->isEnabled(); })) << returned();
  QTest::mouseClick(part<QPushButton>("returnStage"), Qt::LeftButton);
  EXPECT_EQ("edit 7 note=x", staged()) << "what was protected stays as it is";
}

TEST_F(WindowWorkingCopyTest, WhereTwoDisagreeSomebodySaysWhoseWordCounts) {
  openTable("tree");
  handOut("out.xlsx");
  correct("out.xlsx anna.xlsx 7=condition:4 8=note:leaning");
  correct("out.xlsx bram.xlsx 7=condition:5");
  answerWith('"' + db.file("anna.xlsx") + "\" \"" + db.file("bram.xlsx") + '"');
  key(Qt::Key_I, kCtrlAlt);
  ASSERT_TRUE(wait([&] { return part<QPushButton>("returnStage")->isEnabled(); })) << returned();
  auto* lines = part<QListWidget>("returnLines");
  EXPECT_EQ("condition of tree 7 (2): 4 in anna.xlsx, 5 in bram.xlsx", lines->item(0)->text().toStdString());
  EXPECT_EQ("Stage 1 record", part<QPushButton>("returnStage")->text().toStdString());
  auto* word = part<QComboBox>("copyWord");
  ASSERT_TRUE(word->isVisible());
  word->setCurrentIndex(word->findText("as in bram.xlsx"));
  EXPECT_EQ("Stage 2 records", part<QPushButton>("returnStage")->text().toStdString());
  QTest::mouseClick(part<QPushButton>("returnStage"), Qt::LeftButton);
  EXPECT_EQ("edit 7 condition=5; edit 8 note=leaning", staged());
}

TEST_F(WindowWorkingCopyTest, ATableOnTheClipboardWithItsOwnNamesForColumns) {
  openTable("tree");
  QGuiApplication::clipboard()->setText("Baum\tconditon\tSpecies\n7\t3\tLIME\n8\t4\tlime\n");
  key(Qt::Key_V, Qt::ControlModifier | Qt::ShiftModifier);
  ASSERT_TRUE(wait([&] { return words().find("no line of it names") != std::string::npos; })) << words();
  const auto heading = [&](const char* name) { return part<QComboBox>((std::string("heading ") + name).c_str()); };
  heading("Baum")->setCurrentIndex(heading("Baum")->findText("is tree_id"));
  ASSERT_TRUE(wait([&] { return heading("Species") != nullptr && heading("conditon") != nullptr; })) << words();
  EXPECT_EQ("is species_id, which fits", heading("Species")->itemText(1).toStdString());
  heading("Species")->setCurrentIndex(1);
  ASSERT_TRUE(wait([&] { return words().find("2 are so already") != std::string::npos; })) << words();
  EXPECT_EQ("is left alone", heading("conditon")->currentText().toStdString()) << "offered, not taken by itself";
  EXPECT_EQ("is condition, which fits", heading("conditon")->itemText(1).toStdString());
  heading("conditon")->setCurrentIndex(1);
  ASSERT_TRUE(wait([&] { return lines().find("condition") != std::string::npos; })) << words();
  QTest::mouseClick(part<QPushButton>("fileStage"), Qt::LeftButton);
  EXPECT_EQ("edit 7 condition=3; edit 8 condition=4", staged()) << "their species is lime already";
  // What was said of its columns is known of the next list.
  QGuiApplication::clipboard()->setText("Baum\tconditon\tSpecies\n9\t1\toak\n");
  key(Qt::Key_V, Qt::ControlModifier | Qt::ShiftModifier);
  ASSERT_TRUE(wait([&] { return part<QPushButton>("fileStage")->isEnabled(); })) << words();
  EXPECT_THAT(lines(), HasSubstr("tree 9: condition"));
}

}  // namespace
}  // namespace iterandum::test
