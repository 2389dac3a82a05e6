// SheetGrid: records in rows of equal height, columns as the head lays them out. It holds nothing for a row, so that
// ten million of them cost no more than ten; it paints what is on screen and says where things are. What keys and
// editors do is in SheetView.
#pragma once

#include <QAbstractItemView>

#include "app/grid/sheet_headers.h"
#include "app/records/sheet_model.h"

namespace iterandum {

class SheetGrid : public QAbstractItemView {
  Q_OBJECT
 public:
  explicit SheetGrid(SheetModel& model, QWidget* parent = nullptr);

  [[nodiscard]] FilterHeader& head() const { return *head_; }
  void setDensity(int rowHeight);
  // The row at a height in the view; -1 below the last one. Above the view it is counted on.
  [[nodiscard]] int rowAt(int y) const;
  [[nodiscard]] bool isColumnHidden(int column) const { return head_->isSectionHidden(column); }
  void setColumnHidden(int column, bool hidden);

  [[nodiscard]] QRect visualRect(const QModelIndex& index) const override;
  void scrollTo(const QModelIndex& index, ScrollHint hint = EnsureVisible) override;
  [[nodiscard]] QModelIndex indexAt(const QPoint& point) const override;

 protected:
  [[nodiscard]] QModelIndex moveCursor(CursorAction action, Qt::KeyboardModifiers modifiers) override;
  [[nodiscard]] int horizontalOffset() const override { return head_->offset(); }
  [[nodiscard]] int verticalOffset() const override;
  [[nodiscard]] bool isIndexHidden(const QModelIndex& index) const override { return isColumnHidden(index.column()); }
  void setSelection(const QRect& rect, QItemSelectionModel::SelectionFlags flags) override;
  [[nodiscard]] QRegion visualRegionForSelection(const QItemSelection& selection) const override;
  void updateGeometries() override;
  void scrollContentsBy(int dx, int dy) override;
  void paintEvent(QPaintEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void currentChanged(const QModelIndex& current, const QModelIndex& previous) override;

  // Selects all from where the selection was begun up to this cell, which becomes the current one.
  void extendTo(const QModelIndex& index);
  // The whole columns, or the whole records, that something is selected of; both: all there is. As ranges of positions.
  void selectWhole(bool columns, bool records);
  // The column so many columns on, of those that can be seen; -1 beyond the edge.
  [[nodiscard]] int nextVisible(int column, int columns) const;
  [[nodiscard]] int edgeColumn(bool first) const;
  // Rows that can be seen whole.
  [[nodiscard]] int wholeRows() const;

 private:
  class Margin;
  void fitColumn(int column);
  void widenToContents(int column);
  [[nodiscard]] QItemSelection block(const QModelIndex& a, const QModelIndex& b) const;
  void paintCells(QPainter& painter, bool frozen);

  SheetModel& model_;
  FilterHeader* head_;
  Margin* margin_;
  int rowHeight_ = 29;
  QPersistentModelIndex anchor_;  // where the selection was begun
  bool extending_ = false;
};

}  // namespace iterandum
