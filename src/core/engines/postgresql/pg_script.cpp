// The script of PostgreSQL: statements that psql runs under default settings to the same end as apply.
#include <algorithm>

#include "core/engines/postgresql/pg_session.h"
#include "core/engines/postgresql/pg_types.h"

namespace iterandum {
namespace {

constexpr const char* kLabelTable = "pg_temp.\"iterandum_label\"";

std::string typeOf(const Table& table, const std::string& column) {
  const Column* description = table.column(column);
  return description == nullptr ? std::string("text") : description->engineType;
}

std::string valueSql(const Table& table, const std::string& column, const Value& v) {
  const std::string type = typeOf(table, column);
  if (v.kind() != Value::Kind::PendingKey) return pgLiteral(v, type);
  return std::string("(SELECT \"key\" FROM ") + kLabelTable +
         " WHERE \"label\" = " + pgLiteral(Value::text(v.asString()), "text") + ")::" + type;
}

std::string equals(const Table& table, const std::string& column, const Value& v) {
  const std::string own = pgIdentifier(column);
  if (v.isNull()) return own + " IS NULL";
  const Column* description = table.column(column);
  if (description == nullptr || isComparedAsText(*description)) {
    return own + "::text = " + pgLiteral(Value::text(canonicalText(v)), "text");
  }
  // Byte for byte, whatever the column's collation takes for equal.
  if (description->type == TypeClass::Text && !description->paddedWithBlanks && v.kind() == Value::Kind::Text) {
    return own + " = " + pgLiteral(v, "text") + " COLLATE \"C\"";
  }
  return own + " = " + valueSql(table, column, v);
}

std::string keyCondition(const ScriptStatement& s) {
  if (s.keyColumns.size() == 1 && s.keys.size() > 1) {
    const std::string type = typeOf(*s.table, s.keyColumns[0]);
    std::string list;
    for (const ValueTuple& key : s.keys) list += (list.empty() ? "" : ", ") + pgLiteral(key[0], type);
    return pgIdentifier(s.keyColumns[0]) + " IN (" + list + ")";
  }
  std::string out;
  for (const ValueTuple& key : s.keys) {
    std::string one;
    for (std::size_t k = 0; k < key.size(); ++k) one += (k ? " AND " : "") + equals(*s.table, s.keyColumns[k], key[k]);
    if (s.keys.size() > 1 && key.size() > 1) one = "(" + one + ")";
    out += (out.empty() ? "" : " OR ") + one;
  }
  return s.keys.size() > 1 ? "(" + out + ")" : out;
}

std::string whereClause(const ScriptStatement& s) {
  std::string out = " WHERE " + keyCondition(s);
  for (const auto& [column, value] : s.guard) out += " AND " + equals(*s.table, column, value);
  return out;
}

}  // namespace

std::vector<std::string> PgSession::scriptOpening(bool usesLabels) const {
  std::vector<std::string> out{
      "SET client_encoding = 'UTF8';",
      "SET datestyle = 'ISO, YMD';",
      "SET intervalstyle = 'iso_8601';",
      "SET timezone = 'UTC';",
      "BEGIN;",
  };
  if (usesLabels) {
    out.emplace_back(
        "CREATE TEMPORARY TABLE \"iterandum_label\" (\"label\" text PRIMARY KEY, \"key\" text) ON COMMIT DROP;");
  }
  return out;
}

std::vector<std::string> PgSession::scriptClosing() const { return {"COMMIT;"}; }

std::string PgSession::scriptText(const ScriptStatement& s) const {
  const std::string table = pgTable(*s.table);
  std::string sql;
  std::string values;
  switch (s.kind) {
    case WriteStep::Kind::Update:
      for (const auto& [column, value] : s.set) {
        sql += (sql.empty() ? "" : ", ") + pgIdentifier(column) + " = " + valueSql(*s.table, column, value);
      }
      return "UPDATE " + table + " SET " + sql + whereClause(s) + ";";
    case WriteStep::Kind::Remove:
      return "DELETE FROM " + table + whereClause(s) + ";";
    case WriteStep::Kind::Insert:
      break;
  }
  for (const auto& [column, value] : s.set) {
    const Column* description = s.table->column(column);
    if (description != nullptr && description->generatedKey && value.isNull()) continue;
    sql += (sql.empty() ? "" : ", ") + pgIdentifier(column);
    values += (values.empty() ? "" : ", ") + valueSql(*s.table, column, value);
  }
  std::string insert =
      "INSERT INTO " + table +
      (sql.empty() ? " DEFAULT VALUES" : " (" + sql + ") OVERRIDING SYSTEM VALUE VALUES (" + values + ")");
  if (s.label.empty()) return insert + ";";
  return "WITH added AS (" + insert + " RETURNING " + pgIdentifier(s.labelColumn) + "::text AS \"key\") INSERT INTO " +
         kLabelTable + " SELECT " + pgLiteral(Value::text(s.label), "text") + ", \"key\" FROM added;";
}

}  // namespace iterandum
