// What an expression is once it is read. Behind expression.h, which is what others take.
#pragma once

#include <string_view>
#include <vector>

#include "core/expression/computed.h"
#include "core/scope/condition_check.h"

namespace iterandum {

struct ExpressionFunction;

// A sum and a product hold all of their operands side by side, so that nothing is nested deeper than it was written.
struct ExpressionNode {
  enum class Kind { Literal, Column, Row, Choice, Chain, Negative, Call };
  Kind kind = Kind::Literal;
  std::size_t position = 0;  // in the text, in bytes
  Computed literal;
  const Column* column = nullptr;
  std::size_t slot = 0;                    // Column: in the needs
  std::vector<ExpressionNode> parts;       // Choice: one for each condition, and the last one
  std::vector<ConditionCheck> conditions;  // Choice
  struct Sign {
    char sign = '+';  // + - & * / %
    std::size_t position = 0;
  };
  std::vector<Sign> signs;  // Chain: between the parts
  const ExpressionFunction* function = nullptr;
};

struct ExpressionFunction {
  std::string_view name;
  std::size_t least = 1;      // arguments
  std::size_t most = 1;       // SIZE_MAX: any number
  bool takesNothing = false;  // no value is an argument like others; else it makes the whole of it no value
  Result<Computed> (*compute)(const std::vector<Computed>& arguments);
};

// Null: there is none of that name. In small letters.
[[nodiscard]] const ExpressionFunction* expressionFunction(std::string_view name);
// Their names, for messages.
[[nodiscard]] std::string expressionFunctionNames();

}  // namespace iterandum
