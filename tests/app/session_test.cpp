// The threads behind the window: order, hand-over, cancelling, and ends that come early.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <QCoreApplication>
#include <QObject>
#include <QTest>
#include <atomic>

#include "app/records/record_source.h"
#include "app/session/desk.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

TEST(SessionTest, TasksRunInOrderAndResultsComeOnTheInterfaceThread) {
  TaskThread thread;
  QObject receiver;
  std::vector<int> order;
  for (int i = 0; i < 50; ++i) {
    thread.post(
        &receiver, [i](Progress&) { return i; },
        [&](int&& result) {
          EXPECT_EQ(QCoreApplication::instance()->thread(), QThread::currentThread());
          order.push_back(result);
        });
  }
  ASSERT_TRUE(QTest::qWaitFor([&] { return order.size() == 50; }));
  EXPECT_TRUE(std::is_sorted(order.begin(), order.end()));
}

TEST(SessionTest, WhatIsIdleMakesWayAndIsBegunAgain) {
  TaskThread thread;
  QObject receiver;
  std::vector<std::string> order;
  std::atomic<int> begun{0};
  for (const char* name : {"first", "second"}) {
    thread.postIdle(
        &receiver,
        [&begun](Progress& progress) -> Result<int> {
          if (++begun > 1) return 7;
          while (!progress.cancelled()) QThread::msleep(1);
          return fail(ErrorKind::Cancelled, "it was stopped");
        },
        [&order, name](Result<int>&& result) { order.push_back(name + std::string(result ? " there" : " stopped")); });
  }
  while (begun == 0) QThread::msleep(1);
  for (int i = 0; i < 3; ++i) {
    thread.post(
        &receiver, [](Progress&) { return true; }, [&order](bool&&) { order.emplace_back("asked"); });
  }
  ASSERT_TRUE(QTest::qWaitFor([&] { return order.size() == 5; }));
  EXPECT_THAT(order, ::testing::ElementsAre("asked", "asked", "asked", "first there", "second there"));
  EXPECT_EQ(3, begun);
}

TEST(SessionTest, WhatIsIdleEndsWhenAllIsStoppedOrNobodyWaits) {
  TaskThread thread;
  std::atomic<int> begun{0};
  std::atomic<int> ended{0};
  int told = 0;
  const auto until = [&](Progress& progress) -> Result<int> {
    ++begun;
    while (!progress.cancelled()) QThread::msleep(1);
    ++ended;
    return fail(ErrorKind::Cancelled, "it was stopped");
  };
  const auto tell = [&](Result<int>&&) { ++told; };
  QObject receiver;
  thread.postIdle(&receiver, until, tell);
  while (begun < 1) QThread::msleep(1);
  thread.cancelAll();
  ASSERT_TRUE(QTest::qWaitFor([&] { return told == 1; })) << "stopped, and not begun again";
  EXPECT_EQ(1, begun);
  {
    QObject leaves;
    thread.postIdle(&leaves, until, tell);
    while (begun < 2) QThread::msleep(1);
  }
  // Its place is taken by the next one.
  thread.postIdle(&receiver, until, tell);
  while (begun < 3) QThread::msleep(1);
  EXPECT_EQ(2, ended);
  EXPECT_EQ(1, told);
}

TEST(SessionTest, AReceiverThatIsGoneGetsNothing) {
  TaskThread thread;
  std::atomic<bool> ran{false};
  bool called = false;
  {
    QObject receiver;
    thread.post(
        &receiver,
        [&](Progress&) {
          ran = true;
          return 1;
        },
        [&](int&&) { called = true; });
    while (!ran) QThread::msleep(1);
  }
  QTest::qWait(20);
  EXPECT_FALSE(called);
}

TEST(SessionTest, EndingStopsWhatRunsAndDropsWhatWaits) {
  std::atomic<int> finished{0};
  QObject receiver;
  {
    TaskThread thread;
    for (int i = 0; i < 5; ++i) {
      thread.post(
          &receiver,
          [&](Progress& progress) {
            while (!progress.cancelled()) QThread::msleep(1);
            return ++finished;
          },
          [](int&&) {});
    }
    QThread::msleep(20);
  }
  EXPECT_GE(1, finished.load());
}

