// Getting to the right records: the sentence changed in place, saved scopes, values at a glance, columns as they lie.
#include <QContextMenuEvent>
#include <QMenu>
#include <fstream>

#include "app/file_dialog.h"
#include "app/scope_fixture.h"
#include "app/sheet/histogram_view.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;

// --- the sentence ----------------------------------------------------------------------------------------------------

TEST_F(SheetScopeTest, APhraseIsChangedInPlaceWithTheValuesThereAre) {
  openTable("tree");
  EXPECT_EQ("All of tree where…", sentence());
  at(0, "tag");
  key(Qt::Key_J, kCtrlShift);
  choose("species.name");
  ASSERT_TRUE(wait([&] { return offers()->count() == 2; }));
  EXPECT_EQ("lime", offers()->item(0)->text()) << "the commonest first";
  EXPECT_EQ("2", offers()->item(0)->data(Qt::UserRole).toString());
  type("oa");
  EXPECT_EQ(1, offers()->count());
  key(Qt::Key_Down);
  key(Qt::Key_Return);
  ASSERT_TRUE(shows("tag", "T9"));
  EXPECT_EQ("tree where species.name is oak and…", sentence());
  // By key: to the phrase, open it, another value.
  key(Qt::Key_J, kCtrl);
  key(Qt::Key_Return);
  type("species.name = lime");
  key(Qt::Key_Return);
  ASSERT_TRUE(shows("tag", "T7 T8")) << sentence();
  key(Qt::Key_Delete);
  ASSERT_TRUE(shows("tag", "T7 T8 T9")) << "a phrase is taken out by key";
}

TEST_F(SheetScopeTest, APhraseThatCannotBeReadSaysSoAndChangesNothing) {
  openTable("tree");
  at(0, "condition");
  sheet()->scope().setFilter(view().currentIndex().column(), "<= 2");
  ASSERT_TRUE(shows("tag", "T7 T8"));
  QTest::mouseClick(&sheet()->sentence(), Qt::LeftButton, {}, sheet()->sentence().phraseRect(0).center());
  ASSERT_TRUE(wait([&] { return offers()->count() == 2; })) << "the values without this phrase";
  type("<= much");
  key(Qt::Key_Return);
  EXPECT_THAT(sheet()->findChild<QLabel*>("phraseNote")->text().toStdString(), HasSubstr("position 4"));
  EXPECT_EQ("tree where condition is 2 or less and…", sentence());
  key(Qt::Key_Escape);
  EXPECT_EQ("tree where condition is 2 or less and…", sentence());
  EXPECT_TRUE(sheet()->sentence().hasFocus());
}

TEST_F(SheetScopeTest, ThePhraseOfTheOrderOffersTheWaysToSort) {
  db.run("UPDATE tree SET note = 'plot 10' WHERE tree_id = 7; UPDATE tree SET note = 'plot 9' WHERE tree_id = 8");
  openTable("tree");
  at(0, "note");
  key(Qt::Key_S, kCtrlShift);
  ASSERT_TRUE(shows("tag", "T9 T7 T8"));
  key(Qt::Key_J, kCtrl);
  key(Qt::Key_Return);
  choose("First to last, numbers");
  ASSERT_TRUE(shows("tag", "T9 T8 T7"));
  EXPECT_EQ("All of tree where…, by note (numbers by size)", sentence());
}

TEST_F(SheetScopeTest, WhatIsTypedIsTakenThoughAnOrderWasLeftOpenBefore) {
  openTable("tree");
  at(0, "tag");
  key(Qt::Key_S, kCtrlShift);
  ASSERT_TRUE(shows("tag", "T7 T8 T9"));
  key(Qt::Key_J, kCtrl);
  key(Qt::Key_Return);
  view().setFocus();  // neither Enter nor Esc
  key(Qt::Key_J, kCtrlShift);
  choose("species.name");
  ASSERT_TRUE(wait([&] { return offers()->count() == 2; }));
  type("not lime");
  key(Qt::Key_Return);
  EXPECT_TRUE(shows("tag", "T9")) << sentence();
}

TEST_F(SheetScopeTest, WhatIsStagedIsAScopeToo) {
  openTable("tree");
  at(1, "condition");
  type("5");
  key(Qt::Key_Return);
  key(Qt::Key_K, kCtrl);
  choose("Only records with something staged");
  ASSERT_TRUE(shows("tag", "T8"));
  EXPECT_EQ("tree where record is staged and…", sentence());
}

// --- saved scopes ----------------------------------------------------------------------------------------------------

