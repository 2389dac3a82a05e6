// The file of house rules that a call names.
#pragma once

#include "cli/command_line.h"

namespace iterandum::cli {

// Held against the database; none where the call names no file. `catalogue` outlives them. Errors: InvalidFile, naming
// the rule or the place in the file.
[[nodiscard]] Result<std::vector<ReadRule>> readRuleFile(const Arguments& arguments, const Catalogue& catalogue);

}  // namespace iterandum::cli
