// The reading half of the PostgreSQL engine: queries of a scope, records by key, rules.
#include <algorithm>

#include "core/engines/common/condition_sql.h"
#include "core/engines/common/lender_joins.h"
#include "core/engines/postgresql/pg_session.h"
#include "core/engines/postgresql/pg_types.h"
#include "core/value/small_letters.h"

namespace iterandum {
namespace {

using Op = Condition::Op;

// So few records are taken at once, which costs less than one by one, and not much memory.
constexpr std::size_t kFew = 200;
constexpr std::size_t kScreen = 500;  // the same where records are read on
constexpr const char* kLook = "BEGIN ISOLATION LEVEL READ COMMITTED READ ONLY";

std::string columnList(const std::vector<std::string>& columns, const std::string& prefix) {
  std::string out;
  for (const std::string& c : columns) out += (out.empty() ? "" : ", ") + prefix + pgIdentifier(c);
  return out.empty() ? "1" : out;
}

class PgCondition : public ConditionSql {
 public:
  PgCondition(const Table& table, bool knowsUnicode, PgParameters& parameters)
      : ConditionSql(table), knowsUnicode_(knowsUnicode), parameters_(parameters) {}

 protected:
  [[nodiscard]] std::string identifier(const std::string& name) const override { return pgIdentifier(name); }
  [[nodiscard]] std::string tableName(const Table& table) const override { return pgTable(table); }
  [[nodiscard]] std::string operand(const std::string& name, const Value& value) override {
    const Column* column = describe(name);
    // A number that the column could not hold is compared as the number that it is.
    const bool number =
        column != nullptr && value.isNumber() &&
        (column->type == TypeClass::Decimal || (column->type == TypeClass::Integer && !fits(*column, value)));
    return parameter(value, column == nullptr ? "text" : (number ? "numeric" : column->engineType));
  }
  [[nodiscard]] std::string textOperand(const std::string& text) override {
    return parameter(Value::text(text), "text");
  }
  [[nodiscard]] std::string asText(const std::string& expression) override { return expression + "::text"; }

 public:
  // Small letters by Unicode, which not every collation of a database knows of, and then by code points. Letter by
  // letter: the server would make a word's last Σ another letter than the others, and two of İ.
  [[nodiscard]] std::string comparableText(const std::string& expression, bool exactCase,
                                           const std::optional<std::string>& wanted) override {
    if (exactCase) return expression + " COLLATE \"C\"";
    if (!knowsUnicode_) return "lower(" + expression + ") COLLATE \"C\"";
    const std::string letters =
        needsCare(wanted) ? "translate(" + expression + " COLLATE \"C\", 'Σςİ', 'σσi')" : expression;
    return "lower(" + letters + " COLLATE \"und-x-icu\") COLLATE \"C\"";
  }