TEST_F(SheetScopeTest, AScopeIsSavedUnderANameAndOpenedByIt) {
  openTable("tree");
  at(0, "height");
  key(Qt::Key_H, kCtrlShift);
  borrow("species.name");
  sheet()->scope().setFilter(view().currentIndex().column(), "= lime");
  ASSERT_TRUE(shows("tag", "T7 T8"));
  at(0, "tag");
  key(Qt::Key_S, kCtrlShift);
  key(Qt::Key_S, kCtrlShift);
  ASSERT_TRUE(shows("tag", "T8 T7"));
  const Scope saved = sheet()->scope().scope();
  key(Qt::Key_K, kCtrlAlt);
  type("Limes");
  key(Qt::Key_Return);
  EXPECT_EQ("Limes", sheet()->title().toStdString());
  window.reset();
  start();
  EXPECT_TRUE(wait([&] { return window->findChild<QLabel*>("aside")->text().contains("Limes"); }))
      << "it stands on the catalogue page";
  key(Qt::Key_K, kCtrl);
  choose("Limes");
  ASSERT_TRUE(wait([&] { return sheet() != nullptr && settled(); }));
  EXPECT_EQ(saved, sheet()->scope().scope());
  EXPECT_TRUE(shows("tag", "T8 T7"));
  EXPECT_EQ("tree where species.name is lime and…, by tag last first", sentence());
  EXPECT_EQ("Limes", sheet()->title().toStdString());
  key(Qt::Key_F, kCtrlShift);
  EXPECT_EQ("Limes (changed)", sheet()->title().toStdString()) << "the name stands for other records now";
}

TEST_F(SheetScopeTest, AScopeOverAColumnThatIsGoneSaysWhatItLacks) {
  openTable("tree");
  sheet()->scope().setFilter(static_cast<int>(*sheet()->table().columnIndex("note")), "old");
  ASSERT_TRUE(shows("tag", "T7"));
  key(Qt::Key_K, kCtrlAlt);
  type("Old ones");
  key(Qt::Key_Return);
  window.reset();
  db.run("ALTER TABLE tree RENAME COLUMN note TO remark");
  start();
  key(Qt::Key_K, kCtrl);
  choose("Old ones");
  ASSERT_TRUE(wait([&] { return sheet() != nullptr; }));
  auto* problem = sheet()->findChild<QLabel*>("problem");
  ASSERT_TRUE(wait([&] { return problem->isVisible(); }));
  EXPECT_THAT(problem->text().toStdString(), HasSubstr("'note' is no column of tree"));
  EXPECT_EQ(0, sheet()->model().rowCount()) << "never all records for want of a condition";
  EXPECT_EQ("tree where note old and…", sentence());
  key(Qt::Key_J, kCtrl);
  key(Qt::Key_Return);
  type("remark old");
  key(Qt::Key_Return);
  EXPECT_TRUE(shows("tag", "T7")) << "and it can be put right in the sentence: " << sentence();
  EXPECT_FALSE(problem->isVisible());
}

TEST_F(SheetScopeTest, AScopeGoesOutAsAFileAndComesInAgain) {
  QCoreApplication::setAttribute(Qt::AA_DontUseNativeDialogs);
  openTable("tree");
  sheet()->scope().setFilter(1, "T8");
  ASSERT_TRUE(shows("tag", "T8"));
  const QString path = QString::fromStdString(db.file("eight.json"));
  key(Qt::Key_K, kCtrl);
  answerWith(path.toStdString());
  choose("Export this scope");
  ASSERT_TRUE(QFile::exists(path)) << message().toStdString();
  comeBack();
  key(Qt::Key_W, kCtrl);
  key(Qt::Key_K, kCtrl);
  answerWith(path.toStdString());
  choose("Import a scope");
  ASSERT_TRUE(wait([&] { return sheet() != nullptr && settled(); })) << message().toStdString();
  comeBack();
  EXPECT_EQ("T8", column("tag"));
  EXPECT_EQ("tree", sheet()->title().toStdString());
  ASSERT_EQ(1U, window->desk()->kept().scopes().size());
  QFile broken(path);
  ASSERT_TRUE(broken.open(QIODevice::WriteOnly) && broken.write("{\"format\": 3}") > 0);
  broken.close();
  key(Qt::Key_K, kCtrl);
  answerWith(path.toStdString());
  choose("Import a scope");
  EXPECT_THAT(message().toStdString(), HasSubstr("cannot be read as a scope: /format"));
}

// --- values at a glance ----------------------------------------------------------------------------------------------

TEST_F(SheetScopeTest, NumbersAreSpreadInBarsAndABarNarrows) {
  openTable("tree");
  at(0, "height");
  key(Qt::Key_D, kCtrlShift);
  auto* chart = sheet()->findChild<HistogramView*>("histogram");
  ASSERT_TRUE(wait([&] { return chart->isVisible(); }));
  chart->setFocus();
  key(Qt::Key_End);
  EXPECT_EQ("20.0 up to below 20.5: 1 record", chart->accessibleDescription().toStdString());
  key(Qt::Key_Return);
  EXPECT_TRUE(shows("tag", "T9")) << sentence();
}

