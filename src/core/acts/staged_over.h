// StagedOver: what is staged for records of a table, laid over what the database holds of them: for work on another
// thread than the one that stages.
#pragma once

#include <string>
#include <unordered_map>
#include <utility>
#include <vector>

#include "core/acts/act_run.h"

namespace iterandum {

struct StagedOver {
  std::unordered_map<ValueTuple, std::vector<std::pair<std::string, Value>>, TupleHash, TupleSame> cells;  // by key
  KeySet removed;

  // Puts it in place of what the database holds in these columns of a record.
  void layOver(const ValueTuple& key, const std::vector<std::string>& columns, ValueTuple& values) const;
};

}  // namespace iterandum
