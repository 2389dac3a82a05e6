// Execution: the records as they are after the writes, held against what was asked for.
#include <algorithm>

#include "core/apply/execution.h"
#include "core/catalogue/database_code.h"

namespace iterandum {

void Execution::prepare(std::uint32_t index) {
  const ExaminedBlock& block = facts_.blocks()[index];
  if (block.table == nullptr) return;
  RecordLayout& layout = layouts_[index];
  layout.columns = block.table->recordColumns();
  layout.keyColumns = block.table->writeKeyColumns();
  for (const std::string& name : layout.columns) {
    layout.cellOfColumn.push_back(block.cellOf(name));
    layout.beforeOfColumn.push_back(block.recordColumn(name));
  }
  for (const std::string& name : layout.keyColumns) layout.cellOfKey.push_back(block.cellOf(name));
  written_[index].assign(block.changes.rows(), 0);
  if (block.changes.action != Action::Add) return;
  newKeys_[index].known.assign(block.changes.rows(), 0);
  newKeys_[index].keys.assign(block.changes.rows(), {});
}

ValueTuple Execution::keyAfter(std::uint32_t index, std::uint32_t row) const {
  const ExaminedBlock& block = facts_.blocks()[index];
  if (block.changes.action == Action::Add) return newKeys_[index].keys[row];
  const Consequence* by = consequenceOf(index, row);
  ValueTuple key = by != nullptr ? by->identityAfter() : block.writeKey(row);
  for (std::size_t k = 0; k < key.size(); ++k) {
    const auto cell = layouts_[index].cellOfKey[k];
    if (cell && block.promisesCell(*cell, row)) resolve(block, *cell, row, key[k]);
  }
  return key;
}

ValueTuple Execution::identityAfter(const RowPlace& place) const {
  const bool added = facts_.blocks()[place.block].changes.action == Action::Add;
  if (added && newKeys_[place.block].known[place.row] == 0) return {};
  return keyAfter(place.block, place.row);
}

const Consequence* Execution::consequenceOf(std::uint32_t index, std::uint32_t row) const {
  const ExaminedBlock& block = facts_.blocks()[index];
  if (block.changes.action == Action::Add || facts_.consequences().empty() || block.table == nullptr) return nullptr;
  return facts_.consequenceFor(*block.table, block.writeKey(row));
}

Value Execution::expected(std::uint32_t index, std::size_t column, std::uint32_t row) const {
  const ExaminedBlock& block = facts_.blocks()[index];
  const auto cell = layouts_[index].cellOfColumn[column];
  Value out;
  if (cell && block.promisesCell(*cell, row)) {
    resolve(block, *cell, row, out);
  } else if (block.changes.action != Action::Add) {
    out = block.before[layouts_[index].beforeOfColumn[column]].at(row);
  }
  return out;
}

Status Execution::readAfter(std::uint32_t index) {
  const ExaminedBlock& block = facts_.blocks()[index];
  const RecordLayout& layout = layouts_[index];
  std::vector<ValueColumn> keys(layout.keyColumns.size());
  std::vector<std::uint32_t> rows;
  for (std::uint32_t r = 0; r < block.changes.rows(); ++r) {
    const bool written = verdicts_.isOpen({index, r});
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
  const ExaminedBlock& block = facts_.blocks()[index];
  const bool added = block.changes.action == Action::Add;
  for (std::uint32_t r = 0; r < block.changes.rows(); ++r) {
    if (!verdicts_.isOpen({index, r}) || (added && newKeys_[index].known[r] == 0)) continue;
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
  const ExaminedBlock& block = facts_.blocks()[index];
  const RecordLayout& layout = layouts_[index];
  const std::string& name = layout.columns[column];
  const auto cell = layout.cellOfColumn[column];
  const bool asked = cell && block.promisesCell(*cell, row) && !leftToDatabase(block, *cell, row);
  if (asked && block.changes.action != Action::Add &&
      sameValue(now, block.before[layout.beforeOfColumn[column]].at(row))) {
    refuse({index, row}, Error(ErrorKind::Refused, name + " still holds " + valueInWords(now) +
                                                       " after the write: the database drops it without a word"));
    return false;
  }
  if (asked && !mayEndOtherwise(*block.table, name, wanted, now)) {
    refuse({index, row},
           Error(ErrorKind::Refused, name + " would hold " + valueInWords(now) + " afterwards, not " +
                                         valueInWords(wanted) + " as asked for, and no trigger is known that sets it"));
    return false;
  }
  // What a cascade sets is told as that.
  const Consequence* by = asked ? nullptr : consequenceOf(index, row);
  const auto position = block.table->columnIndex(name);
  if (by != nullptr && position && by->valueOf(*position) != nullptr) return true;
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

// An addition that names a generated key without giving a value.
bool Execution::leftToDatabase(const ExaminedBlock& block, std::size_t cell, std::uint32_t row) {
  const Column* column = block.table->column(block.changes.cells[cell].column);
  return block.changes.action == Action::Add && column != nullptr && column->generatedKey &&
         block.changes.cells[cell].to.at(row).isNull();
}

namespace {

// Whether the column's type stores such a value in a form of its own: rounded, padded, in another spelling.
bool isStoredForm(const Column& column, const Value& wanted, const Value& now) {
  if (wanted.isNull() || now.isNull()) return false;
  // Where other types may lie, a value of another type comes as its text.
  if (column.storesOffType && canonicalText(wanted) == canonicalText(now)) return true;
  const auto trimmed = [](const Value& v) {
    std::string text = canonicalText(v);
    text.erase(text.find_last_not_of(' ') + 1);
    return text;
  };
  switch (column.type) {
    case TypeClass::Boolean:
    case TypeClass::Integer:
      return false;
    case TypeClass::Text:
    case TypeClass::Bytes:
      return column.respelled || trimmed(wanted) == trimmed(now);
    default:
      return true;
  }
}

}  // namespace

bool Execution::mayEndOtherwise(const Table& table, const std::string& column, const Value& wanted,
                                const Value& now) const {
  const Column* description = table.column(column);
  if (description == nullptr || isStoredForm(*description, wanted, now)) return true;
  const auto& tables = facts_.catalogue().tables();
  // A view's columns go by other names where its triggers are.
  if (table.kind == TableKind::View &&
      std::any_of(tables.begin(), tables.end(), [](const Table& t) { return !t.triggers.empty(); }))
    return true;
  return std::any_of(tables.begin(), tables.end(), [&](const Table& t) {
    return std::any_of(t.triggers.begin(), t.triggers.end(), [&](const Trigger& trigger) {
      return trigger.text.empty() || mentionsName(trigger.text, column);
    });
  });
}

void Execution::compareConsequence(const Consequence& consequence, const ValueTuple& after) {
  const Table& table = *consequence.table;
  const auto refuseCause = [&](const std::string& what) {
    if (!verdicts_.isOpen(consequence.place)) return;
    refuse(consequence.place, Error(ErrorKind::Refused, recordInWords(table.name, consequence.identity) +
                                                            ", which the "
                                                            "database changes along with it, " +
                                                            what));
  };
  const bool known = std::all_of(consequence.values.begin(), consequence.values.end(),
                                 [](const auto& value) { return value.has_value(); });
  if (after.empty()) {
    if (known) refuseCause("is not there afterwards");
    return;
  }
  for (std::size_t i = 0; i < consequence.columns.size(); ++i) {
    const std::size_t c = consequence.columns[i];
    const std::optional<Value>& wanted = consequence.values[i];
    if (!wanted || sameValue(after[c], *wanted) || mayEndOtherwise(table, table.columns[c].name, *wanted, after[c]))
      continue;
    return refuseCause("would hold " + valueInWords(after[c]) + " in " + table.columns[c].name + ", not " +
                       valueInWords(*wanted));
  }
}

}  // namespace iterandum
