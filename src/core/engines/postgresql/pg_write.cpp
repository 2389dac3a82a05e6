// The writing half of the PostgreSQL engine: many records in one statement, halved where the server refuses.
#include <algorithm>

#include "core/engines/postgresql/pg_session.h"
#include "core/engines/postgresql/pg_types.h"

namespace iterandum {

namespace {

constexpr std::size_t kMostRows = 10000;
constexpr std::size_t kMostBytes = 16U << 20U;

// One statement for a batch: its text and its arrays.
class BatchStatement {
 public:
  BatchStatement(const WriteStep& step, std::span<const std::uint32_t> rows) : step_(step), rows_(rows) {}

  std::string build(PgParameters& parameters) {
    const std::string table = pgTable(*step_.table);
    for (std::size_t c = 0; c < step_.columns.size(); ++c) addArray("v", c, *step_.values[c], parameters);
    for (std::size_t k = 0; k < step_.keys.size(); ++k) addArray("k", k, *step_.keys[k], parameters);
    const std::string source = "unnest(" + arrays_ + ") WITH ORDINALITY AS u(" + names_ + "ord)";
    if (step_.kind == WriteStep::Kind::Insert) return insert(table, source);
    const std::string condition = pgKeyCondition(*step_.table, step_.keyColumns, mayBeNull_);
    if (step_.kind == WriteStep::Kind::Remove)
      return "DELETE FROM " + table + " AS t USING " + source + " WHERE " + condition;
    std::string set;
    for (std::size_t c = 0; c < step_.columns.size(); ++c) {
      set += (c ? ", " : "") + pgIdentifier(step_.columns[c]) + " = " + typed(c);
    }
    return "UPDATE " + table + " AS t SET " + set + " FROM " + source + " WHERE " + condition;
  }

 private:
  void addArray(const char* letter, std::size_t number, const ValueColumn& values, PgParameters& parameters) {
    PgArray array;
    bool anyNull = false;
    for (const std::uint32_t row : rows_) {
      const auto text = pgText(values.at(row));
      anyNull = anyNull || !text;
      array.add(text);
    }
    if (*letter == 'k') mayBeNull_.push_back(anyNull);
    parameters.emplace_back(array.take());
    arrays_ += (arrays_.empty() ? "$" : ", $") + std::to_string(parameters.size()) + "::text[]";
    names_ += letter + std::to_string(number + 1) + ", ";
  }

  [[nodiscard]] std::string typed(std::size_t column) const {
    const Column* description = step_.table->column(step_.columns[column]);
    return "u.v" + std::to_string(column + 1) + "::" + (description == nullptr ? "text" : description->engineType);
  }

  [[nodiscard]] std::string insert(const std::string& table, const std::string& source) const {
    std::string names;
    std::string values;
    for (std::size_t c = 0; c < step_.columns.size(); ++c) {
      names += (c ? ", " : "") + pgIdentifier(step_.columns[c]);
      values += (c ? ", " : "") + typed(c);
    }
    std::string sql = "INSERT INTO " + table;
    // A key that comes back from a receipt is given, whatever the identity column says.
    sql += step_.columns.empty()
               ? " DEFAULT VALUES"
               : " (" + names + ") OVERRIDING SYSTEM VALUE SELECT " + values + " FROM " + source + " ORDER BY u.ord";
    if (step_.returning.empty()) return sql;
    std::string returning;
    for (const std::string& c : step_.returning) returning += (returning.empty() ? "" : ", ") + pgIdentifier(c);
    return sql + " RETURNING " + returning;
  }

