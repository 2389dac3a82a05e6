#include "core/scope/condition_operand.h"

#include "core/catalogue/column_rules.h"
#include "core/scope/period.h"

namespace iterandum {
namespace {

using Op = Condition::Op;

tl::unexpected<Error> wrong(const ConditionOperand& operand, const std::string& message) {
  return fail(ErrorKind::InvalidInput, message, "position " + std::to_string(operand.position + 1));
}

bool searchesInText(Op op) {
  return op == Op::Contains || op == Op::StartsWith || op == Op::EndsWith || op == Op::Like;
}

bool isNumeric(TypeClass type) {
  return type == TypeClass::Integer || type == TypeClass::Real || type == TypeClass::Decimal;
}

bool hasDays(const Column& column) { return column.type == TypeClass::Date || column.type == TypeClass::Timestamp; }

// A stretch of days, where the column has days. A plain day in a column of days is a value like any other.
std::optional<Period> periodIn(const Column& column, const ConditionOperand& operand, std::chrono::sys_days today) {
  if (operand.quoted || !hasDays(column)) return std::nullopt;
  auto period = periodOf(operand.text, today);
  const bool plainDay = period && column.type == TypeClass::Date && operand.text == isoDay(period->from);
  return plainDay ? std::nullopt : period;
}

// Ends that lie behind the stretch are given as the day after it, which serves days and moments alike.
Condition ofPeriod(const Column& column, Op op, const Period& period, const std::string& said) {
  Condition out;
  out.op = op == Op::Equal || op == Op::NotEqual ? Op::Between : op;
  out.column = column.name;
  out.said = said;
  out.upToExcluded = out.op == Op::Between || op == Op::LessOrEqual || op == Op::Greater;
  const Value from = Value::text(isoDay(period.from));
  const Value to = Value::text(isoDay(period.to));
  if (out.op == Op::Between) {
    out.values = {from, to};
  } else {
    out.value = out.upToExcluded ? to : from;
  }
  if (op != Op::NotEqual) return out;
  Condition negated;
  negated.op = Op::Not;
  negated.parts.push_back(std::move(out));
  return negated;
}

// The column's rules (bounds, allowed values) do not bind a condition: only the form must fit.
Column withoutRules(const Column& column) {
  Column out = column;
  out.allowed.clear();
  out.minimum.reset();
  out.maximum.reset();
  out.maxLength.reset();
  out.nullable = true;
  return out;
}

}  // namespace

Result<Condition> valueCondition(const Column& column, Op op, const ConditionOperand& operand,
                                 std::chrono::sys_days today) {
  Condition out;
  out.op = op;
  out.column = column.name;
  if (operand.text.empty() && !operand.quoted) {
    return wrong(operand, "a value is wanted here; write '' for empty text, or 'no value'");
  }
  if (searchesInText(op)) {
    out.value = Value::text(operand.text);
    return out;
  }
  if (const auto period = periodIn(column, operand, today)) return ofPeriod(column, op, *period, operand.text);
  const Column free = withoutRules(column);
  Result<Value> value = operand.quoted && column.type == TypeClass::Any ? Result<Value>(Value::text(operand.text))
                                                                        : typedValue(free, operand.text);
  const bool calendar = hasDays(column) || column.type == TypeClass::Time;
  if (!value && column.storesOffType && (operand.quoted || calendar)) value = Value::text(operand.text);
  if (!value) return wrong(operand, value.error().message);
  out.value = std::move(*value);
  if (out.value.isNull()) out.op = op == Op::NotEqual ? Op::HasValue : Op::NoValue;
  return out;
}

Result<Condition> columnCondition(const Column& column, Op op, const Column& other, const ConditionOperand& operand) {
  if (searchesInText(op)) return wrong(operand, "a text is wanted here, not a column");
  const bool alike = column.type == other.type || column.type == TypeClass::Any || other.type == TypeClass::Any ||
                     (isNumeric(column.type) && isNumeric(other.type)) || (hasDays(column) && hasDays(other));
  if (!alike) return wrong(operand, column.name + " and " + other.name + " hold values of different kinds");
  Condition out;
  out.op = op;
  out.column = column.name;
  out.otherColumn = other.name;
  return out;
}

Result<Condition> rangeCondition(const Column& column, const ConditionOperand& low, const ConditionOperand& high,
                                 std::chrono::sys_days today) {
  ITERANDUM_ASSIGN(const Condition from, valueCondition(column, Op::GreaterOrEqual, low, today));
  ITERANDUM_ASSIGN(const Condition to, valueCondition(column, Op::LessOrEqual, high, today));
  if (from.op != Op::GreaterOrEqual) return wrong(low, "a value is wanted here");
  if (to.op != Op::LessOrEqual) return wrong(high, "a value is wanted here");
  Condition out;
  out.op = Op::Between;
  out.column = column.name;
  out.values = {from.value, to.value};
  out.upToExcluded = to.upToExcluded;
  if (!from.said.empty() || !to.said.empty()) out.said = low.text + " to " + high.text;
  return out;
}

Result<Condition> listCondition(const Column& column, const std::vector<ConditionOperand>& operands,
                                std::chrono::sys_days today) {
  Condition list;
  list.op = Op::OneOf;
  list.column = column.name;
  Condition any;
  any.op = Op::Or;
  for (const ConditionOperand& operand : operands) {
    if (operand.isColumn) return wrong(operand, "a value is wanted here, not a column");
    if (!operand.quoted && operand.text == "no value") {
      Condition none;
      none.op = Op::NoValue;
      none.column = column.name;
      any.parts.push_back(std::move(none));
      continue;
    }
    ITERANDUM_ASSIGN(Condition one, valueCondition(column, Op::Equal, operand, today));
    if (one.op == Op::Equal) {
      list.values.push_back(std::move(one.value));
    } else {
      any.parts.push_back(std::move(one));
    }
  }
  if (any.parts.empty()) return list;
  if (!list.values.empty()) any.parts.insert(any.parts.begin(), std::move(list));
  return any.parts.size() == 1 ? any.parts.front() : any;
}

Result<Condition> plainCondition(const Column& column, const ConditionOperand& operand, std::chrono::sys_days today) {
  if (operand.text.empty() && !operand.quoted && !operand.isColumn) {
    return wrong(operand, "a condition is wanted here, like >= 3");
  }
  if (operand.isColumn) return wrong(operand, "a comparison is wanted before the column, like = or <");
  const bool ofText = column.type == TypeClass::Text || column.type == TypeClass::Other;
  const std::size_t dots = operand.quoted || ofText ? std::string::npos : operand.text.find("..");
  if (dots != std::string::npos) {
    const auto part = [&](std::size_t begin, std::size_t end) {
      while (begin < end && operand.text[begin] == ' ') ++begin;
      while (end > begin && operand.text[end - 1] == ' ') --end;
      return ConditionOperand{operand.text.substr(begin, end - begin), false, false, operand.position + begin};
    };
    const ConditionOperand low = part(0, dots);
    const ConditionOperand high = part(dots + 2, operand.text.size());
    if (low.text.empty()) return valueCondition(column, Op::LessOrEqual, high, today);
    if (high.text.empty()) return valueCondition(column, Op::GreaterOrEqual, low, today);
    return rangeCondition(column, low, high, today);
  }
  auto out = valueCondition(column, ofText && !operand.quoted ? Op::Contains : Op::Equal, operand, today);
  if (!out && column.storesOffType) return valueCondition(column, Op::Contains, operand, today);
  return out;
}

}  // namespace iterandum
