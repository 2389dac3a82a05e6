// A change list as one gesture: how a file, a merge or a receipt that is taken back comes to be staged.
#pragma once

#include <cstdint>
#include <map>

#include "core/base/result.h"
#include "core/catalogue/catalogue.h"
#include "core/changes/change_list.h"
#include "core/changes/gesture.h"

namespace iterandum {

// An empty part of a gesture about records of a table.
[[nodiscard]] GesturePart partFor(GesturePart::Kind kind, const Table& table);

struct ListedGesture {
  Gesture gesture;                               // without a title
  std::map<std::uint32_t, std::uint64_t> added;  // the ids of the additions, by the index of their change
};

// What points at a new record by its label points at it by its label here. New records get ids from `firstAddedId` on.
// Errors: InvalidFile for a table that is not there, or whose records the list names otherwise than by
// writeKeyColumns().
[[nodiscard]] Result<ListedGesture> gestureFrom(const Catalogue& catalogue, const ChangeList& list,
                                                std::uint64_t firstAddedId);

}  // namespace iterandum
