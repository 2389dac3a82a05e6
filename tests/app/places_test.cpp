// Where somebody is stays: after applying, undo, reading again, at the next start, on the way to the review and back.
#include <QScrollBar>

#include "app/scope_fixture.h"
#include "app/style/roles.h"

namespace iterandum::test {
namespace {

class PlacesTest : public SheetScopeTest {
 protected:
  void manyLeaves() { openLeaves(3000); }
  [[nodiscard]] std::string here() const {
    const QModelIndex i = view().currentIndex();
    if (!i.isValid()) return "nowhere";
    const ValueTuple key = sheet()->model().source().key(i.row());
    return canonicalText(key[0]) + " " + sheet()->model().columnName(i.column()).toStdString();
  }
  bool comesTo(const char* place) {
    return wait([&] { return sheet() != nullptr && here() == place; });
  }
  [[nodiscard]] int fromTop() const { return view().currentIndex().row() - view().verticalScrollBar()->value(); }
  void apply() {
    goToReview();
    ASSERT_TRUE(review()->ready());
    key(Qt::Key_Return, kCtrlShift);
    ASSERT_TRUE(wait([&] { return changes().empty() && sheet() != nullptr && sheet()->model().source().complete(); }));
  }
};

TEST_F(PlacesTest, AfterApplyingTheSheetTheRecordAndTheScrollAreTheSame) {
  manyLeaves();
  openTable("tree");
  openTable("leaf");
  at(2000, "size");
  view().verticalScrollBar()->setValue(1995);
  ASSERT_TRUE(wait([&] { return sheet()->model().source().record(2000) != nullptr; }));
  type("77");
  key(Qt::Key_Return);
  at(2000, "size");
  view().verticalScrollBar()->setValue(1995);
  apply();
  EXPECT_EQ("leaf", sheet()->table().name.name) << "not the sheet that was opened last";
  EXPECT_TRUE(comesTo("2001 size")) << here();
  EXPECT_EQ(5, fromTop());
  key(Qt::Key_F5);
  EXPECT_TRUE(wait([&] { return sheet()->model().source().complete() && here() == "2001 size"; })) << here();
  EXPECT_EQ(5, fromTop());
}

TEST_F(PlacesTest, ARecordThatLeavesTheFilterGivesWayToItsNeighbourAndIsSaid) {
  manyLeaves();
  sheet()->scope().setFilter(1, "3");
  ASSERT_TRUE(wait([&] { return sheet()->model().source().complete() && sheet()->model().rowCount() == 300; }));
  at(100, "size");
  ASSERT_EQ("1003 size", here());
  type("4");
  key(Qt::Key_Return);
  at(100, "size");
  apply();
  EXPECT_TRUE(comesTo("1013 size")) << here();
  auto* left = sheet()->findChild<QLabel*>("leftTheseRecords");
  ASSERT_TRUE(wait([&] { return left->isVisible(); }));
  EXPECT_THAT(left->text().toStdString(), ::testing::StartsWith("No longer among these: 1 record just applied, <a"))
      << left->text().toStdString();
  emit left->linkActivated("show");
  ASSERT_TRUE(wait([&] { return settled() && sheet()->model().rowCount() == 1; }));
  EXPECT_EQ("leaf where record was just applied and…", sentence());
  EXPECT_TRUE(comesTo("1003 leaf_id")) << here();
}

TEST_F(PlacesTest, UndoAndRedoGoToWhatTheyChanged) {
  manyLeaves();
  at(1500, "note");
  ASSERT_TRUE(wait([&] { return sheet()->model().source().record(1500) != nullptr; }));
  type("x");
  key(Qt::Key_Return);
  at(3, "size");
  key(Qt::Key_Z, kCtrl);
  EXPECT_TRUE(comesTo("1501 note")) << here();
  at(3, "size");
  openTable("tree");
  key(Qt::Key_Y, kCtrl);
  EXPECT_TRUE(wait([&] { return sheet()->table().name.name == "leaf"; })) << "in the sheet that shows it";
  EXPECT_TRUE(comesTo("1501 note")) << here();
}

TEST_F(PlacesTest, SheetsComeBackAtTheNextStart) {
  openTable("species");
  at(1, "name");
  openTable("tree");
  sheet()->scope().setFilter(static_cast<int>(*sheet()->table().columnIndex("condition")), ">= 3");
  ASSERT_TRUE(shows("tag", "T9"));
  at(0, "note");
  window.reset();
  start();
  ASSERT_TRUE(wait([&] { return sheet() != nullptr && settled(); }));
  EXPECT_EQ("tree where condition is 3 or more and…", sentence());
  EXPECT_TRUE(comesTo("9 note")) << here();
  // The others are read when somebody looks at them, and keep their place until then.
  window.reset();
  start();
  ASSERT_TRUE(wait([&] { return sheet() != nullptr && settled(); }));
  key(Qt::Key_Tab, kCtrlShift);
  ASSERT_TRUE(wait([&] { return settled(); }));
  EXPECT_EQ("species", sheet()->table().name.name);
  EXPECT_TRUE(comesTo("2 name")) << here();
}

TEST_F(PlacesTest, FromTheReviewToTheRecordAndBackByOneKey) {
  openTable("tree");
  at(1, "condition");
  type("3");
  key(Qt::Key_Return);
  at(0, "tag");
  goToReview();
  key(Qt::Key_Return, kCtrl);
  EXPECT_TRUE(comesTo("8 condition")) << here();
  key(Qt::Key_F7, Qt::ShiftModifier);
  EXPECT_EQ(nullptr, sheet());
  EXPECT_TRUE(review()->isVisible());
}

TEST_F(PlacesTest, ARecordThatTheFilterHidesIsShownAlone) {
  openTable("tree");
  at(1, "condition");
  type("3");
  key(Qt::Key_Return);
  sheet()->scope().setFilter(static_cast<int>(*sheet()->table().columnIndex("tag")), "T9");
  ASSERT_TRUE(shows("tag", "T9"));
  goToReview();
  key(Qt::Key_Return, kCtrl);
  EXPECT_TRUE(wait([&] { return sheet() != nullptr && settled() && here() == "8 condition"; }));
  EXPECT_EQ(1, sheet()->model().rowCount());
}

TEST_F(PlacesTest, WhatStandsInTheWayHasAMarkOfItsOwnAndIsSteppedToFirst) {
  openTable("species");
  at(0, "name");
  type("linden");
  key(Qt::Key_Return);
  at(1, "name");
  key(Qt::Key_Delete, kCtrl);
  goToReview();
  ASSERT_EQ(1U, review()->blockingCount());
  openTable("species");
  EXPECT_EQ(Mark::Changed, sheet()->model().mark(0));
  EXPECT_EQ(Mark::Query, sheet()->model().mark(1)) << "trees point at it";
  at(0, "name");
  key(Qt::Key_F8);
  EXPECT_TRUE(wait([&] { return view().currentIndex().row() == 1; }));
  // Once it is put back, nothing is found there any more.
  key(Qt::Key_Backspace, kCtrl);
  EXPECT_EQ(Mark::None, sheet()->model().mark(1));
  key(Qt::Key_F8);
  EXPECT_TRUE(wait([&] { return view().currentIndex().row() == 0; })) << "then what is staged";
}

TEST_F(PlacesTest, TheReviewAndANewRecordWaitForWhatIsTyped) {
  openTable("tree");
  at(0, "condition");
  type("many");
  key(Qt::Key_R, kCtrl);
  EXPECT_NE(nullptr, sheet()) << "the sheet stays";
  EXPECT_EQ(
      "“Review what is staged” waits: what is typed in condition does not fit. Put it right, or give it up with Esc.",
      message().toStdString());
  key(Qt::Key_N, kCtrl);
  EXPECT_EQ(0U, counts().added);
  EXPECT_THAT(message().toStdString(), ::testing::StartsWith("“Add a record” waits"));
  key(Qt::Key_Escape);
  type("3");
  key(Qt::Key_R, kCtrl);
  ASSERT_TRUE(wait([&] { return review()->isVisible() && review()->review().has_value(); }));
  EXPECT_EQ("edit 7 condition=3", staged()) << "what fits is taken along";
}

TEST_F(PlacesTest, MessagesLeaveAtTheNextActAndAreKept) {
  openTable("tree");
  key(Qt::Key_F8);
  ASSERT_TRUE(wait([&] { return !message().isEmpty(); }));
  const QString said = message();
  QTest::qWait(500);
  at(0, "condition");
  type("3");
  key(Qt::Key_Return);
  EXPECT_EQ("", message().toStdString());
  key(Qt::Key_M, kCtrlAlt);
  auto* list = window->findChild<QListWidget*>("paletteList");
  ASSERT_TRUE(list->isVisible());
  EXPECT_EQ(said.toStdString(), list->item(0)->text().toStdString());
  key(Qt::Key_Return);
  EXPECT_EQ(said.toStdString(), message().toStdString()) << "and can be read again";
}

TEST_F(PlacesTest, AllIsWithinASmallWindow) {
  openTable("tree");
  at(0, "condition");
  type("3");
  key(Qt::Key_Return);
  window->resize(800, 540);
  QTest::qWait(200);  // what is selected is told when it rests
  EXPECT_EQ(QSize(800, 540), window->size()) << "nothing pushes it wider";
  const auto inside = [&](const char* name) {
    for (QPushButton* button : window->findChildren<QPushButton*>(name)) {
      if (!button->isVisible()) continue;
      const QRect where(button->mapTo(window.get(), QPoint(0, 0)), button->size());
      if (window->rect().contains(where) && button->width() >= button->sizeHint().width()) return true;
      ADD_FAILURE() << name << " " << where.left() << "+" << where.width() << " of " << button->sizeHint().width();
      return false;
    }
    ADD_FAILURE() << name << " cannot be seen";
    return false;
  };
  EXPECT_TRUE(inside("main")) << "Review";
  EXPECT_TRUE(inside("offerMore"));
  EXPECT_GE(view().viewport()->height() / 29, 8) << "room for records";
  goToReview();
  EXPECT_TRUE(inside("main")) << "Apply";
  EXPECT_TRUE(inside("putGroupBack"));
  EXPECT_EQ(QSize(800, 540), window->size());
}

TEST_F(PlacesTest, ReferencesAndYesNoAreEditedByName) {
  openTable("tree");
  at(0, "species_id");
  ASSERT_TRUE(shows("species_id", "lime lime oak"));
  key(Qt::Key_F2);
  EXPECT_EQ("lime", view().editor()->text().toStdString());
  auto* list = window->findChild<QListWidget*>("choices");
  ASSERT_TRUE(wait([&] { return list->count() > 1 && list->currentItem() != nullptr; }));
  EXPECT_THAT(list->currentItem()->text().toStdString(), ::testing::StartsWith("lime"));
  key(Qt::Key_Return);
  EXPECT_EQ("", staged()) << "nothing was typed";
  at(0, "species_id");
  type("nobody");
  at(1, "tag");
  view().setFocus();
  EXPECT_THAT(sheet()
                  ->model()
                  .cell(0, static_cast<int>(*sheet()->table().columnIndex("species_id")))
                  .wrongBecause.toStdString(),
              ::testing::HasSubstr("is no key of species"));
}

TEST_F(PlacesTest, FiguresInTitlesAreLining) {
  const QFontMetrics metrics(serif());
  if (!QFontInfo(serif()).family().contains("Iterandum")) GTEST_SKIP() << "the face is not on this machine";
  for (const char* figure : {"0", "1", "2", "3", "7"}) {
    EXPECT_GE(metrics.tightBoundingRect(figure).height(), metrics.tightBoundingRect("H").height() - 1) << figure;
    EXPECT_LE(metrics.tightBoundingRect(figure).bottom(), 1) << figure << " does not hang below the line";
  }
}

}  // namespace
}  // namespace iterandum::test
