// CardField: one field of the card: painted like the sheet's cell, a long text on several lines; reached by Tab, opened
// by Enter, F2, typing or a double click.
#pragma once

#include <QWidget>

#include "app/cells/cell_painter.h"
#include "app/records/sheet_model.h"

namespace iterandum {

class CardField : public QWidget {
  Q_OBJECT
 public:
  CardField(SheetModel& model, int column, QWidget* parent);

  [[nodiscard]] int column() const { return column_; }
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

 protected:
  void paintEvent(QPaintEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  void focusInEvent(QFocusEvent* event) override;

 private:
  [[nodiscard]] std::vector<TextRun> runs() const;
  [[nodiscard]] int labelWidth(int width) const;
  [[nodiscard]] bool isNew() const;
  [[nodiscard]] QRect pinRect() const;
  void paintLines(QPainter& painter, const QRect& where) const;

  SheetModel& model_;
  int column_;
  int row_ = -1;
  bool pinned_ = false;
  mutable bool wide_ = false;
};

}  // namespace iterandum
