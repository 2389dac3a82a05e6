// The store under random use by several windows, held against plain sets in memory: what any window staged and none
// undid is staged in all of them, whoever did what in between, whoever had not heard of it, and whenever a program
// ended without a word.
#include <gtest/gtest.h>

#include <iterator>
#include <map>
#include <random>
#include <set>
#include <sstream>

#include "support/log_hand.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

// A window, and what it did since it last told.
struct Window {
  std::string address;
  LogHand hand;
  std::set<std::string> staged;
  std::set<std::string> undone;
};

std::set<std::string> words(const std::string& text) {
  std::istringstream in(text);
  return {std::istream_iterator<std::string>(in), {}};
}

std::string lastWord(const std::string& text) { return text.substr(text.rfind(' ') + 1); }

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

  void openWindow() {
    const std::string address = "sqlite:/" + std::to_string(below(2));
    windows_.push_back({address, LogHand(any(), address), {}, {}});
    EXPECT_EQ(done_[address], words(windows_.back().hand.done()));
  }
  void stage(Window& window) {
    const std::string title = "g" + std::to_string(++number_);
    window.hand.stage(title);
    window.staged.insert(title);
  }
  void undo(Window& window) {
    const std::string title = lastWord(window.hand.done());
    if (!window.hand.undo()) return;
    if (window.staged.erase(title) == 0) window.undone.insert(title);
  }
  void redo(Window& window) {
    if (!window.hand.redo()) return;
    const std::string title = lastWord(window.hand.done());
    if (window.undone.erase(title) == 0) window.staged.insert(title);
  }
  void send(Window& window) {
    window.hand.use(any());
    window.hand.send();
    std::set<std::string>& done = done_[window.address];
    for (const std::string& title : window.undone) done.erase(title);
    done.insert(window.staged.begin(), window.staged.end());
    window.staged.clear(), window.undone.clear();
    EXPECT_EQ(done, words(window.hand.done()));
  }
  // What was applied is staged no more; of the rest something else has become.
  void apply(Window& window) {
    Window& other = windows_[static_cast<std::size_t>(below(static_cast<int>(windows_.size())))];
    send(other), send(window);
    if (!window.hand.hold()) return ADD_FAILURE() << "what it just told is what lies there";
    stage(other);
    send(other);
    window.hand.read();
    const std::vector<GestureId> before = window.hand.order().done;
    window.hand.replace({"g" + std::to_string(++number_)});
    ASSERT_TRUE(window.hand.sendReplaced(before));
    done_[window.address] = {"g" + std::to_string(number_)};
    // Whoever had not told yet what was undone of it has nothing to undo any more; what was staged comes still.
    for (Window& each : windows_) {
      if (each.address == window.address) each.undone.clear();
    }
  }
  void close(std::size_t which) {
    send(windows_[which]);
    windows_[which].hand.release();
    windows_.erase(windows_.begin() + static_cast<std::ptrdiff_t>(which));
  }
  void allAgree() {
    std::map<std::string, StagedOrder> orders;
    for (Window& window : windows_) send(window);
    for (Window& window : windows_) {
      window.hand.read();
      EXPECT_EQ(done_[window.address], words(window.hand.done()));
      const auto [at, isNew] = orders.try_emplace(window.address, window.hand.order());
      EXPECT_EQ(at->second, window.hand.order());
    }
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
  std::vector<Window> windows_;
  std::map<std::string, std::set<std::string>> done_;  // by address
  std::map<std::string, std::map<std::string, std::string>> layouts_;
  std::map<std::int64_t, std::pair<std::string, bool>> receipts_;
};

TEST_F(StoreModelTest, WhatIsKeptIsWhatWasKept) {
  random_.seed(11);
  for (int step = 0; step < 1500 && !HasFailure(); ++step) {
    SCOPED_TRACE("step " + std::to_string(step));
    const int what = below(100);
    if (windows_.empty() || (what < 4 && windows_.size() < 6)) {
      openWindow();
      continue;
    }
    const auto which = static_cast<std::size_t>(below(static_cast<int>(windows_.size())));
    Window& window = windows_[which];
    if (what < 34) {
      stage(window);
    } else if (what < 46) {
      undo(window);
    } else if (what < 54) {
      redo(window);
    } else if (what < 74) {
      send(window);
    } else if (what < 77) {
      apply(window);
    } else if (what < 80) {
      close(which);
    } else if (what < 86) {
      keepTexts();
    } else if (what < 92) {
      keepReceipt();
    } else if (what < 95) {
      checkReceipts();
    } else if (what < 97) {
      allAgree();
    } else {
      const auto handle = static_cast<std::size_t>(below(2));
      reopen(handle);
      for (Window& each : windows_) each.hand.use(*handles_[handle]);
    }
  }
  checkReceipts();
  allAgree();
  while (!windows_.empty()) close(0);
}

}  // namespace
}  // namespace iterandum::test
