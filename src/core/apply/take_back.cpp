#include "core/apply/take_back.h"

#include <algorithm>
#include <map>
#include <set>
#include <unordered_map>

#include "core/changes/change_set.h"
#include "core/changes/gesture_from_list.h"
#include "core/changes/part_of_changes.h"

namespace iterandum {
namespace {

// With those that the database changed because of the same change.
std::set<ReceiptRow> withCascades(const Receipt& receipt, const std::vector<ReceiptRow>& chosen) {
  std::set<ReceiptRow> out;
  std::set<std::uint32_t> changes;
  for (const ReceiptRow& one : chosen) {
    if (one.block >= receipt.blocks.size() || one.row >= receipt.blocks[one.block].rows()) continue;
    const ReceiptBlock& block = receipt.blocks[one.block];
    if (block.outcomes[one.row] != Outcome::Applied) continue;
    out.insert(one);
    if (!block.cascaded) changes.insert(block.changeIndex[one.row]);
  }
  for (std::uint32_t b = 0; b < receipt.blocks.size(); ++b) {
    const ReceiptBlock& block = receipt.blocks[b];
    for (std::uint32_t r = 0; block.cascaded && r < block.rows(); ++r) {
      if (changes.contains(block.changeIndex[r])) out.insert({b, r});
    }
  }
  return out;
}

// The changes of a change set, found by the record that they are about.
class ByRecord {
 public:
  ByRecord(const ChangeSet& changes, const ChangeList& list) {
    std::map<TableName, std::vector<std::uint64_t>> ids;
    for (const TableChanges* table : changes.tables()) {
      for (const auto& [id, record] : table->added()) ids[table->name()].push_back(id);
    }
    for (const ChangeBlock& block : list.blocks()) {
      for (std::size_t row = 0; row < block.rows(); ++row) {
        if (block.action == Action::Add) {
          added_[ids[block.table][nextAdded_[block.table]++]] = block.changeIndex[row];
        } else {
          named_[block.table][block.key(row)] = block.changeIndex[row];
        }
      }
    }
  }

  [[nodiscard]] const std::uint32_t* added(std::uint64_t id) const { return in(added_, id); }
  [[nodiscard]] const std::uint32_t* named(const TableName& table, const ValueTuple& key) const {
    const auto records = named_.find(table);
    return records == named_.end() ? nullptr : in(records->second, key);
  }

 private:
  template <typename Map, typename Key>
  static const std::uint32_t* in(const Map& map, const Key& key) {
    const auto at = map.find(key);
    return at == map.end() ? nullptr : &at->second;
  }
  std::map<std::uint64_t, std::uint32_t> added_;
  std::map<TableName, std::size_t> nextAdded_;
  std::map<TableName, std::unordered_map<ValueTuple, std::uint32_t, TupleHash, TupleSame>> named_;
};

}  // namespace

Result<PartTakenBack> takeBackPart(const Catalogue& catalogue, const Receipt& receipt,
                                   const std::vector<ReceiptRow>& chosen, std::uint64_t firstAddedId) {
  const std::set<ReceiptRow> wanted = withCascades(receipt, chosen);
  const Reversal reversal = revertReceipt(receipt);
  ITERANDUM_ASSIGN(const ListedGesture all, gestureFrom(catalogue, reversal.changes, firstAddedId));
  ChangeSet changes;
  changes.apply(all.gesture);
  const ByRecord byRecord(changes, changes.toChangeList(""));

  std::map<std::uint32_t, std::vector<ReceiptRow>> rows;  // by the change of `changes`; a record may be there twice
  std::set<std::uint32_t> asked;
  for (const ChangeBlock& block : reversal.changes.blocks()) {
    for (std::size_t row = 0; row < block.rows(); ++row) {
      const std::uint32_t index = block.changeIndex[row];
      const std::uint32_t* change = block.action == Action::Add ? byRecord.added(all.added.at(index))
                                                                : byRecord.named(block.table, block.key(row));
      if (change == nullptr) continue;  // taken back it comes to nothing
      rows[*change].push_back(reversal.rows[index]);
      if (wanted.contains(reversal.rows[index])) asked.insert(*change);
    }
  }
  // What comes along comes as a whole record.
  SplitChanges split;
  std::set<std::uint32_t> taken = asked;
  std::size_t before = 0;
  do {
    before = taken.size();
    std::vector<PickedChange> picked;
    for (const std::uint32_t change : taken) picked.push_back({change, {}});
    split = splitChanges(catalogue, changes, picked);
    for (const PickedChange& one : split.along) taken.insert(one.change);
  } while (taken.size() != before);

  PartTakenBack out{std::move(split.part), {}, reversal.notes};
  std::set<ReceiptRow> along(wanted.begin(), wanted.end());
  for (const std::uint32_t change : taken) along.insert(rows[change].begin(), rows[change].end());
  for (const ReceiptRow& one : chosen) along.erase(one);
  out.along.assign(along.begin(), along.end());
  return out;
}

Result<PartTakenBack> takeBackAll(const Catalogue& catalogue, const Receipt& receipt, std::uint64_t firstAddedId) {
  Reversal reversal = revertReceipt(receipt);
  ITERANDUM_ASSIGN(ListedGesture all, gestureFrom(catalogue, reversal.changes, firstAddedId));
  return PartTakenBack{std::move(all.gesture), {}, std::move(reversal.notes)};
}

std::optional<ReceiptRow> rowOf(const Receipt& receipt, const ReceiptBlock& one) {
  const auto keyOf = [](const ReceiptBlock& block, std::size_t row) {
    ValueTuple key;
    for (const ValueColumn& k : block.keys) key.push_back(k.at(row));
    return key;
  };
  const ValueTuple key = keyOf(one, 0);
  for (std::uint32_t b = 0; b < receipt.blocks.size(); ++b) {
    const ReceiptBlock& block = receipt.blocks[b];
    if (block.table != one.table || block.action != one.action || block.cascaded != one.cascaded ||
        block.keyColumns != one.keyColumns)
      continue;
    for (std::uint32_t r = 0; r < block.rows(); ++r) {
      if (block.changeIndex[r] == one.changeIndex[0] && sameTuple(keyOf(block, r), key)) return ReceiptRow{b, r};
    }
  }
  return std::nullopt;
}

}  // namespace iterandum
