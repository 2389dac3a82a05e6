// ValuesPanel: what a column holds, at a glance: how many records have no value, how numbers and days are spread, the
// commonest values, and spellings that are nearly alike. Choosing one narrows the sheet to it.
#pragma once

#include <QWidget>
#include <memory>
#include <vector>

#include "app/records/column_values.h"
#include "app/records/sheet_model.h"
#include "app/sheet/histogram_view.h"
#include "core/scope/query.h"

class QLabel;
class QListWidget;
class QListWidgetItem;

namespace iterandum {

class ValuesPanel : public QWidget {
  Q_OBJECT
 public:
  explicit ValuesPanel(SheetModel& model, QWidget* parent = nullptr);
  // The values of the column in the records that `where` leaves: the filters of the other columns.
  void show(int column, const Condition& where);
  [[nodiscard]] int column() const { return column_; }

 signals:
  // `filter`: what the column's filter cell is to hold.
  void chosen(int column, const QString& filter);
  // All that are spelled in one of these ways are to be spelled in the right one.
  void spellingChosen(int column, const std::vector<Value>& others, const Value& right);
  void leaveAsked();

 protected:
  void keyPressEvent(QKeyEvent* event) override;

 private:
  // `alike`: positions in `values`.
  void fill(const CountedValues& values, const std::vector<std::vector<std::size_t>>& alike);
  void askAlike(const Query& query, const CountedValues& values);
  void askSpread(const Query& query, const CountedValues& values);
  [[nodiscard]] static std::vector<std::vector<std::size_t>> alikeAmong(const CountedValues& values);
  [[nodiscard]] static Result<std::optional<Histogram>> spreadOf(Session& session, const Query& records,
                                                                 const ColumnPath& path, const CountedValues& values,
                                                                 Progress& progress);
  void addHeading(const QString& text);
  void addLine(const QString& text, std::uint64_t records, const QString& filter, bool aside);
  void addSpellings(const CountedValues& values, const std::vector<std::size_t>& group, std::size_t number);
  void choose(QListWidgetItem* item);

  SheetModel& model_;
  QLabel* title_;
  QLabel* subtitle_;
  HistogramView* chart_;
  QListWidget* list_;
  int column_ = -1;
  std::shared_ptr<Progress> progress_;  // of the question before
  std::uint64_t asked_ = 0;             // which question the next answer is for
  CountedValues values_;                // that are shown
  std::vector<std::vector<std::size_t>> alike_;
  std::uint64_t records_ = 0;  // that the values shown are of
};

}  // namespace iterandum
