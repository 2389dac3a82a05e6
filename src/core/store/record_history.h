// What was applied to records, over all receipts of a database that the store keeps.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "core/store/store.h"

namespace iterandum {

// A record as it is named: columns and their values; without any columns, all of the table.
struct NamedRecord {
  TableName table;
  std::vector<std::string> columns;
  ValueTuple key;
};

// One record of one receipt.
struct RecordChange {
  std::string at;  // RFC 3339, UTC
  std::string by;
  std::string title;
  std::int64_t receipt = 0;  // its number in the store
  ReceiptBlock block;        // of one row
  std::string origin;        // "line 17 of list.csv"; empty: it comes from no file
};

// The keys of one record of a block by these columns, before and after; none where the block does not have them.
[[nodiscard]] std::vector<ValueTuple> keysOf(const ReceiptBlock& block, const std::vector<std::string>& columns,
                                             std::size_t row);
// One record of a receipt's block.
[[nodiscard]] ReceiptBlock onlyRow(const ReceiptBlock& block, std::size_t row);

// False stops.
using RecordChangeSink = std::function<bool(RecordChange&& change)>;

// What was applied, the latest first; of one receipt in the order of its changes, what the database did along with them
// behind it. `record` null: all records; else those that had its key before or after, and, once a change of the key
// leads there, what was done under the one before. Receipts whose outcome nobody learnt (pending) and those that cannot
// be read are handed to `leftOut`. Errors: the store's.
[[nodiscard]] Status eachRecordChange(
    Store& store, const std::string& address, const NamedRecord* record, const RecordChangeSink& sink,
    const std::function<void(const KeptReceipt& receipt, const std::string& why)>& leftOut);

}  // namespace iterandum
