// The store: gestures, receipts, recent databases.
#include "core/store/store.h"

#include <sys/wait.h>
#include <unistd.h>

#include <fstream>

#include "core/engines/sqlite/sqlite_handle.h"
#include "support/log_hand.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

// A store as it was before every window had a log, and before receipts hung in a chain.
constexpr const char* kVersionThree =
    "DROP INDEX receipt_by_seq; DROP INDEX receipt_noted; DROP INDEX receipt_heads; CREATE INDEX receipt_by_address ON "
    "receipt (address, id); ALTER TABLE receipt DROP COLUMN seq; ALTER TABLE receipt "
    "DROP COLUMN digest;"
    "ALTER TABLE receipt DROP COLUMN noted; DROP TABLE touched; DROP TABLE staged_receipt; DROP TABLE receipt_file; "
    "DROP TABLE staging; DROP TABLE staged_window; DROP TABLE staged_gone; DROP TABLE staged_gesture; DROP TABLE aside;"
    "CREATE TABLE gesture (address TEXT NOT NULL, seq INTEGER NOT NULL, packed BLOB NOT NULL, PRIMARY KEY (address, "
    "seq));"
    "CREATE TABLE staged (address TEXT PRIMARY KEY, position INTEGER NOT NULL) WITHOUT ROWID;";

class StoreTest : public ::testing::Test {
 protected:
  void SetUp() override {
    auto opened = Store::open(folder.file("store.sqlite"));
    ASSERT_TRUE(opened.has_value()) << opened.error().text();
    store = std::move(*opened);
  }
  LogHand hand(const std::string& address = "a") { return {*store, address}; }
  LogHand handWith(const std::vector<std::string>& titles) {
    LogHand out = hand();
    for (const std::string& title : titles) out.stage(title);
    out.send();
    return out;
  }
  Status run(const std::string& sql) {
    auto handle = SqliteHandle::open(folder.file("store.sqlite"), SQLITE_OPEN_READWRITE);
    return (*handle)->run(sql);
  }

  TemporaryFolder folder;
  std::unique_ptr<Store> store;
};

TEST_F(StoreTest, AGestureAfterUndoDropsWhatWasUndone) {
  LogHand first = handWith({"0", "1", "2"});
  first.undo(), first.undo();
  first.send();
  EXPECT_EQ("1 2", hand().undone());
  first.stage("x");
  first.send();
  first.release();
  EXPECT_EQ("0 x", hand().done());
  EXPECT_EQ("", hand().undone());
}

// One log for all windows: what one stages or undoes is so in the others, and none cuts off what another one did.
TEST_F(StoreTest, WindowsShareTheLogOfADatabase) {
  LogHand first = handWith({"mine"});
  LogHand second = hand();
  EXPECT_EQ(1U, second.claimed.others.size());
  EXPECT_NE(first.claimed.window, second.claimed.window);
  EXPECT_EQ("mine", second.done());
  second.stage("yours");
  second.send();
  first.stage("mine too");  // knowing nothing of it
  first.send();
  EXPECT_EQ("mine yours mine too", first.done());
  second.undo();  // yours, which is not the last any more
  second.send();
  EXPECT_EQ("mine mine too", second.done());
  EXPECT_EQ("mine yours mine too", first.done());
  first.read();
  EXPECT_EQ("mine mine too", first.done());
  EXPECT_EQ("", LogHand(*store, "another database").done());
}

// While a window applies, others add to what is staged, and take nothing of it away.
TEST_F(StoreTest, WhatIsBeingAppliedIsHeld) {
  LogHand first = handWith({"one", "two"});
  LogHand second = hand();
  ASSERT_TRUE(first.hold().has_value());
  EXPECT_EQ(ErrorKind::LockTimeout, second.hold().error().kind);
  second.undo(), second.undo();
  second.stage("three");
  second.send();
  EXPECT_EQ("one two three", second.done());
  second.undo();
  second.send();
  EXPECT_EQ("one two", second.done());
  second.stage("four");
  second.send();
  const std::vector<GestureId> before = first.order().done;
  first.replace({});
  EXPECT_FALSE(first.sendReplaced(before)) << "something came behind it";
  first.read();
  EXPECT_EQ("one two four", first.done());
  const std::vector<GestureId> now = first.order().done;
  first.replace({"four, rewritten"});
  EXPECT_TRUE(first.sendReplaced(now));
  second.read();
  EXPECT_EQ("four, rewritten", second.done());
  EXPECT_TRUE(second.hold().has_value());
}

