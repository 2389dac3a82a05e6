// bench_servers ADDRESS [RECORDS [WHAT]]: the core against hand-written programs on a server, medians of five
// alternating runs (31 of the shortest), as ratios; the address names a server, a database "iterandum_bench" is made
// there anew. With a line that takes 5 ms more for each round trip besides, and the round trips counted.
#include <algorithm>
#include <chrono>
#include <cstdio>
#include <cstdlib>
#include <fstream>
#include <functional>

#include "core/apply/apply.h"
#include "core/engines/common/address.h"
#include "core/engines/session.h"
#include "hand_servers.h"
#include "measure.h"
#include "support/proxy.h"

namespace {

using namespace iterandum;
constexpr int kRuns = 5;
constexpr int kShortRuns = 31;  // of what takes milliseconds
constexpr const char* kDatabase = "iterandum_bench";

using bench::median;
using bench::stop;
using bench::take;
using bench::timed;

class Bench {
 public:
  Bench(std::string address, std::int64_t records) : address_(std::move(address)), records_(records) {
    parts_ = take(serverAddress(address_));
    postgreSql_ = address_.rfind("postgresql", 0) == 0;
    connectHand(postgreSql_ ? "postgres" : "mysql")->run(std::string("DROP DATABASE IF EXISTS ") + kDatabase);
    connectHand(postgreSql_ ? "postgres" : "mysql")->run(std::string("CREATE DATABASE ") + kDatabase);
    hand_ = connectHand(kDatabase);
    fill();
    open(parts_.hosts[0].port);
  }

  // `only`: edits, additions, reviews or line; empty: all.
  void run(const std::string& only) {
    std::printf(
        "| what | ours, ms | verified by hand, ms | ratio | barest way, ms | ratio "
        "|\n|---|---:|---:|---:|---:|---:|\n");
    const auto wanted = [&](const char* what) { return only.empty() || only == what; };
    for (const std::size_t n : {100U, 10000U, 100000U}) {
      if (wanted("edits")) editing(n);
    }
    for (const std::size_t n : {100U, 10000U, 100000U}) {
      if (wanted("additions")) adding(n);
    }
    for (const std::size_t n : {100U, 10000U, 100000U}) {
      if (wanted("reviews")) reviewing(n);
    }
    if (!wanted("line")) return;
    const unsigned port = static_cast<unsigned>(std::stoul(parts_.hosts[0].port));
    std::printf("\n| with 5 ms more for each round trip | ours, ms | round trips |\n|---|---:|---:|\n");
    for (const std::size_t n : {100U, 1000U, 10000U, 100000U}) slow(n, port);
    std::ifstream status("/proc/self/status");
    for (std::string word; status >> word;) {
      if (word != "VmHWM:") continue;
      double kib = 0;
      status >> kib;
      std::printf("\nMost memory held at any time, hand-written programs included: %.0f MiB.\n", kib / 1024);
    }
  }

 private:
  [[nodiscard]] std::unique_ptr<bench::HandServer> connectHand(const std::string& database) const {
    if (postgreSql_) {
      return bench::handPostgreSql("postgresql://" + parts_.user + "@" + parts_.hosts[0].name + ":" +
                                   parts_.hosts[0].port + "/" + database);
    }
    return bench::handMariaDb(parts_.hosts[0].name, static_cast<unsigned>(std::stoul(parts_.hosts[0].port)),
                              parts_.user, database);
  }

  void open(const std::string& port) {
    session_.reset();
    session_ = take(openSession(std::string(postgreSql_ ? "postgresql://" : "mariadb://") + parts_.user +
                                "@127.0.0.1:" + port + "/" + kDatabase));
    Progress progress;
    catalogue_ = take(session_->readCatalogue(progress));
  }

