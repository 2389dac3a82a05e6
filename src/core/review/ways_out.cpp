#include "core/review/ways_out.h"

#include <algorithm>

namespace iterandum {
namespace {

const CellChange* cellOf(const Change& change, const std::string& column) {
  const auto cell =
      std::find_if(change.cells.begin(), change.cells.end(), [&](const CellChange& c) { return c.column == column; });
  return cell == change.cells.end() ? nullptr : &*cell;
}

// What the change makes of a column; else what it was seen to hold. Null: that is not known.
const Value* knownValue(const Change& change, const std::string& column, bool before) {
  if (const CellChange* cell = cellOf(change, column)) {
    if (!before && change.action != Action::Remove) return &cell->to;
    if (cell->hasFrom) return &cell->from;
  }
  const auto key = std::find(change.keyColumns.begin(), change.keyColumns.end(), column);
  return key == change.keyColumns.end() ? nullptr
                                        : &change.key[static_cast<std::size_t>(key - change.keyColumns.begin())];
}

bool isPlain(const Value& value) { return !value.isNull() && value.kind() != Value::Kind::PendingKey; }

// The record is there, and nothing else is staged for it.
bool canMerge(const Table& table, const Change& change, const std::string& column) {
  return change.action == Action::Edit && change.cells.size() == 1 && change.cells.front().column == column &&
         table.notEditable.empty() && table.cannotRemove.empty() && change.keyColumns == table.writeKeyColumns();
}

// By which the missing record is pointed at: of several the first that begins with the column.
const Reference* referenceOf(const Table& table, const std::string& column) {
  for (const Reference& reference : table.references) {
    if (!reference.columns.empty() && table.columns[reference.columns.front()].name == column) return &reference;
  }
  return nullptr;
}

// One column says at which record they point, and can be edited.
bool canRepoint(const ReferringRecords& referring) {
  const std::vector<std::size_t>& columns = referring.reference->columns;
  return referring.table->notEditable.empty() && referring.table->cannotEdit.empty() && columns.size() == 1 &&
         referring.table->columns[columns.front()].notEditable.empty();
}

bool canLetGo(const ReferringRecords& referring) {
  return referring.table->notEditable.empty() &&
         std::any_of(referring.reference->columns.begin(), referring.reference->columns.end(), [&](std::size_t c) {
           return referring.table->columns[c].nullable && referring.table->columns[c].notEditable.empty();
         });
}

}  // namespace

std::vector<ReferringRecords> referringRecords(const Finding& finding, const Change& change,
                                               const Catalogue& catalogue) {
  std::vector<ReferringRecords> out;
  if (finding.kind != FindingKind::StillReferenced || !finding.fromTable) return out;
  for (const IncomingReference& in : catalogue.referencesTo(finding.table)) {
    const Table& child = catalogue.tables()[in.table];
    const Reference& reference = child.references[in.reference];
    if (child.name != *finding.fromTable || reference.targetMissing) continue;
    ReferringRecords one{&child, &reference, {}};
    for (std::size_t k = 0; k < reference.columns.size(); ++k) {
      const Value* value = knownValue(change, reference.targetColumns[k], true);
      if (value != nullptr && isPlain(*value)) {
        one.values.emplace_back(child.columns[reference.columns[k]].name, *value);
      }
    }
    if (one.values.size() == reference.columns.size()) out.push_back(std::move(one));
  }
  return out;
}

MissingParent missingParent(const Finding& finding, const Change& change, const Catalogue& catalogue) {
  MissingParent out;
  const Table* table = catalogue.find(finding.table);
  if (finding.kind != FindingKind::ParentMissing || table == nullptr) return out;
  const Reference* reference = referenceOf(*table, finding.column);
  if (reference == nullptr || reference->targetMissing) return out;
  const Table* parent = catalogue.find(reference->target);
  if (parent == nullptr || !parent->notEditable.empty() || !parent->cannotAdd.empty()) return out;
  for (std::size_t k = 0; k < reference->columns.size(); ++k) {
    const Value* value = knownValue(change, table->columns[reference->columns[k]].name, false);
    if (value == nullptr || !isPlain(*value)) return out;
    out.values.emplace_back(reference->targetColumns[k], *value);
  }
  out.table = parent;
  return out;
}

NamedValues holderOf(const Finding& finding, const Change& change, const Catalogue& catalogue) {
  NamedValues out;
  const Table* table = catalogue.find(finding.table);
  if (finding.kind != FindingKind::Duplicate || table == nullptr) return out;
  const auto own = table->columnIndex(finding.column);
  for (const UniqueKey& key : table->keys) {
    if (!own || std::find(key.columns.begin(), key.columns.end(), *own) == key.columns.end()) continue;
    out.clear();
    for (const std::size_t c : key.columns) {
      const Value* value = knownValue(change, table->columns[c].name, false);
      if (value != nullptr && isPlain(*value)) out.emplace_back(table->columns[c].name, *value);
    }
    if (out.size() == key.columns.size()) return out;
  }
  return {};
}

NamedValues goneRecord(const Finding& finding, const Change& change, const Catalogue& catalogue) {
  const Table* table = catalogue.find(finding.table);
  if (finding.kind != FindingKind::RecordGone || change.action != Action::Edit || table == nullptr) return {};
  if (!table->notEditable.empty() || !table->cannotAdd.empty()) return {};
  NamedValues out;
  for (std::size_t k = 0; k < change.keyColumns.size(); ++k) {
    const Column* column = table->column(change.keyColumns[k]);
    // A row id is given by the engine alone.
    if (column == nullptr || column->computed || !column->notEditable.empty()) return {};
    if (cellOf(change, column->name) == nullptr) out.emplace_back(column->name, change.key[k]);
  }
  for (const CellChange& cell : change.cells) out.emplace_back(cell.column, cell.to);
  return out;
}

std::vector<WayOut> waysOut(const Finding& finding, const Change& change, const Catalogue& catalogue) {
  std::vector<WayOut> out;
  if (!finding.blocks) return out;
  const Table* table = catalogue.find(finding.table);
  const auto index = table == nullptr ? std::nullopt : table->columnIndex(finding.column);
  const Column* column = index ? &table->columns[*index] : nullptr;
  const bool hasCell = change.action != Action::Remove && cellOf(change, finding.column) != nullptr;
  // A left-out column of a new record may be what is missing.
  const bool correctable = column != nullptr && column->notEditable.empty() && !column->computed &&
                           (hasCell || change.action == Action::Add);
  switch (finding.kind) {
    case FindingKind::CellChanged:
      if (hasCell && finding.from && finding.now) out = {WayOut::KeepMine, WayOut::TakeTheirs};
      if (change.action == Action::Remove) out = {WayOut::KeepMine};
      if (hasCell && correctable) out.push_back(WayOut::Correct);
      break;
    case FindingKind::RecordGone:
      if (!goneRecord(finding, change, catalogue).empty()) out.push_back(WayOut::AddAgain);
      break;
    case FindingKind::Duplicate:
      if (correctable) out.push_back(WayOut::Correct);
      if (!holderOf(finding, change, catalogue).empty()) {
        out.push_back(WayOut::ShowHolder);
        if (canMerge(*table, change, finding.column)) out.push_back(WayOut::MergeWithHolder);
      }
      break;
    case FindingKind::ParentMissing:
      if (correctable) out.push_back(WayOut::Correct);
      if (correctable && column->nullable) out.push_back(WayOut::NoValue);
      if (missingParent(finding, change, catalogue).table != nullptr) out.push_back(WayOut::AddParent);
      break;
    case FindingKind::StillReferenced: {
      const auto referring = referringRecords(finding, change, catalogue);
      if (referring.empty()) break;
      out.push_back(WayOut::ShowReferring);
      if (change.action == Action::Remove && std::all_of(referring.begin(), referring.end(), canRepoint)) {
        out.push_back(WayOut::Repoint);
      }
      if (std::all_of(referring.begin(), referring.end(), canLetGo)) out.push_back(WayOut::LetGo);
      const Table& child = *referring.front().table;
      if (change.action == Action::Remove && child.notEditable.empty() && child.cannotRemove.empty()) {
        out.push_back(WayOut::RemoveReferring);
      }
      break;
    }
    case FindingKind::ValueRefused:
    case FindingKind::DatabaseRefused:
    case FindingKind::HouseRule:
      if (correctable) out.push_back(WayOut::Correct);
      break;
    default:
      break;
  }
  out.push_back(WayOut::PutBack);
  return out;
}

}  // namespace iterandum
