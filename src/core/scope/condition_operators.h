// The words and signs of the language of conditions. Part of reading conditions.
#pragma once

#include <array>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "core/scope/condition_text.h"
#include "core/scope/query.h"

namespace iterandum {

struct ConditionOperator {
  std::vector<std::string_view> words;
  Condition::Op op;
  bool negated = false;
  KnownOf known = KnownOf::Staged;  // Among
  bool notInTexts = false;          // in a column of texts the words are a text
  bool emptyText = false;           // equal to that

  // Whether nothing follows it.
  [[nodiscard]] bool standsAlone() const {
    return op == Condition::Op::NoValue || op == Condition::Op::HasValue || op == Condition::Op::Among || emptyText;
  }
};

// "is staged", "has no finding".
[[nodiscard]] std::string saidOfKnown(KnownOf known, bool negated);

// Whether the column holds texts, which are said in other words than numbers and days.
[[nodiscard]] bool holdsTexts(const Column& column);

// Longest first: the first one that fits is to be taken.
[[nodiscard]] const std::vector<ConditionOperator>& conditionOperators();

// A name as conditions take it: quoted where it is odd, or a word of the language.
[[nodiscard]] std::string nameInCondition(std::string_view name);
// A text behind an operator: quoted where it would be read as something else. `inList`: a comma would end it.
[[nodiscard]] std::string textInCondition(std::string_view text, bool inList);

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
