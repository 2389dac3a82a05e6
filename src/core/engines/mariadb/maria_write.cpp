// The writing half of the MariaDB engine: many records in one statement.
#include <algorithm>

#include "core/engines/common/bulk_write.h"
#include "core/engines/mariadb/maria_batch.h"
#include "core/engines/mariadb/maria_session.h"

namespace iterandum {
namespace {

constexpr std::size_t kMostRows = 10000;
constexpr std::size_t kMostBytes = 16U << 20U;

class MariaBulk : public BulkTarget {
 public:
  explicit MariaBulk(MariaSession& session) : session_(session), handle_(session.handle()) {}

  Result<BulkOutcome> execute(const WriteStep& step, std::span<const std::uint32_t> rows, Progress& progress) override {
    MariaBatch batch(rows.size());
    for (std::size_t c = 0; c < step.columns.size(); ++c) {
      batch.add(step.table->column(step.columns[c]), "v" + std::to_string(c + 1), false,
                [&](std::size_t r) { return step.values[c]->at(rows[r]); });
    }
    for (std::size_t k = 0; k < step.keys.size(); ++k) {
      batch.add(step.table->column(step.keyColumns[k]), "k" + std::to_string(k + 1), true,
                [&](std::size_t r) { return step.keys[k]->at(rows[r]); });
    }
    savepoint_ = false;
    if (batch.unfit()) {
      Error error(ErrorKind::Constraint,
                  "a value is of a kind that the column cannot hold (text that is no UTF-8, or a "
                  "number that is not finite)");
      error.constraint = ConstraintKind::DataType;
      return fail(std::move(error));
    }
    BulkOutcome out;
    const std::vector<const Column*> returning = returned(step);
    auto touched = handle_.run(
        "SAVEPOINT iterandum; " + statement(step, batch),
        [&](const MariaRow& row) {
          out.returned.push_back(mariaTuple(row, 0, returning));
          return true;
        },
        progress);
    if (!touched) {
      // A deadlock ends the whole transaction; any other refusal leaves the savepoint, and nothing of the statement.
      if (touched.error().kind == ErrorKind::TryAgain) session_.transactionEnded();
      savepoint_ = touched.error().kind != ErrorKind::TryAgain;
      return fail(std::move(touched.error()));
    }
    savepoint_ = true;
    out.touched = out.returned.empty() ? touched->back() : static_cast<std::int64_t>(out.returned.size());
    return out;
  }
  // The next savepoint of this name takes the place of this one.
  Status keep(Progress&) override { return {}; }
  Status undo(Progress& progress) override {
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

  [[nodiscard]] std::string statement(const WriteStep& step, const MariaBatch& batch) const {
    const std::string table = mariaTable(*step.table);
    if (step.kind == WriteStep::Kind::Insert) return insert(step, batch, table);
    const std::string condition = mariaKeyCondition(*step.table, step.keyColumns, batch, step.columns.size());
    const std::string joined = batch.source(handle_) + " STRAIGHT_JOIN " + mariaTableBy(*step.table, step.keyColumns);
    if (step.kind == WriteStep::Kind::Remove) return "DELETE t FROM " + joined + " WHERE " + condition;
    std::string set;
    for (std::size_t c = 0; c < step.columns.size(); ++c) {
      set += (c > 0 ? ", t." : "t.") + mariaIdentifier(step.columns[c]) + " = " + batch.expression(c);
    }
    return "UPDATE " + joined + " SET " + set + " WHERE " + condition;
  }

  [[nodiscard]] std::string insert(const WriteStep& step, const MariaBatch& batch, const std::string& table) const {
    std::string names;
    std::string values;
    for (std::size_t c = 0; c < step.columns.size(); ++c) {
      names += (c > 0 ? ", " : "") + mariaIdentifier(step.columns[c]);
      values += (c > 0 ? ", " : "") + batch.expression(c);
    }
    std::string sql = "INSERT INTO " + table + " (" + names + ")";
    sql += step.columns.empty() ? " VALUES ()"
                                : " SELECT " + values + " FROM " + batch.source(handle_) + " ORDER BY u.ord";
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
};

}  // namespace

Status MariaSession::write(const WriteStep& step, const WriteReport& report, Progress& progress) {
  MariaBulk bulk(*this);
  return writeInBulk(bulk, step, report, progress);
}

}  // namespace iterandum
