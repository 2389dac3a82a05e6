// The script of SQLite: statements that its plain client runs under default settings to the same end as apply.
#include <algorithm>
#include <charconv>
#include <cmath>

#include <utf8proc.h>

#include "core/engines/sqlite/sqlite_session.h"

namespace iterandum {
namespace {

constexpr const char* kLabelTable = "temp.\"iterandum_label\"";
constexpr const char* kNotAsSeen = "a record is not as it was seen, or a statement failed: nothing is written";

std::string hexLiteral(std::string_view bytes) {
  static constexpr char kDigits[] = "0123456789abcdef";
  std::string out = "X'";
  for (const char c : bytes) {
    out += kDigits[static_cast<unsigned char>(c) >> 4];
    out += kDigits[static_cast<unsigned char>(c) & 15];
  }
  return out + "'";
}

// In a database that keeps its texts in UTF-16 the bytes of a text are those.
std::string utf16Bytes(std::string_view utf8, bool bigEndian) {
  std::string out;
  const auto put = [&](std::uint32_t unit) {
    const char high = static_cast<char>(unit >> 8U);
    const char low = static_cast<char>(unit & 0xFFU);
    out += bigEndian ? high : low;
    out += bigEndian ? low : high;
  };
  while (!utf8.empty()) {
    utf8proc_int32_t letter = 0;
    const utf8proc_ssize_t read = utf8proc_iterate(reinterpret_cast<const utf8proc_uint8_t*>(utf8.data()),
                                                   static_cast<utf8proc_ssize_t>(utf8.size()), &letter);
    if (read <= 0) break;  // no text of such a database
    utf8.remove_prefix(static_cast<std::size_t>(read));
    const auto code = static_cast<std::uint32_t>(letter);
    if (code >= 0x10000) {
      put(0xD800 + ((code - 0x10000) >> 10U));
      put(0xDC00 + ((code - 0x10000) & 0x3FFU));
    } else {
      put(code);
    }
  }
  return out;
}

std::string textLiteral(std::string_view s, const std::string& encoding) {
  // Control characters can mean something to a client or get lost on the way; in this form they cannot.
  const bool plain = isValidUtf8(s) && std::none_of(s.begin(), s.end(), [](char c) {
                       return static_cast<unsigned char>(c) < 0x20 || c == 0x7F;
                     });
  const bool wide = encoding.starts_with("UTF-16");
  if (!plain) return "CAST(" + hexLiteral(wide ? utf16Bytes(s, encoding == "UTF-16be") : s) + " AS TEXT)";
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
  const auto end = std::to_chars(buffer, buffer + sizeof buffer, d);
  std::string out(buffer, end.ptr);
  if (out.find_first_of(".e") == std::string::npos) out += ".0";
  return out;
}

// Statements of one script: the encoding of the database decides how some texts are written.
class Writer {
 public:
  explicit Writer(const std::string& encoding) : encoding_(encoding) {}

  [[nodiscard]] std::string value(const Value& v) const {
    if (v.kind() != Value::Kind::PendingKey) return sqliteLiteral(v, encoding_);
    return std::string("(SELECT \"key\" FROM ") + kLabelTable +
           " WHERE \"label\" = " + textLiteral(v.asString(), encoding_) + ")";
  }

  [[nodiscard]] std::string where(const ScriptStatement& s) const {
    std::string out = " WHERE " + keyCondition(s);
    for (const auto& [column, wanted] : s.guard) out += " AND " + equals(column, wanted);
    return out;
  }

 private:
  [[nodiscard]] std::string equals(const std::string& column, const Value& v) const {
    if (v.isNull()) return quoteIdentifier(column) + " IS NULL";
    return quoteIdentifier(column) + (v.isString() ? " COLLATE BINARY = " : " = ") + value(v);
  }

