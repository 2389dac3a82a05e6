// SheetModel: what rules say of staged records while they are on screen: the database's own, and the house's.
#include "app/records/sheet_model.h"

namespace iterandum {

void SheetModel::askRules() {
  if (!rules_.needed()) return;
  std::vector<RecordRef> refs;
  std::vector<ValueTuple> records;
  const TableChanges* changes = desk_.changes().table(table_.name);
  QList<int> rows = changes == nullptr ? QList<int>() : source_.loadedRows();
  for (int row = source_.rows(); row < rowCount(); ++row) rows.push_back(row);
  for (const int row : rows) {
    RecordRef record = ref(row);
    const auto number = record.isAdded() ? std::nullopt : changes->find(record.key);
    if (!record.isAdded() && (!number || !changes->isEdited(*number))) continue;
    ValueTuple values;
    for (const std::size_t c : rules_.columns()) values.push_back(cell(row, static_cast<int>(c)).effective());
    refs.push_back(std::move(record));
    records.push_back(std::move(values));
  }
  rules_.ask(refs, std::move(records));
}

// By the table's columns; nothing: the record is not loaded, or there is nothing staged in it.
std::optional<std::vector<HouseRuleWatch::Cell>> SheetModel::cellsOf(int row, bool also) const {
  const Held held = heldOf(row);
  const TableChanges* changes = desk_.changes().table(table_.name);
  const auto number = held.ref.isAdded() || changes == nullptr ? std::nullopt : changes->find(held.ref.key);
  const bool staged = held.ref.isAdded() || (number && changes->isEdited(*number) && !changes->isRemoved(*number));
  if ((!staged && !also) || (!held.ref.isAdded() && held.stored == nullptr)) return std::nullopt;
  std::vector<HouseRuleWatch::Cell> out;
  for (std::size_t c = 0; c < table_.columns.size(); ++c) {
    CellState state;
    takeCell(held, c, state);
    // A computed column follows the others: what it will hold is not known here.
    const bool follows = table_.columns[c].computed && staged;
    out.push_back({state.effective(), state.stored, !state.setByDatabase && !follows});
  }
  return out;
}

const HouseRuleWatch::Broken* SheetModel::houseBroken(int row) const {
  if (!houseRules_.any() || (desk_.changes().empty() && !isAddedRow(row))) return nullptr;
  const QString key = recordText(ref(row));
  auto found = houseBroken_.find(key);
  if (found == houseBroken_.end()) {
    const auto cells = cellsOf(row, false);
    found = houseBroken_.insert(key, cells ? houseRules_.brokenBy(*cells, isAddedRow(row)) : std::nullopt);
  }
  return *found ? &**found : nullptr;
}

QString SheetModel::wouldBreak(int row, int column, const Value& value) const {
  if (!houseRules_.any() || isBorrowed(column) || row < 0 || row >= rowCount()) return {};
  auto cells = cellsOf(row, true);
  if (!cells) return {};
  HouseRuleWatch::Cell& cell = (*cells)[static_cast<std::size_t>(column)];
  cell.after = value;
  cell.known = true;
  const auto broken = houseRules_.brokenBy(*cells, isAddedRow(row));
  return broken && broken->speaksOf(static_cast<std::size_t>(column)) ? broken->words : QString();
}

}  // namespace iterandum
