// Lists of names, as columns and tables go by; how many of them there are, in words.
#pragma once

#include <algorithm>
#include <cstdint>
#include <string>
#include <vector>

namespace iterandum {

[[nodiscard]] inline bool contains(const std::vector<std::string>& names, const std::string& name) {
  return std::find(names.begin(), names.end(), name) != names.end();
}

// "1 record", "12 records"
[[nodiscard]] inline std::string several(std::uint64_t n, const std::string& one, const std::string& more) {
  return std::to_string(n) + " " + (n == 1 ? one : more);
}

}  // namespace iterandum
