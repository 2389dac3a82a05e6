// How the records that a reference points at are called: what conditions and orders on the reference's own column may
// go by besides the key that it holds.
#pragma once

#include <optional>
#include <vector>

#include "core/scope/condition_text.h"

namespace iterandum {

struct ReferenceNaming {
  ReferenceStep step;
  std::vector<const Column*> columns;  // of the record there; at least one
};

// Nothing: the column is no reference by itself, or there is no better name than the key.
[[nodiscard]] std::optional<ReferenceNaming> referenceNaming(const Table& table, const Column& column,
                                                             const ConditionContext& context);

}  // namespace iterandum
