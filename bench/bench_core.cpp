// bench_core FOLDER [RECORDS]: the core against hand-written programs, medians of seven (of short ones: 51) alternating
// runs, as ratios.
#include <algorithm>
#include <chrono>
#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <functional>
#include <string>

#include "core/apply/apply.h"
#include "core/changes/change_set.h"
#include "core/engines/session.h"
#include "core/store/log_owner.h"
#include "core/store/receipt_keeper.h"
#include "hand_written.h"
#include "measure.h"

namespace {

using namespace iterandum;
constexpr int kRuns = 7;
constexpr int kManyRuns = 51;

using bench::median;
using bench::stop;
using bench::take;
using bench::timed;

// Ours and theirs in turn, so that what the machine does meanwhile falls on both; each pair begins from the same state.
struct Pair {
  double ours;
  double theirs;
};
Pair compare(const std::function<void()>& ours, const std::function<void()>& theirs, const std::function<void()>& reset,
             int runs = kRuns) {
  std::vector<double> a;
  std::vector<double> b;
  for (int run = 0; run < runs; ++run) {
    reset();
    a.push_back(timed(ours));
    reset();
    b.push_back(timed(theirs));
  }
  return {median(a), median(b)};
}

void row(const char* what, const Pair& p, const char* goal) {
  std::printf("| %s | %.1f | %.1f | %.2f | %s |\n", what, p.ours, p.theirs, p.ours / p.theirs, goal);
  std::fflush(stdout);
}

class Bench {
 public:
  Bench(std::string folder, std::int64_t records) : folder_(std::move(folder)), records_(records) {
    path_ = folder_ + "/bench.sqlite";
    make();
  }

  // `only`: one of apply, review, open, gesture; empty: all.
  void run(const std::string& only) {
    const auto wanted = [&](const char* what) { return only.empty() || only == what; };
    std::printf("| what | ours, ms | by hand, ms | ratio | goal |\n|---|---:|---:|---:|---|\n");
    for (const std::size_t n : {100U, 10000U, 100000U}) {
      if (wanted("apply")) applying(n);
    }
    for (const std::size_t n : {100U, 10000U, 100000U}) {
      if (wanted("review")) reviewing(n);
    }
    if (wanted("open")) opening();
    if (wanted("gesture")) gesture();
  }

 private:
  void make() {
    std::filesystem::remove(path_);
    auto db = take(SqliteHandle::open(path_, SQLITE_OPEN_READWRITE | SQLITE_OPEN_CREATE));
    const std::string sql =
        "PRAGMA synchronous = OFF; CREATE TABLE place (place_id INTEGER PRIMARY KEY, name TEXT);"
        "CREATE TABLE reading (id INTEGER PRIMARY KEY, grade INTEGER CHECK (grade BETWEEN 0 AND 9), tag TEXT NOT NULL, "
        "place_id INTEGER "
        "REFERENCES place, note TEXT, height DECIMAL(5,2), girth INTEGER, planted DATE, seen DATE, source TEXT, depth "
        "REAL, count INTEGER, remark TEXT);"
        "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 1000) INSERT INTO place SELECT i, "
        "'place ' || i FROM n;"
        "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < " +
        std::to_string(records_) +
        ") INSERT INTO reading "
        "SELECT i, i % 5, 'QH-' || i, i % 1000 + 1, CASE WHEN i % 7 = 0 THEN 'a note of middling length' END, i % 300 "
        "/ 10.0, i % 2000, "
        "'19' || (i % 90 + 10) || '-04-01', '2026-01-0' || (i % 9 + 1), 'yard list', i / 3.0, i % 12, CASE WHEN i % 3 "
        "= 0 THEN '' END FROM n;"
        "CREATE INDEX reading_tag ON reading (tag); CREATE INDEX reading_place ON reading (place_id); ANALYZE";
    if (Status status = db->run(sql); !status) stop(status.error().text());
    db.reset();
    session_ = take(openSession(path_));
    Progress progress;
    catalogue_ = take(session_->readCatalogue(progress));
    table_ = catalogue_.find({"", "reading"});
    store_ = take(Store::open(folder_ + "/bench-store.sqlite"));
  }

  // Spread over the whole table, in no order.
  [[nodiscard]] std::vector<bench::Edit> edits(std::size_t count) const {
    std::vector<bench::Edit> out;
    std::int64_t id = 1;
    for (std::size_t i = 0; i < count; ++i) {
      id = (id + 7919 * 97) % records_;
      out.push_back({id + 1, (id + 1) % 5, 9});
    }
    return out;
  }

