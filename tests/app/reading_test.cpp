// How the window reads: long ways through a sheet in short steps, failures told once, texts shown as what they are, and
// the database's own code told before it runs.
#include <QSignalSpy>

#include "app/records/row_search.h"
#include "app/values/shown_value.h"
#include "app/window_fixture.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;
using ::testing::Not;

// --- RowSearch

struct Search {
  // Looks for these rows; gives the answer, and counts the looks.
  std::optional<int> run(int first, int last, std::vector<int> rows, bool emptyWay = false) {
    const auto way = last < first && !emptyWay ? RowSearch::Way::Backwards : RowSearch::Way::Forwards;
    std::optional<int> answer;
    bool done = false;
    search.start(
        first, last, way,
        [&, rows](int low, int high) -> std::optional<int> {
          ++looks;
          EXPECT_LE(low, high);
          std::optional<int> best;
          for (const int row : rows) {
            if (row < low || row > high) continue;
            if (!best || (last < first ? row > *best : row < *best)) best = row;
          }
          return best;
        },
        [&](std::optional<int> row) {
          answer = row;
          done = true;
        });
    atOnce = done;
    EXPECT_TRUE(QTest::qWaitFor([&] { return done; }, 5000));
    return answer;
  }
  RowSearch search;
  int looks = 0;
  bool atOnce = false;
};

TEST(RowSearchTest, TheNearestIsFoundInEitherDirection) {
  Search search;
  EXPECT_EQ(7, search.run(0, 99, {50, 7, 90}));
  EXPECT_TRUE(search.atOnce);
  EXPECT_EQ(90, search.run(99, 0, {50, 7, 90}));
  EXPECT_EQ(50, search.run(60, 40, {50, 7, 90}));
  EXPECT_EQ(std::nullopt, search.run(51, 89, {50, 7, 90}));
  EXPECT_EQ(50, search.run(50, 50, {50}));
  EXPECT_EQ(std::nullopt, search.run(0, -1, {0}, true)) << "no rows at all";
}

TEST(RowSearchTest, EveryPlaceOfAMillionIsFoundFromBothEnds) {
  for (const int row : {0, 1, 4095, 4096, 4097, 500000, 999998, 999999}) {
    Search search;
    EXPECT_EQ(row, search.run(0, 999999, {row}));
    EXPECT_EQ(row, search.run(999999, 0, {row}));
  }
}

TEST(RowSearchTest, TheWindowLivesOnWhileItLooks) {
  RowSearch search;
  int alive = 0;
  bool done = false;
  QTimer heart;
  QObject::connect(&heart, &QTimer::timeout, [&] { ++alive; });
  heart.start(1);
  search.start(
      0, 400000, RowSearch::Way::Forwards,
      [](int, int) -> std::optional<int> {
        QThread::msleep(1);
        return std::nullopt;
      },
      [&](std::optional<int>) { done = true; });
  EXPECT_FALSE(done);
  ASSERT_TRUE(QTest::qWaitFor([&] { return done; }, 8000));
  EXPECT_LE(4, alive);
}

TEST(RowSearchTest, ASearchThatIsStoppedOrOvertakenSaysNothing) {
  RowSearch search;
  int first = 0;
  int second = 0;
  const auto slow = [](int, int) -> std::optional<int> {
    QThread::msleep(5);
    return std::nullopt;
  };
  search.start(0, 90000, RowSearch::Way::Forwards, slow, [&](std::optional<int>) { ++first; });
  search.start(0, 9000, RowSearch::Way::Forwards, slow, [&](std::optional<int>) { ++second; });
  ASSERT_TRUE(QTest::qWaitFor([&] { return second == 1; }, 5000));
  search.start(0, 90000, RowSearch::Way::Forwards, slow, [&](std::optional<int>) { ++first; });
  search.stop();
  QTest::qWait(200);
  EXPECT_EQ(0, first);
  EXPECT_EQ(1, second);
}

// --- shown values

std::string shown(std::string_view text) {
  Column column;
  column.type = TypeClass::Text;
  return shownValue(column, Value::text(text)).toStdString();
}

TEST(ShownValueTest, WhatWouldActIsShown) {
  EXPECT_EQ("Oak", shown("Oak"));
  EXPECT_EQ("one\u21b5two\u21b5", shown("one\ntwo\r\n"));
  EXPECT_EQ("\\x1b[2Jx", shown("\x1b[2Jx"));
  EXPECT_EQ("a<U+202E>b", shown("a\u202Eb"));
  EXPECT_EQ("<img src='x'>", shown("<img src='x'>"));
  EXPECT_EQ("empty text", shown(""));
  EXPECT_EQ("Müller ß 漢", shown("Müller ß 漢"));
}

TEST(ShownValueTest, ALongTextIsCutBetweenTwoCharacters) {
  std::string text(1023, 'a');
  text += "\u6f22\u6f22";
  const std::string out = shown(text);
  EXPECT_THAT(out, ::testing::EndsWith("a\u2026"));
  EXPECT_THAT(out, Not(HasSubstr("\\x"))) << "half a character";
  EXPECT_EQ(1024, QString::fromStdString(out).size());
}

// --- in the window

class ReadingTest : public WindowTest {};

