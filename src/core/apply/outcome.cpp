#include "core/apply/outcome.h"

#include <algorithm>
#include <numeric>

namespace iterandum {
namespace {

struct Evidence {
  std::uint64_t written = 0;
  std::uint64_t notWritten = 0;
};

// The records of a block, looked up under these keys: which rows are there, and what they hold in block.columns.
Result<std::vector<ValueTuple>> recordsByKey(Session& session, const Table& table, const ReceiptBlock& block,
                                             const std::vector<ValueColumn>& keys, Progress& progress) {
  std::vector<std::uint32_t> rows(block.rows());
  std::iota(rows.begin(), rows.end(), 0U);
  std::vector<ValueTuple> found(block.rows());
  KeyRead read{&table, block.keyColumns, &keys, rows, block.columns, 2};
  ITERANDUM_TRY(session.readByKeys(
      read, [&](std::size_t row, ValueTuple&& record) { found[row] = std::move(record); }, progress));
  return found;
}

// The keys that the records have after an edit, which may have changed them.
std::vector<ValueColumn> keysAfter(const ReceiptBlock& block) {
  std::vector<ValueColumn> keys = block.keys;
  for (std::size_t k = 0; k < keys.size(); ++k) {
    const auto at = std::find(block.columns.begin(), block.columns.end(), block.keyColumns[k]);
    if (at != block.columns.end()) keys[k] = block.after[static_cast<std::size_t>(at - block.columns.begin())];
  }
  return keys;
}

bool holds(const ValueTuple& record, const std::vector<ValueColumn>& values, const std::vector<std::size_t>& columns,
           std::size_t row) {
  return !record.empty() && std::all_of(columns.begin(), columns.end(),
                                        [&](std::size_t c) { return sameValue(record[c], values[c].at(row)); });
}

Result<Evidence> evidenceOf(Session& session, const Table& table, const ReceiptBlock& block, Progress& progress) {
  Evidence evidence;
  ITERANDUM_ASSIGN(const std::vector<ValueTuple> atKey, recordsByKey(session, table, block, block.keys, progress));
  std::vector<ValueTuple> atNewKey = atKey;
  if (block.action == Action::Edit) {
    ITERANDUM_ASSIGN(atNewKey, recordsByKey(session, table, block, keysAfter(block), progress));
  }
  for (std::size_t row = 0; row < block.rows(); ++row) {
    if (block.outcomes[row] != Outcome::Applied) continue;
    if (block.action == Action::Add) {
      // The new record under its key speaks for itself; another one there says nothing.
      std::vector<std::size_t> all(block.columns.size());
      std::iota(all.begin(), all.end(), std::size_t{0});
      if (atKey[row].empty()) ++evidence.notWritten;
      if (holds(atKey[row], block.after, all, row)) ++evidence.written;
      continue;
    }
    if (block.action == Action::Remove) {
      ++(atKey[row].empty() ? evidence.written : evidence.notWritten);
      continue;
    }
    std::vector<std::size_t> changed;
    for (std::size_t c = 0; c < block.columns.size(); ++c) {
      if (!sameValue(block.before[c].at(row), block.after[c].at(row))) changed.push_back(c);
    }
    if (changed.empty()) continue;
    if (holds(atNewKey[row], block.after, changed, row)) ++evidence.written;
    if (holds(atKey[row], block.before, changed, row)) ++evidence.notWritten;
  }
  return evidence;
}

}  // namespace

Result<WrittenState> writtenState(Session& session, const Catalogue& catalogue, const Receipt& receipt,
                                  Progress& progress) {
  Evidence all;
  for (const ReceiptBlock& block : receipt.blocks) {
    const Table* table = catalogue.find(block.table);
    if (table == nullptr || block.keys.empty()) return WrittenState::NotKnown;
    const auto known = [&](const std::string& name) {
      return table->column(name) != nullptr || (name == table->rowIdName && !name.empty());
    };
    if (!std::all_of(block.columns.begin(), block.columns.end(), known)) return WrittenState::NotKnown;
    ITERANDUM_ASSIGN(const Evidence evidence, evidenceOf(session, *table, block, progress));
    all.written += evidence.written;
    all.notWritten += evidence.notWritten;
  }
  if (all.written > 0 && all.notWritten == 0) return WrittenState::Written;
  if (all.notWritten > 0 && all.written == 0) return WrittenState::NotWritten;
  return WrittenState::NotKnown;
}

}  // namespace iterandum
