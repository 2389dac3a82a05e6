// Finding out afterwards whether a change set was written, when nobody was left to hear the answer to its commit: the
// program was ended meanwhile, or the connection dropped and the database cannot tell by itself.
#pragma once

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

}  // namespace iterandum
