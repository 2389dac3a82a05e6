// The chain of receipts, and the filter that tells which of them may speak of a record.
#include "core/store/receipt_chain.h"

#include <gmock/gmock.h>

#include <random>
#include <thread>

#include "core/store/key_filter.h"
#include "core/store/record_history.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

using ::testing::ElementsAre;
using ::testing::HasSubstr;
using ::testing::IsEmpty;

// --- the filter

ValueTuple randomKey(std::mt19937& random) {
  ValueTuple out;
  for (unsigned parts = 1 + random() % 2; parts > 0; --parts) {
    const auto n = static_cast<std::int64_t>(random() % 100000);
    switch (random() % 4) {
      case 0:
        out.push_back(Value::integer(n));
        break;
      case 1:
        out.push_back(Value::text("QH-" + std::to_string(n)));
        break;
      case 2:
        out.push_back(Value::decimal(std::to_string(n) + ".25"));
        break;
      default:
        out.push_back(n % 7 == 0 ? Value() : Value::text(""));
    }
  }
  return out;
}

TEST(KeyFilterTest, WhatIsInItIsNeverDeniedAndLittleElseIsTakenForIt) {
  std::mt19937 random(7);
  std::size_t wrongly = 0;
  std::size_t asked = 0;
  for (const std::size_t size : {0U, 1U, 3U, 100U, 5000U}) {
    std::vector<std::uint64_t> hashes;
    std::set<std::uint64_t> held;
    for (std::size_t i = 0; i < size; ++i) {
      hashes.push_back(keyHash(randomKey(random)));
      held.insert(hashes.back());
    }
    const std::string filter = makeKeyFilter(hashes);
    EXPECT_LE(filter.size(), std::max<std::size_t>(8, 2 * size));
    for (const std::uint64_t hash : hashes) ASSERT_TRUE(mayHold(filter, hash));
    for (int i = 0; i < 4000; ++i) {
      const std::uint64_t other = keyHash({Value::text("another " + std::to_string(i))});
      if (held.contains(other)) continue;
      ++asked;
      wrongly += mayHold(filter, other) ? 1 : 0;
    }
  }
  EXPECT_LT(wrongly, asked / 400) << wrongly << " of " << asked;
}

TEST(KeyFilterTest, KeysThatAreTheSameHaveTheSameHash) {
  EXPECT_EQ(keyHash({Value::integer(2)}), keyHash({Value::decimal("2.00")}));
  EXPECT_EQ(keyHash({Value::integer(2)}), keyHash({Value::real(2.0)}));
  EXPECT_EQ(keyHash({Value::decimal("12.50")}), keyHash({Value::real(12.5)}));
  EXPECT_NE(keyHash({Value::text("2")}), keyHash({Value::integer(2)}));
  EXPECT_NE(keyHash({Value::text("a"), Value::text("bc")}), keyHash({Value::text("ab"), Value::text("c")}));
  EXPECT_NE(keyHash({Value::text("")}), keyHash({Value()}));
  std::mt19937 random(11);
  for (int i = 0; i < 2000; ++i) {
    const ValueTuple a = randomKey(random);
    const ValueTuple b = randomKey(random);
    if (!sameTuple(a, b)) continue;
    EXPECT_EQ(keyHash(a), keyHash(b));
  }
  // What is kept in files is the same in every build.
  EXPECT_EQ(makeKeyFilter({keyHash({Value::integer(4711)})}), makeKeyFilter({keyHash({Value::integer(4711)})}));
  std::string bytes;
  for (const Value& value : {Value::integer(4711), Value::text("é"), Value(), Value::decimal("0.50")}) {
    appendSameBytes(value, bytes);
  }
  EXPECT_EQ("n4:4711t2:é-0:n3:0.5", bytes);
}

// --- the chain

