#include "core/scope/condition_reader.h"

namespace iterandum {

Result<Condition> parseColumnCondition(const Table& table, const ColumnPath& column, std::string_view text,
                                       const ConditionContext& context) {
  ITERANDUM_ASSIGN(std::vector<ConditionToken> tokens, conditionTokens(text));
  if (tokens.front().kind == ConditionToken::Kind::End) return Condition{};
  return ConditionReader(table, text, context, std::move(tokens)).run(&column);
}

Result<Condition> parseCondition(const Table& table, std::string_view text, const ConditionContext& context) {
  ITERANDUM_ASSIGN(std::vector<ConditionToken> tokens, conditionTokens(text));
  return ConditionReader(table, text, context, std::move(tokens)).run(nullptr);
}

}  // namespace iterandum
