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
    auto progress = std::make_shared<Progress>(std::move(listener));
    // What nobody waits for any more need not be asked.
    QMetaObject::Connection gone;
    if (receiver != nullptr)
      gone = QObject::connect(
          receiver, &QObject::destroyed, receiver, [progress] { progress->cancel(); }, Qt::DirectConnection);
    push({progress, [progress, handover = handover_, task = std::move(task), done = std::move(done),
                     guard = QPointer<QObject>(receiver), gone]() mutable {
            auto result = std::make_shared<decltype(task(*progress))>(task(*progress));
            handover->put([result, done = std::move(done), guard = std::move(guard), gone]() mutable {
              if (!guard) return;
              QObject::disconnect(gone);
              done(std::move(*result));
            });
          }});
    return progress;
  }

  // Asks everything that runs or waits to stop.
  void cancelAll();
  // Waits until all tasks are done before the destructor returns, instead of dropping them.
  void finishBeforeEnd() { finish_ = true; }

 private:
  struct Entry {
    std::shared_ptr<Progress> progress;
    std::function<void()> work;
  };
  void push(Entry entry);
  void run();

  Handover* handover_;  // the application's
  std::mutex mutex_;
  std::condition_variable wake_;
  std::deque<Entry> waiting_;
  std::shared_ptr<Progress> running_;
  bool stop_ = false;
  bool finish_ = false;
  std::thread thread_;  // last: everything above exists when it starts
};

}  // namespace iterandum
