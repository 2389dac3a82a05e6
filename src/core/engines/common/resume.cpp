#include "core/engines/common/resume.h"

#include <chrono>
#include <thread>

namespace iterandum {

Status resumeSession(const std::function<Result<bool>()>& attempt, const Progress& progress) {
  using Clock = std::chrono::steady_clock;
  constexpr std::chrono::seconds kPatience{20};
  constexpr std::chrono::milliseconds kPause{100};
  const auto giveUpAt = Clock::now() + kPatience;
  while (Clock::now() < giveUpAt) {
    if (progress.cancelled()) return fail(ErrorKind::Cancelled, "it was stopped");
    if (const auto done = attempt(); done && *done) return {};
    std::this_thread::sleep_for(kPause);
  }
  return fail(ErrorKind::ConnectionLost, "the server could not be reached again");
}

Error unknownOutcome(const Error& lost, const std::string& what) {
  Error unknown(ErrorKind::OutcomeUnknown,
                what +
                    " while committing, and whether the change set was written is not known; review it again before "
                    "applying it again");
  unknown.engineCode = lost.engineCode;
  unknown.engineWords = lost.engineWords;
  return unknown;
}

}  // namespace iterandum
