// Receipts found by what stands in them.
#pragma once

#include <string_view>
#include <vector>

#include "core/base/progress.h"
#include "core/store/store.h"

namespace iterandum {

// The numbers of the receipts, the latest first, in which all of the words stand, in any case: each in the title, the
// day or the person, or else all the others together in one record: its table, its columns, what it held before and
// after. Without any words: all of them. A receipt that cannot be read is found by its title, day and person alone.
// Errors: the store's; Cancelled.
[[nodiscard]] Result<std::vector<std::int64_t>> receiptsWith(Store& store, const std::string& address,
                                                             std::string_view words, Progress& progress);

}  // namespace iterandum
