// The receipts of a database as a file: to be filed, and to be taken in on another desk.
//
// Lines of JSON ("iterandum-history" 1, docs/formats.md): a head, then each confirmed receipt, the oldest first, with a
// digest over it and over the digest before it. What was altered, is missing or came in between is noticed; like the
// chain in the store it guards against mistakes, not against whoever makes all of it anew.
#pragma once

#include <cstdint>
#include <functional>
#include <istream>
#include <string>
#include <string_view>

#include "core/base/progress.h"
#include "core/store/store.h"

namespace iterandum {

using ReceiptSink = std::function<Status(std::string_view piece)>;

// How many were written. Errors: Cancelled; the store's and the sink's.
[[nodiscard]] Result<std::uint64_t> exportReceipts(Store& store, const std::string& address, const ReceiptSink& sink,
                                                   Progress& progress);

struct ImportedReceipts {
  std::string database;     // to which they were applied, as the file says
  std::uint64_t all = 0;    // that the file holds
  std::uint64_t taken = 0;  // the others were here already
};
// All of the file or nothing. `open` gives it from its beginning, twice: it is checked before any of it is kept.
// Errors: InvalidFile with the line; Cancelled; the store's.
[[nodiscard]] Result<ImportedReceipts> importReceipts(
    Store& store, const std::string& address, const std::function<Result<std::unique_ptr<std::istream>>()>& open,
    Progress& progress);

}  // namespace iterandum
