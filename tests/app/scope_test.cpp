// Getting to the right records: the sentence changed in place, borrowed columns, the way along references, finding,
// saved scopes, values at a glance; and sheets that are large.
#include <QContextMenuEvent>
#include <QFileDialog>
#include <QMenu>
#include <QScrollBar>
#include <QTimer>

#include "app/sheet/histogram_view.h"
#include "app/window_fixture.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;

constexpr auto kCtrl = Qt::ControlModifier;
constexpr auto kCtrlAlt = Qt::ControlModifier | Qt::AltModifier;
constexpr auto kCtrlShift = Qt::ControlModifier | Qt::ShiftModifier;

class SheetScopeTest : public WindowTest {
 protected:
  [[nodiscard]] QListWidget* offers() const { return sheet()->findChild<QListWidget*>("phraseOffers"); }
  [[nodiscard]] std::string answer() const { return sheet()->findChild<QLabel*>("findAnswer")->text().toStdString(); }
  void borrow(const char* column) {
    key(Qt::Key_B, kCtrl);
    choose(column);
  }
  // After a dialog the window has the keys again.
  void comeBack() {
    window->activateWindow();
    ASSERT_TRUE(QTest::qWaitForWindowActive(window.get()));
    if (sheet() != nullptr) view().setFocus();
  }
  bool shows(const std::string& path, const std::string& values) {
    return wait([&] { return settled() && column(path) == values; });
  }
};

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
  EXPECT_EQ("inspection where tree_id is 7 and…", sentence());
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

// Answers the file dialog that comes next.
void answerWith(const QString& path) {
  QTimer::singleShot(400, [path] {
    auto* dialog = qobject_cast<QFileDialog*>(QApplication::activeModalWidget());
    ASSERT_NE(nullptr, dialog);
    dialog->findChild<QLineEdit*>("fileNameEdit")->setText(path);
    QMetaObject::invokeMethod(dialog, "accept");
  });
}

TEST_F(SheetScopeTest, AScopeGoesOutAsAFileAndComesInAgain) {
  QCoreApplication::setAttribute(Qt::AA_DontUseNativeDialogs);
  openTable("tree");
  sheet()->scope().setFilter(1, "T8");
  ASSERT_TRUE(shows("tag", "T8"));
  const QString path = QString::fromStdString(db.file("eight.json"));
  key(Qt::Key_K, kCtrl);
  answerWith(path);
  choose("Export this scope");
  ASSERT_TRUE(QFile::exists(path)) << message().toStdString();
  comeBack();
  key(Qt::Key_W, kCtrl);
  key(Qt::Key_K, kCtrl);
  answerWith(path);
  choose("Import a scope");
  ASSERT_TRUE(wait([&] { return sheet() != nullptr && settled(); })) << message().toStdString();
  comeBack();
  EXPECT_EQ("T8", column("tag"));
  EXPECT_EQ("tree", sheet()->title().toStdString());
  ASSERT_EQ(1U, window->desk()->scopes().size());
  QFile broken(path);
  ASSERT_TRUE(broken.open(QIODevice::WriteOnly) && broken.write("{\"format\": 3}") > 0);
  broken.close();
  key(Qt::Key_K, kCtrl);
  answerWith(path);
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
  EXPECT_EQ("inspection where inspected_on is 2025-03-01 or more and inspected_on is below 2025-04-01 and…",
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
  auto* menu = sheet()->findChild<QMenu*>("columnMenu");
  ASSERT_NE(nullptr, menu);
  EXPECT_EQ(4, view().currentIndex().column());
  for (QAction* action : menu->actions()) {
    if (action->text() == "Values of this column") action->trigger();
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

class LargeSheetTest : public SheetScopeTest {
 protected:
  LargeSheetTest() {
    db.run(
        "CREATE TABLE reading (reading_id INTEGER PRIMARY KEY, level INTEGER, place TEXT);"
        "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 120000)"
        "INSERT INTO reading SELECT i * 2, (i * 7919) % 120000, 'place ' || (i % 500) FROM n");
  }
};

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