TEST_F(SheetScopeTest, DaysAreSpreadTooAndBorrowedColumnsHaveValues) {
  openTable("inspection");
  at(0, "inspected_on");
  key(Qt::Key_D, kCtrlShift);
  auto* chart = sheet()->findChild<HistogramView*>("histogram");
  ASSERT_TRUE(wait([&] { return chart->isVisible(); }));
  chart->setFocus();
  key(Qt::Key_Return);
  EXPECT_TRUE(wait([&] { return settled() && sheet()->model().rowCount() == 1; })) << sentence();
  EXPECT_EQ("inspection where inspected_on is 2025-03-01 or later and inspected_on is before 2025-04-01 and…",
            sentence());
  key(Qt::Key_Escape);
  key(Qt::Key_F, kCtrlShift);
  borrow("tree.tag");
  ASSERT_TRUE(shows("tree.tag", "T7 T7 T9"));
  key(Qt::Key_D, kCtrlShift);
  auto* values = sheet()->findChild<QListWidget*>("values");
  ASSERT_TRUE(wait([&] { return values->count() == 2; })) << values->count();
  EXPECT_EQ("T7", values->item(0)->text().toStdString());
  EXPECT_FALSE(chart->isVisible()) << "texts have no bars";
}

// --- the grid --------------------------------------------------------------------------------------------------------

TEST_F(SheetScopeTest, FrozenColumnsStayWhileTheOthersAreScrolled) {
  window->resize(640, 500);
  openTable("tree");
  at(0, "tag");
  key(Qt::Key_P, kCtrlAlt);
  const QRect before = view().visualRect(sheet()->model().index(0, 1));
  key(Qt::Key_End);
  EXPECT_EQ(before, view().visualRect(sheet()->model().index(0, 1)));
  EXPECT_GT(view().head().offset(), 0);
  EXPECT_EQ(1, view().indexAt(before.center()).column());
  const QRect last = view().visualRect(view().currentIndex());
  EXPECT_GE(last.left(), before.right()) << "what is gone to is never below a frozen column";
  QTest::mouseClick(view().viewport(), Qt::LeftButton, {}, before.center());
  EXPECT_EQ(1, view().currentIndex().column());
}

TEST_F(SheetScopeTest, TheHeadOffersByMouseWhatKeysDo) {
  openTable("tree");
  FilterHeader& head = view().head();
  const QPoint place(head.columnLeft(4) + 20, 10);
  QContextMenuEvent asked(QContextMenuEvent::Mouse, place, head.viewport()->mapToGlobal(place));
  QApplication::sendEvent(head.viewport(), &asked);
  auto* menu = window->findChild<QMenu*>("columnMenu");
  ASSERT_NE(nullptr, menu);
  EXPECT_EQ(4, view().currentIndex().column());
  for (QAction* action : menu->actions()) {
    if (action->objectName() == "column.values") action->trigger();
  }
  menu->close();
  EXPECT_TRUE(wait([&] { return sheet()->findChild<HistogramView*>("histogram")->isVisible(); }));
}

TEST_F(SheetScopeTest, ColumnsLieAsTheyWereLeft) {
  openTable("tree");
  at(0, "note");
  borrow("species.name");
  at(0, "height");
  key(Qt::Key_H, kCtrlShift);
  at(0, "tag");
  key(Qt::Key_Left, kCtrlAlt);
  key(Qt::Key_Up, kCtrlAlt);
  EXPECT_EQ(1, sheet()->look().frozen) << "what names a record stays in sight from the beginning";
  key(Qt::Key_P, kCtrlAlt);
  EXPECT_EQ(0, sheet()->look().frozen);
  key(Qt::Key_P, kCtrlAlt);
  const SheetLook left = sheet()->look();
  EXPECT_EQ("tag", left.scope.columns.front());
  EXPECT_EQ(1, left.frozen);
  window.reset();
  start();
  openTable("tree");
  const SheetLook now = sheet()->look();
  EXPECT_EQ(left.scope.columns, now.scope.columns);
  EXPECT_EQ(left.widths, now.widths);
  EXPECT_EQ(left.frozen, now.frozen);
}

TEST_F(SheetScopeTest, TheOrderMayBeByAColumnThatIsNotShown) {
  openTable("tree");
  at(0, "height");
  key(Qt::Key_H, kCtrlShift);
  key(Qt::Key_Y, kCtrlAlt);
  choose("species.name");
  ASSERT_TRUE(wait([&] { return settled() && sheet()->scope().order().size() == 1; }));
  key(Qt::Key_Y, kCtrlAlt);
  choose("height");
  EXPECT_TRUE(shows("tag", "T8 T7 T9")) << column("tag");
  EXPECT_EQ("All of tree where…, by species.name, then height", sentence());
}

