// The acts of a call, in the order in which they stand there.
#pragma once

#include <CLI/CLI.hpp>
#include <optional>

#include "cli/command_line.h"

namespace iterandum::cli {

void addActOptions(CLI::App* command);
// After parsing. Errors: InvalidInput.
[[nodiscard]] Status readActs(const CLI::App& command, Arguments& arguments);

// 'NAME=VALUE', the name quoted as in SQL where it is odd. Errors: InvalidInput, naming the option.
[[nodiscard]] Result<std::pair<std::string, std::string>> splitAtEquals(const std::string& text,
                                                                        const std::string& option);

}  // namespace iterandum::cli
