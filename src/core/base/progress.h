// Progress: how long work is watched and stopped.
//
// The thread that does the work calls step() now and then; any thread may call cancel(). Both are safe together.
#pragma once

#include <atomic>
#include <cstdint>
#include <functional>
#include <mutex>
#include <string>
#include <utility>

namespace iterandum {

class Progress {
 public:
  using Listener = std::function<void(const std::string& what, std::uint64_t done, std::uint64_t total)>;

  Progress() = default;
  explicit Progress(Listener listener) : listener_(std::move(listener)) {}
  Progress(const Progress&) = delete;
  Progress& operator=(const Progress&) = delete;

  // Reports `done` of `total` (0: not known). Returns false when the work should stop.
  bool step(const std::string& what, std::uint64_t done, std::uint64_t total) {
    if (listener_) listener_(what, done, total);
    return !cancelled();
  }
  void cancel() {
    cancelled_.store(true, std::memory_order_relaxed);
    const std::lock_guard lock(mutex_);
    if (stop_) stop_();
  }
  // For a handler of signals, which may take no lock: work that comes to no step() goes on to its end.
  void cancelFromSignal() noexcept { cancelled_.store(true, std::memory_order_relaxed); }
  [[nodiscard]] bool cancelled() const { return cancelled_.load(std::memory_order_relaxed); }

  // For work that comes to no step(): while this lives, `stop` is called by cancel(), on its thread, under a lock; at
  // once where it was cancelled before. One at a time.
  class Stopper {
   public:
    Stopper(Progress& progress, std::function<void()> stop) : progress_(progress) {
      const std::lock_guard lock(progress_.mutex_);
      progress_.stop_ = std::move(stop);
      if (progress_.cancelled()) progress_.stop_();
    }
    Stopper(const Stopper&) = delete;
    Stopper& operator=(const Stopper&) = delete;
    ~Stopper() {
      const std::lock_guard lock(progress_.mutex_);
      progress_.stop_ = nullptr;
    }

   private:
    Progress& progress_;
  };

 private:
  Listener listener_;
  std::atomic<bool> cancelled_{false};
  std::mutex mutex_;
  std::function<void()> stop_;
};

}  // namespace iterandum
