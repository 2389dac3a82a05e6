// PlaceKeeper: where somebody is in a sheet, kept while it is read anew: the same record at the same height of the
// view, or its nearest neighbour where it is no longer among these. Also goes to a record that may still have to be
// counted. Lives on the interface thread.
#pragma once

#include <QObject>
#include <functional>
#include <optional>
#include <vector>

#include "app/grid/sheet_view.h"
#include "app/records/row_search.h"

namespace iterandum {

class PlaceKeeper : public QObject {
 public:
  PlaceKeeper(SheetView& view, SheetModel& model, QObject* parent);

  // Before reading anew: here it is to go on.
  void remember();
  // At the first reading: this record and column, where there is one.
  void begin(const std::optional<ValueTuple>& record, int column);
  // Goes there as soon as it is known where the record lies. `missed`: it is not among these.
  void goTo(const ValueTuple& key, int column, std::function<void()> missed = {});
  // The column where the eye is, also while no cell is the current one.
  [[nodiscard]] int column() const;

 private:
  void restarted();
  void lookOn();
  void arrive(int row);
  void end();

  SheetView& view_;
  SheetModel& model_;
  std::vector<ValueTuple> wanted_;  // the record, then its neighbours; empty: nothing is looked for
  std::size_t which_ = 0;           // of these is looked for
  std::function<void()> missed_;
  bool always_ = false;  // also when somebody moved on meanwhile
  int waitingAt_ = 0;    // the row on which it is waited
  int oldRow_ = 0;
  int fromTop_ = 0;  // how far below the first row of the view
  int column_ = 0;
  int lookedThrough_ = 0;  // rows before this one were looked through
  bool looking_ = false;
  RowSearch search_;
};

}  // namespace iterandum
