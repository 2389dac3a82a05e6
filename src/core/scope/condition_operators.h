// The words and signs of the language of conditions. Part of reading conditions.
#pragma once

#include <array>
#include <string_view>
#include <utility>
#include <vector>

#include "core/scope/query.h"

namespace iterandum {

struct ConditionOperator {
  std::vector<std::string_view> words;
  Condition::Op op;
  bool negated = false;
  bool ofFindings = false;  // Among
};

// Longest first: the first one that fits is to be taken.
[[nodiscard]] const std::vector<ConditionOperator>& conditionOperators();

inline constexpr std::array<std::pair<std::string_view, Condition::Op>, 8> kConditionSigns{
    {{"<=", Condition::Op::LessOrEqual},
     {">=", Condition::Op::GreaterOrEqual},
     {"<>", Condition::Op::NotEqual},
     {"!=", Condition::Op::NotEqual},
     {"==", Condition::Op::Equal},
     {"=", Condition::Op::Equal},
     {"<", Condition::Op::Less},
     {">", Condition::Op::Greater}}};

}  // namespace iterandum
