// Examination: names and values. The rest is in examination_records.cpp, unique_check.cpp and reference_check.cpp.
#include "core/review/examination.h"

#include <algorithm>
#include <numeric>
#include <set>

#include "core/catalogue/column_rules.h"
#include "core/review/reference_check.h"
#include "core/review/unique_check.h"

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

Finding Examination::findingFor(const RowPlace& place, FindingKind kind, const std::string& message) const {
  const ExaminedBlock& block = blocks_[place.block];
  Finding finding;
  finding.kind = kind;
  finding.change = block.changes.changeIndex[place.row];
  finding.table = block.changes.table;
  finding.keyColumns = block.changes.keyColumns;
  finding.key = block.changes.key(place.row);
  finding.message = recordInWords(finding.table, finding.key) + ": " + message;
  return finding;
}

void Examination::note(const RowPlace& place, Finding finding) {
  ChangeState& state = blocks_[place.block].states[place.row];
  if (finding.blocks && state == ChangeState::Open) state = ChangeState::Blocked;
  findings_.push_back(std::move(finding));
}

void Examination::refuseAll(std::uint32_t index, FindingKind kind, const std::string& column,
                            const std::string& message, ChangeState state) {
  for (std::uint32_t row = 0; row < blocks_[index].changes.rows(); ++row) {
    Finding finding = findingFor({index, row}, kind, message);
    finding.column = column;
    findings_.push_back(std::move(finding));
    ChangeState& changeState = blocks_[index].states[row];
    if (changeState != ChangeState::Unresolvable) changeState = state;
  }
}

std::vector<Finding> Examination::takeFindings() {
  std::stable_sort(findings_.begin(), findings_.end(),
                   [](const Finding& a, const Finding& b) { return a.change < b.change; });
  return std::move(findings_);
}

bool Examination::blocked() const {
  return std::any_of(findings_.begin(), findings_.end(), [](const Finding& f) { return f.blocks; });
}

void Examination::count() {
  counts_ = {};
  std::set<TableName> tables;
  for (const ExaminedBlock& block : blocks_) {
    const ChangeBlock& changes = block.changes;
    tables.insert(changes.table);
    if (changes.action == Action::Edit) {
      counts_.edits += changes.rows();
      counts_.cells += changes.rows() * changes.cells.size();
    } else if (changes.action == Action::Add) {
      counts_.additions += changes.rows();
    } else {
      counts_.removals += changes.rows();
    }
  }
  counts_.tables = tables.size();
}

void Examination::resolve(ExaminedBlock& block, std::uint32_t index) {
  block.states.assign(block.changes.rows(), ChangeState::Open);
  block.fates.resize(block.changes.cells.size());
  block.table = catalogue_.find(block.changes.table);
  if (block.table == nullptr) {
    const std::string close = catalogue_.closestName(block.changes.table.name);
    refuseAll(index, FindingKind::StructureChanged, "",
              "this database has no table " + displayName(block.changes.table) +
                  (close.empty() ? "" : "; the closest name is " + close),
              ChangeState::Unresolvable);
    return;
  }
  const Table& table = *block.table;
  for (const Column& column : table.columns) block.cellAt.push_back(block.cellOf(column.name));
  if (!table.unusable.empty()) {
    refuseAll(index, FindingKind::StructureChanged, "", "the table cannot be read: " + table.unusable,
              ChangeState::Unresolvable);
    return;
  }
  const std::string* reason = &table.notEditable;
  if (reason->empty()) {
    reason = block.changes.action == Action::Edit  ? &table.cannotEdit
             : block.changes.action == Action::Add ? &table.cannotAdd
                                                   : &table.cannotRemove;
  }
  if (!reason->empty()) {
    refuseAll(index, FindingKind::NotEditable, "", "it cannot be changed: " + *reason, ChangeState::Blocked);
  }
  resolveColumns(block, index);
  resolveValues(block, index);
  if (block.changes.action == Action::Add) checkAdditionComplete(block, index);
}

void Examination::resolveColumns(ExaminedBlock& block, std::uint32_t index) {
  const Table& table = *block.table;
  const auto missing = [&](const std::string& column) {
    refuseAll(index, FindingKind::StructureChanged, column,
              displayName(table.name) + " has no column " + quotedIfOdd(column), ChangeState::Unresolvable);
  };
  for (std::string& column : block.changes.keyColumns) {
    // "rowid" is understood whatever name the row id goes by here.
    if (table.column(column) == nullptr && column == "rowid" && !table.rowIdName.empty()) column = table.rowIdName;
    if (table.column(column) == nullptr && (column != table.rowIdName || column.empty())) missing(column);
  }
  for (const ChangeBlock::Cells& cells : block.changes.cells) {
    const Column* column = table.column(cells.column);
    if (column == nullptr) {
      missing(cells.column);
    } else if (!column->notEditable.empty() && block.changes.action != Action::Remove) {
      refuseAll(index, FindingKind::NotEditable, cells.column, cells.column + " cannot be set: " + column->notEditable,
                ChangeState::Blocked);
    }
  }
}

