// The SQLite engine: one database file behind the Session interface. Internal to engines/.
#pragma once

#include <memory>
#include <string>
#include <vector>

#include "core/engines/session.h"
#include "core/engines/sqlite/sqlite_handle.h"

namespace iterandum {

[[nodiscard]] Result<std::unique_ptr<Session>> openSqliteSession(const std::string& path, const OpenOptions& options);

class SqliteSession final : public Session {
 public:
  SqliteSession(std::unique_ptr<SqliteHandle> handle, SessionInfo info)
      : handle_(std::move(handle)), info_(std::move(info)) {}

  [[nodiscard]] const SessionInfo& info() const override { return info_; }
  [[nodiscard]] Result<Catalogue> readCatalogue(Progress& progress) override;
  [[nodiscard]] Status select(const Query& query, const RowSink& sink, Progress& progress) override;
  [[nodiscard]] Result<std::uint64_t> count(const Query& query, Progress& progress) override;
  [[nodiscard]] Status distinctValues(const Query& query, const ColumnPath& column, std::uint64_t most,
                                      const ValueCountSink& sink, Progress& progress) override;
  [[nodiscard]] Status readByKeys(const KeyRead& read, const KeyedRowSink& sink, Progress& progress) override;
  [[nodiscard]] Status respell(const Column&, std::span<ValueColumn* const>, Progress&) override { return {}; }
  [[nodiscard]] Status brokenRules(const Table& table, const std::vector<std::string>& columns,
                                   const std::vector<ValueTuple>& records, const BrokenRuleSink& sink) override;
  [[nodiscard]] Status begin(std::chrono::milliseconds lockTimeout, Progress& progress) override;
  [[nodiscard]] Status commit() override;
  void rollback() override;
  [[nodiscard]] bool inTransaction() const override;
  [[nodiscard]] Status write(const WriteStep& step, const WriteReport& report, Progress& progress) override;
  [[nodiscard]] std::optional<Error> brokenAtTheEnd() override;
  [[nodiscard]] std::vector<std::string> scriptOpening(bool usesLabels) const override;
  [[nodiscard]] std::vector<std::string> scriptClosing() const override;
  [[nodiscard]] std::string scriptText(const ScriptStatement& statement) const override;

 private:
  std::unique_ptr<SqliteHandle> handle_;
  SessionInfo info_;
};

// An SQL literal that reads back as the very same value.
[[nodiscard]] std::string sqliteLiteral(const Value& value);

}  // namespace iterandum
