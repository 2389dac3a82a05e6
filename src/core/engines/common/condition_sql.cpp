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

// Whether a condition on another record holds where there is none: as if all of its columns had no value.
bool holdsOfNothing(const Condition& c) {
  switch (c.op) {
    case Op::All:
    case Op::NotEqual:
    case Op::NoValue:
      return true;
    case Op::And:
      return std::all_of(c.parts.begin(), c.parts.end(), holdsOfNothing);
    case Op::Or:
      return std::any_of(c.parts.begin(), c.parts.end(), holdsOfNothing);
    case Op::Not:
      return !holdsOfNothing(c.parts.front());
    case Op::Through:
      return holdsOfNothing(c.parts.front());
    default:
      return false;
  }
}

// The opposite, in a form that finds its records by what they are like where there is one.
Condition oppositeOf(const Condition& c) {
  if (c.op == Op::Not) return c.parts.front();
  Condition out = c;
  if (c.op == Op::NotEqual || c.op == Op::NoValue) {
    out.op = c.op == Op::NotEqual ? Op::Equal : Op::HasValue;
  } else if (c.op == Op::Through) {
    out.parts.front() = oppositeOf(c.parts.front());
  } else {
    out = Condition();
    out.op = Op::Not;
    out.parts.push_back(c);
  }
  return out;
}

// Whether the way leads to one record at most: its columns there are a key, under which no two are taken for equal.
bool leadsToOne(const Condition& c) {
  const Condition::Join& join = c.joins.front();
  return std::any_of(c.related->keys.begin(), c.related->keys.end(), [&](const UniqueKey& key) {
    return std::all_of(key.columns.begin(), key.columns.end(), [&](std::size_t at) {
      const Column& column = c.related->columns[at];
      return column.foundExactly &&
             std::any_of(join.begin(), join.end(), [&](const auto& pair) { return pair.second == column.name; });
    });
  });
}

bool isText(const Column* column) { return column != nullptr && column->type == TypeClass::Text; }

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
  if (!isText(column) || value.kind() != Value::Kind::Text) return before(c.column, sign, value);
  const std::string text(value.asString());
  return orderedText(asText(own(c.column)), text) + sign + orderedText(textOperand(text), text);
}

std::string ConditionSql::before(const std::string& column, const char* sign, const Value& value) {
  return own(column) + sign + operand(column, value);
}

std::string ConditionSql::comparedColumns(const std::string& column, const char* sign, const std::string& other) {
  return own(column) + sign + own(other);
}

// Two columns of the same record.
std::string ConditionSql::besideColumn(const Condition& c) {
  const bool equal = c.op == Op::Equal || c.op == Op::NotEqual;
  const bool texts = isText(describe(c.column)) || isText(describe(c.otherColumn));
  const auto form = [&](const std::string& name) {
    return equal ? comparableText(asText(own(name)), true, std::nullopt) : orderedText(asText(own(name)), std::nullopt);
  };
  std::string sql = texts ? form(c.column) + signOf(equal ? Op::Equal : c.op) + form(c.otherColumn)
                          : comparedColumns(c.column, signOf(equal ? Op::Equal : c.op), c.otherColumn);
  return c.op == Op::NotEqual ? "(" + sql + ") IS NOT TRUE" : sql;
}

std::string ConditionSql::compared(const Condition& c) {
  if (!c.otherColumn.empty()) return besideColumn(c);
  if (c.op == Op::Equal) return equal(c.column, c.value);
  if (c.op == Op::NotEqual) return "(" + equal(c.column, c.value) + ") IS NOT TRUE";
  // The value is the day after the one that is meant.
  const char* sign = c.upToExcluded ? (c.op == Op::Greater ? " >= " : " < ") : signOf(c.op);
  return ordered(c, sign, c.value);
}

std::string ConditionSql::textTest(const Condition& c) {
  const bool ofColumn = !c.otherColumn.empty();
  const std::string wanted(ofColumn ? std::string_view() : c.value.asString());
  const std::optional<std::string> known = ofColumn ? std::nullopt : std::optional(wanted);
  const std::string column = comparableText(asText(own(c.column)), c.exactCase, known);
  if (c.op == Op::Like) return like(column, wanted, c.exactCase);
  const std::string part =
      comparableText(ofColumn ? asText(own(c.otherColumn)) : textOperand(wanted), c.exactCase, known);
  if (c.op == Op::StartsWith) return startsWith(column, part);
  return c.op == Op::EndsWith ? endsWith(column, part) : contains(column, part);
}

