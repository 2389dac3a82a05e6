#include "hand_reader.h"

#include <libpq-fe.h>
#include <mysql.h>
#include <sqlite3.h>

#include <cstdlib>

#include "core/engines/common/address.h"
#include "measure.h"

namespace bench {
namespace {

// What is kept of a screen: the fields of its rows, one after the other.
using Fields = std::vector<std::string>;

class SqliteReader : public HandReader {
 public:
  explicit SqliteReader(const std::string& path) {
    if (sqlite3_open_v2(path.c_str(), &db_, SQLITE_OPEN_READWRITE | SQLITE_OPEN_CREATE | SQLITE_OPEN_NOMUTEX,
                        nullptr) != SQLITE_OK) {
      stop("cannot open " + path);
    }
    run("PRAGMA cache_size = -65536");
  }
  SqliteReader(const SqliteReader&) = delete;
  SqliteReader& operator=(const SqliteReader&) = delete;
  ~SqliteReader() override { sqlite3_close(db_); }

  void run(const std::string& sql) override {
    if (sqlite3_exec(db_, sql.c_str(), nullptr, nullptr, nullptr) != SQLITE_OK) stop(sqlite3_errmsg(db_));
  }
  std::size_t rows(const std::string& sql) override {
    Fields fields;
    std::size_t count = 0;
    each(sql, [&](sqlite3_stmt* s) {
      for (int c = 0; c < sqlite3_column_count(s); ++c) {
        const auto* text = reinterpret_cast<const char*>(sqlite3_column_text(s, c));
        fields.emplace_back(text == nullptr ? "" : text, static_cast<std::size_t>(sqlite3_column_bytes(s, c)));
      }
      ++count;
    });
    return count;
  }
  std::vector<std::int64_t> numbers(const std::string& sql) override {
    std::vector<std::int64_t> out;
    each(sql, [&](sqlite3_stmt* s) { out.push_back(sqlite3_column_int64(s, 0)); });
    return out;
  }

 private:
  template <typename Row>
  void each(const std::string& sql, const Row& row) {
    sqlite3_stmt* s = nullptr;
    if (sqlite3_prepare_v2(db_, sql.c_str(), -1, &s, nullptr) != SQLITE_OK) stop(sqlite3_errmsg(db_));
    int code = SQLITE_ROW;
    while ((code = sqlite3_step(s)) == SQLITE_ROW) row(s);
    if (code != SQLITE_DONE) stop(sqlite3_errmsg(db_));
    sqlite3_finalize(s);
  }
  sqlite3* db_ = nullptr;
};

class PostgreSqlReader : public HandReader {
 public:
  explicit PostgreSqlReader(const std::string& address) : c_(PQconnectdb(address.c_str())) {
    if (PQstatus(c_) != CONNECTION_OK) stop(PQerrorMessage(c_));
  }
  PostgreSqlReader(const PostgreSqlReader&) = delete;
  PostgreSqlReader& operator=(const PostgreSqlReader&) = delete;
  ~PostgreSqlReader() override { PQfinish(c_); }

  void run(const std::string& sql) override { PQclear(finished(PQexec(c_, sql.c_str()))); }
  std::size_t rows(const std::string& sql) override {
    PGresult* r = finished(PQexec(c_, sql.c_str()));
    Fields fields;
    for (int i = 0; i < PQntuples(r); ++i) {
      for (int c = 0; c < PQnfields(r); ++c)
        fields.emplace_back(PQgetvalue(r, i, c), static_cast<std::size_t>(PQgetlength(r, i, c)));
    }
    const auto count = static_cast<std::size_t>(PQntuples(r));
    PQclear(r);
    return count;
  }
  std::vector<std::int64_t> numbers(const std::string& sql) override {
    std::vector<std::int64_t> out;
    if (PQsendQuery(c_, sql.c_str()) == 0 || PQsetSingleRowMode(c_) == 0) stop(PQerrorMessage(c_));
    while (PGresult* r = PQgetResult(c_)) {
      for (int i = 0; i < PQntuples(r); ++i) out.push_back(std::strtoll(PQgetvalue(r, i, 0), nullptr, 10));
      PQclear(r);
    }
    return out;
  }

 private:
  PGresult* finished(PGresult* r) const {
    const ExecStatusType status = PQresultStatus(r);
    if (status != PGRES_COMMAND_OK && status != PGRES_TUPLES_OK) stop(PQerrorMessage(c_));
    return r;
  }
  PGconn* c_;
};

class MariaDbReader : public HandReader {
 public:
  explicit MariaDbReader(const iterandum::ServerAddress& address) : c_(mysql_init(nullptr)) {
    if (mysql_real_connect(c_, address.hosts[0].name.c_str(), address.user.c_str(), nullptr, address.database.c_str(),
                           static_cast<unsigned>(std::stoul(address.hosts[0].port)), nullptr, 0) == nullptr) {
      stop(mysql_error(c_));
    }
  }
  MariaDbReader(const MariaDbReader&) = delete;
  MariaDbReader& operator=(const MariaDbReader&) = delete;
  ~MariaDbReader() override { mysql_close(c_); }

  void run(const std::string& sql) override {
    if (mysql_real_query(c_, sql.data(), sql.size()) != 0) stop(mysql_error(c_));
    if (MYSQL_RES* r = mysql_store_result(c_); r != nullptr) mysql_free_result(r);
  }
  std::size_t rows(const std::string& sql) override {
    Fields fields;
    std::size_t count = 0;
    each(sql, [&](MYSQL_ROW row, const unsigned long* lengths, unsigned columns) {
      for (unsigned c = 0; c < columns; ++c) fields.emplace_back(row[c] == nullptr ? "" : row[c], lengths[c]);
      ++count;
    });
    return count;
  }
  std::vector<std::int64_t> numbers(const std::string& sql) override {
    std::vector<std::int64_t> out;
    each(sql, [&](MYSQL_ROW row, const unsigned long*, unsigned) { out.push_back(std::strtoll(row[0], nullptr, 10)); });
    return out;
  }

 private:
  template <typename Row>
  void each(const std::string& sql, const Row& row) {
    if (mysql_real_query(c_, sql.data(), sql.size()) != 0) stop(mysql_error(c_));
    MYSQL_RES* r = mysql_use_result(c_);
    while (MYSQL_ROW fields = mysql_fetch_row(r)) row(fields, mysql_fetch_lengths(r), mysql_num_fields(r));
    mysql_free_result(r);
  }
  MYSQL* c_;
};

}  // namespace

std::unique_ptr<HandReader> handReader(const std::string& address) {
  if (address.rfind("postgresql:", 0) == 0) return std::make_unique<PostgreSqlReader>(address);
  if (address.rfind("mariadb:", 0) == 0) {
    return std::make_unique<MariaDbReader>(take(iterandum::serverAddress(address)));
  }
  return std::make_unique<SqliteReader>(address);
}

}  // namespace bench
