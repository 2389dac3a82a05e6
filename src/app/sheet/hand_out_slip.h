// HandOutSlip: beside the sheet, what a working copy is to be: the records that the sheet shows, and which of their
// columns may be changed in it.
#pragma once

#include <string>
#include <vector>

#include "app/records/sheet_model.h"
#include "app/sheet/side_slip.h"
#include "core/files/working_copy.h"

class QPushButton;

namespace iterandum {

class HandOutSlip : public SideSlip {
  Q_OBJECT
 public:
  explicit HandOutSlip(SheetModel& model, QWidget* parent = nullptr);
  // With these columns, as the sheet shows them.
  void open(const std::vector<int>& columns);
  void focusFirst();
  // What is chosen.
  [[nodiscard]] WorkingCopyOptions options() const;

 signals:
  // A file is to be chosen, and the copy written to it.
  void fileAsked();

 private:
  void finish() override;
  void look() override;

  SheetModel& model_;
  QLabel* subtitle_;
  QListWidget* columns_;
  QLabel* words_;
  QPushButton* write_;
};

}  // namespace iterandum