TEST_F(StoreTest, OnlyWhatIsStagedByAllIsApplied) {
  LogHand first = handWith({"one", "two"});
  LogHand second = hand();
  second.stage("three");
  second.send();
  EXPECT_TRUE(first.hold().has_value()) << "what came behind it is none of its business";
  ASSERT_TRUE(first.letGo().has_value());
  second.undo(), second.undo();
  second.send();
  EXPECT_EQ(ErrorKind::TryAgain, first.hold().error().kind);
}

TEST_F(StoreTest, AWindowThatDiedHoldsNothing) {
  LogHand first = handWith({"one"});
  ASSERT_TRUE(first.hold().has_value());
  ASSERT_TRUE(
      run("UPDATE staging SET holder = 'gone 1 1 1'; UPDATE staged_window SET owner = 'gone 1 1 1'").has_value());
  LogHand second = hand();
  EXPECT_EQ(0U, second.claimed.others.size());
  EXPECT_EQ("one", second.done());
  EXPECT_TRUE(second.hold().has_value());
}

// Whoever had not heard that something was applied does not bring it again.
TEST_F(StoreTest, WhatWasAppliedDoesNotComeAgain) {
  LogHand first = handWith({"one", "two", "three"});
  LogHand second = hand();
  ASSERT_TRUE(first.hold().has_value());
  // Undone, which is refused, and done again when it is applied already.
  second.undo(), second.undo();
  StagedView undoing = second.view();
  ASSERT_TRUE(store->mergeStaged(second.claimed.id, second.owner(), undoing).has_value());
  const std::vector<GestureId> before = first.order().done;
  first.replace({});
  ASSERT_TRUE(first.sendReplaced(before));
  second.redo(), second.redo();
  StagedView again = second.view();
  again.known = undoing.wanted.done;
  const auto state = store->mergeStaged(second.claimed.id, second.owner(), again);
  ASSERT_TRUE(state.has_value());
  EXPECT_TRUE(state->order.done.empty());
}

// Also where whoever started it has not asked after it.
TEST_F(StoreTest, AProcessThatEndedRunsNoMore) {
  EXPECT_TRUE(logOwnerRuns(newLogOwner()));
  int ends[2];
  ASSERT_EQ(0, pipe(ends));
  const pid_t child = fork();
  if (child == 0) {
    const std::string owner = newLogOwner();
    _exit(write(ends[1], owner.data(), owner.size()) > 0 ? 0 : 1);
  }
  char name[200] = {};
  ASSERT_GT(read(ends[0], name, sizeof name - 1), 0);
  siginfo_t ended{};
  ASSERT_EQ(0, waitid(P_PID, static_cast<id_t>(child), &ended, WEXITED | WNOWAIT));
  EXPECT_FALSE(logOwnerRuns(name));
  waitpid(child, nullptr, 0);
  EXPECT_FALSE(logOwnerRuns(name));
  close(ends[0]), close(ends[1]);
}

// Of a time when each window had its own.
TEST_F(StoreTest, WhatSeveralWindowsLeftIsTakenUpOneAfterTheOther) {
  handWith({"one"}).release();
  ASSERT_TRUE(run("INSERT INTO staging (address, position) VALUES ('a', 1); INSERT INTO staged_gesture SELECT 99, seq, "
                  "id + 1, packed FROM staged_gesture; UPDATE staged_gesture SET log = (SELECT max(id) FROM staging) "
                  "WHERE log = 99")
                  .has_value());
  LogHand first = hand();
  EXPECT_EQ("one", first.done());
  EXPECT_EQ(1U, first.claimed.left);
  EXPECT_EQ(first.claimed.id, hand().claimed.id) << "a second window has what the first has";
  ASSERT_TRUE(run("DELETE FROM staged_window").has_value());
  const std::vector<GestureId> before = first.order().done;
  first.replace({});
  ASSERT_TRUE(first.sendReplaced(before));
  first.release();
  LogHand next = hand();
  EXPECT_EQ("one", next.done());
  EXPECT_EQ(0U, next.claimed.left);
}

TEST_F(StoreTest, AGestureThatCannotBeReadIsSetAsideAndTheRestIsKept) {
  handWith({"one", "two", "three"}).release();
  ASSERT_TRUE(run("UPDATE staged_gesture SET packed = x'6e6f' WHERE seq = 1").has_value());
  LogHand again = hand();
  EXPECT_EQ("one three", again.done());
  EXPECT_EQ(1U, again.claimed.setAside);
  again.stage("four");
  again.send();
  again.release();
  EXPECT_EQ("one three four", hand().done());
  auto handle = SqliteHandle::open(folder.file("store.sqlite"), SQLITE_OPEN_READWRITE);
  auto aside = (*handle)->prepare("SELECT packed FROM aside");
  ASSERT_EQ(SQLITE_ROW, aside->step());
  EXPECT_EQ("no", aside->text(0));
}

