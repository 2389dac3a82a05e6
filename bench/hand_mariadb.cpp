#include <mysql.h>

#include <algorithm>
#include <cstdio>
#include <cstdlib>
#include <functional>

#include "hand_servers.h"

namespace bench {
namespace {

constexpr std::size_t kBatch = 10000;

class HandMariaDb : public HandServer {
 public:
  HandMariaDb(const std::string& host, unsigned port, const std::string& user, const std::string& database)
      : c_(mysql_init(nullptr)) {
    if (mysql_real_connect(c_, host.c_str(), user.c_str(), nullptr, database.c_str(), port, nullptr,
                           CLIENT_FOUND_ROWS | CLIENT_MULTI_STATEMENTS) == nullptr) {
      stop();
    }
  }
  HandMariaDb(const HandMariaDb&) = delete;
  HandMariaDb& operator=(const HandMariaDb&) = delete;
  ~HandMariaDb() override { mysql_close(c_); }

  void run(const std::string& sql) override {
    if (mysql_real_query(c_, sql.data(), sql.size()) != 0) stop();
    do {
      if (MYSQL_RES* r = mysql_store_result(c_); r != nullptr) mysql_free_result(r);
    } while (mysql_next_result(c_) == 0);
    if (mysql_errno(c_) != 0) stop();
  }

  std::size_t editVerified(const std::vector<Edit>& edits) override {
    begin();
    std::vector<std::string> before;
    std::vector<std::string> after;
    inBatches(edits.size(),
              [&](std::size_t from, std::size_t to) { readWhole(editsJson(edits, from, to), true, before); });
    for (std::size_t i = 0; i < edits.size(); ++i) {
      if (std::strtoll(before[i * columns_ + 1].c_str(), nullptr, 10) != edits[i].from) stop();
    }
    std::size_t written = 0;
    inBatches(edits.size(),
              [&](std::size_t from, std::size_t to) { written += update(editsJson(edits, from, to), ""); });
    inBatches(edits.size(),
              [&](std::size_t from, std::size_t to) { readWhole(editsJson(edits, from, to), false, after); });
    run("COMMIT");
    return before.size() == after.size() ? written : 0;
  }
  std::size_t readAndCompare(const std::vector<Edit>& edits) override {
    std::size_t same = 0;
    inBatches(edits.size(), [&](std::size_t from, std::size_t to) {
      const std::string sql = "SELECT STRAIGHT_JOIN u.n, t.grade FROM " + source(editsJson(edits, from, to)) +
                              " JOIN reading AS t FORCE INDEX (PRIMARY) ON t.id = u.k";
      if (mysql_real_query(c_, sql.data(), sql.size()) != 0) stop();
      MYSQL_RES* r = mysql_use_result(c_);
      while (MYSQL_ROW row = mysql_fetch_row(r)) {
        const std::size_t at = from + std::strtoull(row[0], nullptr, 10) - 1;
        if (std::strtoll(row[1], nullptr, 10) == edits[at].from) ++same;
      }
      mysql_free_result(r);
    });
    return same;
  }
  std::size_t editBare(const std::vector<Edit>& edits) override {
    begin();
    std::size_t written = 0;
    inBatches(edits.size(), [&](std::size_t from, std::size_t to) {
      written += update(editsJson(edits, from, to), " AND t.grade = u.o");
    });
    run("COMMIT");
    return written;
  }
  std::size_t addVerified(const std::vector<std::int64_t>& ids) override {
    begin();
    std::vector<std::string> taken;
    std::vector<std::string> after;
    inBatches(ids.size(), [&](std::size_t from, std::size_t to) { readWhole(idsJson(ids, from, to), false, taken); });
    if (!taken.empty() || affected("DO (SELECT 1 FROM place WHERE place_id = 5)") != 0) stop();
    const std::size_t written = insert(ids);
    inBatches(ids.size(), [&](std::size_t from, std::size_t to) { readWhole(idsJson(ids, from, to), false, after); });
    run("COMMIT");
    return after.size() == ids.size() * columns_ ? written : 0;
  }
  std::size_t addBare(const std::vector<std::int64_t>& ids) override {
    begin();
    const std::size_t written = insert(ids);
    run("COMMIT");
    return written;
  }
  std::size_t removeVerified(const std::vector<std::int64_t>& ids) override {
    begin();
    std::vector<std::string> before;
    inBatches(ids.size(), [&](std::size_t from, std::size_t to) { readWhole(idsJson(ids, from, to), true, before); });
    const std::size_t written = remove(ids);
    run("COMMIT");
    return before.size() == ids.size() * columns_ ? written : 0;
  }
  std::size_t removeBare(const std::vector<std::int64_t>& ids) override {
    begin();
    const std::size_t written = remove(ids);
    run("COMMIT");
    return written;
  }