  void fill() {
    const std::string n = std::to_string(records_);
    hand_->run("CREATE TABLE place (place_id INTEGER PRIMARY KEY, name VARCHAR(40))");
    hand_->run(
        "CREATE TABLE reading (id BIGINT PRIMARY KEY, grade INTEGER CHECK (grade BETWEEN 0 AND 9), tag VARCHAR(20) NOT "
        "NULL, place_id INTEGER REFERENCES place (place_id), note TEXT, height DECIMAL(5,2), girth INTEGER, planted "
        "DATE, "
        "seen DATE, source VARCHAR(20), depth DOUBLE PRECISION, counted INTEGER, remark VARCHAR(20))");
    const std::string numbers = postgreSql_ ? "generate_series(1, " + n + ") AS s(i)" : "";
    const std::string cells =
        "i % 5, concat('QH-', i), i % 1000 + 1, CASE WHEN i % 7 = 0 THEN 'a note of middling length' END, (i % 300) / "
        "10.0, "
        "i % 2000, " +
        std::string(postgreSql_ ? "date '1910-04-01' + (i % 30000)::int, date '2026-01-01' + (i % 9)::int"
                                : "'1910-04-01' + INTERVAL (i % 30000) DAY, '2026-01-01' + INTERVAL (i % 9) DAY") +
        ", 'yard list', i / 3.0, i % 12, CASE WHEN i % 3 = 0 THEN '' END";
    if (postgreSql_) {
      hand_->run("INSERT INTO place SELECT i, 'place ' || i FROM generate_series(1, 1000) AS s(i)");
      hand_->run("INSERT INTO reading SELECT i, " + cells + " FROM " + numbers);
    } else {
      hand_->run("INSERT INTO place SELECT seq, concat('place ', seq) FROM seq_1_to_1000");
      hand_->run("INSERT INTO reading SELECT i, " + cells + " FROM (SELECT seq AS i FROM seq_1_to_" + n + ") s");
    }
    hand_->run("CREATE INDEX reading_tag ON reading (tag)");
    hand_->run("CREATE INDEX reading_place ON reading (place_id)");
    hand_->run(postgreSql_ ? "VACUUM ANALYZE" : "ANALYZE TABLE reading");
  }

  [[nodiscard]] std::vector<bench::Edit> edits(std::size_t count) const {
    std::vector<bench::Edit> out;
    std::int64_t id = 1;
    for (std::size_t i = 0; i < count; ++i) {
      id = (id + 7919 * 97) % records_;
      out.push_back({id + 1, (id + 1) % 5, 9});
    }
    return out;
  }
  static ChangeList changeList(const std::vector<bench::Edit>& edits) {
    ChangeList list;
    for (const bench::Edit& e : edits) {
      Change change;
      change.table.name = "reading";
      change.keyColumns = {"id"};
      change.key = {Value::integer(e.id)};
      change.cells = {{"grade", true, Value::integer(e.from), Value::integer(e.to)}};
      list.add(change);
    }
    return list;
  }
  void apply(const ChangeList& changes, std::size_t count) {
    Progress progress;
    const auto result = take(applyChanges(*session_, catalogue_, changes, {}, progress));
    if (!result.receipt || result.receipt->appliedCount() != count) stop("not everything was applied");
  }

  void measure(const std::string& name, const std::function<void()>& ours, const std::function<void()>& verified,
               const std::function<void()>& bare, const std::function<void()>& reset) {
    std::vector<double> times[3];
    const std::function<void()> works[3] = {ours, verified, bare};
    int runs = kRuns;
    for (int run = 0; run < runs; ++run) {
      for (int w = 0; w < 3; ++w) {
        if (!works[w]) continue;
        times[w].push_back(timed(works[w]));
        reset();
      }
      if (times[0][0] < 30) runs = kShortRuns;
    }
    const double mine = median(times[0]);
    const double careful = median(times[1]);
    std::printf("| %s | %.1f | %.1f | %.2f |", name.c_str(), mine, careful, mine / careful);
    if (bare) std::printf(" %.1f | %.2f |\n", median(times[2]), mine / median(times[2]));
    if (!bare) std::printf(" | |\n");
    std::fflush(stdout);
  }

  void putBack(const std::vector<bench::Edit>& list) {
    std::vector<bench::Edit> back = list;
    for (bench::Edit& e : back) std::swap(e.from, e.to);
    hand_->editBare(back);
    settle();
  }
  // Dead rows of the runs before would slow the later ones down.
  void settle() { hand_->run(postgreSql_ ? "VACUUM reading" : "SELECT 1"); }

