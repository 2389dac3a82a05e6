#include "app/session/task_thread.h"

namespace iterandum {

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