 protected:
  [[nodiscard]] std::string contains(const std::string& text, const std::string& part) override {
    return "strpos(" + text + ", " + part + ") > 0";
  }
  [[nodiscard]] std::string startsWith(const std::string& text, const std::string& part) override {
    return "strpos(" + text + ", " + part + ") = 1";
  }
  [[nodiscard]] std::string endsWith(const std::string& text, const std::string& part) override {
    return "right(" + text + ", length(" + part + ")) = " + part;
  }
  [[nodiscard]] std::string like(const std::string& text, const std::string& pattern, bool exactCase) override {
    return text + " ~~ " + comparableText(textOperand(likePattern(pattern)), exactCase, pattern);
  }
  // As arrays: the server plans them like a table.
  [[nodiscard]] std::string amongKeys(const Table& table, const std::vector<std::string>& columns,
                                      const std::vector<ValueTuple>& keys) override {
    const std::vector<std::string> names = table.writeKeyColumns();
    std::string own;
    std::string arrays;
    std::string aliases;
    for (std::size_t c = 0; c < names.size(); ++c) {
      PgArray array;
      for (const ValueTuple& key : keys) array.add(pgText(key[c]));
      parameters_.emplace_back(array.take());
      const Column* column = table.column(names[c]);
      const bool byText = column == nullptr || isComparedAsText(*column);
      const std::string alias = "k" + std::to_string(c + 1);
      own += (c > 0 ? " AND " : "") + columns[c] + (byText ? "::text = " : " = ") + "u." + alias +
             "::" + (byText ? "text" : column->engineType);
      arrays += (c > 0 ? ", $" : "$") + std::to_string(parameters_.size()) + "::text[]";
      aliases += (c > 0 ? ", " : "") + alias;
    }
    return "EXISTS (SELECT 1 FROM unnest(" + arrays + ") AS u(" + aliases + ") WHERE " + own + ")";
  }
  [[nodiscard]] std::string equal(const std::string& name, const Value& value) override {
    const Column* column = describe(name);
    if (column != nullptr && (hasNoEquality(*column) || column->comparedAsText)) {
      return own(name) + "::text COLLATE \"C\" = " + parameter(value, "text");
    }
    std::string found = own(name) + " = " + operand(name, value);
    if (column == nullptr || column->type != TypeClass::Text || column->foundExactly) return found;
    if (column->paddedWithBlanks) return found;  // blanks at the end are no part of such a text
    // The first half finds it through an index, the second tells apart what a collation takes for equal.
    return found + " AND " + own(name) + "::text COLLATE \"C\" = " + parameter(value, "text");
  }
  // As one array: there may be more values than a statement takes parameters.
  [[nodiscard]] std::string oneOf(const std::string& name, const std::vector<Value>& values) override {
    const Column* column = describe(name);
    const bool plain = column != nullptr && !hasNoEquality(*column) && !column->comparedAsText &&
                       (column->type == TypeClass::Text || column->type == TypeClass::Integer) &&
                       !column->paddedWithBlanks && std::all_of(values.begin(), values.end(), [&](const Value& v) {
                         return column->type == TypeClass::Text || fits(*column, v);
                       });
    if (!plain) return ConditionSql::oneOf(name, values);
    PgArray array;
    for (const Value& v : values) array.add(pgText(v));
    parameters_.emplace_back(array.take());
    const std::string all = "$" + std::to_string(parameters_.size());
    // An array goes by its elements' type, without the length that the column has.
    const std::string type = column->type == TypeClass::Text ? "text" : column->engineType;
    std::string sql = own(name) + " = ANY (" + all + "::" + type + "[])";
    if (column->type == TypeClass::Text && !column->foundExactly) {
      sql += " AND " + own(name) + "::text COLLATE \"C\" = ANY (" + all + "::text[])";
    }
    return sql;
  }

 private:
  static bool fits(const Column& column, const Value& value) {
    if (value.kind() != Value::Kind::Integer) return false;
    return (!column.minInteger || value.asInteger() >= *column.minInteger) &&
           (!column.maxInteger || value.asInteger() <= *column.maxInteger);
  }
  // Only where such a letter is looked for does it matter how the others are written. Any *?* stands for one letter.
  static bool needsCare(const std::optional<std::string>& wanted) {
    if (!wanted) return true;
    const std::string small = smallLetters(*wanted);
    return small.find_first_of("i?") != std::string::npos || small.find("σ") != std::string::npos ||
           small.find("\xCC\x87") != std::string::npos;
  }
  std::string parameter(const Value& v, const std::string& type) {
    parameters_.push_back(pgText(v));
    return "$" + std::to_string(parameters_.size()) + "::" + type;
  }

  bool knowsUnicode_;
  PgParameters& parameters_;
};

// What "9" and "10" inside a text are brought to, so that they go by their size: twenty digits each.
std::string naturalKey(const std::string& text) {
  return "regexp_replace(regexp_replace(" + text +
         ", '(\\d+)', '00000000000000000000\\1', 'g'), '0*(\\d{20})', '\\1', 'g')";
}

class PgQuery {
 public:
  PgQuery(const Query& query, bool knowsUnicode)
      : query_(query), where_(*query.table, knowsUnicode, parameters_), joins_(pgIdentifier, pgTable) {}
  PgQuery(const PgQuery&) = delete;
  PgQuery& operator=(const PgQuery&) = delete;
  ~PgQuery() = default;

