// The whole database into another file, by SQLite's online backup, while others go on working.
#include <fcntl.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>
#include <thread>
#include <utility>

#include "core/engines/sqlite/sqlite_session.h"

namespace iterandum {
namespace {

// Pages at a time; between them others may write, which makes SQLite begin again.
constexpr int kPages = 4096;
// After so many beginnings all is read in one go: then others wait, but it comes to an end.
constexpr int kMostBeginnings = 3;
constexpr std::chrono::milliseconds kPause{20};

class Backup {
 public:
  Backup(sqlite3* to, sqlite3* from) : backup_(sqlite3_backup_init(to, "main", from, "main")) {}
  Backup(const Backup&) = delete;
  Backup& operator=(const Backup&) = delete;
  ~Backup() { (void)finish(); }

  [[nodiscard]] bool begun() const { return backup_ != nullptr; }
  [[nodiscard]] int step(int pages) { return sqlite3_backup_step(backup_, pages); }
  [[nodiscard]] int left() const { return sqlite3_backup_remaining(backup_); }
  [[nodiscard]] int all() const { return sqlite3_backup_pagecount(backup_); }
  int finish() { return sqlite3_backup_finish(std::exchange(backup_, nullptr)); }

 private:
  sqlite3_backup* backup_;
};

// A new file that nobody else may read; it goes again unless it is put in place.
class NewFile {
 public:
  explicit NewFile(std::string path) : path_(std::move(path)), part_(path_ + ".part") {}
  NewFile(const NewFile&) = delete;
  NewFile& operator=(const NewFile&) = delete;
  ~NewFile() {
    if (made_) unlink(part_.c_str());
  }
  [[nodiscard]] const std::string& part() const { return part_; }

  [[nodiscard]] Status make() {
    if (access(path_.c_str(), F_OK) == 0) return fail(ErrorKind::InvalidFile, "there is a file of that name", path_);
    const int file = ::open(part_.c_str(), O_CREAT | O_EXCL | O_WRONLY | O_CLOEXEC, 0600);
    if (file < 0) return fail(ErrorKind::InvalidFile, std::strerror(errno), part_);
    ::close(file);
    made_ = true;
    return {};
  }
  [[nodiscard]] Status putInPlace() {
    if (access(path_.c_str(), F_OK) == 0) return fail(ErrorKind::InvalidFile, "there is a file of that name", path_);
    if (rename(part_.c_str(), path_.c_str()) != 0) return fail(ErrorKind::InvalidFile, std::strerror(errno), path_);
    made_ = false;
    return {};
  }

 private:
  std::string path_;
  std::string part_;
  bool made_ = false;
};

Status copyPages(SqliteHandle& from, SqliteHandle& to, std::chrono::milliseconds patience, Progress& progress) {
  Backup backup(to.raw(), from.raw());
  if (!backup.begun()) return fail(to.error(sqlite3_errcode(to.raw()), "the copy cannot be begun"));
  auto waitingSince = std::chrono::steady_clock::now();
  int beginnings = 0;
  int before = 0;
  while (true) {
    const int code = backup.step(beginnings < kMostBeginnings ? kPages : -1);
    if (code == SQLITE_DONE) break;
    const auto now = std::chrono::steady_clock::now();
    if (code == SQLITE_BUSY || code == SQLITE_LOCKED) {
      if (now - waitingSince > patience) return fail(ErrorKind::LockTimeout, "somebody else is writing to it");
      std::this_thread::sleep_for(kPause);
    } else if (code != SQLITE_OK) {
      return fail(to.error(code, "the copy cannot be written"));
    } else {
      waitingSince = now;
      if (before != 0 && backup.left() >= before) ++beginnings;
      before = backup.left();
    }
    const auto all = static_cast<std::uint64_t>(backup.all());
    if (!progress.step("copying", all - static_cast<std::uint64_t>(backup.left()), all)) {
      return fail(ErrorKind::Cancelled, "it was stopped");
    }
  }
  if (const int code = backup.finish(); code != SQLITE_OK) return fail(to.error(code, "the copy cannot be written"));
  return {};
}

// Whether it reads back, from beginning to end.
Status readsBack(const std::string& path, Progress& progress) {
  ITERANDUM_ASSIGN(const std::unique_ptr<SqliteHandle> copy, SqliteHandle::open(path, SQLITE_OPEN_READWRITE));
  copy->watch(&progress);
  // Else reading it would leave files beside it.
  ITERANDUM_TRY(copy->run("PRAGMA journal_mode = DELETE"));
  ITERANDUM_ASSIGN(SqliteStatement check, copy->prepare("PRAGMA quick_check(1)"));
  const int code = check.step();
  if (progress.cancelled()) return fail(ErrorKind::Cancelled, "it was stopped");
  if (code != SQLITE_ROW) return fail(copy->error(code, "the copy cannot be read back"));
  if (check.text(0) != "ok") return fail(ErrorKind::InvalidFile, "the copy does not read back: " + check.text(0));
  return {};
}

}  // namespace

Status SqliteSession::copyTo(const std::string& path, Progress& progress) {
  const auto failed = [&path](Error error) {
    if (error.kind == ErrorKind::Cancelled) return fail(std::move(error));
    return fail(error.kind == ErrorKind::LockTimeout ? ErrorKind::LockTimeout : ErrorKind::InvalidFile,
                "the copy could not be made: " + error.text(), path);
  };
  NewFile file(path);
  if (Status made = file.make(); !made) return failed(made.error());
  {
    auto copy = SqliteHandle::open(file.part(), SQLITE_OPEN_READWRITE);
    if (!copy) return failed(copy.error());
    if (Status done = copyPages(*handle_, **copy, handle_->lockTimeout(), progress); !done) return failed(done.error());
  }
  if (Status good = readsBack(file.part(), progress); !good) return failed(good.error());
  if (Status placed = file.putInPlace(); !placed) return failed(placed.error());
  return {};
}

}  // namespace iterandum
