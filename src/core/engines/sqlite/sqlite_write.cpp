// The writing half of the SQLite engine. SQLite runs in this process: a prepared statement for each record is its best
// bulk form.
#include <array>

#include "core/engines/sqlite/sqlite_session.h"

namespace iterandum {
namespace {

std::string keyCondition(const WriteStep& step) {
  std::string out;
  // A record that is named by all it holds must be met byte for byte, whatever the columns' collations.
  const bool whole = step.table->identity.kind == Identity::Kind::WholeRecord;
  for (std::size_t k = 0; k < step.keyColumns.size(); ++k) {
    if (k > 0) out += " AND ";
    out += quoteIdentifier(step.keyColumns[k]) + (whole ? " COLLATE BINARY IS ?" : " = ?") +
           std::to_string(step.columns.size() + k + 1);
  }
  return out;
}

std::string statementSql(const WriteStep& step) {
  const std::string table = quoteIdentifier(step.table->name.name);
  std::string sql;
  // OR ABORT: a table's own ON CONFLICT clause could drop or replace records without a word.
  switch (step.kind) {
    case WriteStep::Kind::Update:
      sql = "UPDATE OR ABORT " + table + " SET ";
      for (std::size_t c = 0; c < step.columns.size(); ++c) {
        sql += (c ? ", " : "") + quoteIdentifier(step.columns[c]) + " = ?" + std::to_string(c + 1);
      }
      return sql + " WHERE " + keyCondition(step);
    case WriteStep::Kind::Remove:
      return "DELETE FROM " + table + " WHERE " + keyCondition(step);
    case WriteStep::Kind::Insert:
      break;
  }
  sql = "INSERT OR ABORT INTO " + table;
  if (step.columns.empty()) {
    sql += " DEFAULT VALUES";
  } else {
    std::string names;
    std::string marks;
    for (std::size_t c = 0; c < step.columns.size(); ++c) {
      names += (c ? ", " : "") + quoteIdentifier(step.columns[c]);
      marks += (c ? ", ?" : "?") + std::to_string(c + 1);
    }
    sql += " (" + names + ") VALUES (" + marks + ")";
  }
  if (!step.returning.empty()) {
    sql += " RETURNING ";
    for (std::size_t c = 0; c < step.returning.size(); ++c) sql += (c ? ", " : "") + quoteIdentifier(step.returning[c]);
  }
  return sql;
}

Error droppedSilently(const WriteStep& step, int changed) {
  if (changed == 0) {
    return {ErrorKind::Refused,
            "the database took the write and dropped it without a word (a trigger may have asked for "
            "it); nothing changed in " +
                displayName(step.table->name)};
  }
  return {ErrorKind::Refused, "the write touched " + std::to_string(changed) + " records of " +
                                  displayName(step.table->name) + " where one was meant"};
}

}  // namespace

Status SqliteSession::write(const WriteStep& step, const WriteReport& report, Progress& progress) {
  const SqliteWatch watch(*handle_, progress);
  auto prepared = handle_->prepare(statementSql(step));
  if (!prepared) {
    for (const std::uint32_t row : step.rows) report.failed(row, prepared.error());
    return {};
  }
  SqliteStatement statement = std::move(*prepared);
  std::vector<Value> bound(step.columns.size() + step.keys.size());
  std::size_t done = 0;
  for (const std::uint32_t row : step.rows) {
    for (std::size_t c = 0; c < step.columns.size(); ++c) bound[c] = step.values[c]->at(row);
    for (std::size_t k = 0; k < step.keys.size(); ++k) bound[step.columns.size() + k] = step.keys[k]->at(row);
    for (std::size_t i = 0; i < bound.size(); ++i) statement.bind(static_cast<int>(i + 1), bound[i]);
    ValueTuple returned;
    int code = statement.step();
    if (code == SQLITE_ROW) {
      for (int c = 0; c < statement.columns(); ++c) returned.push_back(statement.value(c));
      code = statement.step();
    }
    if (code != SQLITE_DONE) {
      const Error error = handle_->error(code, displayName(step.table->name));
      statement.reset();
      const bool ofThisRow =
          error.kind == ErrorKind::Constraint || error.kind == ErrorKind::Refused || error.kind == ErrorKind::NotFound;
      if (!ofThisRow) return fail(error);
      report.failed(row, error);
      if (!inTransaction()) return {};
      continue;
    }
    const int changed = sqlite3_changes(handle_->raw());
    statement.reset();
    if (changed != 1 && !step.table->writesNotCounted) {
      report.failed(row, droppedSilently(step, changed));
    } else if (report.returned && step.kind == WriteStep::Kind::Insert) {
      report.returned(row, std::move(returned));
    }
    if (++done % 1024 == 0 && !progress.step("writing", done, step.rows.size())) {
      return fail(ErrorKind::Cancelled, "it was stopped");
    }
  }
  return {};
}

}  // namespace iterandum
