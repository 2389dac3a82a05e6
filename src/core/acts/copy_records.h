// Records added once more, with all that points at them: what pointed at a record points at its copy, what it pointed
// at besides it still does.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "core/acts/hanging_records.h"
#include "core/changes/change_list.h"
#include "core/changes/change_set.h"

namespace iterandum {

// Whether no two records may hold the same in this column, whatever else they hold: a copy has to get another value.
[[nodiscard]] bool isUniqueAlone(const Table& table, std::size_t column);

struct CopiedRecords {
  ChangeList changes;  // additions, which point at each other by their labels
  std::vector<std::pair<const Table*, std::size_t>> counts;
  // Columns that may be there once only, which the copies have to get.
  std::vector<std::pair<const Table*, std::string>> leftOpen;
};

// `found`: by withHangingRecords(), the first `roots` of its first table are the records meant. `staged`: what is
// staged counts as if it were there; what is to be removed is not copied. Keys that the database gives, and what it
// computes, are its own to give. Errors: Unsupported where a copy cannot be pointed at, or cannot be added.
[[nodiscard]] Result<CopiedRecords> copiesOf(const Catalogue& catalogue, const std::vector<HangingRecords>& found,
                                             std::size_t roots, const ChangeSet& staged);

}  // namespace iterandum
