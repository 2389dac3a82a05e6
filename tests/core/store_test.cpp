// The store: gestures, receipts, recent databases.
#include "core/store/store.h"

#include "core/engines/sqlite/sqlite_handle.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

class StoreTest : public ::testing::Test {
 protected:
  void SetUp() override {
    auto opened = Store::open(folder.file("store.sqlite"));
    ASSERT_TRUE(opened.has_value()) << opened.error().text();
    store = std::move(*opened);
  }
  TemporaryFolder folder;
  std::unique_ptr<Store> store;
};

TEST_F(StoreTest, AGestureAfterUndoDropsWhatWasUndone) {
  for (std::size_t i = 0; i < 3; ++i)
    ASSERT_TRUE(store->appendGesture("a", i, std::string(1, static_cast<char>('0' + i))).has_value());
  ASSERT_TRUE(store->setPosition("a", 1).has_value());
  ASSERT_TRUE(store->appendGesture("a", 1, "x").has_value());
  ASSERT_TRUE(store->appendGesture("b", 0, "other").has_value());
  const auto work = store->stagedWork("a");
  ASSERT_TRUE(work.has_value());
  EXPECT_EQ((std::vector<std::string>{"0", "x"}), work->gestures);
  EXPECT_EQ(2U, work->position);
  ASSERT_TRUE(store->clearStaged("a").has_value());
  EXPECT_TRUE(store->stagedWork("a")->gestures.empty());
  EXPECT_EQ(1U, store->stagedWork("b")->gestures.size());
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

TEST_F(StoreTest, RecentDatabasesKnowOfStagedWork) {
  ASSERT_TRUE(store->rememberDatabase("sqlite:/a", "a").has_value());
  ASSERT_TRUE(store->rememberDatabase("sqlite:/b", "b").has_value());
  ASSERT_TRUE(store->appendGesture("sqlite:/a", 0, "x").has_value());
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
    ASSERT_TRUE((*handle)->run("DROP TABLE mark; DROP TABLE kept; PRAGMA user_version = 1").has_value());
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
  ASSERT_TRUE(store->appendGesture("sqlite:/a", 0, "packed").has_value());
  store.reset();
  {
    auto handle = SqliteHandle::open(folder.file("store.sqlite"), SQLITE_OPEN_READWRITE);
    ASSERT_TRUE((*handle)->run("DROP TABLE kept; PRAGMA user_version = 2").has_value());
  }
  store = std::move(*Store::open(folder.file("store.sqlite")));
  EXPECT_EQ("live", store->mark("sqlite:/a")->name);
  EXPECT_EQ(1U, store->stagedWork("sqlite:/a")->gestures.size());
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
