// A part of what is staged, to be applied by itself: what was picked, and what it cannot go without. The rest stays
// staged, and comes to the same when it is applied later.
#pragma once

#include <string>
#include <vector>

#include "core/catalogue/catalogue.h"
#include "core/changes/change_set.h"

namespace iterandum {

// One cell of an edit, or (no column) a change as a whole. `change`: its index in toChangeList().
struct PickedChange {
  std::uint32_t change = 0;
  std::string column;
  friend auto operator<=>(const PickedChange&, const PickedChange&) = default;
};

struct SplitChanges {
  Gesture part;
  Gesture rest;
  // What came along with what was picked: new records that it points at, what gives up a value or a key that it takes,
  // what points at a record that it removes or whose key it changes, the other half of a replacement.
  std::vector<PickedChange> along;
};

// The net change of `changes`, in two gestures that together come to just the same. New records and removals go as a
// whole, edits cell by cell.
[[nodiscard]] SplitChanges splitChanges(const Catalogue& catalogue, const ChangeSet& changes,
                                        const std::vector<PickedChange>& picked);

}  // namespace iterandum