TEST_F(StoreTest, AHoleIsNoticedAndFilled) {
  LogHand one = hand();
  one.stage("one"), one.stage("two"), one.stage("three");
  StagedView view = one.view();
  view.packed.erase(one.order().done[1]);
  EXPECT_FALSE(store->mergeStaged(one.claimed.id, one.owner(), view).has_value());
  EXPECT_EQ("", hand().done()) << "half of it was kept";
  one.send();
  EXPECT_EQ("one two three", hand().done());
}

// A page that is damaged is an error, and not the end of what is kept.
TEST_F(StoreTest, ADamagedPageIsNoEndOfTheLog) {
  handWith(std::vector<std::string>(40, std::string(3000, 'g'))).release();
  store.reset();
  {
    auto handle = SqliteHandle::open(folder.file("store.sqlite"), SQLITE_OPEN_READWRITE);
    ASSERT_TRUE((*handle)->run("PRAGMA wal_checkpoint(TRUNCATE)").has_value());
  }
  {
    std::fstream file(folder.file("store.sqlite"), std::ios::in | std::ios::out | std::ios::binary);
    file.seekg(0, std::ios::end);
    const auto pages = file.tellg() / 4096;
    // The pages of the gestures' texts, which overflow, are the last ones written; one of the leaves is broken.
    for (std::streamoff page = pages / 2; page < pages / 2 + 8; ++page) {
      file.seekp(page * 4096);
      file.write("\xFF\xFF\xFF\xFF\xFF\xFF\xFF\xFF", 8);
    }
  }
  store = std::move(*Store::open(folder.file("store.sqlite")));
  const auto claimed = store->claimStaged("a", newLogOwner());
  EXPECT_TRUE(!claimed || claimed->gestures.size() + claimed->setAside == 40)
      << claimed->gestures.size() << " of 40 came back as if they were all";
}

TEST_F(StoreTest, ManyProcessesMakeABrandNewStoreAtOnce) {
  const std::string path = folder.file("new/store.sqlite");
  std::vector<pid_t> children;
  for (int i = 0; i < 16; ++i) {
    const pid_t child = fork();
    if (child == 0) {
      auto opened = Store::open(path);
      Receipt receipt;
      const bool kept = opened && (*opened)->keepReceipt(receipt);
      _exit(kept ? 0 : 1);
    }
    children.push_back(child);
  }
  for (const pid_t child : children) {
    int status = 0;
    waitpid(child, &status, 0);
    EXPECT_EQ(0, status);
  }
  auto opened = Store::open(path);
  ASSERT_TRUE(opened.has_value());
  EXPECT_EQ(16U, (*opened)->receipts("")->size());
}

TEST_F(StoreTest, ReceiptsArePendingUntilConfirmed) {
  Receipt receipt;
  receipt.database = "sqlite:/x";
  receipt.title = "Re-grade";
  receipt.appliedAt = "2026-11-25T00:00:00Z";
  const auto first = store->keepReceipt(receipt);
  const auto second = store->keepReceipt(receipt);
  ASSERT_TRUE(first && second);
  ASSERT_TRUE(store->confirmReceipt(*first).has_value());
  const auto kept = store->receipts("sqlite:/x");
  ASSERT_EQ(2U, kept->size());
  EXPECT_TRUE((*kept)[0].pending);
  EXPECT_FALSE((*kept)[1].pending);
  ASSERT_TRUE(store->dropReceipt(*second).has_value());
  EXPECT_EQ(1U, store->receipts("")->size());
  EXPECT_EQ("Re-grade", store->receipt(*first)->title);
  EXPECT_FALSE(store->receipt(99).has_value());
}

// A receipt says which gestures it is about for as long as they are the first of the log.
class LinkedReceiptTest : public StoreTest {
 protected:
  std::int64_t keep(const LogHand& hand, std::size_t gestures, bool part = false) {
    Receipt receipt;
    receipt.database = "a";
    receipt.title = "receipt";
    StagedForReceipt about{hand.claimed.id, gestures, {}};
    if (part) about.partAndRest.emplace(Gesture{"part", {}}, Gesture{"rest", {}});
    return *store->keepReceipt(receipt, &about);
  }
  std::string written(const LogHand& hand) {
    std::string out;
    const auto all = store->writtenOf(hand.claimed.id);
    for (const WrittenStaged& one : *all) {
      out += std::to_string(one.staged.gestures) + " " + one.receipt.title;
      if (one.staged.partAndRest)
        out += " " + one.staged.partAndRest->first.title + " " + one.staged.partAndRest->second.title;
    }
    return out;
  }
  std::size_t undecided() { return store->undecidedReceipts("a")->size(); }
};