  const WriteStep& step_;
  std::span<const std::uint32_t> rows_;
  std::string arrays_;
  std::string names_;
  std::vector<bool> mayBeNull_;
};

Error droppedSilently(const WriteStep& step, std::int64_t changed) {
  const std::string table = displayName(step.table->name);
  if (changed == 0) {
    return {ErrorKind::Refused,
            "the database took the write and dropped it without a word (a trigger or a policy may have asked for it); "
            "nothing changed in " +
                table};
  }
  return {ErrorKind::Refused,
          "the write touched " + std::to_string(changed) + " records of " + table + " where one was meant"};
}

// As many rows as one statement takes.
std::size_t batchSize(const WriteStep& step, std::span<const std::uint32_t> rows) {
  if (step.kind == WriteStep::Kind::Insert && step.columns.empty()) return 1;
  std::size_t bytes = 0;
  std::size_t count = 0;
  for (const std::uint32_t row : rows.first(std::min(rows.size(), kMostRows))) {
    for (const ValueColumn* v : step.values) bytes += v->at(row).heapBytes() + 24;
    for (const ValueColumn* k : step.keys) bytes += k->at(row).heapBytes() + 24;
    if (count > 0 && bytes > kMostBytes) break;
    ++count;
  }
  return std::max<std::size_t>(1, count);
}

// An addition that leaves a generated key to the database must not name the column at all. Gives the step without the
// columns for which `row` leaves the value to the database.
WriteStep withoutGenerated(const WriteStep& step, const std::vector<bool>& left) {
  WriteStep out = step;
  out.columns.clear();
  out.values.clear();
  for (std::size_t c = 0; c < step.columns.size(); ++c) {
    if (left[c]) continue;
    out.columns.push_back(step.columns[c]);
    out.values.push_back(step.values[c]);
  }
  return out;
}

std::vector<bool> leftToDatabase(const WriteStep& step, std::uint32_t row) {
  std::vector<bool> out;
  for (std::size_t c = 0; c < step.columns.size(); ++c) {
    const Column* column = step.table->column(step.columns[c]);
    out.push_back(column != nullptr && column->generatedKey && step.values[c]->at(row).isNull());
  }
  return out;
}

}  // namespace

Status PgSession::write(const WriteStep& step, const WriteReport& report, Progress& progress) {
  if (step.kind == WriteStep::Kind::Insert) {
    // Rows that leave the same columns to the database go together.
    std::vector<std::pair<std::vector<bool>, std::vector<std::uint32_t>>> groups;
    for (const std::uint32_t row : step.rows) {
      std::vector<bool> left = leftToDatabase(step, row);
      if (groups.empty() || groups.back().first != left) groups.push_back({std::move(left), {}});
      groups.back().second.push_back(row);
    }
    if (groups.size() > 1 || (groups.size() == 1 && std::count(groups[0].first.begin(), groups[0].first.end(), true))) {
      for (const auto& [left, rows] : groups) {
        WriteStep part = withoutGenerated(step, left);
        part.rows = rows;
        for (std::size_t at = 0; at < rows.size();) {
          const std::size_t size = batchSize(part, part.rows.subspan(at));
          ITERANDUM_TRY(writeBatch(part, part.rows.subspan(at, size), report, progress));
          at += size;
        }
      }
      return {};
    }
  } else {
    ITERANDUM_TRY(chooseJoins(*step.table, step.keyColumns, progress));
  }
  for (std::size_t at = 0; at < step.rows.size();) {
    const std::size_t size = batchSize(step, step.rows.subspan(at));
    ITERANDUM_TRY(writeBatch(step, step.rows.subspan(at, size), report, progress));
    at += size;
    if (!progress.step("writing", at, step.rows.size())) return fail(ErrorKind::Cancelled, "it was stopped");
  }
  return {};
}

Status PgSession::writeBatch(const WriteStep& step, std::span<const std::uint32_t> rows, const WriteReport& report,
                             Progress& progress) {
  if (rows.empty()) return {};
  PgParameters parameters;
  const std::string sql = BatchStatement(step, rows).build(parameters);
  ITERANDUM_TRY(handle_->run("SAVEPOINT iterandum", progress));
  auto result = handle_->query(sql, parameters, progress);
  const auto touched =
      result ? (step.returning.empty() || step.kind != WriteStep::Kind::Insert ? result->affected() : result->rows())
             : 0;
  if (result && (touched == static_cast<std::int64_t>(rows.size()) || step.table->writesNotCounted)) {
    ITERANDUM_TRY(handle_->run("RELEASE iterandum", progress));
    if (step.kind != WriteStep::Kind::Insert || !report.returned) return {};
    for (std::size_t i = 0; i < rows.size() && static_cast<int>(i) < result->rows(); ++i) {
      ValueTuple returned;
      for (int c = 0; c < result->columns(); ++c) {
        const int row = static_cast<int>(i);
        returned.push_back(result->isNull(row, c) ? Value() : pgValue(result->type(c), result->text(row, c)));
      }
      report.returned(rows[i], std::move(returned));
    }
    return {};
  }
  if (!result) {
    Error& error = result.error();
    if (error.kind == ErrorKind::LockTimeout) return fail(lockTimedOut(std::move(error), *step.table));
    const bool ofTheRows = error.kind == ErrorKind::Constraint || error.kind == ErrorKind::Refused;
    if (!ofTheRows || !handle_->isAlive()) return fail(std::move(error));
  }
  ITERANDUM_TRY(handle_->run("ROLLBACK TO iterandum; RELEASE iterandum", progress));
  if (rows.size() == 1) {
    report.failed(rows[0], result ? droppedSilently(step, touched) : result.error());
    return {};
  }
  const std::size_t half = rows.size() / 2;
  ITERANDUM_TRY(writeBatch(step, rows.first(half), report, progress));
  return writeBatch(step, rows.subspan(half), report, progress);
}

}  // namespace iterandum
