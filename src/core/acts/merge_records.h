// Merging records that are the same thing: one stays, and gets values of the others where that is wanted; every record
// that points at the others points at it; the others are removed. What comes out is a list of changes; nothing is
// written.
#pragma once

#include <cstdint>
#include <string>
#include <utility>
#include <vector>

#include "core/changes/change_list.h"
#include "core/engines/session.h"

namespace iterandum {

struct MergeWish {
  const Table* table = nullptr;  // of the catalogue
  ValueTuple keep;               // by writeKeyColumns(), as the others
  std::vector<ValueTuple> drop;
  std::vector<std::pair<std::string, ValueTuple>> take;  // a column, and the record whose value it gets
  bool dropDoubles = false;
};

// A record that would be there twice, by a unique key, once it pointed at the one that stays.
struct MergeDouble {
  const Table* table = nullptr;
  ValueTuple key;                  // of the record
  ValueTuple other;                // of the one that it would be the double of
  std::vector<std::string> names;  // the columns of the unique key
};

struct MergePlan {
  ChangeList changes;
  std::vector<MergeDouble> doubles;  // they go with MergeWish::dropDoubles; else they stand in the way
  std::uint64_t repointed = 0;       // records that point at it now
  std::uint64_t removed = 0;
};

// References that somebody stated count as those that are declared; `catalogue` has them. What was read is guarded by
// the changes' `from`.
// Errors: NotFound, a record that is not there; InvalidInput, what cannot be changed, or a reference from the kept
// record to a dropped one that must have a value; the session's.
[[nodiscard]] Result<MergePlan> planMerge(Session& session, const Catalogue& catalogue, const MergeWish& wish,
                                          Progress& progress);
// Several at once, of records that are different things: each stays with its own. A record may be named once only.
[[nodiscard]] Result<MergePlan> planMerges(Session& session, const Catalogue& catalogue,
                                           const std::vector<MergeWish>& wishes, Progress& progress);

// The key of the record that these columns single out. Errors: NotFound, none or several; InvalidInput.
[[nodiscard]] Result<ValueTuple> keyOfRecord(Session& session, const Table& table,
                                             const std::vector<std::string>& columns, const ValueTuple& values,
                                             Progress& progress);

}  // namespace iterandum