void Examination::resolveValues(ExaminedBlock& block, std::uint32_t index) {
  const Table& table = *block.table;
  ChangeBlock& changes = block.changes;
  for (std::size_t k = 0; k < changes.keys.size(); ++k) {
    const Column* column = table.column(changes.keyColumns[k]);
    static const Column kRowId = [] {
      Column c;
      c.type = TypeClass::Integer;
      return c;
    }();
    const Column& description = column != nullptr ? *column : kRowId;
    ValueColumn converted;
    converted.reserve(changes.rows());
    for (std::size_t r = 0; r < changes.rows(); ++r) converted.push(comparableForm(description, changes.keys[k].at(r)));
    changes.keys[k] = std::move(converted);
  }
  for (ChangeBlock::Cells& cells : changes.cells) {
    const Column* column = table.column(cells.column);
    if (column == nullptr) continue;
    if (cells.hasFrom) {
      ValueColumn converted;
      converted.reserve(changes.rows());
      for (std::size_t r = 0; r < changes.rows(); ++r) converted.push(comparableForm(*column, cells.from.at(r)));
      cells.from = std::move(converted);
    }
    if (changes.action == Action::Remove) continue;
    ValueColumn converted;
    converted.reserve(changes.rows());
    for (std::uint32_t r = 0; r < changes.rows(); ++r) {
      const Value given = cells.to.at(r);
      auto stored = storedForm(*column, given);
      if (!stored && changes.action == Action::Add && given.isNull() && column->generatedKey) stored = Value();
      if (stored) {
        if (changes.action == Action::Add && isStrangeDate(*column, *stored)) {
          Finding finding = findingFor({index, r}, FindingKind::ValueRefused, strangeDate(*column, *stored));
          finding.column = cells.column;
          finding.to = *stored;
          finding.blocks = false;
          findings_.push_back(std::move(finding));
        }
        converted.push(std::move(*stored));
        continue;
      }
      Finding finding = findingFor({index, r}, FindingKind::ValueRefused, stored.error().message);
      finding.column = cells.column;
      if (cells.hasFrom) finding.from = cells.from.at(r);
      finding.to = given;
      note({index, r}, std::move(finding));
      converted.push(comparableForm(*column, given));
    }
    cells.to = std::move(converted);
  }
}

Status Examination::respell(ExaminedBlock& block) {
  std::map<const Column*, std::vector<ValueColumn*>> places;
  const auto add = [&](const std::string& name, ValueColumn& values) {
    const Column* column = block.table->column(name);
    if (column != nullptr && column->respelled) places[column].push_back(&values);
  };
  ChangeBlock& changes = block.changes;
  for (std::size_t k = 0; k < changes.keys.size(); ++k) add(changes.keyColumns[k], changes.keys[k]);
  for (ChangeBlock::Cells& cells : changes.cells) {
    if (cells.hasFrom) add(cells.column, cells.from);
    if (changes.action != Action::Remove) add(cells.column, cells.to);
  }
  for (const auto& [column, columns] : places) ITERANDUM_TRY(session_.respell(*column, columns, progress_));
  return {};
}

void Examination::resolveLabels() {
  std::unordered_map<std::string, RowPlace> labels;
  for (std::uint32_t b = 0; b < blocks_.size(); ++b) {
    const ChangeBlock& changes = blocks_[b].changes;
    for (std::uint32_t r = 0; r < changes.labels.size(); ++r) {
      if (!changes.labels[r].empty() && blocks_[b].table != nullptr) labels[changes.labels[r]] = {b, r};
    }
  }
  if (labels.empty()) return;
  for (ExaminedBlock& block : blocks_) {
    if (block.table == nullptr || block.changes.action == Action::Remove) continue;
    for (ChangeBlock::Cells& cells : block.changes.cells) {
      for (std::uint32_t r = 0; r < block.changes.rows(); ++r) {
        const Value to = cells.to.at(r);
        if (to.kind() != Value::Kind::PendingKey) continue;
        const auto label = labels.find(std::string(to.asString()));
        if (label == labels.end()) continue;
        const ExaminedBlock& added = blocks_[label->second.block];
        const auto given = added.cellOf(labelledColumn(*block.table, cells.column, *added.table));
        if (!given) continue;
        Value value = added.changes.cells[*given].to.at(label->second.row);
        if (!value.isNull() && value.kind() != Value::Kind::PendingKey) cells.to.set(r, std::move(value));
      }
    }
  }
}

