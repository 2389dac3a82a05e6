// HangingRecords: what hangs on records that are to be removed: those that point at them and could not stay, in any
// table, over any number of steps. References that let go by themselves (SET NULL, SET DEFAULT) hold nothing.
#pragma once

#include <QString>
#include <vector>

#include "app/session/staged_work.h"
#include "core/engines/session.h"

namespace iterandum {

struct HangingRecords {
  const Table* table = nullptr;
  std::vector<ValueTuple> keys;     // by writeKeyColumns()
  std::vector<ValueTuple> records;  // by recordColumns()
};

// The records themselves come first, as they are now; each record is there once. Errors: Unsupported where more than
// `most` records would go, or some of them cannot be named; the database's own.
[[nodiscard]] Result<std::vector<HangingRecords>> withHangingRecords(Session& session, const Catalogue& catalogue,
                                                                     const Table& table,
                                                                     const std::vector<ValueTuple>& keys,
                                                                     std::size_t most, Progress& progress);

// The same to be staged: without records of `table` with these keys, which are staged already.
struct HangingRemovals {
  std::vector<StagedWork::Removal> removals;
  QString words;   // "3 of inspection, 1 of tree"
  QString cannot;  // why none of it can be done; empty: it can
};
[[nodiscard]] HangingRemovals removalsOf(const std::vector<HangingRecords>& found, const Table* table = nullptr,
                                         const std::vector<ValueTuple>& staged = {});

}  // namespace iterandum
