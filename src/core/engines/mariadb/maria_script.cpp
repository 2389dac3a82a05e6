// The script of MariaDB: statements that its plain client runs under default settings to the same end as apply.
#include <algorithm>

#include "core/engines/mariadb/maria_session.h"
#include "core/engines/mariadb/maria_types.h"

namespace iterandum {
namespace {

// A label's key is kept in a user variable.
std::string labelVariable(const std::string& label) { return "@" + mariaIdentifier("iterandum " + label); }

std::string valueSql(const Value& v) {
  return v.kind() == Value::Kind::PendingKey ? labelVariable(std::string(v.asString())) : mariaLiteral(v);
}

std::string equals(const Table& table, const std::string& name, const Value& v) {
  const std::string own = mariaIdentifier(name);
  if (v.isNull()) return own + " IS NULL";
  const Column* column = table.column(name);
  if (column != nullptr && mariaBaseType(*column) == "float") return own + " = CAST(" + mariaLiteral(v) + " AS FLOAT)";
  if (column == nullptr || !isMariaText(*column)) return own + " = " + valueSql(v);
  // Byte for byte, whatever the column's collation takes for equal; the first half can use an index.
  const std::string value = valueSql(v);
  return own + " = " + value + " AND BINARY CONVERT(" + own + " USING utf8mb4) = BINARY " + value;
}

std::string keyCondition(const ScriptStatement& s) {
  const bool plain = s.keyColumns.size() == 1 && s.keys.size() > 1 && s.table->column(s.keyColumns[0]) != nullptr &&
                     !isMariaText(*s.table->column(s.keyColumns[0])) &&
                     mariaBaseType(*s.table->column(s.keyColumns[0])) != "float";
  if (plain) {
    std::string list;
    for (const ValueTuple& key : s.keys) list += (list.empty() ? "" : ", ") + mariaLiteral(key[0]);
    return mariaIdentifier(s.keyColumns[0]) + " IN (" + list + ")";
  }
  std::string out;
  for (const ValueTuple& key : s.keys) {
    std::string one;
    for (std::size_t k = 0; k < key.size(); ++k) {
      one += (k > 0 ? " AND " : "") + equals(*s.table, s.keyColumns[k], key[k]);
    }
    out += (out.empty() ? "" : " OR ") + (s.keys.size() > 1 ? "(" + one + ")" : one);
  }
  return s.keys.size() > 1 ? "(" + out + ")" : out;
}

std::string whereClause(const ScriptStatement& s) {
  std::string out = " WHERE " + keyCondition(s);
  for (const auto& [column, value] : s.guard) out += " AND " + equals(*s.table, column, value);
  return out;
}

}  // namespace

std::vector<std::string> MariaSession::scriptOpening(bool) const {
  return {
      "SET NAMES utf8mb4;",
      "SET SESSION sql_mode = 'STRICT_TRANS_TABLES,STRICT_ALL_TABLES,NO_AUTO_VALUE_ON_ZERO,NO_BACKSLASH_ESCAPES,"
      "NO_ENGINE_SUBSTITUTION';",
      "SET SESSION time_zone = '+00:00', foreign_key_checks = 1, unique_checks = 1;",
      "START TRANSACTION;",
  };
}

std::vector<std::string> MariaSession::scriptClosing() const { return {"COMMIT;"}; }

std::string MariaSession::scriptText(const ScriptStatement& s) const {
  const std::string table = mariaTable(*s.table);
  std::string sql;
  std::string values;
  switch (s.kind) {
    case WriteStep::Kind::Update:
      for (const auto& [column, value] : s.set) {
        sql += (sql.empty() ? "" : ", ") + mariaIdentifier(column) + " = " + valueSql(value);
      }
      return "UPDATE " + table + " SET " + sql + whereClause(s) + ";";
    case WriteStep::Kind::Remove:
      return "DELETE FROM " + table + whereClause(s) + ";";
    case WriteStep::Kind::Insert:
      break;
  }
  std::string key = "LAST_INSERT_ID()";
  for (const auto& [column, value] : s.set) {
    const Column* description = s.table->column(column);
    if (description != nullptr && description->generatedKey && value.isNull()) continue;
    if (column == s.labelColumn) key = valueSql(value);
    sql += (sql.empty() ? "" : ", ") + mariaIdentifier(column);
    values += (values.empty() ? "" : ", ") + valueSql(value);
  }
  const std::string insert = "INSERT INTO " + table + " (" + sql + ") VALUES (" + values + ");";
  return s.label.empty() ? insert : insert + " SET " + labelVariable(s.label) + " = " + key + ";";
}

}  // namespace iterandum
