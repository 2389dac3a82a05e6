// The reading half of the MariaDB engine: queries of a scope, records by key, rules.
#include <algorithm>

#include "core/engines/common/condition_sql.h"
#include "core/engines/common/lender_joins.h"
#include "core/engines/mariadb/maria_batch.h"
#include "core/engines/mariadb/maria_session.h"
#include "core/value/small_letters.h"

namespace iterandum {
namespace {

using Op = Condition::Op;

constexpr std::size_t kRoughlyEach = 24;  // bytes of a value besides what it holds on the heap
// So many are read at once.
constexpr std::size_t kScreen = 500;

// The character set of a column of texts, which its type says.
std::string charsetOf(const Column& column) {
  constexpr std::string_view kBefore = " character set ";
  const std::string tail = column.engineType.substr(column.engineType.find(kBefore) + kBefore.size());
  return tail.substr(0, tail.find(' '));
}

// A text as it is, so that equal means equal byte for byte.
std::string exactText(const std::string& expression) {
  return "CONVERT(" + expression + " USING utf8mb4) COLLATE utf8mb4_nopad_bin";
}

class MariaCondition : public ConditionSql {
 public:
  MariaCondition(const Table& table, const MariaHandle& handle) : ConditionSql(table), handle_(handle) {}

 protected:
  [[nodiscard]] std::string identifier(const std::string& name) const override { return mariaIdentifier(name); }
  [[nodiscard]] std::string tableName(const Table& table) const override { return mariaTable(table); }
  [[nodiscard]] std::string operand(const std::string& name, const Value& v) override {
    const Column* column = describe(name);
    if (v.isNull()) return "NULL";
    if (v.kind() == Value::Kind::Real && column != nullptr && mariaBaseType(*column) == "float") {
      return "CAST(" + mariaLiteral(v) + " AS FLOAT)";
    }
    if (v.isNumber() || v.kind() == Value::Kind::Bytes) return mariaLiteral(v);
    return handle_.quoted(canonicalText(v));
  }
  [[nodiscard]] std::string textOperand(const std::string& text) override { return handle_.quoted(text); }

 public:
  // Letter by letter: a word's last ς is the σ of everywhere else.
  [[nodiscard]] std::string comparableText(const std::string& expression, bool exactCase,
                                           const std::optional<std::string>& wanted) override {
    if (exactCase) return exactText(expression);
    const std::string small = "LOWER(" + exactText(expression) + ")";
    const bool sigma = !wanted || smallLetters(*wanted).find("σ") != std::string::npos;
    return sigma ? "REPLACE(" + small + ", 'ς', 'σ')" : small;
  }

 protected:
  [[nodiscard]] std::string contains(const std::string& text, const std::string& part) override {
    return "LOCATE(" + part + ", " + text + ") > 0";
  }
  [[nodiscard]] std::string startsWith(const std::string& text, const std::string& part) override {
    return "LOCATE(" + part + ", " + text + ") = 1";
  }
  [[nodiscard]] std::string endsWith(const std::string& text, const std::string& part) override {
    return "RIGHT(" + text + ", CHAR_LENGTH(" + part + ")) = " + part;
  }
  [[nodiscard]] std::string like(const std::string& text, const std::string& pattern, bool exactCase) override {
    return text + " LIKE " + comparableText(textOperand(likePattern(pattern)), exactCase, pattern);
  }
  [[nodiscard]] std::string equal(const std::string& name, const Value& v) override {
    const Column* column = describe(name);
    const std::string value = operand(name, v);
    if (column == nullptr || !isMariaText(*column) || v.isNull()) return own(name) + " = " + value;
    // The first half finds it through an index, the second tells case, accents and blanks apart.
    return own(name) + " = " + inCharset(*column, value) + " AND " + exactText(own(name)) + " = " + value;
  }

  [[nodiscard]] std::string oneOf(const std::string& name, const std::vector<Value>& values) override {
    const Column* column = describe(name);
    const bool text = column != nullptr && isMariaText(*column);
    std::string list;
    std::string exact;
    for (const Value& v : values) {
      const std::string value = operand(name, v);
      list += (list.empty() ? "" : ", ") + (text ? inCharset(*column, value) : value);
      if (text) exact += (exact.empty() ? "" : ", ") + value;
    }
    std::string sql = own(name) + " IN (" + list + ")";
    if (text) sql += " AND " + exactText(own(name)) + " IN (" + exact + ")";
    return sql;
  }

