// The store under random use by several windows, held against plain lists in memory: what a window staged is what the
// next one finds, whoever did what in between, and whenever a program ended without a word.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <map>
#include <random>

#include "core/store/log_owner.h"
#include "core/store/store.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

// What one window's log is to hold.
struct Log {
  std::string address;
  std::vector<std::string> titles;
  std::size_t position = 0;
};

class StoreModelTest : public ::testing::Test {
 protected:
  void SetUp() override { reopen(0), reopen(1); }
  void reopen(std::size_t which) {
    handles_[which].reset();
    auto opened = Store::open(folder_.file("store.sqlite"));
    ASSERT_TRUE(opened.has_value()) << opened.error().text();
    handles_[which] = std::move(*opened);
  }
  int below(int n) { return static_cast<int>(random_() % static_cast<unsigned>(n)); }
  Store& any() { return *handles_[static_cast<std::size_t>(below(2))]; }

  static std::vector<std::string> titlesOf(const StagedLog& log) {
    std::vector<std::string> out;
    for (const Gesture& gesture : log.gestures) out.push_back(gesture.title);
    return out;
  }

  void claim() {
    const std::string address = "sqlite:/" + std::to_string(below(2));
    const auto log = any().claimStaged(address, newLogOwner());
    ASSERT_TRUE(log.has_value()) << log.error().text();
    ASSERT_FALSE(held_.contains(log->id)) << "somebody else has it";
    // The oldest that was left, or a new one.
    const auto left =
        std::find_if(left_.begin(), left_.end(), [&](const auto& l) { return l.second.address == address; });
    Log wanted{address, {}, 0};
    if (left != left_.end()) {
      wanted = left->second;
      EXPECT_EQ(left->first, log->id);
      left_.erase(left);
    }
    EXPECT_EQ(wanted.titles, titlesOf(*log));
    EXPECT_EQ(wanted.position, log->position);
    held_[log->id] = wanted;
  }
  void append(std::int64_t id, Log& log) {
    const std::string title = "gesture " + std::to_string(++number_);
    ASSERT_TRUE(any().appendGesture(id, log.position, packGesture({title, {}})).has_value());
    log.titles.resize(log.position);
    log.titles.push_back(title);
    ++log.position;
  }
  void appendWithAHole(std::int64_t id, const Log& log) {
    EXPECT_FALSE(any().appendGesture(id, log.titles.size() + 2, packGesture({"too far", {}})).has_value());
  }
  void undo(std::int64_t id, Log& log) {
    log.position = static_cast<std::size_t>(below(static_cast<int>(log.titles.size()) + 1));
    ASSERT_TRUE(any().setPosition(id, log.position).has_value());
  }
  void replace(std::int64_t id, Log& log) {
    log.titles.assign(static_cast<std::size_t>(below(4)), "");
    std::vector<std::string> packed;
    for (std::string& title : log.titles) {
      title = "anew " + std::to_string(++number_);
      packed.push_back(packGesture({title, {}}));
    }
    log.position = log.titles.size();
    ASSERT_TRUE(any().replaceStaged(id, packed, log.position).has_value());
  }
  void release(std::int64_t id) {
    ASSERT_TRUE(any().releaseStaged(id).has_value());
    const Log log = held_[id];
    held_.erase(id);
    if (!log.titles.empty()) left_[id] = log;
  }
  void keepTexts() {
    const std::string address = "sqlite:/" + std::to_string(below(2));
    const std::string table = "t" + std::to_string(below(3));
    const std::string layout = "layout " + std::to_string(++number_);
    ASSERT_TRUE(any().keepLayout(address, table, layout).has_value());
    layouts_[address][table] = layout;
    EXPECT_EQ(layouts_[address], *any().layouts(address));
  }
  void keepReceipt() {
    Receipt receipt;
    receipt.appliedAt = "2026-01-01T00:00:00Z";
    receipt.database = "sqlite:/0";
    receipt.title = "receipt " + std::to_string(++number_);
    const auto id = any().keepReceipt(receipt);
    ASSERT_TRUE(id.has_value());
    const int then = below(3);
    const Status done = then == 0 ? any().dropReceipt(*id) : then == 1 ? any().confirmReceipt(*id) : Status();
    ASSERT_TRUE(done.has_value());
    if (then != 0) receipts_[*id] = {receipt.title, then == 2};
  }
  void checkReceipts() {
    const auto kept = any().receipts("sqlite:/0");
    ASSERT_TRUE(kept.has_value());
    std::map<std::int64_t, std::pair<std::string, bool>> found;
    for (const KeptReceipt& receipt : *kept) found[receipt.id] = {receipt.title, receipt.pending};
    EXPECT_EQ(receipts_, found);
  }

  TemporaryFolder folder_;
  std::unique_ptr<Store> handles_[2];
  std::mt19937 random_;
  int number_ = 0;
  std::map<std::int64_t, Log> held_;
  std::map<std::int64_t, Log> left_;
  std::map<std::string, std::map<std::string, std::string>> layouts_;
  std::map<std::int64_t, std::pair<std::string, bool>> receipts_;
};

TEST_F(StoreModelTest, WhatIsKeptIsWhatWasKept) {
  random_.seed(11);
  for (int step = 0; step < 700 && !HasFailure(); ++step) {
    SCOPED_TRACE("step " + std::to_string(step));
    const int what = below(100);
    if (held_.empty() || what < 6) {
      claim();
      continue;
    }
    auto held = std::next(held_.begin(), below(static_cast<int>(held_.size())));
    if (what < 45) {
      append(held->first, held->second);
    } else if (what < 50) {
      appendWithAHole(held->first, held->second);
    } else if (what < 62) {
      undo(held->first, held->second);
    } else if (what < 68) {
      replace(held->first, held->second);
    } else if (what < 74) {
      release(held->first);
    } else if (what < 84) {
      keepTexts();
    } else if (what < 94) {
      keepReceipt();
    } else if (what < 97) {
      checkReceipts();
    } else {
      reopen(static_cast<std::size_t>(below(2)));
    }
  }
  checkReceipts();
  while (!held_.empty()) release(held_.begin()->first);
  while (!left_.empty() && !HasFailure()) claim();
}

}  // namespace
}  // namespace iterandum::test
