#include "core/engines/common/bulk_write.h"

#include <algorithm>

namespace iterandum {
namespace {

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

// An addition that leaves a generated key to the database must not name the column at all. Gives the step without the
// columns for which a row leaves the value to the database.
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

class BulkWriter {
 public:
  BulkWriter(BulkTarget& target, const WriteReport& report, Progress& progress)
      : target_(target), report_(report), progress_(progress) {}

  Status writeAll(const WriteStep& step) {
    for (std::size_t at = 0; at < step.rows.size();) {
      const std::size_t size = batchSize(step, step.rows.subspan(at));
      ITERANDUM_TRY(writeBatch(step, step.rows.subspan(at, size)));
      at += size;
      if (!progress_.step("writing", at, step.rows.size())) return fail(ErrorKind::Cancelled, "it was stopped");
    }
    return {};
  }

 private:
  // As many rows as one statement takes.
  [[nodiscard]] std::size_t batchSize(const WriteStep& step, std::span<const std::uint32_t> rows) const {
    constexpr std::size_t kRoughlyEach = 24;
    if (step.kind == WriteStep::Kind::Insert && step.columns.empty()) return 1;
    std::size_t bytes = 0;
    std::size_t count = 0;
    for (const std::uint32_t row : rows.first(std::min(rows.size(), target_.mostRows()))) {
      for (const ValueColumn* v : step.values) bytes += v->at(row).heapBytes() + kRoughlyEach;
      for (const ValueColumn* k : step.keys) bytes += k->at(row).heapBytes() + kRoughlyEach;
      if (count > 0 && bytes > target_.mostBytes()) break;
      ++count;
    }
    return std::max<std::size_t>(1, count);
  }

  Status writeBatch(const WriteStep& step, std::span<const std::uint32_t> rows) {
    if (rows.empty()) return {};
    auto done = target_.execute(step, rows, progress_);
    if (done && (done->touched == static_cast<std::int64_t>(rows.size()) || step.table->writesNotCounted)) {
      ITERANDUM_TRY(target_.keep(progress_));
      for (std::size_t i = 0; report_.returned && i < std::min(rows.size(), done->returned.size()); ++i) {
        report_.returned(rows[i], std::move(done->returned[i]));
      }
      return {};
    }
    if (!done) {
      const ErrorKind kind = done.error().kind;
      const bool ofTheRows = kind == ErrorKind::Constraint || kind == ErrorKind::Refused ||
                             kind == ErrorKind::NoRight || kind == ErrorKind::NotFound;
      if (!ofTheRows) return fail(target_.explained(std::move(done.error()), *step.table));
    }
    ITERANDUM_TRY(target_.undo(progress_));
    if (rows.size() == 1) {
      report_.failed(rows[0], done ? droppedSilently(step, done->touched) : done.error());
      return {};
    }
    const std::size_t half = rows.size() / 2;
    ITERANDUM_TRY(writeBatch(step, rows.first(half)));
    return writeBatch(step, rows.subspan(half));
  }

  BulkTarget& target_;
  const WriteReport& report_;
  Progress& progress_;
};

}  // namespace

Status writeInBulk(BulkTarget& target, const WriteStep& step, const WriteReport& report, Progress& progress) {
  BulkWriter writer(target, report, progress);
  if (step.kind != WriteStep::Kind::Insert) return writer.writeAll(step);
  // Rows that leave the same columns to the database go together.
  std::vector<std::pair<std::vector<bool>, std::vector<std::uint32_t>>> groups;
  for (const std::uint32_t row : step.rows) {
    const std::vector<bool> left = leftToDatabase(step, row);
    if (groups.empty() || groups.back().first != left) groups.emplace_back(left, std::vector<std::uint32_t>());
    groups.back().second.push_back(row);
  }
  for (const auto& [left, rows] : groups) {
    WriteStep part = withoutGenerated(step, left);
    part.rows = rows;
    ITERANDUM_TRY(writer.writeAll(part));
  }
  return {};
}

}  // namespace iterandum
