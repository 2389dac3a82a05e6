// The small language of conditions, as filter cells and `--where` take it. Its grammar is in docs/conditions.md.
#pragma once

#include <string>
#include <string_view>

#include "core/base/result.h"
#include "core/scope/query.h"

namespace iterandum {

// What a filter cell of `column` holds. Empty text is no condition (Op::All).
// Errors: InvalidInput with the position (from 1) as its place and what is wanted.
[[nodiscard]] Result<Condition> parseColumnCondition(const Table& table, const Column& column, std::string_view text);

// COLUMN CONDITION, the form of `--where`. The column may be written as a quoted identifier.
[[nodiscard]] Result<Condition> parseCondition(const Table& table, std::string_view text);

// In words, for the sentence: "condition is 2 or less", "street contains Har".
[[nodiscard]] std::string conditionInWords(const Condition& condition);

// Both hold. All is neutral.
[[nodiscard]] Condition bothHold(Condition a, Condition b);

}  // namespace iterandum
