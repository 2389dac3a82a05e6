#include "core/engines/common/condition_sql.h"

namespace iterandum {

std::string ConditionSql::joined(const Condition& condition, const char* word) {
  std::string out;
  for (const Condition& part : condition.parts) {
    if (!out.empty()) out += word;
    out += "(" + text(part) + ")";
  }
  return out.empty() ? "TRUE" : out;
}

std::string ConditionSql::text(const Condition& c) {
  using Op = Condition::Op;
  const std::string column = identifier(c.column);
  switch (c.op) {
    case Op::All:
      return "TRUE";
    case Op::And:
      return joined(c, " AND ");
    case Op::Or:
      return joined(c, " OR ");
    case Op::Not:
      return "(" + text(c.parts.front()) + ") IS NOT TRUE";
    case Op::NoValue:
      return column + " IS NULL";
    case Op::HasValue:
      return column + " IS NOT NULL";
    case Op::Equal:
      return equal(c);
    case Op::NotEqual:
      return "(" + equal(c) + ") IS NOT TRUE";
    case Op::Less:
      return column + " < " + operand(c);
    case Op::LessOrEqual:
      return column + " <= " + operand(c);
    case Op::Greater:
      return column + " > " + operand(c);
    case Op::GreaterOrEqual:
      return column + " >= " + operand(c);
    default:
      return holdsPart(c);
  }
}

}  // namespace iterandum
