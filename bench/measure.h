// What the benchmarks share: results or an end, times, medians.
#pragma once

#include <algorithm>
#include <chrono>
#include <cstdio>
#include <cstdlib>
#include <functional>
#include <string>
#include <utility>
#include <vector>

#include "core/base/result.h"

namespace bench {

[[noreturn]] inline void stop(const std::string& message) {
  std::fprintf(stderr, "benchmark: %s\n", message.c_str());
  std::exit(1);
}

template <typename T>
T take(iterandum::Result<T>&& result) {
  if (!result) stop(result.error().text());
  return std::move(*result);
}

// In milliseconds.
inline double timed(const std::function<void()>& work) {
  using Clock = std::chrono::steady_clock;
  const auto start = Clock::now();
  work();
  return std::chrono::duration<double, std::milli>(Clock::now() - start).count();
}

inline double median(std::vector<double> times) {
  std::sort(times.begin(), times.end());
  return times[times.size() / 2];
}

}  // namespace bench
