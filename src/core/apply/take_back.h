// A part of a receipt taken back: the records that were chosen, and what goes with them.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "core/apply/receipt.h"
#include "core/base/result.h"
#include "core/catalogue/catalogue.h"
#include "core/changes/gesture.h"

namespace iterandum {

struct PartTakenBack {
  Gesture gesture;                 // to be staged, without a title
  std::vector<ReceiptRow> along;   // not chosen, but those that were cannot go without them
  std::vector<std::string> notes;  // what cannot be brought back
};

// What was applied to the chosen records, the other way round, guarded by what the receipt left behind. What the
// database did because of them (cascades) comes along, and what part_of_changes.h says that a part needs.
// New records get ids from `firstAddedId` on. Rows to which nothing was applied are passed over. Errors: InvalidFile
// where a record cannot be named in this catalogue.
[[nodiscard]] Result<PartTakenBack> takeBackPart(const Catalogue& catalogue, const Receipt& receipt,
                                                 const std::vector<ReceiptRow>& chosen, std::uint64_t firstAddedId);

// All of it.
[[nodiscard]] Result<PartTakenBack> takeBackAll(const Catalogue& catalogue, const Receipt& receipt,
                                                std::uint64_t firstAddedId);

// The row of a receipt that `one`, of one row, was read from.
[[nodiscard]] std::optional<ReceiptRow> rowOf(const Receipt& receipt, const ReceiptBlock& one);

}  // namespace iterandum
