#include "core/store/record_history.h"

#include <algorithm>
#include <unordered_set>

#include "core/store/key_filter.h"

namespace iterandum {

ReceiptBlock onlyRow(const ReceiptBlock& block, std::size_t row) {
  ReceiptBlock out;
  out.action = block.action;
  out.table = block.table;
  out.cascaded = block.cascaded;
  out.keyColumns = block.keyColumns;
  out.columns = block.columns;
  out.anyTypeColumns = block.anyTypeColumns;
  for (const ValueColumn& k : block.keys) out.keys.emplace_back(1, k.at(row));
  for (const ValueColumn& v : block.before) out.before.emplace_back(1, v.at(row));
  for (const ValueColumn& v : block.after) out.after.emplace_back(1, v.at(row));
  out.outcomes = {block.outcomes[row]};
  out.changeIndex = {block.changeIndex[row]};
  return out;
}

namespace {

// Where columns lie in a block's records; what only its keys hold (a row id) is told apart by being negative.
std::vector<std::ptrdiff_t> placesOf(const ReceiptBlock& block, const std::vector<std::string>& columns) {
  std::vector<std::ptrdiff_t> out;
  for (const std::string& name : columns) {
    const auto at = std::find(block.columns.begin(), block.columns.end(), name);
    if (at != block.columns.end()) {
      out.push_back(at - block.columns.begin());
      continue;
    }
    const auto key = std::find(block.keyColumns.begin(), block.keyColumns.end(), name);
    if (key == block.keyColumns.end()) return {};
    out.push_back(-1 - (key - block.keyColumns.begin()));
  }
  return out;
}

ValueTuple keyIn(const ReceiptBlock& block, const std::vector<ValueColumn>& values,
                 const std::vector<std::ptrdiff_t>& places, std::size_t row) {
  ValueTuple out;
  if (values.empty()) return out;
  for (const std::ptrdiff_t at : places) {
    out.push_back(at >= 0 ? values[static_cast<std::size_t>(at)].at(row)
                          : block.keys[static_cast<std::size_t>(-1 - at)].at(row));
  }
  return out;
}

}  // namespace

std::vector<ValueTuple> keysOf(const ReceiptBlock& block, const std::vector<std::string>& columns, std::size_t row) {
  std::vector<ValueTuple> out;
  const std::vector<std::ptrdiff_t> places = placesOf(block, columns);
  if (places.empty()) return out;
  for (const std::vector<ValueColumn>* values : {&block.before, &block.after}) {
    ValueTuple key = keyIn(block, *values, places, row);
    if (!key.empty()) out.push_back(std::move(key));
  }
  return out;
}

namespace {

// A receipt has a table as the change file named it: with or without its schema.
bool isTable(const TableName& kept, const TableName& wanted) {
  return kept.name == wanted.name && (kept.schema == wanted.schema || kept.schema.empty() || wanted.schema.empty());
}

using Keys = std::unordered_set<ValueTuple, TupleHash, TupleSame>;

// Rows that are wanted, in the order of their changes.
std::vector<std::pair<std::size_t, std::size_t>> wantedRows(const Receipt& receipt, const NamedRecord* record,
                                                            Keys& keys) {
  std::vector<std::pair<std::size_t, std::size_t>> out;
  Keys further;
  for (std::size_t b = 0; b < receipt.blocks.size(); ++b) {
    const ReceiptBlock& block = receipt.blocks[b];
    if (record != nullptr && !isTable(block.table, record->table)) continue;
    const bool one = record != nullptr && !record->columns.empty();
    const std::vector<std::ptrdiff_t> places = one ? placesOf(block, record->columns) : std::vector<std::ptrdiff_t>();
    if (one && places.empty()) continue;
    for (std::size_t i = 0; i < block.rows(); ++i) {
      if (block.outcomes[i] != Outcome::Applied) continue;
      if (one) {
        ValueTuple before = keyIn(block, block.before, places, i);
        const ValueTuple after = keyIn(block, block.after, places, i);
        if (!keys.contains(before) && !keys.contains(after)) continue;
        if (!before.empty()) further.insert(std::move(before));
      }
      out.emplace_back(b, i);
    }
  }
  keys.insert(further.begin(), further.end());
  std::stable_sort(out.begin(), out.end(), [&](const auto& a, const auto& b) {
    const ReceiptBlock& one = receipt.blocks[a.first];
    const ReceiptBlock& other = receipt.blocks[b.first];
    if (one.cascaded != other.cascaded) return other.cascaded;
    return one.changeIndex[a.second] < other.changeIndex[b.second];
  });
  return out;
}

}  // namespace

Status eachRecordChange(Store& store, const std::string& address, const NamedRecord* record,
                        const RecordChangeSink& sink,
                        const std::function<void(const KeptReceipt& receipt, const std::string& why)>& leftOut) {
  ITERANDUM_ASSIGN(const std::vector<KeptReceipt> kept, store.receipts(address));
  Keys keys;
  if (record != nullptr) keys.insert(record->key);
  const bool oneRecord = record != nullptr && !record->columns.empty();
  TouchedReceipts touched;
  if (oneRecord) {
    ITERANDUM_ASSIGN(touched, store.touchedBy(address, record->table.name, record->columns));
  }
  std::vector<std::uint64_t> hashes;
  for (const KeptReceipt& one : kept) {
    if (one.pending) {
      leftOut(one, "whether it was applied is not known");
      continue;
    }
    if (oneRecord && hashes.size() != keys.size()) {
      hashes.clear();
      for (const ValueTuple& key : keys) hashes.push_back(keyHash(key));
    }
    if (oneRecord && !touched.maySpeakOf(one.id, hashes)) continue;
    auto receipt = store.receipt(one.id);
    if (!receipt) {
      leftOut(one, receipt.error().text());
      continue;
    }
    // Kept by an older version: noted now, for the next time. Where that cannot be written it is read again then.
    if (oneRecord && !touched.noted.contains(one.id)) (void)store.noteTouchedLater(one.id, *receipt);
    for (const auto& [b, row] : wantedRows(*receipt, record, keys)) {
      const ReceiptBlock& block = receipt->blocks[b];
      std::string origin = block.cascaded ? std::string() : receipt->origins.inWords(block.changeIndex[row]);
      if (!sink(
              {receipt->appliedAt, receipt->appliedBy, receipt->title, one.id, onlyRow(block, row), std::move(origin)}))
        return {};
    }
  }
  return {};
}

}  // namespace iterandum
