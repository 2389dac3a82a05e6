// The reading half of the SQLite engine: queries of a scope, and records by key.
#include <strings.h>

#include <algorithm>

#include "core/engines/common/condition_sql.h"
#include "core/engines/common/lender_joins.h"
#include "core/engines/sqlite/sqlite_session.h"
#include "core/value/calendar_text.h"

namespace iterandum {
namespace {

using Op = Condition::Op;

std::string columnList(const std::vector<std::string>& columns) {
  std::string out;
  for (const std::string& c : columns) out += (out.empty() ? "" : ", ") + quoteIdentifier(c);
  return out.empty() ? "1" : out;
}

// Gathers the parameters; the values live in the query, which outlives the statement.
class SqliteCondition : public ConditionSql {
 public:
  SqliteCondition(const Table& table, SqliteHandle& handle) : ConditionSql(table), handle_(handle) {}

  void bind(SqliteStatement& statement) const {
    for (std::size_t i = 0; i < parameters_.size(); ++i) statement.bind(static_cast<int>(i + 1), parameters_[i]);
  }

 protected:
  [[nodiscard]] std::string identifier(const std::string& name) const override { return quoteIdentifier(name); }
  [[nodiscard]] std::string tableName(const Table& table) const override { return quoteIdentifier(table.name.name); }
  // By the highest row id, which is known at once; where ids have gaps, there are fewer still.
  [[nodiscard]] bool isFewEnough(const Table& table) override {
    constexpr std::int64_t kFew = 100000;
    if (table.kind != TableKind::Table || table.rowIdName.empty()) return false;
    auto highest = handle_.prepare("SELECT max(" + quoteIdentifier(table.rowIdName) + ") FROM " +
                                   quoteIdentifier(table.name.name));
    return highest && highest->step() == SQLITE_ROW && highest->integer(0) <= kFew;
  }
  [[nodiscard]] std::string operand(const std::string&, const Value& value) override { return parameter(value); }
  [[nodiscard]] std::string textOperand(const std::string& text) override { return parameter(Value::text(text)); }
  [[nodiscard]] std::string comparableText(const std::string& expression, bool exactCase,
                                           const std::optional<std::string>&) override {
    return (exactCase ? "(" : "iterandum_fold(") + expression + ")" + (exactCase ? " COLLATE BINARY" : "");
  }
  // By code points whatever the database's encoding is.
  [[nodiscard]] std::string orderedText(const std::string& expression, const std::optional<std::string>&) override {
    return "iterandum_order(" + expression + ")";
  }
  [[nodiscard]] std::string contains(const std::string& text, const std::string& part) override {
    return "instr(" + text + ", " + part + ") > 0";
  }
  [[nodiscard]] std::string startsWith(const std::string& text, const std::string& part) override {
    return "instr(" + text + ", " + part + ") = 1";
  }
  [[nodiscard]] std::string endsWith(const std::string& text, const std::string& part) override {
    return "substr(" + text + ", -max(1, length(" + part + ")), length(" + part + ")) = " + part;
  }
  // GLOB tells cases apart, which LIKE does not.
  [[nodiscard]] std::string like(const std::string& text, const std::string& pattern, bool exactCase) override {
    return text + " GLOB " + comparableText(textOperand(globPattern(pattern)), exactCase, pattern);
  }
  // Not a chain of OR, whose depth the engine limits.
  [[nodiscard]] std::string oneOf(const std::string& name, const std::vector<Value>& values) override {
    const Column* description = describe(name);
    const bool any = description != nullptr && description->type == TypeClass::Any;
    if (isMoment(description)) return ConditionSql::oneOf(name, values);
    // Long ones as literals: there may be more than a statement takes parameters.
    constexpr std::size_t kLong = 1000;
    std::string list;
    for (const Value& v : values) {
      list += (list.empty() ? "" : ", ") + (values.size() > kLong ? sqliteLiteral(v) : parameter(v));
      if (any && v.isNumber()) list += ", " + parameter(Value::text(canonicalText(v)));
    }
    return own(name) + " COLLATE BINARY IN (" + list + ")";
  }
  // As literals: there may be more of them than a statement takes parameters.
  [[nodiscard]] std::string amongKeys(const Table&, const std::vector<std::string>& columns,
                                      const std::vector<ValueTuple>& keys) override {
    std::string sql;
    for (const std::string& column : columns) sql += (sql.empty() ? "(" : ", ") + column;
    sql += ") IN (VALUES ";
    for (std::size_t k = 0; k < keys.size(); ++k) {
      sql += k > 0 ? ", (" : "(";
      for (std::size_t c = 0; c < keys[k].size(); ++c) sql += (c > 0 ? ", " : "") + sqliteLiteral(keys[k][c]);
      sql += ")";
    }
    return sql + ")";
  }
  [[nodiscard]] std::string equal(const std::string& name, const Value& value) override {
    const Column* description = describe(name);
    const std::string column = own(name);
    if (isMoment(description) && value.isString()) {
      // The same moment, in whatever form it is written.
      if (const auto moment = calendarText(value.asString())) {
        return daysAround(column, *moment, " = ") + calendar(name, name) + " = " + parameter(Value::text(moment->form));
      }
    }
    std::string sql = column + (value.isString() ? " COLLATE BINARY = " : " = ") + parameter(value);
    // Where any type may lie, "5" is looked for as a number and as a text.
    if (value.isNumber() && description != nullptr && description->type == TypeClass::Any) {
      sql += " OR " + column + " = " + parameter(Value::text(canonicalText(value)));
    }
    return sql;
  }
  // What lies in a column need not be of its type: a text is after every number, and "soon" is no day.
  [[nodiscard]] std::string before(const std::string& name, const char* sign, const Value& value) override {
    const Column* description = describe(name);
    const std::string column = own(name);
    if (hasCalendar(description) && value.isString()) {
      if (const auto moment = calendarText(value.asString())) {
        return daysAround(column, *moment, sign) + calendar(name, name) + sign + parameter(Value::text(moment->form));
      }
    }
    if (value.isNumber()) return "(" + isNumber(column) + " AND " + column + sign + parameter(value) + ")";
    return "(typeof(" + column + ") = 'text' AND " + ConditionSql::before(name, sign, value) + ")";
  }
  [[nodiscard]] std::string comparedColumns(const std::string& name, const char* sign,
                                            const std::string& other) override {
    if (hasCalendar(describe(name))) return calendar(name, name) + sign + calendar(other, name);
    const bool numbers = ofNumbers(describe(name)) && ofNumbers(describe(other));
    const std::string compared = ConditionSql::comparedColumns(name, sign, other);
    return numbers ? "(" + isNumber(own(name)) + " AND " + isNumber(own(other)) + " AND " + compared + ")" : compared;
  }