TEST_F(ReadingTest, ACellThatHoldsLinesAndSignsShowsThemOnOneLine) {
  db.run("UPDATE tree SET note = 'one' || char(10) || 'two' || char(27) WHERE tree_id = 7");
  openTable("tree");
  EXPECT_THAT(column("note"), HasSubstr("one\u21b5two\\x1b"));
  EXPECT_THAT(column("note"), Not(HasSubstr("\n")));
  // The editor holds the text itself.
  at(0, "note");
  EXPECT_EQ("one\ntwo\x1b", sheet()->model().editText(5, sheet()->model().cell(0, 5).stored).toStdString());
}

TEST_F(ReadingTest, TheNextMarkIsFoundHoweverFarAway) {
  db.run(
      "CREATE TABLE many (id INTEGER PRIMARY KEY, v INTEGER); INSERT INTO many WITH RECURSIVE n(i) AS (SELECT 1 UNION "
      "ALL SELECT i + 1 FROM n WHERE i < 150000) SELECT i, 1 FROM n");
  window->open(QString::fromStdString(db.path()));
  ASSERT_TRUE(wait([&] {
    return window->desk() != nullptr && window->desk()->catalogue().find({"", "many"}) != nullptr;
  }));
  openTable("many");
  std::vector<CellEdit> edits;
  for (const std::int64_t id : {140000, 149999}) {
    const RecordRef ref{{"", "many"}, {Value::integer(id)}, 0};
    edits.push_back({ref, "v", Value::integer(1), Value::integer(2)});
  }
  window->desk()->staged().stageEdits("two of many", edits);
  at(5, "v");
  const auto row = [&] { return view().currentIndex().row(); };
  sheet()->nextMarked(false);
  EXPECT_TRUE(wait([&] { return row() == 139999; })) << row();
  sheet()->nextMarked(false);
  EXPECT_TRUE(wait([&] { return row() == 149998; })) << row();
  sheet()->nextMarked(false);
  EXPECT_TRUE(wait([&] { return row() == 139999; })) << "round: " << row();
  sheet()->nextMarked(true);
  EXPECT_TRUE(wait([&] { return row() == 149998; })) << "and back: " << row();
  window->desk()->staged().putAllBack();
  sheet()->nextMarked(false);
  EXPECT_TRUE(wait([&] { return message() == "Nothing is staged here, and nothing needs a look."; }))
      << message().toStdString();
}

TEST_F(ReadingTest, ARecordIsGoneToHoweverFarAway) {
  db.run(
      "CREATE TABLE many (id TEXT NOT NULL PRIMARY KEY, v INTEGER) WITHOUT ROWID; INSERT INTO many WITH RECURSIVE n(i) "
      "AS (SELECT 1 UNION ALL "
      "SELECT i + 1 FROM n WHERE i < 60000) SELECT 'k' || (i * 7919 % 60013) || 'x' || (i % 3), 1 FROM n");
  const std::string last = db.rows("SELECT id FROM many ORDER BY id DESC LIMIT 1");
  window->open(QString::fromStdString(db.path()));
  ASSERT_TRUE(wait([&] {
    return window->desk() != nullptr && window->desk()->catalogue().find({"", "many"}) != nullptr;
  }));
  openTable("many");
  sheet()->goToRecord({Value::text(last)}, 1);
  EXPECT_TRUE(wait([&] { return view().currentIndex().row() == 59999; })) << view().currentIndex().row();
  EXPECT_EQ(1, view().currentIndex().column());
}

TEST_F(ReadingTest, ALookUpThatFailsIsToldOnceAndNotAskedAtEveryPainting) {
  db.run(
      "CREATE TABLE many (id INTEGER PRIMARY KEY, v INTEGER); INSERT INTO many WITH RECURSIVE n(i) AS (SELECT 1 UNION "
      "ALL SELECT i + 1 FROM n WHERE i < 5000) SELECT i, 1 FROM n");
  window->open(QString::fromStdString(db.path()));
  ASSERT_TRUE(wait([&] {
    return window->desk() != nullptr && window->desk()->catalogue().find({"", "many"}) != nullptr;
  }));
  openTable("many");
  ASSERT_TRUE(wait([&] { return sheet()->model().source().rows() == 5000; }));
  QSignalSpy failures(&sheet()->model().source(), &RecordSource::failed);
  db.run("DROP TABLE many");
  view().goTo(4000, 1);
  ASSERT_TRUE(wait([&] { return failures.count() > 0; }));
  for (int i = 0; i < 20; ++i) {
    view().viewport()->repaint();
    view().wantVisible();
    QTest::qWait(10);
  }
  EXPECT_EQ(1, failures.count());
}

TEST_F(ReadingTest, CodeOfTheDatabaseIsToldBeforeItRunsAndOnce) {
  const auto stage = [&](std::int64_t to) {
    const RecordRef ref{{"", "tree"}, {Value::integer(7)}, 0};
    window->desk()->staged().stageEdits("grade", {{ref, "condition", Value::integer(2), Value::integer(to)}});
  };
  openTable("tree");
  stage(3);
  key(Qt::Key_R, Qt::ControlModifier);
  EXPECT_THAT(message().toStdString(), HasSubstr("stamp on tree"));
  ASSERT_TRUE(wait([&] { return review()->review().has_value() && !review()->busy(); }));
  window->say({});
  stage(4);
  ASSERT_TRUE(wait([&] { return review()->review().has_value() && !review()->busy(); }));
  EXPECT_THAT(message().toStdString(), Not(HasSubstr("stamp on tree")));
  // Nor by the next window.
  window.reset();
  start();
  openTable("tree");
  goToReview();
  EXPECT_THAT(message().toStdString(), Not(HasSubstr("stamp on tree")));
}

}  // namespace
}  // namespace iterandum::test
