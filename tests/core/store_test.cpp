// The store: gestures, receipts, recent databases.
#include "core/store/store.h"

#include <sys/wait.h>
#include <unistd.h>

#include <fstream>

#include "core/engines/sqlite/sqlite_handle.h"
#include "core/store/log_owner.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

// A store as it was before every window had a log, and before receipts hung in a chain.
constexpr const char* kVersionThree =
    "DROP INDEX receipt_by_seq; DROP INDEX receipt_noted; DROP INDEX receipt_heads; CREATE INDEX receipt_by_address ON "
    "receipt (address, id); ALTER TABLE receipt DROP COLUMN seq; ALTER TABLE receipt "
    "DROP COLUMN digest;"
    "ALTER TABLE receipt DROP COLUMN noted; DROP TABLE touched; DROP TABLE staged_receipt; DROP TABLE receipt_file; "
    "DROP TABLE staging; DROP "
    "TABLE staged_gesture; DROP "
    "TABLE aside;"
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
  StagedLog claim(const std::string& address) {
    auto log = store->claimStaged(address, newLogOwner());
    EXPECT_TRUE(log.has_value()) << log.error().text();
    return log ? std::move(*log) : StagedLog();
  }
  void append(std::int64_t log, std::size_t position, const std::string& title) {
    const Status kept = store->appendGesture(log, position, packGesture({title, {}}));
    EXPECT_TRUE(kept.has_value()) << kept.error().text();
  }
  static std::string titles(const StagedLog& log) {
    std::string out;
    for (const Gesture& gesture : log.gestures) out += (out.empty() ? "" : " ") + gesture.title;
    return out;
  }

  TemporaryFolder folder;
  std::unique_ptr<Store> store;
};

TEST_F(StoreTest, AGestureAfterUndoDropsWhatWasUndone) {
  const std::int64_t log = claim("a").id;
  for (const char* title : {"0", "1", "2"}) append(log, title[0] - '0', title);
  ASSERT_TRUE(store->setPosition(log, 1).has_value());
  append(log, 1, "x");
  ASSERT_TRUE(store->releaseStaged(log).has_value());
  const StagedLog again = claim("a");
  EXPECT_EQ("0 x", titles(again));
  EXPECT_EQ(2U, again.position);
}

// One log for each window: none cuts off or clears another one's.
TEST_F(StoreTest, TwoWindowsHaveEachTheirOwnLog) {
  const StagedLog first = claim("a");
  append(first.id, 0, "mine");
  const StagedLog second = claim("a");
  EXPECT_NE(first.id, second.id);
  EXPECT_EQ(1U, second.openElsewhere);
  EXPECT_EQ("", titles(second));
  append(second.id, 0, "yours");
  ASSERT_TRUE(store->replaceStaged(first.id, {}, 0).has_value());
  ASSERT_TRUE(store->releaseStaged(first.id).has_value());
  ASSERT_TRUE(store->releaseStaged(second.id).has_value());
  EXPECT_EQ("yours", titles(claim("a")));
}

TEST_F(StoreTest, WhatSeveralWindowsLeftIsTakenUpOneAfterTheOther) {
  for (const char* title : {"one", "two"}) append(*store->newStaged("a", "gone 1 1 1"), 0, title);
  const StagedLog first = claim("a");
  EXPECT_EQ("one", titles(first));
  EXPECT_EQ(1U, first.left);
  EXPECT_EQ("two", titles(claim("a")));
  EXPECT_EQ("", titles(claim("a")));
}

TEST_F(StoreTest, AGestureThatCannotBeReadIsSetAsideAndTheRestIsKept) {
  const std::int64_t log = *store->newStaged("a", "");
  append(log, 0, "one");
  ASSERT_TRUE(store->appendGesture(log, 1, "no gesture").has_value());
  append(log, 2, "three");
  const StagedLog again = claim("a");
  EXPECT_EQ("one three", titles(again));
  EXPECT_EQ(2U, again.position);
  EXPECT_EQ(1U, again.setAside);
  append(again.id, 2, "four");
  ASSERT_TRUE(store->releaseStaged(again.id).has_value());
  EXPECT_EQ("one three four", titles(claim("a")));
  auto handle = SqliteHandle::open(folder.file("store.sqlite"), SQLITE_OPEN_READWRITE);
  auto aside = (*handle)->prepare("SELECT packed FROM aside");
  ASSERT_EQ(SQLITE_ROW, aside->step());
  EXPECT_EQ("no gesture", aside->text(0));
}

