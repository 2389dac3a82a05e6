#include "core/review/groups.h"

#include <algorithm>
#include <map>
#include <unordered_map>
#include <unordered_set>

namespace iterandum {
namespace {

// More lines than this for one column say less than one line that sums them up.
constexpr std::size_t kMostValuesApart = 12;

struct HashValue {
  std::size_t operator()(const Value& v) const { return static_cast<std::size_t>(hashValue(v)); }
};
struct SameValue {
  bool operator()(const Value& a, const Value& b) const { return a == b; }
};
using Distinct = std::unordered_set<Value, HashValue, SameValue>;

struct Building {
  ChangeGroup group;
  Distinct from;
  Distinct to;
  std::uint32_t gesture = 0;
};

void finish(Building& b, const GestureWords& words) {
  b.group.wholeGesture = b.gesture != 0 && words.isAllOf(b.gesture, b.group.changes.size());
  b.group.spellings = b.from.size();
  if (b.from.size() == 1) b.group.from = *b.from.begin();
  if (b.to.size() == 1) b.group.to = *b.to.begin();
}

}  // namespace

std::vector<ChangeGroup> groupChanges(const ChangeList& changes, const GestureWords& words) {
  // First by column, to see how many values each gets; then apart or together.
  std::map<std::pair<TableName, std::string>, Distinct> values;
  for (const ChangeBlock& block : changes.blocks()) {
    if (block.action != Action::Edit) continue;
    for (const ChangeBlock::Cells& cells : block.cells) {
      Distinct& seen = values[{block.table, cells.column}];
      const bool some = words.any(block.table, cells.column);
      for (std::size_t r = 0; r < block.rows() && seen.size() <= kMostValuesApart; ++r) {
        if (!some || words.of(block.table, cells.column, block.key(r)) == 0) seen.insert(cells.to.at(r));
      }
    }
  }
  std::vector<Building> building;
  std::map<std::tuple<TableName, int, std::string, std::uint32_t>,
           std::unordered_map<Value, std::size_t, HashValue, SameValue>>
      places;
  const auto at = [&](Action action, const TableName& table, const std::string& column, std::uint32_t gesture,
                      const Value& value) -> Building& {
    auto& byValue = places[{table, static_cast<int>(action), column, gesture}];
    const auto [it, isNew] = byValue.try_emplace(value, building.size());
    if (isNew) {
      Building b;
      b.group.action = action;
      b.group.table = table;
      b.group.column = column;
      if (gesture != 0) b.group.words = words.title(gesture);
      b.gesture = gesture;
      building.push_back(std::move(b));
    }
    return building[it->second];
  };
  for (const ChangeBlock& block : changes.blocks()) {
    if (block.action != Action::Edit) {
      Building& b = at(block.action, block.table, {}, 0, Value());
      b.group.changes.insert(b.group.changes.end(), block.changeIndex.begin(), block.changeIndex.end());
      continue;
    }
    for (const ChangeBlock::Cells& cells : block.cells) {
      const bool some = words.any(block.table, cells.column);
      const bool apart = values[{block.table, cells.column}].size() <= kMostValuesApart;
      for (std::size_t r = 0; r < block.rows(); ++r) {
        const Value to = cells.to.at(r);
        const std::uint32_t gesture = some ? words.of(block.table, cells.column, block.key(r)) : 0;
        Building& b = at(Action::Edit, block.table, cells.column, gesture, apart && gesture == 0 ? to : Value());
        b.group.changes.push_back(block.changeIndex[r]);
        b.to.insert(to);
        if (cells.hasFrom && b.from.size() <= kMostValuesApart) b.from.insert(cells.from.at(r));
      }
    }
  }
  std::map<TableName, std::uint32_t> firstOf;
  std::vector<ChangeGroup> out;
  for (Building& b : building) {
    finish(b, words);
    std::sort(b.group.changes.begin(), b.group.changes.end());
    const auto [it, isNew] = firstOf.try_emplace(b.group.table, b.group.changes.front());
    it->second = std::min(it->second, b.group.changes.front());
    out.push_back(std::move(b.group));
  }
  std::stable_sort(out.begin(), out.end(), [&](const ChangeGroup& a, const ChangeGroup& b) {
    return std::make_tuple(firstOf[a.table], a.table, static_cast<int>(a.action)) <
           std::make_tuple(firstOf[b.table], b.table, static_cast<int>(b.action));
  });
  return out;
}

}  // namespace iterandum
