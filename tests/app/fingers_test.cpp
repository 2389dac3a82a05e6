// What the fingers of everybody who knows a spreadsheet do without asking: typing and going on, filling, selecting to
// the edge, clearing, cutting, copying, over more records than are loaded too.
#include <QClipboard>
#include <QMimeData>
#include <QWheelEvent>

#include "app/scope_fixture.h"

namespace iterandum::test {
namespace {

class FingersTest : public SheetScopeTest {
 protected:
  // The staged values of a column in the records 7, 8, 9, "-" where nothing is.
  std::string staged(const char* column, const char* table = "tree", const std::vector<int>& ids = {7, 8, 9}) const {
    std::string out;
    const TableChanges* t = changes().table({"", table});
    for (const int id : ids) {
      const auto number = t == nullptr ? std::nullopt : t->find({Value::integer(id)});
      const auto cell = number ? t->cell(*number, column) : std::nullopt;
      out += (out.empty() ? "" : " ") + (cell ? (cell->to.isNull() ? "none" : canonicalText(cell->to)) : "-");
    }
    return out;
  }
  void manyRecords() { openLeaves(6000); }
  [[nodiscard]] std::string here() const {
    const QModelIndex i = view().currentIndex();
    return std::to_string(i.row()) + " " + sheet()->model().columnName(i.column()).toStdString();
  }
  [[nodiscard]] std::size_t records(const char* table) const {
    const TableChanges* t = changes().table({"", table});
    return t == nullptr ? 0 : t->records();
  }
};

TEST_F(FingersTest, AnArrowWhileTypingTakesWhatIsTypedAndGoesOn) {
  openTable("tree");
  at(0, "condition");
  type("1");
  key(Qt::Key_Down);
  EXPECT_EQ("1 condition", here());
  key(Qt::Key_Down);
  type("3");
  key(Qt::Key_Return);
  EXPECT_EQ("1 - 3", staged("condition"));
  at(0, "condition");
  type("5");
  key(Qt::Key_Right);
  EXPECT_EQ("5 - 3", staged("condition"));
  EXPECT_EQ("0 height", here());
  type("8");
  key(Qt::Key_Left);
  EXPECT_EQ("0 condition", here());
  EXPECT_EQ("8 - -", staged("height"));
}

TEST_F(FingersTest, F2EditsInsideAtTheEnd) {
  openTable("tree");
  at(0, "note");
  key(Qt::Key_F2);
  type("er");
  key(Qt::Key_Left);
  key(Qt::Key_Left);
  type("_");
  key(Qt::Key_Return);
  EXPECT_EQ("old_er - -", staged("note")) << "arrows move inside the text";
}

TEST_F(FingersTest, FillingGoesDownFromTheFirstRecordWhicheverWayItWasSelected) {
  openTable("tree");
  at(0, "condition");
  key(Qt::Key_Down, Qt::ShiftModifier);
  key(Qt::Key_Down, Qt::ShiftModifier);
  key(Qt::Key_D, kCtrl);
  EXPECT_EQ("- - 2", staged("condition")) << "the first one's 2 goes down, never the last one's 4 up";
  key(Qt::Key_Z, kCtrl);
  EXPECT_EQ("- - -", staged("condition"));
  // One cell takes what is above it.
  at(2, "condition");
  key(Qt::Key_D, kCtrl);
  EXPECT_EQ("- - 2", staged("condition"));
  // And to the right, each record by itself.
  at(0, "tag");
  const int tag = view().currentIndex().column();
  view().head().moveSection(view().head().visualIndex(static_cast<int>(*sheet()->table().columnIndex("note"))),
                            view().head().visualIndex(tag) + 1);
  key(Qt::Key_Right, Qt::ShiftModifier);
  key(Qt::Key_Down, Qt::ShiftModifier);
  key(Qt::Key_R, kCtrlAlt);
  EXPECT_EQ("T7 T8 -", staged("note"));
}

TEST_F(FingersTest, CtrlEnterPutsWhatIsTypedIntoAllThatIsSelected) {
  openTable("tree");
  at(0, "condition");
  key(Qt::Key_Down, Qt::ShiftModifier);
  key(Qt::Key_Down, Qt::ShiftModifier);
  type("9");
  key(Qt::Key_Return, kCtrl);
  EXPECT_EQ("- - -", staged("condition")) << "what does not fit goes nowhere";
  ASSERT_NE(nullptr, view().editor());
  key(Qt::Key_A, kCtrl);
  type("3");
  key(Qt::Key_Return, kCtrl);
  EXPECT_EQ("3 3 3", staged("condition"));
  key(Qt::Key_Z, kCtrl);
  EXPECT_EQ("- - -", staged("condition")) << "one gesture";
}

TEST_F(FingersTest, KeysSelectToTheEdgeWholeColumnsRecordsAndAll) {
  manyRecords();
  at(0, "size");
  key(Qt::Key_Down, kCtrlShift);
  EXPECT_EQ(6000, view().selectedCellCount());
  EXPECT_EQ("5999 size", here());
  key(Qt::Key_Up, kCtrl);
  EXPECT_EQ("0 size", here());
  EXPECT_EQ(1, view().selectedCellCount());
  key(Qt::Key_Right, kCtrl);
  EXPECT_EQ("0 note", here());
  key(Qt::Key_Space, kCtrl);
  EXPECT_EQ(6000, view().selectedCellCount());
  at(5, "note");
  key(Qt::Key_Space, Qt::ShiftModifier);
  EXPECT_EQ(3, view().selectedCellCount());
  key(Qt::Key_A, kCtrl);
  EXPECT_EQ(18000, view().selectedCellCount());
  at(0, "size");
  key(Qt::Key_PageDown, Qt::ShiftModifier);
  EXPECT_GT(view().selectedCellCount(), 5);
}

TEST_F(FingersTest, AnActIsOverAllThatIsSelectedThoughNotAllIsLoaded) {
  manyRecords();
  at(0, "size");
  type("7");
  key(Qt::Key_Return);
  at(0, "size");
  key(Qt::Key_Space, kCtrl);
  key(Qt::Key_D, kCtrl);
  ASSERT_TRUE(wait([&] { return records("leaf") > 1; }));
  EXPECT_EQ(5400U, records("leaf")) << "all but the six hundred that hold it already";
  EXPECT_EQ("7 7 -", staged("size", "leaf", {1, 6000, 17}));
  key(Qt::Key_Z, kCtrl);
  EXPECT_EQ("7 - -", staged("size", "leaf", {1, 6000, 17})) << "one gesture";
  // Removed: all of them.
  at(0, "note");
  key(Qt::Key_Down, kCtrlShift);
  key(Qt::Key_Delete, kCtrl);
  ASSERT_TRUE(wait([&] { return changes().counts().removed == 6000; })) << changes().counts().removed;
  at(0, "note");
  key(Qt::Key_Down, kCtrlShift);
  key(Qt::Key_Backspace, kCtrl);
  EXPECT_EQ(0U, changes().counts().removed);
}

TEST_F(FingersTest, AllOrNothingWhereOneIsGoneOrCannotTakeIt) {
  manyRecords();
  db.run("DELETE FROM leaf WHERE leaf_id = 5000");
  at(0, "size");
  key(Qt::Key_Down, kCtrlShift);
  key(Qt::Key_Delete);
  EXPECT_TRUE(wait([&] { return message().contains("no longer in the database"); })) << message().toStdString();
  EXPECT_EQ(0U, changes().counts().edited);
  // One that is to be removed cannot be filled.
  at(3, "size");
  key(Qt::Key_Delete, kCtrl);
  at(0, "size");
  for (int i = 0; i < 5; ++i) key(Qt::Key_Down, Qt::ShiftModifier);
  key(Qt::Key_D, kCtrl);
  EXPECT_THAT(message().toStdString(), ::testing::HasSubstr("put it back first"));
  EXPECT_EQ(0U, changes().counts().edited);
}

TEST_F(FingersTest, ACopyIsWhatIsShown) {
  db.run(
      "UPDATE tree SET note = 'two' || char(10) || 'lines' || char(9) || '\"q\"' WHERE tree_id = 8;"
      "UPDATE tree SET note = '<b>' WHERE tree_id = 9");
  openTable("tree");
  ASSERT_TRUE(shows("species_id", "lime lime oak"));
  at(0, "species_id");
  for (const char* column : {"tag", "condition", "height"}) {
    view().setColumnHidden(static_cast<int>(*sheet()->table().columnIndex(column)), true);
  }
  key(Qt::Key_Right, Qt::ShiftModifier);
  key(Qt::Key_Down, kCtrlShift);
  key(Qt::Key_C, kCtrl);
  EXPECT_EQ("lime\told\nlime\t\"two\nlines\t\"\"q\"\"\"\noak\t<b>", QApplication::clipboard()->text().toStdString());
  EXPECT_THAT(QApplication::clipboard()->mimeData()->html().toStdString(), ::testing::HasSubstr("<td>&lt;b&gt;</td>"));
  // It comes back as it went, line ends in one cell.
  at(0, "note");
  QApplication::clipboard()->setText("a\n\"two\nlines\"\n");
  key(Qt::Key_V, kCtrl);
  EXPECT_EQ("a two\nlines -", staged("note"));
}

TEST_F(FingersTest, APasteBeginsAtTheTopLeftOfWhatIsSelected) {
  openTable("tree");
  at(0, "condition");
  key(Qt::Key_Down, Qt::ShiftModifier);
  key(Qt::Key_Down, Qt::ShiftModifier);
  EXPECT_EQ("2 condition", here());
  QApplication::clipboard()->setText("1\n3\n5\n");
  key(Qt::Key_V, kCtrl);
  EXPECT_EQ("1 3 5", staged("condition"));
}

TEST_F(FingersTest, CutAndBackspaceClear) {
  openTable("tree");
  at(0, "note");
  key(Qt::Key_X, kCtrl);
  EXPECT_EQ("old", QApplication::clipboard()->text().toStdString());
  EXPECT_EQ("none - -", staged("note"));
  at(1, "note");
  key(Qt::Key_V, kCtrl);
  EXPECT_EQ("none old -", staged("note"));
  at(0, "height");
  key(Qt::Key_Backspace);
  type("4");
  key(Qt::Key_Return);
  EXPECT_EQ("4 - -", staged("height"));
}

TEST_F(FingersTest, EnterAfterTabsGoesBackToWhereTheyBegan) {
  openTable("tree");
  at(0, "condition");
  type("1");
  key(Qt::Key_Tab);
  type("5");
  key(Qt::Key_Tab);
  type("x");
  key(Qt::Key_Return);
  EXPECT_EQ("1 condition", here());
  key(Qt::Key_Return);
  EXPECT_EQ("2 condition", here());
  // Tabs that only lead somewhere are no run: what is typed next stays in its column.
  at(0, "tag");
  key(Qt::Key_Tab);
  key(Qt::Key_Tab);
  EXPECT_EQ("0 condition", here());
  type("4");
  key(Qt::Key_Return);
  EXPECT_EQ("1 condition", here());
}

TEST_F(FingersTest, TheMarginTakesMoreWithCtrlAndAllBetweenWithShift) {
  manyRecords();
  auto* margin = window->findChild<QWidget*>("margin");
  const auto click = [&](int row, Qt::KeyboardModifiers modifiers) {
    const QRect cell = view().visualRect(sheet()->model().index(row, 0));
    QTest::mouseClick(margin, Qt::LeftButton, modifiers, QPoint(10, view().head().height() + cell.center().y()));
  };
  click(1, {});
  click(3, kCtrl);
  EXPECT_EQ(2U, view().selectedRows().size());
  click(3, kCtrl);
  EXPECT_EQ(1U, view().selectedRows().size()) << "and gives it back";
  click(2, {});
  click(6, Qt::ShiftModifier);
  ASSERT_EQ(1U, view().selectedRows().size());
  EXPECT_EQ(5, view().selectedRows()[0].size());
}

TEST_F(FingersTest, DaysAreTypedAsPeopleWriteThem) {
  db.run(
      "CREATE TABLE visit (visit_id INTEGER PRIMARY KEY, seen DATE, at TIMESTAMP);"
      "INSERT INTO visit VALUES (1, '2020-01-01', '2020-01-01 10:00:00')");
  window.reset();
  start();
  openTable("visit");
  const QDate today = QDate::currentDate();
  const std::vector<std::pair<const char*, QDate>> cases = {
      {"today", today},
      {"Yesterday", today.addDays(-1)},
      {"in 2 weeks", today.addDays(14)},
      {"5 days ago", today.addDays(-5)},
      {"3.4.25", {2025, 4, 3}},
      {"3.4.1987", {1987, 4, 3}},
      {"03.04.", {today.year(), 4, 3}},
      {"1.12.99", {1999, 12, 1}},
      {"2024-2-9", {2024, 2, 9}},
  };
  for (const auto& [text, day] : cases) {
    at(0, "seen");
    type(text);
    key(Qt::Key_Return);
    EXPECT_EQ(day.toString(Qt::ISODate).toStdString(), staged("seen", "visit", {1})) << text;
  }
  at(0, "seen");
  key(Qt::Key_Semicolon, kCtrl);
  key(Qt::Key_Return);
  EXPECT_EQ(today.toString(Qt::ISODate).toStdString(), staged("seen", "visit", {1}));
  for (const char* wrong : {"this week", "31.2.25", "32.1.", "soon"}) {
    at(0, "seen");
    type(wrong);
    key(Qt::Key_Return);
    EXPECT_EQ(today.toString(Qt::ISODate).toStdString(), staged("seen", "visit", {1})) << wrong;
    ASSERT_NE(nullptr, view().editor()) << wrong;
    key(Qt::Key_Escape);
  }
}

TEST_F(FingersTest, EnterPressesAButtonAndUndoIsTheWindowsWhereNothingWasTyped) {
  openTable("tree");
  at(0, "condition");
  type("1");
  key(Qt::Key_Return);
  key(Qt::Key_PageUp, kCtrl);
  auto* search = qobject_cast<QLineEdit*>(QApplication::focusWidget());
  ASSERT_NE(nullptr, search);
  key(Qt::Key_Z, kCtrl);
  EXPECT_TRUE(changes().empty());
  // A button that has the keys.
  openTable("tree");
  at(0, "condition");
  ASSERT_TRUE(wait([&] { return incoming().contains("inspection   2"); }));
  for (QPushButton* line : window->findChild<QWidget*>("incoming")->findChildren<QPushButton*>()) {
    if (!line->text().contains("inspection")) continue;
    line->setFocus();
    key(Qt::Key_Return);
    break;
  }
  EXPECT_TRUE(wait([&] { return sheet() != nullptr && sheet()->table().name.name == "inspection"; }));
}

// The offers for one text must not be taken for another one that was typed on and confirmed before they came.
TEST_F(FingersTest, EnterTakesWhatWasTypedThoughTheOffersComeLater) {
  db.run(
      "UPDATE species SET name = 'holly' WHERE species_id = 1; UPDATE species SET name = 'hornbeam' WHERE species_id = "
      "2;"
      "UPDATE species SET name = 'horn oak' WHERE species_id = 3");
  openTable("tree");
  at(0, "species_id");
  type("holl");
  ASSERT_TRUE(wait([&] { return window->findChild<QListWidget*>("choices")->count() == 1; }));
  // The database is busy for a moment.
  window->desk()->front().post(
      window.get(),
      [](Session&, Progress&) -> Result<int> {
        QThread::msleep(300);
        return 0;
      },
      [](Result<int>&&) {});
  key(Qt::Key_A, kCtrl);
  type("hornb");
  key(Qt::Key_Return);
  ASSERT_TRUE(wait([&] { return view().editor() == nullptr; }));
  EXPECT_EQ("2 - -", staged("species_id"));
  // Two fit: which one is asked, and no number is wanted of anybody.
  at(1, "species_id");
  type("horn");
  key(Qt::Key_Return);
  ASSERT_TRUE(wait([&] { return window->findChild<QListWidget*>("choices")->count() == 2; }));
  EXPECT_TRUE(wait([&] { return window->findChild<QLabel*>("reason")->text().contains("which one"); }));
  EXPECT_EQ("2 - -", staged("species_id"));
  key(Qt::Key_Down);
  key(Qt::Key_Return);
  EXPECT_EQ("2 3 -", staged("species_id"));
  // Called exactly so, though another one has it in its name.
  db.run("UPDATE species SET name = 'horn' WHERE species_id = 1");
  at(2, "species_id");
  type("HORN");
  key(Qt::Key_Return);
  ASSERT_TRUE(wait([&] { return view().editor() == nullptr; }));
  EXPECT_EQ("2 3 1", staged("species_id"));
}

TEST_F(FingersTest, ReferencesArePastedByName) {
  openTable("tree");
  at(0, "species_id");
  QApplication::clipboard()->setText("oak\n2\nlime\n");
  key(Qt::Key_V, kCtrl);
  EXPECT_TRUE(wait([&] { return staged("species_id") != "- - -"; })) << message().toStdString();
  EXPECT_EQ("2 2 1", staged("species_id"));
  key(Qt::Key_Z, kCtrl);
  at(0, "species_id");
  QApplication::clipboard()->setText("oak\nyew\nlime\n");
  key(Qt::Key_V, kCtrl);
  EXPECT_TRUE(wait([&] { return message().contains("no record of species is called “yew”"); }))
      << message().toStdString();
  EXPECT_EQ("2 - 1", staged("species_id")) << "what fits is staged";
  EXPECT_EQ("yew", sheet()->model().cell(1, view().currentIndex().column()).typedWrong.toStdString())
      << "and what does not is kept where it belongs";
  EXPECT_EQ(1, view().currentIndex().row());
  key(Qt::Key_Z, kCtrl);
  key(Qt::Key_Escape);
  // One name into all that is selected.
  at(0, "species_id");
  key(Qt::Key_Down, kCtrlShift);
  QApplication::clipboard()->setText("oak");
  key(Qt::Key_V, kCtrl);
  EXPECT_TRUE(wait([&] { return staged("species_id") == "2 2 -"; })) << staged("species_id");
}

// Somebody wrote between the look and the act: what was seen is what was meant, and the review says what is there now.
TEST_F(FingersTest, WhatWasSeenIsWhatAnActOverManyIsGuardedBy) {
  manyRecords();
  db.run("UPDATE leaf SET size = 77 WHERE leaf_id = 2");
  at(0, "size");
  key(Qt::Key_Down, kCtrlShift);
  key(Qt::Key_Delete);
  ASSERT_TRUE(wait([&] { return records("leaf") == 6000; }));
  const TableChanges* leaf = changes().table({"", "leaf"});
  EXPECT_EQ("2", canonicalText(leaf->cell(*leaf->find({Value::integer(2)}), "size")->from));
}

TEST_F(FingersTest, ACopyOfManyIsByNameThroughoutAndACutIsCopiedFirst) {
  db.run(
      "CREATE TABLE leaf (leaf_id INTEGER PRIMARY KEY, species_id INTEGER REFERENCES species);"
      "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 6000) INSERT INTO leaf "
      "SELECT i, CASE WHEN i < 3000 THEN 1 ELSE 2 END FROM n");
  window.reset();
  start();
  openTable("leaf");
  ASSERT_TRUE(wait([&] { return sheet()->model().source().complete(); }));
  at(0, "species_id");
  key(Qt::Key_Space, kCtrl);
  QApplication::clipboard()->clear();
  key(Qt::Key_X, kCtrl);
  ASSERT_TRUE(wait([&] { return records("leaf") == 6000; })) << message().toStdString();
  const QStringList lines = QApplication::clipboard()->text().split('\n');
  ASSERT_EQ(6000, lines.size());
  EXPECT_EQ(2999, lines.count("lime"));
  EXPECT_EQ(3001, lines.count("oak")) << "no key stands where a name was not known yet";
}

}  // namespace
}  // namespace iterandum::test
