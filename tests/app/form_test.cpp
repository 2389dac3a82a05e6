// The card's fields arranged in place: by keys, by dragging, by the menu; kept for the table, exchanged as a file.
#include <QFile>

#include "app/scope_fixture.h"

namespace iterandum::test {
namespace {

class FormTest : public SheetScopeTest {
 protected:
  void SetUp() override {
    SheetScopeTest::SetUp();
    openForm();
  }
  void openForm() {
    openTable("tree");
    key(Qt::Key_F4);
    at(0, "tag");
    ASSERT_TRUE(wait([&] { return field("tag")->isVisible(); }));
  }
  [[nodiscard]] QWidget* field(const std::string& name) const {
    return sheet()->findChild<QWidget*>(QStringLiteral("field-") + toQ(name));
  }
  void focus(const std::string& name) const { field(name)->setFocus(); }
  // As they lie on the screen: rows from the top, in each from the left.
  [[nodiscard]] std::string order() const {
    QApplication::processEvents();
    std::vector<std::pair<std::pair<int, int>, std::string>> places;
    for (const Column& column : sheet()->table().columns) {
      const QWidget* one = field(column.name);
      if (one->isVisible()) places.push_back({{one->y(), one->x()}, column.name});
    }
    for (const QLabel* heading : sheet()->findChildren<QLabel*>("cardHeading")) {
      if (heading->isVisible()) places.push_back({{heading->y(), -1}, "[" + heading->text().toStdString() + "]"});
    }
    std::sort(places.begin(), places.end());
    std::string out;
    for (const auto& [place, name] : places) out += (out.empty() ? "" : " ") + name;
    return out;
  }
  void choose(const char* command) const {
    QMenu* menu = nullptr;
    for (QMenu* one : window->findChildren<QMenu*>("cardMenu")) {
      if (one->isVisible()) menu = one;
    }
    ASSERT_NE(nullptr, menu);
    for (QAction* action : menu->findChildren<QAction*>()) {
      if (action->objectName() != QLatin1String(command)) continue;
      ASSERT_TRUE(action->isEnabled()) << command;
      menu->close();
      // Without a window manager nobody else gives the keys back to the window.
      window->activateWindow();
      ASSERT_TRUE(QTest::qWaitForWindowActive(window.get()));
      return action->trigger();
    }
    FAIL() << command << " is not in the menu";
  }
  void openMenu(const std::string& name) const {
    const QPoint middle = field(name)->rect().center();
    QContextMenuEvent event(QContextMenuEvent::Mouse, middle, field(name)->mapToGlobal(middle));
    QApplication::sendEvent(field(name), &event);
  }
  static constexpr const char* kPlain = "tree_id tag species_id condition height note stamped double_height";
};

TEST_F(FormTest, FieldsAreMovedByKeysAndTabFollows) {
  ASSERT_EQ(kPlain, order());
  focus("note");
  for (int i = 0; i < 4; ++i) key(Qt::Key_Up, Qt::AltModifier);
  EXPECT_EQ("tree_id note tag species_id condition height stamped double_height", order());
  EXPECT_TRUE(field("note")->hasFocus()) << "and stays under the fingers";
  key(Qt::Key_Tab);
  EXPECT_TRUE(field("tag")->hasFocus());
  key(Qt::Key_Up);
  EXPECT_TRUE(field("note")->hasFocus());
  type("leaning");
  key(Qt::Key_Return);
  EXPECT_TRUE(field("tag")->hasFocus()) << "Enter goes on to the next field as they are shown";
  EXPECT_EQ("edit 7 note=leaning", staged());
  window.reset();
  start();
  openForm();
  EXPECT_EQ("tree_id note tag species_id condition height stamped double_height", order()) << "at the next start too";
}

TEST_F(FormTest, AFieldIsCarriedByItsLabel) {
  QWidget* note = field("note");
  const QPoint grip(12, note->height() / 2);
  const QPoint to = note->mapFrom(note->parentWidget(), field("species_id")->geometry().topLeft() + QPoint(20, 3));
  QTest::mousePress(note, Qt::LeftButton, {}, grip);
  QTest::mouseMove(note, grip + QPoint(0, -20));
  QTest::mouseMove(note, to);
  QTest::mouseRelease(note, Qt::LeftButton, {}, to);
  EXPECT_EQ("tree_id tag note species_id condition height stamped double_height", order());
  EXPECT_TRUE(changes().empty()) << "nothing is staged by it";
  // A press that goes nowhere moves nothing.
  QTest::mouseClick(field("tag"), Qt::LeftButton, {}, QPoint(12, 8));
  EXPECT_EQ("tree_id tag note species_id condition height stamped double_height", order());
}

TEST_F(FormTest, LabelsHintsHeadingsAndWhatIsLeftOut) {
  openMenu("condition");
  choose("form.heading");
  type("How it is");
  key(Qt::Key_Return);
  EXPECT_EQ("tree_id tag species_id [How it is] condition height note stamped double_height", order());
  EXPECT_TRUE(field("condition")->hasFocus());
  openMenu("condition");
  choose("form.label");
  type("Grade");
  key(Qt::Key_Return);
  EXPECT_EQ("Grade", field("condition")->accessibleName().toStdString());
  const int before = field("condition")->height();
  openMenu("condition");
  choose("form.hint");
  type("0 is best");
  key(Qt::Key_Return);
  QApplication::processEvents();
  EXPECT_EQ("0 is best", field("condition")->accessibleDescription().toStdString());
  EXPECT_GT(field("condition")->height(), before) << "it has a line for the hint";
  openMenu("stamped");
  choose("form.leave-out");
  EXPECT_EQ("tree_id tag species_id [How it is] condition height note double_height", order());
  // What is left out is not on the way of Enter, and can be had back.
  focus("note");
  key(Qt::Key_Tab);
  EXPECT_TRUE(field("double_height")->hasFocus());
  openMenu("note");
  choose("form.show-all");
  EXPECT_EQ("tree_id tag species_id [How it is] condition height note double_height stamped", order());
  openMenu("condition");
  choose("form.heading");
  key(Qt::Key_Delete);
  key(Qt::Key_Return);
  EXPECT_EQ("tree_id tag species_id condition height note double_height stamped", order());
  openMenu("note");
  choose("form.plain");
  EXPECT_EQ(kPlain, order());
  EXPECT_EQ("condition", field("condition")->accessibleName().toStdString());
}

// Two sheets of one table, and the card beside its sheet: one form for all of them.
TEST_F(FormTest, EveryCardOfTheTableHasTheSameForm) {
  focus("note");
  key(Qt::Key_Up, Qt::AltModifier);
  const std::string arranged = order();
  ASSERT_NE(kPlain, arranged);
  key(Qt::Key_F4);
  ASSERT_TRUE(view().isVisible());
  EXPECT_EQ(arranged, order());
  window->resize(800, 540);
  EXPECT_EQ(arranged, order());
}

// Another window kept things of its own since this one was opened: none of them is lost by what is kept here.
TEST_F(FormTest, WhatAnotherWindowKeepsStays) {
  auto store = Store::open(db.file("state/store.sqlite"));
  ASSERT_TRUE(store.has_value());
  const std::string address = window->desk()->info().address;
  Form theirs;
  theirs.table = "species";
  HouseRule rule;
  rule.name = "theirs";
  rule.table = "tree";
  rule.holds = "condition < 6";
  Lens lens;
  lens.table = "tree";
  lens.column = "note";
  ASSERT_TRUE((*store)->keepForms(address, {theirs}));
  ASSERT_TRUE((*store)->keepHouseRules(address, {rule}));
  ASSERT_TRUE((*store)->keepLenses(address, {lens}));
  focus("note");
  key(Qt::Key_Up, Qt::AltModifier);
  rule.name = "mine";
  window->desk()->kept().saveHouseRules({rule});
  lens.column = "stamped";
  window->desk()->kept().saveLenses({lens});
  const auto kept = [&] {
    return std::to_string((*store)->forms(address)->size()) + std::to_string((*store)->houseRules(address)->size()) +
           std::to_string((*store)->lenses(address)->size());
  };
  EXPECT_TRUE(wait([&] { return kept() == "222"; })) << kept();
  window->desk()->kept().forgetForm(sheet()->table());
  window->desk()->kept().forgetHouseRule("mine");
  window->desk()->kept().forgetLens("tree", "stamped");
  EXPECT_TRUE(wait([&] { return kept() == "111"; })) << kept();
  EXPECT_EQ("species", (*store)->forms(address)->front().table);
}

}  // namespace
}  // namespace iterandum::test
