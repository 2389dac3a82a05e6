// CardField: one field of the card: painted like the sheet's cell, a long text on several lines; reached by Tab, opened
// by Enter, F2, typing or a double click.
#pragma once

#include <QWidget>
#include <optional>

#include "app/cells/cell_painter.h"
#include "app/records/sheet_model.h"

namespace iterandum {

class CardField : public QWidget {
  Q_OBJECT
 public:
  CardField(SheetModel& model, int column, QWidget* parent);

  [[nodiscard]] int column() const { return column_; }
  // What stands in front of it in place of the column's name, and what is to be known when it is filled in.
  void setWords(const QString& label, const QString& hint);
  [[nodiscard]] const QString& label() const { return label_; }
  // Which record it shows; -1: none.
  void show(int row);
  // Its value is to be kept for the next new record.
  void setPinned(bool pinned);
  [[nodiscard]] bool pinned() const { return pinned_; }
  // Whether some record that is loaded has a long text in it: it wants the whole width. Once so, always so.
  [[nodiscard]] bool isWide() const;
  // Where an editor lies, in the parent.
  [[nodiscard]] QRect cell() const;

  [[nodiscard]] bool hasHeightForWidth() const override { return true; }
  [[nodiscard]] int heightForWidth(int width) const override;
  [[nodiscard]] QSize sizeHint() const override { return {200, heightForWidth(200)}; }

 signals:
  void editAsked(const QString& start);  // `start`: what was typed; empty: what it holds is edited
  void emptied();                        // no value
  void left();                           // Escape
  void stepAsked(int records);           // to another record, INT_MAX and INT_MIN to the last and first
  void pinAsked();
  void entered();
  void moveAsked(int step);        // within the form
  void dragged(const QPoint& to);  // by its label, in the parent
  void dropped(const QPoint& to);
  void menuAsked(const QPoint& where);

 protected:
  void paintEvent(QPaintEvent* event) override;
  bool event(QEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  void contextMenuEvent(QContextMenuEvent* event) override;
  void focusInEvent(QFocusEvent* event) override;

 private:
  [[nodiscard]] std::vector<TextRun> runs() const;
  [[nodiscard]] int labelWidth(int width) const;
  [[nodiscard]] bool isNew() const;
  [[nodiscard]] QRect pinRect() const;
  [[nodiscard]] int hintHeight() const;
  void paintLines(QPainter& painter, const QRect& where) const;

  SheetModel& model_;
  int column_;
  int row_ = -1;
  QString label_;
  QString hint_;
  std::optional<QPoint> pressedAt_;  // on the label
  bool dragging_ = false;
  bool pinned_ = false;
  mutable bool wide_ = false;
};

}  // namespace iterandum
