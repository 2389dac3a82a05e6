// Conditions in words, for the sentence.
#include <ctime>

#include "core/scope/condition_text.h"

namespace iterandum {
namespace {

using Op = Condition::Op;

std::string valueWords(const Value& v) {
  return v.isString() && v.asString().empty() ? "empty text" : canonicalText(v);
}

class Words {
 public:
  // `prefix`: by which references the column is reached, with a dot at the end.
  std::string of(const Condition& c, const std::string& prefix = {}) const {
    switch (c.op) {
      case Op::All:
        return {};
      case Op::And:
      case Op::Or:
        return joined(c, prefix);
      case Op::Not:
        return negated(c.parts.front(), prefix);
      case Op::Through:
        return of(c.parts.front(), prefix + c.relatedSaid + ".");
      case Op::Pointing:
        return pointing(c);
      case Op::Among:
        return prefix + (c.column.empty() ? "record" : c.column) + " " + c.said;
      default:
        return prefix + c.column + " " + test(c, false);
    }
  }

 private:
  std::string joined(const Condition& c, const std::string& prefix) const {
    std::string out;
    for (const Condition& part : c.parts) {
      if (!out.empty()) out += c.op == Op::And ? " and " : " or ";
      const bool brackets = part.op == Op::Or && c.op == Op::And;
      out += brackets ? "(" + of(part, prefix) + ")" : of(part, prefix);
    }
    return out;
  }

  std::string negated(const Condition& c, const std::string& prefix) const {
    if (c.op == Op::Through) return negated(c.parts.front(), prefix + c.relatedSaid + ".");
    if (c.op == Op::Among) {
      const bool finding = c.said == "has a finding";
      return prefix + (c.column.empty() ? "record" : c.column) + (finding ? " has no finding" : " is not staged");
    }
    const bool compound = c.op == Op::And || c.op == Op::Or || c.op == Op::Not || c.op == Op::Pointing;
    return compound ? "not (" + of(c, prefix) + ")" : prefix + c.column + " " + test(c, true);
  }

  std::string pointing(const Condition& c) const {
    const std::string which = c.parts.front().op == Op::All ? "" : " where " + of(c.parts.front());
    const bool nought = c.value.isNumber() && c.value.kind() == Value::Kind::Integer && c.value.asInteger() == 0;
    if (nought && c.compare == Op::Equal) return "no " + c.relatedSaid + which;
    if (nought && c.compare == Op::Greater) return "any " + c.relatedSaid + which;
    Condition number;
    number.op = c.compare;
    number.value = c.value;
    return "number of " + c.relatedSaid + which + " " + test(number, false);
  }

  static std::string test(const Condition& c, bool isNot) {
    const std::string value =
        !c.otherColumn.empty() ? "[" + c.otherColumn + "]" : (c.said.empty() ? valueWords(c.value) : c.said);
    const std::string is = isNot ? "is not " : "is ";
    const std::string exactly = c.exactCase ? " exactly " : " ";
    switch (c.op) {
      case Op::Equal:
        return is + value;
      case Op::NotEqual:
        return (isNot ? "is " : "is not ") + value;
      case Op::Less:
        return is + "below " + value;
      case Op::LessOrEqual:
        return is + value + " or less";
      case Op::Greater:
        return is + "above " + value;
      case Op::GreaterOrEqual:
        return is + value + " or more";
      case Op::Between:
        if (!c.said.empty()) return is + c.said;
        return is + "from " + valueWords(c.values[0]) + " to " + valueWords(c.values[1]);
      case Op::OneOf: {
        std::string list;
        for (const Value& v : c.values) list += (list.empty() ? "" : ", ") + valueWords(v);
        return is + "one of " + list;
      }
      case Op::Contains:
        return (isNot ? "does not contain" : "contains") + exactly + value;
      case Op::StartsWith:
        return (isNot ? "does not start with" : "starts with") + exactly + value;
      case Op::EndsWith:
        return (isNot ? "does not end with" : "ends with") + exactly + value;
      case Op::Like:
        return is + "like" + exactly + value;
      case Op::NoValue:
        return isNot ? "has a value" : "has no value";
      case Op::HasValue:
        return isNot ? "has no value" : "has a value";
      default:
        return {};
    }
  }
};

}  // namespace

std::string conditionInWords(const Condition& condition) { return Words().of(condition); }

Condition throughSteps(const std::vector<ReferenceStep>& steps, Condition condition) {
  for (auto step = steps.rbegin(); step != steps.rend(); ++step) {
    Condition out;
    out.op = Condition::Op::Through;
    out.related = step->target;
    out.relatedSaid = step->said;
    out.join = step->join;
    out.parts.push_back(std::move(condition));
    condition = std::move(out);
  }
  return condition;
}

Condition bothHold(Condition a, Condition b) {
  if (a.op == Condition::Op::All) return b;
  if (b.op == Condition::Op::All) return a;
  if (a.op == Condition::Op::And) {
    a.parts.push_back(std::move(b));
    return a;
  }
  Condition both;
  both.op = Condition::Op::And;
  both.parts.push_back(std::move(a));
  both.parts.push_back(std::move(b));
  return both;
}

ConditionContext contextNow(const Catalogue& catalogue) {
  const std::time_t now = std::time(nullptr);
  std::tm here{};
  localtime_r(&now, &here);
  const std::chrono::year_month_day today{std::chrono::year(here.tm_year + 1900),
                                          std::chrono::month(static_cast<unsigned>(here.tm_mon + 1)),
                                          std::chrono::day(static_cast<unsigned>(here.tm_mday))};
  return {&catalogue, std::chrono::sys_days(today)};
}

}  // namespace iterandum
