// bench_files FOLDER [RECORDS]: lists held against a table, and a table written out, against programs by hand with the
// same libraries (hand_files.h). Medians of alternating runs, as ratios.
#include <malloc.h>
#include <sqlite3.h>
#include <unistd.h>

#include <cstdio>
#include <filesystem>
#include <fstream>
#include <string>

#include "core/files/file_corrections.h"
#include "core/files/shown_records.h"
#include "core/files/table_file.h"
#include "core/scope/scope.h"
#include "hand_files.h"
#include "measure.h"

namespace {

using namespace iterandum;
using bench::median;
using bench::stop;
using bench::take;
using bench::timed;

constexpr int kRuns = 5;
constexpr std::size_t kColumns = 8;

void run(const std::string& path, const std::string& sql) {
  sqlite3* db = nullptr;
  if (sqlite3_open(path.c_str(), &db) != SQLITE_OK) stop("cannot open " + path);
  if (sqlite3_exec(db, sql.c_str(), nullptr, nullptr, nullptr) != SQLITE_OK) stop(sqlite3_errmsg(db));
  sqlite3_close(db);
}

// One cell in a hundred is another one than in the table: of each hundred records eight, in turn in their columns.
std::string selectChanged() {
  return "SELECT id, iif(id % 100 = 1, tag || 'x', tag), iif(id % 100 = 2, grade + 1, grade), iif(id % 100 = 3, girth "
         "+ "
         "7, girth), iif(id % 100 = 4, 9.5, height), iif(id % 100 = 5 OR id % 100 = 8, '2024-02-29', planted), iif(id "
         "% "
         "100 = 6, 'seen', note), iif(id % 100 = 7, 'Gull Stairs', street) FROM o.reading ORDER BY id";
}

// The most memory that the process held since the last call, in MiB.
double peak() {
  double out = 0;
  {
    std::ifstream status("/proc/self/status");
    for (std::string line; std::getline(status, line);) {
      if (line.starts_with("VmHWM:")) out = std::strtod(line.c_str() + 6, nullptr) / 1024;
    }
  }
  std::ofstream("/proc/self/clear_refs") << "5";
  return out;
}

class Files {
 public:
  Files(const std::string& folder, std::int64_t records)
      : folder_(folder), path_(folder + "/files.sqlite"), records_(records) {
    make(path_, records_);
    open(path_);
  }

  void all() {
    std::printf("| what | ours, ms | by hand, ms | ratio | goal |\n|---|---:|---:|---:|---|\n");
    writeList("csv", folder_ + "/list.csv");
    (void)peak();
    std::size_t cells = 0;
    row(
        "a CSV of " + std::to_string(records_) + " lines x 8 held against as many records, 1 % of the cells differ",
        [&] { cells = compare(folder_ + "/list.csv"); },
        [&] {
          if (bench::compareCsvByHand(path_, folder_ + "/list.csv", kColumns) != cells) stop("other cells differ");
        },
        "1.5");
    row(
        "all records as CSV", [&] { write("csv", folder_ + "/ours.csv"); },
        [&] { bench::writeCsvByHand(path_, folder_ + "/hand.csv"); }, "1.2");
    memory();
    // A tenth for spreadsheets, which take their time in any program.
    const std::string small = folder_ + "/files_small.sqlite";
    make(small, records_ / 10);
    open(small);
    writeList("xlsx", folder_ + "/list.xlsx");
    row(
        "an XLSX of " + std::to_string(records_ / 10) + " rows x 8 held against as many",
        [&] { compare(folder_ + "/list.xlsx"); },
        [&] { (void)bench::compareXlsxByHand(small, folder_ + "/list.xlsx", kColumns); }, "1.3");
    row(
        "all of these as XLSX", [&] { write("xlsx", folder_ + "/ours.xlsx"); },
        [&] { bench::writeXlsxByHand(small, folder_ + "/hand.xlsx"); }, "1.2");
  }

 private:
  static void make(const std::string& path, std::int64_t records) {
    std::filesystem::remove(path);
    run(path,
        "PRAGMA synchronous = OFF; CREATE TABLE reading (id INTEGER PRIMARY KEY, tag VARCHAR(20) NOT NULL, grade "
        "INTEGER, "
        "girth INTEGER, height DOUBLE, planted DATE, note TEXT, street TEXT); WITH RECURSIVE n(i) AS (SELECT 1 UNION "
        "ALL "
        "SELECT i + 1 FROM n WHERE i < " +
            std::to_string(records) +
            ") INSERT INTO reading SELECT i, 'QH-' || i, i % 5, i % 2000, i % 40 + 0.25, date('1950-01-01', (i % "
            "20000) "
            "|| ' days'), iif(i % 3, 'a note, with a comma', NULL), 'Harbour Row' FROM n; ANALYZE");
  }

