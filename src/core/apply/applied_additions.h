// What became of new records: from what was staged, to the receipt that says which keys they got.
#pragma once

#include <cstdint>
#include <map>

#include "core/apply/receipt.h"
#include "core/changes/change_set.h"

namespace iterandum {

// The ids of new records by the index of their change. `list`: the change set's own.
[[nodiscard]] std::map<std::uint32_t, std::uint64_t> additionsByChange(const ChangeSet& changes,
                                                                       const ChangeList& list);

// The records that they are now, as forgetApplied() of the change set takes them.
[[nodiscard]] AppliedAdditions appliedAdditions(const Receipt& receipt,
                                                const std::map<std::uint32_t, std::uint64_t>& byChange);

}  // namespace iterandum
