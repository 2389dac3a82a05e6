// Expressions: what a cell is to be, computed from its record. The grammar is in docs/expressions.md. Numbers are
// exact decimals; the same on every engine, since the core computes them.
#pragma once

#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <string_view>

#include "core/expression/computed.h"
#include "core/scope/condition_check.h"
#include "core/scope/condition_text.h"

namespace iterandum {

struct ExpressionContext {
  ConditionContext conditions;
  std::string now;  // the moment that "now" is: 2026-11-27 14:05:00
  // What is asked for under a name, {name} in the text. Not set: nothing is.
  std::function<std::optional<Computed>(std::string_view name)> asked = {};
};

// With the moment it is, in UTC, in which moments are read.
[[nodiscard]] ExpressionContext expressionContextNow(const ConditionContext& conditions);

struct ExpressionNode;

// Read once, computed for any number of records, from any thread. The table outlives it.
class Expression {
 public:
  // Adds what it has to know of a record to `needs`. Errors: InvalidInput with the position (from 1) as its place.
  [[nodiscard]] static Result<Expression> parse(const Table& table, std::string_view text,
                                                const ExpressionContext& context, RecordNeeds& needs);
  // Errors: InvalidInput, with the position in the text of what failed.
  [[nodiscard]] Result<Computed> of(const KnownRecord& record) const;
  // Into what was there before, which saves its room.
  [[nodiscard]] Status of(const KnownRecord& record, Computed& out) const;

 private:
  std::shared_ptr<const ExpressionNode> root_;
};

}  // namespace iterandum
