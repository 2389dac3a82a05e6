// By mouse alone, without the palette: menus, the line that says what is selected, the line that adds a record, the
// corner that fills. And what assistive tools are told.
#include <QAccessible>
#include <QMenu>

#include "app/records/column_values.h"
#include "app/scope_fixture.h"
#include "app/sheet/foot_line.h"

namespace iterandum::test {
namespace {

class MenusTest : public SheetScopeTest {
 protected:
  [[nodiscard]] QPoint cellPlace(int row, const char* column) const {
    const int c = static_cast<int>(*sheet()->table().columnIndex(column));
    return view().visualRect(sheet()->model().index(row, c)).center();
  }
  void click(int row, const char* column, Qt::KeyboardModifiers with = {}) const {
    QTest::mouseClick(view().viewport(), Qt::LeftButton, with, cellPlace(row, column));
  }
  // The menu that a right click there opens.
  QMenu* menuAt(QWidget* widget, const QPoint& place, const char* name) const {
    QTest::mouseClick(widget, Qt::RightButton, {}, place);
    QContextMenuEvent asked(QContextMenuEvent::Mouse, place, widget->mapToGlobal(place));
    QApplication::sendEvent(widget, &asked);
    return menu(name);
  }
  [[nodiscard]] QMenu* menu(const char* name) const {
    for (QMenu* one : window->findChildren<QMenu*>(name)) {
      if (one->isVisible()) return one;
    }
    return nullptr;
  }
  static QAction* entry(const QMenu* menu, const char* id) {
    if (menu == nullptr) return nullptr;
    for (QAction* action : menu->findChildren<QAction*>()) {
      if (action->objectName() == id) return action;
    }
    return nullptr;
  }
  void take(QMenu* menu, const char* id) const {
    QAction* action = entry(menu, id);
    ASSERT_NE(nullptr, action) << id;
    ASSERT_TRUE(action->isEnabled()) << id;
    close(menu);
    action->trigger();
    QCoreApplication::processEvents();
  }
  // Without a window manager nobody else gives the keys back to the window.
  void close(QMenu* menu) const {
    menu->close();
    window->activateWindow();
    ASSERT_TRUE(QTest::qWaitForWindowActive(window.get()));
    if (sheet() != nullptr) view().setFocus();
  }
  [[nodiscard]] std::string foot() const { return sheet()->findChild<FootLine*>()->text().toStdString(); }
  bool footSays(const char* words) {
    return wait([&] { return foot() == words; });
  }
  void clickOffer(const char* name) const {
    auto* offer = sheet()->findChild<QPushButton*>(name);
    ASSERT_TRUE(offer != nullptr && offer->isVisible()) << name;
    QTest::mouseClick(offer, Qt::LeftButton);
    QCoreApplication::processEvents();
  }
};

TEST_F(MenusTest, ARecordIsRemovedAndPutBackByMouseAlone) {
  openTable("tree");
  take(menuAt(view().viewport(), cellPlace(1, "tag"), "cellMenu"), "record.remove");
  EXPECT_EQ("remove 8", staged());
  auto* margin = view().findChild<QWidget*>("margin");
  const QPoint mark(10, view().head().height() + cellPlace(1, "tag").y());
  take(menuAt(margin, mark, "marginMenu"), "record.put-back");
  EXPECT_EQ("", staged());
}

TEST_F(MenusTest, ARecordIsRemovedWithAllThatCouldNotStayInOneGesture) {
  db.run(
      "CREATE TABLE work (work_id INTEGER PRIMARY KEY, tree_id INTEGER NOT NULL REFERENCES tree, after INTEGER "
      "REFERENCES work); INSERT INTO work VALUES (1, 7, NULL), (2, 8, 1), (3, 9, NULL), (4, 9, 2)");
  window.reset();
  start();
  openTable("tree");
  take(menuAt(view().viewport(), cellPlace(0, "tag"), "cellMenu"), "record.remove-with");
  ASSERT_TRUE(wait([&] { return counts().removed == 6; })) << staged() << message().toStdString();
  EXPECT_EQ("To be removed: 1 of tree, 2 of inspection, 3 of work. The review lists them all.", message().toStdString())
      << "a photo lets go by itself; work goes down over work";
  goToReview();
  EXPECT_TRUE(review()->ready());
  key(Qt::Key_Return, kCtrlShift);
  ASSERT_TRUE(wait([&] { return changes().empty(); }));
  EXPECT_EQ("8\n9", db.rows("SELECT tree_id FROM tree"));
  EXPECT_EQ("3", db.rows("SELECT work_id FROM work"));
  EXPECT_EQ("1|-\n2|9", db.rows("SELECT photo_id, tree_id FROM photo"));
}

TEST_F(MenusTest, AMenuIsAboutAllThatIsSelectedWhenItIsAskedForThere) {
  openTable("tree");
  click(0, "condition");
  click(2, "condition", Qt::ShiftModifier);
  take(menuAt(view().viewport(), cellPlace(1, "condition"), "cellMenu"), "cell.no-value");
  EXPECT_EQ("edit 7 condition=-; edit 8 condition=-; edit 9 condition=-", staged());
  // And about another cell when it is asked for there.
  take(menuAt(view().viewport(), cellPlace(0, "tag"), "cellMenu"), "record.remove");
  EXPECT_THAT(staged(), ::testing::HasSubstr("remove 7"));
  EXPECT_THAT(staged(), ::testing::Not(::testing::HasSubstr("remove 8")));
}

TEST_F(MenusTest, OnlyAndNotThisValue) {
  openTable("tree");
  take(menuAt(view().viewport(), cellPlace(0, "species_id"), "cellMenu"), "filter.only");
  EXPECT_TRUE(shows("tag", "T7 T8"));
  EXPECT_TRUE(wait([&] { return sentence() == "tree where species is lime and…"; })) << sentence();
  key(Qt::Key_F, kCtrlShift);
  ASSERT_TRUE(shows("tag", "T7 T8 T9"));
  take(menuAt(view().viewport(), cellPlace(0, "tag"), "cellMenu"), "filter.not");
  ASSERT_TRUE(shows("tag", "T8 T9"));
  take(menuAt(view().viewport(), cellPlace(0, "tag"), "cellMenu"), "filter.not");
  EXPECT_TRUE(shows("tag", "T9")) << "besides what was left out before";
}

TEST_F(MenusTest, TheMenuOfEverythingHasEachCommandOfThePalette) {
  openTable("tree");
  QTest::mouseClick(window->findChild<QPushButton*>("title"), Qt::LeftButton);
  QMenu* all = menu("menuOfAll");
  ASSERT_NE(nullptr, all);
  std::set<std::string> there;
  for (const QAction* action : all->findChildren<QAction*>()) {
    if (!action->objectName().isEmpty()) there.insert(action->text().section('\t', 0, 0).toStdString());
  }
  QAction* undo = entry(all, "undo");
  ASSERT_NE(nullptr, undo);
  EXPECT_EQ("Undo\tCtrl+Z", undo->text().toStdString()) << "with its keys";
  EXPECT_FALSE(undo->isEnabled()) << "nothing is there to undo";
  close(all);
  key(Qt::Key_K, kCtrl);
  auto* palette = window->findChild<QListWidget*>("paletteList");
  std::size_t commands = 0;
  for (int i = 0; i < palette->count(); ++i) {
    if (palette->item(i)->data(Qt::UserRole).toString() == "table") continue;
    ++commands;
    EXPECT_TRUE(there.contains(palette->item(i)->text().toStdString())) << palette->item(i)->text().toStdString();
  }
  EXPECT_EQ(there.size(), commands);
  EXPECT_GT(commands, 70U);
  key(Qt::Key_Escape);
}

TEST_F(MenusTest, MenusOpenByKeyTooAndAreShort) {
  openTable("tree");
  at(0, "tag");
  key(Qt::Key_F10, Qt::ShiftModifier);
  QMenu* cells = menu("cellMenu");
  ASSERT_NE(nullptr, cells);
  int lines = 0;
  for (const QAction* action : cells->actions()) lines += action->isSeparator() ? 0 : 1;
  EXPECT_LE(lines, 12) << "the rest is one step down";
  close(cells);
  key(Qt::Key_F10);
  ASSERT_NE(nullptr, menu("menuOfAll"));
  close(menu("menuOfAll"));
}

TEST_F(MenusTest, GroupsAndReceiptsHaveMenus) {
  openTable("tree");
  at(0, "condition");
  type("3");
  key(Qt::Key_Return);
  goToReview();
  auto* groups = window->findChild<QListWidget*>("groups");
  take(menuAt(groups->viewport(), groups->visualItemRect(groups->item(1)).center(), "groupMenu"), "apply");
  ASSERT_TRUE(wait([&] { return changes().empty(); }));
  key(Qt::Key_H, kCtrl);
  auto* receipts = window->findChild<QListWidget*>("receipts");
  ASSERT_TRUE(wait([&] { return receipts->count() == 1; }));
  EXPECT_THAT(receipts->item(0)->text().toStdString(), ::testing::StartsWith("condition from 2 to 3 in 1 record"))
      << "a title is proposed";
  ASSERT_TRUE(wait([&] { return window->findChild<QPushButton*>("takeBack")->isEnabled(); }));
  take(menuAt(receipts->viewport(), receipts->visualItemRect(receipts->item(0)).center(), "receiptMenu"),
       "receipt.take-back");
  EXPECT_TRUE(wait([&] { return staged() == "edit 7 condition=2"; })) << staged();
}

TEST_F(MenusTest, WhatIsSelectedIsSaidInWordsWithWhatCanBeDone) {
  openTable("tree");
  click(0, "condition");
  EXPECT_TRUE(wait([&] { return foot().rfind("condition: ", 0) == 0; })) << foot();
  click(2, "condition", Qt::ShiftModifier);
  EXPECT_TRUE(footSays("3 cells of condition · 2 to 4")) << foot();
  clickOffer("offerFill");
  EXPECT_EQ("edit 9 condition=2", staged());
  EXPECT_TRUE(footSays("3 cells of condition · all 2")) << foot();
  clickOffer("offerNoValue");
  EXPECT_TRUE(footSays("3 cells of condition · all without value")) << foot();
  click(0, "species_id");
  click(2, "species_id", Qt::ShiftModifier);
  EXPECT_TRUE(footSays("3 cells of species_id · 2 different values")) << foot();
  click(2, "tree_id", Qt::ShiftModifier);
  EXPECT_TRUE(wait([&] { return foot().find(" columns of 3 records") != std::string::npos; })) << foot();
  clickOffer("offerRemove");
  EXPECT_EQ(3U, counts().removed);
}

TEST_F(MenusTest, WhatIsSelectedButNotLoadedIsReadForItsWords) {
  db.run(
      "CREATE TABLE leaf (leaf_id INTEGER PRIMARY KEY, size INTEGER);"
      "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 9000) INSERT INTO leaf "
      "SELECT i, CASE WHEN i % 9 > 0 THEN i % 10 END FROM n");
  window.reset();
  start();
  openTable("leaf");
  at(1, "size");
  type("77");
  key(Qt::Key_Return);
  key(Qt::Key_Space, kCtrl);
  EXPECT_TRUE(footSays("9,000 cells of size · 1,000 without value · 0 to 77")) << foot();
}

TEST_F(MenusTest, TheLastLineAddsARecord) {
  openTable("species");
  const QRect line = view().addLine();
  ASSERT_FALSE(line.isEmpty());
  QTest::mouseClick(view().viewport(), Qt::LeftButton, {}, line.center());
  EXPECT_EQ(1U, counts().added);
  EXPECT_EQ(sheet()->model().rowCount() - 1, view().currentIndex().row());
  EXPECT_GT(view().addLine().top(), line.top()) << "below the new one, for the next";
}

TEST_F(MenusTest, TwentyLinesPastedIntoANewRecordAreTwentyNewRecords) {
  openTable("tree");
  QString lines;
  for (int i = 0; i < 20; ++i) lines += QStringLiteral("N%1\t%2\t3\n").arg(i).arg(i % 2 == 0 ? "lime" : "oak");
  QApplication::clipboard()->setText(lines);
  key(Qt::Key_N, kCtrl);
  EXPECT_EQ("tag", sheet()->model().columnName(view().currentIndex().column()).toStdString())
      << "past what the database sets by itself";
  key(Qt::Key_V, kCtrl);
  ASSERT_TRUE(wait([&] { return counts().added == 20; })) << message().toStdString();
  const auto& added = changes().table({"", "tree"})->added();
  EXPECT_EQ("N19", canonicalText(added.rbegin()->second.cells.at("tag")));
  EXPECT_EQ("2", canonicalText(added.rbegin()->second.cells.at("species_id")));
}

TEST_F(MenusTest, OneValueInAllThatMatchByMouse) {
  openTable("tree");
  sheet()->scope().setFilter(static_cast<int>(*sheet()->table().columnIndex("condition")), ">= 2");
  ASSERT_TRUE(shows("tag", "T7 T8 T9"));
  QTest::mouseDClick(view().viewport(), Qt::LeftButton, {}, cellPlace(0, "condition"));
  key(Qt::Key_A, kCtrl);
  type("5");
  key(Qt::Key_Return);
  ASSERT_TRUE(wait([&] { return foot().rfind("condition: ", 0) == 0; })) << foot();
  clickOffer("offerColumn");
  ASSERT_TRUE(footSays("3 cells of condition · 2 to 5")) << foot();
  clickOffer("offerFill");
  EXPECT_EQ("edit 7 condition=5; edit 8 condition=5; edit 9 condition=5", staged());
}

TEST_F(MenusTest, TheCornerFillsAndCountsOn) {
  openTable("tree");
  const auto drag = [&](const QPoint& to, Qt::KeyboardModifiers with) {
    const QPoint from = view().fillCorner().center();
    ASSERT_FALSE(view().fillCorner().isEmpty());
    QTest::mousePress(view().viewport(), Qt::LeftButton, {}, from);
    QMouseEvent move(QEvent::MouseMove, to, view().viewport()->mapToGlobal(to), Qt::NoButton, Qt::LeftButton, with);
    QApplication::sendEvent(view().viewport(), &move);
    QTest::mouseRelease(view().viewport(), Qt::LeftButton, with, to);
  };
  click(0, "condition");
  drag(cellPlace(2, "condition"), {});
  EXPECT_EQ("edit 9 condition=2", staged()) << "8 has it already";
  key(Qt::Key_Z, kCtrl);
  click(0, "tag");
  drag(cellPlace(2, "tag"), Qt::ControlModifier);
  EXPECT_EQ("", staged()) << "T7, T8, T9: they are so";
  EXPECT_EQ(3, view().selectedCellCount()) << "all that was meant is selected";
  click(0, "condition");
  drag(cellPlace(2, "condition"), Qt::ControlModifier);
  EXPECT_EQ("edit 8 condition=3", staged()) << "9 holds 4 already";
}

TEST_F(MenusTest, ASeriesGoesOnFromWhatWasTyped) {
  openTable("tree");
  at(0, "note");
  type("A-08");
  key(Qt::Key_Return);
  at(0, "note");
  key(Qt::Key_Down, kCtrlShift);
  key(Qt::Key_E, kCtrlShift);
  EXPECT_EQ("edit 7 note=A-08; edit 8 note=A-09; edit 9 note=A-10", staged());
  key(Qt::Key_Z, kCtrl);
  EXPECT_EQ("edit 7 note=A-08", staged()) << "one gesture";
  at(1, "note");
  type("A-18");
  key(Qt::Key_Return);
  at(0, "note");
  key(Qt::Key_Down, kCtrlShift);
  key(Qt::Key_E, kCtrlShift);
  EXPECT_EQ("edit 7 note=A-08; edit 8 note=A-18; edit 9 note=A-28", staged()) << "the second one says the step";
  at(0, "species_id");
  key(Qt::Key_Down, kCtrlShift);
  key(Qt::Key_E, kCtrlShift);
  EXPECT_THAT(message().toStdString(), ::testing::HasSubstr("there is no counting on from lime in species_id"));
}

TEST_F(MenusTest, ADoubleClickOnAColumnsEdgeFitsItAndNeverSorts) {
  openTable("tree");
  FilterHeader& head = view().head();
  const int column = static_cast<int>(*sheet()->table().columnIndex("note"));
  head.resizeSection(column, 200);
  const QPoint edge(head.columnLeft(column) + 200 - 1, 10);
  QTest::mouseClick(head.viewport(), Qt::LeftButton, {}, edge);
  QTest::mouseDClick(head.viewport(), Qt::LeftButton, {}, edge);
  EXPECT_TRUE(sheet()->scope().order().empty());
  EXPECT_LT(head.sectionSize(column), 200);
  QTest::mouseClick(head.viewport(), Qt::LeftButton, {}, QPoint(head.columnLeft(column) + 20, 10));
  EXPECT_EQ(1U, sheet()->scope().order().size()) << "its name sorts";
}

TEST_F(MenusTest, CopiesWithHeadsAndAsStored) {
  openTable("tree");
  at(0, "tag");
  key(Qt::Key_Right, Qt::ShiftModifier);
  const std::string second = sheet()->model().columnName(view().currentIndex().column()).toStdString();
  ASSERT_EQ("species_id", second);
  key(Qt::Key_C, kCtrlShift);
  EXPECT_TRUE(wait([&] { return QApplication::clipboard()->text() == "tag\tspecies_id\nT7\tlime"; }))
      << QApplication::clipboard()->text().toStdString();
  key(Qt::Key_C, kCtrlAlt);
  EXPECT_TRUE(wait([&] { return QApplication::clipboard()->text() == "T7\t1"; }))
      << QApplication::clipboard()->text().toStdString();
}

TEST_F(MenusTest, TheSheetIsATableToAssistiveTools) {
  openTable("tree");
  at(1, "condition");
  type("3");
  key(Qt::Key_Return);
  QAccessibleInterface* sheetThere = QAccessible::queryAccessibleInterface(&view());
  ASSERT_NE(nullptr, sheetThere);
  EXPECT_EQ(QAccessible::Table, sheetThere->role());
  QAccessibleTableInterface* table = sheetThere->tableInterface();
  ASSERT_NE(nullptr, table);
  EXPECT_EQ(3, table->rowCount());
  const int column = static_cast<int>(*sheet()->table().columnIndex("condition"));
  EXPECT_EQ("condition", table->columnDescription(column).toStdString());
  QAccessibleInterface* cell = table->cellAt(1, column);
  ASSERT_NE(nullptr, cell);
  EXPECT_EQ("changed from 2 to 3", cell->text(QAccessible::Name).toStdString());
  EXPECT_EQ("condition, changed", cell->text(QAccessible::Description).toStdString());
  EXPECT_TRUE(cell->state().editable);
  EXPECT_EQ(cell, sheetThere->child(sheetThere->indexOfChild(cell)));
  EXPECT_EQ("condition", cell->tableCellInterface()->columnHeaderCells().at(0)->text(QAccessible::Name).toStdString());
  EXPECT_EQ(cell, sheetThere->childAt(cell->rect().center().x(), cell->rect().center().y()));
  cell->actionInterface()->doAction(QAccessibleActionInterface::pressAction());
  ASSERT_NE(nullptr, view().editor()) << "it can be edited from there";
  key(Qt::Key_Escape);
  // Hidden columns are none.
  const int before = table->columnCount();
  view().setColumnHidden(column, true);
  EXPECT_EQ(before - 1, table->columnCount());
  EXPECT_TRUE(table->selectRow(2));
  EXPECT_TRUE(table->isRowSelected(2));
}

}  // namespace
}  // namespace iterandum::test
