// Execution: the records as they are after the writes, held against what was asked for.
#include <algorithm>

#include "core/apply/execution.h"

namespace iterandum {

void Execution::prepare(std::uint32_t index) {
  const ExaminedBlock& block = examination_.blocks()[index];
  if (block.table == nullptr) return;
  RecordLayout& layout = layouts_[index];
  layout.columns = block.table->recordColumns();
  layout.keyColumns = block.table->writeKeyColumns();
  for (const std::string& name : layout.columns) {
    layout.cellOfColumn.push_back(block.cellOf(name));
    layout.beforeOfColumn.push_back(block.recordColumn(name));
  }
  for (const std::string& name : layout.keyColumns) layout.cellOfKey.push_back(block.cellOf(name));
  if (block.changes.action != Action::Add) return;
  newKeys_[index].known.assign(block.changes.rows(), 0);
  newKeys_[index].keys.assign(block.changes.rows(), {});
}

ValueTuple Execution::keyAfter(std::uint32_t index, std::uint32_t row) const {
  const ExaminedBlock& block = examination_.blocks()[index];
  if (block.changes.action == Action::Add) return newKeys_[index].keys[row];
  ValueTuple key = block.writeKey(row);
  for (std::size_t k = 0; k < key.size(); ++k) {
    const auto cell = layouts_[index].cellOfKey[k];
    if (cell && block.writesCell(*cell, row)) resolve(block, *cell, row, key[k]);
  }
  return key;
}

Value Execution::expected(std::uint32_t index, std::size_t column, std::uint32_t row) const {
  const ExaminedBlock& block = examination_.blocks()[index];
  const auto cell = layouts_[index].cellOfColumn[column];
  Value out;
  if (cell && block.writesCell(*cell, row)) {
    resolve(block, *cell, row, out);
  } else if (block.changes.action != Action::Add) {
    out = block.before[layouts_[index].beforeOfColumn[column]].at(row);
  }
  return out;
}

Status Execution::readAfter(std::uint32_t index) {
  const ExaminedBlock& block = examination_.blocks()[index];
  const RecordLayout& layout = layouts_[index];
  std::vector<ValueColumn> keys(layout.keyColumns.size());
  std::vector<std::uint32_t> rows;
  for (std::uint32_t r = 0; r < block.changes.rows(); ++r) {
    const bool written = block.states[r] == ChangeState::Open;
    const ValueTuple key = written ? keyAfter(index, r) : ValueTuple();
    if (!key.empty()) rows.push_back(r);
    for (std::size_t k = 0; k < keys.size(); ++k) keys[k].push(key.empty() ? Value() : key[k]);
  }
  std::vector<std::uint8_t> seen(block.changes.rows(), 0);
  std::vector<ValueTuple> records(block.changes.rows());
  orderByKey(keys, rows);
  KeyRead read{block.table, layout.keyColumns, &keys, rows, layout.columns, 2};
  ITERANDUM_TRY(session_.readByKeys(
      read,
      [&](std::size_t row, ValueTuple&& record) {
        seen[row] = 1;
        records[row] = std::move(record);
      },
      progress_));
  after_[index].assign(layout.columns.size(), {});
  for (std::size_t c = 0; c < layout.columns.size(); ++c) {
    ValueColumn column;
    column.reserve(records.size());
    for (ValueTuple& record : records) column.push(record.empty() ? Value() : std::move(record[c]));
    after_[index][c] = std::move(column);
  }
  for (const std::uint32_t r : rows) {
    if (seen[r] != 0) continue;
    refuse({index, r}, Error(ErrorKind::Refused,
                             "the record is not there after the write; a trigger of the database may have "
                             "removed it or changed its key"));
  }
  return {};
}

void Execution::compareAfter(std::uint32_t index) {
  const ExaminedBlock& block = examination_.blocks()[index];
  const bool added = block.changes.action == Action::Add;
  for (std::uint32_t r = 0; r < block.changes.rows(); ++r) {
    if (block.states[r] != ChangeState::Open || (added && newKeys_[index].known[r] == 0)) continue;
    for (std::size_t c = 0; c < layouts_[index].columns.size(); ++c) {
      Value wanted = expected(index, c, r);
      const Value now = after_[index][c].at(r);
      if (sameValue(now, wanted)) continue;
      if (!compareWritten(index, c, r, std::move(wanted), now)) break;
    }
  }
}

// False when the whole record is refused.
bool Execution::compareWritten(std::uint32_t index, std::size_t column, std::uint32_t row, Value wanted,
                               const Value& now) {
  const ExaminedBlock& block = examination_.blocks()[index];
  const RecordLayout& layout = layouts_[index];
  const std::string& name = layout.columns[column];
  const auto cell = layout.cellOfColumn[column];
  if (block.changes.action != Action::Add && cell && block.writesCell(*cell, row) &&
      sameValue(now, block.before[layout.beforeOfColumn[column]].at(row))) {
    refuse({index, row}, Error(ErrorKind::Refused, name + " still holds " + valueInWords(now) +
                                                       " after the write: the database drops it without a word"));
    return false;
  }
  Effect effect;
  effect.table = block.table->name;
  effect.change = block.changes.changeIndex[row];
  effect.column = name;
  effect.keyColumns = layout.keyColumns;
  effect.key = keyAfter(index, row);
  effect.from = std::move(wanted);
  effect.to = now;
  effects_.push_back(std::move(effect));
  return true;
}

}  // namespace iterandum
