#include "core/engines/common/condition_sql.h"

#include <algorithm>
#include <utility>

namespace iterandum {
namespace {

using Op = Condition::Op;

const char* signOf(Op op) {
  switch (op) {
    case Op::Less:
      return " < ";
    case Op::LessOrEqual:
      return " <= ";
    case Op::Greater:
      return " > ";
    case Op::GreaterOrEqual:
      return " >= ";
    case Op::NotEqual:
      return " <> ";
    default:
      return " = ";
  }
}

// A condition on another record that holds where there is none: its opposite, which asks for one.
std::optional<Condition> opposite(const Condition& c) {
  Condition out = c;
  if (c.op == Op::Through) {
    auto inner = opposite(c.parts.front());
    if (!inner) return std::nullopt;
    out.parts.front() = std::move(*inner);
    return out;
  }
  if (c.op == Op::Not) return c.parts.front();
  if (c.op != Op::NotEqual && c.op != Op::NoValue) return std::nullopt;
  out.op = c.op == Op::NotEqual ? Op::Equal : Op::HasValue;
  return out;
}

}  // namespace

std::string ConditionSql::own(const std::string& column) const { return alias_ + "." + identifier(column); }

std::string ConditionSql::joined(const Condition& condition, const char* word) {
  std::string out;
  for (const Condition& part : condition.parts) {
    if (!out.empty()) out += word;
    out += "(" + text(part) + ")";
  }
  return out.empty() ? "TRUE" : out;
}

// Texts by code points with their case folded, so that the order is the same on every engine; all else as the engine
// compares it.
std::string ConditionSql::ordered(const Condition& c, const char* sign, const Value& value) {
  const Column* column = describe(c.column);
  const bool ofText = column != nullptr && column->type == TypeClass::Text && value.kind() == Value::Kind::Text;
  if (!ofText) return own(c.column) + sign + operand(c.column, value);
  return comparableText(asText(own(c.column)), false) + sign +
         comparableText(textOperand(std::string(value.asString())), false);
}

std::string ConditionSql::compared(const Condition& c) {
  if (!c.otherColumn.empty()) {
    const std::string other = own(c.otherColumn);
    if (c.op == Op::NotEqual) return "(" + own(c.column) + " = " + other + ") IS NOT TRUE";
    return own(c.column) + signOf(c.op) + other;
  }
  if (c.op == Op::Equal) return equal(c.column, c.value);
  if (c.op == Op::NotEqual) return "(" + equal(c.column, c.value) + ") IS NOT TRUE";
  // The value is the day after the one that is meant.
  const char* sign = c.upToExcluded ? (c.op == Op::Greater ? " >= " : " < ") : signOf(c.op);
  return ordered(c, sign, c.value);
}

std::string ConditionSql::textTest(const Condition& c) {
  const std::string wanted(c.value.asString());
  const std::string column = comparableText(asText(own(c.column)), c.exactCase);
  if (c.op == Op::Like) return like(column, wanted, c.exactCase);
  const std::string part = comparableText(textOperand(wanted), c.exactCase);
  if (c.op == Op::StartsWith) return startsWith(column, part);
  return c.op == Op::EndsWith ? endsWith(column, part) : contains(column, part);
}

// SELECT … over the related records that fit.
std::string ConditionSql::related(const Condition& c, const char* head) {
  const std::string outer = alias_;
  const std::string inner = "r" + std::to_string(++aliases_);
  std::string sql = std::string(head) + " FROM " + tableName(*c.related) + " AS " + inner + " WHERE ";
  for (std::size_t i = 0; i < c.join.size(); ++i) {
    sql += (i > 0 ? " AND " : "") + inner + "." + identifier(c.join[i].second) + " = " + outer + "." +
           identifier(c.join[i].first);
  }
  const Table* const table = std::exchange(table_, c.related);
  alias_ = inner;
  if (c.parts.front().op != Op::All) sql += " AND (" + text(c.parts.front()) + ")";
  alias_ = outer;
  table_ = table;
  return sql;
}

std::string ConditionSql::through(const Condition& c) {
  if (const auto asks = opposite(c)) return "NOT EXISTS (" + related(*asks, "SELECT 1") + ")";
  return "EXISTS (" + related(c, "SELECT 1") + ")";
}

std::string ConditionSql::oneOf(const std::string& column, const std::vector<Value>& values) {
  std::string out;
  for (const Value& v : values) out += (out.empty() ? "(" : " OR (") + equal(column, v) + ")";
  return out;
}

std::string ConditionSql::amongKeys(const Table& table, const std::vector<std::string>& columns,
                                    const std::vector<ValueTuple>& keys) {
  const std::vector<std::string> names = table.writeKeyColumns();
  std::string sql;
  for (const std::string& column : columns) sql += (sql.empty() ? "(" : ", ") + column;
  sql += ") IN (";
  for (std::size_t k = 0; k < keys.size(); ++k) {
    sql += k > 0 ? ", (" : "(";
    for (std::size_t c = 0; c < names.size(); ++c) sql += (c > 0 ? ", " : "") + operand(names[c], keys[k][c]);
    sql += ")";
  }
  return sql + ")";
}

std::string ConditionSql::among(const KeyList& list) {
  const std::vector<std::string> names = table_->writeKeyColumns();
  std::vector<std::string> columns;
  for (const std::string& name : names) columns.push_back(own(name));
  std::vector<ValueTuple> whole;
  std::string sql;
  for (std::size_t row = 0; row < list.size(); ++row) {
    ValueTuple key;
    for (const ValueColumn& column : list.keys) key.push_back(column.at(row));
    if (std::none_of(key.begin(), key.end(), [](const Value& v) { return v.isNull(); })) {
      whole.push_back(std::move(key));
      continue;
    }
    std::string one;
    for (std::size_t c = 0; c < names.size(); ++c) {
      one += (c > 0 ? " AND (" : "(") + (key[c].isNull() ? columns[c] + " IS NULL" : equal(names[c], key[c])) + ")";
    }
    sql += (sql.empty() ? "(" : " OR (") + one + ")";
  }
  if (!whole.empty()) sql += (sql.empty() ? "" : " OR ") + amongKeys(*table_, columns, whole);
  return sql.empty() ? "FALSE" : sql;
}

std::string ConditionSql::text(const Condition& c) {
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
      return own(c.column) + " IS NULL";
    case Op::HasValue:
      return own(c.column) + " IS NOT NULL";
    case Op::Between:
      return ordered(c, " >= ", c.values[0]) + " AND " + ordered(c, c.upToExcluded ? " < " : " <= ", c.values[1]);
    case Op::OneOf:
      return c.values.empty() ? "FALSE" : oneOf(c.column, c.values);
    case Op::Contains:
    case Op::StartsWith:
    case Op::EndsWith:
    case Op::Like:
      return textTest(c);
    case Op::Among:
      return among(*c.keys);
    case Op::Through:
      return through(c);
    case Op::Pointing: {
      const bool nought = c.value.kind() == Value::Kind::Integer && c.value.asInteger() == 0;
      if (nought && c.compare == Op::Equal) return "NOT EXISTS (" + related(c, "SELECT 1") + ")";
      if (nought && c.compare == Op::Greater) return "EXISTS (" + related(c, "SELECT 1") + ")";
      return "(" + related(c, "SELECT count(*)") + ")" + signOf(c.compare) + canonicalText(c.value);
    }
    default:
      return compared(c);
  }
}

std::string likePattern(const std::string& pattern) {
  std::string out;
  for (std::size_t i = 0; i < pattern.size(); ++i) {
    const char c = pattern[i];
    if (c == '*') {
      out += '%';
    } else if (c == '?') {
      out += '_';
    } else if (c == '\\' && i + 1 < pattern.size()) {
      const char meant = pattern[++i];
      if (meant == '%' || meant == '_' || meant == '\\') out += '\\';
      out += meant;
    } else {
      if (c == '%' || c == '_' || c == '\\') out += '\\';
      out += c;
    }
  }
  return out;
}

}  // namespace iterandum