 private:
  // In the column's own character set, in which a letter that it does not have becomes another sign; a comparison of
  // the two sets would be refused.
  static std::string inCharset(const Column& column, const std::string& value) {
    const std::string charset = charsetOf(column);
    return charset.starts_with("utf8mb4") ? value : "CONVERT(" + value + " USING " + charset + ")";
  }

  const MariaHandle& handle_;
};

std::vector<const Column*> columnsOf(const Table& table, const std::vector<std::string>& names) {
  std::vector<const Column*> out;
  out.reserve(names.size());
  for (const std::string& name : names) out.push_back(table.column(name));
  return out;
}

std::string selectList(const std::vector<std::string>& names, const std::vector<const Column*>& columns,
                       const std::string& prefix) {
  std::string out;
  for (std::size_t c = 0; c < names.size(); ++c) {
    const std::string expression = prefix + mariaIdentifier(names[c]);
    out += (c > 0 ? ", " : "") + (columns[c] == nullptr ? expression : mariaSelected(*columns[c], expression));
  }
  return out.empty() ? "1" : out;
}

// What "9" and "10" inside a text are brought to, so that they go by their size: twenty digits each.
std::string naturalKey(const std::string& text) {
  return "REGEXP_REPLACE(REGEXP_REPLACE(" + text +
         ", '([0-9]+)', '00000000000000000000\\\\1'), '0*([0-9]{20})', '\\\\1')";
}

class MariaQuery {
 public:
  MariaQuery(const Query& query, const MariaHandle& handle)
      : query_(query), where_(*query.table, handle), joins_(mariaIdentifier, mariaTable) {}
  MariaQuery(const MariaQuery&) = delete;
  MariaQuery& operator=(const MariaQuery&) = delete;
  ~MariaQuery() = default;

  // The columns of the rows that come, null for the row id.
  [[nodiscard]] std::vector<const Column*> columns() const {
    std::vector<const Column*> out = columnsOf(*query_.table, query_.columns);
    for (const ColumnPath& path : query_.borrowed) out.push_back(path.owner(*query_.table).column(path.column));
    return out;
  }

  [[nodiscard]] std::string selectList() {
    std::string out;
    const auto add = [&](const Column* column, const std::string& expression) {
      out += (out.empty() ? "" : ", ") + (column == nullptr ? expression : mariaSelected(*column, expression));
    };
    for (const std::string& name : query_.columns) add(query_.table->column(name), joins_.column({}, name));
    for (const ColumnPath& path : query_.borrowed)
      add(path.owner(*query_.table).column(path.column), joins_.column(path.steps, path.column));
    return out.empty() ? "1" : out;
  }

  [[nodiscard]] std::string orderBy() {
    std::string out;
    std::vector<std::string> used;
    const auto add = [&](const SortKey& key) {
      const Column* column = ColumnPath{key.steps, key.column}.owner(*query_.table).column(key.column);
      const std::string name = joins_.column(key.steps, key.column);
      if (column == nullptr || std::find(used.begin(), used.end(), name) != used.end()) return;
      used.push_back(name);
      out += (out.empty() ? " ORDER BY " : ", ") +
             (key.natural ? naturalKey(where_.comparableText(name, false, std::nullopt)) : name) +
             (key.descending ? " DESC" : "");
    };
    for (const SortKey& key : query_.order) add(key);
    if (query_.table->identity.kind == Identity::Kind::WholeRecord) return out;
    for (const std::string& column : query_.table->identity.columns) add({column});
    return out;
  }

  [[nodiscard]] std::string column(const ColumnPath& path) { return joins_.column(path.steps, path.column); }

  // To be asked for last: it joins what the other parts borrow from.
  [[nodiscard]] std::string fromWhere() {
    std::string sql = " FROM " + mariaTable(*query_.table) + " AS " + kQueryAlias + joins_.text();
    if (query_.where.op != Op::All) sql += " WHERE " + where_.text(query_.where);
    return sql;
  }

