// SheetGrid: records in rows of equal height, columns as the head lays them out. It holds nothing for a row, so that
// ten million of them cost no more than ten; it paints what is on screen and says where things are. What keys and
// editors do is in SheetView.
#pragma once

#include <QAbstractItemView>
#include <optional>

#include "app/grid/sheet_headers.h"
#include "app/records/many_records.h"
#include "app/records/sheet_model.h"

class QTimer;

namespace iterandum {

class SheetGrid : public QAbstractItemView {
  Q_OBJECT
 public:
  explicit SheetGrid(SheetModel& model, QWidget* parent = nullptr);

  [[nodiscard]] FilterHeader& head() const { return *head_; }
  [[nodiscard]] SheetModel& sheetModel() const { return model_; }
  void setDensity(int rowHeight);
  // The row at a height in the view; -1 below the last one. Above the view it is counted on.
  [[nodiscard]] int rowAt(int y) const;
  [[nodiscard]] bool isColumnHidden(int column) const { return head_->isSectionHidden(column); }
  void setColumnHidden(int column, bool hidden);

  [[nodiscard]] QRect visualRect(const QModelIndex& index) const override;
  void scrollTo(const QModelIndex& index, ScrollHint hint = EnsureVisible) override;
  // Only what is in sight is looked at again: Qt would go over all cells, of which there may be a hundred million.
  void dataChanged(const QModelIndex& topLeft, const QModelIndex& bottomRight, const QList<int>& roles = {}) override;
  // As wide as what is on screen wants it.
  void widenToContents(int column, int most = 0);
  // The corner of what is selected that can be dragged; empty where there is none in sight.
  [[nodiscard]] QRect fillCorner() const;
  // Below the last record: a click there adds one. Empty where it is not in sight, or none can be added.
  [[nodiscard]] QRect addLine() const;
  [[nodiscard]] QModelIndex indexAt(const QPoint& point) const override;

 signals:
  void marginMenuAsked(const QPoint& where);

 protected:
  // The line below the last record was clicked.
  virtual void addAsked() = 0;
  // The corner of `from` was dragged over these rows behind it; `counting`: they are to count on.
  virtual void fillAsked(const QItemSelection& from, RowRange rows, bool counting) = 0;
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
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;
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
  [[nodiscard]] int linesBelow() const;  // besides the records: the one that adds
  void dragFillTo(const QPoint& place);
  void paintAddLine(QPainter& painter) const;
  void paintFill(QPainter& painter) const;
  [[nodiscard]] QItemSelection block(const QModelIndex& a, const QModelIndex& b) const;
  void paintCells(QPainter& painter, bool frozen);

  SheetModel& model_;
  FilterHeader* head_;
  Margin* margin_;
  int rowHeight_ = 29;
  QPersistentModelIndex anchor_;  // where the selection was begun
  bool extending_ = false;
  std::optional<int> fillTo_;  // the row to which the corner is being dragged
  QTimer* fillScroll_;
};

}  // namespace iterandum
