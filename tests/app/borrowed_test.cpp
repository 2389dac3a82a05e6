// Columns borrowed from the records pointed at, and the way along references.

#include "app/scope_fixture.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;

// --- borrowed columns ------------------------------------------------------------------------------------------------

TEST_F(SheetScopeTest, ABorrowedColumnIsFilteredSortedAndEditedThroughToItsRecord) {
  openTable("tree");
  at(0, "species_id");
  borrow("species.name");
  ASSERT_TRUE(shows("species.name", "lime lime oak"));
  const int name = view().currentIndex().column();
  sheet()->scope().sort(name, false);
  key(Qt::Key_S, kCtrlShift);
  ASSERT_TRUE(shows("species.name", "oak lime lime"));
  view().goTo(1, name);
  key(Qt::Key_F2);
  auto* others = window->findChild<QLabel*>("others");
  ASSERT_TRUE(wait([&] { return others->text().contains("1 other record"); })) << others->text().toStdString();
  EXPECT_EQ("This changes name of “lime”, in 1 other record of tree too.", others->text().toStdString());
  key(Qt::Key_A, kCtrl);
  type("linden");
  key(Qt::Key_Return);
  EXPECT_EQ("edit 1 name=linden", staged());
  EXPECT_EQ("oak linden linden", column("species.name")) << "every copy that is shown changes";
  EXPECT_EQ("name to linden in lime (shared with 1 other)", changes().lastGesture().title);
  sheet()->scope().setFilter(name, "= oak");
  ASSERT_TRUE(shows("tag", "T9"));
  EXPECT_EQ("tree where species.name is oak and…, by species.name last first", sentence());
}

TEST_F(SheetScopeTest, ABorrowedCellIsNotChangedBeforeItWasSaidHowManyShareIt) {
  openTable("tree");
  borrow("species.name");
  ASSERT_TRUE(shows("species.name", "lime lime oak"));
  view().goTo(0, view().currentIndex().column());
  key(Qt::Key_Delete);
  EXPECT_TRUE(changes().empty());
  EXPECT_THAT(message().toStdString(),
              HasSubstr("species.name is borrowed: it changes in every record that shares it"));
  QApplication::clipboard()->setText("beech");
  key(Qt::Key_V, kCtrl);
  EXPECT_TRUE(changes().empty());
}

TEST_F(SheetScopeTest, BorrowedColumnsFollowWhatIsStagedAndGoOverSeveralSteps) {
  openTable("photo");
  borrow("tree.tag");
  borrow("tree.species.name");
  ASSERT_TRUE(shows("tree.species.name", "lime oak"));
  at(1, "tree_id");
  key(Qt::Key_F2);
  type("8");
  ASSERT_TRUE(wait([&] { return window->findChild<QListWidget*>("choices")->count() == 1; }));
  key(Qt::Key_Return);
  ASSERT_EQ("edit 2 tree_id=8", staged());
  EXPECT_TRUE(shows("tree.tag", "T7 T8")) << column("tree.tag");
  EXPECT_TRUE(shows("tree.species.name", "lime lime"));
  at(0, "tree_id");
  key(Qt::Key_N, kCtrlShift);
  EXPECT_TRUE(shows("tree.tag", "points at nothing T8")) << column("tree.tag");
}

// --- along references ------------------------------------------------------------------------------------------------

TEST_F(SheetScopeTest, AReferenceIsFollowedAndTheWayComesBack) {
  openTable("photo");
  at(1, "tree_id");
  key(Qt::Key_F7);
  ASSERT_TRUE(wait([&] { return sheet()->table().name.name == "tree" && settled(); }));
  EXPECT_EQ("T9", column("tag"));
  at(0, "species_id");
  key(Qt::Key_F7);
  ASSERT_TRUE(wait([&] { return sheet()->table().name.name == "species" && settled(); }));
  EXPECT_EQ("oak", column("name"));
  key(Qt::Key_F7, Qt::ShiftModifier);
  EXPECT_EQ("tree", sheet()->table().name.name);
  key(Qt::Key_F7, Qt::ShiftModifier);
  EXPECT_EQ("photo", sheet()->table().name.name);
  EXPECT_EQ(1, view().currentIndex().row());
  EXPECT_EQ(1, window->findChildren<SheetPage*>().size()) << "what was only looked at is closed";
}

TEST_F(SheetScopeTest, TheCardOpensTheRecordsThatPointHere) {
  openTable("tree");
  ASSERT_TRUE(wait([&] { return incoming().contains("inspection   2"); })) << incoming().toStdString();
  for (QPushButton* line : window->findChild<QWidget*>("incoming")->findChildren<QPushButton*>()) {
    if (!line->text().contains("inspection")) continue;
    line->setFocus();
    ASSERT_TRUE(line->hasFocus()) << QApplication::focusWidget()->objectName().toStdString();
    key(Qt::Key_Space);
    break;
  }
  ASSERT_TRUE(wait([&] { return sheet()->table().name.name == "inspection" && settled(); }));
  EXPECT_TRUE(wait([&] { return sentence() == "inspection where tree is T7 and…"; })) << sentence();
  EXPECT_EQ(2, sheet()->model().rowCount());
  key(Qt::Key_F7, Qt::ShiftModifier);
  EXPECT_EQ("tree", sheet()->table().name.name);
}

TEST_F(SheetScopeTest, AReferenceThatIsNotDeclaredCanBeStatedAndIsKept) {
  db.run(
      "CREATE TABLE visit (visit_id INTEGER PRIMARY KEY, tree_tag TEXT); INSERT INTO visit VALUES (1, 'T8'), (2, 'X')");
  window.reset();
  start();
  openTable("visit");
  at(0, "tree_tag");
  key(Qt::Key_K, kCtrl);
  choose("State what this column points at");
  choose("tree.tag");
  ASSERT_TRUE(wait([&] { return sheet() != nullptr && settled(); }));
  borrow("tree.condition");
  EXPECT_TRUE(shows("tree.condition", "2 points at nothing")) << column("tree.condition");
  at(1, "tree_tag");
  type("nowhere");
  key(Qt::Key_Return);
  goToReview();
  EXPECT_TRUE(review()->review()->ready) << "the database holds nobody to it";
  window.reset();
  start();
  openTable("tree");
  EXPECT_TRUE(wait([&] { return incoming().contains("visit"); })) << "it is known again: " << incoming().toStdString();
  key(Qt::Key_K, kCtrl);
  choose("Forget what was stated");
  choose("visit");
  ASSERT_TRUE(wait([&] { return sheet() != nullptr && settled() && incoming().contains("inspection"); }));
  EXPECT_FALSE(incoming().contains("visit"));
}

TEST_F(SheetScopeTest, WhatReferencesAreCalledCanBeChosen) {
  db.run("ALTER TABLE species ADD COLUMN german TEXT; UPDATE species SET german = 'Linde' WHERE species_id = 1");
  window.reset();
  start();
  openTable("tree");
  ASSERT_TRUE(shows("species_id", "lime lime oak"));
  at(0, "species_id");
  key(Qt::Key_B, kCtrlAlt);
  choose("name german");
  EXPECT_TRUE(wait([&] { return column("species_id") == "lime · Linde lime · Linde oak"; })) << column("species_id");
}

}  // namespace
}  // namespace iterandum::test