 private:
  static bool hasCalendar(const Column* column) {
    return column != nullptr &&
           (column->type == TypeClass::Date || column->type == TypeClass::Time || isMoment(column));
  }
  static bool isMoment(const Column* column) {
    return column != nullptr && (column->type == TypeClass::Timestamp || column->type == TypeClass::Time);
  }
  static bool ofNumbers(const Column* column) {
    return column != nullptr && column->type != TypeClass::Any && column->type != TypeClass::Text;
  }
  [[nodiscard]] std::string calendar(const std::string& name, const std::string& of) const {
    const Column* column = describe(of);
    const bool time = column != nullptr && column->type == TypeClass::Time;
    return (time ? "iterandum_clock(" : "iterandum_moment(") + own(name) + ")";
  }
  static std::string isNumber(const std::string& column) { return "typeof(" + column + ") IN ('integer', 'real')"; }
  // What an index can tell beforehand: the text begins with a day that is at most one off, for zones' sake.
  std::string daysAround(const std::string& column, const CalendarText& moment, std::string_view sign) {
    if (!moment.hasDay) return {};
    const auto around = daysBesides(moment.form);
    std::string out;
    if (!sign.starts_with(" <")) out += column + " COLLATE BINARY >= " + parameter(Value::text(around.first)) + " AND ";
    if (!sign.starts_with(" >")) out += column + " COLLATE BINARY < " + parameter(Value::text(around.second)) + " AND ";
    return out;
  }

  static std::string globPattern(const std::string& pattern) {
    std::string out;
    for (std::size_t i = 0; i < pattern.size(); ++i) {
      char c = pattern[i];
      const bool meant = c == '\\' && i + 1 < pattern.size();
      if (meant) c = pattern[++i];
      const bool special = c == '[' || (meant && (c == '*' || c == '?'));
      out += special ? std::string("[") + c + "]" : std::string(1, c);
    }
    return out;
  }

  std::string parameter(Value v) {
    parameters_.push_back(std::move(v));
    return "?" + std::to_string(parameters_.size());
  }

