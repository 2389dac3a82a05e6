// RecordMarks: what is known of single records besides what is staged: what the last review found in them, and which
// were applied last. Lives on the interface thread.
#pragma once

#include <map>
#include <memory>
#include <set>
#include <string>
#include <unordered_map>
#include <vector>

#include "core/apply/receipt.h"
#include "core/catalogue/catalogue.h"
#include "core/changes/gesture.h"
#include "core/scope/condition_text.h"

namespace iterandum {

class RecordMarks {
 public:
  struct FoundCell {
    TableName table;
    ValueTuple key;
    std::string column;  // empty: the record as a whole
  };
  // Of the last review.
  void setFindings(std::vector<FoundCell> findings);
  // Whether the last review found something that blocks in this cell, or in the record where no column is named, and
  // nothing was staged there since.
  [[nodiscard]] bool hasFinding(const TableName& table, const ValueTuple& key, const std::string& column) const;
  [[nodiscard]] bool hasFindings(const TableName& table) const { return foundAt_.contains(table); }
  // What was found in records that this is about is not known any more.
  void forgetFindings(const Gesture& gesture);
  [[nodiscard]] std::shared_ptr<const KeyList> foundKeys(const Table& table, const std::string& column) const;

  // The records that were applied last, for as long as the sheet shows them marked.
  void markApplied(const Receipt& receipt, const Catalogue& catalogue);
  [[nodiscard]] bool wasApplied(const TableName& table, const ValueTuple& key) const;
  // How many records of the table were applied last and are still there.
  [[nodiscard]] std::size_t appliedCount(const TableName& table) const;
  [[nodiscard]] std::shared_ptr<const KeyList> appliedKeys(const Table& table) const;
  void clearApplied() { applied_.clear(); }

 private:
  std::vector<FoundCell> findings_;
  using FoundColumns = std::unordered_map<ValueTuple, std::set<std::string>, TupleHash, TupleSame>;
  std::map<TableName, FoundColumns> foundAt_;
  std::map<TableName, std::unordered_map<ValueTuple, bool, TupleHash, TupleSame>> applied_;
};

}  // namespace iterandum