  [[nodiscard]] std::string selectList() {
    std::string out;
    for (const std::string& name : query_.columns) out += (out.empty() ? "" : ", ") + joins_.column({}, name);
    for (const ColumnPath& path : query_.borrowed)
      out += (out.empty() ? "" : ", ") + joins_.column(path.steps, path.column);
    return out.empty() ? "1" : out;
  }

  [[nodiscard]] std::string orderBy() {
    std::string out;
    std::vector<std::string> used;
    const auto unused = [&](const std::string& column) {
      if (std::find(used.begin(), used.end(), column) != used.end()) return false;
      used.push_back(column);
      return true;
    };
    for (const SortKey& key : query_.order) {
      const Column* column = ColumnPath{key.steps, key.column}.owner(*query_.table).column(key.column);
      const std::string name = joins_.column(key.steps, key.column);
      if (column == nullptr || !unused(name)) continue;
      // Types without an order of their own go by their text. NULL comes first, as it does everywhere here.
      const bool byText = column->type == TypeClass::Other && column->allowed.empty();
      const std::string value = byText || key.natural ? name + "::text" : name;
      out += (out.empty() ? " ORDER BY " : ", ") +
             (key.natural ? naturalKey(where_.comparableText(value, false, std::nullopt)) : value) +
             (key.descending ? " DESC NULLS LAST" : " NULLS FIRST");
    }
    if (query_.table->identity.kind == Identity::Kind::WholeRecord) return out;
    for (const std::string& name : query_.table->identity.columns) {
      const std::string own = joins_.column({}, name);
      if (unused(own)) out += (out.empty() ? " ORDER BY " : ", ") + own;  // never NULL: the index serves as it is
    }
    return out;
  }

  [[nodiscard]] std::string column(const ColumnPath& path) { return joins_.column(path.steps, path.column); }

  // To be asked for last: it joins what the other parts borrow from.
  [[nodiscard]] std::string fromWhere() {
    std::string out = " FROM " + pgTable(*query_.table) + " AS " + kQueryAlias + joins_.text();
    if (query_.where.op != Op::All) out += " WHERE " + where_.text(query_.where);
    return out;
  }

  [[nodiscard]] const PgParameters& parameters() const { return parameters_; }

