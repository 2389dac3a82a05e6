// The review and the history: the keys that lead through them, stopping, and receipts whose end is not known.
#include <QCheckBox>
#include <QDir>
#include <fstream>

#include "app/window_fixture.h"
#include "core/apply/outcome.h"

namespace iterandum::test {
namespace {

class ReviewTest : public WindowTest {
 protected:
  // As a program leaves it that was killed between keeping the receipt and hearing of the commit.
  void leavePendingReceipt(bool written) {
    TestDatabase twin{kSmallRegister};
    ASSERT_EQ("applied", twin.apply("edit tree tree_id=7 condition:2->3\nremove photo photo_id=1"));
    Receipt receipt = twin.receipt();
    receipt.database = window->desk()->info().address;
    auto store = Store::open(db.file("state/store.sqlite"));
    ASSERT_TRUE(store.has_value());
    ASSERT_TRUE((*store)->keepReceipt(receipt).has_value());
    if (!written) return;
    ASSERT_EQ("applied", db.apply("edit tree tree_id=7 condition:2->3\nremove photo photo_id=1"));
  }
  [[nodiscard]] QString receiptLine() const {
    const auto* list = window->findChild<QListWidget*>("receipts");
    return list->count() == 0 ? QString() : list->item(0)->text();
  }
};

TEST_F(ReviewTest, TheWholeReviewIsWalkedByKeys) {
  openTable("species");
  at(1, "name");
  key(Qt::Key_Delete, Qt::ControlModifier);
  at(0, "name");
  type("linden");
  key(Qt::Key_Return);
  goToReview();
  auto* groups = window->findChild<QListWidget*>("groups");
  EXPECT_TRUE(groups->hasFocus());
  key(Qt::Key_F8);
  EXPECT_THAT(groups->currentItem()->data(Qt::AccessibleTextRole).toString().toStdString(),
              ::testing::HasSubstr("needs a look"));
  key(Qt::Key_G, Qt::ControlModifier | Qt::ShiftModifier);
  ASSERT_TRUE(wait([&] { return review()->ready(); }));
  key(Qt::Key_F8);
  EXPECT_EQ("Nothing here stands in the way.", message().toStdString());
  key(Qt::Key_2, Qt::ControlModifier);
  const auto* statement = review()->findChild<QLabel*>("groupStatements");
  ASSERT_NE(nullptr, statement);
  EXPECT_THAT(statement->text().toStdString(), ::testing::HasSubstr("linden"));
  key(Qt::Key_E, Qt::ControlModifier);
  type("names");
  key(Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier);
  ASSERT_TRUE(wait([&] { return changes().empty(); }));
  EXPECT_EQ("1|linden", db.rows("SELECT * FROM species WHERE species_id = 1"));
}

// One group of several, with what it needs: three acts from the review; the rest is staged still, through a restart
// too.
TEST_F(ReviewTest, APartIsAppliedAndTheRestStays) {
  openTable("species");
  key(Qt::Key_N, Qt::ControlModifier);
  type("yew");
  key(Qt::Key_Return);
  openTable("tree");
  at(0, "note");
  type("seen");
  key(Qt::Key_Return);
  at(1, "note");
  type("seen");
  key(Qt::Key_Return);
  at(2, "condition");
  type("3");
  key(Qt::Key_Return);
  const auto* changed = changes().table({"", "species"});
  ASSERT_NE(nullptr, changed);
  window->desk()->staged().stageEdits("yew", {{{{"", "tree"}, {Value::integer(9)}, 0},
                                               "species_id",
                                               Value::integer(2),
                                               Value::pendingKey(addedLabel(changed->added().begin()->first))}});
  goToReview();
  auto* groups = window->findChild<QListWidget*>("groups");
  const auto chooseGroup = [&](const char* words) {
    for (int i = 0; i < groups->count(); ++i) {
      if (groups->item(i)->text().contains(QLatin1String(words))) groups->setCurrentRow(i);
    }
    ASSERT_TRUE(groups->currentItem()->text().contains(QLatin1String(words))) << words;
  };
  auto* part = window->findChild<QLabel*>("partWords");
  auto* only = window->findChild<QPushButton*>("onlyThisGroup");
  EXPECT_FALSE(part->isVisible());
  chooseGroup("species_id");                // 1
  QTest::mouseClick(only, Qt::LeftButton);  // 2
  ASSERT_TRUE(wait([&] { return review()->ready(); }));
  EXPECT_EQ(
      "Only a part of what is staged: 2 of 4 records. The rest stays staged. Needed by what was chosen: 1 new "
      "record in species.",
      part->text().toStdString());
  EXPECT_EQ(2U, review()->partRecords());
  // All again, by the same key; then another part, this time by keys.
  key(Qt::Key_A, Qt::ControlModifier | Qt::ShiftModifier);
  ASSERT_TRUE(wait([&] { return review()->ready() && !part->isVisible(); }));
  EXPECT_EQ(4U, review()->changeCount());
  chooseGroup("species_id");
  key(Qt::Key_A, Qt::ControlModifier | Qt::ShiftModifier);
  ASSERT_TRUE(wait([&] { return review()->ready() && part->isVisible(); }));
  EXPECT_EQ("3", db.rows("SELECT count(*) FROM species")) << "only rehearsed";
  key(Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier);  // 3
  ASSERT_TRUE(wait([&] { return counts().added == 0; })) << message().toStdString();
  EXPECT_TRUE(message().contains("What was not chosen is staged still.")) << message().toStdString();
  EXPECT_EQ("yew", db.rows("SELECT s.name FROM tree JOIN species s USING (species_id) WHERE tree_id = 9"));
  EXPECT_EQ("2|old\n2|-\n4|", db.rows("SELECT condition, note FROM tree ORDER BY tree_id"));
  EXPECT_EQ("edit 9 condition=3; edit 7 note=seen; edit 8 note=seen", staged());
  // One step of undo now; and kept on disk.
  window.reset();
  start();
  EXPECT_EQ("edit 9 condition=3; edit 7 note=seen; edit 8 note=seen", staged());
  goToReview();
  EXPECT_FALSE(window->findChild<QLabel*>("partWords")->isVisible());
  ASSERT_TRUE(wait([&] { return review()->ready(); }));
  key(Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier);
  ASSERT_TRUE(wait([&] { return changes().empty(); })) << message().toStdString();
  EXPECT_EQ("2|seen\n2|seen\n3|", db.rows("SELECT condition, note FROM tree ORDER BY tree_id"));
}

// The name of a table above its groups is a place to click on.
TEST_F(ReviewTest, AClickOnATableChoosesAllItsGroups) {
  openTable("species");
  at(0, "name");
  type("linden");
  key(Qt::Key_Return);
  openTable("tree");
  at(0, "note");
  type("seen");
  key(Qt::Key_Return);
  at(0, "condition");
  type("3");
  key(Qt::Key_Return);
  goToReview();
  auto* groups = window->findChild<QListWidget*>("groups");
  for (int i = 0; i < groups->count(); ++i) {
    if (groups->item(i)->text() != QLatin1String("tree")) continue;
    QTest::mouseClick(groups->viewport(), Qt::LeftButton, {}, groups->visualItemRect(groups->item(i)).center());
  }
  EXPECT_EQ(2, groups->selectedItems().size());
  auto* only = window->findChild<QPushButton*>("onlyThisGroup");
  EXPECT_EQ("Only these 2 groups", only->text().toStdString());
  QTest::mouseClick(only, Qt::LeftButton);
  ASSERT_TRUE(wait([&] { return review()->ready(); }));
  EXPECT_EQ(1U, review()->partRecords());
  key(Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier);
  ASSERT_TRUE(wait([&] { return staged() == "edit 1 name=linden"; })) << staged();
  EXPECT_EQ("3|seen", db.rows("SELECT condition, note FROM tree WHERE tree_id = 7"));
}

// A part by records: those that are selected in the sheet, whole, with the new record that they need.
TEST_F(ReviewTest, TheSelectedRecordsAreAPart) {
  openTable("species");
  key(Qt::Key_N, Qt::ControlModifier);
  ASSERT_TRUE(wait([&] { return counts().added == 1; }));
  at(3, "name");
  type("yew");
  key(Qt::Key_Return);
  const std::uint64_t yew = changes().table({"", "species"})->added().begin()->first;
  openTable("tree");
  for (const int row : {0, 1, 2}) {
    at(row, "note");
    type("seen");
    key(Qt::Key_Return);
  }
  at(1, "condition");
  type("3");
  key(Qt::Key_Return);
  window->desk()->staged().stageEdits(
      "yew",
      {{{{"", "tree"}, {Value::integer(8)}, 0}, "species_id", Value::integer(1), Value::pendingKey(addedLabel(yew))}});
  const std::string all = staged();
  at(1, "note");
  key(Qt::Key_A, Qt::ControlModifier | Qt::ShiftModifier);  // 1
  ASSERT_TRUE(wait([&] { return review()->isVisible() && review()->ready() && review()->partRecords() == 2U; }));
  EXPECT_EQ(
      "Only a part of what is staged: 2 of 4 records. The rest stays staged. Needed by what was chosen: 1 new "
      "record in species.",
      window->findChild<QLabel*>("partWords")->text().toStdString());
  EXPECT_EQ(all, staged());
  // Another part, chosen while this one is looked at.
  openTable("tree");
  at(0, "tag");
  key(Qt::Key_Down, Qt::ShiftModifier);
  key(Qt::Key_A, Qt::ControlModifier | Qt::ShiftModifier);
  ASSERT_TRUE(wait([&] { return review()->ready() && review()->partRecords() == 3U; }));
  key(Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier);  // 2
  ASSERT_TRUE(wait([&] { return counts().added == 0; })) << message().toStdString();
  EXPECT_EQ("edit 9 note=seen", staged());
  EXPECT_EQ("2|seen|lime\n3|seen|yew\n4||oak",
            db.rows("SELECT condition, note, s.name FROM tree JOIN species s USING (species_id) ORDER BY tree_id"));
  // All that is left is no part, and where nothing is staged there is none.
  openTable("tree");
  at(2, "note");
  key(Qt::Key_A, Qt::ControlModifier | Qt::ShiftModifier);
  EXPECT_TRUE(message().contains("That is all that is staged")) << message().toStdString();
  ASSERT_TRUE(wait([&] { return review()->ready() && !review()->partRecords(); }));
  openTable("tree");
  at(0, "note");
  key(Qt::Key_A, Qt::ControlModifier | Qt::ShiftModifier);
  EXPECT_TRUE(message().contains("Nothing is staged in the selected records")) << message().toStdString();
  EXPECT_FALSE(review()->isVisible());
}

TEST_F(ReviewTest, APartThatIsRefusedLeavesAllStaged) {
  openTable("species");
  at(0, "name");
  type("linden");
  key(Qt::Key_Return);
  at(1, "name");
  key(Qt::Key_Delete, Qt::ControlModifier);
  goToReview();
  const std::string before = staged();
  auto* groups = window->findChild<QListWidget*>("groups");
  groups->setCurrentRow(groups->count() - 1);
  ASSERT_TRUE(groups->currentItem()->text().contains("removed"));
  key(Qt::Key_A, Qt::ControlModifier | Qt::ShiftModifier);
  ASSERT_TRUE(wait([&] { return review()->review().has_value() && !review()->busy(); }));
  EXPECT_FALSE(review()->ready()) << "trees point at it";
  EXPECT_EQ(before, staged());
  // Something staged meanwhile: all of it is looked at again.
  window->desk()->staged().undo();
  EXPECT_FALSE(window->findChild<QLabel*>("partWords")->isVisible());
  window->desk()->staged().redo();
  EXPECT_EQ(before, staged());
  // All groups are no part.
  key(Qt::Key_A, Qt::ControlModifier);
  ASSERT_TRUE(wait([&] { return review()->review().has_value() && !review()->busy(); }));
  groups->selectAll();
  key(Qt::Key_A, Qt::ControlModifier | Qt::ShiftModifier);
  EXPECT_TRUE(message().contains("That is all that is staged")) << message().toStdString();
}

TEST_F(ReviewTest, ACopyIsKeptFirstWhereThatIsChosenAndTheChoiceIsKept) {
  openTable("tree");
  at(0, "condition");
  type("3");
  key(Qt::Key_Return);
  goToReview();
  auto* box = window->findChild<QCheckBox*>("copyFirst");
  ASSERT_TRUE(box->isVisible());
  EXPECT_FALSE(box->isChecked());
  const std::string was = db.dump();
  QTest::mouseClick(box, Qt::LeftButton, {}, QPoint(8, box->height() / 2));
  key(Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier);
  ASSERT_TRUE(wait([&] { return changes().empty(); })) << message().toStdString();
  const QString said = message();
  const QString path = said.section("As it was before: ", 1).section(".sqlite", 0, 0) + ".sqlite";
  EXPECT_TRUE(path.contains("/copies/")) << said.toStdString();
  EXPECT_EQ(was, otherSqlite(path.toStdString())->dump());
  window.reset();
  start();
  openTable("tree");
  at(0, "condition");
  type("4");
  key(Qt::Key_Return);
  goToReview();
  EXPECT_TRUE(window->findChild<QCheckBox*>("copyFirst")->isChecked());
  // Where no copy can be made nothing is applied.
  QDir folder = QFileInfo(path).dir();
  ASSERT_TRUE(folder.removeRecursively());
  std::ofstream(folder.absolutePath().toStdString()) << "in the way";
  key(Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier);
  const auto saysSo = [&] {
    const auto labels = review()->findChildren<QLabel*>();
    return std::any_of(labels.begin(), labels.end(), [](const QLabel* label) {
      return label->text().startsWith("Nothing was applied") && label->text().contains("copies");
    });
  };
  ASSERT_TRUE(wait(saysSo)) << message().toStdString();
  EXPECT_EQ("3", db.rows("SELECT condition FROM tree WHERE tree_id = 7"));
  EXPECT_EQ("edit 7 condition=4", staged());
}

// Two hundred records that somebody else changed: five are kept as mine, the others theirs; six acts.
TEST_F(ReviewTest, ManyConflictsAreSettledTogether) {
  db.run(
      "CREATE TABLE many (id INTEGER PRIMARY KEY, n INTEGER); WITH RECURSIVE c(i) AS (SELECT 1 UNION ALL SELECT i + 1 "
      "FROM c WHERE i < 200) INSERT INTO many SELECT i, 0 FROM c");
  window.reset();
  start();
  const Table* many = window->desk()->catalogue().find({"", "many"});
  ASSERT_NE(nullptr, many);
  ValueColumn keys;
  for (int i = 1; i <= 200; ++i) keys.push(Value::integer(i));
  window->desk()->staged().stageColumn("all", *many, "n", {keys}, ValueColumn(200, Value::integer(0)),
                                       ValueColumn(200, Value::integer(1)));
  db.run("UPDATE many SET n = 7");
  goToReview();
  const auto conflicts = [&] { return review()->blockingCount(); };
  ASSERT_EQ(200U, conflicts());
  int acts = 0;
  for (std::size_t left = 199; left >= 195; --left) {
    pressInReview(QStringLiteral("Keep mine"));
    ++acts;
    ASSERT_TRUE(wait([&] { return review()->review().has_value() && !review()->busy() && conflicts() == left; }));
  }
  EXPECT_EQ("195 records were changed by somebody else",
            review()->findChild<QLabel*>("allOfAKind")->text().toStdString());
  pressInReview(QStringLiteral("Take theirs in all"));
  ++acts;
  ASSERT_TRUE(wait([&] { return review()->ready(); }));
  EXPECT_LE(acts, 12);
  EXPECT_EQ(5U, counts().edited);
  // One step of undo; and the other way round.
  key(Qt::Key_Z, Qt::ControlModifier);
  ASSERT_TRUE(wait([&] { return review()->review().has_value() && !review()->busy() && conflicts() == 195; }));
  pressInReview(QStringLiteral("Keep mine in all"));
  ASSERT_TRUE(wait([&] { return review()->ready(); }));
  EXPECT_EQ(200U, counts().edited);
  key(Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier);
  ASSERT_TRUE(wait([&] { return changes().empty(); }));
  EXPECT_EQ("200", db.rows("SELECT count(*) FROM many WHERE n = 1"));
}

TEST_F(ReviewTest, WhatStandsInTheWayForOneReasonIsAScope) {
  openTable("tree");
  for (const int row : {0, 1}) {
    at(row, "note");
    type("seen");
    key(Qt::Key_Return);
  }
  db.run("DELETE FROM inspection; DELETE FROM photo; DELETE FROM tree WHERE tree_id IN (7, 8)");
  goToReview();
  ASSERT_NE(nullptr, review()->findChild<QLabel*>("allOfAKind"));
  EXPECT_EQ("2 records are no longer in the database",
            review()->findChild<QLabel*>("allOfAKind")->text().toStdString());
  QTest::mouseClick(review()->findChild<QPushButton*>("showAllOfThem"), Qt::LeftButton);
  ASSERT_TRUE(wait([&] { return sheet() != nullptr && settled(); }));
  EXPECT_THAT(sentence(), ::testing::HasSubstr("record has a finding"));
  goToReview();
  QTest::mouseClick(review()->findChild<QPushButton*>("putAllOfThemBack"), Qt::LeftButton);
  ASSERT_TRUE(wait([&] { return changes().empty(); }));
}

TEST_F(ReviewTest, ARehearsalCanBeStoppedAndDoneAgain) {
  db.run(
      "CREATE TABLE many (id INTEGER PRIMARY KEY, n INTEGER);"
      "WITH RECURSIVE c(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM c WHERE i < 20000) INSERT INTO many SELECT i, 0 "
      "FROM c;"
      "CREATE TRIGGER slow AFTER UPDATE ON many BEGIN SELECT count(*) FROM many a WHERE a.n + NEW.n < -1; END");
  window->open(QString::fromStdString(db.path()));
  ASSERT_TRUE(wait([&] { return window->desk()->catalogue().find({"", "many"}) != nullptr; }));
  const Table* many = window->desk()->catalogue().find({"", "many"});
  ValueColumn keys;
  for (int i = 1; i <= 20000; ++i) keys.push(Value::integer(i));
  window->desk()->staged().stageColumn("all", *many, "n", {keys}, ValueColumn(20000, Value::integer(0)),
                                       ValueColumn(20000, Value::integer(1)));
  key(Qt::Key_R, Qt::ControlModifier);
  ASSERT_TRUE(review()->busy()) << "the interface goes on while it lasts";
  auto* stop = window->findChild<QPushButton*>("railStop");
  ASSERT_TRUE(wait([&] { return stop->isVisible(); }));
  QTest::mouseClick(stop, Qt::LeftButton);
  ASSERT_TRUE(wait([&] { return !review()->busy(); }));
  EXPECT_FALSE(review()->ready());
  EXPECT_EQ("The rehearsal was stopped. Rehearse again before applying.",
            review()->findChild<QLabel*>("reviewProblem")->text().toStdString());
  EXPECT_EQ(20000U, counts().cells) << "what is staged is kept";
  EXPECT_EQ("0", db.rows("SELECT sum(n) FROM many"));
}

TEST_F(ReviewTest, AReceiptThatWasWrittenAfterAllIsFoundOut) {
  leavePendingReceipt(true);
  key(Qt::Key_H, Qt::ControlModifier);
  EXPECT_TRUE(wait([&] { return receiptLine().endsWith("found in the database afterwards"); }))
      << receiptLine().toStdString();
}

TEST_F(ReviewTest, AReceiptThatWasNotWrittenIsSaidToBeSo) {
  leavePendingReceipt(false);
  key(Qt::Key_H, Qt::ControlModifier);
  EXPECT_TRUE(wait([&] { return receiptLine().endsWith("it was not written: the program ended before"); }))
      << receiptLine().toStdString();
  db.run("UPDATE tree SET condition = 3 WHERE tree_id = 7");  // half of it, by somebody else
  key(Qt::Key_K, Qt::ControlModifier);
  key(Qt::Key_Escape);
  window->findChild<HistoryPage*>()->reload();
  EXPECT_TRUE(wait([&] { return receiptLine().endsWith("it is not known whether it was written"); }));
}

TEST_F(ReviewTest, AStructureThatChangedSinceStagingIsAFindingAndNothingIsLost) {
  openTable("photo");
  at(0, "caption");
  type("x");
  key(Qt::Key_Return);
  db.run("ALTER TABLE photo RENAME COLUMN caption TO words");
  goToReview();
  EXPECT_FALSE(review()->ready());
  EXPECT_EQ(1U, counts().cells);
  EXPECT_EQ("crown", db.rows("SELECT words FROM photo WHERE photo_id = 1"));
}

// What triggers write elsewhere is said above what was asked for, and looked at like it.
TEST_F(ReviewTest, WhatTheDatabaseWritesBesidesIsSaid) {
  db.run(
      "CREATE TRIGGER noted AFTER UPDATE OF note ON tree BEGIN INSERT INTO log VALUES (NEW.tree_id, NEW.note); UPDATE "
      "photo SET caption = 'of ' || NEW.note WHERE photo_id = 2; DELETE FROM species WHERE species_id = 3; END");
  window.reset();
  start();
  openTable("tree");
  at(0, "note");
  type("<b>bold</b>");
  key(Qt::Key_Return);
  goToReview();
  auto* groups = window->findChild<QListWidget*>("groups");
  QStringList items;
  for (int i = 0; i < groups->count(); ++i) items << groups->item(i)->text();
  EXPECT_EQ(
      "Written by the database itself|log: 1 record added|photo: 1 record changed|species: 1 record removed|tree|"
      "note from old to <b>bold</b> in 1 record",
      items.join(QLatin1Char('|')).toStdString());
  EXPECT_EQ(5, groups->currentRow()) << "what is staged is what is looked at first";
  groups->setFocus();
  const auto shown = [&](const char* name) { return review()->findChild<QLabel*>(name)->text().toStdString(); };
  for (int i = 0; i < 6 && groups->currentItem()->text() != QLatin1String("photo: 1 record changed"); ++i)
    key(Qt::Key_Up);
  EXPECT_EQ("photo: 1 record changed", shown("groupHeading"));
  EXPECT_THAT(shown("elsewhereWords"), ::testing::HasSubstr("What speaks of this table: noted on tree."));
  EXPECT_THAT(shown("elsewhereRecords"), ::testing::HasSubstr("of &lt;b&gt;bold&lt;/b&gt;"));
  EXPECT_FALSE(review()->findChild<QPushButton*>("putGroupBack")->isVisible()) << "it is nobody's to put back";
  EXPECT_TRUE(review()->ready());
}

TEST_F(ReviewTest, WhatIsAppliedIsReadAgainAndHeldAgainstItsReceipt) {
  openTable("tree");
  at(0, "note");
  type("mine");
  key(Qt::Key_Return);
  goToReview();
  // Somebody is quicker than the second look, which is another connection's.
  QObject::connect(&window->desk()->applying(), &Applying::written, window.get(),
                   [this] { db.run("UPDATE tree SET note = 'theirs' WHERE tree_id = 7"); });
  key(Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier);
  ASSERT_TRUE(wait([&] { return message().contains("holds something else already"); })) << message().toStdString();
  EXPECT_TRUE(message().contains("1 record of 1")) << message().toStdString();
  EXPECT_TRUE(message().contains("tree 7")) << message().toStdString();
  EXPECT_TRUE(changes().empty());
}

TEST_F(ReviewTest, AReceiptThatWasAlteredIsNoticedWhenAsked) {
  openTable("tree");
  at(0, "note");
  type("mine");
  key(Qt::Key_Return);
  goToReview();
  key(Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier);
  ASSERT_TRUE(wait([&] { return changes().empty(); }));
  key(Qt::Key_Z, Qt::ControlModifier | Qt::AltModifier);
  ASSERT_TRUE(wait([&] { return message().startsWith("1 receipt, each as it was kept, since "); }))
      << message().toStdString();
  {
    auto handle = SqliteHandle::open(db.file("state/store.sqlite"), SQLITE_OPEN_READWRITE);
    ASSERT_TRUE(handle);
    ASSERT_TRUE((*handle)->run("UPDATE receipt SET applied_by = 'nobody'"));
  }
  key(Qt::Key_Z, Qt::ControlModifier | Qt::AltModifier);
  ASSERT_TRUE(wait([&] { return message().contains("was altered after it was kept"); })) << message().toStdString();
}

}  // namespace
}  // namespace iterandum::test
