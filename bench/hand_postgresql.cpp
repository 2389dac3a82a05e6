#include <libpq-fe.h>

#include <cstdio>
#include <cstdlib>

#include "hand_servers.h"

namespace bench {
namespace {

class HandPostgreSql : public HandServer {
 public:
  explicit HandPostgreSql(const std::string& address) : c_(PQconnectdb(address.c_str())) {
    if (PQstatus(c_) != CONNECTION_OK) stop();
  }
  HandPostgreSql(const HandPostgreSql&) = delete;
  HandPostgreSql& operator=(const HandPostgreSql&) = delete;
  ~HandPostgreSql() override { PQfinish(c_); }

  void run(const std::string& sql) override { PQclear(checked(PQexec(c_, sql.c_str()))); }

  std::size_t editVerified(const std::vector<Edit>& edits) override {
    std::vector<std::int64_t> ids;
    for (const Edit& e : edits) ids.push_back(e.id);
    begin();
    const std::vector<std::string> before = readWhole(ids, true);
    for (std::size_t i = 0; i < edits.size(); ++i) {
      if (std::strtoll(before[i * columns_ + 1].c_str(), nullptr, 10) != edits[i].from) stop();
    }
    const std::size_t written = update(edits, "");
    const std::vector<std::string> after = readWhole(ids, false);
    run("COMMIT");
    return after.size() == before.size() ? written : 0;
  }
  std::size_t readAndCompare(const std::vector<Edit>& edits) override {
    std::vector<std::int64_t> ids;
    for (const Edit& e : edits) ids.push_back(e.id);
    const std::string keys = arrayOf(ids);
    const char* values[] = {keys.c_str()};
    PGresult* r =
        checked(PQexecParams(c_,
                             "SELECT t.grade FROM unnest($1::bigint[]) WITH ORDINALITY AS u(k, n) JOIN reading t "
                             "ON t.id = u.k ORDER BY u.n",
                             1, nullptr, values, nullptr, nullptr, 0));
    std::size_t same = 0;
    for (int i = 0; i < PQntuples(r); ++i) {
      if (std::strtoll(PQgetvalue(r, i, 0), nullptr, 10) == edits[static_cast<std::size_t>(i)].from) ++same;
    }
    PQclear(r);
    return same;
  }
  std::size_t editBare(const std::vector<Edit>& edits) override {
    begin();
    const std::size_t written = update(edits, " AND t.grade = u.o");
    run("COMMIT");
    return written;
  }
  std::size_t addVerified(const std::vector<std::int64_t>& ids) override {
    begin();
    if (count("SELECT count(*) FROM unnest($1::bigint[]) AS u(k) JOIN reading t ON t.id = u.k", arrayOf(ids)) != 0 ||
        count("SELECT count(*) FROM unnest($1::bigint[]) AS u(k) JOIN place t ON t.place_id = u.k", "{5}") != 1) {
      stop();
    }
    std::string grades = "{";
    std::string tags = "{";
    std::string places = "{";
    for (const std::int64_t id : ids) {
      grades += "1,";
      tags += "NEW-" + std::to_string(id) + ",";
      places += "5,";
    }
    grades.back() = '}';
    tags.back() = '}';
    places.back() = '}';
    const std::string keys = arrayOf(ids);
    const char* values[] = {keys.c_str(), grades.c_str(), tags.c_str(), places.c_str()};
    PGresult* r = checked(PQexecParams(c_,
                                       "INSERT INTO reading (id, grade, tag, place_id) SELECT * FROM "
                                       "unnest($1::bigint[], $2::int[], $3::varchar[], $4::int[])",
                                       4, nullptr, values, nullptr, nullptr, 0));
    const std::size_t written = std::strtoull(PQcmdTuples(r), nullptr, 10);
    PQclear(r);
    const std::vector<std::string> after = readWhole(ids, false);
    run("COMMIT");
    return after.size() == ids.size() * columns_ ? written : 0;
  }
  std::size_t addBare(const std::vector<std::int64_t>& ids) override {
    run("BEGIN");
    PQclear(PQexec(c_, "COPY reading (id, grade, tag, place_id) FROM STDIN"));
    std::string rows;
    for (const std::int64_t id : ids) rows += std::to_string(id) + "\t1\tNEW-" + std::to_string(id) + "\t5\n";
    PQputCopyData(c_, rows.data(), static_cast<int>(rows.size()));
    PQputCopyEnd(c_, nullptr);
    PGresult* r = checked(PQgetResult(c_));
    const std::size_t written = std::strtoull(PQcmdTuples(r), nullptr, 10);
    PQclear(r);
    while (PGresult* rest = PQgetResult(c_)) PQclear(rest);
    run("COMMIT");
    return written;
  }
  std::size_t removeVerified(const std::vector<std::int64_t>& ids) override {
    begin();
    const bool all = readWhole(ids, true).size() == ids.size() * columns_;
    const std::size_t written = remove(ids);
    run("COMMIT");
    return all ? written : 0;
  }
  std::size_t removeBare(const std::vector<std::int64_t>& ids) override {
    begin();
    const std::size_t written = remove(ids);
    run("COMMIT");
    return written;
  }

