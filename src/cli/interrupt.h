// Ctrl+C while something is applied: the work is told to stop, and says what that came to. Pressed again it ends the
// program as usual.
#pragma once

#include <csignal>

#include "core/base/progress.h"

namespace iterandum::cli {

// For as long as it lives. One at a time; not between threads.
class StopsOnInterrupt {
 public:
  explicit StopsOnInterrupt(Progress& progress);
  StopsOnInterrupt(const StopsOnInterrupt&) = delete;
  StopsOnInterrupt& operator=(const StopsOnInterrupt&) = delete;
  ~StopsOnInterrupt();

 private:
  struct sigaction before_ = {};
};

}  // namespace iterandum::cli
