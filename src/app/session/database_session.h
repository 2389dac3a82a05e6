// DatabaseSession: a core Session on a thread of its own. Every call returns at once; results come on the interface
// thread. The window has two of them for a database: one for what the user waits for, one for what goes on behind.
#pragma once

#include <memory>
#include <string>

#include "app/session/task_thread.h"
#include "core/engines/session.h"

namespace iterandum {

class DatabaseSession {
 public:
  DatabaseSession() = default;

  // Opens (on the thread) and hands over what the database holds.
  template <typename Done>
  void open(QObject* receiver, const std::string& address, Done done) {
    tasks_.post(
        receiver,
        [this, address](Progress& progress) -> Result<Opened> {
          ITERANDUM_ASSIGN(session_, openSession(address));
          ITERANDUM_ASSIGN(Catalogue catalogue, session_->readCatalogue(progress));
          return Opened{session_->info(), std::make_shared<const Catalogue>(std::move(catalogue))};
        },
        std::move(done));
  }

  struct Opened {
    SessionInfo info;
    std::shared_ptr<const Catalogue> catalogue;
  };

  // task(Session&, Progress&) returns a Result of some kind. REQUIRES: open() was called before.
  template <typename Task, typename Done>
  std::shared_ptr<Progress> post(QObject* receiver, Task task, Done done, Progress::Listener listener = {}) {
    return tasks_.post(
        receiver,
        [this, task = std::move(task)](Progress& progress) mutable -> decltype(task(*session_, progress)) {
          if (!session_) return fail(ErrorKind::ConnectionLost, "the database is not open");
          if (progress.cancelled()) return fail(ErrorKind::Cancelled, "it was stopped");
          return task(*session_, progress);
        },
        std::move(done), std::move(listener));
  }
  void cancelAll() { tasks_.cancelAll(); }

 private:
  std::unique_ptr<Session> session_;  // touched by the task thread only
  TaskThread tasks_;                  // destroyed first: joins before the session goes
};

}  // namespace iterandum