TEST_F(LinkedReceiptTest, AReceiptKnowsWhatOfTheLogItIsAbout) {
  LogHand log = handWith({"0", "1", "2"});
  ASSERT_TRUE(log.hold().has_value());
  const std::int64_t first = keep(log, 2);
  EXPECT_EQ("", written(log));
  EXPECT_EQ(0U, undecided()) << "the window that applies it will hear of it";
  EXPECT_TRUE(hand().claimed.written.empty());
  ASSERT_TRUE(store->confirmReceipt(first).has_value());
  EXPECT_EQ("2 receipt", written(log));
  EXPECT_TRUE(hand().claimed.written.empty()) << "nor is it told of what another window is about to take out";
  ASSERT_TRUE(log.letGo().has_value());
  LogHand other = hand();
  EXPECT_EQ(1U, other.claimed.written.size());
  EXPECT_EQ(ErrorKind::TryAgain, other.hold().error().kind) << "it would be written twice";
  log.stage("3");
  log.undo(), log.undo();
  log.send();
  EXPECT_EQ("2 receipt", written(log));
  log.undo();
  log.send();
  EXPECT_EQ("", written(log));
}

TEST_F(LinkedReceiptTest, WhatWasTakenOutForItIsItsNoMore) {
  LogHand log = handWith({"0", "1"});
  ASSERT_TRUE(store->confirmReceipt(keep(log, 2, true)).has_value());
  EXPECT_EQ("2 receipt part rest", written(log));
  const std::vector<GestureId> before = log.order().done;
  log.replace({"rest"});
  ASSERT_TRUE(log.sendReplaced(before));
  EXPECT_EQ("", written(log));
}

TEST_F(LinkedReceiptTest, NobodyKnowsWhatAWindowThatDiedHadWritten) {
  LogHand log = handWith({"0"});
  ASSERT_TRUE(log.hold().has_value());
  const std::int64_t id = keep(log, 1);
  EXPECT_EQ(0U, undecided());
  ASSERT_TRUE(run("UPDATE staging SET holder = 'gone 1 1 1'").has_value());
  EXPECT_EQ(std::vector<std::int64_t>{id}, *store->undecidedReceipts("a"));
  EXPECT_EQ(std::vector<std::int64_t>{id}, *store->undecidedOf(log.claimed.id));
  EXPECT_TRUE(store->undecidedReceipts("b")->empty());
  ASSERT_TRUE(store->dropReceipt(id).has_value());
  EXPECT_EQ(0U, undecided());
}

TEST_F(StoreTest, RecentDatabasesKnowOfStagedWork) {
  ASSERT_TRUE(store->rememberDatabase("sqlite:/a", "a").has_value());
  ASSERT_TRUE(store->rememberDatabase("sqlite:/b", "b").has_value());
  LogHand log = hand("sqlite:/a");
  log.stage("x");
  log.send();
  const auto recent = store->recentDatabases();
  ASSERT_EQ(2U, recent->size());
  EXPECT_EQ(
      1, std::count_if(recent->begin(), recent->end(), [](const RecentDatabase& r) { return r.stagedGestures == 1; }));
  ASSERT_TRUE(store->forgetDatabase("sqlite:/a").has_value());
  EXPECT_EQ(1U, store->recentDatabases()->size());
}

TEST_F(StoreTest, MarksAreKeptAndAnOlderStoreLearnsThem) {
  ASSERT_TRUE(store->rememberDatabase("sqlite:/a", "a").has_value());
  store.reset();
  {
    auto handle = SqliteHandle::open(folder.file("store.sqlite"), SQLITE_OPEN_READWRITE);
    ASSERT_TRUE((*handle)
                    ->run(std::string("DROP TABLE mark; DROP TABLE kept;") + kVersionThree + "PRAGMA user_version = 1")
                    .has_value());
  }
  store = std::move(*Store::open(folder.file("store.sqlite")));
  EXPECT_EQ(DatabaseMark(), *store->mark("sqlite:/a"));
  ASSERT_TRUE(store->setMark("sqlite:/a", {"live", "red", true}).has_value());
  EXPECT_EQ((DatabaseMark{"live", "red", true}), *store->mark("sqlite:/a"));
  EXPECT_EQ("live", store->recentDatabases()->front().mark.name);
}

