// The script of MariaDB: statements that its plain client runs under default settings to the same end as apply.
#include <algorithm>

#include "core/engines/mariadb/maria_session.h"
#include "core/engines/mariadb/maria_types.h"

namespace iterandum {
namespace {

// A label's key is kept in a user variable.
std::string labelVariable(const std::string& name) { return "@" + mariaIdentifier("iterandum " + name); }

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

// The client ends at the first error, and with its connection the transaction. A statement that meets another number of
// records than meant is made into an error.
std::vector<std::string> MariaSession::scriptOpening(const ScriptOutline& outline) const {
  std::vector<std::string> out{
      "SET NAMES utf8mb4;",
      "SET SESSION sql_mode = 'STRICT_TRANS_TABLES,STRICT_ALL_TABLES,NO_AUTO_VALUE_ON_ZERO,NO_BACKSLASH_ESCAPES,"
      "NO_ENGINE_SUBSTITUTION';",
      "SET SESSION time_zone = '+00:00', foreign_key_checks = 1, unique_checks = 1, sql_safe_updates = 0;",
  };
  if (outline.looks > 0) {
    out.emplace_back(
        "SET @`iterandum stop` = 'SIGNAL SQLSTATE ''45000'' SET MESSAGE_TEXT = ''a record is not as it was seen: "
        "nothing is "
        "written''';");
  }
  out.emplace_back("START TRANSACTION;");
  return out;
}

std::vector<std::string> MariaSession::scriptClosing() const { return {"COMMIT;"}; }

namespace {

std::string check(const std::string& count, std::size_t wanted) {
  return "\nEXECUTE IMMEDIATE IF(" + count + " = " + std::to_string(wanted) + ", 'DO 0', @`iterandum stop`);";
}

// Whether the statement surely changes each record that it meets: the client counts only records that are changed.
bool surelyChanges(const ScriptStatement& s) {
  const auto isGuard = [&](const std::string& column) {
    return std::any_of(s.guard.begin(), s.guard.end(), [&](const auto& g) { return g.first == column; }) ||
           std::find(s.keyColumns.begin(), s.keyColumns.end(), column) != s.keyColumns.end();
  };
  return std::any_of(s.set.begin(), s.set.end(), [&](const auto& cell) { return isGuard(cell.first); });
}

}  // namespace

std::string MariaSession::scriptText(const ScriptStatement& s) const {
  const std::string table = mariaTable(*s.table);
  std::string sql;
  std::string values;
  if (s.kind != WriteStep::Kind::Insert) {
    for (const auto& [column, value] : s.set) {
      sql += (sql.empty() ? "" : ", ") + mariaIdentifier(column) + " = " + valueSql(value);
    }
    const std::string where = whereClause(s);
    if (s.kind == WriteStep::Kind::Remove)
      return "DELETE FROM " + table + where + ";" + check("ROW_COUNT()", s.keys.size());
    sql = "UPDATE " + table + " SET " + sql + where + ";";
    if (surelyChanges(s)) return sql + check("ROW_COUNT()", s.keys.size());
    return "SELECT count(*) INTO @`iterandum met` FROM " + table + where + " FOR UPDATE;" +
           check("@`iterandum met`", s.keys.size()) + "\n" + sql;
  }
  for (const auto& [column, value] : s.set) {
    const Column* description = s.table->column(column);
    if (description != nullptr && description->generatedKey && value.isNull()) continue;
    sql += (sql.empty() ? "" : ", ") + mariaIdentifier(column);
    values += (values.empty() ? "" : ", ") + valueSql(value);
  }
  sql = "INSERT INTO " + table + " (" + sql + ") VALUES (" + values + ");" + check("ROW_COUNT()", 1);
  const auto generated =
      std::find_if(s.table->columns.begin(), s.table->columns.end(), [](const Column& c) { return c.generatedKey; });
  for (const auto& [name, column] : s.remember) {
    if (generated != s.table->columns.end() && generated->name == column) {
      sql += "\nSET " + labelVariable(name) + " = LAST_INSERT_ID();";
    } else if (generated != s.table->columns.end()) {
      sql += "\nSELECT " + mariaIdentifier(column) + " INTO " + labelVariable(name) + " FROM " + table + " WHERE " +
             mariaIdentifier(generated->name) + " = LAST_INSERT_ID();";
    }
  }
  return sql;
}

std::string MariaSession::insertText(const Table& table, const std::vector<std::string>& columns,
                                     const ValueTuple& values) const {
  std::string names;
  std::string written;
  for (std::size_t i = 0; i < columns.size(); ++i) {
    names += (i > 0 ? ", " : "") + mariaIdentifier(columns[i]);
    written += (i > 0 ? ", " : "") + valueSql(values[i]);
  }
  return "INSERT INTO " + mariaTable(table) + " (" + names + ") VALUES (" + written + ");";
}

}  // namespace iterandum
