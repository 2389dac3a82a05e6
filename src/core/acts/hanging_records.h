// What points at records, in any table, over any number of steps: what could not stay where they are removed, or all of
// it.
#pragma once

#include <vector>

#include "core/engines/session.h"

namespace iterandum {

struct HangingRecords {
  const Table* table = nullptr;
  std::vector<ValueTuple> keys;     // by writeKeyColumns()
  std::vector<ValueTuple> records;  // by recordColumns()
};

enum class Hanging {
  CouldNotStay,  // references that let go by themselves (SET NULL, SET DEFAULT) hold nothing
  AllThatPoint
};

// The records themselves come first, as they are now; each record is there once. Errors: Unsupported where there are
// more than `most` records, or some of them cannot be named; the database's own.
[[nodiscard]] Result<std::vector<HangingRecords>> withHangingRecords(Session& session, const Catalogue& catalogue,
                                                                     const Table& table,
                                                                     const std::vector<ValueTuple>& keys, Hanging which,
                                                                     std::size_t most, Progress& progress);

}  // namespace iterandum
