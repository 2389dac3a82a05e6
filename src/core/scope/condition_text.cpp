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

Result<std::pair<Condition, std::size_t>> parseConditionWithin(const Table& table, std::string_view text,
                                                               std::size_t from, std::string_view stop,
                                                               const ConditionContext& context) {
  ITERANDUM_ASSIGN(std::vector<ConditionToken> tokens, conditionTokens(text, from, stop));
  const std::size_t end = tokens.back().begin;
  ITERANDUM_ASSIGN(Condition condition, ConditionReader(table, text, context, std::move(tokens)).run(nullptr));
  return std::pair(std::move(condition), end);
}

}  // namespace iterandum
