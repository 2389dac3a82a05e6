#include "core/scope/condition_check.h"

#include <algorithm>
#include <optional>

#include "core/catalogue/column_rules.h"
#include "core/scope/column_path.h"
#include "core/scope/condition_text.h"
#include "core/value/calendar_text.h"
#include "core/value/small_letters.h"

namespace iterandum {
namespace {

using Op = Condition::Op;

bool isOfDays(const Column& column) {
  return column.type == TypeClass::Date || column.type == TypeClass::Timestamp || column.type == TypeClass::Time;
}

bool comparesInOrder(Op op) {
  return op == Op::Less || op == Op::LessOrEqual || op == Op::Greater || op == Op::GreaterOrEqual || op == Op::Between;
}

// Types whose order is known here as well as to the database.
bool hasKnownOrder(const Column& column) {
  switch (column.type) {
    case TypeClass::Interval:
    case TypeClass::Bytes:
    case TypeClass::Other:
      return false;
    default:
      return true;
  }
}

std::string_view withoutBlanksBehind(std::string_view text) {
  const std::size_t last = text.find_last_not_of(' ');
  return text.substr(0, last == std::string_view::npos ? 0 : last + 1);
}

// A text by which days and moments go in order of time; nothing: it is none.
std::optional<std::string> timeForm(const Value& value) {
  if (!value.isString()) return std::nullopt;
  const std::string_view text = value.asString();
  if (text == "infinity") return "~";
  if (text == "-infinity") return "";
  auto known = calendarText(text);
  return known ? std::optional(std::move(known->form)) : std::nullopt;
}

// As the columns' type has it. Neither has no value.
bool isEqual(const Column& column, const Value& stored, const Value& wanted) {
  if (isOfDays(column)) {
    const auto a = timeForm(stored);
    const auto b = timeForm(wanted);
    if (a && b) return *a == *b;
  }
  const bool texts = stored.kind() == Value::Kind::Text && wanted.kind() == Value::Kind::Text;
  if (texts && (column.paddedWithBlanks || column.losesTrailingBlanks)) {
    return withoutBlanksBehind(stored.asString()) == withoutBlanksBehind(wanted.asString());
  }
  if (column.type == TypeClass::Any && wanted.isNumber() && stored.kind() == Value::Kind::Text) {
    return stored.asString() == canonicalText(wanted);
  }
  return sameValue(comparableForm(column, stored), comparableForm(column, wanted));
}

// Nothing: one of them has no place in the order.
std::optional<int> orderOf(const Column& column, const Value& stored, const Value& wanted) {
  if (column.type == TypeClass::Text) {
    const int order = smallLetters(canonicalText(stored)).compare(smallLetters(canonicalText(wanted)));
    return order < 0 ? -1 : (order > 0 ? 1 : 0);
  }
  if (isOfDays(column)) {
    const auto a = timeForm(stored);
    const auto b = timeForm(wanted);
    if (!a || !b) return std::nullopt;
    return a->compare(*b);
  }
  const bool numbers = stored.isNumber() && wanted.isNumber();
  const bool texts = stored.kind() == Value::Kind::Text && wanted.kind() == Value::Kind::Text;
  if (!numbers && !(texts && column.type == TypeClass::Any)) return std::nullopt;
  return compareValues(stored, wanted);
}

bool standsSo(std::optional<int> order, Op op) {
  if (!order) return false;
  switch (op) {
    case Op::Less:
      return *order < 0;
    case Op::LessOrEqual:
      return *order <= 0;
    case Op::Greater:
      return *order > 0;
    default:
      return *order >= 0;
  }
}

std::size_t placeIn(std::vector<ColumnPath>& paths, const ColumnPath& path) {
  const auto there = std::find(paths.begin(), paths.end(), path);
  if (there != paths.end()) return static_cast<std::size_t>(there - paths.begin());
  paths.push_back(path);
  return paths.size() - 1;
}

// What one character of UTF-8 takes.
std::size_t characterBytes(std::string_view text, std::size_t at) {
  std::size_t end = at + 1;
  while (end < text.size() && (static_cast<unsigned char>(text[end]) & 0xC0) == 0x80) ++end;
  return end - at;
}

}  // namespace

// With one way back, to the last star: what it took grows by a character at a time.
bool fitsPattern(std::string_view pattern, std::string_view text) {
  std::size_t p = 0;
  std::size_t t = 0;
  std::size_t star = std::string_view::npos;
  std::size_t from = 0;
  while (t < text.size()) {
    if (p < pattern.size() && pattern[p] == '*') {
      star = p++;
      from = t;
      continue;
    }
    const std::size_t size = characterBytes(text, t);
    const bool escaped = p + 1 < pattern.size() && pattern[p] == '\\';
    const std::size_t meant = p + (escaped ? 1 : 0);
    const bool any = !escaped && p < pattern.size() && pattern[p] == '?';
    if (any || (p < pattern.size() && pattern.compare(meant, size, text, t, size) == 0)) {
      p = any ? p + 1 : meant + size;
      t += size;
    } else if (star != std::string_view::npos) {
      p = star + 1;
      from += characterBytes(text, from);
      t = from;
    } else {
      return false;
    }
  }
  while (p < pattern.size() && pattern[p] == '*') ++p;
  return p == pattern.size();
}

std::size_t RecordNeeds::column(const ColumnPath& path) { return placeIn(columns, path); }

std::size_t RecordNeeds::beforeColumn(const ColumnPath& path) { return placeIn(before, path); }

std::size_t RecordNeeds::fact(const Condition& condition) {
  facts.push_back(condition);
  return facts.size() - 1;
}

struct ConditionCheck::Node {
  Op op = Op::All;
  const Column* column = nullptr;
  const Column* otherColumn = nullptr;  // null: compared with a value
  std::size_t slot = 0;                 // of the column, or the fact
  std::size_t otherSlot = 0;
  bool before = false;       // the slot is one of the record before
  bool otherBefore = false;  // and the other
  Value value;
  std::vector<Value> values;
  std::string part;  // that is looked for in a text, in small letters where capitals are not told apart
  bool exactCase = false;
  bool upToExcluded = false;
  std::vector<std::shared_ptr<const Node>> parts;
};

Result<ConditionCheck> ConditionCheck::make(const Table& table, const Condition& condition, RecordNeeds& needs) {
  ConditionCheck out;
  ITERANDUM_ASSIGN(out.root_, nodeOf(table, condition, {}, needs));
  return out;
}

Result<std::shared_ptr<const ConditionCheck::Node>> ConditionCheck::nodeOf(const Table& table, const Condition& c,
                                                                           const std::vector<ReferenceStep>& steps,
                                                                           RecordNeeds& needs) {
  auto node = std::make_shared<Node>();
  node->op = c.op;
  if (c.op == Op::Pointing || c.op == Op::Among) {
    // A record may be staged to point at another one than it does in the database.
    if (!steps.empty() && !needs.asTheyLie)
      return fail(ErrorKind::InvalidInput, "what points at a record over there cannot be told here");
    node->op = Op::Pointing;
    node->slot = needs.fact(throughSteps(steps, c));
    return node;
  }
  if (c.op == Op::Through) {
    // Where there is no such record its columns have no value, which is just what the condition goes by then.
    std::vector<ReferenceStep> on = steps;
    on.push_back({c.related, c.relatedSaid, c.joins.front()});
    return nodeOf(*c.related, c.parts.front(), on, needs);
  }
  for (const Condition& part : c.parts) {
    ITERANDUM_ASSIGN(std::shared_ptr<const Node> one, nodeOf(table, part, steps, needs));
    node->parts.push_back(std::move(one));
  }
  if (c.column.empty()) return node;
  node->column = table.column(c.column);
  if (node->column == nullptr) return fail(ErrorKind::InvalidInput, "'" + c.column + "' cannot be asked for here");
  const bool orderIsTheirs = comparesInOrder(c.op) && !hasKnownOrder(*node->column);
  if (orderIsTheirs && needs.asTheyLie && !c.before && !c.otherBefore) {
    node->op = Op::Pointing;
    node->slot = needs.fact(throughSteps(steps, c));
    return node;
  }
  if (orderIsTheirs) {
    return fail(ErrorKind::InvalidInput, "only the database knows the order of the values in " + c.column);
  }
  node->before = c.before;
  node->slot = c.before ? needs.beforeColumn({steps, c.column}) : needs.column({steps, c.column});
  if (!c.otherColumn.empty()) {
    node->otherColumn = table.column(c.otherColumn);
    node->otherBefore = c.otherBefore;
    const ColumnPath other{steps, c.otherColumn};
    node->otherSlot = c.otherBefore ? needs.beforeColumn(other) : needs.column(other);
  }
  node->value = c.value;
  node->values = c.values;
  node->exactCase = c.exactCase;
  node->upToExcluded = c.upToExcluded;
  if (c.value.isString()) node->part = c.exactCase ? std::string(c.value.asString()) : smallLetters(c.value.asString());
  return node;
}

const Value& ConditionCheck::ownValue(const Node& node, const KnownRecord& record) {
  return node.before ? record.before[node.slot] : record.columns[node.slot];
}

const Value& ConditionCheck::otherValue(const Node& node, const KnownRecord& record) {
  return node.otherBefore ? record.before[node.otherSlot] : record.columns[node.otherSlot];
}

bool ConditionCheck::holds(const KnownRecord& record) const { return holds(*root_, record); }

bool ConditionCheck::holds(const Node& node, const KnownRecord& record) {
  const auto holdsOne = [&](const std::shared_ptr<const Node>& part) { return holds(*part, record); };
  switch (node.op) {
    case Op::All:
      return true;
    case Op::And:
      return std::all_of(node.parts.begin(), node.parts.end(), holdsOne);
    case Op::Or:
      return std::any_of(node.parts.begin(), node.parts.end(), holdsOne);
    case Op::Not:
      return !holds(*node.parts.front(), record);
    case Op::Pointing:
    case Op::Among:
      return record.facts[node.slot] != 0;
    case Op::NoValue:
      return ownValue(node, record).isNull();
    case Op::HasValue:
      return !ownValue(node, record).isNull();
    case Op::Contains:
    case Op::StartsWith:
    case Op::EndsWith:
    case Op::Like:
      return fitsText(node, record);
    default:
      return compares(node, record);
  }
}

bool ConditionCheck::compares(const Node& node, const KnownRecord& record) {
  const Value& stored = ownValue(node, record);
  const Value& wanted = node.otherColumn != nullptr ? otherValue(node, record) : node.value;
  const bool known = !stored.isNull() && (node.otherColumn == nullptr || !wanted.isNull());
  if (node.op == Op::NotEqual) return !known || !isEqual(*node.column, stored, wanted);
  if (!known) return false;
  switch (node.op) {
    case Op::Equal:
      return isEqual(*node.column, stored, wanted);
    case Op::OneOf:
      return std::any_of(node.values.begin(), node.values.end(),
                         [&](const Value& v) { return isEqual(*node.column, stored, v); });
    case Op::Between:
      return standsSo(orderOf(*node.column, stored, node.values[0]), Op::GreaterOrEqual) &&
             standsSo(orderOf(*node.column, stored, node.values[1]), node.upToExcluded ? Op::Less : Op::LessOrEqual);
    default:
      break;
  }
  // The value is the day after the one that is meant.
  const Op op = !node.upToExcluded ? node.op : (node.op == Op::Greater ? Op::GreaterOrEqual : Op::Less);
  // A text and what is none: by the texts.
  const Column& by =
      node.otherColumn != nullptr && node.otherColumn->type == TypeClass::Text ? *node.otherColumn : *node.column;
  return standsSo(orderOf(by, stored, wanted), op);
}

bool ConditionCheck::fitsText(const Node& node, const KnownRecord& record) {
  const Value& stored = ownValue(node, record);
  if (stored.isNull()) return false;
  std::string text = canonicalText(stored);
  if (!node.exactCase) text = smallLetters(text);
  std::string other;
  if (node.otherColumn != nullptr) {
    const Value& value = otherValue(node, record);
    if (value.isNull()) return false;
    other = node.exactCase ? canonicalText(value) : smallLetters(canonicalText(value));
  }
  const std::string& part = node.otherColumn != nullptr ? other : node.part;
  switch (node.op) {
    case Op::StartsWith:
      return text.starts_with(part);
    case Op::EndsWith:
      return text.ends_with(part);
    case Op::Like:
      return fitsPattern(part, text);
    default:
      return text.find(part) != std::string::npos;
  }
}

}  // namespace iterandum
