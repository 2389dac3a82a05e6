// A record's key as a call writes it: {"tree_id": 4}.
#pragma once

#include "cli/command_line.h"

namespace iterandum::cli {

struct CalledKey {
  std::vector<std::string> columns;
  ValueTuple values;  // in the form in which the table's columns hold them, where they are known
};

// `table` null: one that is not there any more. `place`: the option or argument, for errors. Errors: InvalidInput.
[[nodiscard]] Result<CalledKey> readCalledKey(const Table* table, const std::string& json, const std::string& place);

}  // namespace iterandum::cli
