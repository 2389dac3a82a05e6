// The SQLite engine: one database file behind the Session interface. Internal to engines/.
#pragma once

#include <memory>
#include <string>
#include <vector>

#include "core/engines/session.h"
#include "core/engines/sqlite/sqlite_handle.h"
#include "core/engines/sqlite/sqlite_writes.h"

namespace iterandum {

[[nodiscard]] Result<std::unique_ptr<Session>> openSqliteSession(const std::string& path, const OpenOptions& options);

class SqliteSession final : public Session {
 public:
  SqliteSession(std::unique_ptr<SqliteHandle> handle, SessionInfo info, std::string encoding)
      : handle_(std::move(handle)), info_(std::move(info)), encoding_(std::move(encoding)) {}

  [[nodiscard]] const SessionInfo& info() const override { return info_; }
  [[nodiscard]] Result<Catalogue> readCatalogue(Progress& progress) override;
  [[nodiscard]] Status select(const Query& query, const RowSink& sink, Progress& progress) override;
  [[nodiscard]] Result<std::uint64_t> count(const Query& query, Progress& progress) override;
  [[nodiscard]] Status distinctValues(const Query& query, const ColumnPath& column, std::uint64_t most,
                                      const ValueCountSink& sink, Progress& progress) override;
  [[nodiscard]] Status respell(const Column&, std::span<ValueColumn* const>, Progress&) override { return {}; }
  [[nodiscard]] Status brokenRules(const Table& table, const std::vector<std::string>& columns,
                                   const std::vector<ValueTuple>& records, const BrokenRuleSink& sink) override;
  [[nodiscard]] Status begin(std::chrono::milliseconds lockTimeout, Progress& progress) override;
  [[nodiscard]] Status commit(Progress& progress) override;
  void rollback() override;
  [[nodiscard]] bool inTransaction() const override;
  [[nodiscard]] Status write(const WriteStep& step, const WriteReport& report, Progress& progress) override;
  [[nodiscard]] std::optional<Error> brokenAtTheEnd() override;
  [[nodiscard]] Status noteWrites(const Catalogue& catalogue, bool knownCode, Progress& progress) override;
  [[nodiscard]] Result<std::optional<std::vector<TableWrites>>> writesSoFar(const Catalogue&, std::uint64_t most,
                                                                            Progress&) override;
  [[nodiscard]] Status runForProbe(const std::string& sql, Progress& progress) override;
  [[nodiscard]] Status copyTo(const std::string& path, Progress& progress) override;
  [[nodiscard]] std::vector<std::string> scriptOpening(const ScriptOutline& outline) const override;
  [[nodiscard]] std::vector<std::string> scriptClosing() const override;
  [[nodiscard]] std::string scriptText(const ScriptStatement& statement) const override;
  [[nodiscard]] std::string insertText(const Table& table, const std::vector<std::string>& columns,
                                       const ValueTuple& values) const override;

 protected:
  [[nodiscard]] Status findByKeys(const KeyRead& read, const KeyedRowSink& sink, Progress& progress) override;

 private:
  void allowWriting(bool allow);

  std::unique_ptr<SqliteHandle> handle_;
  SessionInfo info_;
  std::unique_ptr<SqliteWrites> writes_;  // while they are noted
  std::string encoding_;                  // of the database's texts, as PRAGMA encoding says it
};

// An SQL literal that reads back as the very same value in a database of this encoding.
[[nodiscard]] std::string sqliteLiteral(const Value& value, const std::string& encoding = "UTF-8");

}  // namespace iterandum
