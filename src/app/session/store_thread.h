// StoreThread: Iterandum's own file, used by a thread of its own, one request after the other. Everybody in the window
// goes through it; the file is opened when it is first needed, and tried again when that failed. What was asked for is
// done before the window ends.
#pragma once

#include <memory>
#include <string>

#include "app/session/task_thread.h"
#include "core/store/store.h"

namespace iterandum {

class StoreThread {
 public:
  explicit StoreThread(std::string path) : path_(std::move(path)) { tasks_.finishBeforeEnd(); }

  [[nodiscard]] const std::string& path() const { return path_; }

  // Runs work(Store&), which gives a Status or a Result, and hands it to `done` on the interface thread if `receiver`
  // still lives. A store that cannot be opened is an error like any other.
  template <typename Work, typename Done>
  void post(QObject* receiver, Work work, Done done) {
    tasks_.post(
        receiver,
        [this, work = std::move(work)](Progress&) mutable -> decltype(work(*store_)) {
          if (!store_) {
            ITERANDUM_ASSIGN(store_, Store::open(path_));
          }
          return work(*store_);
        },
        std::move(done));
  }

 private:
  std::string path_;
  std::unique_ptr<Store> store_;  // touched by the thread only
  TaskThread tasks_;              // destroyed first: its last requests need the store
};

}  // namespace iterandum
