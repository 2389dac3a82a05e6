// What is staged already and stands against a merge.
#pragma once

#include <QString>

#include "app/session/desk.h"
#include "core/acts/merge_records.h"

namespace iterandum {

// In words what stands against merging records of `table` so; empty: nothing does.
[[nodiscard]] QString mergeInTheWay(const MergePlan& plan, const Table& table, const Desk& desk);

}  // namespace iterandum