  [[nodiscard]] std::string keyCondition(const ScriptStatement& s) const {
    const bool anyNull =
        std::any_of(s.keys.begin(), s.keys.end(), [](const ValueTuple& key) { return key[0].isNull(); });
    if (s.keyColumns.size() == 1 && s.keys.size() > 1 && !anyNull) {
      const bool text = std::any_of(s.keys.begin(), s.keys.end(), [](const ValueTuple& k) { return k[0].isString(); });
      std::string list;
      for (const ValueTuple& key : s.keys) list += (list.empty() ? "" : ", ") + value(key[0]);
      return quoteIdentifier(s.keyColumns[0]) + (text ? " COLLATE BINARY IN (" : " IN (") + list + ")";
    }
    std::string out;
    for (const ValueTuple& key : s.keys) {
      std::string one;
      for (std::size_t k = 0; k < key.size(); ++k) one += (k ? " AND " : "") + equals(s.keyColumns[k], key[k]);
      if (s.keys.size() > 1 && key.size() > 1) one = "(" + one + ")";
      out += (out.empty() ? "" : " OR ") + one;
    }
    return s.keys.size() > 1 ? "(" + out + ")" : out;
  }

  const std::string& encoding_;
};

// After rolling back by itself the engine would write on, statement by statement: these keep it from that.
std::string stopTrigger(const Table& table, WriteStep::Kind kind, std::size_t number) {
  const char* const event =
      kind == WriteStep::Kind::Insert ? "INSERT" : (kind == WriteStep::Kind::Update ? "UPDATE" : "DELETE");
  return "CREATE TEMP TRIGGER \"iterandum_stop_" + std::to_string(number) + "\" BEFORE " + event + " ON main." +
         quoteIdentifier(table.name.name) +
         " WHEN NOT EXISTS (SELECT 1 FROM \"iterandum_whole\") BEGIN SELECT RAISE(ABORT, '" + kNotAsSeen + "'); END;";
}

std::string check(std::size_t number, std::size_t wanted, const std::string& written) {
  return "\nINSERT INTO temp.\"iterandum_check\" VALUES (" + std::to_string(number) + ", " + std::to_string(wanted) +
         ", " + written + ");";
}

}  // namespace

std::string sqliteLiteral(const Value& v, const std::string& encoding) {
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
      return textLiteral(v.asString(), encoding);
  }
}

// A row that points at the last statement's number lies in a table of its own from the beginning; the number comes into
// the other one only when every statement before it met as many records as meant. Till then the reference does not
// hold, and COMMIT fails, whatever else the client goes on with.
std::vector<std::string> SqliteSession::scriptOpening(const ScriptOutline& outline) const {
  std::vector<std::string> out{"PRAGMA foreign_keys = ON;"};
  if (outline.looks > 0) {
    for (const char* left : {"VIEW IF EXISTS temp.\"iterandum_check\"", "VIEW IF EXISTS temp.\"iterandum_keep\"",
                             "TABLE IF EXISTS temp.\"iterandum_whole\"", "TABLE IF EXISTS temp.\"iterandum_done\"",
                             "TABLE IF EXISTS temp.\"iterandum_label\""})
      out.push_back(std::string("DROP ") + left + ";");
    out.emplace_back("CREATE TEMP TABLE \"iterandum_done\" (\"step\" INTEGER PRIMARY KEY);");
    out.emplace_back(
        "CREATE TEMP TABLE \"iterandum_whole\" (\"last\" INTEGER REFERENCES \"iterandum_done\" (\"step\") DEFERRABLE "
        "INITIALLY DEFERRED);");
    // Through views: what is noted there counts as no change, so that changes() stays nought if a statement fails.
    out.emplace_back(
        "CREATE TEMP VIEW \"iterandum_check\" AS SELECT 0 AS \"step\", 0 AS \"wanted\", 0 AS \"written\";");
    out.push_back(std::string("CREATE TEMP TRIGGER \"iterandum_step\" INSTEAD OF INSERT ON \"iterandum_check\" BEGIN "
                              "SELECT RAISE(ABORT, '") +
                  kNotAsSeen +
                  "') WHERE NEW.\"wanted\" <> NEW.\"written\" OR (NEW.\"step\" > 1 AND NOT EXISTS (SELECT 1 FROM "
                  "\"iterandum_done\" WHERE \"step\" = NEW.\"step\" - 1)); INSERT OR IGNORE INTO \"iterandum_done\" "
                  "VALUES (NEW.\"step\"); END;");
    if (outline.usesLabels) {
      out.push_back(
          std::string("CREATE TEMP TABLE \"iterandum_label\" (\"label\" TEXT PRIMARY KEY, \"key\") WITHOUT ROWID;"));
      out.emplace_back("CREATE TEMP VIEW \"iterandum_keep\" AS SELECT '' AS \"label\", 0 AS \"key\";");
      out.emplace_back(
          "CREATE TEMP TRIGGER \"iterandum_keep_key\" INSTEAD OF INSERT ON \"iterandum_keep\" BEGIN INSERT INTO "
          "\"iterandum_label\" VALUES (NEW.\"label\", NEW.\"key\"); END;");
    }
    std::size_t number = 0;
    for (const auto& [table, kind] : outline.writes) {
      if (table->kind != TableKind::Table) continue;
      ++number;
      out.push_back("DROP TRIGGER IF EXISTS temp.\"iterandum_stop_" + std::to_string(number) + "\";");
      out.push_back(stopTrigger(*table, kind, number));
    }
  }
  // Not IMMEDIATE: a transaction is begun in any case, and what meets a lock in it ends all of it.
  out.emplace_back("BEGIN;");
  out.emplace_back("PRAGMA defer_foreign_keys = ON;");
  if (outline.looks > 0)
    out.push_back("INSERT INTO temp.\"iterandum_whole\" VALUES (" + std::to_string(outline.looks) + ");");
  return out;
}