  SqliteHandle& handle_;
  std::vector<Value> parameters_;
};

LenderJoins sqliteJoins() {
  return {[](const std::string& name) { return quoteIdentifier(name); },
          [](const Table& table) { return quoteIdentifier(table.name.name); }};
}

std::string orderBy(const Query& query, LenderJoins& joins) {
  std::string out;
  std::vector<std::string> used;
  const auto add = [&](const std::string& column, bool descending, bool natural) {
    if (std::find(used.begin(), used.end(), column) != used.end()) return;
    used.push_back(column);
    out += (out.empty() ? " ORDER BY " : ", ") + (natural ? "iterandum_natural(" + column + ")" : column) +
           (descending ? " DESC" : "");
  };
  for (const SortKey& key : query.order) add(joins.column(key.steps, key.column), key.descending, key.natural);
  if (query.table->identity.kind != Identity::Kind::WholeRecord) {
    for (const std::string& column : query.table->identity.columns) add(joins.column({}, column), false, false);
  }
  return out;
}

std::string selectList(const Query& query, LenderJoins& joins) {
  std::string out;
  for (const std::string& name : query.columns) out += (out.empty() ? "" : ", ") + joins.column({}, name);
  for (const ColumnPath& path : query.borrowed)
    out += (out.empty() ? "" : ", ") + joins.column(path.steps, path.column);
  return out.empty() ? "1" : out;
}

// Refills a row that the receiver may have kept the room of.
void readRow(const SqliteStatement& statement, ValueTuple& row) {
  const int columns = statement.columns();
  row.resize(static_cast<std::size_t>(columns));
  for (int c = 0; c < columns; ++c) row[static_cast<std::size_t>(c)] = statement.value(c);
}

// FROM … WHERE …; `joins`: what the other parts borrow from.
std::string fromWhere(const Query& query, SqliteCondition& where, const std::string& joins) {
  std::string sql = " FROM " + quoteIdentifier(query.table->name.name) + " AS " + kQueryAlias + joins;
  if (query.where.op == Op::All) return sql;
  const ConditionSql::Parts parts = where.parts(query.where);
  return sql + parts.joins + " WHERE " + parts.where;
}

bool anyNull(const ValueColumn& column, std::span<const std::uint32_t> rows) {
  return std::any_of(rows.begin(), rows.end(), [&](std::uint32_t r) { return column.at(r).isNull(); });
}

}  // namespace

Status SqliteSession::select(const Query& query, const RowSink& sink, Progress& progress) {
  const SqliteWatch watch(*handle_, progress);
  SqliteCondition where(*query.table, *handle_);
  LenderJoins joins = sqliteJoins();
  const std::string columns = selectList(query, joins);
  const std::string order = orderBy(query, joins);
  std::string sql = "SELECT " + columns + fromWhere(query, where, joins.text()) + order;
  if (query.limit) sql += " LIMIT " + std::to_string(std::min<std::uint64_t>(*query.limit, INT64_MAX));
  ITERANDUM_ASSIGN(SqliteStatement rows, handle_->prepare(sql));
  where.bind(rows);
  int code = SQLITE_ROW;
  ValueTuple row;
  while ((code = rows.step()) == SQLITE_ROW) {
    readRow(rows, row);
    if (query.columns.empty() && query.borrowed.empty()) row.clear();
    if (!sink(std::move(row))) return {};
  }
  if (code != SQLITE_DONE) return fail(handle_->error(code, "cannot read " + displayName(query.table->name)));
  return {};
}

Status SqliteSession::distinctValues(const Query& query, const ColumnPath& column, std::uint64_t most,
                                     const ValueCountSink& sink, Progress& progress) {
  const SqliteWatch watch(*handle_, progress);
  SqliteCondition where(*query.table, *handle_);
  LenderJoins joins = sqliteJoins();
  const std::string value = joins.column(column.steps, column.column);
  const std::string sql = "SELECT " + value + ", count(*)" + fromWhere(query, where, joins.text()) + " GROUP BY " +
                          value + " COLLATE BINARY ORDER BY 2 DESC, 1 LIMIT " +
                          std::to_string(std::min<std::uint64_t>(most, INT64_MAX));
  ITERANDUM_ASSIGN(SqliteStatement rows, handle_->prepare(sql));
  where.bind(rows);
  int code = SQLITE_ROW;
  while ((code = rows.step()) == SQLITE_ROW) {
    if (!sink(rows.value(0), static_cast<std::uint64_t>(rows.integer(1)))) return {};
  }
  if (code != SQLITE_DONE) return fail(handle_->error(code, "cannot read " + displayName(query.table->name)));
  return {};
}

Result<std::uint64_t> SqliteSession::count(const Query& query, Progress& progress) {
  const SqliteWatch watch(*handle_, progress);
  SqliteCondition where(*query.table, *handle_);
  const std::string sql = "SELECT count(*)" + fromWhere(query, where, {});
  ITERANDUM_ASSIGN(SqliteStatement rows, handle_->prepare(sql));
  where.bind(rows);
  // Counting a whole table is one single step of SQLite's machine, which the watch does not see. Nothing else may run
  // meanwhile: an interrupted connection refuses also what is begun before all that runs has ended.
  const Progress::Stopper stopper(progress, [db = handle_->raw()] { sqlite3_interrupt(db); });
  if (progress.cancelled()) return fail(ErrorKind::Cancelled, "it was stopped");
  const int code = rows.step();
  if (code != SQLITE_ROW) return fail(handle_->error(code, "cannot count " + displayName(query.table->name)));
  return static_cast<std::uint64_t>(rows.integer(0));
}

namespace {

// Many statements that read, under one lock of the file instead of one each; and they all see the same.
class ReadTogether {
 public:
  explicit ReadTogether(SqliteHandle& handle)
      : handle_(handle), begun_(sqlite3_get_autocommit(handle.raw()) != 0 && handle.run("BEGIN").has_value()) {}
  ReadTogether(const ReadTogether&) = delete;
  ReadTogether& operator=(const ReadTogether&) = delete;
  ~ReadTogether() {
    if (begun_) (void)handle_.run("COMMIT");
  }

