// The columns of a sheet: the table's own and those borrowed, and the way from a row to the record that lends.
#include "app/records/sheet_model.h"
#include "app/values/typed_text.h"
#include "core/scope/column_path.h"
#include "core/scope/condition_text.h"

namespace iterandum {

QString SheetModel::columnName(int column) const { return toQ(columnPathText(path(column))); }

std::optional<int> SheetModel::columnOf(const ColumnPath& path) const {
  const auto at = std::find(paths_.begin(), paths_.end(), path);
  if (at == paths_.end()) return std::nullopt;
  return static_cast<int>(at - paths_.begin());
}

int SheetModel::borrow(const ColumnPath& path) {
  if (const auto known = columnOf(path)) return *known;
  const int at = columnCount();
  beginInsertColumns({}, at, at);
  paths_.push_back(path);
  described_.push_back(path.owner(table_).column(path.column));
  endInsertColumns();
  return at;
}

void SheetModel::giveBack(int column) {
  if (!isBorrowed(column)) return;
  beginRemoveColumns({}, column, column);
  paths_.erase(paths_.begin() + column);
  described_.erase(described_.begin() + column);
  endRemoveColumns();
}

std::pair<SheetModel::Way, SheetModel::Held> SheetModel::lender(int row, const ColumnPath& path) const {
  Held held = heldOf(row);
  if (!held.ref.isAdded() && held.stored == nullptr) return {held.gone ? Way::Nowhere : Way::NotYet, held};
  for (const ReferenceStep& step : path.steps) {
    ValueTuple there;
    for (const auto& pair : step.join) {
      const auto column = held.table->columnIndex(pair.first);
      if (!column) return {Way::Nowhere, held};
      CellState state;
      takeCell(held, *column, state);
      there.push_back(state.effective());
      // A new record that is pointed at has nothing to lend before it is written.
      if (there.back().isNull() || there.back().kind() == Value::Kind::PendingKey) return {Way::Nowhere, held};
    }
    const LentRecords::Answer answer = desk_.lent().record(step, there);
    if (!answer.known) return {Way::NotYet, held};
    if (answer.record == nullptr) return {Way::Nowhere, held};
    held = {step.target, {step.target->name, {}, 0}, answer.record, false};
    const std::vector<std::string> columns = step.target->recordColumns();
    for (const std::string& name : step.target->writeKeyColumns()) {
      const auto at = std::find(columns.begin(), columns.end(), name);
      held.ref.key.push_back((*answer.record)[static_cast<std::size_t>(at - columns.begin())]);
    }
  }
  return {Way::There, held};
}

std::optional<RecordRef> SheetModel::owner(int row, int column) const {
  if (!isBorrowed(column)) return ref(row);
  auto [way, held] = lender(row, path(column));
  if (way != Way::There) return std::nullopt;
  return std::move(held.ref);
}

QString SheetModel::ownerTitle(int row, int column) const {
  if (!isBorrowed(column)) return recordTitle(row);
  const auto [way, held] = lender(row, path(column));
  return way == Way::There ? titleOf(held) : QString();
}

std::optional<SheetModel::Sharing> SheetModel::sharing(int row, int column) const {
  const ColumnPath& way = path(column);
  const auto [found, held] = lender(row, way);
  if (found != Way::There || held.stored == nullptr) return std::nullopt;
  Sharing out;
  for (const auto& [here, there] : way.steps.back().join) {
    const auto at = held.table->columnIndex(there);
    if (!at) return std::nullopt;
    Condition same;
    same.op = Condition::Op::Equal;
    same.column = here;
    same.value = (*held.stored)[*at];
    out.where = bothHold(std::move(out.where), std::move(same));
  }
  out.where = throughSteps({way.steps.begin(), way.steps.end() - 1}, std::move(out.where));
  // What is staged in the reference itself is not in the database yet.
  out.withThisOne = !isAddedRow(row);
  for (const auto& [here, there] : way.steps.front().join) {
    const auto at = table_.columnIndex(here);
    if (at && cell(row, static_cast<int>(*at)).staged) out.withThisOne = false;
  }
  return out;
}

const Reference* SheetModel::reference(int c) const {
  const Table& table = ownerTable(c);
  const auto at = table.columnIndex(path(c).column);
  return at ? desk_.names().reference(table, *at) : nullptr;
}

QString SheetModel::shown(int c, const Value& value) const {
  const Table& table = ownerTable(c);
  const auto at = table.columnIndex(path(c).column);
  const QString name = at ? desk_.names().name(table, *at, value) : QString();
  return name.isEmpty() ? shownValue(column(c), value, lens(c)) : name;
}

// A borrowed column may itself be a reference, which is shown by name.
void SheetModel::wantBorrowedNames() {
  for (int c = ownColumns(); c < columnCount(); ++c) {
    if (reference(c) == nullptr) continue;
    std::vector<Value> values;
    for (const int row : source_.loadedRows()) {
      const CellState state = cell(row, c);
      if (state.loaded) values.push_back(state.effective());
    }
    desk_.names().want(ownerTable(c), *ownerTable(c).columnIndex(path(c).column), values);
  }
}

Result<Value> SheetModel::typed(int c, const QString& text) const { return typedInCell(column(c), text, lens(c)); }

QString SheetModel::editText(int c, const Value& value) const { return iterandum::editText(column(c), value, lens(c)); }

}  // namespace iterandum