class ReceiptChainTest : public ::testing::Test {
 protected:
  void SetUp() override { open(); }
  void open() {
    auto opened = Store::open(path());
    ASSERT_TRUE(opened) << opened.error().text();
    store = std::move(*opened);
  }
  [[nodiscard]] std::string path() const { return folder.file("store.sqlite"); }
  static Receipt receiptOf(int number) {
    Receipt out;
    out.appliedAt = "2026-05-0" + std::to_string(1 + number % 9) + "T10:11:12Z";
    out.appliedBy = "ada";
    out.database = number % 3 == 0 ? "sqlite:/b" : "sqlite:/a";
    out.title = "Change " + std::to_string(number);
    ReceiptBlock block;
    block.table = {"", "tree"};
    block.keyColumns = {"tree_id"};
    block.columns = {"tree_id", "condition"};
    block.keys = {ValueColumn(1, Value::integer(number))};
    block.before = {ValueColumn(1, Value::integer(number)), ValueColumn(1, Value::integer(2))};
    block.after = {ValueColumn(1, Value::integer(number)), ValueColumn(1, Value::integer(3))};
    block.outcomes = {Outcome::Applied};
    block.changeIndex = {0};
    out.blocks.push_back(std::move(block));
    return out;
  }
  void keep(int number) const {
    const auto id = store->keepReceipt(receiptOf(number));
    ASSERT_TRUE(id) << id.error().text();
    ASSERT_TRUE(store->confirmReceipt(*id));
  }
  [[nodiscard]] ChainCheck check() const {
    Progress progress;
    auto done = store->checkChain(progress);
    EXPECT_TRUE(done) << done.error().text();
    return done ? *done : ChainCheck();
  }
  // Somebody else's hands on the file.
  void tamper(const std::string& sql) const {
    auto handle = SqliteHandle::open(path(), SQLITE_OPEN_READWRITE);
    ASSERT_TRUE(handle);
    const Status done = (*handle)->run(sql.c_str());
    ASSERT_TRUE(done) << done.error().text();
  }
  [[nodiscard]] std::vector<std::int64_t> historyOf(int number) const {
    std::vector<std::int64_t> out;
    const NamedRecord record{{"", "tree"}, {"tree_id"}, {Value::integer(number)}};
    EXPECT_TRUE(eachRecordChange(
        *store, "sqlite:/a", &record,
        [&](RecordChange&& change) {
          out.push_back(change.receipt);
          return true;
        },
        [](const KeptReceipt&, const std::string&) {}));
    return out;
  }

  TemporaryFolder folder;
  std::unique_ptr<Store> store;
};

TEST_F(ReceiptChainTest, WhatWasKeptAndNotTouchedHangsTogether) {
  EXPECT_EQ("no receipts are kept", inWords(check()));
  for (int i = 0; i < 12; ++i) keep(i);
  EXPECT_THAT(check().broken, IsEmpty());
  EXPECT_EQ("12 receipts, each as it was kept, since 2026-05-01T10:11:12Z", inWords(check()));
  // One whose commit failed is nobody's loss; one whose end is not known yet joins when it is.
  ASSERT_TRUE(store->dropReceipt(*store->keepReceipt(receiptOf(12))));
  const auto late = store->keepReceipt(receiptOf(13));
  keep(14);
  EXPECT_EQ(13U, check().receipts);
  ASSERT_TRUE(store->confirmReceipt(*late));
  ASSERT_TRUE(store->confirmReceipt(*late)) << "again does no harm";
  EXPECT_EQ(14U, check().receipts);
  EXPECT_THAT(check().broken, IsEmpty());
  // What is confirmed is not dropped by anybody's mistake.
  ASSERT_TRUE(store->dropReceipt(*late));
  EXPECT_EQ(14U, check().receipts);
}

