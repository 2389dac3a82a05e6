#include "app/grid/sheet_accessible.h"

#include <QAccessible>
#include <QAccessibleWidget>
#include <QPointer>
#include <deque>
#include <map>

#include "app/grid/sheet_view.h"

namespace iterandum {
namespace {

constexpr std::size_t kMostCells = 4000;
// More selected cells than this are not listed one by one.
constexpr int kMostListed = 1000;
constexpr int kHeadRow = -1;

class SheetTable;

// A cell, or the head of a column when the row is kHeadRow.
class SheetCell : public QAccessibleInterface, public QAccessibleTableCellInterface, public QAccessibleActionInterface {
 public:
  SheetCell(SheetTable& table, SheetGrid& grid, int row, int column)
      : table_(table), grid_(&grid), row_(row), column_(column) {}

  [[nodiscard]] bool isValid() const override {
    return grid_ != nullptr && column_ < grid_->model()->columnCount() && row_ < grid_->model()->rowCount();
  }
  [[nodiscard]] QObject* object() const override { return nullptr; }
  [[nodiscard]] QAccessibleInterface* childAt(int, int) const override { return nullptr; }
  [[nodiscard]] QAccessibleInterface* parent() const override;
  [[nodiscard]] QAccessibleInterface* child(int) const override { return nullptr; }
  [[nodiscard]] int childCount() const override { return 0; }
  [[nodiscard]] int indexOfChild(const QAccessibleInterface*) const override { return -1; }
  [[nodiscard]] QString text(QAccessible::Text what) const override;
  void setText(QAccessible::Text, const QString&) override {}
  [[nodiscard]] QRect rect() const override;
  [[nodiscard]] QAccessible::Role role() const override {
    return row_ == kHeadRow ? QAccessible::ColumnHeader : QAccessible::Cell;
  }
  [[nodiscard]] QAccessible::State state() const override;
  void* interface_cast(QAccessible::InterfaceType type) override {
    if (type == QAccessible::TableCellInterface) return static_cast<QAccessibleTableCellInterface*>(this);
    if (type == QAccessible::ActionInterface) return static_cast<QAccessibleActionInterface*>(this);
    return nullptr;
  }

  [[nodiscard]] bool isSelected() const override {
    return row_ != kHeadRow && grid_->selectionModel()->isSelected(index());
  }
  [[nodiscard]] QList<QAccessibleInterface*> columnHeaderCells() const override;
  [[nodiscard]] QList<QAccessibleInterface*> rowHeaderCells() const override { return {}; }
  [[nodiscard]] int columnIndex() const override;
  [[nodiscard]] int rowIndex() const override { return row_; }
  [[nodiscard]] int columnExtent() const override { return 1; }
  [[nodiscard]] int rowExtent() const override { return 1; }
  [[nodiscard]] QAccessibleInterface* table() const override { return parent(); }

  [[nodiscard]] QStringList actionNames() const override { return {setFocusAction(), pressAction()}; }
  void doAction(const QString& name) override;
  [[nodiscard]] QStringList keyBindingsForAction(const QString&) const override { return {QStringLiteral("F2")}; }

 private:
  [[nodiscard]] QModelIndex index() const { return grid_->model()->index(row_, column_); }
  [[nodiscard]] const SheetModel& model() const { return static_cast<const SheetModel&>(*grid_->model()); }

  SheetTable& table_;
  QPointer<SheetGrid> grid_;
  int row_;
  int column_;  // of the model
};

class SheetTable : public QAccessibleWidget, public QAccessibleTableInterface {
 public:
  explicit SheetTable(SheetGrid& grid) : QAccessibleWidget(&grid, QAccessible::Table), grid_(grid) {}
  ~SheetTable() override {
    for (const auto& [place, id] : cells_) QAccessible::deleteAccessibleInterface(id);
  }

  void* interface_cast(QAccessible::InterfaceType type) override {
    if (type == QAccessible::TableInterface) return static_cast<QAccessibleTableInterface*>(this);
    return QAccessibleWidget::interface_cast(type);
  }
  [[nodiscard]] int childCount() const override {
    const qint64 cells = (static_cast<qint64>(rowCount()) + 1) * columnCount();
    return static_cast<int>(std::min<qint64>(cells, INT_MAX));
  }
  // The heads come first.
  [[nodiscard]] QAccessibleInterface* child(int index) const override {
    const int columns = columnCount();
    if (index < 0 || columns == 0 || index >= childCount()) return nullptr;
    return cellOf(index / columns - 1, logical(index % columns));
  }
  [[nodiscard]] int indexOfChild(const QAccessibleInterface* child) const override {
    auto* cell = const_cast<QAccessibleInterface*>(child)->tableCellInterface();
    if (cell == nullptr) return -1;
    return (cell->rowIndex() + 1) * columnCount() + cell->columnIndex();
  }
  [[nodiscard]] QAccessibleInterface* childAt(int x, int y) const override {
    const QModelIndex at = grid_.indexAt(grid_.viewport()->mapFromGlobal(QPoint(x, y)));
    return at.isValid() ? cellOf(at.row(), at.column()) : nullptr;
  }
  [[nodiscard]] QAccessibleInterface* focusChild() const override { return current(); }
  [[nodiscard]] QAccessibleInterface* current() const {
    const QModelIndex at = grid_.currentIndex();
    return at.isValid() ? cellOf(at.row(), at.column()) : nullptr;
  }

