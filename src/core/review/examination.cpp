// Examination: names and values. The rest is in examination_records.cpp, unique_check.cpp and reference_check.cpp.
#include "core/review/examination.h"

#include <algorithm>
#include <numeric>
#include <set>

#include "core/catalogue/column_rules.h"
#include "core/review/reference_check.h"
#include "core/review/unique_check.h"

namespace iterandum {

void Examination::count() {
  counts_ = {};
  std::set<TableName> tables;
  for (const ExaminedBlock& block : facts_.blocks()) {
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
  verdicts_.beginBlock(block.changes.rows());
  block.fates.resize(block.changes.cells.size());
  block.table = catalogue_.find(block.changes.table);
  if (block.table == nullptr) {
    const std::string close = catalogue_.closestName(block.changes.table.name);
    verdicts_.refuseAll(index, FindingKind::StructureChanged, "",
                        "this database has no table " + displayName(block.changes.table) +
                            (close.empty() ? "" : "; the closest name is " + close),
                        ChangeState::Unresolvable);
    return;
  }
  const Table& table = *block.table;
  for (const Column& column : table.columns) block.cellAt.push_back(block.cellOf(column.name));
  if (!table.unusable.empty()) {
    verdicts_.refuseAll(index, FindingKind::StructureChanged, "", "the table cannot be read: " + table.unusable,
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
    verdicts_.refuseAll(index, FindingKind::NotEditable, "", "it cannot be changed: " + *reason, ChangeState::Blocked);
  }
  resolveColumns(block, index);
  resolveValues(block, index);
  if (block.changes.action == Action::Add) checkAdditionComplete(block, index);
}

void Examination::resolveColumns(ExaminedBlock& block, std::uint32_t index) {
  const Table& table = *block.table;
  const auto missing = [&](const std::string& column) {
    verdicts_.refuseAll(index, FindingKind::StructureChanged, column,
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
      verdicts_.refuseAll(index, FindingKind::NotEditable, cells.column,
                          cells.column + " cannot be set: " + column->notEditable, ChangeState::Blocked);
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
          Finding finding = verdicts_.findingFor({index, r}, FindingKind::ValueRefused, strangeDate(*column, *stored));
          finding.column = cells.column;
          finding.to = *stored;
          finding.blocks = false;
          verdicts_.note({index, r}, std::move(finding));
        }
        converted.push(std::move(*stored));
        continue;
      }
      Finding finding = verdicts_.findingFor({index, r}, FindingKind::ValueRefused, stored.error().message);
      finding.column = cells.column;
      if (cells.hasFrom) finding.from = cells.from.at(r);
      finding.to = given;
      verdicts_.note({index, r}, std::move(finding));
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
  for (std::uint32_t b = 0; b < facts_.blocks().size(); ++b) {
    const ChangeBlock& changes = facts_.blocks()[b].changes;
    for (std::uint32_t r = 0; r < changes.labels.size(); ++r) {
      if (!changes.labels[r].empty() && facts_.blocks()[b].table != nullptr) labels[changes.labels[r]] = {b, r};
    }
  }
  if (labels.empty()) return;
  for (ExaminedBlock& block : facts_.blocks()) {
    if (block.table == nullptr || block.changes.action == Action::Remove) continue;
    for (ChangeBlock::Cells& cells : block.changes.cells) {
      for (std::uint32_t r = 0; r < block.changes.rows(); ++r) {
        const Value to = cells.to.at(r);
        if (to.kind() != Value::Kind::PendingKey) continue;
        const auto label = labels.find(std::string(to.asString()));
        if (label == labels.end()) continue;
        const ExaminedBlock& added = facts_.blocks()[label->second.block];
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

void Examination::checkAdditionComplete(ExaminedBlock& block, std::uint32_t index) {
  for (const Column& column : block.table->columns) {
    const bool needed = !column.nullable && !column.hasDefault && !column.generatedKey && !column.computed;
    if (!needed || block.cellOf(column.name)) continue;
    verdicts_.refuseAll(index, FindingKind::ValueRefused, column.name,
                        column.name + " must have a value, and the database sets none by itself; " +
                            wantedInWords(column) + " is wanted",
                        ChangeState::Blocked);
  }
}

void Examination::noteNotAtomic() {
  std::set<const Table*> said;
  for (std::uint32_t i = 0; i < facts_.blocks().size(); ++i) {
    const Table* table = facts_.blocks()[i].table;
    if (table == nullptr || !table->cannotRollBack || facts_.blocks()[i].changes.rows() == 0 ||
        !said.insert(table).second)
      continue;
    Finding finding = verdicts_.findingFor({i, 0}, FindingKind::NotAtomic, "");
    finding.blocks = false;
    finding.message = displayName(table->name) +
                      ": its storage cannot take back what was written. Its changes are written last, after all others "
                      "went through; if one of them fails then, those before it stay";
    verdicts_.note({i, 0}, std::move(finding));
  }
}

Status Examination::run(ChangeList changes) {
  bool merged = true;
  while (merged) {
    facts_.clear();
    verdicts_.clear();
    facts_.blocks().resize(changes.blocks().size());
    for (std::uint32_t i = 0; i < facts_.blocks().size(); ++i) {
      ExaminedBlock& block = facts_.blocks()[i];
      block.changes = changes.blocks()[i];
      resolve(block, i);
      if (block.table != nullptr) ITERANDUM_TRY(respell(block));
    }
    resolveLabels();
    for (std::uint32_t i = 0; i < facts_.blocks().size(); ++i) {
      if (facts_.blocks()[i].table != nullptr) ITERANDUM_TRY(readBefore(i));
    }
    ITERANDUM_ASSIGN(merged, mergeDoubles(changes));
  }
  count();
  for (std::uint32_t i = 0; i < facts_.blocks().size(); ++i) compare(i);
  for (std::uint32_t i = 0; i < facts_.blocks().size(); ++i) {
    // What cannot be rolled back is not rehearsed either: its rules are judged by reading alone.
    const bool stays = facts_.blocks()[i].table != nullptr && facts_.blocks()[i].table->cannotRollBack;
    if (options_.checkRules || stays) ITERANDUM_TRY(checkRules(i));
  }
  noteNotAtomic();
  ReferenceCheck references(session_, facts_, verdicts_, progress_);
  // What goes or changes by itself makes room for unique values, and is nothing to point at.
  ITERANDUM_TRY(references.followConsequences());
  ITERANDUM_TRY(UniqueCheck(session_, facts_, verdicts_, progress_).run());
  return references.checkParents();
}

}  // namespace iterandum
