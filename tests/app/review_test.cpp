// The review and the history: the keys that lead through them, stopping, and receipts whose end is not known.
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
  window->desk()->stageColumn("all", *many, "n", {keys}, ValueColumn(20000, Value::integer(0)),
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

}  // namespace
}  // namespace iterandum::test