TEST_F(StoreTest, AHoleIsNoticedAndFilled) {
  const std::int64_t log = claim("a").id;
  append(log, 0, "one");
  EXPECT_FALSE(store->appendGesture(log, 2, packGesture({"three", {}})).has_value());
  ASSERT_TRUE(
      store->replaceStaged(log, {packGesture({"one", {}}), packGesture({"two", {}}), packGesture({"three", {}})}, 3)
          .has_value());
  ASSERT_TRUE(store->releaseStaged(log).has_value());
  EXPECT_EQ("one two three", titles(claim("a")));
}

// A page that is damaged is an error, and not the end of what is kept.
TEST_F(StoreTest, ADamagedPageIsNoEndOfTheLog) {
  const std::int64_t log = *store->newStaged("a", "");
  for (std::size_t i = 0; i < 40; ++i) append(log, i, std::string(3000, 'g'));
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
TEST_F(StoreTest, AReceiptKnowsWhatOfTheLogItIsAbout) {
  const std::string owner = newLogOwner();
  const std::int64_t log = store->claimStaged("a", owner)->id;
  for (const char* title : {"0", "1", "2"}) append(log, title[0] - '0', title);
  Receipt receipt;
  receipt.database = "a";
  receipt.title = "two of three";
  const auto keep = [&](std::size_t gestures, bool part) {
    StagedForReceipt about{log, gestures, {}};
    if (part) about.partAndRest.emplace(Gesture{"part", {}}, Gesture{"rest", {}});
    return *store->keepReceipt(receipt, &about);
  };
  const auto written = [&] {
    std::string out;
    const auto all = store->writtenOf(log);
    for (const WrittenStaged& one : *all) {
      out += std::to_string(one.staged.gestures) + one.receipt.title;
      if (one.staged.partAndRest) out += one.staged.partAndRest->first.title + one.staged.partAndRest->second.title;
    }
    return out;
  };
  const std::int64_t first = keep(2, false);
  EXPECT_EQ("", written());
  // While its window runs the window itself will hear of it.
  EXPECT_TRUE(store->undecidedReceipts("a")->empty());
  ASSERT_TRUE(store->confirmReceipt(first).has_value());
  EXPECT_EQ("2two of three", written());
  append(log, 3, "3");
  ASSERT_TRUE(store->setPosition(log, 2).has_value());
  EXPECT_EQ("2two of three", written());
  ASSERT_TRUE(store->setPosition(log, 1).has_value());
  EXPECT_EQ("", written());

  append(log, 1, "1");
  const std::int64_t second = keep(2, true);
  ASSERT_TRUE(store->confirmReceipt(second).has_value());
  EXPECT_EQ("2two of threepartrest", written());
  ASSERT_TRUE(store->releaseStaged(log).has_value());
  EXPECT_EQ(1U, store->claimStaged("a", owner)->written.size());
  ASSERT_TRUE(store->replaceStaged(log, {}, 0).has_value());
  EXPECT_EQ("", written());

  append(log, 0, "0");
  const std::int64_t third = keep(1, false);
  ASSERT_TRUE(store->releaseStaged(log).has_value());
  EXPECT_EQ(std::vector<std::int64_t>{third}, *store->undecidedReceipts("a"));
  EXPECT_EQ(std::vector<std::int64_t>{third}, *store->undecidedOf(log));
  EXPECT_TRUE(store->undecidedReceipts("b")->empty());
  ASSERT_TRUE(store->dropReceipt(third).has_value());
  EXPECT_TRUE(store->undecidedReceipts("a")->empty());
}

TEST_F(StoreTest, RecentDatabasesKnowOfStagedWork) {
  ASSERT_TRUE(store->rememberDatabase("sqlite:/a", "a").has_value());
  ASSERT_TRUE(store->rememberDatabase("sqlite:/b", "b").has_value());
  append(claim("sqlite:/a").id, 0, "x");
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
  const StagedLog log = claim("sqlite:/a");
  EXPECT_EQ("kept kept", titles(log));
  EXPECT_EQ(1U, log.position);
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
