// Finding, and sheets that are large: what is gone to, found, stopped and removed by somebody else.
#include <QScrollBar>

#include "app/scope_fixture.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;

// --- finding ---------------------------------------------------------------------------------------------------------

TEST_F(SheetScopeTest, FindingGoesOnFromTheCurrentRecordAndRound) {
  openTable("tree");
  at(0, "note");
  key(Qt::Key_F, kCtrl);
  type("old");
  key(Qt::Key_Return);
  ASSERT_TRUE(wait([&] { return answer() == "1 of 1"; })) << answer();
  EXPECT_EQ(0, view().currentIndex().row());
  key(Qt::Key_A, kCtrl);
  type("nowhere");
  key(Qt::Key_Return);
  EXPECT_TRUE(wait([&] { return answer() == "Nothing found."; }));
  key(Qt::Key_Escape);
  EXPECT_TRUE(view().hasFocus());
  at(0, "tag");
  key(Qt::Key_F, kCtrlAlt);
  type("lime");
  key(Qt::Key_Return);
  ASSERT_TRUE(wait([&] { return answer() == "2 of 2"; })) << "by what the reference shows: " << answer();
  EXPECT_EQ(1, view().currentIndex().row());
  key(Qt::Key_F3);
  ASSERT_TRUE(wait([&] { return answer() == "1 of 2, on from the beginning"; })) << answer();
  EXPECT_EQ(0, view().currentIndex().row());
}

TEST_F(SheetScopeTest, ARecordIsFoundByItsKeyAndByItsNumber) {
  openTable("inspection");
  key(Qt::Key_G, kCtrlAlt);
  type("9, 2025-05-05");
  key(Qt::Key_Return);
  ASSERT_TRUE(wait([&] { return view().currentIndex().row() == 2; })) << answer();
  key(Qt::Key_A, kCtrl);
  type("9");
  key(Qt::Key_Return);
  EXPECT_EQ("the key is: tree_id, inspected_on", answer());
  key(Qt::Key_Escape);
  key(Qt::Key_G, kCtrl);
  type("2");
  key(Qt::Key_Return);
  EXPECT_EQ(1, view().currentIndex().row());
  type("17");
  key(Qt::Key_Return);
  EXPECT_EQ("There are 3 records.", answer().substr(0, 20)) << answer();
}

class LargeSheetTest : public SheetScopeTest {
 protected:
  LargeSheetTest() {
    db.run(
        "CREATE TABLE reading (reading_id INTEGER PRIMARY KEY, level INTEGER, place TEXT);"
        "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 120000)"
        "INSERT INTO reading SELECT i * 2, (i * 7919) % 120000, 'place ' || (i % 500) FROM n");
  }
};

// Counts how often it is asked where a cell lies.
class CountingGrid : public SheetGrid {
 public:
  using SheetGrid::SheetGrid;
  [[nodiscard]] QRect visualRect(const QModelIndex& index) const override {
    ++asked;
    return SheetGrid::visualRect(index);
  }
  mutable int asked = 0;

 protected:
  void addAsked() override {}
  void fillAsked(const QItemSelection& /*from*/, RowRange /*rows*/, bool /*counting*/) override {}
};

// Names that arrive, rules that were judged and what is staged may concern any record; nobody looks at all of them.
TEST_F(LargeSheetTest, WhatIsShownAgainIsLookedAtWhereItIsInSight) {
  openTable("reading");
  SheetModel& model = sheet()->model();
  CountingGrid grid(model);
  grid.resize(600, 400);
  grid.show();
  ASSERT_TRUE(QTest::qWaitForWindowExposed(&grid));
  const QModelIndex first = model.index(0, 0);
  const QModelIndex last = model.index(model.rowCount() - 1, model.columnCount() - 1);
  for (const int scrolled : {0, 60000, 119999}) {
    grid.scrollTo(model.index(scrolled, 0));
    QCoreApplication::processEvents();
    grid.asked = 0;
    emit model.dataChanged(first, last);
    EXPECT_GT(grid.asked, 10) << scrolled;
    EXPECT_LT(grid.asked, 200) << scrolled;
    grid.asked = 0;
    emit model.dataChanged(model.index(1000, 0), model.index(50000, 2));
    EXPECT_EQ(0, grid.asked) << "out of sight";
  }
}

