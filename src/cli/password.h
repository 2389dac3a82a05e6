// Asking for a password on the terminal.
#pragma once

#include <optional>
#include <string>

namespace iterandum::cli {

// Asks on the controlling terminal, without showing what is typed. Nothing when there is no terminal.
[[nodiscard]] std::optional<std::string> askPasswordOnTerminal(const std::string& forWhom);

}  // namespace iterandum::cli