TEST_F(SheetScopeTest, ALongTextAndBytesAreOpenedWhole) {
  db.run(
      "CREATE TABLE paper (paper_id INTEGER PRIMARY KEY, body TEXT, scan BLOB);"
      "INSERT INTO paper VALUES (1, printf('%.*c', 1000000, 'x'), x'00414243')");
  window.reset();
  start();
  openTable("paper");
  at(0, "body");
  key(Qt::Key_F2, Qt::ShiftModifier);
  key(Qt::Key_C, kCtrl);
  EXPECT_EQ(1000000, QApplication::clipboard()->text().size());
  key(Qt::Key_Escape);
  at(0, "scan");
  key(Qt::Key_F2, Qt::ShiftModifier);
  auto* whole = sheet()->findChildren<QWidget*>("wholeText").last();
  EXPECT_THAT(whole->property("plainText").toString().toStdString(), HasSubstr("00 41 42 43"));
}

// Bytes come from a file and go into one; those of a picture show it.
TEST_F(SheetScopeTest, ACellOfBytesTakesAFileAndIsKeptAsOne) {
  db.run(
      "CREATE TABLE paper (paper_id INTEGER PRIMARY KEY, body TEXT, scan BLOB);"
      "INSERT INTO paper VALUES (1, 'a text', x'00414243'), (2, 'b', NULL)");
  window.reset();
  start();
  const auto child = [&](const char* name) { return sheet()->findChildren<QWidget*>(name).last(); };
  const auto press = [&](const char* name) {
    QTest::mouseClick(child(name), Qt::LeftButton);
    window->activateWindow();
    ASSERT_TRUE(QTest::qWaitForWindowActive(window.get()));
  };
  QImage image(640, 480, QImage::Format_RGB32);
  image.fill(Qt::darkGreen);
  const std::string picture = db.file("leaf.png");
  ASSERT_TRUE(image.save(QString::fromStdString(picture)));
  openTable("paper");
  at(0, "scan");
  key(Qt::Key_F2, Qt::ShiftModifier);
  EXPECT_FALSE(child("wholePicture")->isVisible()) << "no picture";
  answerWith(picture);
  press("wholeLoad");
  ASSERT_TRUE(wait([&] { return child("wholePicture")->isVisible(); })) << message().toStdString();
  EXPECT_THAT(child("wholeNote")->property("text").toString().toStdString(),
              HasSubstr("A picture of 640 by 480 points."));
  EXPECT_EQ(1U, counts().cells) << "staged, not written";
  EXPECT_EQ("1", db.rows("SELECT count(*) FROM paper WHERE scan = x'00414243'"));
  const std::string out = db.file("out.png");
  answerWith(out);
  press("wholeSave");
  const auto bytesOf = [](const std::string& path) {
    std::ifstream in(path, std::ios::binary);
    return std::string(std::istreambuf_iterator<char>(in), {});
  };
  EXPECT_EQ(bytesOf(picture), bytesOf(out));
  key(Qt::Key_Escape);
  EXPECT_TRUE(sheet()->findChildren<QWidget*>("wholeText").isEmpty() || !child("wholeText")->isVisible());
  // A text has nothing to take in; a file that is not there, and what is no picture, are said and shown.
  at(0, "body");
  key(Qt::Key_F2, Qt::ShiftModifier);
  EXPECT_FALSE(child("wholeLoad")->isVisible());
  EXPECT_TRUE(child("wholeSave")->isVisible());
  key(Qt::Key_Escape);
  at(1, "scan");
  key(Qt::Key_F2, Qt::ShiftModifier);
  EXPECT_FALSE(child("wholeSave")->isVisible()) << "there is nothing to be kept";
  const std::string broken = db.file("broken.png");
  std::ofstream(broken, std::ios::binary) << bytesOf(picture).substr(0, 60);
  answerWith(broken);
  press("wholeLoad");
  ASSERT_TRUE(wait([&] { return counts().cells == 2; })) << message().toStdString();
  EXPECT_FALSE(child("wholePicture")->isVisible());
  key(Qt::Key_Escape);
  goToReview();
  ASSERT_TRUE(wait([&] { return review()->ready(); }));
  key(Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier);
  ASSERT_TRUE(wait([&] { return changes().empty(); })) << message().toStdString();
  EXPECT_EQ(std::to_string(bytesOf(picture).size()) + "\n60",
            db.rows("SELECT length(scan) FROM paper ORDER BY 1 DESC"));
}

}  // namespace
}  // namespace iterandum::test