  void open(const std::string& path) {
    session_ = take(openSession(path));
    Progress progress;
    catalogue_ = take(session_->readCatalogue(progress));
    table_ = catalogue_.find({"", "reading"});
  }

  // The corrections as a file, through our own writer: what is measured is reading it.
  void writeList(const std::string& format, const std::string& path) {
    const std::string other = folder_ + "/changed.sqlite";
    std::filesystem::remove(other);
    run(other, "ATTACH '" + std::string(format == "csv" ? path_ : folder_ + "/files_small.sqlite") +
                   "' AS o; CREATE TABLE reading (id INTEGER PRIMARY KEY, tag, grade, girth, height, planted, note, "
                   "street); INSERT INTO reading SELECT * FROM (" +
                   selectChanged() + ")");
    auto kept = std::move(session_);
    const Catalogue held = catalogue_;
    open(other);
    write(format, path);
    session_ = std::move(kept);
    catalogue_ = held;
    table_ = catalogue_.find({"", "reading"});
  }

  std::size_t compare(const std::string& path) {
    std::string content(std::filesystem::file_size(path), '\0');
    std::ifstream(path, std::ios::binary).read(content.data(), static_cast<std::streamsize>(content.size()));
    const auto file = take(TableFile::open({path, {}, {}, {}}, *table_, std::move(content)));
    FileHeader header;
    const auto columns = take(matchColumns(*table_, {}));
    const auto source = take(file->linesBehindHeader(*table_, columns, header));
    Progress progress;
    const FileCorrections found = take(correctionsFrom(*source, header, *session_, *table_, {}, progress));
    if (found.counts.failed > 0) stop("lines fail");
    cells_ = found.counts.cells;
    return found.counts.cells;
  }

  // The most that holding a list takes beyond the file's own content, in bytes.
  double memoryFor(const std::string& list) {
    malloc_trim(0);  // what earlier runs gave back is not there for this one
    (void)peak();
    const double before = peak();
    compare(list);
    return (peak() - before) * 1048576 - static_cast<double>(std::filesystem::file_size(list));
  }

  // A list in which nothing differs tells the constant, and what a line takes.
  void memory() {
    const double nothing = memoryFor(folder_ + "/ours.csv");
    const double some = memoryFor(folder_ + "/list.csv");
    std::printf(
        "| memory beside the file: %.1f MiB where nothing differs, and %.0f bytes a cell that does | | | | 64 |\n",
        nothing / 1048576, (some - nothing) / static_cast<double>(cells_));
  }

  void write(const std::string& format, const std::string& path) {
    Scope scope;
    scope.table = "reading";
    std::vector<ScopeProblem> problems;
    const ReadScope read = take(readScope(scope, contextNow(catalogue_), problems));
    const ShownRecords shown = take(shownRecords(read, *session_, format));
    std::ofstream out(path, std::ios::binary);
    const auto writer = makeRecordWriter(format, shown.form, [&](std::string_view piece) -> Status {
      out.write(piece.data(), static_cast<std::streamsize>(piece.size()));
      return {};
    });
    Progress progress;
    (void)take(writeRecords(*session_, shown, *writer, progress));
  }

  static void row(const std::string& what, const std::function<void()>& ours, const std::function<void()>& byHand,
                  const char* goal) {
    std::vector<double> mine;
    std::vector<double> theirs;
    for (int i = 0; i < kRuns; ++i) {
      mine.push_back(timed(ours));
      theirs.push_back(timed(byHand));
    }
    std::printf("| %s | %.0f | %.0f | %.2f | %s |\n", what.c_str(), median(mine), median(theirs),
                median(mine) / median(theirs), goal);
    std::fflush(stdout);
  }

  std::string folder_;
  std::string path_;
  std::int64_t records_;
  std::unique_ptr<Session> session_;
  Catalogue catalogue_;
  const Table* table_ = nullptr;
  std::uint64_t cells_ = 0;
};

}  // namespace

int main(int argc, char** argv) {
  if (argc < 2) return 2;
  Files(argv[1], argc > 2 ? std::atoll(argv[2]) : 1000000).all();
  return 0;
}
