#include "core/review/facts.h"

#include <algorithm>

namespace iterandum {

std::size_t ExaminedBlock::recordColumn(const std::string& name) const {
  return static_cast<std::size_t>(std::find(recordColumns.begin(), recordColumns.end(), name) - recordColumns.begin());
}

std::optional<std::size_t> ExaminedBlock::cellOf(const std::string& column) const {
  for (std::size_t c = 0; c < changes.cells.size(); ++c) {
    if (changes.cells[c].column == column) return c;
  }
  return std::nullopt;
}

ValueTuple ExaminedBlock::beforeTuple(const std::vector<std::size_t>& columns, std::size_t row) const {
  ValueTuple out;
  for (const std::size_t c : columns) {
    const std::size_t at = recordAt.empty() ? before.size() : recordAt[c];
    out.push_back(at < before.size() ? before[at].at(row) : Value());
  }
  return out;
}

void ExaminedBlock::setFate(std::size_t cell, std::size_t row, CellFate fate) {
  if (fates[cell].empty()) fates[cell].assign(changes.rows(), CellFate::Written);
  fates[cell][row] = fate;
}

const std::optional<Value>* Consequence::valueOf(std::size_t column) const {
  for (std::size_t i = 0; i < columns.size(); ++i) {
    if (columns[i] == column) return &values[i];
  }
  return nullptr;
}

ValueTuple Consequence::identityAfter() const {
  ValueTuple out = identity;
  const std::vector<std::string> names = table->writeKeyColumns();
  for (std::size_t k = 0; k < names.size(); ++k) {
    const auto column = table->columnIndex(names[k]);
    const std::optional<Value>* value = column ? valueOf(*column) : nullptr;
    if (value != nullptr && *value) out[k] = **value;
  }
  return out;
}

ValueTuple ExaminedBlock::writeKey(std::size_t row) const {
  ValueTuple out;
  for (const ValueColumn& column : writeKeys) out.push_back(column.at(row));
  return out;
}

bool Facts::promisesAny(const ExaminedBlock& block, std::size_t row, const std::vector<std::size_t>& columns) {
  return std::any_of(columns.begin(), columns.end(), [&](std::size_t c) {
    const auto cell = block.cellAt[c];
    return cell && block.promisesCell(*cell, row);
  });
}

const Consequence* Facts::consequenceFor(const Table& table, const ValueTuple& identity) const {
  const auto ofTable = consequenceAt_.find(&table);
  if (ofTable == consequenceAt_.end()) return nullptr;
  const auto at = ofTable->second.find(identity);
  return at == ofTable->second.end() ? nullptr : &consequences_[at->second];
}

std::optional<ValueTuple> Facts::finalTuple(const RowPlace& place, const std::vector<std::size_t>& columns) const {
  const ExaminedBlock& block = blocks_[place.block];
  ValueTuple out;
  for (const std::size_t c : columns) {
    const auto cell = block.cellAt[c];
    // A cell that is left keeps what the record holds.
    if (cell && (block.changes.action == Action::Add || block.promisesCell(*cell, place.row))) {
      Value to = block.changes.cells[*cell].to.at(place.row);
      if (to.kind() == Value::Kind::PendingKey) return std::nullopt;
      if (to.isNull() && block.changes.action == Action::Add && block.table->columns[c].generatedKey)
        return std::nullopt;
      out.push_back(std::move(to));
    } else if (block.changes.action == Action::Add) {
      const Column& column = block.table->columns[c];
      if (column.hasDefault || column.generatedKey || column.computed) return std::nullopt;
      out.emplace_back();
    } else {
      const std::size_t at = block.recordAt.empty() ? block.before.size() : block.recordAt[c];
      out.push_back(at < block.before.size() ? block.before[at].at(place.row) : Value());
    }
  }
  return out;
}

Consequence& Facts::addConsequence(const Table& table, const ValueTuple& identity, const ValueTuple& record,
                                   const RowPlace& place) {
  const auto [at, isNew] = consequenceAt_[&table].try_emplace(identity, consequences_.size());
  if (isNew) {
    Consequence consequence;
    consequence.kind = Consequence::Kind::Set;
    consequence.table = &table;
    consequence.before = record;
    consequence.identity = identity;
    consequence.place = place;
    consequences_.push_back(std::move(consequence));
  }
  return consequences_[at->second];
}

void Facts::clear() {
  blocks_.clear();
  dependencies_.clear();
  consequences_.clear();
  consequenceAt_.clear();
}

std::string labelledColumn(const Table& table, const std::string& column, const Table& added) {
  const auto own = table.columnIndex(column);
  for (const Reference& reference : table.references) {
    if (reference.targetMissing || reference.target != added.name) continue;
    for (std::size_t i = 0; own && i < reference.columns.size() && i < reference.targetColumns.size(); ++i) {
      if (reference.columns[i] == *own) return reference.targetColumns[i];
    }
  }
  // No reference says what is meant: the key.
  const std::vector<std::string> key = added.writeKeyColumns();
  return key.empty() ? std::string() : key[0];
}

}  // namespace iterandum
