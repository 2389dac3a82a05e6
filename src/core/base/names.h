// Lists of names, as columns and tables go by.
#pragma once

#include <algorithm>
#include <string>
#include <vector>

namespace iterandum {

[[nodiscard]] inline bool contains(const std::vector<std::string>& names, const std::string& name) {
  return std::find(names.begin(), names.end(), name) != names.end();
}

}  // namespace iterandum