  [[nodiscard]] static ChangeList changeList(const std::vector<bench::Edit>& edits) {
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

  void putBack(const std::vector<bench::Edit>& edits) {
    std::vector<bench::Edit> back = edits;
    for (bench::Edit& e : back) std::swap(e.from, e.to);
    bench::applyBare(path_, back);
  }

  void applying(std::size_t count) {
    const auto list = edits(count);
    const ChangeList changes = changeList(list);
    bool first = true;
    const auto reset = [&] {
      if (!first) putBack(list);
      first = false;
    };
    const auto ours = [&] {
      Progress progress;
      ApplyOptions options;
      StoreReceiptKeeper keeper(*store_);
      options.keeper = &keeper;
      const auto result = take(applyChanges(*session_, catalogue_, changes, options, progress));
      if (!result.receipt || result.receipt->appliedCount() != count) stop("not everything was applied");
      if (result.afterwards) stop("no receipt");
    };
    const auto verified = [&] {
      if (bench::applyVerified(path_, list) != count) stop("by hand: not everything was written");
    };
    const auto bare = [&] {
      if (bench::applyBare(path_, list) != count) stop("by hand: not everything was written");
    };
    const std::string name =
        "apply " + std::to_string(count) + " edits, receipt on disk / verified, records read before and after";
    // What lasts milliseconds is measured more often: the disk has its moods.
    const int runs = count <= 100 ? kManyRuns : kRuns;
    row(name.c_str(), compare(ours, verified, reset, runs), "1.3");
    const std::string bareName = "the same / barest way";
    row(bareName.c_str(), compare(ours, bare, reset, runs), "stated");
    putBack(list);
  }

  void reviewing(std::size_t count) {
    const auto list = edits(count);
    const ChangeList changes = changeList(list);
    const auto ours = [&] {
      Progress progress;
      ReviewOptions options;
      options.rehearse = false;
      options.withScript = false;
      const Review review = take(reviewChanges(*session_, catalogue_, changes, options, progress));
      if (!review.ready) stop("the review found something");
    };
    const auto hand = [&] {
      if (bench::readAndCompare(path_, list) != count) stop("by hand: something differs");
    };
    const std::string name = "review " + std::to_string(count) + " edits by reading / read and compare";
    row(name.c_str(), compare(ours, hand, [] {}), "1.5");
  }

  void readScreen(Session& session) {
    Progress progress;
    Query query;
    query.table = table_;
    query.columns = table_->recordColumns();
    query.limit = 300;
    std::vector<ValueTuple> rows;
    const auto keep = [&](ValueTuple&& r) {
      rows.push_back(std::move(r));
      return true;
    };
    if (!session.select(query, keep, progress)) stop("cannot read");
    if (rows.size() != 300) stop("too few rows");
  }

  void opening() {
    const auto nothing = [] {};
    row("first screen of 300 records / bare query",
        compare([&] { readScreen(*session_); },
                [&] {
                  if (bench::firstScreenOfOpenFile(path_, 300) != 300) stop("by hand: too few rows");
                },
                nothing, kManyRuns),
        "1.2");
    row("the same, the file opened as well",
        compare([&] { readScreen(*take(openSession(path_))); },
                [&] {
                  if (bench::firstScreen(path_, 300) != 300) stop("by hand: too few rows");
                },
                nothing, kManyRuns),
        "stated");
  }
  void gesture() {
    ChangeSet set;
    std::size_t bytes = 0;
    const auto ours = [&] {
      Progress progress;
      Query query;
      query.table = table_;
      query.columns = {"id", "grade"};
      GesturePart part;
      part.table = table_->name;
      part.keyColumns = {"id"};
      part.keys.resize(1);
      part.column = "grade";
      if (!session_->select(
              query,
              [&](ValueTuple&& r) {
                part.keys[0].push(std::move(r[0]));
                part.from.push(std::move(r[1]));
                return true;
              },
              progress)) {
        stop("cannot read");
      }
      part.to = ValueColumn(part.rows(), Value::integer(9));
      Gesture gesture{"grade to 9 in all", {std::move(part)}};
      const std::string owner = newLogOwner();
      const std::int64_t log = take(store_->claimStaged("bench", owner)).id;
      const GestureId id = newGestureId();
      if (!store_->mergeStaged(log, owner, {{}, {{id}, {}}, {{id, packGesture(gesture)}}}))
        stop("cannot keep the gesture");
      set = ChangeSet();
      set.apply(std::move(gesture));
      bytes = set.memoryBytes();
    };
    const auto hand = [&] {
      if (bench::readKeysAndValues(path_) != static_cast<std::size_t>(records_)) stop("by hand: too few");
    };
    row("one gesture over all records, on disk / read keys and old values", compare(ours, hand, [] {}), "1.5");
    std::printf("\nMemory of that gesture: %.1f bytes a cell (goal: under 64).\n",
                static_cast<double>(bytes) / static_cast<double>(records_));
  }

  std::string folder_;
  std::int64_t records_;
  std::string path_;
  std::unique_ptr<Session> session_;
  Catalogue catalogue_;
  const Table* table_ = nullptr;
  std::unique_ptr<Store> store_;
};

}  // namespace

int main(int argc, char** argv) {
  if (argc < 2) stop("usage: bench_core FOLDER [RECORDS [apply|review|open|gesture]]");
  Bench(argv[1], argc > 2 ? std::atoll(argv[2]) : 1000000).run(argc > 3 ? argv[3] : "");
  return 0;
}
