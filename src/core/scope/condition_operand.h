// From what was written beside an operator to a condition: values of the column's type, stretches of days, lists, other
// columns. Part of reading conditions.
#pragma once

#include <chrono>
#include <string>
#include <vector>

#include "core/base/result.h"
#include "core/scope/query.h"

namespace iterandum {

struct ConditionOperand {
  std::string text;
  bool quoted = false;       // taken as it is
  bool isColumn = false;     // the name of another column
  std::size_t position = 0;  // in the whole condition, in bytes
};

// Errors of all: InvalidInput, with the operand's position.
[[nodiscard]] Result<Condition> valueCondition(const Column& column, Condition::Op op, const ConditionOperand& operand,
                                               std::chrono::sys_days today);
[[nodiscard]] Result<Condition> columnCondition(const Column& column, Condition::Op op, const Column& other,
                                                const ConditionOperand& operand);
[[nodiscard]] Result<Condition> rangeCondition(const Column& column, const ConditionOperand& low,
                                               const ConditionOperand& high, std::chrono::sys_days today);
[[nodiscard]] Result<Condition> listCondition(const Column& column, const std::vector<ConditionOperand>& operands,
                                              std::chrono::sys_days today);
// Without an operator: a part of a text, a range (1 .. 5), else the value itself.
[[nodiscard]] Result<Condition> plainCondition(const Column& column, const ConditionOperand& operand,
                                               std::chrono::sys_days today);

}  // namespace iterandum
