// The script of SQLite: statements that its plain client runs under default settings to the same end as apply.
#include <algorithm>
#include <cmath>

#include "core/engines/sqlite/sqlite_session.h"

namespace iterandum {
namespace {

constexpr const char* kLabelTable = "temp.\"iterandum_label\"";

std::string hexLiteral(std::string_view bytes) {
  static constexpr char kDigits[] = "0123456789abcdef";
  std::string out = "X'";
  for (const char c : bytes) {
    out += kDigits[static_cast<unsigned char>(c) >> 4];
    out += kDigits[static_cast<unsigned char>(c) & 15];
  }
  return out + "'";
}

std::string textLiteral(std::string_view s) {
  // Control characters can mean something to a client or get lost on the way; in this form they cannot.
  const bool plain = isValidUtf8(s) && std::none_of(s.begin(), s.end(), [](char c) {
                       return static_cast<unsigned char>(c) < 0x20 || c == 0x7F;
                     });
  if (!plain) return "CAST(" + hexLiteral(s) + " AS TEXT)";
  std::string out = "'";
  for (const char c : s) {
    if (c == '\'') out += '\'';
    out += c;
  }
  return out + "'";
}

std::string realLiteral(double d) {
  if (std::isnan(d)) return "NULL";
  if (std::isinf(d)) return d < 0 ? "-9e999" : "9e999";
  char buffer[40];
  snprintf(buffer, sizeof buffer, "%.17g", d);
  std::string out = buffer;
  if (out.find_first_of(".e") == std::string::npos) out += ".0";
  return out;
}

std::string valueSql(const Value& v) {
  if (v.kind() != Value::Kind::PendingKey) return sqliteLiteral(v);
  return std::string("(SELECT \"key\" FROM ") + kLabelTable + " WHERE \"label\" = " + textLiteral(v.asString()) + ")";
}

std::string equals(const std::string& column, const Value& v, bool exact) {
  if (v.isNull()) return quoteIdentifier(column) + " IS NULL";
  return quoteIdentifier(column) + (exact && v.isString() ? " COLLATE BINARY = " : " = ") + valueSql(v);
}

std::string keyCondition(const ScriptStatement& s) {
  if (s.keyColumns.size() == 1 && s.keys.size() > 1) {
    const bool text = std::any_of(s.keys.begin(), s.keys.end(), [](const ValueTuple& k) { return k[0].isString(); });
    std::string list;
    for (const ValueTuple& key : s.keys) list += (list.empty() ? "" : ", ") + sqliteLiteral(key[0]);
    return quoteIdentifier(s.keyColumns[0]) + (text ? " COLLATE BINARY IN (" : " IN (") + list + ")";
  }
  std::string out;
  for (const ValueTuple& key : s.keys) {
    std::string one;
    for (std::size_t k = 0; k < key.size(); ++k) {
      one += (k ? " AND " : "") + equals(s.keyColumns[k], key[k], true);
    }
    if (s.keys.size() > 1 && key.size() > 1) one = "(" + one + ")";
    out += (out.empty() ? "" : " OR ") + one;
  }
  return s.keys.size() > 1 ? "(" + out + ")" : out;
}

std::string whereClause(const ScriptStatement& s) {
  std::string out = " WHERE " + keyCondition(s);
  for (const auto& [column, value] : s.guard) out += " AND " + equals(column, value, true);
  return out;
}

}  // namespace

std::string sqliteLiteral(const Value& v) {
  switch (v.kind()) {
    case Value::Kind::Null:
      return "NULL";
    case Value::Kind::Boolean:
    case Value::Kind::Integer:
      return std::to_string(v.asInteger());
    case Value::Kind::Unsigned:
      return realLiteral(static_cast<double>(v.asUnsigned()));
    case Value::Kind::Real:
      return realLiteral(v.asReal());
    case Value::Kind::Bytes:
      return hexLiteral(v.asString());
    default:
      return textLiteral(v.asString());
  }
}

std::vector<std::string> SqliteSession::scriptOpening(bool usesLabels) const {
  std::vector<std::string> out{"PRAGMA foreign_keys = ON;"};
  if (usesLabels) {
    out.push_back(std::string("CREATE TABLE ") + kLabelTable + " (\"label\" TEXT PRIMARY KEY, \"key\");");
  }
  out.emplace_back("BEGIN IMMEDIATE;");
  out.emplace_back("PRAGMA defer_foreign_keys = ON;");
  return out;
}

std::vector<std::string> SqliteSession::scriptClosing() const { return {"COMMIT;"}; }

std::string SqliteSession::scriptText(const ScriptStatement& s) const {
  const std::string table = quoteIdentifier(s.table->name.name);
  std::string sql;
  std::string values;
  switch (s.kind) {
    case WriteStep::Kind::Update:
      for (const auto& [column, value] : s.set) {
        sql += (sql.empty() ? "" : ", ") + quoteIdentifier(column) + " = " + valueSql(value);
      }
      return "UPDATE OR ABORT " + table + " SET " + sql + whereClause(s) + ";";
    case WriteStep::Kind::Remove:
      return "DELETE FROM " + table + whereClause(s) + ";";
    case WriteStep::Kind::Insert:
      break;
  }
  if (s.set.empty()) {
    sql = "INSERT INTO " + table + " DEFAULT VALUES;";
  } else {
    for (const auto& [column, value] : s.set) {
      sql += (sql.empty() ? "" : ", ") + quoteIdentifier(column);
      values += (values.empty() ? "" : ", ") + valueSql(value);
    }
    sql = "INSERT OR ABORT INTO " + table + " (" + sql + ") VALUES (" + values + ");";
  }
  if (!s.label.empty()) {
    const auto given =
        std::find_if(s.set.begin(), s.set.end(), [&](const auto& cell) { return cell.first == s.labelColumn; });
    const std::string key = given != s.set.end() ? valueSql(given->second)
                                                 : "(SELECT " + quoteIdentifier(s.labelColumn) + " FROM " + table +
                                                       " WHERE rowid = last_insert_rowid())";
    sql += std::string("\nINSERT INTO ") + kLabelTable + " VALUES (" + textLiteral(s.label) + ", " + key + ");";
  }
  return sql;
}

}  // namespace iterandum
