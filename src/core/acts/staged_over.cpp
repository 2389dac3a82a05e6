#include "core/acts/staged_over.h"

#include <algorithm>

namespace iterandum {

void StagedOver::layOver(const ValueTuple& key, const std::vector<std::string>& columns, ValueTuple& values) const {
  const auto staged = cells.find(key);
  if (staged == cells.end()) return;
  for (const auto& [column, value] : staged->second) {
    const auto at = std::find(columns.begin(), columns.end(), column);
    if (at != columns.end()) values[static_cast<std::size_t>(at - columns.begin())] = value;
  }
}

}  // namespace iterandum
