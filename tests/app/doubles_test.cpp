// Doubles by hand: looked for, looked through, one of each left; by keys and by mouse, with the acts counted.
#include <QCheckBox>
#include <QComboBox>

#include "app/counted_hands.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;

class DoublesHandsTest : public CountedHandsTest {
 protected:
  [[nodiscard]] QListWidget* groups() const { return part<QListWidget>("doublesGroups"); }
  [[nodiscard]] QPushButton* button() const { return part<QPushButton>("doublesStage"); }
  [[nodiscard]] std::string words() const { return part<QLabel>("doublesWords")->text().toStdString(); }
  [[nodiscard]] std::string listed() const {
    QStringList out;
    for (int i = 0; i < groups()->count(); ++i) {
      const QListWidgetItem* item = groups()->item(i);
      const QString said = item->data(Qt::AccessibleTextRole).toString();
      out << (said.isEmpty() ? item->text() : said);
    }
    return out.join(QLatin1Char('\n')).toStdString();
  }
  void found() {
    ASSERT_TRUE(wait([&] { return groups()->count() > 0; })) << words();
  }
  void clickLine(int line) { click(groups()->viewport(), groups()->visualItemRect(groups()->item(line)).center()); }
  // A box in front of a line.
  void tick(QListWidget* list, int line) {
    const QRect rect = list->visualItemRect(list->item(line));
    click(list->viewport(), QPoint(rect.left() + 14, rect.center().y()));
  }
  void applyAll() {
    goToReview();
    ASSERT_TRUE(wait([&] { return review()->ready(); }));
    key(Qt::Key_Return, kCtrlShift);
    ASSERT_TRUE(wait([&] { return changes().empty(); }));
  }
};

// A log without a key, some of whose lines were taken over again and again.
TEST_F(DoublesHandsTest, CopiesInALogGoInThreeActs) {
  db.run("DELETE FROM log");
  db.run(
      "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 239) INSERT INTO log SELECT 1, 'taken "
      "over' FROM n; INSERT INTO log VALUES (1, 'left out'), (2, 'taken over')");
  openTable("log");
  acts = 0;
  chord(Qt::Key_F12);
  found();
  EXPECT_EQ("241 records were compared: 239 of them are alike with others, in 1 group.", words());
  EXPECT_EQ("1, taken over: 239 records", groups()->item(0)->text().toStdString());
  chord(Qt::Key_Return, kCtrl);
  ASSERT_TRUE(wait([&] { return counts().removed == 238; })) << words();
  EXPECT_LE(acts, 3);
  EXPECT_EQ("Remove 238 doubles in log", changes().lastGesture().title);
  applyAll();
  EXPECT_EQ("1|left out\n1|taken over\n2|taken over", db.rows("SELECT line, message FROM log ORDER BY 1, 2"));
}

// Alike in what is selected: one stays that somebody chose, a group is left alone, by mouse.
TEST_F(DoublesHandsTest, WhichStaysAndWhichGroupIsLeftAloneIsChosen) {
  db.run(
      "INSERT INTO tree (tree_id, tag, species_id, condition, note) VALUES (10, 'T10', 2, 3, 'x'), (11, 'T11', 2, 4, "
      "NULL)");
  db.run("DELETE FROM photo; DELETE FROM inspection");
  openTable("tree");
  at(0, "species_id");
  key(Qt::Key_F12);
  found();
  // Trees are pointed at: the others would be merged. Here they are to go.
  auto* others = part<QComboBox>("doublesOthers");
  EXPECT_EQ(1, others->currentIndex());
  others->setCurrentIndex(0);
  EXPECT_EQ(
      "lime: 2 records, which differ in tag, height, note, double_height\nstays: 7 · T7\ngoes: 8 · T8\n"
      "oak: 3 records, which differ in tag, condition, height, note, double_height\nstays: 9 · T9\ngoes: 10 · "
      "T10\ngoes: 11 · T11",
      listed());
  clickLine(5);
  EXPECT_THAT(listed(), HasSubstr("goes: 9 · T9\nstays: 10 · T10\ngoes: 11 · T11"));
  tick(groups(), 0);
  ASSERT_TRUE(wait([&] { return button()->text() == "Remove 2 records"; })) << button()->text().toStdString();
  click(button());
  ASSERT_TRUE(wait([&] { return counts().removed == 2; })) << words();
  EXPECT_EQ("remove 9; remove 11", staged());
  key(Qt::Key_Z, kCtrl);
  EXPECT_TRUE(changes().empty());
}

// Spellings of one thing become one, with all that points at them; what is staged counts.
TEST_F(DoublesHandsTest, SpellingsBecomeOneWithWhatPointsAtThem) {
  db.run(
      "INSERT INTO species VALUES (4, 'Lime '), (5, 'sycamore'), (6, 'sycamor'); UPDATE tree SET species_id = 6 WHERE "
      "tree_id = 9");
  openTable("species");
  key(Qt::Key_F12);
  ASSERT_TRUE(wait([&] { return words().find("Choose above") != std::string::npos; })) << words();
  tick(part<QListWidget>("doublesColumns"), 1);
  ASSERT_TRUE(wait([&] { return words().find("no two of them are alike") != std::string::npos; })) << words();
  part<QComboBox>("doublesCompared")->setCurrentIndex(2);
  found();
  EXPECT_EQ(
      "lime: 2 records, which differ in name\nstays: 1 · lime\ngoes: 4 · Lime \n"
      "sycamore: 2 records, which differ in name\nstays: 5 · sycamore\ngoes: 6 · sycamor",
      listed());
  EXPECT_EQ("Merge 2 records", button()->text().toStdString());
  click(button());
  ASSERT_TRUE(wait([&] { return !changes().empty(); })) << words();
  EXPECT_EQ("remove 4; remove 6; edit 9 species_id=5", staged());
  applyAll();
  EXPECT_EQ("1|lime\n2|oak\n3|elm\n5|sycamore", db.rows("SELECT species_id, name FROM species ORDER BY 1"));
  EXPECT_EQ("5", db.rows("SELECT species_id FROM tree WHERE tree_id = 9"));
}

TEST_F(DoublesHandsTest, WhatIsStagedCountsAndWhatChangedMeanwhileIsSaid) {
  db.run("DELETE FROM photo; DELETE FROM inspection");
  openTable("tree");
  at(0, "note");
  type("same");
  key(Qt::Key_Return);
  type("same");
  key(Qt::Key_Return);
  at(0, "note");
  key(Qt::Key_F12);
  found();
  EXPECT_THAT(listed(), HasSubstr("same: 2 records"));
  part<QComboBox>("doublesOthers")->setCurrentIndex(0);
  // Somebody else removes the one that would stay.
  db.run("DELETE FROM tree WHERE tree_id = 7");
  click(button());
  ASSERT_TRUE(wait([&] { return words().find("meanwhile") != std::string::npos; })) << words();
  EXPECT_EQ("tree 7 was changed or removed meanwhile; look for doubles again", words());
  EXPECT_EQ("edit 7 note=same; edit 8 note=same", staged());
  // The button looks again.
  EXPECT_EQ("Look again", button()->text().toStdString());
  click(button());
  ASSERT_TRUE(wait([&] { return words().find("no two of them are alike") != std::string::npos; })) << words();
}

}  // namespace
}  // namespace iterandum::test
