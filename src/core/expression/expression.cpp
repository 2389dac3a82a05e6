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

// Into `out`, whatever that was before: millions of records go through the same one.
Status compute(const ExpressionNode& node, const KnownRecord& record, Computed& out);

Result<Computed> computed(const ExpressionNode& node, const KnownRecord& record) {
  Computed out;
  ITERANDUM_TRY(compute(node, record, out));
  return out;
}

std::string wantedFor(const Sign& sign, const Computed& odd) {
  std::string out = std::string("there is no ") + sign.sign + " with " + inWords(odd);
  if (odd.kind == Kind::Text) out += "; number(…) makes a number of a text, date(…) a day";
  return out;
}

Status numbers(Computed& a, const Sign& sign, const Computed& b) {
  switch (sign.sign) {
    case '+':
      a.becomeNumber(a.number.plus(b.number));
      break;
    case '-':
      a.becomeNumber(a.number.minus(b.number));
      break;
    case '*':
      a.becomeNumber(a.number.times(b.number));
      break;
    default:
      if (b.number.isZero()) return failed(sign.position, "division by zero");
      a.becomeNumber(sign.sign == '/' ? a.number.dividedBy(b.number) : a.number.remainder(b.number));
  }
  if (a.number.isTooLong()) return failed(sign.position, "the number has too many digits");
  return {};
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
  if (a.kind == Kind::Stretch || b.kind == Kind::Stretch) return stretched(a, sign, b);
  if (isOfTheCalendar(a.kind) || isOfTheCalendar(b.kind)) {
    return failed(sign.position, isOfTheCalendar(a.kind) && isOfTheCalendar(b.kind)
                                     ? "days(a, b) counts the days from one to the other"
                                     : "a day takes a stretch of time: say how many of what, like 3 days");
  }
  return failed(sign.position, wantedFor(sign, a.kind == Kind::Number ? b : a));
}

Status combine(Computed& a, const Sign& sign, const Computed& b) {
  if (a.kind == Kind::Number && b.kind == Kind::Number && sign.sign != '&') return numbers(a, sign, b);
  ITERANDUM_ASSIGN(a, combined(a, sign, b));
  return {};
}

Result<Computed> negative(const ExpressionNode& node, const KnownRecord& record) {
  ITERANDUM_ASSIGN(const Computed value, computed(node.parts.front(), record));
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
    ITERANDUM_ASSIGN(Computed value, computed(part, record));
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

Status chain(const ExpressionNode& node, const KnownRecord& record, Computed& out) {
  ITERANDUM_TRY(compute(node.parts.front(), record, out));
  Computed next;
  for (std::size_t i = 0; i < node.signs.size(); ++i) {
    const ExpressionNode& part = node.parts[i + 1];
    const bool known = part.kind == ExpressionNode::Kind::Literal;
    if (!known) ITERANDUM_TRY(compute(part, record, next));
    ITERANDUM_TRY(combine(out, node.signs[i], known ? part.literal : next));
  }
  return {};
}

Status compute(const ExpressionNode& node, const KnownRecord& record, Computed& out) {
  switch (node.kind) {
    case ExpressionNode::Kind::Literal:
      out = node.literal;
      return {};
    case ExpressionNode::Kind::Column:
      out.take(*node.column, record.columns[node.slot]);
      return {};
    case ExpressionNode::Kind::Row:
      out = Computed::ofNumber(ExactNumber(static_cast<std::int64_t>(record.number)));
      return {};
    case ExpressionNode::Kind::Negative: {
      ITERANDUM_ASSIGN(out, negative(node, record));
      return {};
    }
    case ExpressionNode::Kind::Call: {
      ITERANDUM_ASSIGN(out, called(node, record));
      return {};
    }
    case ExpressionNode::Kind::Choice: {
      std::size_t taken = 0;
      while (taken < node.conditions.size() && !node.conditions[taken].holds(record)) ++taken;
      return compute(node.parts[taken], record, out);
    }
    case ExpressionNode::Kind::Chain:
      break;
  }
  return chain(node, record, out);
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

Result<Computed> Expression::of(const KnownRecord& record) const { return computed(*root_, record); }

Status Expression::of(const KnownRecord& record, Computed& out) const { return compute(*root_, record, out); }

}  // namespace iterandum
