#include "core/store/store.h"

#include <pwd.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <cstdlib>
#include <cstring>
#include <filesystem>

#include "core/apply/apply.h"

namespace iterandum {
namespace {

constexpr int kVersion = 3;

constexpr const char* kTables =
    "CREATE TABLE recent (address TEXT PRIMARY KEY, title TEXT NOT NULL, opened_at TEXT NOT NULL) WITHOUT ROWID;"
    "CREATE TABLE gesture (address TEXT NOT NULL, seq INTEGER NOT NULL, packed BLOB NOT NULL,"
    "  PRIMARY KEY (address, seq));"
    "CREATE TABLE staged (address TEXT PRIMARY KEY, position INTEGER NOT NULL) WITHOUT ROWID;"
    "CREATE TABLE receipt (id INTEGER PRIMARY KEY AUTOINCREMENT, address TEXT NOT NULL, applied_at TEXT NOT NULL,"
    "  applied_by TEXT NOT NULL, title TEXT NOT NULL, changes INTEGER NOT NULL, pending INTEGER NOT NULL,"
    "  packed BLOB NOT NULL);"
    "CREATE INDEX receipt_by_address ON receipt (address, id);";

// What version 2 added.
constexpr const char* kMarks =
    "CREATE TABLE mark (address TEXT PRIMARY KEY, name TEXT NOT NULL, colour TEXT NOT NULL, read_only INTEGER NOT NULL)"
    "  WITHOUT ROWID;";

// What version 3 added.
constexpr const char* kKept =
    "CREATE TABLE kept (address TEXT NOT NULL, kind TEXT NOT NULL, name TEXT NOT NULL, text TEXT NOT NULL,"
    "  PRIMARY KEY (address, kind, name)) WITHOUT ROWID;";

Error storeError(Error error, const std::string& path) {
  error.kind = ErrorKind::InvalidFile;
  error.message = "the program's own store cannot be used: " + error.message;
  error.place = path;
  return error;
}

Status makeFolder(const std::string& path) {
  const std::filesystem::path folder = std::filesystem::path(path).parent_path();
  std::error_code code;
  if (folder.empty()) return {};  // where the program was started
  std::filesystem::create_directories(folder, code);
  if (code)
    return fail(ErrorKind::InvalidFile, "the folder of the store cannot be made: " + code.message(), folder.string());
  return {};
}

Status makeFile(const std::string& path) {
  // Made before SQLite opens it, so that it is never readable by others, not even for a moment.
  const mode_t before = umask(077);
  FILE* file = fopen(path.c_str(), "ab");
  umask(before);
  if (file == nullptr)
    return fail(ErrorKind::InvalidFile, std::string("the store cannot be written: ") + strerror(errno), path);
  fclose(file);
  chmod(path.c_str(), 0600);
  return {};
}

}  // namespace

Result<std::string> Store::defaultPath() {
  const char* state = getenv("XDG_STATE_HOME");
  if (state != nullptr && state[0] == '/') return std::string(state) + "/iterandum/store.sqlite";
  const char* home = getenv("HOME");
  std::string base = home != nullptr ? home : "";
  if (base.empty()) {
    const passwd* entry = getpwuid(geteuid());
    if (entry != nullptr && entry->pw_dir != nullptr) base = entry->pw_dir;
  }
  if (base.empty()) {
    return fail(ErrorKind::InvalidFile,
                "no home directory is known; set XDG_STATE_HOME to a folder for staged work and receipts");
  }
  return base + "/.local/state/iterandum/store.sqlite";
}

Result<std::unique_ptr<Store>> Store::open(const std::string& path) {
  ITERANDUM_TRY(makeFolder(path));
  ITERANDUM_TRY(makeFile(path));
  auto handle = SqliteHandle::open(path, SQLITE_OPEN_READWRITE | SQLITE_OPEN_NOMUTEX);
  if (!handle) return fail(storeError(handle.error(), path));
  std::unique_ptr<Store> store(new Store(std::move(*handle)));
  // A write-ahead log: one write to the disk for a gesture instead of several. FULL: it is there after a power cut too.
  if (Status status = store->handle_->run("PRAGMA journal_mode = WAL; PRAGMA synchronous = FULL;"); !status) {
    return fail(storeError(status.error(), path));
  }
  if (Status status = store->makeTables(); !status) return fail(storeError(status.error(), path));
  return store;
}

Status Store::makeTables() {
  ITERANDUM_TRY(handle_->run("BEGIN IMMEDIATE"));
  std::int64_t version = 0;
  {
    ITERANDUM_ASSIGN(SqliteStatement statement, handle_->prepare("PRAGMA user_version"));
    if (statement.step() == SQLITE_ROW) version = statement.integer(0);
  }
  if (version > kVersion) {
    (void)handle_->run("ROLLBACK");
    return fail(ErrorKind::InvalidFile, "it was written by a newer version of this program");
  }
  if (version < kVersion) {
    Status made = version == 0 ? handle_->run(kTables) : Status();
    if (made && version < 2) made = handle_->run(kMarks);
    if (made) made = handle_->run(kKept);
    if (made) made = handle_->run("PRAGMA user_version = " + std::to_string(kVersion));
    if (!made) {
      (void)handle_->run("ROLLBACK");
      return made;
    }
  }
  return handle_->run("COMMIT");
}

Status Store::execute(SqliteStatement& statement, const char* doing) {
  const int code = statement.step();
  if (code == SQLITE_DONE || code == SQLITE_ROW) return {};
  return fail(storeError(handle_->error(code, doing), {}));
}

Status Store::inTransaction(const std::vector<SqliteStatement*>& statements, const char* doing) {
  ITERANDUM_TRY(handle_->run("BEGIN IMMEDIATE"));
  for (SqliteStatement* s : statements) {
    if (Status status = execute(*s, doing); !status) {
      (void)handle_->run("ROLLBACK");
      return status;
    }
  }
  return handle_->run("COMMIT");
}

Status Store::rememberDatabase(const std::string& address, const std::string& title) {
  ITERANDUM_ASSIGN(SqliteStatement s, handle_->prepare("INSERT OR REPLACE INTO recent VALUES (?1, ?2, ?3)"));
  const std::string now = nowUtc();
  s.bind(1, std::string_view(address));
  s.bind(2, std::string_view(title));
  s.bind(3, std::string_view(now));
  return execute(s, "cannot remember the database");
}

Status Store::forgetDatabase(const std::string& address) {
  ITERANDUM_ASSIGN(SqliteStatement s, handle_->prepare("DELETE FROM recent WHERE address = ?1"));
  s.bind(1, std::string_view(address));
  return execute(s, "cannot forget the database");
}

Result<std::vector<RecentDatabase>> Store::recentDatabases() {
  ITERANDUM_ASSIGN(
      SqliteStatement s,
      handle_->prepare("SELECT r.address, r.title, r.opened_at, coalesce(s.position, 0), "
                       "coalesce(m.name, ''), coalesce(m.colour, ''), coalesce(m.read_only, 0) FROM recent "
                       "r LEFT JOIN staged s USING (address) LEFT JOIN mark m USING (address) ORDER BY "
                       "r.opened_at DESC, r.title"));
  std::vector<RecentDatabase> out;
  while (s.step() == SQLITE_ROW) {
    out.push_back({s.text(0), s.text(1), s.text(2), s.integer(3), {s.text(4), s.text(5), s.integer(6) != 0}});
  }
  return out;
}

Status Store::setMark(const std::string& address, const DatabaseMark& mark) {
  ITERANDUM_ASSIGN(SqliteStatement s, handle_->prepare("INSERT OR REPLACE INTO mark VALUES (?1, ?2, ?3, ?4)"));
  s.bind(1, std::string_view(address));
  s.bind(2, std::string_view(mark.name));
  s.bind(3, std::string_view(mark.colour));
  s.bind(4, std::int64_t{mark.readOnly ? 1 : 0});
  return execute(s, "cannot keep the mark of the database");
}

Result<DatabaseMark> Store::mark(const std::string& address) {
  ITERANDUM_ASSIGN(SqliteStatement s, handle_->prepare("SELECT name, colour, read_only FROM mark WHERE address = ?1"));
  s.bind(1, std::string_view(address));
  DatabaseMark out;
  if (s.step() == SQLITE_ROW) out = {s.text(0), s.text(1), s.integer(2) != 0};
  return out;
}

Status Store::appendGesture(const std::string& address, std::size_t position, const std::string& packed) {
  const auto at = static_cast<std::int64_t>(position);
  ITERANDUM_ASSIGN(SqliteStatement drop, handle_->prepare("DELETE FROM gesture WHERE address = ?1 AND seq >= ?2"));
  drop.bind(1, std::string_view(address));
  drop.bind(2, at);
  ITERANDUM_ASSIGN(SqliteStatement add, handle_->prepare("INSERT INTO gesture VALUES (?1, ?2, ?3)"));
  add.bind(1, std::string_view(address));
  add.bind(2, at);
  add.bindBlob(3, packed);
  ITERANDUM_ASSIGN(SqliteStatement move, handle_->prepare("INSERT OR REPLACE INTO staged VALUES (?1, ?2)"));
  move.bind(1, std::string_view(address));
  move.bind(2, at + 1);
  return inTransaction({&drop, &add, &move}, "cannot keep what was staged");
}

Status Store::setPosition(const std::string& address, std::size_t position) {
  ITERANDUM_ASSIGN(SqliteStatement s, handle_->prepare("INSERT OR REPLACE INTO staged VALUES (?1, ?2)"));
  s.bind(1, std::string_view(address));
  s.bind(2, static_cast<std::int64_t>(position));
  return execute(s, "cannot keep what was undone");
}

Status Store::clearStaged(const std::string& address) {
  ITERANDUM_ASSIGN(SqliteStatement gestures, handle_->prepare("DELETE FROM gesture WHERE address = ?1"));
  gestures.bind(1, std::string_view(address));
  ITERANDUM_ASSIGN(SqliteStatement staged, handle_->prepare("DELETE FROM staged WHERE address = ?1"));
  staged.bind(1, std::string_view(address));
  return inTransaction({&gestures, &staged}, "cannot clear what was staged");
}

Result<StagedWork> Store::stagedWork(const std::string& address) {
  StagedWork out;
  ITERANDUM_ASSIGN(SqliteStatement gestures,
                   handle_->prepare("SELECT packed FROM gesture WHERE address = ?1 ORDER BY seq"));
  gestures.bind(1, std::string_view(address));
  while (gestures.step() == SQLITE_ROW) out.gestures.push_back(gestures.text(0));
  ITERANDUM_ASSIGN(SqliteStatement staged, handle_->prepare("SELECT position FROM staged WHERE address = ?1"));
  staged.bind(1, std::string_view(address));
  if (staged.step() == SQLITE_ROW) out.position = static_cast<std::size_t>(staged.integer(0));
  if (out.position > out.gestures.size()) out.position = out.gestures.size();
  return out;
}

Result<std::int64_t> Store::keepReceipt(const Receipt& receipt) {
  ITERANDUM_ASSIGN(
      SqliteStatement s,
      handle_->prepare("INSERT INTO receipt (address, applied_at, applied_by, title, changes, pending, packed) "
                       "VALUES (?1, ?2, ?3, ?4, ?5, 1, ?6)"));
  const std::string packed = packReceipt(receipt);
  s.bind(1, std::string_view(receipt.database));
  s.bind(2, std::string_view(receipt.appliedAt));
  s.bind(3, std::string_view(receipt.appliedBy));
  s.bind(4, std::string_view(receipt.title));
  s.bind(5, static_cast<std::int64_t>(receipt.appliedCount()));
  s.bindBlob(6, packed);
  ITERANDUM_TRY(execute(s, "cannot keep the receipt"));
  return sqlite3_last_insert_rowid(handle_->raw());
}

Status Store::confirmReceipt(std::int64_t id) {
  ITERANDUM_ASSIGN(SqliteStatement s, handle_->prepare("UPDATE receipt SET pending = 0 WHERE id = ?1"));
  s.bind(1, id);
  return execute(s, "cannot confirm the receipt");
}

Status Store::dropReceipt(std::int64_t id) {
  ITERANDUM_ASSIGN(SqliteStatement s, handle_->prepare("DELETE FROM receipt WHERE id = ?1"));
  s.bind(1, id);
  return execute(s, "cannot drop the receipt");
}

Result<std::vector<KeptReceipt>> Store::receipts(const std::string& address) {
  ITERANDUM_ASSIGN(SqliteStatement s,
                   handle_->prepare("SELECT id, address, applied_at, applied_by, title, changes, pending FROM receipt "
                                    "WHERE ?1 = '' OR address = ?1 ORDER BY id DESC"));
  s.bind(1, std::string_view(address));
  std::vector<KeptReceipt> out;
  while (s.step() == SQLITE_ROW) {
    out.push_back({s.integer(0), s.text(1), s.text(2), s.text(3), s.text(4), s.integer(5), s.integer(6) != 0});
  }
  return out;
}

Result<Receipt> Store::receipt(std::int64_t id) {
  ITERANDUM_ASSIGN(SqliteStatement s, handle_->prepare("SELECT packed FROM receipt WHERE id = ?1"));
  s.bind(1, id);
  if (s.step() != SQLITE_ROW) return fail(ErrorKind::NotFound, "there is no such receipt");
  return unpackReceipt(s.text(0));
}

}  // namespace iterandum