TEST_F(ReceiptChainTest, WhateverIsAlteredOrMissingIsNoticedAndNamed) {
  const char* const kHands[] = {"UPDATE receipt SET title = title || '.' WHERE id = 3",
                                "UPDATE receipt SET applied_by = 'bram' WHERE id = 3",
                                "UPDATE receipt SET applied_at = '2026-01-01T00:00:00Z' WHERE id = 3",
                                "UPDATE receipt SET address = 'sqlite:/c' WHERE id = 3",
                                "UPDATE receipt SET packed = packed || x'00' WHERE id = 3",
                                "UPDATE receipt SET packed = (SELECT packed FROM receipt WHERE id = 4) WHERE id = 3",
                                "UPDATE receipt SET digest = zeroblob(32) WHERE id = 3"};
  for (int i = 0; i < 6; ++i) keep(i);
  store.reset();
  const std::string whole = folder.file("whole.sqlite");
  tamper("VACUUM INTO '" + whole + "'");
  const auto again = [&] {
    store.reset();
    for (const char* ending : {"", "-wal", "-shm"}) std::filesystem::remove(path() + ending);
    std::filesystem::copy_file(whole, path());
  };
  for (const char* hand : kHands) {
    SCOPED_TRACE(hand);
    again();
    tamper(hand);
    open();
    const ChainCheck found = check();
    ASSERT_FALSE(found.broken.empty());
    EXPECT_THAT(found.broken.front(), AllOf(HasSubstr("receipt 3 of "), HasSubstr("was altered after it was kept")));
  }
  for (const int gone : {1, 3, 6}) {
    SCOPED_TRACE(gone);
    again();
    tamper("DELETE FROM receipt WHERE id = " + std::to_string(gone));
    open();
    const ChainCheck found = check();
    ASSERT_FALSE(found.broken.empty());
    EXPECT_THAT(found.broken.front(),
                HasSubstr(gone == 6 ? "1 receipt is missing at the end" : "1 receipt is missing before receipt"));
    EXPECT_EQ(5U, found.receipts);
  }
  again();
  open();
  EXPECT_THAT(check().broken, IsEmpty());
}

TEST_F(ReceiptChainTest, SeveralProgramsKeepOneChain) {
  constexpr int kEach = 25;
  std::vector<std::thread> programs;
  for (int p = 0; p < 4; ++p) {
    programs.emplace_back([this, p] {
      auto own = Store::open(path(), std::chrono::seconds(60));
      ASSERT_TRUE(own);
      for (int i = 0; i < kEach; ++i) {
        const auto id = (*own)->keepReceipt(receiptOf(p * kEach + i));
        ASSERT_TRUE(id) << id.error().text();
        if (i % 5 == 4) {
          ASSERT_TRUE((*own)->dropReceipt(*id));
        } else {
          ASSERT_TRUE((*own)->confirmReceipt(*id));
        }
      }
    });
  }
  for (std::thread& program : programs) program.join();
  EXPECT_EQ(80U, check().receipts);
  EXPECT_THAT(check().broken, IsEmpty());
}

// A store of the version before: its receipts are hung on when it is opened, and noted when they are first asked for.
TEST_F(ReceiptChainTest, AnOlderStoreGetsItsChain) {
  for (int i = 0; i < 8; ++i) keep(i);
  const auto pending = store->keepReceipt(receiptOf(20));
  store.reset();
  tamper(
      "DROP INDEX receipt_by_seq; DROP INDEX receipt_noted; DROP INDEX receipt_heads; CREATE INDEX receipt_by_address "
      "ON receipt (address, id); ALTER TABLE receipt DROP COLUMN seq; ALTER TABLE receipt "
      "DROP COLUMN digest; ALTER "
      "TABLE receipt DROP COLUMN noted; DROP TABLE touched; DROP TABLE staged_receipt; DROP TABLE receipt_file; DELETE "
      "FROM kept; DROP TABLE staged_window; DROP TABLE staged_gone; DROP TABLE staging; DROP TABLE staged_gesture; "
      "CREATE TABLE staging (id "
      "INTEGER PRIMARY KEY AUTOINCREMENT, address TEXT NOT NULL, owner TEXT NOT NULL, position INTEGER NOT NULL); "
      "CREATE TABLE staged_gesture (log INTEGER NOT NULL, seq INTEGER NOT NULL, packed BLOB NOT NULL, PRIMARY KEY "
      "(log, seq)); PRAGMA user_version = 4");
  open();
  EXPECT_EQ(8U, check().receipts);
  EXPECT_THAT(check().broken, IsEmpty());
  EXPECT_THAT(historyOf(4), ElementsAre(5));
  const auto touched = store->touchedBy("sqlite:/a", "tree", {"tree_id"});
  ASSERT_TRUE(touched);
  EXPECT_EQ(5U, touched->noted.size()) << "those of this database that were looked at";
  EXPECT_THAT(historyOf(4), ElementsAre(5)) << "and the same again";
  ASSERT_TRUE(store->confirmReceipt(*pending));
  EXPECT_THAT(historyOf(20), ElementsAre(9));
  EXPECT_EQ(9U, check().receipts);
}

}  // namespace
}  // namespace iterandum::test
