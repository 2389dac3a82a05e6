// Conditions in words, for the sentence.
#include <ctime>
#include <utility>

#include "core/scope/condition_operators.h"
#include "core/scope/condition_text.h"
#include "core/value/calendar_text.h"
#include "core/value/decimal.h"

namespace iterandum {
namespace {

using Op = Condition::Op;

bool hasCalendar(const Column& column) {
  return column.type == TypeClass::Date || column.type == TypeClass::Time || column.type == TypeClass::Timestamp;
}

// By what an order is said: texts come before, days are before, numbers are below.
struct OrderWords {
  const char* less;
  const char* more;
  const char* orLess;
  const char* orMore;
};
constexpr OrderWords kOfNumbers{"below ", "above ", " or less", " or more"};
constexpr OrderWords kOfDays{"before ", "after ", " or earlier", " or later"};

class Words {
 public:
  Words(const Table& table, const ConditionWording& wording) : table_(&table), wording_(wording) {}

  // `prefix`: by which references the column is reached, with a dot at the end.
  std::string of(const Condition& c, const std::string& prefix = {}) {
    switch (c.op) {
      case Op::All:
        return {};
      case Op::And:
      case Op::Or:
        return joined(c, prefix);
      case Op::Not:
        return negated(c.parts.front(), prefix);
      case Op::Through:
        return through(c, prefix, false);
      case Op::Pointing:
        return pointing(c);
      case Op::Among:
        return subject(c, prefix) + " " + c.said;
      default:
        return subject(c, prefix) + " " + test(c, false);
    }
  }

 private:
  std::string joined(const Condition& c, const std::string& prefix) {
    std::string out;
    for (const Condition& part : c.parts) {
      if (!out.empty()) out += c.op == Op::And ? " and " : " or ";
      const bool brackets = part.op == Op::Or && c.op == Op::And;
      out += brackets ? "(" + of(part, prefix) + ")" : of(part, prefix);
    }
    return out;
  }

  std::string negated(const Condition& c, const std::string& prefix) {
    if (c.op == Op::Through) return through(c, prefix, true);
    if (c.op == Op::Among) {
      for (const KnownOf known : {KnownOf::Staged, KnownOf::Finding, KnownOf::Applied}) {
        if (c.said == saidOfKnown(known, false)) return subject(c, prefix) + " " + saidOfKnown(known, true);
      }
    }
    const bool compound = c.op == Op::And || c.op == Op::Or || c.op == Op::Not || c.op == Op::Pointing;
    // "comes not after m" has no opposite of its own.
    const Column* column = compound ? nullptr : table_->column(c.column);
    const bool wordless =
        (c.op == Op::LessOrEqual || c.op == Op::GreaterOrEqual) && (column == nullptr || holdsTexts(*column));
    if (compound || wordless) return "not (" + of(c, prefix) + ")";
    return subject(c, prefix) + " " + test(c, true);
  }

  // What is asked of another record; by its name, it is said of the reference's own column.
  std::string through(const Condition& c, const std::string& prefix, bool isNot) {
    const Table* const here = table_;
    std::string out;
    if (c.byName) {
      const Condition* leaf = &c.parts.front();
      while (leaf->op == Op::Or || leaf->op == Op::Not) leaf = &leaf->parts.front();
      const std::string& column = c.joins.front().front().first;
      std::string head =
          leaf->before ? "[" + bracketed("before " + prefix + column) + "]" : prefix + columnWords(column);
      table_ = c.related;
      out = std::move(head) + " " + test(*leaf, isNot);
    } else {
      table_ = c.related;
      const std::string further = prefix + nameInCondition(c.relatedSaid) + ".";
      out = isNot ? negated(c.parts.front(), further) : of(c.parts.front(), further);
    }
    table_ = here;
    return out;
  }

  std::string pointing(const Condition& c) {
    const Table* const here = std::exchange(table_, c.related);
    const Condition& which = c.parts.front();
    std::string where = of(which);
    table_ = here;
    const bool nought = c.value.kind() == Value::Kind::Integer && c.value.asInteger() == 0;
    const bool none = nought && c.compare == Op::Equal;
    const bool any = nought && c.compare == Op::Greater;
    if (!where.empty()) {
      const bool brackets = which.op == Op::And || which.op == Op::Or || (!none && !any);
      where = brackets ? " where (" + where + ")" : " where " + where;
    }
    if (none || any) return (none ? "no " : "any ") + c.relatedSaid + where;
    const std::string number = "number of " + c.relatedSaid + where + " is ";
    return number + (c.compare == Op::NotEqual ? "not " : "") + compared(c.compare, kOfNumbers, canonicalText(c.value));
  }

  std::string columnWords(const std::string& name) const {
    const Column* column = table_->column(name);
    if (column != nullptr && wording_.spokenOf) {
      if (std::string said = wording_.spokenOf(*table_, *column); !said.empty()) return nameInCondition(said);
    }
    return nameInCondition(name);
  }
  std::string subject(const Condition& c, const std::string& prefix) const {
    if (c.before) return "[" + bracketed("before " + prefix + c.column) + "]";
    return prefix + (c.column.empty() ? "record" : columnWords(c.column));
  }
  static std::string bracketed(const std::string& name) {
    std::string out;
    for (const char letter : name) out.append(letter == ']' ? 2 : 1, letter);
    return out;
  }

