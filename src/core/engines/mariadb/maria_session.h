// The MariaDB engine: a session over the server's own client library.
//
// Records are read, locked and written in batches: keys and values of many records travel as one JSON document that is
// joined with the table. A batch that the server refuses is halved until the refused records stand alone.
#pragma once

#include "core/engines/mariadb/maria_handle.h"
#include "core/engines/session.h"

namespace iterandum {

// So many records, and so many bytes, travel in one statement at most.
inline constexpr std::size_t kMostRows = 10000;
inline constexpr std::size_t kMostBytes = 16U << 20U;

[[nodiscard]] Result<std::unique_ptr<Session>> openMariaSession(const std::string& address, const OpenOptions& options,
                                                                Progress& progress);

class MariaSession : public Session {
 public:
  MariaSession(std::unique_ptr<MariaHandle> handle, SessionInfo info, MariaConnect how)
      : handle_(std::move(handle)), info_(std::move(info)), how_(std::move(how)) {}
  ~MariaSession() override = default;

  [[nodiscard]] const SessionInfo& info() const override { return info_; }
  [[nodiscard]] Result<Catalogue> readCatalogue(Progress& progress) override;
  [[nodiscard]] Status select(const Query& query, const RowSink& sink, Progress& progress) override;
  [[nodiscard]] Result<std::uint64_t> count(const Query& query, Progress& progress) override;
  [[nodiscard]] Status distinctValues(const Query& query, const ColumnPath& column, std::uint64_t most,
                                      const ValueCountSink& sink, Progress& progress) override;
  [[nodiscard]] Status respell(const Column& column, std::span<ValueColumn* const> columns,
                               Progress& progress) override;
  [[nodiscard]] Status brokenRules(const Table& table, const std::vector<std::string>& columns,
                                   const std::vector<ValueTuple>& records, const BrokenRuleSink& sink) override;
  [[nodiscard]] Status runForProbe(const std::string& sql, Progress& progress) override;
  [[nodiscard]] Status begin(std::chrono::milliseconds lockTimeout, Progress& progress) override;
  [[nodiscard]] Status commit(Progress& progress) override;
  [[nodiscard]] Status catchUp(Progress& progress) override;
  [[nodiscard]] bool mayStillArrive() const override { return leftOnAnother_; }
  void rollback() override;
  [[nodiscard]] bool inTransaction() const override { return inTransaction_ && handle_->isAlive(); }
  [[nodiscard]] Status write(const WriteStep& step, const WriteReport& report, Progress& progress) override;
  // The server checks each write at once.
  [[nodiscard]] std::optional<Error> brokenAtTheEnd() override { return std::nullopt; }
  [[nodiscard]] std::vector<std::string> scriptOpening(const ScriptOutline& outline) const override;
  [[nodiscard]] std::vector<std::string> scriptClosing() const override;
  [[nodiscard]] std::string scriptText(const ScriptStatement& statement) const override;
  [[nodiscard]] std::string insertText(const Table& table, const std::vector<std::string>& columns,
                                       const ValueTuple& values) const override;

  // For the other halves of the engine.
  [[nodiscard]] MariaHandle& handle() { return *handle_; }
  // Rolls back, and says who may hold the lock.
  [[nodiscard]] Error lockTimedOut(Error error, const Table& table);
  // Counts records that are about to be written in this transaction. Errors: StorageFull for more than a cluster takes.
  [[nodiscard]] Status countWrites(std::size_t records);
  void uncountWrites(std::size_t records) { written_ -= records; }
  // Puts right the kind of an error that code of the database made up, and notes when the transaction is over.
  void judge(Error& error, std::chrono::steady_clock::duration took);

 protected:
  [[nodiscard]] Status findByKeys(const KeyRead& read, const KeyedRowSink& sink, Progress& progress) override;

 private:
  [[nodiscard]] Status readBatch(const KeyRead& read, std::span<const std::uint32_t> rows, const KeyedRowSink& sink,
                                 Progress& progress);
  // After a connection was lost while committing: a new one, once the lost one has ended on the server.
  [[nodiscard]] Status resume(Progress& progress);
  [[nodiscard]] bool transactionStands();
  // Outside of a transaction of ours every question has one of its own that can write nothing, whatever a function in a
  // view does.
  [[nodiscard]] Status look(const std::string& sql, const MariaRowSink& sink, Progress& progress,
                            MariaHandle::Rows rows = MariaHandle::Rows::Many);

  std::unique_ptr<MariaHandle> handle_;
  SessionInfo info_;
  MariaConnect how_;
  std::chrono::milliseconds lockTimeout_{0};
  bool inTransaction_ = false;
  bool leftOnAnother_ = false;  // a COMMIT was lost on one server, and another one answers since
  std::size_t written_ = 0;     // records, in this transaction
};

// schema.table as the server quotes it.
[[nodiscard]] std::string mariaTable(const Table& table);
// The same, with the hint to look records up by these columns through their unique key where there is one: of small
// tables and large batches the server would rather read, and lock, all records.
[[nodiscard]] std::string mariaTableBy(const Table& table, const std::vector<std::string>& keyColumns);
[[nodiscard]] Result<Catalogue> readMariaCatalogue(MariaHandle& handle, Progress& progress);
[[nodiscard]] ValueTuple mariaTuple(const MariaRow& row, unsigned firstColumn,
                                    const std::vector<const Column*>& columns);

}  // namespace iterandum
