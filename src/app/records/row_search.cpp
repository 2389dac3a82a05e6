#include "app/records/row_search.h"

#include <QElapsedTimer>
#include <QTimer>
#include <algorithm>

namespace iterandum {
namespace {
// Half a frame at 60 Hz; within it so many rows are looked through before the clock is asked again.
constexpr int kMilliseconds = 8;
constexpr int kRows = 4096;
}  // namespace

void RowSearch::start(int first, int last, Way way, Look look, Done done) {
  ++search_;
  next_ = first;
  last_ = last;
  backwards_ = way == Way::Backwards;
  look_ = std::move(look);
  done_ = std::move(done);
  goOn(search_);
}

void RowSearch::goOn(quint64 search) {
  if (search != search_) return;
  QElapsedTimer timer;
  timer.start();
  const auto isLeft = [&] { return backwards_ ? next_ >= last_ : next_ <= last_; };
  while (isLeft()) {
    if (timer.hasExpired(kMilliseconds)) {
      QTimer::singleShot(0, this, [this, search] { goOn(search); });
      return;
    }
    const int end = backwards_ ? std::max(last_, next_ - kRows + 1) : std::min(last_, next_ + kRows - 1);
    const auto row = look_(std::min(next_, end), std::max(next_, end));
    next_ = backwards_ ? end - 1 : end + 1;
    if (!row) continue;
    ++search_;
    // `done` may begin another search.
    const Done done = std::move(done_);
    return done(row);
  }
  ++search_;
  const Done done = std::move(done_);
  done(std::nullopt);
}

}  // namespace iterandum