  std::string value(const Column* column, const Value& v, bool inList) const {
    if (column != nullptr && wording_.called) {
      if (const auto name = wording_.called(*table_, *column, v)) return textInCondition(*name, inList);
    }
    if (v.kind() == Value::Kind::Boolean) return v.asInteger() != 0 ? "yes" : "no";
    if (column != nullptr && column->type == TypeClass::Boolean && v.isNumber() && v.kind() == Value::Kind::Integer) {
      return v.asInteger() != 0 ? "yes" : "no";
    }
    if (v.isNumber() || !v.isString()) return canonicalText(v);
    if (v.asString().empty()) return "empty text";
    // Where any type may lie, digits are a number, and a text of digits is quoted.
    const bool asNumber = column != nullptr && column->type == TypeClass::Any && plainDecimal(v.asString());
    const bool offType = column != nullptr && !holdsTexts(*column) && !hasCalendar(*column);
    std::string text = textInCondition(v.asString(), inList);
    if ((asNumber || offType || isOddDay(column, v)) && text.front() != '\'') return "'" + text + "'";
    return text;
  }
  // A text that is no day where days are held: it is looked for as it is.
  static bool isOddDay(const Column* column, const Value& v) {
    return column != nullptr && hasCalendar(*column) && column->storesOffType && !calendarText(v.asString());
  }

  // "2", "below 2", "2 or less"
  static std::string compared(Op op, const OrderWords& words, const std::string& value) {
    switch (op) {
      case Op::Less:
        return words.less + value;
      case Op::LessOrEqual:
        return value + words.orLess;
      case Op::Greater:
        return words.more + value;
      case Op::GreaterOrEqual:
        return value + words.orMore;
      default:
        return value;
    }
  }

  std::string operand(const Condition& c) const {
    if (!c.otherColumn.empty()) {
      return "[" + bracketed((c.otherBefore ? "before " : "") + c.otherColumn) + "]";
    }
    return c.said.empty() ? value(table_->column(c.column), c.value, false) : c.said;
  }

  std::string ordered(const Condition& c, const Column* column, bool isNot) const {
    if (column != nullptr && !holdsTexts(*column)) {
      return (isNot ? "is not " : "is ") + compared(c.op, hasCalendar(*column) ? kOfDays : kOfNumbers, operand(c));
    }
    const bool before = c.op == Op::Less || c.op == Op::GreaterOrEqual;
    const bool ends = c.op == Op::LessOrEqual || c.op == Op::GreaterOrEqual;
    return (isNot ? "does not come " : (ends ? "comes not " : "comes ")) + std::string(before ? "before " : "after ") +
           operand(c);
  }

  std::string between(const Condition& c, const Column* column) const {
    if (!c.said.empty() && c.saidTo.empty()) return c.said;
    return "between " + (c.said.empty() ? value(column, c.values[0], false) : c.said) + " and " +
           (c.saidTo.empty() ? value(column, c.values[1], false) : c.saidTo);
  }

  std::string list(const Condition& c, const Column* column) const {
    if (c.values.size() > wording_.mostListed) return std::to_string(c.values.size()) + " values";
    std::string out;
    for (const Value& v : c.values) out += (out.empty() ? "" : ", ") + value(column, v, true);
    return out;
  }

  std::string test(const Condition& c, bool isNot) const {
    const Column* column = table_->column(c.column);
    const std::string is = isNot ? "is not " : "is ";
    const std::string exactly = c.exactCase ? " exactly " : " ";
    // A text that is searched for is a text, whatever the column holds.
    const auto text = [&] { return c.otherColumn.empty() ? searched(c) : operand(c); };
    switch (c.op) {
      case Op::Equal:
        return is + operand(c);
      case Op::NotEqual:
        return (isNot ? "is " : "is not ") + operand(c);
      case Op::Less:
      case Op::LessOrEqual:
      case Op::Greater:
      case Op::GreaterOrEqual:
        return ordered(c, column, isNot);
      case Op::Between:
        return is + between(c, column);
      case Op::OneOf:
        return is + "one of " + list(c, column);
      case Op::Contains:
        return (isNot ? "does not contain" : "contains") + exactly + text();
      case Op::StartsWith:
        return (isNot ? "does not start with" : "starts with") + exactly + text();
      case Op::EndsWith:
        return (isNot ? "does not end with" : "ends with") + exactly + text();
      case Op::Like:
        return is + "like" + exactly + text();
      case Op::NoValue:
        return isNot ? "has a value" : "has no value";
      case Op::HasValue:
        return isNot ? "has no value" : "has a value";
      default:
        return {};
    }
  }
  static std::string searched(const Condition& c) {
    return c.value.asString().empty() ? "''" : textInCondition(c.value.asString(), false);
  }

  const Table* table_;
  const ConditionWording& wording_;
};

}  // namespace

std::string conditionInWords(const Table& table, const Condition& condition, const ConditionWording& wording) {
  return Words(table, wording).of(condition);
}

Condition throughSteps(const std::vector<ReferenceStep>& steps, Condition condition) {
  for (auto step = steps.rbegin(); step != steps.rend(); ++step) {
    Condition out;
    out.op = Condition::Op::Through;
    out.related = step->target;
    out.relatedSaid = step->said;
    out.joins = {step->join};
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

std::vector<std::string> ConditionContext::namesOf(const Table& table) const {
  if (names) return names(table);
  std::vector<std::string> out = readableColumns(table);
  if (!out.empty()) out.resize(1);
  return out;
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
