// From what was written beside an operator to a condition: values of the column's type, stretches of days, other
// columns. Part of reading conditions.
#pragma once

#include <chrono>
#include <optional>
#include <string>

#include "core/base/result.h"
#include "core/scope/query.h"

namespace iterandum {

struct ConditionOperand {
  std::string text;
  bool quoted = false;       // taken as it is
  bool isColumn = false;     // the name of another column
  std::size_t position = 0;  // in the whole condition, in bytes
};

// The words for what is no value, and for a text without a letter.
[[nodiscard]] bool saysNoValue(const ConditionOperand& operand);
[[nodiscard]] bool saysEmptyText(const ConditionOperand& operand);

// Errors of all: InvalidInput, with the operand's position.

// `column` compared with a value by a sign or searched for a text; NoValue and HasValue where no value is said. Never
// NotEqual, which is the opposite of Equal: conditions about a record's name have several parts.
[[nodiscard]] Result<Condition> valueCondition(const Column& column, Condition::Op op, const ConditionOperand& operand,
                                               std::chrono::sys_days today);
// The same with another column of the record.
[[nodiscard]] Result<Condition> columnCondition(const Column& column, Condition::Op op, const Column& other,
                                                const ConditionOperand& operand);
// From one value to another; both ends belong to it.
[[nodiscard]] Result<Condition> rangeCondition(const Column& column, const ConditionOperand& low,
                                               const ConditionOperand& high, std::chrono::sys_days today);
// "in 10 days", of which "in" has been read as an operator. Nothing: these are values.
[[nodiscard]] std::optional<ConditionOperand> dayAhead(const Column& column, const ConditionOperand& operand,
                                                       std::chrono::sys_days today);

}  // namespace iterandum
