// What the window must not lose, nor write elsewhere: what is typed while records are read anew, what is staged in a
// second window or while something is applied, and texts that look like mark-up.
#include "app/session/applying.h"
#include "app/window_fixture.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;

class TrustTest : public WindowTest {
 protected:
  [[nodiscard]] std::string grade(int tree) const {
    return db.rows("SELECT condition FROM tree WHERE tree_id = " + std::to_string(tree));
  }
  void stageGrade(std::int64_t tree, std::int64_t from, std::int64_t to, MainWindow& in) const {
    const RecordRef ref{{"", "tree"}, {Value::integer(tree)}, 0};
    in.desk()->staged().stageEdits("grade", {{ref, "condition", Value::integer(from), Value::integer(to)}});
  }
};

TEST_F(TrustTest, WhatIsBeingTypedIsMeantForItsRecordWhereverThatIsAfterwards) {
  openTable("tree");
  at(1, "condition");
  type("5");
  // Other records come, in another order, while the editor is open.
  db.run("INSERT INTO tree (tree_id, tag, species_id, condition) VALUES (1, 'T1', 1, 1)");
  sheet()->model().source().refresh();
  ASSERT_TRUE(wait([&] { return settled() && sheet()->model().source().rows() == 4; }));
  EXPECT_EQ("edit 8 condition=5", staged());
}

TEST_F(TrustTest, LinesOfAnotherSystemArePastedWithoutTheirEnds) {
  openTable("species");
  at(0, "name");
  QApplication::clipboard()->setText("Oak\r\nElm\r\n");
  key(Qt::Key_V, Qt::ControlModifier);
  EXPECT_EQ("edit 1 name=Oak; edit 2 name=Elm", staged());
}

TEST_F(TrustTest, LinesBeyondTheLastRecordAreNewOnlyWhenSomebodySaysSo) {
  openTable("species");
  at(1, "name");
  QApplication::clipboard()->setText("a\nb\nc\nd\ne");
  key(Qt::Key_V, Qt::ControlModifier);
  EXPECT_EQ("edit 2 name=a; edit 3 name=b", staged());
  EXPECT_EQ("3 lines of the clipboard lie beyond the last record.", message().toStdString());
  auto* add = window->findChild<QPushButton*>("messageAction");
  EXPECT_EQ("Add them as 3 new records", add->text().toStdString());
  QTest::mouseClick(add, Qt::LeftButton);
  EXPECT_EQ("edit 2 name=a; edit 3 name=b; add name=c; add name=d; add name=e", staged());
  EXPECT_EQ(3, view().currentIndex().row());
  key(Qt::Key_Z, Qt::ControlModifier);
  EXPECT_EQ("edit 2 name=a; edit 3 name=b", staged()) << "one gesture";
}

TEST_F(TrustTest, RecordsThatWereNotReadAreRemovedWithTheOthers) {
  db.run(
      "CREATE TABLE many (id INTEGER PRIMARY KEY); INSERT INTO many WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT "
      "i + 1 "
      "FROM n WHERE i < 6000) SELECT i FROM n");
  window->open(QString::fromStdString(db.path()));
  ASSERT_TRUE(wait([&] {
    return window->desk() != nullptr && window->desk()->catalogue().find({"", "many"}) != nullptr;
  }));
  openTable("many");
  SheetModel& model = sheet()->model();
  view().selectionModel()->select(QItemSelection(model.index(0, 0), model.index(5999, 0)),
                                  QItemSelectionModel::ClearAndSelect);
  view().removeSelected();
  EXPECT_FALSE(counts().any()) << "all or nothing";
  EXPECT_TRUE(wait([&] { return counts().removed == 6000; })) << message().toStdString();
}

TEST_F(TrustTest, WhatIsStagedWhileSomethingIsAppliedStaysStaged) {
  stageGrade(7, 2, 3, *window);
  window->desk()->applying().start("");
  ASSERT_TRUE(window->desk()->applying().running());
  stageGrade(7, 2, 5, *window);
  stageGrade(8, 2, 4, *window);
  window->desk()->staged().undo();
  EXPECT_EQ(2U, counts().cells) << "what is being applied is not undone";
  ASSERT_TRUE(wait([&] { return !window->desk()->applying().running() && grade(7) == "3"; }));
  EXPECT_EQ("edit 7 condition=5; edit 8 condition=4", staged());
  const auto cell = changes().table({"", "tree"})->cell(0, "condition");
  EXPECT_EQ("3", canonicalText(cell->from)) << "on the record as it is now";
  window.reset();
  start();
  EXPECT_EQ("edit 7 condition=5; edit 8 condition=4", staged());
}

TEST_F(TrustTest, AnApplyGoesOnWhenItsPageIsLeftOrMadeAnew) {
  stageGrade(7, 2, 3, *window);
  goToReview();
  review()->apply();
  openTable("species");
  key(Qt::Key_D, Qt::ControlModifier | Qt::AltModifier);
  ASSERT_TRUE(wait([&] { return grade(7) == "3" && !window->desk()->applying().running(); }));
  EXPECT_FALSE(counts().any());
  key(Qt::Key_L, Qt::ControlModifier | Qt::AltModifier);
}

TEST_F(TrustTest, AValueThatLooksLikeMarkUpIsShownAsItIs) {
  const std::string evil = "<img src='file:///dev/zero'><b>x</b>";
  const RecordRef ref{{"", "tree"}, {Value::integer(7)}, 0};
  window->desk()->staged().stageEdits("note", {{ref, "note", Value::text("old"), Value::text(evil)}});
  openTable("tree");
  goToReview();
  QCoreApplication::processEvents();
  int labels = 0;
  for (const QLabel* label : window->findChildren<QLabel*>()) {
    if (!label->isVisible()) continue;
    ++labels;
    EXPECT_NE(Qt::AutoText, label->textFormat())
        << label->objectName().toStdString() << ": " << label->text().toStdString();
    if (label->textFormat() == Qt::RichText) {
      EXPECT_THAT(label->text().toStdString(), ::testing::Not(HasSubstr("<img src")))
          << label->objectName().toStdString();
    }
  }
  EXPECT_LE(5, labels);
}

}  // namespace
}  // namespace iterandum::test