// SELECT … over the records that are related by any of these ways and fit.
std::string ConditionSql::related(const Condition& c, const Condition& fits, const char* head,
                                  std::span<const Condition::Join> joins) {
  const std::string outer = alias_;
  const std::string inner = "r" + std::to_string(++aliases_);
  std::string on;
  for (const Condition::Join& join : joins) {
    std::string way;
    for (const auto& [here, there] : join) {
      way += (way.empty() ? "" : " AND ") + inner + "." + identifier(there) + " = " + outer + "." + identifier(here);
    }
    on += (on.empty() ? "" : " OR ") + (joins.size() > 1 ? "(" + way + ")" : way);
  }
  if (joins.size() > 1) on = "(" + on + ")";
  std::string sql = std::string(head) + " FROM " + tableName(*c.related) + " AS " + inner + " WHERE " + on;
  const Table* const table = std::exchange(table_, c.related);
  alias_ = inner;
  if (fits.op != Op::All) sql += " AND (" + text(fits) + ")";
  alias_ = outer;
  table_ = table;
  return sql;
}

std::string ConditionSql::through(const Condition& c) {
  const Condition& asks = c.parts.front();
  const bool opposite = holdsOfNothing(asks);
  const Condition fits = opposite ? oppositeOf(asks) : asks;
  if (c.joins.front().size() == 1 && isFewEnough(*c.related)) {
    const std::string found = own(c.joins.front().front().first) + " IN (" + listed(c, fits) + ")";
    return opposite ? "(" + found + ") IS NOT TRUE" : found;
  }
  return (opposite ? "NOT EXISTS (" : "EXISTS (") + related(c, fits, "SELECT 1", c.joins) + ")";
}

ConditionSql::Parts ConditionSql::parts(const Condition& condition) {
  Parts out;
  const auto all = condition.op == Op::And ? std::span(condition.parts) : std::span(&condition, 1);
  for (const Condition& c : all) {
    const bool joins = c.op == Op::Through && !holdsOfNothing(c.parts.front()) && leadsToOne(c);
    if (!joins) {
      out.where += (out.where.empty() ? "(" : " AND (") + text(c) + ")";
      continue;
    }
    const std::string outer = std::exchange(alias_, "r" + std::to_string(++aliases_));
    const Table* const table = std::exchange(table_, c.related);
    out.joins += " JOIN " + tableName(*c.related) + " AS " + alias_ + " ON ";
    for (const auto& [here, there] : c.joins.front()) {
      out.joins += (out.joins.ends_with(" ON ") ? "" : " AND ") + own(there) + " = " + outer + "." + identifier(here);
    }
    out.where += (out.where.empty() ? "(" : " AND (") + text(c.parts.front()) + ")";
    alias_ = outer;
    table_ = table;
  }
  return out;
}

// SELECT the keys of the related records that fit, by themselves.
std::string ConditionSql::listed(const Condition& c, const Condition& fits) {
  const std::string outer = std::exchange(alias_, "r" + std::to_string(++aliases_));
  const Table* const table = std::exchange(table_, c.related);
  std::string sql =
      "SELECT " + own(c.joins.front().front().second) + " FROM " + tableName(*c.related) + " AS " + alias_;
  if (fits.op != Op::All) sql += " WHERE " + text(fits);
  alias_ = outer;
  table_ = table;
  return sql;
}

std::string ConditionSql::pointing(const Condition& c) {
  const Condition& fits = c.parts.front();
  const bool nought = c.value.kind() == Value::Kind::Integer && c.value.asInteger() == 0;
  if (!nought || (c.compare != Op::Equal && c.compare != Op::Greater)) {
    return "(" + related(c, fits, "SELECT count(*)", c.joins) + ")" + signOf(c.compare) + canonicalText(c.value);
  }
  // Way by way, each of which may have an index of its own.
  std::string out;
  for (std::size_t j = 0; j < c.joins.size(); ++j) {
    const std::string some = "EXISTS (" + related(c, fits, "SELECT 1", std::span(c.joins).subspan(j, 1)) + ")";
    out += c.compare == Op::Equal ? (j > 0 ? " AND NOT " : "NOT ") + some : (j > 0 ? " OR " : "") + some;
  }
  return out;
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
    case Op::Pointing:
      return pointing(c);
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
