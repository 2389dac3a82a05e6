// Passing values: what a record holds for a moment so that another one can take its unique value.
#pragma once

#include <optional>
#include <vector>

#include "core/review/facts.h"

namespace iterandum {

// A column of a unique key that can hold a passing value while unique values go in a circle.
struct PassingChoice {
  std::size_t column = 0;  // of the table
  bool empty = false;      // no value serves; else passingValue() says which
  bool followed = false;   // records that point here take the passing value along, and later the final one
};

// The choices for a record of the block, the best first: columns that nothing points at before those that something
// does, since who points here would follow (or, with no value, let go for good). A record that is to be removed may
// pass through any column; an edit only through those that it puts right afterwards.
[[nodiscard]] std::vector<PassingChoice> passingChoices(const Catalogue& catalogue, const ExaminedBlock& block,
                                                        std::uint32_t row, const UniqueKey& key);

// A value for a key that nobody else has, within the column's rules and never NULL; tried one after the other
// (`attempt` from 0). Nothing when no more can be offered.
[[nodiscard]] std::optional<Value> passingValue(const Column& column, int attempt);

}  // namespace iterandum