 private:
  [[noreturn]] void stop() {
    std::fprintf(stderr, "by hand: %s\n", PQerrorMessage(c_));
    std::exit(1);
  }
  PGresult* checked(PGresult* r) {
    const ExecStatusType status = PQresultStatus(r);
    if (status != PGRES_COMMAND_OK && status != PGRES_TUPLES_OK) stop();
    return r;
  }
  std::size_t count(const char* sql, const std::string& keys) {
    const char* values[] = {keys.c_str()};
    PGresult* r = checked(PQexecParams(c_, sql, 1, nullptr, values, nullptr, nullptr, 0));
    const std::size_t out = std::strtoull(PQgetvalue(r, 0, 0), nullptr, 10);
    PQclear(r);
    return out;
  }
  void begin() { run("BEGIN; SET LOCAL enable_hashjoin = off; SET LOCAL enable_mergejoin = off"); }
  static std::string arrayOf(const std::vector<std::int64_t>& numbers) {
    std::string out = "{";
    for (const std::int64_t n : numbers) {
      out += std::to_string(n);
      out += ',';
    }
    out.back() = '}';
    return out;
  }
  // All cells of all records, in the order of the keys.
  std::vector<std::string> readWhole(const std::vector<std::int64_t>& ids, bool lock) {
    const std::string keys = arrayOf(ids);
    const char* values[] = {keys.c_str()};
    const std::string sql = std::string(
                                "SELECT t.* FROM unnest($1::bigint[]) WITH ORDINALITY AS u(k, n) JOIN reading t "
                                "ON t.id = u.k ORDER BY u.n") +
                            (lock ? " FOR UPDATE OF t" : "");
    PGresult* r = checked(PQexecParams(c_, sql.c_str(), 1, nullptr, values, nullptr, nullptr, 0));
    columns_ = static_cast<std::size_t>(PQnfields(r));
    std::vector<std::string> out;
    out.reserve(static_cast<std::size_t>(PQntuples(r)) * columns_);
    for (int i = 0; i < PQntuples(r); ++i) {
      for (int c = 0; c < PQnfields(r); ++c) {
        out.emplace_back(PQgetvalue(r, i, c), static_cast<std::size_t>(PQgetlength(r, i, c)));
      }
    }
    PQclear(r);
    return out;
  }
  std::size_t update(const std::vector<Edit>& edits, const char* guard) {
    std::vector<std::int64_t> ids;
    std::vector<std::int64_t> to;
    std::vector<std::int64_t> from;
    for (const Edit& e : edits) {
      ids.push_back(e.id);
      to.push_back(e.to);
      from.push_back(e.from);
    }
    const std::string a = arrayOf(ids);
    const std::string b = arrayOf(to);
    const std::string o = arrayOf(from);
    const char* values[] = {a.c_str(), b.c_str(), o.c_str()};
    const std::string sql =
        "UPDATE reading t SET grade = u.v FROM unnest($1::bigint[], $2::int[], $3::int[]) AS u(k, v, o) WHERE t.id = "
        "u.k" +
        std::string(guard);
    PGresult* r = checked(PQexecParams(c_, sql.c_str(), 3, nullptr, values, nullptr, nullptr, 0));
    const std::size_t written = std::strtoull(PQcmdTuples(r), nullptr, 10);
    PQclear(r);
    return written;
  }
  std::size_t remove(const std::vector<std::int64_t>& ids) {
    const std::string keys = arrayOf(ids);
    const char* values[] = {keys.c_str()};
    PGresult* r = checked(PQexecParams(c_, "DELETE FROM reading t USING unnest($1::bigint[]) AS u(k) WHERE t.id = u.k",
                                       1, nullptr, values, nullptr, nullptr, 0));
    const std::size_t written = std::strtoull(PQcmdTuples(r), nullptr, 10);
    PQclear(r);
    return written;
  }

  PGconn* c_;
  std::size_t columns_ = 0;
};

}  // namespace

std::unique_ptr<HandServer> handPostgreSql(const std::string& address) {
  return std::make_unique<HandPostgreSql>(address);
}

}  // namespace bench
