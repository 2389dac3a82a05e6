// The script that a person reads: the plan as statements of the engine, guarded by keys and by what was seen.
#pragma once

#include <vector>

#include "core/apply/plan.h"

namespace iterandum {

// All statements in the order in which they have to run, opening and closing ones included. Changes that do the same
// to several records share one statement.
[[nodiscard]] std::vector<ReviewStatement> makeScript(const Session& session, const Facts& facts,
                                                      const Verdicts& verdicts);

}  // namespace iterandum
