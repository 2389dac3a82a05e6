// A window's hand on the log of a database, without the window: what it knows of the log, and what it does to it.
#pragma once

#include <gtest/gtest.h>

#include <map>
#include <string>

#include "core/store/log_owner.h"
#include "core/store/store.h"

namespace iterandum::test {

class LogHand {
 public:
  LogHand(Store& store, const std::string& address, std::string owner = newLogOwner())
      : store_(&store), owner_(std::move(owner)) {
    auto log = store.claimStaged(address, owner_);
    EXPECT_TRUE(log.has_value()) << log.error().text();
    if (log) take(claimed = std::move(*log));
  }

  void stage(const std::string& title) {
    order_.undone.clear();
    order_.done.push_back(newGestureId());
    titles_[order_.done.back()] = title;
  }
  bool undo() {
    if (order_.done.empty()) return false;
    order_.undone.insert(order_.undone.begin(), order_.done.back());
    order_.done.pop_back();
    return true;
  }
  bool redo() {
    if (order_.undone.empty()) return false;
    order_.done.push_back(order_.undone.front());
    order_.undone.erase(order_.undone.begin());
    return true;
  }
  // Everything else in place of what is there.
  void replace(const std::vector<std::string>& titles) {
    order_ = {};
    for (const std::string& title : titles) stage(title);
  }

  [[nodiscard]] StagedView view() const {
    StagedView out{known_, order_, {}};
    for (const auto& [id, title] : titles_) out.packed[id] = packGesture({title, {}});
    return out;
  }
  // Sends what was done, and reads what others did where that is something else.
  void send() {
    const auto state = store_->mergeStaged(claimed.id, owner_, view());
    ASSERT_TRUE(state.has_value()) << state.error().text();
    known_ = state->order.done;
    if (state->order != order_) read();
  }
  bool sendReplaced(const std::vector<GestureId>& before) {
    const auto state = store_->replaceStaged(claimed.id, owner_, before, view());
    EXPECT_TRUE(state.has_value()) << state.error().text();
    if (state && *state) known_ = order_.done;
    return state && *state;
  }
  void read() {
    auto log = store_->readStaged(claimed.id, owner_, {});
    ASSERT_TRUE(log.has_value()) << log.error().text();
    take(*log);
  }
  Status hold() { return store_->holdStaged(claimed.id, owner_, order_.done); }
  Status letGo() { return store_->letGoStaged(claimed.id, owner_); }
  void release() { EXPECT_TRUE(store_->releaseStaged(claimed.id, owner_).has_value()); }
  void use(Store& store) { store_ = &store; }

  [[nodiscard]] const StagedOrder& order() const { return order_; }
  // Those that are done, in order.
  [[nodiscard]] std::string done() const { return inWords(order_.done); }
  [[nodiscard]] std::string undone() const { return inWords(order_.undone); }
  [[nodiscard]] const std::string& owner() const { return owner_; }

  StagedLog claimed;

 private:
  void take(const StagedLog& log) {
    order_ = log.state.order;
    known_ = order_.done;
    std::size_t at = 0;
    for (const auto* side : {&order_.done, &order_.undone}) {
      for (const GestureId id : *side) titles_[id] = log.gestures[at++].title;
    }
  }
  [[nodiscard]] std::string inWords(const std::vector<GestureId>& ids) const {
    std::string out;
    for (const GestureId id : ids) out += (out.empty() ? "" : " ") + titles_.at(id);
    return out;
  }

  Store* store_;
  std::string owner_;
  StagedOrder order_;
  std::vector<GestureId> known_;
  std::map<GestureId, std::string> titles_;
};

}  // namespace iterandum::test
