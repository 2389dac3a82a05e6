// Probing a database that nobody tried before: whether it holds what Iterandum counts on, one thing after the other, by
// doing it in a table of its own with two connections; where none may be made, by reading alone.
#pragma once

#include <string>
#include <vector>

#include "core/engines/session.h"

namespace iterandum {

struct Probed {
  enum class Answer { Holds, DoesNot, NotTried };
  std::string what;  // "what is rolled back is gone"
  Answer answer = Answer::NotTried;
  std::string detail;  // what was seen instead, or why it was not tried; may be empty
  std::string then;    // DoesNot, NotTried: what that means for whoever works with it
};

struct ProbeOptions {
  bool byReadingAlone = false;  // make no table
  OpenOptions open;
  std::string table;  // what the table of its own is called; it must not be there yet
};

// Opens the database twice. The table is dropped at the end, whatever happens; where that fails the last answer says
// so. Errors: what openSession() reports; Cancelled.
[[nodiscard]] Result<std::vector<Probed>> probeDatabase(const std::string& address, const ProbeOptions& options,
                                                        Progress& progress);

// "holds", "does not hold", "not tried"
[[nodiscard]] const char* answerInWords(Probed::Answer answer);

}  // namespace iterandum
