// Finding out afterwards whether a change set was written, when nobody was left to hear the answer to its commit: the
// program was ended meanwhile, or the connection dropped and the database cannot tell by itself.
#pragma once

#include <string>
#include <vector>

#include "core/apply/receipt.h"
#include "core/engines/session.h"

namespace iterandum {

enum class WrittenState {
  Written,
  NotWritten,
  NotKnown  // the records look like neither: somebody changed them since, or they cannot be read any more
};

// Reads the receipt's records by key and compares them with what it holds of before and after. A change set is written
// whole or not at all, so what all telling records say is said for the whole.
// Errors: what the session reports.
[[nodiscard]] Result<WrittenState> writtenState(Session& session, const Catalogue& catalogue, const Receipt& receipt,
                                                Progress& progress);

// The records of an applied change set, read again and held whole against what its receipt says they hold.
struct ReadBack {
  std::uint64_t records = 0;
  std::uint64_t different = 0;
  std::vector<std::string> first;  // those that differ, as messages name them; at most five
};
// Columns and tables that are not there any more are left out. Errors: what the session reports.
[[nodiscard]] Result<ReadBack> readBack(Session& session, const Catalogue& catalogue, const Receipt& receipt,
                                        Progress& progress);

}  // namespace iterandum
