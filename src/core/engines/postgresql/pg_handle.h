// RAII over libpq: a connection, a result, and the one place where SQLSTATEs become our errors. Internal to
// engines/postgresql.
//
// All waiting is done in short steps that watch a Progress, so that anything can be cancelled; a cancelled statement is
// ended on the server, and the connection lives on.
#pragma once

#include <libpq-fe.h>

#include <functional>
#include <future>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/progress.h"
#include "core/base/result.h"

namespace iterandum {

// So many records travel in one statement, or so many bytes of keys and values.
inline constexpr std::size_t kPgMostRows = 10000;
inline constexpr std::size_t kPgMostBytes = 16U << 20U;

// Parameters of a statement, in the server's text form; nothing stands for NULL.
using PgParameters = std::vector<std::optional<std::string>>;

class PgResult {
 public:
  PgResult() = default;
  explicit PgResult(PGresult* result) : result_(result) {}

  [[nodiscard]] int rows() const { return PQntuples(result_.get()); }
  [[nodiscard]] int columns() const { return PQnfields(result_.get()); }
  [[nodiscard]] bool isNull(int row, int column) const { return PQgetisnull(result_.get(), row, column) != 0; }
  // Valid while the result lives.
  [[nodiscard]] std::string_view text(int row, int column) const {
    return {PQgetvalue(result_.get(), row, column), static_cast<std::size_t>(PQgetlength(result_.get(), row, column))};
  }
  [[nodiscard]] std::string string(int row, int column) const { return std::string(text(row, column)); }
  [[nodiscard]] std::int64_t integer(int row, int column) const;
  [[nodiscard]] bool isTrue(int row, int column) const { return text(row, column) == "t"; }
  [[nodiscard]] Oid type(int column) const { return PQftype(result_.get(), column); }
  [[nodiscard]] std::int64_t affected() const;
  [[nodiscard]] PGresult* raw() const { return result_.get(); }

 private:
  struct Clear {
    void operator()(PGresult* r) const { PQclear(r); }
  };
  std::unique_ptr<PGresult, Clear> result_;
};

// Returns false to stop the reading early.
using PgRowSink = std::function<bool(const PgResult& row)>;

class PgHandle {
 public:
  // `parameters`: libpq's keywords and values. Errors: CannotOpen, with the step that failed and what to do; Cancelled.
  [[nodiscard]] static Result<std::unique_ptr<PgHandle>> open(
      const std::vector<std::pair<std::string, std::string>>& parameters, Progress& progress);

  [[nodiscard]] PGconn* raw() const { return connection_.get(); }
  [[nodiscard]] Result<PgResult> query(const std::string& sql, const PgParameters& parameters, Progress& progress);
  // Several statements in one round trip. All results, in order; the first error ends it, and what was sent after the
  // statement that failed is not done.
  struct Command {
    std::string sql;
    PgParameters parameters;
  };
  [[nodiscard]] Result<std::vector<PgResult>> pipeline(const std::vector<Command>& commands, Progress& progress);
  // Several statements without parameters; nothing is returned.
  [[nodiscard]] Status run(const std::string& sql, Progress& progress);
  // Row by row, in bounded memory.
  [[nodiscard]] Status stream(const std::string& sql, const PgParameters& parameters, const PgRowSink& sink,
                              Progress& progress);
  // A statement that every transaction has to begin with; empty: none.
  [[nodiscard]] const std::string& opening() const { return opening_; }
  void setOpening(std::string sql) { opening_ = std::move(sql); }
  // Hears of each notice which function of the server's own source it comes from; nothing: nobody listens.
  void onNotice(std::function<void(const char* sourceFunction)> heard) { noticed_ = std::move(heard); }
  [[nodiscard]] bool isAlive() const { return PQstatus(connection_.get()) == CONNECTION_OK; }
  // How many statements were sent: for the benchmarks' count of round trips.
  [[nodiscard]] std::uint64_t roundTrips() const { return roundTrips_; }

 private:
  struct Finish {
    void operator()(PGconn* c) const { PQfinish(c); }
  };
  explicit PgHandle(PGconn* connection) : connection_(connection) {}
  [[nodiscard]] Status connect(const Progress& progress);
  [[nodiscard]] Status send(const std::string& sql, const PgParameters& parameters);
  // Waits until the library has the next result.
  [[nodiscard]] Status awaitResult(Progress& progress);
  // The next result, or nothing at the end of the statement.
  [[nodiscard]] Result<std::optional<PgResult>> next(Progress& progress);
  void startStatement();
  void cancelStatement();
  void drain();
  [[nodiscard]] Error error(const PGresult* result) const;

  std::unique_ptr<PGconn, Finish> connection_;
  std::string opening_;
  std::function<void(const char*)> noticed_;
  std::uint64_t roundTrips_ = 0;
  bool cancelSent_ = false;
  std::future<void> cancelling_;
};

// Our error for a SQLSTATE and the server's words.
[[nodiscard]] Error pgError(const std::string& sqlState, const std::string& words, const std::string& detail);

// "name" as SQL quotes identifiers.
[[nodiscard]] std::string pgIdentifier(std::string_view name);

// An array literal of the server: {"a","b",NULL}.
class PgArray {
 public:
  void add(const std::optional<std::string>& element);
  [[nodiscard]] std::string take();

 private:
  std::string text_ = "{";
  bool empty_ = true;
};

}  // namespace iterandum
