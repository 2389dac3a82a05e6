// MarkWalk: steps through the records of a sheet that are marked, round and round: those that need a look first, and
// where there is none those with something staged. Lives on the interface thread.
#pragma once

#include <QObject>

#include "app/grid/sheet_view.h"
#include "app/records/row_search.h"

namespace iterandum {

class MarkWalk : public QObject {
  Q_OBJECT
 public:
  MarkWalk(SheetView& view, SheetModel& model, QObject* parent);
  void step(bool backwards);

 signals:
  void said(const QString& message);

 private:
  using Marked = SheetModel::Marked;
  // All records from here on, up to and with the one where it began.
  void look(Marked marked, bool backwards);
  void look(Marked marked, int first, int last, bool backwards, bool thenRound);
  void foundNone(Marked marked, bool backwards);
  // The cell that is meant by the mark, where one can be seen; else the column stays.
  [[nodiscard]] int columnIn(int row) const;

  SheetView& view_;
  SheetModel& model_;
  RowSearch search_;
};

}  // namespace iterandum
