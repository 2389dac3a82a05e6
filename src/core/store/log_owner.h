// Whose a log of staged work is: a window that runs just now, told from all that ran before.
#pragma once

#include <string>

namespace iterandum {

// Another one at each call: of this boot of the machine, this process, and a number within it.
[[nodiscard]] std::string newLogOwner();
// Whether the process that made the name still runs.
[[nodiscard]] bool logOwnerRuns(const std::string& owner);

}  // namespace iterandum
