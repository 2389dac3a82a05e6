// The history page: receipts found, a record's own history, all of a receipt or some of its records taken back.
#include <QCheckBox>

#include "app/history/receipt_lines.h"
#include "app/scope_fixture.h"

namespace iterandum::test {
namespace {

class HistoryTest : public SheetScopeTest {
 protected:
  void stageCell(int row, const char* column, const char* value) {
    at(row, column);
    type(value);
    key(Qt::Key_Return);
  }
  void apply() {
    goToReview();
    ASSERT_TRUE(wait([&] { return review()->ready(); }));
    key(Qt::Key_Return, kCtrlShift);
    ASSERT_TRUE(wait([&] { return changes().empty(); }));
  }
  void applied(int row, const char* column, const char* value) {
    openTable("tree");
    stageCell(row, column, value);
    apply();
  }
  void openHistory() {
    key(Qt::Key_H, kCtrl);
    ASSERT_TRUE(wait([&] { return lines() > 0; }));
  }
  [[nodiscard]] int lines() const { return static_cast<int>(labels("receiptRecordCells").size()); }
  [[nodiscard]] QList<QLabel*> labels(const char* name) const {
    return window->findChild<ReceiptLines*>()->findChildren<QLabel*>(name);
  }
  [[nodiscard]] std::string cells() const {
    QString all;
    for (const QLabel* label : labels("receiptRecordCells")) all += label->text() + '\n';
    return all.toStdString();
  }
  [[nodiscard]] QPushButton* back() const { return window->findChild<QPushButton*>("takeBack"); }
  // The box of the record whose line speaks of it so.
  [[nodiscard]] QCheckBox* box(const char* title) const {
    for (QCheckBox* box : window->findChild<ReceiptLines*>()->findChildren<QCheckBox*>("receiptRecord")) {
      if (box->accessibleName().contains(title)) return box;
    }
    return nullptr;
  }
  [[nodiscard]] std::string conditions() const { return db.rows("SELECT condition FROM tree ORDER BY tree_id"); }
};

TEST_F(HistoryTest, WhoChangedARecordIsSaidByNames) {
  openTable("tree");
  stageCell(0, "species_id", "oak");
  ASSERT_TRUE(wait([&] { return staged() == "edit 7 species_id=2"; })) << staged();
  apply();
  ASSERT_TRUE(wait([&] { return sheet() != nullptr && sheet()->model().source().complete(); }));
  at(0, "tag");
  key(Qt::Key_H, kCtrlAlt);
  EXPECT_TRUE(wait([&] { return cells().find("species_id") != std::string::npos; })) << cells();
  EXPECT_TRUE(wait([&] {
    return cells().find(">lime<") != std::string::npos && cells().find(">oak<") != std::string::npos;
  })) << cells();
  key(Qt::Key_F7, Qt::ShiftModifier);
  EXPECT_TRUE(wait([&] { return sheet() != nullptr && sheet()->isVisible(); }));
}

TEST_F(HistoryTest, ReceiptsAreFoundByWhatStandsInThem) {
  openTable("tree");
  applied(0, "condition", "3");
  applied(1, "note", "leaning");
  key(Qt::Key_H, Qt::ControlModifier);
  auto* list = window->findChild<QListWidget*>("receipts");
  ASSERT_TRUE(wait([&] { return list->count() == 2; }));
  const auto inSight = [&] {
    std::string out;
    for (int i = 0; i < list->count(); ++i) out += list->item(i)->isHidden() ? "" : std::to_string(i);
    return out;
  };
  key(Qt::Key_F, Qt::ControlModifier);
  type("LEANING t8");
  EXPECT_TRUE(wait([&] { return inSight() == "0"; })) << inSight();
  auto* line = window->findChild<QLineEdit*>("receiptSearch");
  line->selectAll();
  type("t7 oldest");
  EXPECT_TRUE(wait([&] { return inSight().empty(); })) << inSight();
  EXPECT_TRUE(window->findChild<QLabel*>("receiptsFound")->isVisible());
  line->selectAll();
  type("t7 condition");
  EXPECT_TRUE(wait([&] { return inSight() == "1"; })) << inSight();
  EXPECT_TRUE(wait([&] { return list->currentRow() == 1; })) << "what is found is what is shown";
  key(Qt::Key_Return);
  EXPECT_TRUE(list->hasFocus());
  line->clear();
  EXPECT_TRUE(wait([&] { return inSight() == "01"; })) << inSight();
}

// Acts: the history, the box, the button, apply.
TEST_F(HistoryTest, OneRecordOfAReceiptIsTakenBackInFourActs) {
  openTable("tree");
  stageCell(0, "condition", "3");
  stageCell(1, "condition", "3");
  stageCell(2, "condition", "3");
  apply();
  ASSERT_EQ("3\n3\n3", conditions());
  openHistory();
  ASSERT_TRUE(wait([&] { return box("T8") != nullptr; })) << cells();
  EXPECT_EQ("Take back", back()->text().toStdString());
  QTest::mouseClick(box("T8"), Qt::LeftButton, {}, QPoint(8, box("T8")->height() / 2));
  EXPECT_EQ("Take back 1 record", back()->text().toStdString());
  QTest::mouseClick(back(), Qt::LeftButton);
  ASSERT_TRUE(wait([&] { return review()->isVisible() && review()->ready(); })) << message().toStdString();
  EXPECT_EQ("edit 8 condition=2", staged());
  key(Qt::Key_Return, kCtrlShift);
  ASSERT_TRUE(wait([&] { return changes().empty(); }));
  EXPECT_EQ("3\n2\n3", conditions());
}

TEST_F(HistoryTest, WithWordsToFindByTheButtonMeansNoMoreThanIsShown) {
  openTable("tree");
  stageCell(0, "condition", "3");
  stageCell(2, "condition", "3");
  apply();
  openHistory();
  key(Qt::Key_F, kCtrl);
  type("t9");
  ASSERT_TRUE(wait([&] { return lines() == 1 && back()->text() == "Take back these 1"; })) << cells();
  EXPECT_TRUE(window->findChild<QLabel*>("receiptDetail")->text().contains("1 of 2 record"));
  key(Qt::Key_B, kCtrlShift);
  ASSERT_TRUE(wait([&] { return staged() == "edit 9 condition=4"; })) << staged();
  key(Qt::Key_Z, kCtrl);
  EXPECT_TRUE(changes().empty()) << "one gesture";
  openHistory();
  window->findChild<QLineEdit*>("receiptSearch")->clear();
  ASSERT_TRUE(wait([&] { return lines() == 2 && back()->text() == "Take back"; }));
  key(Qt::Key_B, kCtrlShift);
  ASSERT_TRUE(wait([&] { return staged() == "edit 7 condition=2; edit 9 condition=4"; })) << staged();
}

// A change of long ago, past another one: a conflict that the review shows, as for anything else.
TEST_F(HistoryTest, FromARecordsOwnHistoryOneChangeIsTakenBack) {
  applied(0, "condition", "3");
  applied(0, "note", "leaning");
  applied(0, "condition", "5");
  window->openTable({"", "tree"});
  ASSERT_TRUE(wait([&] { return sheet() != nullptr && sheet()->model().source().complete(); }));
  at(0, "tag");
  key(Qt::Key_H, kCtrlAlt);
  ASSERT_TRUE(wait([&] { return lines() == 3; })) << cells();
  EXPECT_FALSE(back()->isEnabled()) << "no receipt is shown";
  const auto buttons = window->findChild<ReceiptLines*>()->findChildren<QPushButton*>("takeOneBack");
  ASSERT_EQ(3, buttons.size());
  QTest::mouseClick(buttons[1], Qt::LeftButton);  // the note
  ASSERT_TRUE(wait([&] { return staged() == "edit 7 note=old"; })) << staged();
  openHistory();
  ASSERT_TRUE(wait([&] { return lines() == 1 && box("T7") != nullptr; }));
  box("T7")->setFocus();
  key(Qt::Key_Space);
  EXPECT_EQ("Take back 1 record", back()->text().toStdString()) << "by keys too";
}

// New records of a receipt whose removal is taken back get numbers that nobody else's has.
TEST_F(HistoryTest, RemovalsComeBackBesideNewRecords) {
  openTable("species");
  at(2, "name");
  key(Qt::Key_Delete, kCtrl);
  ASSERT_TRUE(wait([&] { return staged() == "remove 3"; })) << staged();
  apply();
  ASSERT_EQ("2", db.rows("SELECT count(*) FROM species"));
  window->openTable({"", "species"});
  ASSERT_TRUE(wait([&] { return sheet() != nullptr && sheet()->model().source().complete(); }));
  key(Qt::Key_N, kCtrl);
  ASSERT_EQ(1U, counts().added);
  openHistory();
  ASSERT_TRUE(wait([&] { return box("elm") != nullptr; })) << cells();
  QTest::mouseClick(box("elm"), Qt::LeftButton, {}, QPoint(8, box("elm")->height() / 2));
  QTest::mouseClick(back(), Qt::LeftButton);
  ASSERT_TRUE(wait([&] { return counts().added == 2; })) << staged();
}

}  // namespace
}  // namespace iterandum::test
