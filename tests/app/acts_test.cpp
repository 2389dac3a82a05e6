// Whole jobs, with the acts that they take counted. No palette where it is done by mouse.
#include "app/counted_hands.h"
#include "app/sheet/foot_line.h"

namespace iterandum::test {
namespace {

class ActsTest : public CountedHandsTest {
 protected:
  void clickButton(const char* name) {
    for (QPushButton* button : window->findChildren<QPushButton*>(name)) {
      if (!button->isVisible()) continue;
      ASSERT_TRUE(wait([&] { return button->isEnabled(); })) << name;
      return click(button, button->rect().center());
    }
    FAIL() << name;
  }
  void doubleClick(int row, const char* name) {
    ++acts;
    const QModelIndex cell = sheet()->model().index(row, static_cast<int>(*sheet()->table().columnIndex(name)));
    QTest::mouseDClick(view().viewport(), Qt::LeftButton, {}, view().visualRect(cell).center());
    QCoreApplication::processEvents();
    ASSERT_NE(nullptr, view().editor());
    view().editor()->findChild<QLineEdit*>("cellLine")->selectAll();  // what stands there is typed over
  }
  [[nodiscard]] QLineEdit* filter(const char* name) const {
    for (QLineEdit* edit : view().head().findChildren<QLineEdit*>("filter")) {
      if (edit->property("column").toInt() == static_cast<int>(*sheet()->table().columnIndex(name))) return edit;
    }
    return nullptr;
  }
  void applied() {
    ASSERT_TRUE(wait([&] { return changes().empty() && sheet() != nullptr; }));
  }
};

TEST_F(ActsTest, TwoFieldsOfARecordFoundByItsTagByKeyboard) {
  openTable("tree");
  chord(Qt::Key_Tab);
  chord(Qt::Key_L, kCtrl);
  value("T8", Qt::Key_Return);
  ASSERT_TRUE(shows("tag", "T8"));
  chord(Qt::Key_U, kCtrlAlt);
  ++acts;
  choose("condition");
  value("3", Qt::Key_Tab);
  value("11.5");
  chord(Qt::Key_R, kCtrl);
  ASSERT_TRUE(wait([&] { return review()->ready(); }));
  chord(Qt::Key_Return, kCtrlShift);
  applied();
  EXPECT_EQ("3|11.5", db.rows("SELECT condition, height FROM tree WHERE tree_id = 8"));
  EXPECT_LE(acts, 10);
}

TEST_F(ActsTest, TwoFieldsOfARecordFoundByItsTagByMouse) {
  openTable("tree");
  QLineEdit* tag = filter("tag");
  click(tag, tag->rect().center());
  value("T8");
  ASSERT_TRUE(shows("tag", "T8"));
  doubleClick(0, "condition");
  value("3");
  doubleClick(0, "height");
  value("11.5");
  clickButton("main");
  ASSERT_TRUE(wait([&] { return review()->ready(); }));
  clickButton("main");
  applied();
  EXPECT_EQ("3|11.5", db.rows("SELECT condition, height FROM tree WHERE tree_id = 8"));
  EXPECT_LE(acts, 10);
}

TEST_F(ActsTest, ARecordOfSixFieldsIsAdded) {
  openTable("tree");
  chord(Qt::Key_N, kCtrl);
  value("N1", Qt::Key_Tab);
  value("oak", Qt::Key_Tab);
  value("3", Qt::Key_Tab);
  value("4.5", Qt::Key_Tab);
  value("new", Qt::Key_Tab);
  value("now", Qt::Key_Return);
  EXPECT_EQ("add condition=3 height=4.5 note=new species_id=2 stamped=now tag=N1", staged());
  EXPECT_LE(acts, 9);
}

TEST_F(ActsTest, OneValueInAllThatMatchByKeyboard) {
  openTable("tree");
  at(0, "condition");
  chord(Qt::Key_L, kCtrl);
  value(">= 2", Qt::Key_Return);
  ASSERT_TRUE(shows("tag", "T7 T8 T9"));
  chord(Qt::Key_Space, kCtrl);
  value("5");
  chord(Qt::Key_Return, kCtrl);
  EXPECT_EQ("edit 7 condition=5; edit 8 condition=5; edit 9 condition=5", staged());
  EXPECT_LE(acts, 6);
}

TEST_F(ActsTest, OneValueInAllThatMatchByMouse) {
  openTable("tree");
  QLineEdit* condition = filter("condition");
  click(condition, condition->rect().center());
  value(">= 2");
  ASSERT_TRUE(wait([&] { return sheet()->scope().phrases().size() == 1 && settled(); }));
  doubleClick(0, "condition");
  value("5", Qt::Key_Return);
  const auto* foot = sheet()->findChild<FootLine*>();
  ASSERT_TRUE(wait([&] { return foot->text().startsWith("condition: "); }));
  clickButton("offerColumn");
  ASSERT_TRUE(wait([&] { return foot->text().startsWith("3 cells"); }));
  clickButton("offerFill");
  EXPECT_EQ("edit 7 condition=5; edit 8 condition=5; edit 9 condition=5", staged());
  EXPECT_LE(acts, 6);
}

}  // namespace
}  // namespace iterandum::test