  [[nodiscard]] QAccessibleInterface* caption() const override { return nullptr; }
  [[nodiscard]] QAccessibleInterface* summary() const override { return nullptr; }
  [[nodiscard]] QAccessibleInterface* cellAt(int row, int column) const override {
    if (row < 0 || row >= rowCount() || column < 0 || column >= columnCount()) return nullptr;
    return cellOf(row, logical(column));
  }
  [[nodiscard]] int columnCount() const override { return grid_.head().count() - grid_.head().hiddenSectionCount(); }
  [[nodiscard]] int rowCount() const override { return grid_.model()->rowCount(); }
  [[nodiscard]] QString columnDescription(int column) const override {
    return grid_.model()->headerData(logical(column), Qt::Horizontal).toString();
  }
  [[nodiscard]] QString rowDescription(int row) const override {
    return grid_.model()->headerData(row, Qt::Vertical, Qt::AccessibleTextRole).toString();
  }

  [[nodiscard]] int selectedCellCount() const override {
    qint64 cells = 0;
    for (const QItemSelectionRange& range : grid_.selectionModel()->selection()) {
      cells += static_cast<qint64>(range.width()) * range.height();
    }
    return static_cast<int>(std::min<qint64>(cells, INT_MAX));
  }
  [[nodiscard]] int selectedRowCount() const override { return static_cast<int>(selectedRows().size()); }
  [[nodiscard]] int selectedColumnCount() const override { return static_cast<int>(selectedColumns().size()); }
  [[nodiscard]] QList<QAccessibleInterface*> selectedCells() const override {
    QList<QAccessibleInterface*> out;
    for (const QItemSelectionRange& range : grid_.selectionModel()->selection()) {
      for (int row = range.top(); row <= range.bottom(); ++row) {
        for (int column = range.left(); column <= range.right(); ++column) {
          if (out.size() >= kMostListed) return out;
          if (!grid_.isColumnHidden(column)) out << cellOf(row, column);
        }
      }
    }
    return out;
  }
  [[nodiscard]] QList<int> selectedRows() const override {
    QList<int> out;
    for (const QItemSelectionRange& range : grid_.selectionModel()->selection()) {
      for (int row = range.top(); row <= range.bottom() && out.size() < kMostListed; ++row) {
        if (!out.contains(row) && isRowSelected(row)) out << row;
      }
    }
    return out;
  }
  [[nodiscard]] QList<int> selectedColumns() const override {
    QList<int> out;
    for (int column = 0; column < columnCount(); ++column) {
      if (isColumnSelected(column)) out << column;
    }
    return out;
  }
  [[nodiscard]] bool isColumnSelected(int column) const override {
    return grid_.selectionModel()->isColumnSelected(logical(column), {});
  }
  [[nodiscard]] bool isRowSelected(int row) const override {
    for (int column = 0; column < columnCount(); ++column) {
      if (!grid_.selectionModel()->isSelected(grid_.model()->index(row, logical(column)))) return false;
    }
    return columnCount() > 0;
  }
  bool selectRow(int row) override { return select(row, row, 0, columnCount() - 1, QItemSelectionModel::Select); }
  bool selectColumn(int column) override {
    return select(0, rowCount() - 1, column, column, QItemSelectionModel::Select);
  }
  bool unselectRow(int row) override { return select(row, row, 0, columnCount() - 1, QItemSelectionModel::Deselect); }
  bool unselectColumn(int column) override {
    return select(0, rowCount() - 1, column, column, QItemSelectionModel::Deselect);
  }
  void modelChange(QAccessibleTableModelChangeEvent*) override {}

  // The column of the model that lies there among those that can be seen; -1: there is none.
  [[nodiscard]] int logical(int seen) const {
    const FilterHeader& head = grid_.head();
    for (int visual = 0; visual < head.count(); ++visual) {
      const int column = head.logicalIndex(visual);
      if (!head.isSectionHidden(column) && seen-- == 0) return column;
    }
    return -1;
  }
  [[nodiscard]] int seen(int logicalColumn) const {
    int before = 0;
    for (int visual = 0; visual < grid_.head().visualIndex(logicalColumn); ++visual) {
      before += grid_.head().isSectionHidden(grid_.head().logicalIndex(visual)) ? 0 : 1;
    }
    return before;
  }
  [[nodiscard]] QAccessibleInterface* cellOf(int row, int column) const {
    const auto known = cells_.find({row, column});
    if (known != cells_.end()) return QAccessible::accessibleInterface(known->second);
    if (cells_.size() >= kMostCells) {
      // The oldest go; whoever still speaks of one asks again.
      for (std::size_t n = 0; n < kMostCells / 2; ++n) {
        const auto old = cells_.find(order_.front());
        order_.pop_front();
        QAccessible::deleteAccessibleInterface(old->second);
        cells_.erase(old);
      }
    }
    auto* cell = new SheetCell(const_cast<SheetTable&>(*this), grid_, row, column);
    cells_[{row, column}] = QAccessible::registerAccessibleInterface(cell);
    order_.emplace_back(row, column);
    return cell;
  }