 private:
  const Query& query_;
  PgParameters parameters_;
  PgCondition where_;
  LenderJoins joins_;
};

ValueTuple rowOf(const PgResult& result, int row, int firstColumn) {
  ValueTuple out;
  out.reserve(static_cast<std::size_t>(result.columns() - firstColumn));
  for (int c = firstColumn; c < result.columns(); ++c) {
    out.push_back(result.isNull(row, c) ? Value() : pgValue(result.type(c), result.text(row, c)));
  }
  return out;
}

// A value that the server cannot read as one of the column's type is a mistake in what was asked.
Error readingFailed(const Query& query, Error error, const char* what) {
  const bool ofValue = error.kind == ErrorKind::Constraint && error.constraint == ConstraintKind::DataType;
  if (ofValue && query.where.op != Op::All) {
    error.kind = ErrorKind::InvalidInput;
    error.message =
        "a value that is asked for in " + displayName(query.table->name) + " is none to the database: " + error.message;
  } else {
    error.message = "cannot " + std::string(what) + " " + displayName(query.table->name) + ": " + error.message;
  }
  return error;
}

}  // namespace

std::string pgTable(const Table& table) {
  // With its schema always: a trigger may move the search path, and a temporary table hide another one.
  const std::string& schema = table.homeSchema.empty() ? table.name.schema : table.homeSchema;
  return (schema.empty() ? "" : pgIdentifier(schema) + ".") + pgIdentifier(table.name.name);
}

Status PgSession::select(const Query& query, const RowSink& sink, Progress& progress) {
  PgQuery parts(query, knowsUnicode_);
  const std::string columns = parts.selectList();
  const std::string order = parts.orderBy();
  std::string sql = "SELECT " + columns + parts.fromWhere() + order;
  if (query.limit) sql += " LIMIT " + std::to_string(std::min<std::uint64_t>(*query.limit, INT64_MAX));
  const bool bare = query.columns.empty() && query.borrowed.empty();
  sql = pgHardened(sql);
  const auto take = [&](const PgResult& rows, int row) { return sink(bare ? ValueTuple() : rowOf(rows, row, 0)); };
  Status status;
  if (query.limit && *query.limit <= kScreen) {
    auto rows = look(sql, parts.parameters(), progress);
    for (int r = 0; rows && r < rows->rows() && take(*rows, r);) ++r;
    if (!rows) status = fail(std::move(rows.error()));
  } else {
    status = lookOn(
        sql, parts.parameters(), [&](const PgResult& row) { return take(row, 0); }, progress);
  }
  if (status) return {};
  return fail(readingFailed(query, std::move(status.error()), "read"));
}

Status PgSession::distinctValues(const Query& query, const ColumnPath& column, std::uint64_t most,
                                 const ValueCountSink& sink, Progress& progress) {
  PgQuery parts(query, knowsUnicode_);
  const Column* description = column.owner(*query.table).column(column.column);
  const bool byText = description == nullptr || isComparedAsText(*description);
  const std::string value = parts.column(column) + (byText ? "::text" : "");
  const std::string sql = "SELECT " + value + ", count(*)" + parts.fromWhere() +
                          " GROUP BY 1 ORDER BY 2 DESC, 1 NULLS FIRST LIMIT " +
                          std::to_string(std::min<std::uint64_t>(most, INT64_MAX));
  Status status = lookOn(
      pgHardened(sql), parts.parameters(),
      [&](const PgResult& row) {
        return sink(std::move(rowOf(row, 0, 0)[0]), static_cast<std::uint64_t>(row.integer(0, 1)));
      },
      progress);
  if (status) return {};
  return fail(readingFailed(query, std::move(status.error()), "read"));
}

Result<std::uint64_t> PgSession::count(const Query& query, Progress& progress) {
  PgQuery parts(query, knowsUnicode_);
  auto rows = look(pgHardened("SELECT count(*)" + parts.fromWhere()), parts.parameters(), progress);
  if (!rows) return fail(readingFailed(query, std::move(rows.error()), "count"));
  return static_cast<std::uint64_t>(rows->integer(0, 0));
}

// --- by key ----------------------------------------------------------------------------------------------------------

std::string pgKeyCondition(const Table& table, const std::vector<std::string>& keyColumns,
                           const std::vector<bool>& mayBeNull) {
  std::string out;
  const bool whole = table.identity.kind == Identity::Kind::WholeRecord && keyColumns == table.identity.columns;
  for (std::size_t k = 0; k < keyColumns.size(); ++k) {
    const Column* column = table.column(keyColumns[k]);
    const std::string key = "u.k" + std::to_string(k + 1);
    const std::string own = "t." + pgIdentifier(keyColumns[k]);
    if (k > 0) out += " AND ";
    const bool byText =
        column == nullptr || hasNoEquality(*column) || column->comparedAsText || (whole && isComparedAsText(*column));
    const std::string equal =
        byText ? own + "::text = " + key + "::text" : own + " = " + key + "::" + column->engineType;
    out += whole || mayBeNull[k] ? "(" + equal + " OR (" + own + " IS NULL AND " + key + " IS NULL))" : equal;
  }
  return out;
}

Status PgSession::chooseJoins(const Table& table, const std::vector<std::string>& keyColumns, Progress& progress) {
  if (!inTransaction()) return {};
  std::vector<std::size_t> columns;
  for (const std::string& name : keyColumns) {
    if (const auto c = table.columnIndex(name)) columns.push_back(*c);
  }
  const bool wantOff = table.canFindBy(columns);
  if (wantOff == joinsOff_) return {};
  joinsOff_ = wantOff;
  const std::string value = wantOff ? "off" : "on";
  return handle_->run("SET LOCAL enable_hashjoin = " + value + "; SET LOCAL enable_mergejoin = " + value, progress);
}

Status PgSession::findByKeys(const KeyRead& read, const KeyedRowSink& sink, Progress& progress) {
  ITERANDUM_TRY(chooseJoins(*read.table, read.keyColumns, progress));
  // What no record can have is not asked for.
  std::vector<std::uint32_t> rows;
  rows.reserve(read.rows.size());
  bool sure = true;
  for (const std::uint32_t row : read.rows) {
    bool possible = true;
    for (std::size_t k = 0; k < read.keyColumns.size(); ++k) {
      const PgFit fit = pgFit(read.table->column(read.keyColumns[k]), (*read.keys)[k].at(row));
      possible = possible && fit != PgFit::No;
      sure = sure && fit == PgFit::Yes;
    }
    if (possible) rows.push_back(row);
  }
  for (std::size_t at = 0; at < rows.size(); at += kPgMostRows) {
    const auto part = std::span<const std::uint32_t>(rows).subspan(at, std::min(kPgMostRows, rows.size() - at));
    ITERANDUM_TRY(sure ? readBatch(read, part, sink, progress) : readUnsure(read, part, sink, progress));
    if (!progress.step("reading records", at, rows.size())) return fail(ErrorKind::Cancelled, "it was stopped");
  }
  return {};
}

// A key that the server cannot read as a value of its column is told from the rest by halving.
Status PgSession::readUnsure(const KeyRead& read, std::span<const std::uint32_t> rows, const KeyedRowSink& sink,
                             Progress& progress) {
  if (rows.empty()) return {};
  const bool inside = inTransaction();
  if (inside) ITERANDUM_TRY(handle_->run("SAVEPOINT iterandum_read", progress));
  // Handed on when all is well: a batch that fails half-way is read again.
  std::vector<std::pair<std::size_t, ValueTuple>> records;
  Status status = readBatch(
      read, rows, [&](std::size_t row, ValueTuple&& record) { records.emplace_back(row, std::move(record)); },
      progress);
  const bool ofTheKeys = !status && status.error().kind == ErrorKind::Constraint;
  if (!status && !ofTheKeys) return status;
  if (inside) {
    ITERANDUM_TRY(handle_->run(status ? "RELEASE iterandum_read" : "ROLLBACK TO iterandum_read; RELEASE iterandum_read",
                               progress));
  }
  if (status) {
    for (auto& [row, record] : records) sink(row, std::move(record));
  }
  if (status || rows.size() == 1) return {};
  ITERANDUM_TRY(readUnsure(read, rows.first(rows.size() / 2), sink, progress));
  return readUnsure(read, rows.subspan(rows.size() / 2), sink, progress);
}

Status PgSession::readBatch(const KeyRead& read, std::span<const std::uint32_t> rows, const KeyedRowSink& sink,
                            Progress& progress) {
  PgParameters parameters;
  std::string arrays;
  std::string names;
  std::vector<bool> mayBeNull;
  for (std::size_t k = 0; k < read.keyColumns.size(); ++k) {
    PgArray array;
    mayBeNull.push_back(false);
    for (const std::uint32_t row : rows) {
      auto text = pgText((*read.keys)[k].at(row));
      if (!text) mayBeNull.back() = true;
      array.add(text);
    }
    parameters.emplace_back(array.take());
    arrays += (k ? ", $" : "$") + std::to_string(k + 1) + "::" + pgArrayType(read.table->column(read.keyColumns[k]));
    names += "k" + std::to_string(k + 1) + ", ";
  }
  const std::string condition = pgKeyCondition(*read.table, read.keyColumns, mayBeNull);
  const bool lock = read.lock && inTransaction() && read.table->kind == TableKind::Table;
  std::string sql = "SELECT u.ord, " + columnList(read.columns, "t.") + " FROM unnest(" + arrays +
                    ") WITH ORDINALITY AS u(" + names + "ord)";
  if (lock) {
    // A lock cannot be taken below a limit for each key; identities find one record anyway.
    sql += " JOIN " + pgTable(*read.table) + " AS t ON " + condition + " ORDER BY u.ord FOR UPDATE OF t";
  } else {
    sql += " CROSS JOIN LATERAL (SELECT * FROM " + pgTable(*read.table) + " AS t WHERE " + condition + " LIMIT " +
           std::to_string(std::min<std::uint64_t>(read.mostPerKey, INT64_MAX)) + ") AS t";
  }
  sql = pgHardened(sql);
  const auto handOver = [&](const PgResult& result) {
    for (int r = 0; r < result.rows(); ++r) {
      const auto at = static_cast<std::size_t>(result.integer(r, 0) - 1);
      if (at < rows.size()) sink(rows[at], read.columns.empty() ? ValueTuple() : rowOf(result, r, 1));
    }
    return true;
  };
  Status status;
  if (rows.size() <= kFew && read.mostPerKey <= kFew) {
    auto all = look(sql, parameters, progress);
    if (all) handOver(*all);
    if (!all) status = fail(std::move(all.error()));
  } else {
    status = lookOn(sql, parameters, handOver, progress);
  }
  if (status) return {};
  if (status.error().kind == ErrorKind::LockTimeout) return fail(lockTimedOut(std::move(status.error()), *read.table));
  status.error().message = "cannot read " + displayName(read.table->name) + ": " + status.error().message;
  return status;
}

// --- looking ---------------------------------------------------------------------------------------------------------

// Outside of a transaction of ours every question has one of its own that can write nothing, whatever a function in a
// view does. In one round trip where the answer is small.
Result<PgResult> PgSession::look(const std::string& sql, const PgParameters& parameters, Progress& progress) {
  if (inTransaction()) return handle_->query(sql, parameters, progress);
  std::vector<PgHandle::Command> commands = {{kLook, {}}};
  if (!handle_->opening().empty()) commands.push_back({handle_->opening(), {}});
  const std::size_t asked = commands.size();
  commands.push_back({sql, parameters});
  commands.push_back({"COMMIT", {}});
  auto results = handle_->pipeline(commands, progress);
  if (results) return std::move((*results)[asked]);
  rollback();
  return fail(std::move(results.error()));
}

Status PgSession::lookOn(const std::string& sql, const PgParameters& parameters, const PgRowSink& sink,
                         Progress& progress) {
  if (inTransaction()) return handle_->stream(sql, parameters, sink, progress);
  ITERANDUM_TRY(handle_->run(std::string(kLook) + "; " + handle_->opening(), progress));
  Status status = handle_->stream(sql, parameters, sink, progress);
  rollback();
  return status;
}

// --- rules -----------------------------------------------------------------------------------------------------------

Status PgSession::brokenRules(const Table& table, const std::vector<std::string>& columns,
                              const std::vector<ValueTuple>& records, const BrokenRuleSink& sink) {
  if (records.empty()) return {};
  Progress progress;
  PgParameters parameters;
  std::string arrays;
  std::string names;
  std::string typed;
  for (std::size_t c = 0; c < columns.size(); ++c) {
    PgArray array;
    for (const ValueTuple& record : records) array.add(pgText(record[c]));
    parameters.emplace_back(array.take());
    const std::string number = std::to_string(c + 1);
    arrays += (c ? ", $" : "$") + number + "::text[]";
    names += "v" + number + ", ";
    typed += "v" + number + "::" + table.column(columns[c])->engineType + " AS " + pgIdentifier(columns[c]) + ", ";
  }
  const bool inside = inTransaction();
  for (const CheckRule& rule : table.checks) {
    if (rule.understood) continue;
    if (inside) ITERANDUM_TRY(handle_->run("SAVEPOINT iterandum_rule", progress));
    // NOT, not IS FALSE: a rule that is NULL holds.
    auto broken = look(pgHardened("SELECT iterandum_ord FROM (SELECT " + typed + "ord AS iterandum_ord FROM unnest(" +
                                  arrays + ") WITH ORDINALITY AS u(" + names + "ord)) AS " +
                                  pgIdentifier(table.name.name) + " WHERE NOT (" + rule.expression + ")"),
                       parameters, progress);
    if (inside) {
      ITERANDUM_TRY(handle_->run(
          broken ? "RELEASE iterandum_rule" : "ROLLBACK TO iterandum_rule; RELEASE iterandum_rule", progress));
    }
    if (!broken) {
      if (!handle_->isAlive()) return fail(std::move(broken.error()));
      continue;  // it cannot be judged by itself; the rehearsal will tell
    }
    for (int r = 0; r < broken->rows(); ++r) sink(static_cast<std::size_t>(broken->integer(r, 0) - 1), rule);
  }
  return {};
}

}  // namespace iterandum
