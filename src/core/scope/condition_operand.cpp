#include "core/scope/condition_operand.h"

#include "core/catalogue/column_rules.h"
#include "core/scope/period.h"
#include "core/value/calendar_text.h"
#include "core/value/small_letters.h"

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

// What lies behind the stretch is given as the day after it, which serves days and moments alike; where there is no day
// after it, as the last there is.
Condition ofPeriod(const Column& column, Op op, const Period& period, const std::string& said) {
  Condition out;
  out.op = op == Op::Equal ? Op::Between : op;
  out.column = column.name;
  out.said = said;
  const bool toTheLast = period.to > lastDay();
  const bool byEnd = out.op == Op::Between || out.op == Op::LessOrEqual || out.op == Op::Greater;
  out.upToExcluded = byEnd && !toTheLast;
  const std::string last = isoDay(lastDay()) + (column.type == TypeClass::Date ? "" : " 23:59:59.999999");
  const Value from = Value::text(isoDay(period.from));
  const Value to = Value::text(toTheLast ? last : isoDay(period.to));
  if (out.op == Op::Between) {
    out.values = {from, to};
  } else {
    out.value = byEnd ? to : from;
  }
  return out;
}

// The column's rules (bounds, allowed values) do not bind a condition: only the form must fit. The values of a type
// that is a list are its form.
Column withoutRules(const Column& column) {
  Column out = column;
  if (column.type != TypeClass::Other) out.allowed.clear();
  out.minimum.reset();
  out.maximum.reset();
  out.maxLength.reset();
  out.minInteger.reset();
  out.maxInteger.reset();
  out.mostDigits.reset();
  out.mostDecimals.reset();
  out.unsigned64 = true;  // a number beyond what the column holds is still a number
  out.nullable = true;
  return out;
}

bool comparesOrder(Op op) {
  return op == Op::Less || op == Op::LessOrEqual || op == Op::Greater || op == Op::GreaterOrEqual;
}

// The operand as the column holds such values. What is quoted is the text itself: where values of another type may lie
// in the column, it is looked for as it is, but it has no place in their order.
Result<Value> valueOf(const Column& column, Op op, const ConditionOperand& operand) {
  const Column free = withoutRules(column);
  const bool calendar = hasDays(column) || column.type == TypeClass::Time;
  if (operand.quoted && column.type == TypeClass::Any) return Value::text(operand.text);
  const bool emptyForNothing = operand.text.empty() && column.type != TypeClass::Text;
  Result<Value> value = emptyForNothing ? storedForm(free, Value::text("")) : typedValue(free, operand.text);
  const bool fits = value && (!calendar || value->isString());
  if (fits) {
    if (column.type != TypeClass::Timestamp || !value->isString()) return value;
    const auto moment = calendarText(value->asString());
    // Sessions run in UTC.
    return moment && moment->hasZone ? Value::text(moment->form) : value;
  }
  if (operand.quoted && column.storesOffType) {
    if (calendar && value) return value;  // a number of seconds
    if (!comparesOrder(op)) return Value::text(operand.text);
  }
  if (!value) return value;
  return fail(ErrorKind::InvalidInput,
              wantedInWords(free) + " is wanted in " + column.name + ", not '" + operand.text + "'");
}

}  // namespace

bool saysNoValue(const ConditionOperand& operand) {
  return !operand.quoted && !operand.isColumn && smallLetters(operand.text) == "no value";
}

bool saysEmptyText(const ConditionOperand& operand) {
  return !operand.quoted && !operand.isColumn && smallLetters(operand.text) == "empty text";
}

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
  if (saysNoValue(operand)) {
    if (op != Op::Equal) return wrong(operand, "nothing is more or less than no value; say 'no value' alone");
    out.op = Op::NoValue;
    return out;
  }
  if (saysEmptyText(operand)) return valueCondition(column, op, {"", true, false, operand.position}, today);
  if (const auto period = periodIn(column, operand, today)) return ofPeriod(column, op, *period, operand.text);
  Result<Value> value = valueOf(column, op, operand);
  if (!value) return wrong(operand, value.error().message);
  out.value = std::move(*value);
  return out;
}

Result<Condition> columnCondition(const Column& column, Op op, const Column& other, const ConditionOperand& operand) {
  if (op == Op::Like) return wrong(operand, "a pattern is wanted here, not a column");
  const bool alike = searchesInText(op) || column.type == other.type || column.type == TypeClass::Any ||
                     other.type == TypeClass::Any || (isNumeric(column.type) && isNumeric(other.type)) ||
                     (hasDays(column) && hasDays(other));
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
  Condition out;
  out.op = Op::Between;
  out.column = column.name;
  out.values = {from.value, to.value};
  out.upToExcluded = to.upToExcluded;
  out.said = from.said;
  out.saidTo = to.said;
  // "is this year" is a stretch by itself; a range says both of its ends.
  if (out.said.empty() != out.saidTo.empty())
    (out.said.empty() ? out.said : out.saidTo) = (out.said.empty() ? low : high).text;
  return out;
}

std::optional<ConditionOperand> dayAhead(const Column& column, const ConditionOperand& operand,
                                         std::chrono::sys_days today) {
  ConditionOperand day = operand;
  day.text = "in " + operand.text;
  return !operand.quoted && !operand.isColumn && periodIn(column, day, today) ? std::optional(day) : std::nullopt;
}

}  // namespace iterandum
