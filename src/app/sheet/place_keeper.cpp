#include "app/sheet/place_keeper.h"

#include <QScrollBar>
#include <algorithm>

namespace iterandum {

PlaceKeeper::PlaceKeeper(SheetView& view, SheetModel& model, QObject* parent)
    : QObject(parent), view_(view), model_(model) {
  // A reset forgets the current cell; its column is where the eye was.
  connect(&model_, &QAbstractItemModel::modelAboutToBeReset, this, [this] { column_ = column(); });
  connect(&model_.source(), &RecordSource::restarted, this, &PlaceKeeper::restarted);
  connect(&model_.source(), &RecordSource::counted, this, &PlaceKeeper::lookOn);
}

int PlaceKeeper::column() const { return view_.currentIndex().isValid() ? view_.currentIndex().column() : column_; }

void PlaceKeeper::end() {
  wanted_.clear();
  missed_ = {};
  always_ = false;
}

void PlaceKeeper::remember() {
  // A wish that is still looked for counts more than where it is waited for.
  if (always_ && !wanted_.empty()) return;
  end();
  const int row = view_.currentIndex().row();
  const RecordSource& source = model_.source();
  if (row < 0 || row >= source.rows()) return;
  column_ = column();
  oldRow_ = row;
  fromTop_ = row - view_.verticalScrollBar()->value();
  for (const int near : {row, row + 1, row - 1}) {
    if (near >= 0 && near < source.rows()) wanted_.push_back(source.key(near));
  }
}

void PlaceKeeper::begin(const std::optional<ValueTuple>& record, int column) {
  end();
  column_ = column;
  if (record) wanted_ = {*record};
  oldRow_ = 0;
  fromTop_ = 0;
}

void PlaceKeeper::goTo(const ValueTuple& key, int column, std::function<void()> missed) {
  end();
  search_.stop();
  wanted_ = {key};
  which_ = 0;
  missed_ = std::move(missed);
  always_ = true;
  column_ = column;
  oldRow_ = std::max(0, view_.currentIndex().row());
  fromTop_ = -1;
  lookedThrough_ = 0;
  looking_ = false;
  lookOn();
}

void PlaceKeeper::restarted() {
  search_.stop();
  looking_ = false;
  which_ = 0;
  lookedThrough_ = 0;
  if (model_.rowCount() == 0) return view_.currentRowChanged(-1);
  const RecordSource& source = model_.source();
  const auto row = wanted_.empty() ? std::optional(0) : source.rowOf(wanted_[0], 0, source.rows() - 1);
  if (row) return arrive(*row);
  // It may lie among those whose keys are still to come; until then about where it was.
  lookedThrough_ = source.rows();
  waitingAt_ = std::min(oldRow_, model_.rowCount() - 1);
  view_.goTo(waitingAt_, std::min(column_, model_.columnCount() - 1));
  lookOn();
}

void PlaceKeeper::arrive(int row) {
  const int fromTop = wanted_.empty() ? -1 : fromTop_;
  end();
  view_.goTo(row, std::min(column_, model_.columnCount() - 1));
  if (fromTop >= 0) view_.verticalScrollBar()->setValue(row - fromTop);
  emit view_.currentRowChanged(row);
}

void PlaceKeeper::lookOn() {
  RecordSource& source = model_.source();
  if (wanted_.empty() || looking_) return;
  const int rows = source.rows();
  if (lookedThrough_ >= rows) {
    if (!source.complete()) return;
    if (++which_ < wanted_.size()) {
      lookedThrough_ = 0;
      return lookOn();
    }
    const auto missed = std::exchange(missed_, {});
    end();
    if (missed) missed();
    return;
  }
  looking_ = true;
  search_.start(
      lookedThrough_, rows - 1, RowSearch::Way::Forwards,
      [this](int first, int last) { return model_.source().rowOf(wanted_[which_], first, last); },
      [this, rows](std::optional<int> row) {
        looking_ = false;
        lookedThrough_ = rows;
        if (!row) return lookOn();  // more may have come meanwhile
        if (always_ || view_.currentIndex().row() == waitingAt_) return arrive(*row);
        end();
      });
}

}  // namespace iterandum
