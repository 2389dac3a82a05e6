// DatabaseSession: a core Session on a thread of its own. Every call returns at once; results come on the interface
// thread. The window has three of them for a database: one for what the user waits for, one for what goes on behind,
// one for reading the keys of whole tables.
//
// A session whose connection is lost says so to the request that noticed; the next request connects anew.
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
  void open(QObject* receiver, const std::string& address, const OpenOptions& options, Done done) {
    tasks_.post(
        receiver,
        [this, address, options](Progress& progress) -> Result<Opened> {
          address_ = address;
          options_ = options;
          ITERANDUM_ASSIGN(session_, openSession(address, options, progress));
          ITERANDUM_ASSIGN(Catalogue catalogue, session_->readCatalogue(progress));
          return Opened{session_->info(), std::make_shared<const Catalogue>(std::move(catalogue))};
        },
        std::move(done));
  }

  // Connects when the first request comes.
  void openLater(const std::string& address, const OpenOptions& options) {
    tasks_.post(
        nullptr,
        [this, address, options](Progress&) {
          address_ = address;
          options_ = options;
          lost_ = true;
          return true;
        },
        [](bool) {});
  }

  struct Opened {
    SessionInfo info;
    std::shared_ptr<const Catalogue> catalogue;
  };

  // The tables that tasks speak of: each task, and what is done with its result, keeps the catalogue that was in use
  // when it was posted. On the interface thread.
  void useCatalogue(std::shared_ptr<const Catalogue> catalogue) { catalogue_ = std::move(catalogue); }

  // task(Session&, Progress&) returns a Result of some kind. REQUIRES: open() was called before.
  template <typename Task, typename Done>
  std::shared_ptr<Progress> post(QObject* receiver, Task task, Done done, Progress::Listener listener = {}) {
    return tasks_.post(receiver, inSession(std::move(task)), handedTo(std::move(done)), std::move(listener));
  }
  // The same for what anything else goes before, and which may be begun again (TaskThread).
  template <typename Task, typename Done>
  void postIdle(QObject* receiver, Task task, Done done) {
    tasks_.postIdle(receiver, inSession(std::move(task)), handedTo(std::move(done)));
  }
  void cancelAll() { tasks_.cancelAll(); }

 private:
  template <typename Task>
  auto inSession(Task task) {
    return [this, held = catalogue_,
            task = std::move(task)](Progress& progress) mutable -> decltype(task(*session_, progress)) {
      if (progress.cancelled()) return fail(ErrorKind::Cancelled, "it was stopped");
      if (!session_ && lost_) {
        ITERANDUM_ASSIGN(session_, openSession(address_, options_, progress));
        lost_ = false;
      }
      if (!session_) return fail(ErrorKind::ConnectionLost, "the database is not open");
      auto result = task(*session_, progress);
      if (!result && result.error().kind == ErrorKind::ConnectionLost) {
        session_.reset();
        lost_ = true;
        result.error().message += "; what is staged is safe. Read again (F5) to connect anew";
      }
      return result;
    };
  }
  template <typename Done>
  auto handedTo(Done done) {
    return [held = catalogue_, done = std::move(done)](auto&& result) mutable {
      done(std::forward<decltype(result)>(result));
    };
  }

  std::shared_ptr<const Catalogue> catalogue_;  // touched by the interface thread only; the others by the task thread
  std::unique_ptr<Session> session_;
  std::string address_;
  OpenOptions options_;  // with the password
  bool lost_ = false;
  TaskThread tasks_;  // destroyed first: joins before the session goes
};

}  // namespace iterandum
