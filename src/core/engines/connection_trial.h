// Trying a connection out, step by step, so that who cannot connect learns which step failed and what to do.
#pragma once

#include <string>
#include <vector>

#include "core/engines/session.h"

namespace iterandum {

struct TrialStep {
  enum class State { NotReached, Good, Failed };
  std::string name;  // of servers: name, port, tls, password, database, rights; of files: file, database, rights
  State state = State::NotReached;
  std::string words;  // what was found, or what is wrong and what to do
};

// Connects, reads what the database holds, and leaves again. Always gives all steps.
[[nodiscard]] std::vector<TrialStep> tryConnection(const std::string& address, const OpenOptions& options,
                                                   Progress& progress);

// Whether the address names a server, not a file.
[[nodiscard]] bool isServerAddress(const std::string& address);

}  // namespace iterandum