 private:
  const Query& query_;
  MariaCondition where_;
  LenderJoins joins_;
};

// What a value of the column is in an expression, as far as the server lets a derived table say that.
std::string castTo(const Column& column, const std::string& expression) {
  const std::string_view base = mariaBaseType(column);
  if (column.type == TypeClass::Integer) {
    return "CAST(" + expression + (column.unsigned64 || column.minInteger == 0 ? " AS UNSIGNED)" : " AS SIGNED)");
  }
  if (base == "decimal")
    return "CAST(" + expression + " AS " + column.engineType.substr(0, column.engineType.find(')') + 1) + ")";
  if (base == "double" || base == "float") return "CAST(" + expression + " AS DOUBLE)";
  if (base == "date") return "CAST(" + expression + " AS DATE)";
  if (base == "datetime" || base == "timestamp") return "CAST(" + expression + " AS DATETIME(6))";
  if (base == "time") return "CAST(" + expression + " AS TIME(6))";
  if (isMariaText(column)) {
    const std::string tail = column.engineType.substr(column.engineType.find(" character set ") + 15);
    const std::size_t blank = tail.find(' ');
    return "CONVERT(" + expression + " USING " + tail.substr(0, blank) + ")" + tail.substr(blank);
  }
  return expression;
}

}  // namespace

std::string mariaTable(const Table& table) {
  // Not with the database of the connection, which nothing changes: a script may be run on another one.
  return (table.name.schema.empty() ? "" : mariaIdentifier(table.name.schema) + ".") + mariaIdentifier(table.name.name);
}

std::string mariaTableBy(const Table& table, const std::vector<std::string>& keyColumns) {
  std::string out = mariaTable(table) + " AS t";
  for (const UniqueKey& key : table.keys) {
    const bool same =
        key.columns.size() == keyColumns.size() &&
        std::all_of(key.columns.begin(), key.columns.end(), [&](std::size_t c) {
          return std::find(keyColumns.begin(), keyColumns.end(), table.columns[c].name) != keyColumns.end();
        });
    if (same) return out + " FORCE INDEX (" + mariaIdentifier(key.name) + ")";
  }
  return out;
}

ValueTuple mariaTuple(const MariaRow& row, unsigned firstColumn, const std::vector<const Column*>& columns) {
  ValueTuple out;
  out.reserve(columns.size());
  for (std::size_t c = 0; c < columns.size(); ++c) {
    const unsigned at = firstColumn + static_cast<unsigned>(c);
    out.push_back(row.isNull(at) ? Value() : mariaValue(row.field(at), row.text(at), columns[c]));
  }
  return out;
}

Status MariaSession::select(const Query& query, const RowSink& sink, Progress& progress) {
  MariaQuery parts(query, *handle_);
  const std::vector<const Column*> columns = parts.columns();
  const std::string list = parts.selectList();
  const std::string order = parts.orderBy();
  std::string sql = "SELECT " + list + parts.fromWhere() + order;
  if (query.limit) sql += " LIMIT " + std::to_string(std::min<std::uint64_t>(*query.limit, INT64_MAX));
  Status done = look(
      sql, [&](const MariaRow& row) { return sink(mariaTuple(row, 0, columns)); }, progress,
      query.limit && *query.limit <= kScreen ? MariaHandle::Rows::Few : MariaHandle::Rows::Many);
  if (done) return {};
  done.error().message = "cannot read " + displayName(query.table->name) + ": " + done.error().message;
  return fail(std::move(done.error()));
}

Status MariaSession::distinctValues(const Query& query, const ColumnPath& column, std::uint64_t most,
                                    const ValueCountSink& sink, Progress& progress) {
  MariaQuery parts(query, *handle_);
  const Column* described = column.owner(*query.table).column(column.column);
  const std::string own = parts.column(column);
  const bool text = described != nullptr && isMariaText(*described);
  const std::string sql = "SELECT " + (described == nullptr ? own : mariaSelected(*described, own)) + ", count(*)" +
                          parts.fromWhere() + " GROUP BY " + (text ? exactText(own) : own) +
                          " ORDER BY 2 DESC, 1 LIMIT " + std::to_string(std::min<std::uint64_t>(most, INT64_MAX));
  Status done = look(
      sql,
      [&](const MariaRow& row) {
        Value value = row.isNull(0) ? Value() : mariaValue(row.field(0), row.text(0), described);
        return sink(std::move(value), static_cast<std::uint64_t>(row.integer(1)));
      },
      progress);
  if (done) return {};
  done.error().message = "cannot read " + displayName(query.table->name) + ": " + done.error().message;
  return fail(std::move(done.error()));
}

Result<std::uint64_t> MariaSession::count(const Query& query, Progress& progress) {
  std::int64_t count = 0;
  Status done = look(
      "SELECT count(*)" + MariaQuery(query, *handle_).fromWhere(),
      [&](const MariaRow& row) {
        count = row.integer(0);
        return true;
      },
      progress);
  if (done) return static_cast<std::uint64_t>(count);
  done.error().message = "cannot count " + displayName(query.table->name) + ": " + done.error().message;
  return fail(std::move(done.error()));
}

// --- by key ----------------------------------------------------------------------------------------------------------

Status MariaSession::findByKeys(const KeyRead& read, const KeyedRowSink& sink, Progress& progress) {
  // By number and by size: the keys of records without a key are the records themselves.
  const std::size_t mostBytes = std::min(kMostBytes, handle_->mostBytes() / 4);
  for (std::size_t at = 0; at < read.rows.size();) {
    std::size_t size = 0;
    for (std::size_t bytes = 0; at + size < read.rows.size() && size < kMostRows; ++size) {
      for (const ValueColumn& key : *read.keys) bytes += key.at(read.rows[at + size]).heapBytes() + kRoughlyEach;
      if (size > 0 && bytes > mostBytes) break;
    }
    ITERANDUM_TRY(readBatch(read, read.rows.subspan(at, size), sink, progress));
    at += size;
    if (!progress.step("reading records", at, read.rows.size())) return fail(ErrorKind::Cancelled, "it was stopped");
  }
  return {};
}

Status MariaSession::readBatch(const KeyRead& read, std::span<const std::uint32_t> rows, const KeyedRowSink& sink,
                               Progress& progress) {
  MariaBatch batch(rows.size());
  for (std::size_t k = 0; k < read.keyColumns.size(); ++k) {
    batch.add(read.table->column(read.keyColumns[k]), "k" + std::to_string(k + 1), true,
              [&](std::size_t r) { return (*read.keys)[k].at(rows[r]); });
  }
  const std::vector<const Column*> columns = columnsOf(*read.table, read.columns);
  std::string sql = "SELECT STRAIGHT_JOIN u.ord, " + selectList(read.columns, columns, "t.") + " FROM " +
                    batch.source(*handle_) + " JOIN " + mariaTableBy(*read.table, read.keyColumns) + " ON " +
                    mariaKeyCondition(*read.table, read.keyColumns, batch, 0);
  const bool lock = read.lock && inTransaction() && read.table->notEditable.empty();
  std::vector<std::uint64_t> found(rows.size(), 0);
  const auto begun = std::chrono::steady_clock::now();
  Status done = look(
      lock ? sql + " FOR UPDATE" : sql,
      [&](const MariaRow& row) {
        const auto at = static_cast<std::size_t>(row.integer(0) - 1);
        if (at < rows.size() && ++found[at] <= read.mostPerKey) {
          sink(rows[at], read.columns.empty() ? ValueTuple() : mariaTuple(row, 1, columns));
        }
        return true;
      },
      progress, rows.size() <= kScreen && read.mostPerKey <= 2 ? MariaHandle::Rows::Few : MariaHandle::Rows::Many);
  if (done) return {};
  Error& error = done.error();
  judge(error, std::chrono::steady_clock::now() - begun);
  // Who may not change the table may not lock its records; that this cannot be written is said as a finding.
  if (error.kind == ErrorKind::NoRight && lock) {
    KeyRead unlocked = read;
    unlocked.lock = false;
    return readBatch(unlocked, rows, sink, progress);
  }
  if (error.kind == ErrorKind::LockTimeout) return fail(lockTimedOut(std::move(error), *read.table));
  error.message = "cannot read " + displayName(read.table->name) + ": " + error.message;
  return fail(std::move(error));
}

// --- rules -----------------------------------------------------------------------------------------------------------

Status MariaSession::brokenRules(const Table& table, const std::vector<std::string>& columns,
                                 const std::vector<ValueTuple>& records, const BrokenRuleSink& sink) {
  if (records.empty()) return {};
  Progress progress;
  MariaBatch batch(records.size());
  std::string typed;
  for (std::size_t c = 0; c < columns.size(); ++c) {
    const Column* column = table.column(columns[c]);
    batch.add(column, "v" + std::to_string(c + 1), false, [&](std::size_t r) { return records[r][c]; });
    const std::string expression = batch.expression(c);
    typed +=
        (column == nullptr ? expression : castTo(*column, expression)) + " AS " + mariaIdentifier(columns[c]) + ", ";
  }
  const std::string source = " FROM (SELECT " + typed + "u.ord AS iterandum_ord FROM " + batch.source(*handle_) +
                             ") AS " + mariaIdentifier(table.name.name);
  for (const CheckRule& rule : table.checks) {
    if (rule.understood) continue;
    // NOT, not IS FALSE: a rule that is NULL holds.
    Status done = look(
        "SELECT iterandum_ord" + source + " WHERE NOT (" + rule.expression + ")",
        [&](const MariaRow& row) {
          sink(static_cast<std::size_t>(row.integer(0) - 1), rule);
          return true;
        },
        progress);
    // A rule that cannot be judged by itself is left to the rehearsal.
    if (!done && !handle_->isAlive()) return fail(std::move(done.error()));
  }
  return {};
}

}  // namespace iterandum
