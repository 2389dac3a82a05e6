// Files that are read beside the sheet, and what would be staged of them as lines for people.
#pragma once

#include <QString>
#include <string>
#include <vector>

#include "core/changes/change_list.h"

namespace iterandum {

// More than these are counted, not listed.
inline constexpr std::size_t kMostLinesListed = 300;

// "tree 4711: condition 2 → 3; note no value → felled", the first `most` of them.
[[nodiscard]] std::vector<std::string> listedChanges(const ChangeList& changes, std::size_t most);

// A whole file. Errors: InvalidFile with the system's words.
[[nodiscard]] Result<std::string> contentOf(const QString& path);

}  // namespace iterandum
