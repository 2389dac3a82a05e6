// Groups: a change list as a person reads it, the same change to many records being one line.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/changes/change_list.h"
#include "core/changes/gesture_words.h"

namespace iterandum {

struct ChangeGroup {
  Action action = Action::Edit;
  TableName table;
  std::string column;         // edits
  std::optional<Value> from;  // when it is the same in all of them
  std::optional<Value> to;    // when it is the same in all of them
  std::size_t spellings = 0;  // edits: how many different values are replaced
  std::string words;          // of the gesture that did all of it, giving different values; else empty
  bool wholeGesture = false;  // and that did nothing else
  std::vector<std::uint32_t> changes;
};

// Edits that one gesture made, giving a column different values, under its words; other edits by table, column and new
// value; where a column gets very many different values, they are one group. Additions
// and removals by table. Tables in order of their first change.
[[nodiscard]] std::vector<ChangeGroup> groupChanges(const ChangeList& changes, const GestureWords& words = {});

}  // namespace iterandum