std::string strangeDate(const Column& column, const Value& value) {
  return column.name + " would hold " + valueInWords(value) +
         ", which is no date or time; the database takes it as it is. " + wantedInWords(column) +
         " is meant there, unless it is counted in numbers on purpose";
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

void Examination::checkAdditionComplete(ExaminedBlock& block, std::uint32_t index) {
  for (const Column& column : block.table->columns) {
    const bool needed = !column.nullable && !column.hasDefault && !column.generatedKey && !column.computed;
    if (!needed || block.cellOf(column.name)) continue;
    refuseAll(index, FindingKind::ValueRefused, column.name,
              column.name + " must have a value, and the database sets none by itself; " + wantedInWords(column) +
                  " is wanted",
              ChangeState::Blocked);
  }
}

void Examination::noteNotAtomic() {
  std::set<const Table*> said;
  for (std::uint32_t i = 0; i < blocks_.size(); ++i) {
    const Table* table = blocks_[i].table;
    if (table == nullptr || !table->cannotRollBack || blocks_[i].changes.rows() == 0 || !said.insert(table).second)
      continue;
    Finding finding = findingFor({i, 0}, FindingKind::NotAtomic, "");
    finding.blocks = false;
    finding.message = displayName(table->name) +
                      ": its storage cannot take back what was written. Its changes are written last, after all others "
                      "went through; if one of them fails then, those before it stay";
    findings_.push_back(std::move(finding));
  }
}

Status Examination::run(ChangeList changes) {
  bool merged = true;
  while (merged) {
    blocks_.clear();
    findings_.clear();
    touched_.clear();
    blocks_.resize(changes.blocks().size());
    for (std::uint32_t i = 0; i < blocks_.size(); ++i) {
      blocks_[i].changes = changes.blocks()[i];
      resolve(blocks_[i], i);
      if (blocks_[i].table == nullptr) continue;
      ITERANDUM_TRY(respell(blocks_[i]));
    }
    resolveLabels();
    for (std::uint32_t i = 0; i < blocks_.size(); ++i) {
      if (blocks_[i].table != nullptr) ITERANDUM_TRY(readBefore(i));
    }
    ITERANDUM_ASSIGN(merged, mergeDoubles(changes));
  }
  count();
  for (std::uint32_t i = 0; i < blocks_.size(); ++i) compare(i);
  for (std::uint32_t i = 0; i < blocks_.size(); ++i) {
    // What cannot be rolled back is not rehearsed either: its rules are judged by reading alone.
    const bool stays = blocks_[i].table != nullptr && blocks_[i].table->cannotRollBack;
    if (options_.checkRules || stays) ITERANDUM_TRY(checkRules(i));
  }
  noteNotAtomic();
  ReferenceCheck references(*this);
  // What goes or changes by itself makes room for unique values, and is nothing to point at.
  ITERANDUM_TRY(references.followConsequences());
  ITERANDUM_TRY(UniqueCheck(*this).run());
  return references.checkParents();
}

const RowPlace* Examination::touching(const Table& table, const ValueTuple& identity) {
  auto [it, isNew] = touched_.try_emplace(&table);
  if (isNew) {
    for (std::uint32_t b = 0; b < blocks_.size(); ++b) {
      const ExaminedBlock& block = blocks_[b];
      if (block.table != &table || block.changes.action == Action::Add || block.found.empty()) continue;
      for (std::uint32_t r = 0; r < block.changes.rows(); ++r) {
        if (block.found[r] != 0 && block.states[r] != ChangeState::Skipped)
          it->second.try_emplace(block.writeKey(r), RowPlace{b, r});
      }
    }
  }
  const auto place = it->second.find(identity);
  return place == it->second.end() ? nullptr : &place->second;
}

bool Examination::writesAny(const ExaminedBlock& block, std::size_t row,
                            const std::vector<std::size_t>& columns) const {
  return std::any_of(columns.begin(), columns.end(), [&](std::size_t c) {
    const auto cell = block.cellAt[c];
    return cell && block.promisesCell(*cell, row);
  });
}

const Consequence* Examination::consequenceFor(const Table& table, const ValueTuple& identity) const {
  const auto ofTable = consequenceAt_.find(&table);
  if (ofTable == consequenceAt_.end()) return nullptr;
  const auto at = ofTable->second.find(identity);
  return at == ofTable->second.end() ? nullptr : &consequences_[at->second];
}

std::optional<ValueTuple> Examination::finalTuple(const RowPlace& place,
                                                  const std::vector<std::size_t>& columns) const {
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

}  // namespace iterandum
