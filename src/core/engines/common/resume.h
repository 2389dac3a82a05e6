// Coming back to a server after the connection was lost while committing. Shared by the engines that are servers.
#pragma once

#include <functional>
#include <string>

#include "core/base/progress.h"
#include "core/base/result.h"

namespace iterandum {

// Calls `attempt` until it gives true, for some seconds or until the progress is cancelled. An attempt opens a
// connection and gives false while the lost one has not ended on the server. Errors: ConnectionLost, Cancelled.
[[nodiscard]] Status resumeSession(const std::function<Result<bool>()>& attempt, const Progress& progress);

// Something was lost under a COMMIT that failed with `lost`: OutcomeUnknown, with the engine's own words.
[[nodiscard]] Error unknownOutcome(const Error& lost, const std::string& what = "the connection was lost");

}  // namespace iterandum
