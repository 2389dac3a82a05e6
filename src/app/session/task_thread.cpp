#include "app/session/task_thread.h"

namespace iterandum {

Handover* Handover::instance() {
  static QPointer<Handover> instance;
  if (instance.isNull()) instance = new Handover(qApp);
  return instance;
}

// What is handed over goes through our own lock; the event only wakes the interface thread.
void Handover::put(std::function<void()> result) {
  {
    const std::lock_guard lock(mutex_);
    waiting_.push_back(std::move(result));
  }
  QCoreApplication::postEvent(this, new QEvent(QEvent::User));
}

bool Handover::event(QEvent* event) {
  if (event->type() != QEvent::User) return QObject::event(event);
  std::function<void()> next;
  {
    const std::lock_guard lock(mutex_);
    if (waiting_.empty()) return true;
    next = std::move(waiting_.front());
    waiting_.pop_front();
  }
  next();
  return true;
}

TaskThread::~TaskThread() {
  {
    const std::lock_guard lock(mutex_);
    stop_ = true;
    if (!finish_) {
      for (const Entry& e : waiting_) e.progress->cancel();
      waiting_.clear();
      if (running_) running_->cancel();
    }
  }
  wake_.notify_all();
  thread_.join();
}

void TaskThread::push(Entry entry) {
  {
    const std::lock_guard lock(mutex_);
    waiting_.push_back(std::move(entry));
  }
  wake_.notify_one();
}

void TaskThread::cancelAll() {
  const std::lock_guard lock(mutex_);
  for (const Entry& e : waiting_) e.progress->cancel();
  if (running_) running_->cancel();
}

void TaskThread::run() {
  for (;;) {
    Entry entry;
    {
      std::unique_lock lock(mutex_);
      wake_.wait(lock, [&] { return stop_ || !waiting_.empty(); });
      if (waiting_.empty()) return;
      entry = std::move(waiting_.front());
      waiting_.pop_front();
      running_ = entry.progress;
    }
    entry.work();
    const std::lock_guard lock(mutex_);
    running_.reset();
  }
}

}  // namespace iterandum
