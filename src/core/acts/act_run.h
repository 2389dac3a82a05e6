// Doing acts over all records of a query: read once, in bounded memory where the database need not be asked on the way.
#pragma once

#include <functional>
#include <span>
#include <string>
#include <unordered_set>
#include <vector>

#include "core/acts/record_acts.h"

namespace iterandum {

// Called with records as they are after the acts, batch by batch, in the order of the query. False stops.
using ActedSink = std::function<bool(std::span<ActedRecord> records)>;

// `which`: table, conditions, order and limit; what is read is the acts' to say. Errors: the session's.
[[nodiscard]] Status actOn(Session& session, const Query& which, const RecordActs& acts, const ActedSink& sink,
                           Progress& progress);

// The records of the query, by writeKeyColumns(), for which each of the facts that are needed holds.
using KeySet = std::unordered_set<ValueTuple, TupleHash, TupleSame>;
[[nodiscard]] Result<std::vector<KeySet>> factsOf(Session& session, const Query& which, const RecordNeeds& needs,
                                                  Progress& progress);

// What becomes of the records.
struct ActCounts {
  std::uint64_t meant = 0;
  std::uint64_t differ = 0;
  std::uint64_t already = 0;  // are so already
  std::uint64_t failed = 0;

  void count(const RecordActs& acts, const ActedRecord& record);
};

// "3 records are meant: 1 changes, 1 is so already, 1 fails"
[[nodiscard]] std::string inWords(const ActCounts& counts);

}  // namespace iterandum
