// WholeCell: one cell opened whole, to be read, copied and kept as a file: long texts, and bytes as figures, those of a
// picture also as what they show. A column of bytes takes a file in; that is up to whoever opened it.
#pragma once

#include <QFrame>

#include "app/records/sheet_model.h"

class QLabel;
class QPlainTextEdit;
class QPushButton;

namespace iterandum {

class WholeCell : public QFrame {
  Q_OBJECT
 public:
  explicit WholeCell(QWidget* parent);
  // `takesFile`: a file may take the place of what the cell holds.
  void open(const QString& title, const Value& value, bool takesFile);

 signals:
  void closed();
  void fileAsked();
  void said(const QString& message);

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

 private:
  void close();
  void showPicture();
  void save();

  QLabel* title_;
  QLabel* picture_;
  QLabel* note_;
  QPlainTextEdit* text_;
  QPushButton* save_;
  QPushButton* load_;
  QString whole_;
  QByteArray content_;  // as it goes into a file
};

}  // namespace iterandum
