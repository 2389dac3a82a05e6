// The grid: where things are, whatever is moved, hidden, frozen or scrolled; selecting by key and mouse; the margin.
#include <QScrollBar>
#include <random>

#include "app/window_fixture.h"

namespace iterandum::test {
namespace {

constexpr auto kShift = Qt::ShiftModifier;

class GridTest : public WindowTest {
 protected:
  GridTest() {
    std::string sql = "CREATE TABLE wide (id INTEGER PRIMARY KEY";
    for (int c = 1; c <= 40; ++c) sql += ", c" + std::to_string(c) + " TEXT";
    sql +=
        ");"
        "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 500) INSERT INTO wide (id, c1, c2) "
        "SELECT i, 'a' || i, 'b' || i FROM n";
    db.run(sql);
  }
  // The selected cells, as "row.column" in the order of the sheet.
  [[nodiscard]] std::string selected() const {
    std::string out;
    for (const SheetView::Block& block : view().selectedBlocks()) {
      for (int row = block.rows.first; row <= block.rows.last; ++row) {
        for (const int c : block.columns) {
          out += (out.empty() ? "" : " ") + std::to_string(row) + "." + std::to_string(c);
        }
      }
    }
    return out;
  }
  [[nodiscard]] QPoint centre(int row, int column) const {
    return view().visualRect(sheet()->model().index(row, column)).center();
  }
};

TEST_F(GridTest, EveryPlaceLeadsToItsCellAndBackWhateverIsMovedHiddenOrFrozen) {
  openTable("wide");
  std::mt19937 random(3);
  const auto pick = [&](int count) { return static_cast<int>(random() % static_cast<unsigned>(count)); };
  FilterHeader& head = view().head();
  for (int round = 0; round < 150; ++round) {
    switch (pick(5)) {
      case 0:
        head.moveSection(pick(head.count()), pick(head.count()));
        break;
      case 1: {
        const int column = pick(head.count());
        const bool hide = pick(3) == 0 && head.hiddenSectionCount() < head.count() - 5;
        view().setColumnHidden(column, hide);
        break;
      }
      case 2:
        head.setFrozen(pick(4));
        break;
      case 3:
        head.resizeSection(pick(head.count()), 50 + pick(200));
        break;
      default:
        view().horizontalScrollBar()->setValue(pick(view().horizontalScrollBar()->maximum() + 1));
        view().verticalScrollBar()->setValue(pick(view().verticalScrollBar()->maximum() + 1));
    }
    // From a place to its cell: the cell is where the place is.
    for (int i = 0; i < 20; ++i) {
      const QPoint place(pick(view().viewport()->width()), pick(view().viewport()->height()));
      const QModelIndex cell = view().indexAt(place);
      if (!cell.isValid()) continue;
      ASSERT_FALSE(view().isColumnHidden(cell.column()));
      ASSERT_TRUE(view().visualRect(cell).contains(place)) << round << ": column " << cell.column();
      ASSERT_EQ(cell.row(), view().rowAt(place.y()));
    }
    // What is gone to can be seen whole, not below a frozen column.
    int column = pick(head.count());
    while (view().isColumnHidden(column)) column = (column + 1) % head.count();
    const int row = pick(500);
    view().goTo(row, column);
    const QRect box = view().visualRect(view().currentIndex());
    ASSERT_GE(box.top(), 0);
    ASSERT_LT(box.top(), view().viewport()->height());
    if (!head.isFrozen(column) && box.width() + head.frozenWidth() <= view().viewport()->width()) {
      ASSERT_GE(box.left(), head.frozenWidth()) << round;
      ASSERT_LE(box.right(), view().viewport()->width()) << round;
    }
    ASSERT_EQ(view().currentIndex(), view().indexAt({box.left() + 1, box.top() + 1})) << round;
  }
}

TEST_F(GridTest, ASelectionGrowsAndShrinksFromWhereItWasBegun) {
  openTable("wide");
  view().goTo(10, 2);
  key(Qt::Key_Down, kShift);
  key(Qt::Key_Right, kShift);
  EXPECT_EQ("10.2 10.3 11.2 11.3", selected());
  key(Qt::Key_Up, kShift);
  key(Qt::Key_Up, kShift);
  key(Qt::Key_Left, kShift);
  EXPECT_EQ("9.2 10.2", selected());
  key(Qt::Key_Down);
  EXPECT_EQ("10.2", selected()) << "a plain key begins anew";
  view().head().moveSection(view().head().visualIndex(5), view().head().visualIndex(2));
  view().goTo(0, 5);
  key(Qt::Key_Right, kShift);
  EXPECT_EQ("0.5 0.2", selected()) << "neighbours are those on screen";
  view().goTo(0, 1);
  key(Qt::Key_End, kShift | Qt::ControlModifier);
  EXPECT_EQ(499, view().selectedRows().back().last);
  view().goTo(3, 1);
  key(Qt::Key_PageDown, kShift);
  EXPECT_GT(view().selectedRows().back().size(), 5);
}

TEST_F(GridTest, TheMouseSelectsByShiftAndByDrawing) {
  openTable("wide");
  QTest::mouseClick(view().viewport(), Qt::LeftButton, {}, centre(2, 1));
  QTest::mouseClick(view().viewport(), Qt::LeftButton, kShift, centre(4, 2));
  EXPECT_EQ("2.1 2.2 3.1 3.2 4.1 4.2", selected());
  QTest::mouseClick(view().viewport(), Qt::LeftButton, Qt::ControlModifier, centre(6, 1));
  EXPECT_EQ("2.1 2.2 3.1 3.2 4.1 4.2 6.1", selected());
  QTest::mousePress(view().viewport(), Qt::LeftButton, {}, centre(7, 1));
  QTest::mouseMove(view().viewport(), centre(7, 2));
  QTest::mouseMove(view().viewport(), centre(8, 2));
  QTest::mouseRelease(view().viewport(), Qt::LeftButton, {}, centre(8, 2));
  EXPECT_EQ("7.1 7.2 8.1 8.2", selected());
}

TEST_F(GridTest, AClickInTheMarginTakesTheWholeRecord) {
  openTable("species");
  auto* margin = view().findChild<QWidget*>("margin");
  const int y = view().head().height() + view().visualRect(sheet()->model().index(1, 0)).center().y();
  QTest::mouseClick(margin, Qt::LeftButton, {}, {10, y});
  EXPECT_EQ("1.0 1.1", selected());
  key(Qt::Key_Delete, Qt::ControlModifier);
  EXPECT_EQ("remove 2", staged());
}

TEST_F(GridTest, AColumnIsMadeAsWideAsItsContentsByADoubleClickOnItsEdge) {
  db.run("UPDATE wide SET c1 = 'a text that is a good deal longer than its column' WHERE id = 3");
  openTable("wide");
  FilterHeader& head = view().head();
  const int before = head.sectionSize(1);
  const QPoint edge(head.columnLeft(1) + before - 1, 10);
  QTest::mouseMove(head.viewport(), edge);
  QTest::mouseDClick(head.viewport(), Qt::LeftButton, {}, edge);
  EXPECT_GT(head.sectionSize(1), before);
}

TEST_F(GridTest, AnActIsOverAnyNumberOfCells) {
  db.run(
      "CREATE TABLE long (id INTEGER PRIMARY KEY, a INTEGER, b INTEGER);"
      "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 60000) INSERT INTO long SELECT i, 1, 2 "
      "FROM n");
  window.reset();
  start();
  openTable("long");
  at(0, "a");
  key(Qt::Key_End, kShift | Qt::ControlModifier);
  key(Qt::Key_Delete);
  ASSERT_TRUE(wait([&] { return counts().cells == 120000; })) << message().toStdString();
  EXPECT_EQ("", message().toStdString()) << "what was said while it was read has gone";
  key(Qt::Key_Z, Qt::ControlModifier);
  EXPECT_TRUE(changes().empty());
}

}  // namespace
}  // namespace iterandum::test
