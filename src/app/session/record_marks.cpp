#include "app/session/record_marks.h"

#include <algorithm>

namespace iterandum {

void RecordMarks::setFindings(std::vector<FoundCell> findings) {
  findings_ = std::move(findings);
  foundAt_.clear();
  for (const FoundCell& found : findings_) foundAt_[found.table][found.key].insert(found.column);
}

bool RecordMarks::hasFinding(const TableName& table, const ValueTuple& key, const std::string& column) const {
  const auto records = foundAt_.find(table);
  if (records == foundAt_.end()) return false;
  const auto found = records->second.find(key);
  return found != records->second.end() && (column.empty() || found->second.contains(column));
}

void RecordMarks::forgetFindings(const Gesture& gesture) {
  if (foundAt_.empty()) return;
  for (const GesturePart& part : gesture.parts) {
    const auto records = foundAt_.find(part.table);
    if (records == foundAt_.end() || part.keys.empty()) continue;
    for (std::size_t r = 0; r < part.keys[0].size() && !records->second.empty(); ++r) {
      ValueTuple key;
      for (const ValueColumn& k : part.keys) key.push_back(k.at(r));
      records->second.erase(key);
    }
    if (records->second.empty()) foundAt_.erase(records);
  }
}

std::shared_ptr<const KeyList> RecordMarks::foundKeys(const Table& table, const std::string& column) const {
  auto list = std::make_shared<KeyList>();
  list->keys.resize(table.writeKeyColumns().size());
  for (const FoundCell& found : findings_) {
    if (found.table != table.name || found.key.size() != list->keys.size()) continue;
    if (!column.empty() && found.column != column) continue;
    for (std::size_t k = 0; k < list->keys.size(); ++k) list->keys[k].push(found.key[k]);
  }
  return list;
}

void RecordMarks::markApplied(const Receipt& receipt, const Catalogue& catalogue) {
  applied_.clear();
  for (const ReceiptBlock& block : receipt.blocks) {
    const Table* table = catalogue.find(block.table);
    if (table == nullptr || block.after.empty()) continue;
    std::vector<std::size_t> at;
    for (const std::string& column : table->writeKeyColumns()) {
      at.push_back(static_cast<std::size_t>(std::find(block.columns.begin(), block.columns.end(), column) -
                                            block.columns.begin()));
    }
    for (std::size_t r = 0; r < block.rows(); ++r) {
      if (block.outcomes[r] != Outcome::Applied) continue;
      ValueTuple key;
      for (const std::size_t c : at) key.push_back(block.after[c].at(r));
      applied_[block.table].emplace(std::move(key), true);
    }
  }
}

bool RecordMarks::wasApplied(const TableName& table, const ValueTuple& key) const {
  const auto it = applied_.find(table);
  return it != applied_.end() && it->second.contains(key);
}

std::size_t RecordMarks::appliedCount(const TableName& table) const {
  const auto it = applied_.find(table);
  return it == applied_.end() ? 0 : it->second.size();
}

std::shared_ptr<const KeyList> RecordMarks::appliedKeys(const Table& table) const {
  auto list = std::make_shared<KeyList>();
  list->keys.resize(table.writeKeyColumns().size());
  const auto applied = applied_.find(table.name);
  if (applied == applied_.end()) return list;
  for (const auto& [key, known] : applied->second) {
    for (std::size_t k = 0; k < list->keys.size() && k < key.size(); ++k) list->keys[k].push(key[k]);
  }
  return list;
}

}  // namespace iterandum
