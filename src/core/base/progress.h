// Progress: how long work is watched and stopped.
//
// The thread that does the work calls step() now and then; any thread may call cancel(). Both are safe together.
#pragma once

#include <atomic>
#include <cstdint>
#include <functional>
#include <string>

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
  void cancel() { cancelled_.store(true, std::memory_order_relaxed); }
  [[nodiscard]] bool cancelled() const { return cancelled_.load(std::memory_order_relaxed); }

 private:
  Listener listener_;
  std::atomic<bool> cancelled_{false};
};

}  // namespace iterandum
