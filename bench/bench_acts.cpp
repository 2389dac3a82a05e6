// bench_acts FOLDER [RECORDS]: acts over many records against programs written by hand with SQLite's C interface that
// only read the keys and the old values; merging against repointing by hand. Medians of alternating runs, as ratios.
#include <sqlite3.h>

#include <cstdio>
#include <filesystem>
#include <string>

#include "core/acts/act_run.h"
#include "core/acts/merge_records.h"
#include "core/apply/apply.h"
#include "measure.h"

namespace {

using namespace iterandum;
using bench::median;
using bench::stop;
using bench::take;
using bench::timed;

constexpr int kRuns = 7;

void run(sqlite3* db, const std::string& sql) {
  if (sqlite3_exec(db, sql.c_str(), nullptr, nullptr, nullptr) != SQLITE_OK) stop(sqlite3_errmsg(db));
}

struct OpenFile {
  sqlite3* db = nullptr;
  explicit OpenFile(const std::string& path) {
    if (sqlite3_open(path.c_str(), &db) != SQLITE_OK) stop("cannot open " + path);
  }
  OpenFile(const OpenFile&) = delete;
  OpenFile& operator=(const OpenFile&) = delete;
  ~OpenFile() { sqlite3_close(db); }
};

struct Statement {
  sqlite3_stmt* s = nullptr;
  Statement(sqlite3* db, const char* sql) {
    if (sqlite3_prepare_v2(db, sql, -1, &s, nullptr) != SQLITE_OK) stop(sqlite3_errmsg(db));
  }
  Statement(const Statement&) = delete;
  Statement& operator=(const Statement&) = delete;
  ~Statement() { sqlite3_finalize(s); }
};

// --- by hand ---------------------------------------------------------------------------------------------------------

// Keys and whole numbers, kept in arrays.
std::size_t readNumbers(const std::string& path, const char* sql, int columns) {
  const OpenFile file(path);
  const Statement read(file.db, sql);
  std::vector<std::vector<std::int64_t>> kept(static_cast<std::size_t>(columns));
  while (sqlite3_step(read.s) == SQLITE_ROW) {
    for (int c = 0; c < columns; ++c) kept[static_cast<std::size_t>(c)].push_back(sqlite3_column_int64(read.s, c));
  }
  return kept[0].size();
}

// Keys and texts, kept.
std::size_t readTexts(const std::string& path) {
  const OpenFile file(path);
  const Statement read(file.db, "SELECT id, tag FROM reading ORDER BY id");
  std::vector<std::int64_t> keys;
  std::vector<std::string> texts;
  while (sqlite3_step(read.s) == SQLITE_ROW) {
    keys.push_back(sqlite3_column_int64(read.s, 0));
    texts.emplace_back(reinterpret_cast<const char*>(sqlite3_column_text(read.s, 1)),
                       static_cast<std::size_t>(sqlite3_column_bytes(read.s, 1)));
  }
  return texts.size();
}

// Reads each child whole, points it at the other parent, reads it again; removes the parent. One transaction.
void repoint(const std::string& path) {
  const OpenFile file(path);
  run(file.db, "BEGIN IMMEDIATE");
  std::vector<std::int64_t> keys;
  {
    const Statement find(file.db, "SELECT leaf_id FROM leaf WHERE branch_id = 2");
    while (sqlite3_step(find.s) == SQLITE_ROW) keys.push_back(sqlite3_column_int64(find.s, 0));
  }
  const Statement read(file.db, "SELECT * FROM leaf WHERE leaf_id = ?");
  const Statement update(file.db, "UPDATE leaf SET branch_id = 1 WHERE leaf_id = ? AND branch_id = 2");
  std::vector<std::string> before;
  std::vector<std::string> after;
  const auto readWhole = [&](std::int64_t key, std::vector<std::string>& into) {
    sqlite3_reset(read.s);
    sqlite3_bind_int64(read.s, 1, key);
    if (sqlite3_step(read.s) != SQLITE_ROW) stop("a leaf is gone");
    std::string record;
    for (int c = 0; c < sqlite3_column_count(read.s); ++c) {
      record.append(reinterpret_cast<const char*>(sqlite3_column_text(read.s, c)),
                    static_cast<std::size_t>(sqlite3_column_bytes(read.s, c)));
      record += '\0';
    }
    into.push_back(std::move(record));
  };
  for (const std::int64_t key : keys) {
    readWhole(key, before);
    sqlite3_reset(update.s);
    sqlite3_bind_int64(update.s, 1, key);
    if (sqlite3_step(update.s) != SQLITE_DONE || sqlite3_changes(file.db) != 1) stop("a leaf is another one");
    readWhole(key, after);
  }
  run(file.db, "DELETE FROM branch WHERE branch_id = 2; COMMIT");
}

// --- ours ------------------------------------------------------------------------------------------------------------

class Acts {
 public:
  Acts(const std::string& folder, std::int64_t records) : path_(folder + "/acts.sqlite"), records_(records) {
    make();
    session_ = take(openSession(path_));
    Progress progress;
    catalogue_ = take(session_->readCatalogue(progress));
  }

