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
  FindingEditor(Desk& desk, const Table& table, const RecordRef& record, int column, QWidget* parent = nullptr);

 signals:
  void said(const QString& message);
  void cancelled();

 protected:
  void resizeEvent(QResizeEvent* event) override;

 private:
  void open();

  SheetModel model_;
  RecordRef record_;
  int column_;
  QLabel* words_;  // until the record is there
  QPointer<CellEditor> editor_;
};

}  // namespace iterandum
