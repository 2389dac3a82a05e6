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

// How a column and a value are held against each other so that equal means the very same, whatever the type's or the
// collation's own idea of it is: 30 days are no month, and A is no a.
struct Exactly {
  std::string own;
  std::string collation;  // behind the column
  bool asText = false;
};

Exactly exactly(const Table& table, const std::string& column) {
  Exactly out{pgIdentifier(column), "", false};
  const Column* description = table.column(column);
  if (description == nullptr || description->comparedAsText || isComparedAsText(*description) ||
      description->type == TypeClass::Interval) {
    out.own += "::text";
    out.asText = true;
  }
  const bool text = out.asText || (description->type == TypeClass::Text && !description->paddedWithBlanks);
  if (text && (description == nullptr || !description->foundExactly)) out.collation = " COLLATE \"C\"";
  return out;
}

std::string valueOf(const Table& table, const std::string& column, const Exactly& how, const Value& v) {
  if (v.kind() == Value::Kind::PendingKey || !how.asText) return valueSql(table, column, v);
  return pgLiteral(Value::text(canonicalText(v)), "text");
}

std::string equals(const Table& table, const std::string& column, const Value& v) {
  if (v.isNull()) return pgIdentifier(column) + " IS NULL";
  const Exactly how = exactly(table, column);
  return how.own + how.collation + " = " + valueOf(table, column, how, v);
}

std::string keyCondition(const ScriptStatement& s) {
  const bool anyNull = std::any_of(s.keys.begin(), s.keys.end(), [](const ValueTuple& key) { return key[0].isNull(); });
  if (s.keyColumns.size() == 1 && s.keys.size() > 1 && !anyNull) {
    const Exactly how = exactly(*s.table, s.keyColumns[0]);
    std::string list;
    for (const ValueTuple& key : s.keys)
      list += (list.empty() ? "" : ", ") + valueOf(*s.table, s.keyColumns[0], how, key[0]);
    return how.own + how.collation + " IN (" + list + ")";
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

// Any error ends the transaction for the client: what follows is refused, and COMMIT rolls back. A statement that meets
// another number of records than meant breaks the rule of a table of its own.
std::vector<std::string> PgSession::scriptOpening(const ScriptOutline& outline) const {
  std::vector<std::string> out{
      "BEGIN;",
      "SET LOCAL client_encoding = 'UTF8';",
      "SET LOCAL datestyle = 'ISO, YMD';",
      "SET LOCAL intervalstyle = 'iso_8601';",
      "SET LOCAL timezone = 'UTC';",
      "SET LOCAL standard_conforming_strings = on;",
      "SET LOCAL bytea_output = 'hex';",
  };
  if (outline.looks > 0) {
    out.emplace_back(
        "CREATE TEMPORARY TABLE \"iterandum_check\" (\"step\" int, \"wanted\" bigint, \"written\" bigint, CONSTRAINT "
        "\"a record is not as it was seen\" CHECK (\"wanted\" = \"written\")) ON COMMIT DROP;");
  }
  if (outline.usesLabels) {
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
  std::string remembered;
  if (s.kind == WriteStep::Kind::Update) {
    for (const auto& [column, value] : s.set) {
      sql += (sql.empty() ? "" : ", ") + pgIdentifier(column) + " = " + valueSql(*s.table, column, value);
    }
    sql = "UPDATE " + table + " SET " + sql + whereClause(s);
  } else if (s.kind == WriteStep::Kind::Remove) {
    sql = "DELETE FROM " + table + whereClause(s);
  } else {
    for (const auto& [column, value] : s.set) {
      const Column* description = s.table->column(column);
      if (description != nullptr && description->generatedKey && value.isNull()) continue;
      sql += (sql.empty() ? "" : ", ") + pgIdentifier(column);
      values += (values.empty() ? "" : ", ") + valueSql(*s.table, column, value);
    }
    sql = "INSERT INTO " + table +
          (sql.empty() ? " DEFAULT VALUES" : " (" + sql + ") OVERRIDING SYSTEM VALUE VALUES (" + values + ")");
    std::string columns;
    for (std::size_t i = 0; i < s.remember.size(); ++i) {
      const auto& [name, column] = s.remember[i];
      const std::string key = "\"key" + std::to_string(i + 1) + "\"";
      columns += (i > 0 ? ", " : "") + pgIdentifier(column) + "::text AS " + key;
      remembered += (i > 0 ? " UNION ALL SELECT " : "SELECT ") + pgLiteral(Value::text(name), "text") + ", " + key +
                    " FROM \"written\"";
    }
    if (!columns.empty()) sql += " RETURNING " + columns;
  }
  const std::string note = "INSERT INTO pg_temp.\"iterandum_check\" SELECT " + std::to_string(s.number) + ", " +
                           std::to_string(std::max<std::size_t>(1, s.keys.size())) + ", count(*) FROM \"written\"";
  if (remembered.empty()) return "WITH \"written\" AS (" + sql + " RETURNING 1) " + note + ";";
  return "WITH \"written\" AS (" + sql + "), \"noted\" AS (" + note + ") INSERT INTO " + kLabelTable + " " +
         remembered + ";";
}

std::string PgSession::insertText(const Table& table, const std::vector<std::string>& columns,
                                  const ValueTuple& values) const {
  std::string names;
  std::string written;
  for (std::size_t i = 0; i < columns.size(); ++i) {
    names += (i > 0 ? ", " : "") + pgIdentifier(columns[i]);
    written += (i > 0 ? ", " : "") + valueSql(table, columns[i], values[i]);
  }
  return "INSERT INTO " + pgTable(table) + " (" + names + ") OVERRIDING SYSTEM VALUE VALUES (" + written + ");";
}

}  // namespace iterandum
