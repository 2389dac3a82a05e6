#include "core/engines/sqlite/sqlite_handle.h"

#include <thread>

namespace iterandum {

void SqliteStatement::bind(int index, const Value& value) {
  sqlite3_stmt* s = statement_.get();
  switch (value.kind()) {
    case Value::Kind::Null:
      sqlite3_bind_null(s, index);
      return;
    case Value::Kind::Boolean:
    case Value::Kind::Integer:
      sqlite3_bind_int64(s, index, value.asInteger());
      return;
    case Value::Kind::Unsigned:
      sqlite3_bind_double(s, index, static_cast<double>(value.asUnsigned()));
      return;
    case Value::Kind::Real:
      sqlite3_bind_double(s, index, value.asReal());
      return;
    case Value::Kind::Bytes:
      bindBlob(index, value.asString());
      return;
    default:
      bind(index, value.asString());
  }
}

void SqliteStatement::bind(int index, std::string_view text) {
  sqlite3_bind_text64(statement_.get(), index, text.empty() ? "" : text.data(), text.size(), SQLITE_STATIC,
                      SQLITE_UTF8);
}

void SqliteStatement::bind(int index, std::int64_t n) { sqlite3_bind_int64(statement_.get(), index, n); }

void SqliteStatement::bindBlob(int index, std::string_view bytes) {
  // A null pointer would bind NULL: empty bytes are not NULL.
  sqlite3_bind_blob64(statement_.get(), index, bytes.empty() ? "" : bytes.data(), bytes.size(), SQLITE_STATIC);
}

Value SqliteStatement::value(int column) const {
  // One look at the cell instead of one for its type and one for its contents. The handle belongs to one thread at a
  // time (SQLITE_OPEN_NOMUTEX), so that the unprotected value is as good as a protected one.
  return sqliteValue(sqlite3_column_value(statement_.get(), column));
}

Value sqliteValue(sqlite3_value* v) {
  switch (sqlite3_value_type(v)) {
    case SQLITE_INTEGER:
      return Value::integer(sqlite3_value_int64(v));
    case SQLITE_FLOAT:
      return Value::real(sqlite3_value_double(v));
    case SQLITE_TEXT: {
      const auto* data = reinterpret_cast<const char*>(sqlite3_value_text(v));
      return Value::text({data, static_cast<std::size_t>(sqlite3_value_bytes(v))});
    }
    case SQLITE_BLOB: {
      const auto* data = static_cast<const char*>(sqlite3_value_blob(v));
      return Value::bytes({data, static_cast<std::size_t>(sqlite3_value_bytes(v))});
    }
    default:
      return {};
  }
}

std::string SqliteStatement::text(int column) const {
  const auto* data = reinterpret_cast<const char*>(sqlite3_column_text(statement_.get(), column));
  if (data == nullptr) return {};
  return {data, static_cast<std::size_t>(sqlite3_column_bytes(statement_.get(), column))};
}

Result<std::unique_ptr<SqliteHandle>> SqliteHandle::open(const std::string& path, int flags) {
  // An absolute path can be none of the names that SQLite takes for something else (":memory:", "", "file:…").
  std::string literal = path;
  if (literal.empty() || literal[0] != '/') literal = "./" + literal;
  sqlite3* db = nullptr;
  const int code = sqlite3_open_v2(literal.c_str(), &db, flags, nullptr);
  std::unique_ptr<SqliteHandle> handle(new SqliteHandle(db, path));
  if (code != SQLITE_OK) return fail(handle->error(code, "cannot open " + path));
  sqlite3_extended_result_codes(db, 1);
  sqlite3_busy_handler(db, &SqliteHandle::onBusy, handle.get());
  return handle;
}

Result<SqliteStatement> SqliteHandle::prepare(const std::string& sql) {
  sqlite3_stmt* statement = nullptr;
  const int code = sqlite3_prepare_v3(db_, sql.c_str(), static_cast<int>(sql.size() + 1), 0, &statement, nullptr);
  if (code != SQLITE_OK) return fail(error(code, "the database refused a statement"));
  return SqliteStatement(statement);
}

Status SqliteHandle::run(const std::string& sql) {
  const int code = sqlite3_exec(db_, sql.c_str(), nullptr, nullptr, nullptr);
  if (code != SQLITE_OK) return fail(error(code, "the database refused a statement"));
  return {};
}

void SqliteHandle::watch(Progress* progress) {
  progress_ = progress;
  // Every few thousand steps of SQLite's machine, some tens of microseconds: quick to stop, too rare to slow anything.
  sqlite3_progress_handler(db_, progress != nullptr ? 4000 : 0, &SqliteHandle::onProgress, this);
}

int SqliteHandle::onProgress(void* self) {
  const auto* handle = static_cast<SqliteHandle*>(self);
  return handle->progress_ != nullptr && handle->progress_->cancelled() ? 1 : 0;
}

int SqliteHandle::onBusy(void* self, int count) {
  auto* handle = static_cast<SqliteHandle*>(self);
  const auto now = std::chrono::steady_clock::now();
  if (count == 0) handle->waitingSince_ = now;
  if (handle->progress_ != nullptr && handle->progress_->cancelled()) return 0;
  if (now - handle->waitingSince_ >= handle->lockTimeout_) return 0;
  std::this_thread::sleep_for(std::chrono::milliseconds(count < 10 ? 2 : 20));
  return 1;
}

namespace {

ConstraintKind constraintOf(int code) {
  switch (code) {
    case SQLITE_CONSTRAINT_UNIQUE:
    case SQLITE_CONSTRAINT_PRIMARYKEY:
    case SQLITE_CONSTRAINT_ROWID:
      return ConstraintKind::Unique;
    case SQLITE_CONSTRAINT_NOTNULL:
      return ConstraintKind::NotNull;
    case SQLITE_CONSTRAINT_CHECK:
      return ConstraintKind::Check;
    case SQLITE_CONSTRAINT_FOREIGNKEY:
      return ConstraintKind::ForeignKey;
    case SQLITE_CONSTRAINT_DATATYPE:
      return ConstraintKind::DataType;
    default:
      return ConstraintKind::Trigger;
  }
}

std::string waitAdvice(const std::string& path) {
  const std::string holders = lockHolders(path);
  if (holders.empty()) return "another program is writing to it; wait until it has finished, then try again";
  return holders + " holds a lock on it; wait until it has finished, then try again";
}

}  // namespace

Error SqliteHandle::error(int code, const std::string& doing) const {
  Error error;
  const int extended = sqlite3_extended_errcode(db_) != SQLITE_OK ? sqlite3_extended_errcode(db_) : code;
  error.engineCode = std::to_string(extended);
  error.engineWords = sqlite3_errmsg(db_);
  std::string advice;
  switch (extended & 0xFF) {
    case SQLITE_CONSTRAINT:
      error.kind = ErrorKind::Constraint;
      error.constraint = constraintOf(extended);
      break;
    case SQLITE_MISMATCH:
      error.kind = ErrorKind::Constraint;
      error.constraint = ConstraintKind::DataType;
      break;
    case SQLITE_BUSY:
    case SQLITE_LOCKED:
    case SQLITE_PROTOCOL:
      // Whoever stopped the waiting did not wait to its end.
      if (progress_ != nullptr && progress_->cancelled()) {
        error.kind = ErrorKind::Cancelled;
        advice = "it was stopped";
        break;
      }
      error.kind = ErrorKind::LockTimeout;
      advice = waitAdvice(path_);
      break;
    case SQLITE_READONLY:
    case SQLITE_PERM:
      error.kind = ErrorKind::ReadOnly;
      advice = "the file, or the folder it is in, may not be written by you; ask for the right, or work on a copy";
      break;
    case SQLITE_FULL:
      error.kind = ErrorKind::StorageFull;
      advice = "there is no space left on its disk; make room, then try again";
      break;
    case SQLITE_INTERRUPT:
      error.kind = ErrorKind::Cancelled;
      advice = "it was stopped";
      break;
    case SQLITE_NOTADB:
      error.kind = ErrorKind::CannotOpen;
      advice = "this file is no SQLite database, or it is encrypted; choose another file";
      break;
    case SQLITE_CORRUPT:
      error.kind = ErrorKind::CannotOpen;
      advice = "the file is damaged; restore it from a copy, or save what can be read with the database's own tools";
      break;
    case SQLITE_CANTOPEN:
    case SQLITE_IOERR:
      error.kind = ErrorKind::CannotOpen;
      advice = "check the path, the rights of the file and its folder, and the disk";
      break;
    default:
      error.kind = ErrorKind::Refused;
  }
  if (error.kind == ErrorKind::Cancelled) error.engineWords.clear();
  error.message = doing + ": " + (advice.empty() ? error.engineWords : advice);
  if (!advice.empty() && error.kind != ErrorKind::Cancelled) {
    error.message += " (SQLite " + error.engineCode + ": " + error.engineWords + ")";
  }
  return error;
}

std::string quoteIdentifier(std::string_view name) {
  std::string out = "\"";
  for (const char c : name) {
    if (c == '"') out += '"';
    out += c;
  }
  return out + "\"";
}

}  // namespace iterandum
