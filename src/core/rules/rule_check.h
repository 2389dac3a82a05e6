// Which records of a table break a house rule as they are now.
#pragma once

#include <cstdint>
#include <vector>

#include "core/engines/session.h"
#include "core/rules/house_rule.h"

namespace iterandum {

struct BrokenRule {
  std::uint64_t rows = 0;
  std::vector<ValueTuple> keys;  // by writeKeyColumns(), in their order: the first of them
};

// One reading of the table. Errors: the session's.
[[nodiscard]] Result<BrokenRule> recordsBreaking(Session& session, const ReadRule& rule, std::uint64_t mostKeys,
                                                 Progress& progress);

}  // namespace iterandum