std::vector<std::string> SqliteSession::scriptClosing() const { return {"COMMIT;"}; }

std::string SqliteSession::scriptText(const ScriptStatement& s) const {
  const Writer writer(encoding_);
  const std::string table = quoteIdentifier(s.table->name.name);
  const bool counted = !s.table->writesNotCounted;
  std::string sql;
  std::string values;
  if (s.kind != WriteStep::Kind::Insert) {
    for (const auto& [column, value] : s.set) {
      sql += (sql.empty() ? "" : ", ") + quoteIdentifier(column) + " = " + writer.value(value);
    }
    const std::string where = writer.where(s);
    sql = (s.kind == WriteStep::Kind::Update ? "UPDATE OR ABORT " + table + " SET " + sql : "DELETE FROM " + table) +
          where + ";";
    if (counted) return sql + check(s.number, s.keys.size(), "changes()");
    // Through a view nothing is counted: the records are looked for before, and found no more after.
    const std::string there = "(SELECT count(*) FROM " + table + where + ")";
    return check(s.number, s.keys.size(), there).substr(1) + "\n" + sql + check(s.number + 1, 0, there);
  }
  for (const auto& [column, value] : s.set) {
    sql += (sql.empty() ? "" : ", ") + quoteIdentifier(column);
    values += (values.empty() ? "" : ", ") + writer.value(value);
  }
  sql = s.set.empty() ? "INSERT INTO " + table + " DEFAULT VALUES;"
                      : "INSERT OR ABORT INTO " + table + " (" + sql + ") VALUES (" + values + ");";
  sql += counted ? check(s.number, 1, "changes()") : check(s.number, 0, "0");
  for (const auto& [name, column] : s.remember) {
    sql += "\nINSERT INTO temp.\"iterandum_keep\" SELECT " + textLiteral(name, encoding_) + ", " +
           quoteIdentifier(column) + " FROM " + table + " WHERE rowid = last_insert_rowid();";
  }
  return sql;
}

std::string SqliteSession::insertText(const Table& table, const std::vector<std::string>& columns,
                                      const ValueTuple& values) const {
  std::string names;
  std::string written;
  for (std::size_t i = 0; i < columns.size(); ++i) {
    names += (i > 0 ? ", " : "") + quoteIdentifier(columns[i]);
    written += (i > 0 ? ", " : "") + sqliteLiteral(values[i], encoding_);
  }
  return "INSERT INTO " + quoteIdentifier(table.name.name) + " (" + names + ") VALUES (" + written + ");";
}

}  // namespace iterandum
