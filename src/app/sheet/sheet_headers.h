// The two edges of the sheet: the head with a filter cell under each column's name, and the margin with the marks.
#pragma once

#include <QHeaderView>
#include <QLineEdit>
#include <vector>

#include "app/sheet/sheet_model.h"

namespace iterandum {

class FilterHeader : public QHeaderView {
  Q_OBJECT
 public:
  explicit FilterHeader(SheetModel& model, QWidget* parent = nullptr);
  [[nodiscard]] QSize sizeHint() const override;
  // The text of a column's filter cell.
  void setFilter(int column, const QString& text);
  [[nodiscard]] QString filter(int column) const;
  void markWrong(int column, const QString& because);
  void focusFilter(int column);
  void setOrder(std::vector<SortKey> order);
  void placeFilters();

 signals:
  void filterChanged(int column, const QString& text);
  // `also`: below what the records are sorted by already.
  void sortAsked(int column, bool also);
  void leftDownwards(int column);  // Down or Enter in a filter cell: back to the records

 protected:
  void paintSection(QPainter* painter, const QRect& rect, int logical) const override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  bool eventFilter(QObject* watched, QEvent* event) override;
  void updateGeometries() override;

 private:
  SheetModel& model_;
  std::vector<QLineEdit*> filters_;
  std::vector<SortKey> order_;
  QPoint pressedAt_;
};

class MarginHeader : public QHeaderView {
  Q_OBJECT
 public:
  explicit MarginHeader(SheetModel& model, QWidget* parent = nullptr);
  [[nodiscard]] QSize sizeHint() const override { return {44, 0}; }

 protected:
  void paintSection(QPainter* painter, const QRect& rect, int logical) const override;
  void paintEvent(QPaintEvent* event) override;

 private:
  SheetModel& model_;
};

// The double rule between margin and page.
void drawMarginRule(QPainter& painter, int x, int top, int bottom);

}  // namespace iterandum
