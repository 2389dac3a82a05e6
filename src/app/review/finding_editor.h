// FindingEditor: the cell that a finding is about, to be typed anew right there, with the sheet's own editor: it offers
// and takes what the sheet does. What somebody else wrote meanwhile is written over: whoever types here has read it.
#pragma once

#include <QFrame>

#include "app/cells/cell_editor.h"

class QLabel;

namespace iterandum {

class FindingEditor : public QFrame {
  Q_OBJECT
 public:
  // What is typed is staged in the record, or with setForMany() left to whoever listens to valueChosen().
  FindingEditor(Desk& desk, const Table& table, const RecordRef& record, int column, QWidget* parent = nullptr);
  void setForMany() { forMany_ = true; }

 signals:
  void valueChosen(const Value& value);
  void said(const QString& message);
  void cancelled();

 protected:
  void resizeEvent(QResizeEvent* event) override;

 private:
  void open();

  SheetModel model_;
  RecordRef record_;
  int column_;
  bool forMany_ = false;
  QLabel* words_;  // until the record is there
  QPointer<CellEditor> editor_;
};

}  // namespace iterandum
