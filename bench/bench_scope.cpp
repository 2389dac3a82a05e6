// bench_scope ADDRESS RECORDS [RECORDS…]: getting to the right records: first screen, jumps, filters, orders, values,
// against hand-written queries in the same run, as ratios; medians of five alternating runs (of short ones: 21).
// ADDRESS is a file, or a database on a server, in which the table "reading" is made anew. With several numbers of
// records it also prints how the times grow.
#include <algorithm>
#include <cstdio>
#include <filesystem>
#include <numeric>
#include <thread>

#include "core/engines/session.h"
#include "core/scope/condition_text.h"
#include "core/scope/key_index.h"
#include "core/scope/scope.h"
#include "hand_reader.h"
#include "measure.h"

namespace {

using namespace iterandum;
using bench::median;
using bench::stop;
using bench::take;
using bench::timed;

// What the window asks for: the first screen, and what lies round a place that is jumped to.
constexpr std::uint64_t kScreen = 300;
constexpr std::size_t kAround = 150;

class Bench {
 public:
  Bench(const std::string& address, std::int64_t records)
      : address_(address), records_(records), hand_(bench::handReader(address)) {
    fill();
    session_ = take(openSession(address_));
    Progress progress;
    catalogue_ = take(session_->readCatalogue(progress));
    table_ = catalogue_.find({"", "reading"});
    if (table_ == nullptr) stop("the table was not made");
  }

  void run() {
    std::printf("\n| %lld records | ours, ms | by hand, ms | ratio | goal |\n|---|---:|---:|---:|---|\n",
                static_cast<long long>(records_));
    const std::string all = "SELECT " + columns() + " FROM reading ";
    const std::string screen = " LIMIT " + std::to_string(kScreen);
    compare(
        "first screen", "1.2", [&] { return select({}, {}); }, all + "ORDER BY id" + screen);
    compare(
        "first screen, filter on an indexed column", "stated", [&] { return select("tag = QH-5", {}); },
        all + "WHERE tag = 'QH-5' ORDER BY id" + screen);
    compare(
        "first screen, filter on a column without index", "stated", [&] { return select("level = 7", {}); },
        all + "WHERE level = 7 ORDER BY id" + screen);
    compare(
        "first screen, part of a text in any case", "stated", [&] { return select("note contains 'NOTE 77'", {}); },
        all + "WHERE " + folded("note") + " LIKE '%note 77%' ORDER BY id" + screen);
    compare(
        "count, part of a text in any case", "stated", [&] { return count("note contains 'NOTE 77'"); },
        "SELECT count(*) FROM reading WHERE " + folded("note") + " LIKE '%note 77%'");
    compare(
        "first screen, by two columns each its way", "stated",
        [&] {
          return select({}, {{"grade", true}, {"level", false}});
        },
        all + "ORDER BY grade DESC, level, id" + screen);
    byName(screen);
    compare(
        "the different values of a column", "stated", [&] { return values("grade"); },
        "SELECT grade, count(*) FROM reading GROUP BY grade ORDER BY 2 DESC");
    indexing("keys in the order of a reference's name", nameOrder(),
             "SELECT reading.id FROM reading LEFT JOIN place ON place.id = place_id ORDER BY name, reading.id");
    indexing("keys in the order of the key", {}, "SELECT id FROM reading ORDER BY id");
    jumps("by key");
    indexing("keys in the order of a column without index", {{"level", false}},
             "SELECT id FROM reading ORDER BY level, id");
    jumps("by a column without index");
    stopping();
  }

 private:
  // By the names of the records that a reference points at; by hand, the join.
  void byName(const std::string& screen) {
    const std::string joined = "FROM reading JOIN place ON place.id = place_id ";
    const std::string own = "SELECT reading.id, grade, tag, place_id, note, height, level, planted ";
    const std::string fits = "WHERE " + folded("name") + " LIKE '%lace 77%' ";
    compare(
        "first screen, filter by a reference's name", "1.3", [&] { return select("place_id 'Place 77'", {}); },
        own + joined + "WHERE name = 'Place 77' ORDER BY reading.id" + screen);
    compare(
        "count, filter by a part of a reference's name", "1.3", [&] { return count("place_id lace 77"); },
        "SELECT count(*) " + joined + fits);
    compare(
        "first screen, by a reference's name", "1.3", [&] { return select({}, nameOrder()); },
        own + "FROM reading LEFT JOIN place ON place.id = place_id ORDER BY name, reading.id" + screen);
  }
  [[nodiscard]] std::vector<SortKey> nameOrder() const {
    std::vector<ScopeProblem> problems;
    ScopeOrder order{"place_id"};
    order.byName = true;
    return take(readScope({"reading", {}, {order}, {}}, contextNow(catalogue_), problems)).order;
  }

