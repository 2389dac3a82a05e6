// bench_review FOLDER [RECORDS]: what stands around a review: house rules over a whole table, a copy of the database,
// a record's history over many receipts, one record of a large receipt taken back. Where a program by hand does the
// same work the figure is a ratio to it, of medians of alternating runs; else milliseconds.
#include <sqlite3.h>

#include <cstdio>
#include <filesystem>
#include <string>

#include "core/apply/apply.h"
#include "core/apply/take_back.h"
#include "core/rules/house_rule.h"
#include "core/rules/rule_check.h"
#include "core/store/record_history.h"
#include "measure.h"

namespace {

using namespace iterandum;
using bench::median;
using bench::stop;
using bench::take;
using bench::timed;

constexpr int kRuns = 7;

struct OpenFile {
  sqlite3* db = nullptr;
  explicit OpenFile(const std::string& path) {
    if (sqlite3_open(path.c_str(), &db) != SQLITE_OK) stop("cannot open " + path);
  }
  OpenFile(const OpenFile&) = delete;
  OpenFile& operator=(const OpenFile&) = delete;
  ~OpenFile() { sqlite3_close(db); }
  void run(const std::string& sql) const {
    if (sqlite3_exec(db, sql.c_str(), nullptr, nullptr, nullptr) != SQLITE_OK) stop(sqlite3_errmsg(db));
  }
};

void makeRegister(const std::string& path, std::size_t records) {
  if (std::filesystem::exists(path)) return;
  const OpenFile file(path);
  file.run(
      "PRAGMA journal_mode = WAL; CREATE TABLE species (species_id INTEGER PRIMARY KEY, name TEXT, most_mm INTEGER);"
      "CREATE TABLE tree (tree_id INTEGER PRIMARY KEY, species_id INTEGER REFERENCES species, girth_mm INTEGER, "
      "condition_code INTEGER, note TEXT);"
      "CREATE TABLE inspection (inspection_id INTEGER PRIMARY KEY, tree_id INTEGER REFERENCES tree, grade INTEGER);"
      "CREATE INDEX inspection_tree ON inspection (tree_id);"
      "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 60) INSERT INTO species SELECT i, "
      "'species ' || i, 3000 + i FROM n;"
      "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < " +
      std::to_string(records) +
      ") INSERT INTO tree SELECT i, 1 + i % 60, i * 7919 % 3100, i % 6, CASE i % 7 WHEN 0 THEN NULL ELSE 'note ' || i "
      "END "
      "FROM n;"
      "INSERT INTO inspection SELECT tree_id, tree_id, tree_id % 5 FROM tree WHERE tree_id % 4 = 0; ANALYZE");
}

// The keys of what a statement gives, kept.
std::size_t keysByHand(const std::string& path, const char* sql) {
  const OpenFile file(path);
  sqlite3_stmt* read = nullptr;
  if (sqlite3_prepare_v2(file.db, sql, -1, &read, nullptr) != SQLITE_OK) stop(sqlite3_errmsg(file.db));
  std::vector<std::int64_t> keys;
  while (sqlite3_step(read) == SQLITE_ROW) keys.push_back(sqlite3_column_int64(read, 0));
  sqlite3_finalize(read);
  return keys.size();
}

void rules(const std::string& path) {
  const struct {
    const char* name;
    const char* holds;
    const char* sql;
  } all[] = {
      {"own columns", "not condition_code = 5 or note has a value",
       "SELECT tree_id FROM tree WHERE condition_code = 5 AND note IS NULL ORDER BY tree_id"},
      {"through a reference", "not condition_code = 3 or species.most_mm > 3030",
       "SELECT t.tree_id FROM tree t JOIN species s ON s.species_id = t.species_id WHERE t.condition_code = 3 AND "
       "s.most_mm <= 3030 ORDER BY t.tree_id"},
      {"records that point here", "not condition_code = 0 or no inspection where (grade >= 4)",
       "SELECT tree_id FROM tree t WHERE condition_code = 0 AND EXISTS (SELECT 1 FROM inspection i WHERE i.tree_id = "
       "t.tree_id AND i.grade >= 4) ORDER BY tree_id"},
  };
  const auto session = take(openSession(path));
  Progress progress;
  const Catalogue catalogue = take(session->readCatalogue(progress));
  for (const auto& one : all) {
    HouseRule rule;
    rule.name = one.name;
    rule.table = "tree";
    rule.holds = one.holds;
    const ReadRule read = take(readRule(rule, contextNow(catalogue)));
    std::vector<double> ours;
    std::vector<double> byHand;
    std::uint64_t found = 0;
    std::size_t wanted = 0;
    for (int i = 0; i < kRuns; ++i) {
      byHand.push_back(timed([&] { wanted = keysByHand(path, one.sql); }));
      ours.push_back(timed([&] { found = take(recordsBreaking(*session, read, 100, progress)).rows; }));
    }
    if (found != wanted) stop(std::string(one.name) + ": found another number than by hand");
    std::printf("rule, %-24s %8.1f ms, by hand %8.1f ms, ratio %.2f (%zu break it)\n", one.name, median(ours),
                median(byHand), median(ours) / median(byHand), wanted);
  }
}

// A backup in one go, and the same check that it reads back.
void copyByHand(const std::string& from, const std::string& to) {
  std::filesystem::remove(to);
  const OpenFile source(from);
  const OpenFile target(to);
  sqlite3_backup* backup = sqlite3_backup_init(target.db, "main", source.db, "main");
  if (backup == nullptr || sqlite3_backup_step(backup, -1) != SQLITE_DONE) stop("the backup failed");
  sqlite3_backup_finish(backup);
  target.run("PRAGMA journal_mode = DELETE; PRAGMA quick_check(1)");
}

void copies(const std::string& path, const std::string& folder) {
  const auto session = take(openSession(path));
  std::vector<double> ours;
  std::vector<double> byHand;
  for (int i = 0; i < kRuns; ++i) {
    byHand.push_back(timed([&] { copyByHand(path, folder + "/by-hand.sqlite"); }));
    const std::string to = folder + "/copy.sqlite";
    std::filesystem::remove(to);
    ours.push_back(timed([&] {
      Progress progress;
      if (Status done = session->copyTo(to, progress); !done) stop(done.error().text());
    }));
  }
  std::printf("a copy of %.0f MB               %8.1f ms, by hand %8.1f ms, ratio %.2f\n",
              static_cast<double>(std::filesystem::file_size(path)) / 1e6, median(ours), median(byHand),
              median(ours) / median(byHand));
}

// A receipt as an apply of `rows` edits leaves it, of records from `first` on.
Receipt receiptOf(const std::string& address, std::size_t first, std::size_t rows) {
  Receipt out;
  out.appliedAt = nowUtc();
  out.appliedBy = "clerk";
  out.database = address;
  out.title = "Condition in " + std::to_string(rows) + " records";
  ReceiptBlock block;
  block.table = {"", "tree"};
  block.keyColumns = {"tree_id"};
  block.columns = {"tree_id", "species_id", "girth_mm", "condition_code", "note"};
  block.keys.resize(1);
  block.before.resize(5);
  block.after.resize(5);
  for (std::size_t i = 0; i < rows; ++i) {
    const auto id = static_cast<std::int64_t>(first + i);
    const Value values[] = {Value::integer(id), Value::integer(1 + id % 60), Value::integer(id * 7919 % 3100),
                            Value::integer(id % 6), Value::text("note " + std::to_string(id))};
    block.keys[0].push(values[0]);
    for (std::size_t c = 0; c < 5; ++c) {
      block.before[c].push(values[c]);
      block.after[c].push(c == 3 ? Value::integer((id + 1) % 6) : values[c]);
    }
    block.outcomes.push_back(Outcome::Applied);
    block.changeIndex.push_back(static_cast<std::uint32_t>(i));
  }
  out.blocks.push_back(std::move(block));
  return out;
}

void history(const std::string& folder, const std::string& address) {
  constexpr std::size_t kReceipts = 10000;
  constexpr std::size_t kRows = 1000;
  const std::string path = folder + "/history-store.sqlite";
  std::filesystem::remove(path);
  const auto store = take(Store::open(path));
  for (std::size_t i = 0; i < kReceipts; ++i) {
    const std::int64_t id = take(store->keepReceipt(receiptOf(address, 1 + i * 613 % 900000, kRows)));
    if (Status done = store->confirmReceipt(id); !done) stop(done.error().text());
  }
  const NamedRecord record{{"", "tree"}, {"tree_id"}, {Value::integer(123456)}};
  std::vector<double> times;
  std::size_t found = 0;
  for (int i = 0; i < kRuns; ++i) {
    found = 0;
    times.push_back(timed([&] {
      const Status done = eachRecordChange(
          *store, address, &record,
          [&](RecordChange&&) {
            ++found;
            return true;
          },
          [](const KeptReceipt&, const std::string&) {});
      if (!done) stop(done.error().text());
    }));
  }
  std::printf("history of one record over %zu receipts of %zu changes: %.1f ms (%zu found)\n", kReceipts, kRows,
              median(times), found);
}

void takingBack(const std::string& path) {
  constexpr std::size_t kRows = 100000;
  const auto session = take(openSession(path));
  Progress progress;
  const Catalogue catalogue = take(session->readCatalogue(progress));
  const Receipt receipt = receiptOf(session->info().address, 1, kRows);
  std::vector<double> one;
  std::vector<double> all;
  for (int i = 0; i < kRuns; ++i) {
    one.push_back(timed([&] { (void)take(takeBackPart(catalogue, receipt, {{0, 77}}, 1)); }));
    all.push_back(timed([&] { (void)take(takeBackAll(catalogue, receipt, 1)); }));
  }
  std::printf("of a receipt of %zu changes, to be staged: one %.1f ms, all %.1f ms\n", kRows, median(one), median(all));
}

}  // namespace

int main(int argc, char** argv) {
  if (argc < 2) {
    std::fprintf(stderr, "usage: bench_review FOLDER [RECORDS]\n");
    return 2;
  }
  const std::string folder = argv[1];
  const std::size_t records = argc > 2 ? std::stoul(argv[2]) : 1000000;
  const std::string path = folder + "/review-" + std::to_string(records) + ".sqlite";
  makeRegister(path, records);
  rules(path);
  copies(path, folder);
  takingBack(path);
  history(folder, "sqlite:" + path);
  return 0;
}
