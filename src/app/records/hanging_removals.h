// HangingRemovals: records that are to go with all that hangs on them, as they are staged and told of.
#pragma once

#include <QString>
#include <vector>

#include "app/session/staged_work.h"
#include "core/acts/hanging_records.h"

namespace iterandum {

// Without records of `table` with these keys, which are staged already.
struct HangingRemovals {
  std::vector<StagedWork::Removal> removals;
  QString words;   // "3 of inspection, 1 of tree"
  QString cannot;  // why none of it can be done; empty: it can
};
[[nodiscard]] HangingRemovals removalsOf(const std::vector<HangingRecords>& found, const Table* table = nullptr,
                                         const std::vector<ValueTuple>& staged = {});

}  // namespace iterandum
