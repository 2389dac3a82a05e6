// The PostgreSQL engine: a session over libpq.
//
// Records are read, locked and written in batches: a statement for many records, whose keys and values travel as
// arrays. A batch that the server refuses is halved until the refused records stand alone, each half under a savepoint.
#pragma once

#include <map>

#include "core/engines/postgresql/pg_handle.h"
#include "core/engines/session.h"

namespace iterandum {

[[nodiscard]] Result<std::unique_ptr<Session>> openPgSession(const std::string& address, const OpenOptions& options,
                                                             Progress& progress);

using PgConnectParameters = std::vector<std::pair<std::string, std::string>>;

class PgSession : public Session {
 public:
  PgSession(std::unique_ptr<PgHandle> handle, SessionInfo info, PgConnectParameters parameters)
      : handle_(std::move(handle)), info_(std::move(info)), parameters_(std::move(parameters)) {}
  ~PgSession() override = default;

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
  [[nodiscard]] std::string notReachedByCommit() const override;
  [[nodiscard]] Status catchUp(Progress& progress) override;
  void rollback() override;
  [[nodiscard]] bool inTransaction() const override;
  [[nodiscard]] Status write(const WriteStep& step, const WriteReport& report, Progress& progress) override;
  [[nodiscard]] std::optional<Error> brokenAtTheEnd() override;
  [[nodiscard]] Status noteWrites(const Catalogue& catalogue, bool knownCode, Progress& progress) override;
  [[nodiscard]] Result<std::optional<std::vector<TableWrites>>> writesSoFar(const Catalogue& catalogue,
                                                                            std::uint64_t most,
                                                                            Progress& progress) override;
  [[nodiscard]] std::vector<std::string> scriptOpening(const ScriptOutline& outline) const override;
  [[nodiscard]] std::vector<std::string> scriptClosing() const override;
  [[nodiscard]] std::string scriptText(const ScriptStatement& statement) const override;
  [[nodiscard]] std::string insertText(const Table& table, const std::vector<std::string>& columns,
                                       const ValueTuple& values) const override;

  // For the other halves of the engine.
  [[nodiscard]] PgHandle& handle() { return *handle_; }
  void setKnowsUnicode(bool knows) { knowsUnicode_ = knows; }
  // What a statement of write() touched, be it undone later.
  void countWritten(const WriteStep& step, std::int64_t records);
  // Rolls back, and says who held the lock.
  [[nodiscard]] Error lockTimedOut(Error error, const Table& table);

 protected:
  [[nodiscard]] Status findByKeys(const KeyRead& read, const KeyedRowSink& sink, Progress& progress) override;

 private:
  [[nodiscard]] Result<PgResult> look(const std::string& sql, const PgParameters& parameters, Progress& progress);
  [[nodiscard]] Status lookOn(const std::string& sql, const PgParameters& parameters, const PgRowSink& sink,
                              Progress& progress);
  [[nodiscard]] Status readBatch(const KeyRead& read, std::span<const std::uint32_t> rows, const KeyedRowSink& sink,
                                 Progress& progress);
  [[nodiscard]] Status readUnsure(const KeyRead& read, std::span<const std::uint32_t> rows, const KeyedRowSink& sink,
                                  Progress& progress);
  // Lookups go record by record through an index where there is one; else the whole table is joined at once.
  [[nodiscard]] Status chooseJoins(const Table& table, const std::vector<std::string>& keyColumns, Progress& progress);
  // A text that the server cannot read is told from the rest by halving. `trials`: how many tries may still fail.
  [[nodiscard]] Status respellPart(const Column& column, std::span<std::string> texts, int& trials, Progress& progress);
  // The keys of the records that this transaction made or changed.
  [[nodiscard]] Status readWritten(TableWrites& writes, std::uint64_t most, Progress& progress);
  // After a connection was lost while committing: a new one, once the lost one has ended on the server.
  [[nodiscard]] Status resume(Progress& progress);

  // Which process of the server the transaction is in.
  [[nodiscard]] Status learnBackend(Progress& progress);

  struct Backend {
    std::string pid;  // empty: not known yet
    std::string startedAt;
  };
  struct Written {
    std::int64_t records = 0;
    std::int64_t removed = 0;
  };

  std::unique_ptr<PgHandle> handle_;
  SessionInfo info_;
  PgConnectParameters parameters_;  // with the password: for finding out what became of a commit
  std::chrono::milliseconds lockTimeout_{0};
  Backend backend_;
  bool syncWaitEnded_ = false;  // the last COMMIT went through on this server alone
  bool joinsOff_ = false;
  bool knowsUnicode_ = false;                                             // the server has ICU's collations
  std::map<const Table*, Written> written_;                               // by write() in this transaction
  std::map<std::pair<std::string, std::string>, Written> countedBefore_;  // by the server, of earlier ones
  bool mayDefer_ = true;                                                  // some constraint can be deferred
};

// A question of ours in which operators, functions and types are the server's own, whatever the search path of the
// session is by now. Not for statements with assignments: a = between a column and its new value is no operator.
[[nodiscard]] std::string pgHardened(std::string_view sql);
// schema.table as the server quotes it.
[[nodiscard]] std::string pgTable(const Table& table);
// A condition that joins t, the table, with u, the batch whose keys are k1, k2 and so on as text.
[[nodiscard]] std::string pgKeyCondition(const Table& table, const std::vector<std::string>& keyColumns,
                                         const std::vector<bool>& mayBeNull);
[[nodiscard]] Result<Catalogue> readPgCatalogue(PgHandle& handle, bool& mayDefer, Progress& progress);

}  // namespace iterandum
