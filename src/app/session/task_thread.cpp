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

std::shared_ptr<Progress> TaskThread::Attempts::now() const {
  const std::lock_guard lock(mutex_);
  return now_;
}

void TaskThread::Attempts::beginAgain() {
  const std::lock_guard lock(mutex_);
  if (!ended_) now_ = std::make_shared<Progress>();
}

void TaskThread::Attempts::end() {
  const std::lock_guard lock(mutex_);
  ended_ = true;
  now_->cancel();
}

bool TaskThread::Attempts::ended() const {
  const std::lock_guard lock(mutex_);
  return ended_;
}

TaskThread::~TaskThread() {
  std::deque<Entry> dropped;  // what they hold may be the last of something: not under the lock
  {
    const std::lock_guard lock(mutex_);
    stop_ = true;
    dropped.swap(idle_);
    if (!finish_) {
      for (Entry& e : waiting_) dropped.push_back(std::move(e));
      waiting_.clear();
    }
    for (const Entry& e : dropped) e.attempts->end();
    if (running_ && (!finish_ || runsIdle_)) running_->end();
  }
  wake_.notify_all();
  thread_.join();
}

void TaskThread::push(Entry entry, bool idle) {
  {
    const std::lock_guard lock(mutex_);
    (idle ? idle_ : waiting_).push_back(std::move(entry));
    if (!idle && runsIdle_ && running_) {
      madeWay_ = true;
      running_->now()->cancel();
    }
  }
  wake_.notify_one();
}

void TaskThread::cancelAll() {
  const std::lock_guard lock(mutex_);
  for (const Entry& e : waiting_) e.attempts->end();
  for (const Entry& e : idle_) e.attempts->end();
  if (running_) running_->end();
}

void TaskThread::run() {
  for (;;) {
    Entry entry;
    {
      std::unique_lock lock(mutex_);
      wake_.wait(lock, [&] { return stop_ || !waiting_.empty() || !idle_.empty(); });
      if (waiting_.empty() && idle_.empty()) return;
      runsIdle_ = waiting_.empty();
      madeWay_ = false;
      std::deque<Entry>& from = runsIdle_ ? idle_ : waiting_;
      entry = std::move(from.front());
      from.pop_front();
      running_ = entry.attempts;
    }
    const std::shared_ptr<Progress> progress = entry.attempts->now();
    Outcome outcome = entry.work(*progress);
    {
      const std::lock_guard lock(mutex_);
      running_.reset();
      if (madeWay_ && !outcome.whole && !stop_ && !entry.attempts->ended()) {
        entry.attempts->beginAgain();
        idle_.push_front(std::move(entry));
        continue;
      }
    }
    entry.work = nullptr;  // what it holds goes on the interface thread
    handover_->put(std::move(outcome.hand));
  }
}

}  // namespace iterandum