  void editing(std::size_t count) {
    const auto list = edits(count);
    const ChangeList changes = changeList(list);
    measure(
        "apply " + std::to_string(count) + " edits", [&] { apply(changes, count); },
        [&] {
          if (hand_->editVerified(list) != count) stop("by hand: not everything was written");
        },
        [&] {
          if (hand_->editBare(list) != count) stop("by hand: not everything was written");
        },
        [&] { putBack(list); });
  }

  void adding(std::size_t count) {
    std::vector<std::int64_t> ids;
    ChangeList additions;
    ChangeList removals;
    for (std::size_t i = 0; i < count; ++i) {
      const std::int64_t id = records_ + 1 + static_cast<std::int64_t>(i);
      ids.push_back(id);
      Change change;
      change.action = Action::Add;
      change.table.name = "reading";
      change.cells = {{"id", false, {}, Value::integer(id)},
                      {"grade", false, {}, Value::integer(1)},
                      {"tag", false, {}, Value::text("NEW-" + std::to_string(id))},
                      {"place_id", false, {}, Value::integer(5)}};
      additions.add(change);
      Change removal;
      removal.action = Action::Remove;
      removal.table.name = "reading";
      removal.keyColumns = {"id"};
      removal.key = {Value::integer(id)};
      removal.cells = {{"grade", true, Value::integer(1), {}}};
      removals.add(removal);
    }
    const std::string n = std::to_string(count);
    const auto mustBe = [&](std::size_t written) {
      if (written != count) stop("by hand: not everything was written");
    };
    measure(
        "apply " + n + " additions", [&] { apply(additions, count); }, [&] { mustBe(hand_->addVerified(ids)); },
        [&] { mustBe(hand_->addBare(ids)); },
        [&] {
          hand_->removeBare(ids);
          settle();
        });
    hand_->addBare(ids);
    settle();
    measure(
        "apply " + n + " removals", [&] { apply(removals, count); }, [&] { mustBe(hand_->removeVerified(ids)); },
        [&] { mustBe(hand_->removeBare(ids)); },
        [&] {
          hand_->addBare(ids);
          settle();
        });
    hand_->removeBare(ids);
    settle();
  }

  void reviewing(std::size_t count) {
    const auto list = edits(count);
    const ChangeList changes = changeList(list);
    measure(
        "review " + std::to_string(count) + " edits by reading / read and compare",
        [&] {
          Progress progress;
          ReviewOptions options;
          options.withScript = false;
          options.rehearse = false;
          if (!take(reviewChanges(*session_, catalogue_, changes, options, progress)).ready) stop("not ready");
        },
        [&] {
          if (hand_->readAndCompare(list) != count) stop("by hand: something differs");
        },
        {}, [] {});
  }

  void slow(std::size_t count, unsigned port) {
    const test::Proxy line(port, 0, std::chrono::milliseconds(5));
    open(std::to_string(line.port()));
    const auto list = edits(count);
    const ChangeList changes = changeList(list);
    std::vector<double> times;
    std::uint64_t trips = 0;
    for (int run = 0; run < 3; ++run) {
      const std::uint64_t before = line.roundTrips();
      times.push_back(timed([&] { apply(changes, count); }));
      trips = line.roundTrips() - before;
      putBack(list);
    }
    std::printf("| apply %zu edits | %.1f | %llu |\n", count, median(times), static_cast<unsigned long long>(trips));
    std::fflush(stdout);
    session_.reset();
  }

  std::string address_;
  std::int64_t records_;
  ServerAddress parts_;
  bool postgreSql_ = false;
  std::unique_ptr<bench::HandServer> hand_;
  std::unique_ptr<Session> session_;
  Catalogue catalogue_;
};

}  // namespace

int main(int argc, char** argv) {
  if (argc < 2) stop("usage: bench_servers ADDRESS [RECORDS [edits|additions|reviews|line]]");
  Bench(argv[1], argc > 2 ? std::strtoll(argv[2], nullptr, 10) : 1000000).run(argc > 3 ? argv[3] : "");
}
