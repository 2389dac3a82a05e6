// RowSearch: looks through positions of a sheet in short steps, so that the window stays alive over ten million of
// them. What lies near is found at once. Lives on the interface thread.
#pragma once

#include <QObject>
#include <functional>
#include <optional>

namespace iterandum {

class RowSearch : public QObject {
 public:
  using QObject::QObject;

  // The first row sought in [first, last], the last one when the way is backwards; nothing: none of them.
  using Look = std::function<std::optional<int>(int first, int last)>;
  using Done = std::function<void(std::optional<int> row)>;

  enum class Way { Forwards, Backwards };
  // Looks from `first` to `last`, which lies before it when the way is backwards; the other way round there are no rows
  // to look at. The search before this one is forgotten; `done` may be called before start() returns.
  void start(int first, int last, Way way, Look look, Done done);
  void stop() { ++search_; }

 private:
  void goOn(quint64 search);

  quint64 search_ = 0;
  int next_ = 0;
  int last_ = 0;
  bool backwards_ = false;
  Look look_;
  Done done_;
};

}  // namespace iterandum
