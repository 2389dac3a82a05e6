#include "app/sheet/mark_walk.h"

#include <algorithm>

namespace iterandum {

MarkWalk::MarkWalk(SheetView& view, SheetModel& model, QObject* parent) : QObject(parent), view_(view), model_(model) {
  // What a row means is another one then.
  connect(&model_.source(), &RecordSource::restarted, this, [this] { search_.stop(); });
}

void MarkWalk::step(bool backwards) { look(model_.anyMayNeedALook() ? Marked::Query : Marked::Staged, backwards); }

void MarkWalk::look(Marked marked, bool backwards) {
  const int count = model_.rowCount();
  if (count == 0) return foundNone(Marked::Staged, backwards);
  const int from = std::clamp(view_.currentIndex().row(), 0, count - 1);
  if (backwards && from > 0) return look(marked, from - 1, 0, true, true);
  if (!backwards && from < count - 1) return look(marked, from + 1, count - 1, false, true);
  look(marked, backwards ? count - 1 : 0, from, backwards, false);
}

void MarkWalk::look(Marked marked, int first, int last, bool backwards, bool thenRound) {
  search_.start(
      first, last, backwards ? RowSearch::Way::Backwards : RowSearch::Way::Forwards,
      [this, marked, backwards](int low, int high) {
        return model_.markedIn(low, std::min(high, model_.rowCount() - 1), backwards, marked);
      },
      [this, marked, first, backwards, thenRound](std::optional<int> row) {
        if (row) return view_.goTo(*row, columnIn(*row));
        if (!thenRound) return foundNone(marked, backwards);
        const int end = std::max(0, model_.rowCount() - 1);
        look(marked, backwards ? end : 0, std::clamp(backwards ? first + 1 : first - 1, 0, end), backwards, false);
      });
}

void MarkWalk::foundNone(Marked marked, bool backwards) {
  if (marked == Marked::Query) return look(Marked::Staged, backwards);
  emit said(tr("Nothing is staged here, and nothing needs a look."));
}

int MarkWalk::columnIn(int row) const {
  const int now = std::max(0, view_.currentIndex().column());
  std::optional<int> changed;
  for (int visual = 0; visual < view_.head().count(); ++visual) {
    const int column = view_.head().logicalIndex(visual);
    if (view_.isColumnHidden(column)) continue;
    const CellState state = model_.cell(row, column);
    if (state.needsALook()) return column;
    if (state.staged && (!changed || column == now)) changed = column;
  }
  return changed.value_or(now);
}

}  // namespace iterandum
