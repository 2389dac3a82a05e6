// WholeCell: one cell opened whole, to be read and copied: long texts, and bytes as figures. Nothing is changed here.
#pragma once

#include <QFrame>

#include "app/records/sheet_model.h"

class QLabel;
class QPlainTextEdit;

namespace iterandum {

class WholeCell : public QFrame {
  Q_OBJECT
 public:
  explicit WholeCell(QWidget* parent);
  void open(const QString& title, const Value& value);

 signals:
  void closed();

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  QLabel* title_;
  QLabel* note_;
  QPlainTextEdit* text_;
  QString whole_;
};

}  // namespace iterandum
