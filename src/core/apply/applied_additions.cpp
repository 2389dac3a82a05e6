#include "core/apply/applied_additions.h"

namespace iterandum {

// New records by the index of their change in the list.
std::map<std::uint32_t, std::uint64_t> additionsByChange(const ChangeSet& changes, const ChangeList& list) {
  // The change set lists additions in the order of their ids, table by table.
  std::map<TableName, std::vector<std::uint64_t>> ids;
  for (const TableChanges* table : changes.tables()) {
    for (const auto& [id, record] : table->added()) ids[table->name()].push_back(id);
  }
  std::map<TableName, std::size_t> next;
  std::map<std::uint32_t, std::uint64_t> out;
  for (const auto& [index, change] : list.inOrder()) {
    if (change.action == Action::Add) out[index] = ids[change.table][next[change.table]++];
  }
  return out;
}

AppliedAdditions appliedAdditions(const Receipt& receipt, const std::map<std::uint32_t, std::uint64_t>& byChange) {
  AppliedAdditions out;
  for (const ReceiptBlock& block : receipt.blocks) {
    if (block.action != Action::Add || block.cascaded) continue;
    for (std::size_t r = 0; r < block.rows(); ++r) {
      const auto id = byChange.find(block.changeIndex[r]);
      if (id == byChange.end()) continue;
      AppliedAddition& record = out[id->second];
      record.keyColumns = block.keyColumns;
      for (const ValueColumn& key : block.keys) record.key.push_back(key.at(r));
      record.columns = block.columns;
      for (const ValueColumn& column : block.after) record.values.push_back(column.at(r));
    }
  }
  return out;
}

}  // namespace iterandum
