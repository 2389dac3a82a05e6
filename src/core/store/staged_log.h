// What windows stage for a database, as the store keeps it: one log of gestures for all windows that have the database
// open.
#pragma once

#include <cstdint>
#include <map>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "core/apply/receipt.h"
#include "core/changes/gesture.h"

namespace iterandum {

// By which a gesture is known in its log; never 0.
using GestureId = std::uint64_t;
// One that no gesture has.
[[nodiscard]] GestureId newGestureId();

// That a receipt is about staged gestures: they are staged no more once it is known that it was written, whoever lives
// to hear of it.
struct StagedForReceipt {
  std::int64_t log = 0;
  std::size_t gestures = 0;  // the first of the log
  // Only this part of what they come to was applied, and this is the rest (part_of_changes.h).
  std::optional<std::pair<Gesture, Gesture>> partAndRest;
};

// Staged gestures that were written; nobody has taken them out of their log yet.
struct WrittenStaged {
  StagedForReceipt staged;
  Receipt receipt;
};

// Which gestures lie in a log, in order.
struct StagedOrder {
  std::vector<GestureId> done;
  std::vector<GestureId> undone;  // the next to be done again first
  friend bool operator==(const StagedOrder&, const StagedOrder&) = default;
};

// A log as it lies in the store at some moment.
struct StagedState {
  std::uint64_t revision = 0;  // another one after each change of it
  std::uint64_t applied = 0;   // how often some of it was taken out because it was applied
  bool heldElsewhere = false;  // another window that runs is applying what lies in it
  StagedOrder order;
};

// The same with what lies in it.
struct StagedLog {
  std::int64_t id = 0;
  StagedState state;
  std::vector<Gesture> gestures;    // of state.order, first the done ones; empty where the asker has them
  std::size_t setAside = 0;         // gestures that could not be read; they are kept apart
  std::vector<std::string> others;  // the owners of other windows that run now and have it too
  std::size_t left = 0;             // further logs with work in them, of a time when each window had its own
  std::size_t window = 0;           // a number that no other window has which has it now
  std::vector<WrittenStaged> written;

  [[nodiscard]] std::size_t position() const { return state.order.done.size(); }
};

// What a window makes of a log.
struct StagedView {
  std::vector<GestureId> known;  // those done, as it last knew them to lie there
  StagedOrder wanted;
  std::map<GestureId, std::string> packed;  // at least of those that the log cannot know
};

}  // namespace iterandum
