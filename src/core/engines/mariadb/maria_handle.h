// RAII over MariaDB's client library: a connection, its results, and the one place where the server's error numbers
// become our errors. Internal to engines/mariadb.
//
// The library's non-blocking calls are used: all waiting is done in short steps that watch a Progress, so that anything
// can be cancelled. A cancelled statement is ended on the server by a second connection, and this one lives on.
#pragma once

#include <mysql.h>

#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "core/base/progress.h"
#include "core/base/result.h"

namespace iterandum {

struct MariaHost {
  std::string name;
  unsigned port = 0;
};

// Which run of which server answers: the numbers of its connections are good in that one alone.
struct MariaServer {
  std::string place;
  std::int64_t startedAt = 0;  // seconds since 1970, by the server's clock

  [[nodiscard]] bool isSamePlace(const MariaServer& other) const { return place == other.place; }
  [[nodiscard]] bool isSameRun(const MariaServer& other) const;
};

// Where and how to connect; the address's parameters are those of the library's option files.
struct MariaConnect {
  std::string user;
  std::string password;
  std::vector<MariaHost> hosts = {{}};  // tried in this order; at least one
  std::string socket;
  std::string database;
  std::string tlsAuthority;    // file of certificates that the server's must come from
  std::string tlsCertificate;  // our own, and its key
  std::string tlsKey;
  bool tls = false;
  bool tlsVerify = false;
  unsigned timeoutSeconds = 15;
};

// One row as the server sent it; valid until the next one.
class MariaRow {
 public:
  MariaRow(MYSQL_ROW cells, const unsigned long* lengths, const MYSQL_FIELD* fields, unsigned count)
      : cells_(cells), lengths_(lengths), fields_(fields), count_(count) {}
  [[nodiscard]] unsigned columns() const { return count_; }
  [[nodiscard]] bool isNull(unsigned c) const { return cells_[c] == nullptr; }
  // Empty for NULL.
  [[nodiscard]] std::string_view text(unsigned c) const {
    return isNull(c) ? std::string_view() : std::string_view(cells_[c], lengths_[c]);
  }
  [[nodiscard]] std::string string(unsigned c) const { return std::string(text(c)); }
  [[nodiscard]] std::int64_t integer(unsigned c) const;
  [[nodiscard]] const MYSQL_FIELD& field(unsigned c) const { return fields_[c]; }

 private:
  MYSQL_ROW cells_;
  const unsigned long* lengths_;
  const MYSQL_FIELD* fields_;
  unsigned count_;
};

// Returns false to stop the reading early.
using MariaRowSink = std::function<bool(const MariaRow& row)>;

class MariaHandle {
 public:
  // Of several hosts the first is taken that answers and, in a cluster, takes part in it; who is not let in is not let
  // in anywhere. Errors: CannotOpen, with the step that failed and what to do; Cancelled.
  [[nodiscard]] static Result<std::unique_ptr<MariaHandle>> open(const MariaConnect& how, Progress& progress);

  // How many rows are to be expected: few are taken over at once, many as they come.
  enum class Rows { Few, Many };
  // One or several statements in one round trip; the rows of all go to the sink. Gives how many records each
  // statement touched (edits that change nothing included).
  [[nodiscard]] Result<std::vector<std::int64_t>> run(const std::string& sql, const MariaRowSink& sink,
                                                      Progress& progress, Rows rows = Rows::Many);
  [[nodiscard]] Status run(const std::string& sql, Progress& progress);
  // Every row of one statement, to the last.
  [[nodiscard]] Status each(const std::string& sql, const std::function<void(const MariaRow&)>& take,
                            Progress& progress);

  [[nodiscard]] bool isAlive() const { return alive_; }
  [[nodiscard]] bool isMariaDb() const { return mariadb_connection(connection_.get()) != 0; }
  [[nodiscard]] unsigned long serverVersion() const { return mysql_get_server_version(connection_.get()); }  // 101106
  [[nodiscard]] std::string serverVersionText() const { return mysql_get_server_info(connection_.get()); }
  [[nodiscard]] unsigned long id() const;  // as the server numbers its connections
  // Asks it once; what was not asked can stop no statement of its own.
  [[nodiscard]] Status learnServer(Progress& progress);
  [[nodiscard]] const MariaServer& server() const { return server_; }
  // Of the line ("TLSv1.3"); empty: none.
  [[nodiscard]] std::string encryption() const;
  // A text as a literal; the connection's sql_mode has backslashes as escapes.
  [[nodiscard]] std::string quoted(std::string_view text) const;
  // How many statements were sent: for the benchmarks' count of round trips.
  [[nodiscard]] std::uint64_t roundTrips() const { return roundTrips_; }
  // The longest statement that the server takes, in bytes.
  void setMostBytes(std::size_t bytes) { mostBytes_ = bytes; }
  [[nodiscard]] std::size_t mostBytes() const { return mostBytes_; }
  // The most records that a cluster takes in one transaction; 0: as many as there are.
  void setMostRows(std::size_t rows) { mostRows_ = rows; }
  [[nodiscard]] std::size_t mostRows() const { return mostRows_; }

 private:
  struct Close {
    void operator()(MYSQL* c) const { mysql_close(c); }
  };
  MariaHandle(MYSQL* connection, MariaConnect how) : connection_(connection), how_(std::move(how)) {}
  [[nodiscard]] static Result<std::unique_ptr<MariaHandle>> openOne(MariaConnect how, Progress& progress);
  [[nodiscard]] Status connect(const Progress& progress);
  [[nodiscard]] Result<std::vector<std::int64_t>> runOnce(const std::string& sql, const MariaRowSink& sink,
                                                          Progress& progress, Rows rows);
  [[nodiscard]] bool answers(const Progress& progress);
  [[nodiscard]] bool takesPart(Progress& progress);
  // Waits until the library's wish (its bits MYSQL_WAIT_…) is met, and gives what was met.
  [[nodiscard]] int await(int wish, const Progress& progress);
  [[nodiscard]] Status readResult(const MariaRowSink& sink, const Progress& progress, Rows rows);
  [[nodiscard]] MYSQL_RES* takeWhole(const Progress& progress);
  [[nodiscard]] Status drain(const Progress& progress);
  // What a wait that nobody wants any more comes to.
  [[nodiscard]] int giveUp(int wish);
  void cancelStatement();
  [[nodiscard]] Error error();

  std::unique_ptr<MYSQL, Close> connection_;
  MariaConnect how_;  // with the one host that answered
  MariaServer server_;
  bool inCluster_ = false;
  std::size_t mostBytes_ = 1U << 20U;
  std::size_t mostRows_ = 0;
  std::uint64_t roundTrips_ = 0;
  bool alive_ = true;
  bool connecting_ = false;
  bool cancelSent_ = false;
  bool enough_ = false;  // the sink wants no more rows
};

// Our error for the server's number, SQLSTATE and words.
[[nodiscard]] Error mariaError(unsigned number, const std::string& words);

// More than a cluster takes in one transaction, with the server's own words.
[[nodiscard]] Error tooMuchForCluster(const std::string& words);

// `name` as the server quotes identifiers.
[[nodiscard]] std::string mariaIdentifier(std::string_view name);

}  // namespace iterandum