  [[nodiscard]] bool isServer() const { return address_.find("://") != std::string::npos; }
  [[nodiscard]] bool isPostgreSql() const { return address_.rfind("postgresql", 0) == 0; }
  static std::string columns() { return "id, grade, tag, place_id, note, height, level, planted"; }
  // By hand, a text is folded as the engine does it by itself.
  [[nodiscard]] std::string folded(const std::string& column) const {
    return isPostgreSql() ? "lower(" + column + ")" : column;
  }

  void fill() {
    const std::string n = std::to_string(records_);
    const std::string cells =
        "i % 5, " + std::string(isServer() ? "concat('QH-', i)" : "'QH-' || i") + ", i % 1000 + 1, " +
        (isServer() ? "concat('a note ', i % 5000)" : "'a note ' || (i % 5000)") + ", (i % 300) / 10.0, (CAST(i AS " +
        (isServer() && !isPostgreSql() ? "SIGNED" : "BIGINT") + ") * 7919) % " + n + ", '2019-04-01'";
    if (!isServer()) hand_->run("PRAGMA journal_mode = OFF; PRAGMA synchronous = OFF");
    hand_->run("DROP TABLE IF EXISTS reading");
    hand_->run("DROP TABLE IF EXISTS place");
    hand_->run("CREATE TABLE place (id INTEGER PRIMARY KEY, name VARCHAR(40) NOT NULL)");
    fillPlaces();
    hand_->run(
        "CREATE TABLE reading (id INTEGER PRIMARY KEY, grade INTEGER, tag VARCHAR(20), place_id INTEGER, note "
        "VARCHAR(40), height DECIMAL(5,2), level INTEGER, planted DATE, FOREIGN KEY (place_id) REFERENCES place (id))");
    if (isPostgreSql()) {
      std::string typed = cells;
      typed.replace(typed.find("'2019-04-01'"), 12, "date '2019-04-01'");
      hand_->run("INSERT INTO reading SELECT i, " + typed + " FROM generate_series(1, " + n + ") AS s(i)");
    } else if (isServer()) {
      hand_->run("INSERT INTO reading SELECT seq, " + withSequence(cells) + " FROM seq_1_to_" + n);
    } else {
      hand_->run("WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < " + n +
                 ") INSERT INTO reading SELECT i, " + cells + " FROM n");
    }
    hand_->run("CREATE INDEX reading_tag ON reading (tag)");
    hand_->run(isServer() && !isPostgreSql() ? "ANALYZE TABLE reading" : "ANALYZE");
    if (isPostgreSql()) hand_->run("VACUUM reading");
  }

  // A thousand places, whose names are in another order than their keys.
  void fillPlaces() {
    std::string values;
    for (int id = 1; id <= 1000; ++id) {
      values += (id > 1 ? ", (" : "(") + std::to_string(id) + ", 'Place " + std::to_string(id * 617 % 1000) + "')";
    }
    hand_->run("INSERT INTO place VALUES " + values);
  }

  // The counter, called i elsewhere, as MariaDB's sequence tables call it.
  static std::string withSequence(const std::string& text) {
    std::string out;
    for (std::size_t at = 0; at < text.size(); ++at) {
      const bool alone = text[at] == 'i' && (at == 0 || (isalpha(static_cast<unsigned char>(text[at - 1])) == 0)) &&
                         (at + 1 == text.size() || isalpha(static_cast<unsigned char>(text[at + 1])) == 0);
      out += alone ? std::string("seq") : std::string(1, text[at]);
    }
    return out;
  }

  [[nodiscard]] Query query(const std::string& where, const std::vector<SortKey>& order) const {
    Query out;
    out.table = table_;
    if (!where.empty()) out.where = take(parseCondition(*table_, where, contextNow(catalogue_)));
    out.order = order;
    return out;
  }
  std::size_t select(const std::string& where, const std::vector<SortKey>& order) const {
    Query q = query(where, order);
    q.columns = table_->recordColumns();
    q.limit = kScreen;
    std::vector<ValueTuple> rows;
    Progress progress;
    check(session_->select(
        q,
        [&](ValueTuple&& row) {
          rows.push_back(std::move(row));
          return true;
        },
        progress));
    return rows.size();
  }
  std::size_t count(const std::string& where) const {
    Progress progress;
    return take(session_->count(query(where, {}), progress)) > 0 ? 1 : 0;
  }
  std::size_t values(const std::string& column) const {
    std::size_t found = 0;
    Progress progress;
    check(session_->distinctValues(
        query({}, {}), {{}, column}, 2000,
        [&](Value&&, std::uint64_t) {
          ++found;
          return true;
        },
        progress));
    return found;
  }
  static void check(const Status& status) {
    if (!status) stop(status.error().text());
  }

