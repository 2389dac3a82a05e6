// The writing half of the PostgreSQL engine: many records in one statement, halved where the server refuses.
#include "core/engines/common/bulk_write.h"
#include "core/engines/postgresql/pg_session.h"
#include "core/engines/postgresql/pg_types.h"

namespace iterandum {

namespace {

// One statement for a batch: its text and its arrays.
class BatchStatement {
 public:
  BatchStatement(const WriteStep& step, std::span<const std::uint32_t> rows) : step_(step), rows_(rows) {}

  std::string build(PgParameters& parameters) {
    const std::string table = pgTable(*step_.table);
    for (std::size_t c = 0; c < step_.columns.size(); ++c) addArray("v", c, *step_.values[c], parameters);
    for (std::size_t k = 0; k < step_.keys.size(); ++k) addArray("k", k, *step_.keys[k], parameters);
    const std::string source = pgHardened("unnest(" + arrays_ + ") WITH ORDINALITY AS u(" + names_ + "ord)");
    if (step_.kind == WriteStep::Kind::Insert) return insert(table, source);
    const std::string condition = pgHardened(pgKeyCondition(*step_.table, step_.keyColumns, mayBeNull_));
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
    return pgHardened("u.v" + std::to_string(column + 1) +
                      "::" + (description == nullptr ? "text" : description->engineType));
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

class PgBulk : public BulkTarget {
 public:
  explicit PgBulk(PgSession& session) : session_(session), handle_(session.handle()) {}

  Result<BulkOutcome> execute(const WriteStep& step, std::span<const std::uint32_t> rows, Progress& progress) override {
    // All in one round trip: the savepoint of the batch before goes, the one for this batch comes.
    PgHandle::Command batch;
    batch.sql = BatchStatement(step, rows).build(batch.parameters);
    std::vector<PgHandle::Command> commands;
    if (savepoint_) commands.push_back({"RELEASE iterandum", {}});
    commands.push_back({"SAVEPOINT iterandum", {}});
    commands.push_back(std::move(batch));
    const std::size_t at = commands.size() - 1;
    auto results = handle_.pipeline(commands, progress);
    savepoint_ = true;
    if (!results) return fail(std::move(results.error()));
    const PgResult& result = (*results)[at];
    BulkOutcome out;
    const bool returns = step.kind == WriteStep::Kind::Insert && !step.returning.empty();
    out.touched = returns ? result.rows() : result.affected();
    session_.countWritten(step, out.touched);
    for (int r = 0; returns && r < result.rows(); ++r) {
      ValueTuple row;
      for (int c = 0; c < result.columns(); ++c) {
        row.push_back(result.isNull(r, c) ? Value() : pgValue(result.type(c), result.text(r, c)));
      }
      out.returned.push_back(std::move(row));
    }
    return out;
  }
  // The next batch releases it; the end of the transaction does so too.
  Status keep(Progress&) override { return {}; }
  Status undo(Progress& progress) override {
    savepoint_ = false;
    return handle_.run("ROLLBACK TO iterandum; RELEASE iterandum", progress);
  }
  Error explained(Error error, const Table& table) override {
    return error.kind == ErrorKind::LockTimeout ? session_.lockTimedOut(std::move(error), table) : error;
  }
  [[nodiscard]] std::size_t mostRows() const override { return kPgMostRows; }
  [[nodiscard]] std::size_t mostBytes() const override { return kPgMostBytes; }

 private:
  PgSession& session_;
  PgHandle& handle_;
  bool savepoint_ = false;
};

}  // namespace

Status PgSession::write(const WriteStep& step, const WriteReport& report, Progress& progress) {
  if (step.kind != WriteStep::Kind::Insert) ITERANDUM_TRY(chooseJoins(*step.table, step.keyColumns, progress));
  PgBulk bulk(*this);
  return writeInBulk(bulk, step, report, progress);
}

}  // namespace iterandum
