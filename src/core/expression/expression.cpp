// Computing expressions.
#include "core/expression/expression.h"

#include <ctime>

#include "core/expression/expression_node.h"

namespace iterandum {
namespace {

using Kind = Computed::Kind;
using Sign = ExpressionNode::Sign;

tl::unexpected<Error> failed(std::size_t position, const std::string& message) {
  return fail(ErrorKind::InvalidInput, message + " (position " + std::to_string(position + 1) + ")");
}

Result<Computed> compute(const ExpressionNode& node, const KnownRecord& record);

Result<Computed> checked(std::size_t position, ExactNumber number) {
  if (number.isTooLong()) return failed(position, "the number has too many digits");
  return Computed::ofNumber(std::move(number));
}

std::string wantedFor(const Sign& sign, const Computed& odd) {
  std::string out = std::string("there is no ") + sign.sign + " with " + inWords(odd);
  if (odd.kind == Kind::Text) out += "; number(…) makes a number of a text, date(…) a day";
  return out;
}

Result<Computed> numbers(const Computed& a, const Sign& sign, const Computed& b) {
  switch (sign.sign) {
    case '+':
      return checked(sign.position, a.number.plus(b.number));
    case '-':
      return checked(sign.position, a.number.minus(b.number));
    case '*':
      return checked(sign.position, a.number.times(b.number));
    default:
      break;
  }
  if (b.number.isZero()) return failed(sign.position, "division by zero");
  return checked(sign.position, sign.sign == '/' ? a.number.dividedBy(b.number) : a.number.remainder(b.number));
}

bool isOfTheCalendar(Kind kind) { return kind == Kind::Day || kind == Kind::Moment || kind == Kind::Time; }

// A stretch of time with something else.
Result<Computed> stretched(const Computed& a, const Sign& sign, const Computed& b) {
  const Computed& stretch = b.kind == Kind::Stretch ? b : a;
  const Computed& other = b.kind == Kind::Stretch ? a : b;
  const bool minus = sign.sign == '-';
  const auto placed = [&](auto&& result) -> Result<Computed> {
    if (!result) return failed(sign.position, result.error().message);
    if constexpr (std::is_same_v<std::decay_t<decltype(*result)>, Stretch>) {
      return Computed::ofStretch(*result);
    } else {
      return std::move(*result);
    }
  };
  if (sign.sign == '*' && other.kind == Kind::Number) return placed(times(stretch.stretch, other.number));
  if (sign.sign != '+' && !minus) return failed(sign.position, wantedFor(sign, stretch));
  if (minus && stretch.kind == Kind::Stretch && &stretch == &a && other.kind != Kind::Stretch) {
    return failed(sign.position, "nothing can be taken from a stretch of time but another");
  }
  auto added = minus ? times(b.stretch, ExactNumber(-1)) : Result<Stretch>(stretch.stretch);
  if (!added) return failed(sign.position, added.error().message);
  if (other.kind == Kind::Stretch) return placed(together(a.stretch, minus ? *added : b.stretch));
  if (isOfTheCalendar(other.kind)) return placed(later(other, *added));
  return failed(sign.position, wantedFor(sign, other));
}

Result<Computed> joined(const Computed& a, const Sign& sign, const Computed& b) {
  for (const Computed* one : {&a, &b}) {
    if (one->kind == Kind::Stretch || one->kind == Kind::Other) return failed(sign.position, wantedFor(sign, *one));
  }
  return Computed::ofText(textOf(a) + textOf(b));
}

Result<Computed> combined(const Computed& a, const Sign& sign, const Computed& b) {
  if (sign.sign == '&') return joined(a, sign, b);
  if (a.kind == Kind::None || b.kind == Kind::None) return Computed();
  if (a.kind == Kind::Number && b.kind == Kind::Number) return numbers(a, sign, b);
  if (a.kind == Kind::Stretch || b.kind == Kind::Stretch) return stretched(a, sign, b);
  if (isOfTheCalendar(a.kind) || isOfTheCalendar(b.kind)) {
    return failed(sign.position, isOfTheCalendar(a.kind) && isOfTheCalendar(b.kind)
                                     ? "days(a, b) counts the days from one to the other"
                                     : "a day takes a stretch of time: say how many of what, like 3 days");
  }
  return failed(sign.position, wantedFor(sign, a.kind == Kind::Number ? b : a));
}

Result<Computed> negative(const ExpressionNode& node, const KnownRecord& record) {
  ITERANDUM_ASSIGN(const Computed value, compute(node.parts.front(), record));
  if (value.kind == Kind::None) return Computed();
  if (value.kind == Kind::Number) return Computed::ofNumber(value.number.negated());
  if (value.kind != Kind::Stretch) return failed(node.position, wantedFor({'-', 0}, value));
  const auto out = times(value.stretch, ExactNumber(-1));
  if (!out) return failed(node.position, out.error().message);
  return Computed::ofStretch(*out);
}

Result<Computed> called(const ExpressionNode& node, const KnownRecord& record) {
  std::vector<Computed> arguments;
  arguments.reserve(node.parts.size());
  for (const ExpressionNode& part : node.parts) {
    ITERANDUM_ASSIGN(Computed value, compute(part, record));
    arguments.push_back(std::move(value));
  }
  if (!node.function->takesNothing) {
    for (const Computed& a : arguments) {
      if (a.kind == Kind::None) return Computed();
    }
  }
  auto out = node.function->compute(arguments);
  if (!out) return failed(node.position, std::string(node.function->name) + ": " + out.error().message);
  return out;
}

Result<Computed> compute(const ExpressionNode& node, const KnownRecord& record) {
  switch (node.kind) {
    case ExpressionNode::Kind::Literal:
      return node.literal;
    case ExpressionNode::Kind::Column:
      return Computed::ofValue(*node.column, record.columns[node.slot]);
    case ExpressionNode::Kind::Row:
      return Computed::ofNumber(ExactNumber(static_cast<std::int64_t>(record.number)));
    case ExpressionNode::Kind::Negative:
      return negative(node, record);
    case ExpressionNode::Kind::Call:
      return called(node, record);
    case ExpressionNode::Kind::Choice: {
      std::size_t taken = 0;
      while (taken < node.conditions.size() && !node.conditions[taken].holds(record)) ++taken;
      return compute(node.parts[taken], record);
    }
    case ExpressionNode::Kind::Chain:
      break;
  }
  ITERANDUM_ASSIGN(Computed value, compute(node.parts.front(), record));
  for (std::size_t i = 0; i < node.signs.size(); ++i) {
    ITERANDUM_ASSIGN(const Computed next, compute(node.parts[i + 1], record));
    ITERANDUM_ASSIGN(value, combined(value, node.signs[i], next));
  }
  return value;
}

}  // namespace

ExpressionContext expressionContextNow(const ConditionContext& conditions) {
  const std::time_t seconds = std::time(nullptr);
  std::tm utc{};
  gmtime_r(&seconds, &utc);
  char text[32];
  std::strftime(text, sizeof text, "%Y-%m-%d %H:%M:%S", &utc);
  return {conditions, text, {}};
}

Result<Computed> Expression::of(const KnownRecord& record) const { return compute(*root_, record); }

}  // namespace iterandum
