// A change list from elsewhere, brought into the form in which changes are staged here: records named by the key that
// this database has for them, every cell with what it holds.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "core/changes/change_list.h"
#include "core/engines/session.h"

namespace iterandum {

struct AdoptedChanges {
  ChangeList changes;
  std::uint64_t guarded = 0;         // cells, and records removed, of which nothing was seen: what is there now counts
  std::vector<std::string> leftOut;  // changes that do not fit here, and why
};

// Reads only. A change that names a table, a column or a record that cannot be found here is left out and said; one
// whose record is there and holds something else is not: that is for the review. Errors: the session's.
[[nodiscard]] Result<AdoptedChanges> adoptChanges(Session& session, const Catalogue& catalogue, const ChangeList& list,
                                                  Progress& progress);

}  // namespace iterandum
