// What the sheet's edges and editors do: columns moved and hidden, the calendar, rules over several columns, colours.
#include <QCalendarWidget>
#include <QHeaderView>
#include <QToolButton>

#include "app/style/roles.h"
#include "app/window_fixture.h"

namespace iterandum::test {
namespace {

using SheetTest = WindowTest;

class RulesTest : public WindowTest {
 protected:
  RulesTest() {
    db.run(
        "CREATE TABLE work (work_id INTEGER PRIMARY KEY, begun DATE, done DATE, cost REAL, "
        "CONSTRAINT done_after_begun CHECK (done IS NULL OR done >= begun));"
        "INSERT INTO work VALUES (1, '2026-03-01', NULL, 5), (2, '2026-03-01', '2026-03-04', 7)");
  }
};

TEST_F(RulesTest, ARuleOverSeveralColumnsIsSaidAsSoonAsItIsBroken) {
  openTable("work");
  at(0, "done");
  type("2026-02-01");
  key(Qt::Key_Return);
  ASSERT_TRUE(wait([&] { return sheet()->model().mark(0) == Mark::Query; }));
  EXPECT_EQ("The rule done_after_begun of the database (done IS NULL OR done >= begun) does not hold here.",
            message().toStdString());
  const int done = static_cast<int>(*sheet()->table().columnIndex("done"));
  EXPECT_TRUE(sheet()->model().cell(0, done).needsALook());
  EXPECT_FALSE(sheet()->model().cell(0, 3).needsALook()) << "cost is not spoken of";
  EXPECT_EQ("edit 1 done=2026-02-01", staged()) << "what was typed is not lost";
  at(0, "begun");
  type("2026-01-15");
  key(Qt::Key_Return);
  EXPECT_TRUE(wait([&] { return sheet()->model().mark(0) == Mark::Changed; })) << "the other column puts it right";
  key(Qt::Key_Z, Qt::ControlModifier);
  EXPECT_TRUE(wait([&] { return sheet()->model().mark(0) == Mark::Query; }));
}

TEST_F(RulesTest, ANewRecordIsHeldToTheRuleToo) {
  openTable("work");
  key(Qt::Key_N, Qt::ControlModifier);
  at(2, "begun");
  type("2026-05-02");
  key(Qt::Key_Return);
  at(2, "done");
  type("2026-05-01");
  key(Qt::Key_Return);
  EXPECT_TRUE(wait([&] { return sheet()->model().mark(2) == Mark::Query; }));
}

TEST_F(SheetTest, ADateIsChosenFromTheCalendar) {
  db.run("CREATE TABLE visit (visit_id INTEGER PRIMARY KEY, day DATE); INSERT INTO visit VALUES (1, '2026-02-27')");
  window->open(QString::fromStdString(db.path()));
  ASSERT_TRUE(wait([&] { return window->desk()->catalogue().find({"", "visit"}) != nullptr; }));
  openTable("visit");
  at(0, "day");
  key(Qt::Key_F2);
  key(Qt::Key_Down, Qt::AltModifier);
  ASSERT_NE(nullptr, window->findChild<QCalendarWidget*>());
  key(Qt::Key_Right);
  key(Qt::Key_Right);
  key(Qt::Key_Return);
  key(Qt::Key_Return);
  EXPECT_EQ("edit 1 day=2026-03-01", staged());
  // By the mouse.
  key(Qt::Key_Z, Qt::ControlModifier);
  at(0, "day");
  key(Qt::Key_F2);
  QWidget* line = QApplication::focusWidget();
  ASSERT_EQ("cellLine", line->objectName());
  auto* button = line->findChild<QToolButton*>();
  ASSERT_NE(nullptr, button);
  EXPECT_TRUE(button->isVisible());
  QTest::mouseClick(button, Qt::LeftButton);
  ASSERT_FALSE(window->findChildren<QCalendarWidget*>().isEmpty());
  auto* calendar = window->findChildren<QCalendarWidget*>().last();
  EXPECT_EQ(QDate(2026, 2, 27), calendar->selectedDate());
}

TEST_F(SheetTest, ColumnsMovedAndHiddenAreLeftOutOfTabAndCopy) {
  openTable("species");
  auto& head = view().head();
  head.moveSection(head.visualIndex(1), 0);
  at(0, "name");
  key(Qt::Key_Tab);
  EXPECT_EQ(0, view().currentIndex().column()) << "Tab follows the order on screen";
  at(0, "name");
  key(Qt::Key_H, Qt::ControlModifier | Qt::ShiftModifier);
  EXPECT_TRUE(view().isColumnHidden(1));
  EXPECT_EQ("name is hidden; “Show all columns” brings it back.", message().toStdString());
  at(0, "species_id");
  key(Qt::Key_Tab);
  EXPECT_EQ(1, view().currentIndex().row()) << "a hidden column takes no Tab";
  key(Qt::Key_Space, Qt::ShiftModifier);
  key(Qt::Key_C, Qt::ControlModifier);
  EXPECT_EQ("2", QApplication::clipboard()->text()) << "what cannot be seen is not copied";
  key(Qt::Key_U, Qt::ControlModifier | Qt::ShiftModifier);
  EXPECT_FALSE(view().isColumnHidden(1));
}

TEST_F(SheetTest, FillingAndRemovingAndPuttingBackAWholeSelection) {
  openTable("tree");
  at(0, "condition");
  key(Qt::Key_Down, Qt::ShiftModifier);
  key(Qt::Key_Down, Qt::ShiftModifier);
  key(Qt::Key_D, Qt::ControlModifier);
  EXPECT_EQ(1U, counts().cells) << "filled with the first one's 2, which the second one held already";
  key(Qt::Key_Delete, Qt::ControlModifier);
  EXPECT_EQ(3U, counts().removed);
  EXPECT_EQ(0U, counts().cells);
  key(Qt::Key_Backspace, Qt::ControlModifier);
  EXPECT_TRUE(changes().empty());
}

TEST_F(SheetTest, MarkedRecordsAreFoundByOneKey) {
  openTable("tree");
  at(2, "condition");
  type("1");
  key(Qt::Key_Return);
  at(0, "tag");
  key(Qt::Key_F8);
  EXPECT_EQ(2, view().currentIndex().row());
}

TEST_F(SheetTest, OtherColoursLeaveEverythingAsItWas) {
  openTable("tree");
  at(0, "condition");
  key(Qt::Key_L, Qt::ControlModifier);
  type(">= 3");
  key(Qt::Key_Return);
  ASSERT_TRUE(wait([&] { return settled() && sheet()->model().rowCount() == 1; }));
  type("3");
  key(Qt::Key_Return);
  key(Qt::Key_D, Qt::ControlModifier | Qt::AltModifier);
  ASSERT_TRUE(wait([&] { return sheet() != nullptr && settled() && sheet()->model().rowCount() == 1; }));
  EXPECT_EQ(Scheme::Dark, scheme());
  EXPECT_EQ("edit 9 condition=3", staged());
  EXPECT_EQ("condition", sheet()->table().columns[static_cast<std::size_t>(view().currentIndex().column())].name);
  key(Qt::Key_L, Qt::ControlModifier | Qt::AltModifier);
  EXPECT_EQ(Scheme::Light, scheme());
}

// WCAG 2.1, "contrast ratio" and "relative luminance".
double luminance(const QColor& color) {
  const auto channel = [](double c) { return c <= 0.03928 ? c / 12.92 : std::pow((c + 0.055) / 1.055, 2.4); };
  return 0.2126 * channel(color.redF()) + 0.7152 * channel(color.greenF()) + 0.0722 * channel(color.blueF());
}
double contrast(const QColor& a, const QColor& b) {
  const double x = luminance(a);
  const double y = luminance(b);
  return (std::max(x, y) + 0.05) / (std::min(x, y) + 0.05);
}

TEST(StyleTest, TextIsLegibleInBothSchemes) {
  for (const Scheme s : {Scheme::Light, Scheme::Dark}) {
    applyScheme(s);
    const Roles& r = roles();
    for (const QColor& ground : {r.paper, r.current}) {
      for (const QColor& text : {r.ink, r.soft, r.faint, r.blue, r.query, r.leaf}) {
        EXPECT_GE(contrast(text, ground), 4.5) << text.name().toStdString() << " on " << ground.name().toStdString();
      }
    }
    EXPECT_GE(contrast(r.blue, r.blueWash), 4.5);
    EXPECT_GE(contrast(r.query, r.queryWash), 4.5);
    EXPECT_GE(contrast(r.leaf, r.leafWash), 4.5);
  }
  applyScheme(Scheme::Light);
}

}  // namespace
}  // namespace iterandum::test