  static void row(const char* what, double ours, double theirs, const char* goal) {
    std::printf("| %s | %.2f | %.2f | %.2f | %s |\n", what, ours, theirs, ours / theirs, goal);
    std::fflush(stdout);
  }

  template <typename Ours>
  void compare(const char* what, const char* goal, const Ours& ours, const std::string& sql) {
    if (ours() != hand_->rows(sql)) stop(std::string(what) + ": not the same records");
    std::vector<double> a;
    std::vector<double> b;
    double spent = 0;
    for (int run = 0; run < 21 && (run < 5 || spent < 1500); ++run) {
      a.push_back(timed([&] { ours(); }));
      b.push_back(timed([&] { hand_->rows(sql); }));
      spent += a.back() + b.back();
    }
    row(what, median(a), median(b), goal);
  }

  void indexing(const char* what, const std::vector<SortKey>& order, const std::string& sql) {
    Query q = query({}, order);
    q.columns = table_->writeKeyColumns();
    const auto read = [&] {
      index_ = KeyIndex(1);
      Progress progress;
      check(session_->select(
          q,
          [&](ValueTuple&& key) {
            index_.push(std::move(key));
            return true;
          },
          progress));
    };
    std::vector<std::int64_t> theirs;
    std::vector<double> a;
    std::vector<double> b;
    for (int run = 0; run < 3; ++run) {
      a.push_back(timed(read));
      b.push_back(timed([&] { theirs = hand_->numbers(sql); }));
    }
    for (std::size_t i = 0; i < theirs.size(); i += 997) {
      if (index_.at(i, 0).asInteger() != theirs[i]) stop("not the same order");
    }
    row(what, median(a), median(b), "stated");
    std::printf("| memory of that index: %.2f bytes a record | | | | 8 |\n",
                static_cast<double>(index_.memoryBytes()) / static_cast<double>(index_.size()));
  }

  // To the middle and to the end: the records round there by their keys, as the window does it; by hand the same
  // records are looked up by key in one query.
  void jumps(const char* what) {
    for (const bool end : {false, true}) {
      const std::size_t at = end ? index_.size() - kAround : index_.size() / 2;
      std::string list;
      for (std::size_t i = 0; i < kAround; ++i) list += (i > 0 ? "," : "") + canonicalText(index_.at(at + i, 0));
      const auto ours = [&] {
        std::vector<ValueColumn> keys(1);
        for (std::size_t i = 0; i < kAround; ++i) keys[0].push(index_.at(at + i, 0));
        std::vector<std::uint32_t> positions(kAround);
        std::iota(positions.begin(), positions.end(), 0U);
        const KeyRead read{table_, table_->writeKeyColumns(), &keys, positions, table_->recordColumns(), 1};
        std::vector<ValueTuple> rows;
        Progress progress;
        check(session_->readByKeys(
            read, [&](std::size_t, ValueTuple&& record) { rows.push_back(std::move(record)); }, progress));
        return rows.size();
      };
      const std::string name = std::string("jump to the ") + (end ? "end, " : "middle, ") + what;
      compare(name.c_str(), "3", ours, "SELECT " + columns() + " FROM reading WHERE id IN (" + list + ")");
    }
  }

  // From the wish to stop a query that would run long to the session being free again.
  void stopping() const {
    std::string where = "note contains x0";
    for (int i = 1; i < 60; ++i) where += " or x" + std::to_string(i);
    std::vector<double> times;
    for (int run = 0; run < 5; ++run) {
      Progress progress;
      double ended = 0;
      std::chrono::steady_clock::time_point wished;
      std::thread stopper([&] {
        std::this_thread::sleep_for(std::chrono::milliseconds(200));
        wished = std::chrono::steady_clock::now();
        progress.cancel();
      });
      const auto counted = session_->count(query(where, {}), progress);
      stopper.join();
      ended = std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - wished).count();
      if (counted) return;  // too short to be stopped
      Progress after;
      if (!session_->count(query("tag = QH-5", {}), after)) stop("the session did not live on");
      times.push_back(ended);
    }
    std::printf("| stop a query that runs long | %.1f | | | 200 |\n", median(times));
  }

  std::string address_;
  std::int64_t records_;
  std::unique_ptr<bench::HandReader> hand_;
  std::unique_ptr<Session> session_;
  Catalogue catalogue_;
  const Table* table_ = nullptr;
  KeyIndex index_{1};
};

}  // namespace

int main(int argc, char** argv) {
  if (argc < 3) {
    std::fprintf(stderr, "usage: bench_scope ADDRESS RECORDS [RECORDS…]\n");
    return 2;
  }
  for (int i = 2; i < argc; ++i) {
    Bench bench(argv[1], std::atoll(argv[i]));
    bench.run();
  }
  return 0;
}