TEST(SessionTest, AStoreThreadFinishesBeforeItEnds) {
  std::atomic<int> kept{0};
  QObject receiver;
  {
    TaskThread thread;
    thread.finishBeforeEnd();
    for (int i = 0; i < 20; ++i) {
      thread.post(
          &receiver,
          [&](Progress&) {
            QThread::msleep(1);
            return ++kept;
          },
          [](int&&) {});
    }
  }
  EXPECT_EQ(20, kept.load());
}

TEST(SessionTest, ALongQueryIsCancelledAndTheSessionLivesOn) {
  TestDatabase db(
      "CREATE TABLE n (i INTEGER PRIMARY KEY); WITH RECURSIVE n2(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n2 WHERE "
      "i < 3000) INSERT INTO n SELECT i FROM n2;"
      "CREATE VIEW endless AS SELECT a.i + b.i + c.i AS x FROM n a, n b, n c");
  DatabaseSession session;
  QObject receiver;
  std::shared_ptr<const Catalogue> catalogue;
  session.open(&receiver, db.path(), {}, [&](Result<DatabaseSession::Opened>&& opened) {
    ASSERT_TRUE(opened.has_value());
    catalogue = opened->catalogue;
  });
  ASSERT_TRUE(QTest::qWaitFor([&] { return catalogue != nullptr; }));
  std::optional<ErrorKind> ended;
  std::optional<std::uint64_t> small;
  const auto progress = session.post(
      &receiver,
      [&](Session& s, Progress& p) {
        Query query;
        query.table = catalogue->find({"", "endless"});
        return s.count(query, p);
      },
      [&](Result<std::uint64_t>&& n) { ended = n ? ErrorKind::Internal : n.error().kind; });
  QTest::qWait(50);
  EXPECT_FALSE(ended.has_value());
  progress->cancel();
  ASSERT_TRUE(QTest::qWaitFor([&] { return ended.has_value(); }, 2000));
  EXPECT_EQ(ErrorKind::Cancelled, *ended);
  session.post(
      &receiver,
      [&](Session& s, Progress& p) {
        Query query;
        query.table = catalogue->find({"", "n"});
        return s.count(query, p);
      },
      [&](Result<std::uint64_t>&& n) { small = n.value_or(0); });
  ASSERT_TRUE(QTest::qWaitFor([&] { return small.has_value(); }));
  EXPECT_EQ(3000U, *small);
}

// A source over many records: every row can be had, by key, with little kept in memory.
TEST(SessionTest, ASourceShowsAnyRowOfManyRecords) {
  TestDatabase db(
      "CREATE TABLE n (i INTEGER PRIMARY KEY, t TEXT); WITH RECURSIVE n2(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM "
      "n2 WHERE i < 60000) INSERT INTO n SELECT i * 3, 'row ' || i FROM n2");
  Desk desk(std::make_shared<StoreThread>(db.file("store.sqlite")));
  bool opened = false;
  QObject::connect(&desk, &Desk::opened, [&] { opened = true; });
  desk.open(db.path());
  ASSERT_TRUE(QTest::qWaitFor([&] { return opened; }));
  RecordSource source(desk, *desk.catalogue().find({"", "n"}));
  Condition even;
  source.read(even, {{"t", true}});
  ASSERT_TRUE(QTest::qWaitFor([&] { return source.complete() && !source.reading(); }));
  EXPECT_EQ(60000, source.rows());
  for (const int row : {0, 59999, 30000, 12345}) {
    source.want(row, row);
    ASSERT_TRUE(QTest::qWaitFor([&] { return source.record(row) != nullptr; })) << row;
    EXPECT_TRUE(sameTuple(source.key(row), {(*source.record(row))[0]}));
  }
  EXPECT_GT(10U * 60000, source.memoryBytes());
  db.run("DELETE FROM n WHERE i = " + canonicalText(source.key(777)[0]));
  source.want(777, 777);
  ASSERT_TRUE(QTest::qWaitFor([&] { return source.isGone(777); }));
}

}  // namespace
}  // namespace iterandum::test
