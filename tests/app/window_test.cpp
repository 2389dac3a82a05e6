// The window by real key and mouse events: each test opens a fresh register and goes one path to its end, then looks at
// the database itself.
#include "app/window_fixture.h"

namespace iterandum::test {
namespace {

TEST_F(WindowTest, TheCatalogueNarrowsAsOneTypesAndEnterOpens) {
  auto* list = window->findChild<QListView*>("tables");
  ASSERT_TRUE(wait([&] { return window->findChild<QLineEdit*>("seek")->hasFocus(); }));
  EXPECT_EQ(5, list->model()->rowCount());
  type("inspected");
  EXPECT_EQ(1, list->model()->rowCount()) << "a table is found by the name of a column too";
  key(Qt::Key_Return);
  ASSERT_TRUE(wait([&] { return sheet() != nullptr; }));
  EXPECT_EQ("inspection", sheet()->table().name.name);
}

TEST_F(WindowTest, TypingEditsTheCellAndNothingIsWritten) {
  openTable("tree");
  at(0, "condition");
  type("3");
  key(Qt::Key_Return);
  EXPECT_EQ("edit 7 condition=3", staged());
  EXPECT_EQ(1, view().currentIndex().row()) << "Enter goes down";
  EXPECT_EQ("2", db.rows("SELECT condition FROM tree WHERE tree_id = 7"));
  key(Qt::Key_Z, Qt::ControlModifier);
  EXPECT_TRUE(changes().empty());
  key(Qt::Key_Y, Qt::ControlModifier);
  EXPECT_EQ("edit 7 condition=3", staged());
}

TEST_F(WindowTest, EscapeLeavesTheOldValueAndThenPutsAStagedOneBack) {
  openTable("tree");
  at(0, "note");
  key(Qt::Key_F2);
  type("changed my mind");
  key(Qt::Key_Escape);
  EXPECT_TRUE(changes().empty());
  type("kept");
  key(Qt::Key_Tab);
  EXPECT_EQ("edit 7 note=kept", staged());
  at(0, "note");
  key(Qt::Key_Escape);
  EXPECT_TRUE(changes().empty());
}

TEST_F(WindowTest, WhatDoesNotFitIsSaidInPlaceAndNotLost) {
  openTable("tree");
  at(0, "condition");
  type("9");
  key(Qt::Key_Return);
  ASSERT_NE(nullptr, view().editor()) << "the editor stays open";
  EXPECT_EQ("a whole number from 0 to 5 is wanted in condition, not '9'", window->findChild<QLabel*>("reason")->text());
  // Going elsewhere keeps the text beside the cell.
  QTest::mouseClick(view().viewport(), Qt::LeftButton, {}, view().visualRect(sheet()->model().index(2, 1)).center());
  view().setFocus();
  QCoreApplication::processEvents();
  EXPECT_TRUE(changes().empty());
  EXPECT_EQ("9", sheet()->model().cell(0, static_cast<int>(*sheet()->table().columnIndex("condition"))).typedWrong);
  EXPECT_EQ(Mark::Query, sheet()->model().mark(0));
  at(0, "condition");
  key(Qt::Key_F2);
  EXPECT_EQ("9", view().editor()->text());
  QTest::keyClick(QApplication::focusWidget(), Qt::Key_A, Qt::ControlModifier);
  type("4");
  key(Qt::Key_Return);
  EXPECT_EQ("edit 7 condition=4", staged());
}

TEST_F(WindowTest, TabGoesOnToTheNextRecordAndAfterTheLastToANewOne) {
  openTable("species");
  at(1, "name");
  key(Qt::Key_Tab);
  EXPECT_EQ(2, view().currentIndex().row());
  EXPECT_EQ(0, view().currentIndex().column());
  key(Qt::Key_Tab);
  key(Qt::Key_Tab);
  EXPECT_EQ(1U, counts().added);
  EXPECT_EQ(3, view().currentIndex().row());
  EXPECT_EQ(1, view().currentIndex().column()) << "what the database sets by itself is passed by";
  type("ash");
  key(Qt::Key_Return);
  EXPECT_EQ("add name=ash", staged());
  key(Qt::Key_Backspace, Qt::ControlModifier);
  EXPECT_TRUE(changes().empty()) << "a new record that is put back is nothing";
}

TEST_F(WindowTest, CellsThatCannotBeEditedSayWhy) {
  openTable("tree");
  at(0, "double_height");
  key(Qt::Key_F2);
  EXPECT_EQ("double_height cannot be set: the database computes it.", message());
  EXPECT_EQ(nullptr, view().editor());
}

TEST_F(WindowTest, NoValueEmptyTextAndAWholeSelectionInOneGesture) {
  openTable("tree");
  at(0, "note");
  key(Qt::Key_Delete);
  EXPECT_EQ("edit 7 note=-", staged());
  key(Qt::Key_Z, Qt::ControlModifier);
  at(0, "condition");
  key(Qt::Key_Down, Qt::ShiftModifier);
  key(Qt::Key_Down, Qt::ShiftModifier);
  QApplication::clipboard()->setText("5");
  key(Qt::Key_V, Qt::ControlModifier);
  EXPECT_EQ(3U, counts().cells);
  key(Qt::Key_Z, Qt::ControlModifier);
  EXPECT_TRUE(changes().empty()) << "one gesture, one step of undo";
  at(0, "tag");
  key(Qt::Key_Delete);
  EXPECT_EQ("tag must have a value: the database allows no NULL there", message());
}

TEST_F(WindowTest, CopyAndPasteOfABlock) {
  openTable("tree");
  at(0, "condition");
  key(Qt::Key_Right, Qt::ShiftModifier);
  key(Qt::Key_Down, Qt::ShiftModifier);
  key(Qt::Key_C, Qt::ControlModifier);
  EXPECT_EQ("2\t12.5\n2\t9", QApplication::clipboard()->text());
  at(1, "condition");
  QApplication::clipboard()->setText("0\t1.5\n1\t2.5\n");
  key(Qt::Key_V, Qt::ControlModifier);
  EXPECT_EQ("edit 8 condition=0 height=1.5; edit 9 condition=1 height=2.5", staged());
}

TEST_F(WindowTest, AReferenceIsChosenByName) {
  openTable("tree");
  at(0, "species_id");
  key(Qt::Key_F2);
  type("OA");
  auto* list = window->findChild<QListWidget*>("choices");
  ASSERT_TRUE(wait([&] { return list->isVisible() && list->count() == 1; }));
  key(Qt::Key_Down);
  key(Qt::Key_Return);
  EXPECT_EQ("edit 7 species_id=2", staged());
}

TEST_F(WindowTest, AllowedValuesAreOffered) {
  openTable("inspection");
  at(0, "grade");
  key(Qt::Key_F2);
  auto* list = window->findChild<QListWidget*>("choices");
  EXPECT_EQ(3, list->count());
  EXPECT_EQ("sound", list->currentItem()->text().toStdString()) << "it begins at what the cell holds";
  key(Qt::Key_Down);
  key(Qt::Key_Return);
  EXPECT_EQ("edit 7 grade=poor", staged());
}

TEST_F(WindowTest, SeveralLinesOfText) {
  openTable("tree");
  at(0, "note");
  key(Qt::Key_F2);
  key(Qt::Key_End);
  key(Qt::Key_Return, Qt::ControlModifier);
  type("second");
  key(Qt::Key_Return, Qt::ControlModifier);
  EXPECT_EQ("edit 7 note=old\nsecond", staged());
}

TEST_F(WindowTest, AFilterNarrowsAndTheSentenceSaysSo) {
  openTable("tree");
  at(0, "condition");
  key(Qt::Key_L, Qt::ControlModifier);
  type("<= 2");
  ASSERT_TRUE(wait([&] { return sheet()->model().rowCount() == 2; }));
  EXPECT_THAT(sheet()->sentence().text().toStdString(), ::testing::HasSubstr("condition is 2 or less"));
  QTest::keyClicks(QApplication::focusWidget(), "x");
  ASSERT_TRUE(wait([&] { return window->findChild<QLabel*>("problem")->isVisible(); }));
  EXPECT_EQ(2, sheet()->model().rowCount()) << "a filter that cannot be read changes nothing";
  key(Qt::Key_Escape);
  ASSERT_TRUE(wait([&] { return sheet()->model().rowCount() == 3; }));
}

TEST_F(WindowTest, SortingByOneColumnBothWays) {
  openTable("tree");
  at(0, "tag");
  key(Qt::Key_S, Qt::ControlModifier | Qt::ShiftModifier);
  ASSERT_TRUE(wait([&] { return settled(); }));
  key(Qt::Key_S, Qt::ControlModifier | Qt::ShiftModifier);
  EXPECT_TRUE(wait([&] {
    return settled() && sheet()->model().data(sheet()->model().index(0, 1), Qt::DisplayRole).toString() == "T9";
  })) << sheet()->sentence().text().toStdString();
}

TEST_F(WindowTest, SeveralColumnsDecideTheOrderEachItsOwnWay) {
  db.run("INSERT INTO tree (tree_id, tag, species_id, condition) VALUES (10, 'T10', 1, 4), (11, 'T11', 2, 2)");
  openTable("tree");
  const auto tags = [&] {
    QStringList out;
    for (int r = 0; r < sheet()->model().rowCount(); ++r) {
      out << sheet()->model().data(sheet()->model().index(r, 1), Qt::DisplayRole).toString();
    }
    return out.join(QLatin1Char(' ')).toStdString();
  };
  const auto sentence = [&] { return sheet()->sentence().text().toStdString(); };
  at(0, "condition");
  key(Qt::Key_S, Qt::ControlModifier | Qt::ShiftModifier);
  at(0, "tag");
  key(Qt::Key_S, Qt::ControlModifier | Qt::AltModifier);
  EXPECT_TRUE(wait([&] { return settled() && tags() == "T11 T7 T8 T10 T9"; })) << tags();
  EXPECT_THAT(sentence(), ::testing::HasSubstr(", by condition, then tag"));
  // The mouse does the same: with Shift the column counts besides the others.
  FilterHeader& head = view().head();
  const int tag = static_cast<int>(*sheet()->table().columnIndex("tag"));
  const QPoint where(head.sectionViewportPosition(tag) + 20, 12);
  QTest::mouseClick(head.viewport(), Qt::LeftButton, Qt::ShiftModifier, where);
  EXPECT_TRUE(wait([&] { return settled() && tags() == "T8 T7 T11 T9 T10"; })) << tags();
  EXPECT_THAT(sentence(), ::testing::HasSubstr(", by condition, then tag last first"));
  QTest::mouseClick(head.viewport(), Qt::LeftButton, Qt::NoModifier, where);
  EXPECT_TRUE(wait([&] { return settled() && tags() == "T10 T11 T7 T8 T9"; })) << tags();
  EXPECT_THAT(sentence(), ::testing::HasSubstr(", by tag"));
}

TEST_F(WindowTest, ConditionsOfAFilterCellMaySpeakOfMoreThanItsColumn) {
  openTable("tree");
  at(0, "condition");
  key(Qt::Key_L, Qt::ControlModifier);
  type("4 or species.name = lime and no photo");
  ASSERT_TRUE(wait([&] { return settled() && sheet()->model().rowCount() == 2; }));
  EXPECT_THAT(sheet()->sentence().text().toStdString(),
              ::testing::HasSubstr("condition is 4 or species.name is lime and no photo"));
}

TEST_F(WindowTest, TheValuesOfAColumnAreSeenAtAGlanceAndNarrowedTo) {
  db.run(
      "INSERT INTO species (species_id, name) VALUES (10, 'Silver Birch'), (11, 'silver birch'), (12, 'Silver Birc');"
      "INSERT INTO tree (tree_id, tag, species_id, condition, note) VALUES (20, 'A1', 1, 2, 'it''s old'), (21, 'A2', "
      "1, "
      "2, NULL)");
  openTable("species");
  at(0, "name");
  key(Qt::Key_D, Qt::ControlModifier | Qt::ShiftModifier);
  auto* list = sheet()->findChild<QListWidget*>("values");
  ASSERT_TRUE(wait([&] { return list->isVisible() && list->count() == 12; })) << list->count();
  EXPECT_EQ("Nearly alike", list->item(0)->text().toStdString());
  EXPECT_THAT(list->item(1)->text().toStdString(), ::testing::HasSubstr("Silver Birc"));
  EXPECT_EQ(1, list->currentRow()) << "the heading cannot be chosen";
  key(Qt::Key_Return);
  EXPECT_TRUE(wait([&] { return settled() && sheet()->model().rowCount() == 3; }));
  EXPECT_EQ(12, list->count()) << "the others can still be chosen";
  key(Qt::Key_Escape);
  EXPECT_TRUE(view().hasFocus());
  openTable("tree");
  at(0, "note");
  key(Qt::Key_D, Qt::ControlModifier | Qt::ShiftModifier);
  list = sheet()->findChild<QListWidget*>("values");
  ASSERT_TRUE(wait([&] { return list->isVisible() && list->count() == 4; }));
  EXPECT_THAT(sheet()->findChild<QLabel*>("valuesSubtitle")->text().toStdString(),
              ::testing::HasSubstr("4 different in 5 records; 2 have no value"));
  EXPECT_EQ("no value", list->item(0)->text().toStdString()) << "the commonest comes first";
  list->setCurrentItem(list->findItems("it's old", Qt::MatchExactly).at(0));
  key(Qt::Key_Return);
  EXPECT_TRUE(wait([&] { return settled() && sheet()->model().rowCount() == 1; }));
  EXPECT_EQ("= 'it''s old'",
            view().head().filter(static_cast<int>(*sheet()->table().columnIndex("note"))).toStdString());
  // The filter of another column counts, and the panel follows it.
  sheet()->scope().setFilter(static_cast<int>(*sheet()->table().columnIndex("tag")), "A2");
  EXPECT_TRUE(wait([&] { return list->count() == 1 && list->item(0)->text() == "no value"; }));
  key(Qt::Key_D, Qt::ControlModifier | Qt::ShiftModifier);
  EXPECT_FALSE(list->isVisible()) << "the card is back";
}

TEST_F(WindowTest, ReviewApplyAndTheSheetAsTheDatabaseNowHasIt) {
  openTable("tree");
  at(0, "condition");
  type("3");
  key(Qt::Key_Return);
  at(2, "tag");
  key(Qt::Key_Delete, Qt::ControlModifier);
  goToReview();
  EXPECT_TRUE(review()->ready());
  EXPECT_EQ(3, window->findChild<QListWidget*>("groups")->count()) << "the table, and two groups";
  window->findChild<QLineEdit*>("reviewTitle")->setFocus();
  type("storm");
  key(Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier);
  ASSERT_TRUE(
      wait([&] { return sheet() != nullptr && changes().empty() && settled() && sheet()->model().rowCount() == 2; }));
  EXPECT_EQ("7|3\n8|2", db.rows("SELECT tree_id, condition FROM tree"));
  EXPECT_THAT(message().toStdString(), ::testing::StartsWith("Applied to 2 records at"));
  EXPECT_EQ(Mark::Applied, sheet()->model().mark(0));
}

TEST_F(WindowTest, AConflictIsMarkedOnRefreshAndSettledInTheReview) {
  openTable("tree");
  at(0, "condition");
  type("3");
  key(Qt::Key_Return);
  db.run("UPDATE tree SET condition = 4 WHERE tree_id = 7");
  key(Qt::Key_F5);
  ASSERT_TRUE(wait([&] { return settled() && sheet()->model().mark(0) == Mark::Query; }));
  EXPECT_EQ("edit 7 condition=3", staged()) << "what is staged is kept";
  goToReview();
  EXPECT_FALSE(review()->ready());
  QPushButton* mine = nullptr;
  for (QPushButton* b : review()->findChildren<QPushButton*>()) {
    if (b->text() == "Keep mine") mine = b;
  }
  ASSERT_NE(nullptr, mine);
  QTest::mouseClick(mine, Qt::LeftButton);
  ASSERT_TRUE(wait([&] { return review()->ready(); }));
  key(Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier);
  ASSERT_TRUE(wait([&] { return changes().empty(); }));
  EXPECT_EQ("3", db.rows("SELECT condition FROM tree WHERE tree_id = 7"));
}

TEST_F(WindowTest, WhatStandsInTheWayCanBePutBackFromTheReview) {
  openTable("species");
  at(1, "name");
  key(Qt::Key_Delete, Qt::ControlModifier);
  at(0, "name");
  type("linden");
  key(Qt::Key_Return);
  goToReview();
  EXPECT_EQ(1U, review()->blockingCount());
  auto* groups = window->findChild<QListWidget*>("groups");
  groups->setFocus();
  key(Qt::Key_Down);
  key(Qt::Key_G, Qt::ControlModifier | Qt::ShiftModifier);
  ASSERT_TRUE(wait([&] { return review()->ready(); }));
  EXPECT_EQ("edit 1 name=linden", staged());
}

TEST_F(WindowTest, AReceiptIsTakenBackThroughAReview) {
  openTable("tree");
  at(0, "condition");
  type("3");
  key(Qt::Key_Return);
  goToReview();
  key(Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier);
  ASSERT_TRUE(wait([&] { return changes().empty() && sheet() != nullptr; }));
  key(Qt::Key_H, Qt::ControlModifier);
  ASSERT_TRUE(wait([&] { return window->findChild<QPushButton*>("takeBack")->isEnabled(); }));
  key(Qt::Key_B, Qt::ControlModifier | Qt::ShiftModifier);
  ASSERT_TRUE(wait([&] { return !changes().empty() && review()->ready(); }))
      << staged() << review()->stateInWords().toStdString() << message().toStdString()
      << (review()->review() ? findingsText(*review()->review()) : "");
  EXPECT_EQ("edit 7 condition=2", staged());
  EXPECT_EQ("3", db.rows("SELECT condition FROM tree WHERE tree_id = 7")) << "taking back stages, it does not write";
  key(Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier);
  ASSERT_TRUE(wait([&] { return changes().empty(); }));
  EXPECT_EQ("2", db.rows("SELECT condition FROM tree WHERE tree_id = 7"));
}

TEST_F(WindowTest, StagedWorkIsThereAtTheNextStart) {
  openTable("tree");
  at(0, "condition");
  type("3");
  key(Qt::Key_Return);
  key(Qt::Key_N, Qt::ControlModifier);
  at(3, "tag");
  type("T99");
  key(Qt::Key_Return);
  key(Qt::Key_Z, Qt::ControlModifier);
  const std::string before = staged();
  window.reset();
  start();
  ASSERT_TRUE(wait([&] { return counts().any(); }));
  EXPECT_EQ(before, staged());
  EXPECT_THAT(message().toStdString(), ::testing::HasSubstr("What you had staged here before is back"));
  openTable("tree");
  key(Qt::Key_Y, Qt::ControlModifier);
  EXPECT_EQ("edit 7 condition=3; add tag=T99", staged()) << "what was undone can be redone";
}

TEST_F(WindowTest, TheCardShowsTheRecordAndEditsTheSameCells) {
  openTable("tree");
  at(0, "tag");
  EXPECT_EQ("T7", window->findChild<QLabel*>("cardTitle")->text().toStdString());
  ASSERT_TRUE(wait([&] { return incoming().contains("inspection   2"); }));
  key(Qt::Key_F6);
  auto* field = window->findChild<QWidget*>("field-tag");
  ASSERT_TRUE(field->hasFocus());
  key(Qt::Key_Tab);
  key(Qt::Key_Tab);
  ASSERT_TRUE(window->findChild<QWidget*>("field-condition")->hasFocus());
  type("1");
  key(Qt::Key_Return);
  EXPECT_EQ("edit 7 condition=1", staged());
  key(Qt::Key_Escape);
  EXPECT_TRUE(view().hasFocus());
}

TEST_F(WindowTest, ThePaletteFindsTablesAndCommandsWithTheirShortcuts) {
  key(Qt::Key_K, Qt::ControlModifier);
  auto* palette = window->findChild<CommandPalette*>();
  ASSERT_TRUE(palette->isVisible());
  type("photo");
  key(Qt::Key_Return);
  ASSERT_TRUE(wait([&] { return sheet() != nullptr; }));
  EXPECT_EQ("photo", sheet()->table().name.name);
  key(Qt::Key_K, Qt::ControlModifier);
  type("add a record");
  auto* list = window->findChild<QListWidget*>("paletteList");
  ASSERT_EQ(1, list->count());
  EXPECT_EQ("Ctrl+N", list->item(0)->data(Qt::UserRole).toString());
  key(Qt::Key_Return);
  EXPECT_EQ(1U, counts().added);
}

TEST_F(WindowTest, ADatabaseThatCannotBeOpenedIsSaidOnTheStartPage) {
  window->open("/nowhere/at/all.sqlite");
  auto* problem = window->findChild<QLabel*>("startProblem");
  ASSERT_TRUE(wait([&] { return problem->isVisible(); }));
  EXPECT_THAT(problem->text().toStdString(), ::testing::HasSubstr("there is no file /nowhere/at/all.sqlite"));
}

TEST_F(WindowTest, ATableThatVanishedIsSaidAndNothingStagedIsLost) {
  openTable("log");
  at(0, "message");
  type("x");
  key(Qt::Key_Return);
  db.run("DROP TABLE log");
  key(Qt::Key_F5);
  ASSERT_TRUE(wait([&] { return window->findChild<QLabel*>("problem")->isVisible(); }));
  EXPECT_THAT(window->findChild<QLabel*>("problem")->text().toStdString(), ::testing::HasSubstr("no such table"));
  EXPECT_EQ(1U, counts().cells);
}

TEST_F(WindowTest, ALockedDatabaseStopsApplyWithAReasonAndKeepsWhatIsStaged) {
  openTable("tree");
  at(0, "condition");
  type("3");
  key(Qt::Key_Return);
  goToReview();
  db.run("BEGIN IMMEDIATE");
  key(Qt::Key_R, Qt::ControlModifier | Qt::ShiftModifier);
  ASSERT_TRUE(wait([&] { return !review()->busy(); }));
  EXPECT_THAT(review()->findChild<QLabel*>("reviewProblem")->text().toStdString(),
              ::testing::HasSubstr("did not get the lock within 4 s"));
  EXPECT_FALSE(review()->ready());
  db.run("ROLLBACK");
  key(Qt::Key_R, Qt::ControlModifier | Qt::ShiftModifier);
  ASSERT_TRUE(wait([&] { return review()->ready(); }));
  EXPECT_EQ("edit 7 condition=3", staged());
}

}  // namespace
}  // namespace iterandum::test
