// What is staged behind gestures that were applied meanwhile: the same corrections, on the records as they are now.
#pragma once

#include "core/changes/change_set.h"

namespace iterandum {

// The gesture as it would have been made afterwards: cells that were applied hold what was applied, records go by the
// key they have now, new records are records like any other. `applied` holds what was applied.
[[nodiscard]] Gesture afterApply(const ChangeSet& applied, const AppliedAdditions& added, const Gesture& gesture);

}  // namespace iterandum