 private:
  bool select(int top, int bottom, int left, int right, QItemSelectionModel::SelectionFlags how) {
    if (top < 0 || bottom >= rowCount() || left < 0 || right >= columnCount() || top > bottom || left > right) {
      return false;
    }
    for (int column = left; column <= right; ++column) {
      const int c = logical(column);
      grid_.selectionModel()->select({grid_.model()->index(top, c), grid_.model()->index(bottom, c)}, how);
    }
    return true;
  }

  SheetGrid& grid_;
  mutable std::map<std::pair<int, int>, QAccessible::Id> cells_;  // by row and column of the model
  mutable std::deque<std::pair<int, int>> order_;
};

// --- a cell ----------------------------------------------------------------------------------------------------------

QAccessibleInterface* SheetCell::parent() const { return &table_; }

QString SheetCell::text(QAccessible::Text what) const {
  if (!isValid()) return {};
  if (row_ == kHeadRow) {
    if (what == QAccessible::Name) return model().columnName(column_);
    return what == QAccessible::Description ? model().headerData(column_, Qt::Horizontal, Qt::ToolTipRole).toString()
                                            : QString();
  }
  switch (what) {
    case QAccessible::Name:
    case QAccessible::Value: {
      const CellState state = model().cell(row_, column_);
      if (!state.typedWrong.isEmpty()) {
        return QObject::tr("%1, typed, does not fit: %2").arg(state.typedWrong, state.wrongBecause);
      }
      if (!state.loaded) return QObject::tr("still being read");
      if (!state.staged) return model().shown(column_, state.stored);
      return QObject::tr("changed from %1 to %2")
          .arg(model().shown(column_, state.staged->from), model().shown(column_, state.staged->to));
    }
    case QAccessible::Description: {
      QStringList words{model().columnName(column_)};
      if (const QString mark = markName(model().mark(row_)); !mark.isEmpty()) words << mark;
      const CellState state = model().cell(row_, column_);
      if (!state.ruleBroken.isEmpty()) words << state.ruleBroken;
      return words.join(QStringLiteral(", "));
    }
    default:
      return {};
  }
}

QRect SheetCell::rect() const {
  if (!isValid()) return {};
  if (row_ == kHeadRow) {
    const FilterHeader& head = grid_->head();
    return {head.viewport()->mapToGlobal(QPoint(head.columnLeft(column_), 0)),
            QSize(head.sectionSize(column_), head.height())};
  }
  const QRect cell = grid_->visualRect(index());
  return {grid_->viewport()->mapToGlobal(cell.topLeft()), cell.size()};
}

QAccessible::State SheetCell::state() const {
  QAccessible::State out;
  if (!isValid()) {
    out.invalid = true;
    return out;
  }
  if (row_ == kHeadRow) return out;
  out.focusable = true;
  out.selectable = true;
  out.multiSelectable = true;
  out.selected = isSelected();
  out.focused = grid_->hasFocus() && grid_->currentIndex() == index();
  out.active = grid_->currentIndex() == index();
  out.editable = model().notEditable(row_, column_).isEmpty();
  out.readOnly = !out.editable;
  out.offscreen = !grid_->viewport()->rect().intersects(grid_->visualRect(index()));
  return out;
}

QList<QAccessibleInterface*> SheetCell::columnHeaderCells() const {
  return row_ == kHeadRow ? QList<QAccessibleInterface*>{}
                          : QList<QAccessibleInterface*>{table_.cellOf(kHeadRow, column_)};
}

int SheetCell::columnIndex() const { return table_.seen(column_); }

void SheetCell::doAction(const QString& name) {
  if (!isValid() || row_ == kHeadRow) return;
  auto* view = qobject_cast<SheetView*>(grid_.data());
  if (view == nullptr) return;
  view->setFocus();
  view->goTo(row_, column_);
  if (name == pressAction()) view->editCurrent();
}

QAccessibleInterface* sheetFactory(const QString&, QObject* object) {
  auto* grid = qobject_cast<SheetGrid*>(object);
  return grid == nullptr ? nullptr : new SheetTable(*grid);
}

}  // namespace

void installSheetAccessibility() {
  static const bool installed = (QAccessible::installFactory(sheetFactory), true);
  (void)installed;
}

void tellCurrentCell(SheetGrid& grid, bool moved) {
  if (!QAccessible::isActive()) return;
  auto* table = dynamic_cast<SheetTable*>(QAccessible::queryAccessibleInterface(&grid));
  QAccessibleInterface* cell = table == nullptr ? nullptr : table->current();
  if (cell == nullptr) return;
  QAccessibleEvent event(cell, moved ? QAccessible::Focus : QAccessible::NameChanged);
  QAccessible::updateAccessibility(&event);
}

}  // namespace iterandum