 private:
  [[noreturn]] void stop() {
    std::fprintf(stderr, "by hand: %s\n", mysql_error(c_));
    std::exit(1);
  }
  void begin() { run("SET TRANSACTION ISOLATION LEVEL READ COMMITTED; START TRANSACTION"); }
  static void inBatches(std::size_t count, const std::function<void(std::size_t, std::size_t)>& work) {
    for (std::size_t at = 0; at < count; at += kBatch) work(at, std::min(count, at + kBatch));
  }
  static std::string editsJson(const std::vector<Edit>& edits, std::size_t from, std::size_t to) {
    std::string out = "[";
    for (std::size_t i = from; i < to; ++i) {
      out += (i > from ? ",[" : "[") + std::to_string(edits[i].id) + "," + std::to_string(edits[i].to) + "," +
             std::to_string(edits[i].from) + "]";
    }
    return out + "]";
  }
  static std::string idsJson(const std::vector<std::int64_t>& ids, std::size_t from, std::size_t to) {
    std::string out = "[";
    for (std::size_t i = from; i < to; ++i) out += (i > from ? ",[" : "[") + std::to_string(ids[i]) + "]";
    return out + "]";
  }
  static std::string source(const std::string& json) {
    return "JSON_TABLE('" + json +
           "', '$[*]' COLUMNS (n FOR ORDINALITY, k BIGINT PATH '$[0]', v INT PATH '$[1]', o INT PATH '$[2]')) AS u";
  }
  std::size_t affected(const std::string& sql) {
    if (mysql_real_query(c_, sql.data(), sql.size()) != 0) stop();
    return mysql_affected_rows(c_);
  }
  void readWhole(const std::string& json, bool lock, std::vector<std::string>& out) {
    const std::string sql = "SELECT STRAIGHT_JOIN t.* FROM " + source(json) +
                            " JOIN reading AS t FORCE INDEX (PRIMARY) ON t.id = u.k" + (lock ? " FOR UPDATE" : "");
    if (mysql_real_query(c_, sql.data(), sql.size()) != 0) stop();
    MYSQL_RES* r = mysql_use_result(c_);
    columns_ = mysql_num_fields(r);
    while (MYSQL_ROW row = mysql_fetch_row(r)) {
      const unsigned long* lengths = mysql_fetch_lengths(r);
      for (std::size_t c = 0; c < columns_; ++c) {
        out.emplace_back(row[c] == nullptr ? "" : row[c], row[c] == nullptr ? 0 : lengths[c]);
      }
    }
    mysql_free_result(r);
  }
  std::size_t update(const std::string& json, const std::string& guard) {
    return affected("UPDATE " + source(json) +
                    " STRAIGHT_JOIN reading AS t FORCE INDEX (PRIMARY) SET t.grade = u.v WHERE "
                    "t.id = u.k" +
                    guard);
  }
  std::size_t insert(const std::vector<std::int64_t>& ids) {
    std::size_t written = 0;
    inBatches(ids.size(), [&](std::size_t from, std::size_t to) {
      std::string sql = "INSERT INTO reading (id, grade, tag, place_id) VALUES ";
      for (std::size_t i = from; i < to; ++i) {
        const std::string id = std::to_string(ids[i]);
        sql += (i > from ? ",(" : "(") + id + ",1,'NEW-" + id + "',5)";
      }
      written += affected(sql);
    });
    return written;
  }
  std::size_t remove(const std::vector<std::int64_t>& ids) {
    std::size_t written = 0;
    inBatches(ids.size(), [&](std::size_t from, std::size_t to) {
      written += affected("DELETE t FROM " + source(idsJson(ids, from, to)) +
                          " STRAIGHT_JOIN reading AS t FORCE INDEX (PRIMARY) WHERE t.id = u.k");
    });
    return written;
  }

  MYSQL* c_;
  std::size_t columns_ = 0;
};

}  // namespace

std::unique_ptr<HandServer> handMariaDb(const std::string& host, unsigned port, const std::string& user,
                                        const std::string& database) {
  return std::make_unique<HandMariaDb>(host, port, user, database);
}

}  // namespace bench
