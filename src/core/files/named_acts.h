// Acts that people write down outside the window, where a reference is said by the name of the record it points at.
#pragma once

#include <string>
#include <vector>

#include "core/acts/act.h"
#include "core/files/called_records.h"

namespace iterandum {

// Puts keys where names are typed: the value of a column that is a reference, and both sides of a list for one. What
// can be read as a key stays; so does what stands for no record or for several, which is said, one sentence each: the
// act fails for the records that it is for. Errors: the session's.
[[nodiscard]] Result<std::vector<std::string>> namesToKeys(std::vector<Act>& acts, const Table& table,
                                                           const Catalogue& catalogue, const CalledBy& calledBy,
                                                           Session& session, Progress& progress);

}  // namespace iterandum