  void run() {
    std::printf("| what | ours, ms | by hand, ms | ratio | goal |\n|---|---:|---:|---:|---|\n");
    const auto numbers = [&](const char* sql, int columns) {
      return [this, sql, columns] { readNumbers(path_, sql, columns); };
    };
    row("a value set in all", {Act::Kind::To, "grade", "7", {}, {}, false, {}},
        numbers("SELECT id, grade FROM reading ORDER BY id", 2), "1.5");
    row(
        "a word replaced in all", {Act::Kind::Replace, "tag", "steps", "stairs", {}, false, {}},
        [this] { readTexts(path_); }, "1.5");
    row("an expression of two columns", {Act::Kind::Compute, "girth", "[girth] + [grade] * 2", {}, {}, false, {}},
        numbers("SELECT id, girth, grade FROM reading ORDER BY id", 3), "2");
    merging();
  }

 private:
  struct Cells {
    ValueColumn keys;
    ValueColumn from;
    ValueColumn to;
  };

  void make() const {
    std::filesystem::remove(path_);
    const OpenFile file(path_);
    ::run(file.db,
          "PRAGMA synchronous = OFF; CREATE TABLE reading (id INTEGER PRIMARY KEY, grade INTEGER, girth INTEGER, tag "
          "TEXT, "
          "note TEXT); WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < " +
              std::to_string(records_) +
              ") INSERT INTO reading SELECT i, i % 5, i % 2000, 'Old Steps ' || i, 'a note' FROM n;"
              "CREATE TABLE branch (branch_id INTEGER PRIMARY KEY, name TEXT); INSERT INTO branch VALUES (1, 'a'), (2, "
              "'b');"
              "CREATE TABLE leaf (leaf_id INTEGER PRIMARY KEY, branch_id INTEGER REFERENCES branch, note TEXT, size "
              "INTEGER);"
              "CREATE INDEX leaf_branch ON leaf (branch_id);"
              "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 100000) INSERT INTO leaf "
              "SELECT i, 2, "
              "'leaf ' || i, i % 9 FROM n; ANALYZE");
  }

  // Everything that a gesture needs, and when the first batch was there.
  double actOnAll(const Act& act, double& bytesPerCell) {
    const Table& table = *catalogue_.find({"", "reading"});
    const RecordActs acts = take(RecordActs::make(table, {act}, expressionContextNow(contextNow(catalogue_))));
    Query which;
    which.table = &table;
    which.order = {{"id"}};
    Cells cells;
    ActCounts counts;
    double first = 0;
    const auto start = std::chrono::steady_clock::now();
    Progress progress;
    const Status done = actOn(
        *session_, which, acts,
        [&](std::span<ActedRecord> records) {
          for (ActedRecord& record : records) {
            counts.count(acts, record);
            if (record.failed() || !acts.differs(record, 0)) continue;
            cells.keys.push(std::move(record.key[0]));
            cells.from.push(std::move(record.before[0]));
            cells.to.push(std::move(record.values[acts.places()[0]]));
          }
          if (first == 0)
            first = std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count();
          return true;
        },
        progress);
    if (!done) stop(done.error().text());
    if (counts.failed > 0 || cells.to.empty()) stop("the act fails");
    bytesPerCell = static_cast<double>(cells.keys.memoryBytes() + cells.from.memoryBytes() + cells.to.memoryBytes()) /
                   static_cast<double>(cells.to.size());
    return first;
  }

  void row(const char* what, const Act& act, const std::function<void()>& byHand, const char* goal) {
    std::vector<double> ours;
    std::vector<double> theirs;
    std::vector<double> firsts;
    double bytes = 0;
    for (int i = 0; i < kRuns; ++i) {
      double first = 0;
      ours.push_back(timed([&] { first = actOnAll(act, bytes); }));
      firsts.push_back(first);
      theirs.push_back(timed(byHand));
    }
    std::printf("| %s (first %.0f ms; %.0f bytes a cell) | %.1f | %.1f | %.2f | %s |\n", what, median(firsts), bytes,
                median(ours), median(theirs), median(ours) / median(theirs), goal);
    std::fflush(stdout);
  }

  void reset() const {
    const OpenFile file(path_);
    ::run(file.db,
          "PRAGMA synchronous = OFF; INSERT OR IGNORE INTO branch VALUES (2, 'b'); UPDATE leaf SET branch_id = 2");
  }

  void merge() {
    MergeWish wish;
    wish.table = catalogue_.find({"", "branch"});
    wish.keep = {Value::integer(1)};
    wish.drop = {{Value::integer(2)}};
    Progress progress;
    const MergePlan plan = take(planMerge(*session_, catalogue_, wish, progress));
    ApplyOptions options;
    class NoKeeper : public ReceiptKeeper {
      Status keep(const Receipt&, ReceiptStage) override { return {}; }
      Status confirm() override { return {}; }
      void drop() override {}
    } keeper;
    options.keeper = &keeper;
    const ApplyResult applied = take(applyChanges(*session_, catalogue_, plan.changes, options, progress));
    if (!applied.receipt) stop("the merge is blocked");
  }

  void merging() {
    std::vector<double> ours;
    std::vector<double> theirs;
    for (int i = 0; i < kRuns; ++i) {
      reset();
      ours.push_back(timed([&] { merge(); }));
      reset();
      theirs.push_back(timed([&] { repoint(path_); }));
    }
    std::printf("| two records with 100 000 children merged and applied | %.1f | %.1f | %.2f | 1.5 |\n", median(ours),
                median(theirs), median(ours) / median(theirs));
  }

  std::string path_;
  std::int64_t records_;
  std::unique_ptr<Session> session_;
  Catalogue catalogue_;
};

}  // namespace

int main(int argc, char** argv) {
  if (argc < 2) return 2;
  Acts(argv[1], argc > 2 ? std::atoll(argv[2]) : 1000000).run();
  return 0;
}
