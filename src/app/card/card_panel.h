// CardPanel: the current record whole, beside the sheet: all its fields, the records it points at, and how many point
// at it. Edits here are the same staged cells.
#pragma once

#include <QWidget>

#include "app/records/sheet_model.h"

class QGridLayout;
class QLabel;
class QScrollArea;

namespace iterandum {

class CellEditor;

class CardPanel : public QWidget {
  Q_OBJECT
 public:
  explicit CardPanel(SheetModel& model, QWidget* parent = nullptr);
  // Shows another record; -1 shows none.
  void show(int row);
  void refresh();
  // The field of a column gets the keys; of a borrowed one, the first field.
  void focusField(int column);

 signals:
  void said(const QString& message);
  void leaveAsked();                   // Escape: back to the sheet
  void openAsked(const Scope& scope);  // the records that point here

 private:
  friend class CardField;
  void build();
  void countIncoming();
  struct Incoming {
    const Table* table;
    Condition where;
    Scope scope;  // the same, as a sheet shows it
  };
  [[nodiscard]] std::vector<Incoming> incomingOf(const ValueTuple& record) const;
  void showIncoming(const std::vector<Incoming>& incoming, const std::vector<std::uint64_t>& counts);
  void edit(int column, QWidget* field);

  SheetModel& model_;
  int row_ = -1;
  QLabel* title_;
  QLabel* subtitle_;
  QScrollArea* scroll_;
  QWidget* body_ = nullptr;
  std::vector<QWidget*> fields_;
  QWidget* incoming_ = nullptr;  // a heading, and a line for each table that points here
  std::uint64_t counting_ = 0;
};

}  // namespace iterandum
