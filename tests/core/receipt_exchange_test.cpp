// Receipts that leave one desk and are taken in on another.
#include "core/store/receipt_exchange.h"

#include <gmock/gmock.h>

#include <random>
#include <sstream>

#include "core/store/receipt_keeper.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

using ::testing::AnyOf;
using ::testing::HasSubstr;
using ::testing::IsEmpty;

class ReceiptExchangeTest : public EngineTest {
 protected:
  struct Desk {
    TemporaryFolder folder;
    std::unique_ptr<Store> store;
    Desk() {
      auto opened = Store::open(folder.file("store.sqlite"));
      EXPECT_TRUE(opened);
      store = std::move(*opened);
    }
    [[nodiscard]] std::vector<std::string> receipts(const std::string& address) const {
      std::vector<std::string> out;
      const auto kept = store->receipts(address);
      EXPECT_TRUE(kept);
      for (const KeptReceipt& one : *kept) out.push_back(receiptJson(*store->receipt(one.id)));
      return out;
    }
    [[nodiscard]] std::string written(const std::string& address) const {
      std::string out;
      Progress progress;
      const auto count = exportReceipts(
          *store, address,
          [&](std::string_view piece) {
            out += piece;
            return Status();
          },
          progress);
      EXPECT_TRUE(count) << count.error().text();
      return out;
    }
    [[nodiscard]] Result<ImportedReceipts> takeIn(const std::string& address, const std::string& content) const {
      Progress progress;
      return importReceipts(
          *store, address,
          [&]() -> Result<std::unique_ptr<std::istream>> { return std::make_unique<std::istringstream>(content); },
          progress);
    }
    [[nodiscard]] ChainCheck check() const {
      Progress progress;
      return *store->checkChain(progress);
    }
  };

  void apply(const std::string& lines) {
    StoreReceiptKeeper keeper(*here.store);
    ApplyOptions options;
    options.appliedBy = "ada";
    options.keeper = &keeper;
    Progress progress;
    ChangeList list = TestDatabase::changes(lines);
    list.title = "\"Änderung\"\n" + lines;
    const auto result = applyChanges(db.session(), db.catalogue(), list, options, progress);
    ASSERT_TRUE(result) << result.error().text();
    ASSERT_TRUE(result->receipt) << findingsText(result->review);
  }
  void applySome() {
    apply("edit tree tree_id=7 condition:2->3");
    apply("add species name=\"yew\" @new\nedit tree tree_id=8 species_id->{\"ref\":\"new\"}");
    apply("remove tree tree_id=9");  // with what hangs on it
    apply("edit tree tree_id=7 condition:3->4\nedit tree tree_id=8 condition->null");
  }

  TestDatabase db{smallRegister(GetParam()), GetParam()};
  Desk here;
  Desk there;
};

TEST_P(ReceiptExchangeTest, WhatIsTakenInIsWhatWasKept) {
  applySome();
  const std::string address = db.session().info().address;
  // What is of another database, or not confirmed, stays where it is.
  Receipt other;
  other.database = "sqlite:/elsewhere";
  other.appliedAt = "2026-01-01T00:00:00Z";
  ASSERT_TRUE(here.store->confirmReceipt(*here.store->keepReceipt(other)));
  other.database = address;
  ASSERT_TRUE(here.store->keepReceipt(other));
  const std::string file = here.written(address);
  const auto done = there.takeIn(address, file);
  ASSERT_TRUE(done) << done.error().text();
  EXPECT_EQ(4U, done->all);
  EXPECT_EQ(4U, done->taken);
  EXPECT_EQ(address, done->database);
  std::vector<std::string> confirmed = here.receipts(address);
  confirmed.pop_back();  // the oldest, not confirmed
  EXPECT_EQ(confirmed, there.receipts(address));
  EXPECT_THAT(there.check().broken, IsEmpty());
  EXPECT_EQ(4U, there.check().receipts);
  // Again, and back to where they come from: all of it is here.
  EXPECT_EQ(0U, there.takeIn(address, file)->taken);
  EXPECT_EQ(0U, here.takeIn(address, there.written(address))->taken);
  // The last one is taken back on the other desk.
  const auto kept = there.store->receipts(address);
  Progress progress;
  const auto back = applyChanges(db.session(), db.catalogue(),
                                 revertReceipt(*there.store->receipt(kept->front().id)).changes, {}, progress);
  ASSERT_TRUE(back) << back.error().text();
  ASSERT_TRUE(back->receipt) << findingsText(back->review);
  EXPECT_EQ("3", db.rows("SELECT condition FROM tree WHERE tree_id = 7"));
}

TEST_P(ReceiptExchangeTest, WhateverIsAlteredOrMissingIsNoticedAndNothingIsTakenIn) {
  applySome();
  const std::string address = db.session().info().address;
  const std::string file = here.written(address);
  std::vector<std::string> lines;
  std::istringstream in(file);
  for (std::string line; std::getline(in, line);) lines.push_back(line);
  ASSERT_EQ(5U, lines.size());
  const auto refused = [&](const std::vector<std::string>& changed, std::size_t at) {
    std::string content;
    for (const std::string& line : changed) content += line + "\n";
    const auto done = there.takeIn(address, content);
    ASSERT_FALSE(done);
    EXPECT_EQ(ErrorKind::InvalidFile, done.error().kind);
    EXPECT_EQ("line " + std::to_string(at + 1), done.error().place) << done.error().message;
    EXPECT_THAT(done.error().message, HasSubstr("nothing was taken in"));
    EXPECT_THAT(there.receipts(address), IsEmpty());
  };
  for (std::size_t i = 1; i < lines.size(); ++i) {
    std::vector<std::string> gone = lines;
    gone.erase(gone.begin() + static_cast<std::ptrdiff_t>(i));
    refused(gone, i);
    std::vector<std::string> twice = lines;
    twice.insert(twice.begin() + static_cast<std::ptrdiff_t>(i), lines[i]);
    refused(twice, i + 1);
    std::vector<std::string> torn = lines;
    torn.resize(i + 1);
    torn[i].resize(torn[i].size() / 2);
    refused(torn, i);
  }
  // One sign anywhere.
  std::mt19937 random(5);
  for (int round = 0; round < 200; ++round) {
    std::vector<std::string> altered = lines;
    const std::size_t line = 1 + random() % (lines.size() - 1);
    char& sign = altered[line][random() % altered[line].size()];
    sign = sign == '0' ? '1' : '0';
    refused(altered, line);
  }
  // In the head it is the first receipt that does not hang on it.
  std::vector<std::string> moved = lines;
  moved[0].replace(moved[0].find(R"("written_at":"20)"), 16, R"("written_at":"19)");
  refused(moved, 1);
  refused({"{}"}, 0);
  refused({}, 0);
  EXPECT_EQ(4U, there.takeIn(address, file)->taken);
}

ITERANDUM_ON_ALL_ENGINES(ReceiptExchangeTest);

}  // namespace
}  // namespace iterandum::test