TEST_F(StoreTest, AStoreOfTheVersionBeforeKeepsWhatIsInIt) {
  ASSERT_TRUE(store->rememberDatabase("sqlite:/a", "a").has_value());
  ASSERT_TRUE(store->setMark("sqlite:/a", {"live", "red", true}).has_value());
  store.reset();
  {
    auto handle = SqliteHandle::open(folder.file("store.sqlite"), SQLITE_OPEN_READWRITE);
    ASSERT_TRUE(
        (*handle)->run(std::string("DROP TABLE kept;") + kVersionThree + "PRAGMA user_version = 2").has_value());
    auto add = (*handle)->prepare("INSERT INTO gesture VALUES ('sqlite:/a', 4, ?1), ('sqlite:/a', 5, ?1)");
    const std::string packed = packGesture({"kept", {}});
    add->bindBlob(1, packed);
    ASSERT_EQ(SQLITE_DONE, add->step());
    ASSERT_TRUE((*handle)->run("INSERT INTO staged VALUES ('sqlite:/a', 1)").has_value());
  }
  store = std::move(*Store::open(folder.file("store.sqlite")));
  EXPECT_EQ("live", store->mark("sqlite:/a")->name);
  const LogHand log = hand("sqlite:/a");
  EXPECT_EQ("kept", log.done());
  EXPECT_EQ("kept", log.undone());
  EXPECT_TRUE(store->scopes("sqlite:/a")->empty());
  EXPECT_TRUE(store->saveScope("sqlite:/a", {"x", {"tree", {}, {}, {}}}).has_value());
}

TEST_F(StoreTest, ScopesAreKeptByNameForEachDatabase) {
  Scope harbour{
      "tree", {{"street.name", "Harbour"}, {"", "no inspection"}}, {{"tag", true, true}}, {"tag", "street.name"}};
  ASSERT_TRUE(store->saveScope("sqlite:/a", {"Harbour", harbour}).has_value());
  ASSERT_TRUE(store->saveScope("sqlite:/a", {"All", {"tree", {}, {}, {}}}).has_value());
  ASSERT_TRUE(store->saveScope("sqlite:/b", {"Harbour", {"crew", {}, {}, {}}}).has_value());
  const auto kept = store->scopes("sqlite:/a");
  ASSERT_EQ(2U, kept->size());
  EXPECT_EQ("All", (*kept)[0].name);
  EXPECT_EQ(harbour, (*kept)[1].scope);
  ASSERT_TRUE(store->forgetScope("sqlite:/a", "Harbour").has_value());
  EXPECT_EQ(1U, store->scopes("sqlite:/a")->size());
  EXPECT_EQ(1U, store->scopes("sqlite:/b")->size());
}

TEST_F(StoreTest, StatedReferencesAndReadableColumnsAreKept) {
  const StatedReference reference{{"", "log"}, "tree no", {"s", "tree"}, "tree_id"};
  ASSERT_TRUE(store->stateReference("sqlite:/a", reference).has_value());
  EXPECT_EQ(std::vector{reference}, *store->statedReferences("sqlite:/a"));
  EXPECT_TRUE(store->statedReferences("sqlite:/b")->empty());
  ASSERT_TRUE(store->forgetReference("sqlite:/a", reference).has_value());
  EXPECT_TRUE(store->statedReferences("sqlite:/a")->empty());
  ASSERT_TRUE(store->chooseReadable("sqlite:/a", "tree", {"tag", "note"}).has_value());
  EXPECT_EQ((std::vector<std::string>{"tag", "note"}), store->readableChoices("sqlite:/a")->at("tree"));
  ASSERT_TRUE(store->chooseReadable("sqlite:/a", "tree", {}).has_value());
  EXPECT_TRUE(store->readableChoices("sqlite:/a")->empty());
}

TEST_F(StoreTest, AStoreOfANewerVersionIsLeftAlone) {
  store.reset();
  auto handle = SqliteHandle::open(folder.file("store.sqlite"), SQLITE_OPEN_READWRITE);
  ASSERT_TRUE((*handle)->run("PRAGMA user_version = 9").has_value());
  const auto opened = Store::open(folder.file("store.sqlite"));
  ASSERT_FALSE(opened.has_value());
  EXPECT_THAT(opened.error().message, ::testing::HasSubstr("newer version"));
}

TEST_F(StoreTest, APlaceThatCannotBeWrittenIsNamed) {
  const auto opened = Store::open("/proc/nowhere/store.sqlite");
  ASSERT_FALSE(opened.has_value());
  EXPECT_EQ(ErrorKind::InvalidFile, opened.error().kind);
}

}  // namespace
}  // namespace iterandum::test
