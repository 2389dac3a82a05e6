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

// Its records in which all of the words stand that stand neither in the title, the day nor the person; where that is
// none of them, or there are no words left, all of its records. Errors: Cancelled.
[[nodiscard]] Result<std::vector<ReceiptRow>> recordsWith(const Receipt& receipt, std::string_view words,
                                                          const Progress& progress);

}  // namespace iterandum