TEST_F(LargeSheetTest, EndsAndMiddlesAreGoneToByKey) {
  openTable("reading");
  EXPECT_EQ(120000, sheet()->model().rowCount());
  key(Qt::Key_End, kCtrl);
  EXPECT_EQ(119999, view().currentIndex().row());
  ASSERT_TRUE(wait([&] { return sheet()->model().source().record(119999) != nullptr; }));
  EXPECT_EQ(240000, (*sheet()->model().source().record(119999))[0].asInteger());
  key(Qt::Key_G, kCtrl);
  type("60000");
  key(Qt::Key_Return);
  ASSERT_TRUE(wait([&] { return sheet()->model().source().record(59999) != nullptr; }));
  EXPECT_EQ(120000, (*sheet()->model().source().record(59999))[0].asInteger());
  EXPECT_LE(sheet()->model().source().memoryBytes(), 120000U * 8U);
  EXPECT_LE(sheet()->model().source().loadedRows().size(), 3500) << "only what is looked at is kept";
}

TEST_F(LargeSheetTest, AnOrderByAColumnWithoutIndexIsGoneThroughToo) {
  openTable("reading");
  at(0, "level");
  key(Qt::Key_S, kCtrlShift);
  ASSERT_TRUE(wait([&] { return settled(); }));
  key(Qt::Key_G, kCtrl);
  type("100000");
  key(Qt::Key_Return);
  ASSERT_TRUE(wait([&] { return sheet()->model().source().record(99999) != nullptr; }));
  EXPECT_EQ(99999, (*sheet()->model().source().record(99999))[1].asInteger());
}

TEST_F(LargeSheetTest, WhatIsReadForLongCanBeStoppedAndTheSheetLivesOn) {
  openTable("reading");
  QString slow = "no1";
  for (int i = 0; i < 200; ++i) slow += QStringLiteral(" or no%1").arg(i);
  sheet()->scope().setFilter(2, slow);
  key(Qt::Key_X, kCtrlAlt);
  auto* problem = sheet()->findChild<QLabel*>("problem");
  ASSERT_TRUE(wait([&] { return problem->isVisible(); }));
  EXPECT_EQ("These records could not be read: it was stopped", problem->text().toStdString());
  EXPECT_THAT(sheet()->findChild<QLabel*>("count")->text().toStdString(), HasSubstr("the reading was stopped"));
  sheet()->scope().setFilter(2, slow);
  sheet()->scope().setFilter(2, "place 7");
  // place 7, 70 to 79 and 700 on, which are not there: eleven places of 240 records each.
  EXPECT_TRUE(wait([&] { return settled() && sheet()->model().rowCount() == 11 * 240; }))
      << "another wish does not wait for the one before: " << sheet()->model().rowCount();
  EXPECT_FALSE(problem->isVisible());
}

TEST_F(LargeSheetTest, FindingReachesWhatWasNeverLoaded) {
  openTable("reading");
  at(0, "place");
  key(Qt::Key_F, kCtrl);
  type("place 499");
  key(Qt::Key_Return, Qt::ShiftModifier);
  ASSERT_TRUE(wait([&] { return answer() == "240 of 240, on from the end"; })) << answer();
  EXPECT_EQ(119998, view().currentIndex().row());
}

TEST_F(LargeSheetTest, DrawingTheBarEndsWhereItIsLetGo) {
  openTable("reading");
  QScrollBar* bar = view().verticalScrollBar();
  for (int step = 0; step <= 300; ++step) {
    bar->setValue(bar->maximum() / 300 * step);
    if (step % 10 == 0) QCoreApplication::processEvents();
  }
  const int row = view().rowAt(view().viewport()->height() / 2);
  ASSERT_GT(row, 100000);
  EXPECT_TRUE(wait([&] { return sheet()->model().source().record(row) != nullptr; }));
  EXPECT_EQ((row + 1) * 2, (*sheet()->model().source().record(row))[0].asInteger());
}

TEST_F(LargeSheetTest, WhatSomebodyRemovesMeanwhileIsShownAsGoneAndPositionsStay) {
  openTable("reading");
  db.run("DELETE FROM reading WHERE reading_id BETWEEN 100001 AND 200000");
  key(Qt::Key_G, kCtrl);
  type("60000");
  key(Qt::Key_Return);
  ASSERT_TRUE(wait([&] { return sheet()->model().source().isGone(59999); }));
  type("110000");
  key(Qt::Key_Return);
  key(Qt::Key_Escape);
  view().goTo(109999, 0);
  ASSERT_TRUE(wait([&] { return sheet()->model().source().record(109999) != nullptr; }));
  EXPECT_EQ(220000, (*sheet()->model().source().record(109999))[0].asInteger());
  key(Qt::Key_F5);
  ASSERT_TRUE(wait([&] { return settled() && sheet()->model().rowCount() == 70000; }));
  EXPECT_EQ(59999, view().currentIndex().row()) << "the same record, where it is now";
}

}  // namespace
}  // namespace iterandum::test
