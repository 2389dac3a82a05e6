// MergeSlip: records that are the same thing, side by side: which one stays, and whose value each column gets; what
// points at the others points at it then, and they go. One button stages all of it as one gesture.
#pragma once

#include <QWidget>
#include <memory>
#include <vector>

#include "app/grid/sheet_view.h"
#include "app/records/sheet_model.h"
#include "core/acts/merge_records.h"

class QCheckBox;
class QComboBox;
class QLabel;
class QPushButton;
class QTableWidget;

namespace iterandum {

class MergeSlip : public QWidget {
  Q_OBJECT
 public:
  // More than these stand side by side no more.
  static constexpr int kMost = 12;

  MergeSlip(SheetView& view, SheetModel& model, QWidget* parent = nullptr);
  // For the records that are selected. Empty: it is open; else why they cannot be merged.
  [[nodiscard]] QString open();
  // For these, the first of which stays if nothing else is said.
  [[nodiscard]] QString openFor(std::vector<ValueTuple> keys);
  void focusValues();

 signals:
  void leaveAsked();
  void told(const QString& message);

 protected:
  bool event(QEvent* event) override;
  bool eventFilter(QObject* watched, QEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void hideEvent(QHideEvent* event) override;

 private:
  void build();
  void read(std::vector<ValueTuple> keys);
  void takeRecords(std::vector<ValueTuple>&& records);
  void fill();
  void choose(int row, int record);
  void plan();
  void takePlan(Result<MergePlan>&& plan);
  void stage();
  [[nodiscard]] QString nameOf(std::size_t record) const;
  [[nodiscard]] QString wordsOf(const MergePlan& plan) const;
  void say(const QString& words, bool amiss);

  SheetView& view_;
  SheetModel& model_;
  QLabel* subtitle_;
  QComboBox* keep_;
  QTableWidget* values_;
  QLabel* words_;
  QCheckBox* doubles_;
  QPushButton* stage_;
  std::vector<ValueTuple> keys_;
  std::vector<ValueTuple> records_;   // by recordColumns()
  std::vector<std::size_t> columns_;  // of the table, by row of `values_`: those that differ first
  std::vector<int> taken_;            // by row: whose value
  std::optional<MergePlan> plan_;
  std::shared_ptr<Progress> reading_;
  std::uint64_t asked_ = 0;
};

}  // namespace iterandum
