#include "cli/interrupt.h"

#include <atomic>

namespace iterandum::cli {
namespace {

std::atomic<Progress*> running{nullptr};
static_assert(std::atomic<Progress*>::is_always_lock_free, "it is touched by a signal's handler");

// One store to a lock-free atomic.
void stopRunning(int /*signal*/) {
  if (Progress* progress = running.load()) progress->cancelFromSignal();
}

}  // namespace

StopsOnInterrupt::StopsOnInterrupt(Progress& progress) {
  running = &progress;
  struct sigaction stop = {};
  stop.sa_handler = stopRunning;
  // The second time nothing of ours is in the way any more.
  stop.sa_flags = static_cast<int>(SA_RESETHAND);
  sigaction(SIGINT, &stop, &before_);
  if (before_.sa_handler == SIG_IGN) sigaction(SIGINT, &before_, nullptr);
}

StopsOnInterrupt::~StopsOnInterrupt() {
  sigaction(SIGINT, &before_, nullptr);
  running = nullptr;
}

}  // namespace iterandum::cli
