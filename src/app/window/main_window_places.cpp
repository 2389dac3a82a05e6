// MainWindow: where somebody is, and the ways there and back: along references, from the review, after undo.
#include <QStackedWidget>

#include "app/history/history_page.h"
#include "app/records/column_values.h"
#include "app/review/review_page.h"
#include "app/sheet/sheet_page.h"
#include "app/window/main_window.h"
#include "core/scope/column_path.h"

namespace iterandum {

// --- what is typed ---------------------------------------------------------------------------------------------------

bool MainWindow::typingTaken(const QString& before) {
  SheetPage* sheet = currentSheet();
  if (sheet == nullptr || sheet->viewWithKeys().takeTyped()) return true;
  const CellEditor* editor = sheet->viewWithKeys().editor();
  if (editor == nullptr) return true;
  const QString column = editor->index().model()->headerData(editor->index().column(), Qt::Horizontal).toString();
  say(tr("“%1” waits: what is typed in %2 does not fit. Put it right, or give it up with Esc.").arg(before, column));
  return false;
}

// --- undo ------------------------------------------------------------------------------------------------------------

void MainWindow::undo() {
  if (desk_->applying().running()) return desk_->staged().undo();  // which says why it cannot be
  const Gesture gesture = desk_->changes().lastGesture();
  desk_->staged().undo();
  goToChanged(gesture);
}

void MainWindow::redo() {
  if (desk_->applying().running()) return desk_->staged().redo();
  const Gesture gesture = desk_->changes().nextGesture();
  desk_->staged().redo();
  goToChanged(gesture);
}

void MainWindow::goToChanged(const Gesture& gesture) {
  if (gesture.parts.empty() || pages_->currentWidget() == review_) return;
  const GesturePart& part = gesture.parts.front();
  SheetPage* sheet = currentSheet();
  // It is seen where it is on the card.
  if (sheet != nullptr && sheet->showsOnCard(part.table)) return;
  const auto shows = [&](const SheetPage* s) { return s != nullptr && s->table().name == part.table; };
  if (!shows(sheet)) {
    const auto other = std::find_if(sheets_.begin(), sheets_.end(), shows);
    if (other == sheets_.end()) return;
    sheet = *other;
    showPage(sheet);
  }
  int column = std::max(0, sheet->view().currentIndex().column());
  if (const auto own = sheet->table().columnIndex(part.column)) column = static_cast<int>(*own);
  if (sheet->view().isColumnHidden(column)) column = std::max(0, sheet->view().currentIndex().column());
  if (!part.addedIds.empty()) {
    if (const auto row = sheet->model().rowOfAdded(part.addedIds.front())) sheet->view().goTo(*row, column);
    return;
  }
  if (part.rows() == 0 || part.keyColumns != sheet->table().writeKeyColumns()) return;
  ValueTuple key;
  for (const ValueColumn& k : part.keys) key.push_back(k.at(0));
  sheet->goToRecord(key, column);
}

namespace {

// The records of a table with these values, as a sheet shows them.
Scope scopeOf(const Table& table, const std::vector<std::pair<std::string, Value>>& values) {
  Scope out;
  out.table = displayName(table.name);
  for (const auto& [column, value] : values) out.filters.push_back({column, filterFor(value).toStdString()});
  return out;
}

}  // namespace

std::optional<MainWindow::Step> MainWindow::placeIn(SheetPage* sheet) {
  const QModelIndex current = sheet->view().currentIndex();
  if (!current.isValid() || current.row() >= sheet->model().source().rows()) return std::nullopt;
  return Step{sheet, sheet->model().source().key(current.row()), current.column(), nullptr, {}};
}

void MainWindow::followReference() {
  SheetPage* sheet = currentSheet();
  const SheetModel& model = sheet->viewWithKeys().sheetModel();
  const QModelIndex current = sheet->viewWithKeys().currentIndex();
  if (!current.isValid() || current.row() >= model.source().rows()) return;
  const Table* target = nullptr;
  std::vector<std::pair<std::string, Value>> values;
  if (model.isBorrowed(current.column())) {
    // The record that lends.
    target = &model.ownerTable(current.column());
    const auto owner = model.owner(current.row(), current.column());
    const std::vector<std::string> names = target->writeKeyColumns();
    for (std::size_t k = 0; owner && k < names.size(); ++k) values.emplace_back(names[k], owner->key[k]);
  } else {
    for (const Reference& r : model.table().references) {
      const auto column = static_cast<std::size_t>(current.column());
      if (r.targetMissing || std::find(r.columns.begin(), r.columns.end(), column) == r.columns.end()) continue;
      target = desk_->catalogue().find(r.target);
      for (std::size_t i = 0; i < r.columns.size(); ++i) {
        const Value value = model.cell(current.row(), static_cast<int>(r.columns[i])).effective();
        if (!value.isNull() && value.kind() != Value::Kind::PendingKey) values.emplace_back(r.targetColumns[i], value);
      }
      if (values.size() < r.columns.size()) values.clear();
      break;
    }
  }
  if (target == nullptr) return say(tr("%1 points at nothing.").arg(model.columnName(current.column())));
  if (values.empty()) return say(tr("This record points at none of %1.").arg(toQ(displayName(target->name))));
  const Scope scope = scopeOf(*target, values);
  const std::optional<Step> from = placeIn(sheet);
  SheetPage* opened = openScope(scope);
  if (opened != nullptr && from) way_.push_back({sheet, from->key, from->column, opened, scope});
}

void MainWindow::comeBack() {
  const Step step = way_.back();
  way_.pop_back();
  if (step.from == nullptr) return;
  SheetPage* opened = step.opened;
  showPage(step.from);
  if (auto* sheet = qobject_cast<SheetPage*>(step.from.data())) sheet->goToRecord(step.key, step.column);
  // What was only looked at goes; what was made into something else stays.
  if (opened == nullptr || opened == step.from) return;
  Scope shown = opened->scope().scope();
  shown.columns.clear();
  if (shown == step.scope) {
    dropSheet(opened);
    updateTabs();
  }
}

// --- from the review and to the history ------------------------------------------------------------------------------

void MainWindow::showRecordsOf(const TableName& name, const NamedValues& values) {
  const Table* table = desk_->catalogue().find(name);
  if (table == nullptr || values.empty()) return;
  const Scope scope = scopeOf(*table, values);
  SheetPage* opened = openScope(scope);
  if (opened == nullptr) return;
  way_.push_back({review_, {}, 0, opened, scope});
  say(tr("Shift+F7 leads back to the review."), true);
}

void MainWindow::mergeReviewed(const TableName& name, const std::vector<ValueTuple>& keys) {
  SheetPage* sheet = sheetForReviewed(name);
  if (sheet == nullptr) return;
  way_.push_back({review_, {}, 0, nullptr, {}});
  sheet->mergeThese(keys);
}

// The one that was looked at last, else another one of the table, else a new one.
SheetPage* MainWindow::sheetForReviewed(const TableName& name) {
  SheetPage* sheet = lastSheet_ != nullptr && lastSheet_->table().name == name ? lastSheet_.data() : nullptr;
  for (SheetPage* open : sheets_) {
    if (sheet == nullptr && open->table().name == name) sheet = open;
  }
  if (sheet != nullptr) {
    showPage(sheet);
    return sheet;
  }
  openTable(name);
  return currentSheet();
}

void MainWindow::goToReviewed(const RecordRef& record, const std::string& column) {
  const Table* table = desk_->catalogue().find(record.table);
  if (table == nullptr) return;
  SheetPage* sheet = sheetForReviewed(record.table);
  if (sheet == nullptr) return;
  way_.push_back({review_, {}, 0, nullptr, {}});
  const auto own = table->columnIndex(column);
  const int at = own ? static_cast<int>(*own) : std::max(0, sheet->view().currentIndex().column());
  say(tr("Shift+F7 leads back to the review."), true);
  if (record.isAdded()) {
    if (const auto row = sheet->model().rowOfAdded(record.addedId)) sheet->view().goTo(*row, at);
    return;
  }
  // A sheet that shows other records just now gives way to one with this record alone.
  sheet->goToRecord(record.key, at, [this, record, at, table] {
    std::vector<std::pair<std::string, Value>> values;
    const std::vector<std::string> names = table->writeKeyColumns();
    for (std::size_t k = 0; k < names.size(); ++k) values.emplace_back(names[k], record.key[k]);
    if (SheetPage* alone = openScope(scopeOf(*table, values))) alone->goToRecord(record.key, at);
  });
}

void MainWindow::showRecordHistory() {
  SheetPage* sheet = currentSheet();
  const SheetModel& model = sheet->viewWithKeys().sheetModel();
  const int row = sheet->viewWithKeys().currentIndex().row();
  if (row < 0) return;
  if (row >= model.source().rows()) return say(tr("This record is new: nothing was applied to it yet."));
  const ValueTuple key = model.source().key(row);
  const QString title = model.recordTitle(row);
  if (auto from = placeIn(sheet)) way_.push_back(std::move(*from));
  showPage(history_);
  history_->showRecord(model.table().name, key, title);
}

}  // namespace iterandum
