// The two edges of the sheet: the head with a filter cell under each column's name, and the margin with the marks.
#pragma once

#include <QHeaderView>
#include <QLineEdit>
#include <vector>

#include "app/records/sheet_model.h"
#include "core/scope/scope.h"

namespace iterandum {

// Columns in front may be frozen: they stay where they are while the others are scrolled below them.
class FilterHeader : public QHeaderView {
  Q_OBJECT
 public:
  explicit FilterHeader(SheetModel& model, QWidget* parent = nullptr);
  [[nodiscard]] QSize sizeHint() const override;
  // Without them it is a head of names alone.
  void setFiltersShown(bool shown);
  // The text of a column's filter cell.
  void setFilter(int column, const QString& text);
  [[nodiscard]] QString filter(int column) const;
  void markWrong(int column, const QString& because);
  void focusFilter(int column);
  void setOrder(std::vector<ScopeOrder> order);
  void placeFilters();

  // So many of the columns that can be seen are frozen, from the first one on.
  void setFrozen(int columns);
  [[nodiscard]] int frozen() const { return frozen_; }
  [[nodiscard]] bool isFrozen(int column) const;
  [[nodiscard]] int frozenWidth() const;
  // Where the column begins in the view; -1 for hidden ones.
  [[nodiscard]] int columnLeft(int column) const;
  // The column at a place in the view; -1 for none.
  [[nodiscard]] int columnAt(int x) const;

 signals:
  void filterChanged(int column, const QString& text);
  // `also`: below what the records are sorted by already.
  void sortAsked(int column, bool also);
  void leftDownwards(int column);  // Down or Enter in a filter cell: back to the records
  void frozenChanged();
  void menuAsked(int column, const QPoint& place);

 protected:
  void paintEvent(QPaintEvent* event) override;
  void paintSection(QPainter* painter, const QRect& rect, int logical) const override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void contextMenuEvent(QContextMenuEvent* event) override;
  bool eventFilter(QObject* watched, QEvent* event) override;
  void updateGeometries() override;

 private:
  void buildFilters();
  [[nodiscard]] bool isEdge(int x) const;
  // Over a frozen column: the event as it would be were nothing scrolled.
  [[nodiscard]] QMouseEvent unscrolled(const QMouseEvent& event) const;

  SheetModel& model_;
  std::vector<QLineEdit*> filters_;
  std::vector<ScopeOrder> order_;
  QPoint pressedAt_;
  int frozen_ = 0;
  bool filtersShown_ = true;
};

// The double rule between margin and page.
void drawMarginRule(QPainter& painter, int x, int top, int bottom);

}  // namespace iterandum
