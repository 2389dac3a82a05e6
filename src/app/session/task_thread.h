// TaskThread: one thread that does tasks one after the other; what they bring back is handed over on the interface
// thread.
//
// The interface thread posts and goes on. A task is a function that runs on the task thread; `done` gets its result
// later, on the interface thread, unless the object it is for has gone by then.
#pragma once

#include <QCoreApplication>
#include <QEvent>
#include <QObject>
#include <QPointer>
#include <condition_variable>
#include <deque>
#include <functional>
#include <memory>
#include <mutex>
#include <thread>

#include "core/base/progress.h"

namespace iterandum {

// Results on their way to the interface thread, in the order they came. One for the program, made by the first
// TaskThread, which the interface thread makes.
class Handover : public QObject {
 public:
  [[nodiscard]] static Handover* instance();
  // From any thread: calls `result` on the interface thread.
  void put(std::function<void()> result);

 protected:
  bool event(QEvent* event) override;

 private:
  using QObject::QObject;
  std::mutex mutex_;
  std::deque<std::function<void()>> waiting_;
};

class TaskThread {
 public:
  TaskThread() : handover_(Handover::instance()), thread_([this] { run(); }) {}
  TaskThread(const TaskThread&) = delete;
  TaskThread& operator=(const TaskThread&) = delete;
  // Cancels what runs, drops what waits (unless `finish` was asked for), and joins.
  ~TaskThread();

  // Runs `task(progress)` on the thread, then `done(result)` on the interface thread if `receiver` still lives.
  template <typename Task, typename Done>
  std::shared_ptr<Progress> post(QObject* receiver, Task task, Done done, Progress::Listener listener = {}) {
    auto attempts = std::make_shared<Attempts>(std::move(listener));
    push(entryOf(receiver, attempts, std::move(task), std::move(done)), false);
    return attempts->now();
  }

  // The same while nothing else waits: what is posted meanwhile goes first, and stops the task, which is begun again
  // afterwards. Its result is of a kind that tells whether it is there (Result).
  template <typename Task, typename Done>
  void postIdle(QObject* receiver, Task task, Done done) {
    push(entryOf(receiver, std::make_shared<Attempts>(Progress::Listener()), std::move(task), std::move(done)), true);
  }

  // Asks everything that runs or waits to stop.
  void cancelAll();
  // Waits until all tasks are done before the destructor returns, instead of dropping them.
  void finishBeforeEnd() { finish_ = true; }

 private:
  // The progress of a task that may be begun more than once.
  class Attempts {
   public:
    explicit Attempts(Progress::Listener listener) : now_(std::make_shared<Progress>(std::move(listener))) {}
    [[nodiscard]] std::shared_ptr<Progress> now() const;
    void beginAgain();  // unless nobody waits for it any more
    void end();
    [[nodiscard]] bool ended() const;

   private:
    mutable std::mutex mutex_;
    std::shared_ptr<Progress> now_;
    bool ended_ = false;
  };
  // What a task left: how it is handed over, and whether it came to its end.
  struct Outcome {
    std::function<void()> hand;
    bool whole = true;
  };
  struct Entry {
    std::shared_ptr<Attempts> attempts;
    std::function<Outcome(Progress&)> work;
  };

  template <typename Task, typename Done>
  Entry entryOf(QObject* receiver, const std::shared_ptr<Attempts>& attempts, Task task, Done done) {
    // What nobody waits for any more need not be asked.
    QMetaObject::Connection gone;
    if (receiver != nullptr)
      gone = QObject::connect(
          receiver, &QObject::destroyed, receiver, [attempts] { attempts->end(); }, Qt::DirectConnection);
    return {attempts,
            [task = std::move(task), done = std::make_shared<Done>(std::move(done)),
             guard = QPointer<QObject>(receiver), gone](Progress& progress) mutable -> Outcome {
              auto result = std::make_shared<decltype(task(progress))>(task(progress));
              const bool whole = static_cast<bool>(*result);
              return {[result, done, guard, gone]() mutable {
                        if (!guard) return;
                        QObject::disconnect(gone);
                        (*done)(std::move(*result));
                      },
                      whole};
            }};
  }
  void push(Entry entry, bool idle);
  void run();

  Handover* handover_;  // the application's
  std::mutex mutex_;
  std::condition_variable wake_;
  std::deque<Entry> waiting_;
  std::deque<Entry> idle_;
  std::shared_ptr<Attempts> running_;
  bool runsIdle_ = false;
  bool madeWay_ = false;  // the idle task that runs was stopped for another one
  bool stop_ = false;
  bool finish_ = false;
  std::thread thread_;  // last: everything above exists when it starts
};

}  // namespace iterandum
