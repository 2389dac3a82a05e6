// RAII over the SQLite client library: a connection, a prepared statement, and the one place where its codes become
// our errors. Internal to engines/sqlite and the store.
#pragma once

#include <sqlite3.h>

#include <chrono>
#include <memory>
#include <string>
#include <string_view>

#include "core/base/progress.h"
#include "core/base/result.h"
#include "core/value/value.h"

namespace iterandum {

class SqliteStatement {
 public:
  SqliteStatement() = default;
  explicit SqliteStatement(sqlite3_stmt* statement) : statement_(statement) {}

  // Parameters are numbered from 1, as SQLite does. Text and bytes are not copied: the value must outlive the step.
  void bind(int index, const Value& value);
  void bind(int index, std::string_view text);
  void bind(int index, std::int64_t n);
  void bindBlob(int index, std::string_view bytes);
  // SQLITE_ROW, SQLITE_DONE or an error code.
  int step() { return sqlite3_step(statement_.get()); }
  void reset() {
    sqlite3_reset(statement_.get());
    sqlite3_clear_bindings(statement_.get());
  }
  [[nodiscard]] Value value(int column) const;
  [[nodiscard]] std::string text(int column) const;
  [[nodiscard]] std::int64_t integer(int column) const { return sqlite3_column_int64(statement_.get(), column); }
  [[nodiscard]] bool isNull(int column) const { return sqlite3_column_type(statement_.get(), column) == SQLITE_NULL; }
  [[nodiscard]] int columns() const { return sqlite3_column_count(statement_.get()); }
  [[nodiscard]] explicit operator bool() const { return statement_ != nullptr; }

 private:
  struct Finalize {
    void operator()(sqlite3_stmt* s) const { sqlite3_finalize(s); }
  };
  std::unique_ptr<sqlite3_stmt, Finalize> statement_;
};

// What a value of the library's holds, in storage classes.
[[nodiscard]] Value sqliteValue(sqlite3_value* value);

class SqliteHandle {
 public:
  // Errors: CannotOpen. `flags` as sqlite3_open_v2 takes them; the path is taken literally, never as a URI.
  [[nodiscard]] static Result<std::unique_ptr<SqliteHandle>> open(const std::string& path, int flags);
  SqliteHandle(const SqliteHandle&) = delete;
  SqliteHandle& operator=(const SqliteHandle&) = delete;
  ~SqliteHandle() { sqlite3_close_v2(db_); }

  [[nodiscard]] sqlite3* raw() const { return db_; }
  [[nodiscard]] Result<SqliteStatement> prepare(const std::string& sql);
  [[nodiscard]] Status run(const std::string& sql);
  // The error that SQLite just reported, in our kinds; `doing` opens the message.
  [[nodiscard]] Error error(int code, const std::string& doing) const;

  // How long to wait for a lock, and what can end the wait or a running statement early.
  void setLockTimeout(std::chrono::milliseconds timeout) { lockTimeout_ = timeout; }
  [[nodiscard]] std::chrono::milliseconds lockTimeout() const { return lockTimeout_; }
  void watch(Progress* progress);

 private:
  SqliteHandle(sqlite3* db, std::string path) : db_(db), path_(std::move(path)) {}
  static int onBusy(void* self, int count);
  static int onProgress(void* self);

  sqlite3* db_;
  std::string path_;
  std::chrono::milliseconds lockTimeout_{5000};
  std::chrono::steady_clock::time_point waitingSince_;
  Progress* progress_ = nullptr;
};

// Watches a progress object while it lives.
class SqliteWatch {
 public:
  SqliteWatch(SqliteHandle& handle, Progress& progress) : handle_(handle) { handle_.watch(&progress); }
  SqliteWatch(const SqliteWatch&) = delete;
  SqliteWatch& operator=(const SqliteWatch&) = delete;
  ~SqliteWatch() { handle_.watch(nullptr); }

 private:
  SqliteHandle& handle_;
};

// "name" as SQLite quotes identifiers.
[[nodiscard]] std::string quoteIdentifier(std::string_view name);

// The programs that hold a lock on the database file, as Linux tells in /proc/locks: "yardbook (process 4711)".
// Empty when that cannot be told.
[[nodiscard]] std::string lockHolders(const std::string& path);

}  // namespace iterandum