 private:
  SqliteHandle& handle_;
  bool begun_;
};

}  // namespace

Status SqliteSession::findByKeys(const KeyRead& read, const KeyedRowSink& sink, Progress& progress) {
  const SqliteWatch watch(*handle_, progress);
  const ReadTogether together(*handle_);
  std::string sql =
      "SELECT " + columnList(read.columns) + " FROM " + quoteIdentifier(read.table->name.name) + " WHERE ";
  const bool wholeRecord = read.keyColumns.size() > 1 && read.keyColumns == read.table->identity.columns &&
                           read.table->identity.kind == Identity::Kind::WholeRecord;
  for (std::size_t k = 0; k < read.keyColumns.size(); ++k) {
    const bool needsIs = wholeRecord || anyNull((*read.keys)[k], read.rows);
    if (k > 0) sql += " AND ";
    sql += quoteIdentifier(read.keyColumns[k]) + (needsIs ? " IS ?" : " = ?") + std::to_string(k + 1);
  }
  if (read.mostPerKey < INT64_MAX) sql += " LIMIT " + std::to_string(read.mostPerKey);
  ITERANDUM_ASSIGN(SqliteStatement statement, handle_->prepare(sql));
  std::size_t done = 0;
  ValueTuple key(read.keyColumns.size());
  for (const std::uint32_t row : read.rows) {
    for (std::size_t k = 0; k < key.size(); ++k) {
      key[k] = (*read.keys)[k].at(row);
      statement.bind(static_cast<int>(k + 1), key[k]);
    }
    int code = SQLITE_ROW;
    while ((code = statement.step()) == SQLITE_ROW) {
      ValueTuple record;
      readRow(statement, record);
      sink(row, std::move(record));
    }
    if (code != SQLITE_DONE) return fail(handle_->error(code, "cannot read " + displayName(read.table->name)));
    statement.reset();
    if (++done % 1024 == 0 && !progress.step("reading records", done, read.rows.size())) {
      return fail(ErrorKind::Cancelled, "it was stopped");
    }
  }
  return {};
}

Status SqliteSession::brokenRules(const Table& table, const std::vector<std::string>& columns,
                                  const std::vector<ValueTuple>& records, const BrokenRuleSink& sink) {
  for (const CheckRule& rule : table.checks) {
    if (rule.understood) continue;
    std::string sql = "SELECT (" + rule.expression + ") FROM (SELECT ";
    for (std::size_t c = 0; c < columns.size(); ++c) {
      sql += (c ? ", ?" : "?") + std::to_string(c + 1) + " AS " + quoteIdentifier(columns[c]);
    }
    auto statement = handle_->prepare(sql + ")");
    if (!statement) continue;  // it speaks of something that only the table has; the rehearsal will tell
    for (std::size_t r = 0; r < records.size(); ++r) {
      for (std::size_t c = 0; c < columns.size(); ++c) statement->bind(static_cast<int>(c + 1), records[r][c]);
      if (statement->step() == SQLITE_ROW && !statement->isNull(0) && statement->integer(0) == 0) {
        sink(r, rule);
      }
      statement->reset();
    }
  }
  return {};
}

}  // namespace iterandum
