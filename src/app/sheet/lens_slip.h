// LensSlip: beside the sheet, the lens of a column: of which kind, with what it needs, and what some of the column's
// values look like through it. It changes nothing that is stored.
#pragma once

#include <vector>

#include "app/records/sheet_model.h"
#include "app/sheet/side_slip.h"

class QLineEdit;
class QPlainTextEdit;
class QPushButton;

namespace iterandum {

class LensSlip : public SideSlip {
  Q_OBJECT
 public:
  explicit LensSlip(SheetModel& model, QWidget* parent = nullptr);
  // The lens of this column; where it has none, the likeliest one is chosen, and not yet looked through.
  void open(int column);
  [[nodiscard]] int column() const { return column_; }
  void focusFirst();

 private:
  void build();
  QLineEdit* addLine(QGridLayout* grid, const QString& label, const char* name, const QString& hint);
  void show(const Lens& lens);
  void showFields();
  // What is chosen. Errors: InvalidInput, with what is missing.
  [[nodiscard]] Result<Lens> lens() const;
  void look() override;
  void finish() override;
  void takeOff();
  // Different values of the column among the records that are loaded.
  [[nodiscard]] std::vector<Value> some() const;

  SheetModel& model_;
  int column_ = 0;
  bool filling_ = false;
  QLabel* title_;
  QLabel* subtitle_;
  QComboBox* kind_;
  QComboBox* stored_;
  QComboBox* counted_;
  QComboBox* form_;
  QLineEdit* since_;
  QLineEdit* factor_;
  QLineEdit* behind_;
  QLineEdit* bits_;
  QPlainTextEdit* labels_;
  QLabel* words_;
  QListWidget* proof_;
  QPushButton* take_;
  QPushButton* off_;
};

}  // namespace iterandum
