// The reading half of the SQLite engine: queries of a scope, and records by key.
#include <strings.h>

#include <algorithm>

#include "core/engines/common/condition_sql.h"
#include "core/engines/sqlite/sqlite_session.h"

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
  explicit SqliteCondition(const Table& table) : table_(table) {}

  void bind(SqliteStatement& statement) const {
    for (std::size_t i = 0; i < parameters_.size(); ++i) statement.bind(static_cast<int>(i + 1), parameters_[i]);
  }

 protected:
  [[nodiscard]] std::string identifier(const std::string& name) const override { return quoteIdentifier(name); }
  [[nodiscard]] std::string operand(const Condition& c) override { return parameter(c.value); }
  [[nodiscard]] std::string holdsPart(const Condition& c) override {
    const std::string column = "iterandum_fold(" + quoteIdentifier(c.column) + ")";
    const std::string part = "iterandum_fold(" + parameter(c.value) + ")";
    if (c.op == Op::EndsWith) return "substr(" + column + ", -max(1, length(" + part + "))) = " + part;
    return "instr(" + column + ", " + part + (c.op == Op::StartsWith ? ") = 1" : ") > 0");
  }
  [[nodiscard]] std::string equal(const Condition& c) override {
    const Column* description = table_.column(c.column);
    const std::string column = quoteIdentifier(c.column);
    std::string sql = column + (c.value.isString() ? " COLLATE BINARY = " : " = ") + parameter(c.value);
    // Where any type may lie, "5" is looked for as a number and as a text.
    if (c.value.isNumber() && description != nullptr && description->type == TypeClass::Any) {
      sql += " OR " + column + " = " + parameter(Value::text(canonicalText(c.value)));
    }
    return sql;
  }

 private:
  std::string parameter(Value v) {
    parameters_.push_back(std::move(v));
    return "?" + std::to_string(parameters_.size());
  }

  const Table& table_;
  std::vector<Value> parameters_;
};

std::string orderBy(const Query& query) {
  std::string out;
  std::vector<std::string> used;
  const auto add = [&](const std::string& column, bool descending) {
    if (std::find(used.begin(), used.end(), column) != used.end()) return;
    used.push_back(column);
    out += (out.empty() ? " ORDER BY " : ", ") + quoteIdentifier(column) + (descending ? " DESC" : "");
  };
  for (const SortKey& key : query.order) add(key.column, key.descending);
  if (query.table->identity.kind != Identity::Kind::WholeRecord) {
    for (const std::string& column : query.table->identity.columns) add(column, false);
  }
  return out;
}

// Refills a row that the receiver may have kept the room of.
void readRow(const SqliteStatement& statement, ValueTuple& row) {
  const int columns = statement.columns();
  row.resize(static_cast<std::size_t>(columns));
  for (int c = 0; c < columns; ++c) row[static_cast<std::size_t>(c)] = statement.value(c);
}

bool anyNull(const ValueColumn& column, std::span<const std::uint32_t> rows) {
  return std::any_of(rows.begin(), rows.end(), [&](std::uint32_t r) { return column.at(r).isNull(); });
}

}  // namespace

Status SqliteSession::select(const Query& query, const RowSink& sink, Progress& progress) {
  const SqliteWatch watch(*handle_, progress);
  SqliteCondition where(*query.table);
  std::string sql = "SELECT " + columnList(query.columns) + " FROM " + quoteIdentifier(query.table->name.name);
  if (query.where.op != Op::All) sql += " WHERE " + where.text(query.where);
  sql += orderBy(query);
  if (query.limit) sql += " LIMIT " + std::to_string(std::min<std::uint64_t>(*query.limit, INT64_MAX));
  ITERANDUM_ASSIGN(SqliteStatement rows, handle_->prepare(sql));
  where.bind(rows);
  int code = SQLITE_ROW;
  ValueTuple row;
  while ((code = rows.step()) == SQLITE_ROW) {
    readRow(rows, row);
    if (query.columns.empty()) row.clear();
    if (!sink(std::move(row))) return {};
  }
  if (code != SQLITE_DONE) return fail(handle_->error(code, "cannot read " + displayName(query.table->name)));
  return {};
}

Result<std::uint64_t> SqliteSession::count(const Query& query, Progress& progress) {
  const SqliteWatch watch(*handle_, progress);
  SqliteCondition where(*query.table);
  std::string sql = "SELECT count(*) FROM " + quoteIdentifier(query.table->name.name);
  if (query.where.op != Op::All) sql += " WHERE " + where.text(query.where);
  ITERANDUM_ASSIGN(SqliteStatement rows, handle_->prepare(sql));
  where.bind(rows);
  const int code = rows.step();
  if (code != SQLITE_ROW) return fail(handle_->error(code, "cannot count " + displayName(query.table->name)));
  return static_cast<std::uint64_t>(rows.integer(0));
}

Status SqliteSession::readByKeys(const KeyRead& read, const KeyedRowSink& sink, Progress& progress) {
  const SqliteWatch watch(*handle_, progress);
  std::string sql =
      "SELECT " + columnList(read.columns) + " FROM " + quoteIdentifier(read.table->name.name) + " WHERE ";
  const bool wholeRecord = read.keyColumns.size() > 1 && read.keyColumns == read.table->identity.columns &&
                           read.table->identity.kind == Identity::Kind::WholeRecord;
  for (std::size_t k = 0; k < read.keyColumns.size(); ++k) {
    const bool needsIs = wholeRecord || anyNull((*read.keys)[k], read.rows);
    if (k > 0) sql += " AND ";
    sql += quoteIdentifier(read.keyColumns[k]) + (needsIs ? " IS ?" : " = ?") + std::to_string(k + 1);
  }
  sql += " LIMIT " + std::to_string(std::min<std::uint64_t>(read.mostPerKey, INT64_MAX));
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
