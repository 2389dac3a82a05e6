#include "core/changes/gesture_words.h"

#include <algorithm>

namespace iterandum {
namespace {

bool givesDifferentValues(const GesturePart& part) {
  for (std::size_t row = 1; row < part.to.size(); ++row) {
    if (!(part.to.at(row) == part.to.at(0))) return true;
  }
  return false;
}

}  // namespace

GestureWords::GestureWords(const ChangeSet& changes, const std::set<std::string>& untold) : changes_(&changes) {
  for (std::size_t g = 0; g < changes.position(); ++g) {
    const Gesture& gesture = changes.gestures()[g];
    titles_.push_back(gesture.title);
    wholes_.push_back(gesture.parts.size() == 1 ? gesture.parts.front().rows() : 0);
    for (const GesturePart& part : gesture.parts) {
      if (part.kind != GesturePart::Kind::Edit) continue;
      const TableChanges* table = changes.table(part.table);
      const std::pair<TableName, std::string> place{part.table, part.column};
      const bool told = !gesture.title.empty() && !untold.contains(gesture.title);
      const bool meant = told && givesDifferentValues(part);
      // Where no gesture was meant before, none has to make way.
      if (table == nullptr || (!meant && !byRecord_.contains(place))) continue;
      if (part.keyColumns != table->keyColumns()) continue;  // left out of what is staged, too
      std::vector<std::uint32_t>& owners = byRecord_[place];
      owners.resize(table->records(), 0);
      for (std::size_t row = 0; row < part.rows(); ++row) {
        ValueTuple key;
        for (const ValueColumn& column : part.keys) key.push_back(column.at(row));
        if (const auto record = table->find(key)) owners[*record] = meant ? static_cast<std::uint32_t>(g + 1) : 0;
      }
    }
  }
}

std::uint32_t GestureWords::of(const TableName& table, const std::string& column, const ValueTuple& key) const {
  if (changes_ == nullptr) return 0;
  const auto owners = byRecord_.find({table, column});
  if (owners == byRecord_.end()) return 0;
  const TableChanges* known = changes_->table(table);
  const auto record = known == nullptr ? std::nullopt : known->find(key);
  return record && *record < owners->second.size() ? owners->second[*record] : 0;
}

}  // namespace iterandum
