// The writing half of the MariaDB engine: many records in one statement.
#include <algorithm>
#include <utility>

#include "core/engines/common/bulk_write.h"
#include "core/engines/mariadb/maria_batch.h"
#include "core/engines/mariadb/maria_session.h"

namespace iterandum {
namespace {

class MariaBulk : public BulkTarget {
 public:
  explicit MariaBulk(MariaSession& session) : session_(session), handle_(session.handle()) {}

  Result<BulkOutcome> execute(const WriteStep& step, std::span<const std::uint32_t> rows, Progress& progress) override {
    savepoint_ = false;
    counted_ = rows.size();
    ITERANDUM_TRY(session_.countWrites(counted_));
    const bool adds = step.kind == WriteStep::Kind::Insert;
    ITERANDUM_ASSIGN(const std::string sql, adds ? insert(step, rows) : joined(step, rows));
    BulkOutcome out;
    const std::vector<const Column*> returning = returned(step);
    const auto begun = std::chrono::steady_clock::now();
    auto touched = handle_.run(
        "SAVEPOINT iterandum; " + sql,
        [&](const MariaRow& row) {
          out.returned.push_back(mariaTuple(row, 0, returning));
          return true;
        },
        progress);
    if (!touched) {
      // A deadlock ends the whole transaction; any other refusal leaves the savepoint, and nothing of the statement.
      session_.judge(touched.error(), std::chrono::steady_clock::now() - begun);
      savepoint_ = session_.inTransaction();
      return fail(std::move(touched.error()));
    }
    savepoint_ = true;
    out.touched = out.returned.empty() ? touched->back() : static_cast<std::int64_t>(out.returned.size());
    return out;
  }
  // The next savepoint of this name takes the place of this one.
  Status keep(Progress&) override { return {}; }
  Status undo(Progress& progress) override {
    session_.uncountWrites(std::exchange(counted_, 0));
    return savepoint_ ? handle_.run("ROLLBACK TO SAVEPOINT iterandum", progress) : Status();
  }
  Error explained(Error error, const Table& table) override {
    return error.kind == ErrorKind::LockTimeout ? session_.lockTimedOut(std::move(error), table) : error;
  }
  [[nodiscard]] std::size_t mostRows() const override { return kMostRows; }
  [[nodiscard]] std::size_t mostBytes() const override { return std::min(kMostBytes, handle_.mostBytes() / 4); }

 private:
  static std::vector<const Column*> returned(const WriteStep& step) {
    std::vector<const Column*> out;
    for (const std::string& name : step.returning) out.push_back(step.table->column(name));
    return out;
  }

  static tl::unexpected<Error> unfit() {
    Error error(ErrorKind::Constraint,
                "a value is of a kind that the column cannot hold (text that is no UTF-8, or a "
                "number that is not finite)");
    error.constraint = ConstraintKind::DataType;
    return fail(std::move(error));
  }

  // Edits and removals: the table joined with the batch.
  [[nodiscard]] Result<std::string> joined(const WriteStep& step, std::span<const std::uint32_t> rows) const {
    MariaBatch batch(rows.size());
    for (std::size_t c = 0; c < step.columns.size(); ++c) {
      batch.add(step.table->column(step.columns[c]), "v" + std::to_string(c + 1), false,
                [&](std::size_t r) { return step.values[c]->at(rows[r]); });
    }
    for (std::size_t k = 0; k < step.keys.size(); ++k) {
      batch.add(step.table->column(step.keyColumns[k]), "k" + std::to_string(k + 1), true,
                [&](std::size_t r) { return step.keys[k]->at(rows[r]); });
    }
    if (batch.unfit()) return unfit();
    const std::string condition = mariaKeyCondition(*step.table, step.keyColumns, batch, step.columns.size());
    const std::string source = batch.source(handle_) + " STRAIGHT_JOIN " + mariaTableBy(*step.table, step.keyColumns);
    if (step.kind == WriteStep::Kind::Remove) return "DELETE t FROM " + source + " WHERE " + condition;
    std::string set;
    for (std::size_t c = 0; c < step.columns.size(); ++c) {
      set += (c > 0 ? ", t." : "t.") + mariaIdentifier(step.columns[c]) + " = " + batch.expression(c);
    }
    return "UPDATE " + source + " SET " + set + " WHERE " + condition;
  }

  // Additions: a list of rows, which the server reads quicker than a JSON document.
  [[nodiscard]] Result<std::string> insert(const WriteStep& step, std::span<const std::uint32_t> rows) const {
    std::string sql = "INSERT INTO " + mariaTable(*step.table) + " (";
    std::vector<const Column*> columns;
    for (std::size_t c = 0; c < step.columns.size(); ++c) {
      columns.push_back(step.table->column(step.columns[c]));
      sql += (c > 0 ? ", " : "") + mariaIdentifier(step.columns[c]);
    }
    sql += ") VALUES ";
    std::string text;
    for (std::size_t r = 0; r < rows.size(); ++r) {
      sql += r > 0 ? ", (" : "(";
      for (std::size_t c = 0; c < columns.size(); ++c) {
        const Value value = step.values[c]->at(rows[r]);
        if (c > 0) sql += ", ";
        if (!value.isNull() && !mariaText(columns[c], value, text)) return unfit();
        sql += value.kind() == Value::Kind::Text ? handle_.quoted(value.asString()) : mariaLiteral(value);
      }
      sql += ")";
    }
    std::string returning;
    for (const std::string& name : step.returning) {
      const Column* column = step.table->column(name);
      const std::string expression = mariaIdentifier(name);
      returning += (returning.empty() ? " RETURNING " : ", ") +
                   (column == nullptr ? expression : mariaSelected(*column, expression));
    }
    return sql + returning;
  }

  MariaSession& session_;
  MariaHandle& handle_;
  bool savepoint_ = false;
  std::size_t counted_ = 0;  // of the last batch
};

}  // namespace

Status MariaSession::write(const WriteStep& step, const WriteReport& report, Progress& progress) {
  MariaBulk bulk(*this);
  return writeInBulk(bulk, step, report, progress);
}

}  // namespace iterandum
