#include "core/store/store.h"

#include <pwd.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <cstdlib>
#include <cstring>
#include <filesystem>
#include <thread>

#include "core/apply/apply.h"

namespace iterandum {
namespace {

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

// What version 4 added: a log of gestures for each window, in place of one for each database.
constexpr const char* kLogs =
    "CREATE TABLE staging (id INTEGER PRIMARY KEY AUTOINCREMENT, address TEXT NOT NULL, owner TEXT NOT NULL,"
    "  position INTEGER NOT NULL);"
    "CREATE INDEX staging_by_address ON staging (address, id);"
    "CREATE TABLE staged_gesture (log INTEGER NOT NULL, seq INTEGER NOT NULL, packed BLOB NOT NULL,"
    "  PRIMARY KEY (log, seq));"
    "CREATE TABLE aside (id INTEGER PRIMARY KEY AUTOINCREMENT, address TEXT NOT NULL, at TEXT NOT NULL,"
    "  packed BLOB NOT NULL);"
    "INSERT INTO staging (address, owner, position) SELECT address, '', coalesce(max(s.position), 0) FROM gesture "
    "  LEFT JOIN staged s USING (address) GROUP BY address;"
    "INSERT INTO staged_gesture SELECT l.id, row_number() OVER (PARTITION BY g.address ORDER BY g.seq) - 1, g.packed "
    "  FROM gesture g JOIN staging l USING (address);"
    "DROP TABLE gesture; DROP TABLE staged;";

// What version 5 added: the chain of receipts, and what each of them touches.
constexpr const char* kChained =
    "ALTER TABLE receipt ADD COLUMN seq INTEGER;"
    "ALTER TABLE receipt ADD COLUMN digest BLOB;"
    "ALTER TABLE receipt ADD COLUMN noted INTEGER NOT NULL DEFAULT 0;"
    "CREATE UNIQUE INDEX receipt_by_seq ON receipt (seq);"
    // These columns lie behind the packed receipt: without an index each would be read to its end for them.
    "CREATE INDEX receipt_noted ON receipt (address) WHERE noted = 1;"
    // All that the list of receipts shows, without a page of the receipts themselves.
    "DROP INDEX receipt_by_address;"
    "CREATE INDEX receipt_heads ON receipt (address, id, applied_at, applied_by, title, changes, pending);"
    "CREATE TABLE touched (receipt INTEGER NOT NULL, table_name TEXT NOT NULL, key_columns TEXT NOT NULL,"
    "  filter BLOB NOT NULL);"
    "CREATE INDEX touched_by_table ON touched (table_name, receipt);"
    "CREATE INDEX touched_by_receipt ON touched (receipt);";

// What version 6 added: which staged gestures a receipt is about.
constexpr const char* kLinked =
    "CREATE TABLE staged_receipt (receipt INTEGER PRIMARY KEY, log INTEGER NOT NULL, gestures INTEGER NOT NULL,"
    "  part BLOB, rest BLOB);"
    "CREATE INDEX staged_receipt_by_log ON staged_receipt (log);";

// What version 7 added: the receipts about lines of files.
constexpr const char* kFiles =
    "CREATE TABLE receipt_file (receipt INTEGER NOT NULL, digest TEXT NOT NULL, PRIMARY KEY (digest, receipt))"
    "  WITHOUT ROWID;";

// What version 8 added: windows share the log of a database; a gesture is known by a number of its own.
constexpr const char* kShared =
    "ALTER TABLE staging DROP COLUMN owner;"
    "ALTER TABLE staging ADD COLUMN revision INTEGER NOT NULL DEFAULT 0;"
    "ALTER TABLE staging ADD COLUMN applied INTEGER NOT NULL DEFAULT 0;"
    "ALTER TABLE staging ADD COLUMN holder TEXT NOT NULL DEFAULT '';"
    "ALTER TABLE staging ADD COLUMN held INTEGER NOT NULL DEFAULT 0;"
    "CREATE TABLE staged_window (log INTEGER NOT NULL, owner TEXT NOT NULL, number INTEGER NOT NULL,"
    "  PRIMARY KEY (log, owner)) WITHOUT ROWID;"
    "CREATE TABLE staged_gone (log INTEGER NOT NULL, id INTEGER NOT NULL, PRIMARY KEY (log, id)) WITHOUT ROWID;"
    // The number stands before the gesture, which may be long.
    "ALTER TABLE staged_gesture RENAME TO gesture_before;"
    "CREATE TABLE staged_gesture (log INTEGER NOT NULL, seq INTEGER NOT NULL, id INTEGER NOT NULL,"
    "  packed BLOB NOT NULL, PRIMARY KEY (log, seq));"
    "INSERT INTO staged_gesture SELECT log, seq, 1 + abs(random() / 2), packed FROM gesture_before;"
    "DROP TABLE gesture_before;";

// By version: what is run in a store of the version before.
constexpr const char* kMigrations[] = {kTables, kMarks, kKept, kLogs, kChained, kLinked, kFiles, kShared};
constexpr std::int64_t kVersion = std::size(kMigrations);

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

Result<std::unique_ptr<Store>> Store::open(const std::string& path, std::chrono::milliseconds patience) {
  ITERANDUM_TRY(makeFolder(path));
  ITERANDUM_TRY(makeFile(path));
  auto handle = SqliteHandle::open(path, SQLITE_OPEN_READWRITE | SQLITE_OPEN_NOMUTEX);
  if (!handle) return fail(storeError(handle.error(), path));
  (*handle)->setLockTimeout(patience);
  std::unique_ptr<Store> store(new Store(std::move(*handle)));
  // A write-ahead log: one write to the disk for a gesture instead of several. FULL: it is there after a power cut too.
  // Changing to it does not wait for others by itself.
  const auto giveUpAt = std::chrono::steady_clock::now() + patience;
  Status ready = store->setUp();
  while (!ready && ready.error().kind == ErrorKind::LockTimeout && std::chrono::steady_clock::now() < giveUpAt) {
    std::this_thread::sleep_for(std::chrono::milliseconds(10));
    ready = store->setUp();
  }
  if (!ready) return fail(storeError(std::move(ready.error()), path));
  return store;
}

Status Store::setUp() {
  ITERANDUM_TRY(handle_->run("PRAGMA journal_mode = WAL; PRAGMA synchronous = FULL;"));
  return inTransaction([&]() -> Result<bool> {
           ITERANDUM_TRY(makeTables());
           return true;
         })
      .map([](bool) {});
}

Status Store::makeTables() {
  std::int64_t version = -1;
  ITERANDUM_ASSIGN(SqliteStatement statement, handle_->prepare("PRAGMA user_version"));
  ITERANDUM_TRY(eachRow(statement, "cannot be read", [&](const SqliteStatement& row) { version = row.integer(0); }));
  statement = {};
  if (version > kVersion) return fail(ErrorKind::InvalidFile, "it was written by a newer version of this program");
  if (version == kVersion) return {};
  for (std::int64_t v = version; v < kVersion; ++v) ITERANDUM_TRY(handle_->run(kMigrations[v]));
  ITERANDUM_TRY(hangAllOn());
  return handle_->run("PRAGMA user_version = " + std::to_string(kVersion));
}

Status Store::execute(SqliteStatement& statement, const char* doing) {
  const int code = statement.step();
  if (code == SQLITE_DONE || code == SQLITE_ROW) return {};
  return fail(storeError(handle_->error(code, doing), {}));
}

// An error is no end: rows that were not reached are not taken for rows that are not there.
Status Store::eachRow(SqliteStatement& statement, const char* doing,
                      const std::function<void(const SqliteStatement&)>& take) {
  int code = SQLITE_ROW;
  while ((code = statement.step()) == SQLITE_ROW) take(statement);
  if (code != SQLITE_DONE) return fail(storeError(handle_->error(code, doing), {}));
  statement.reset();
  return {};
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
      handle_->prepare("SELECT r.address, r.title, r.opened_at, (SELECT coalesce(sum(s.position), 0) FROM staging s "
                       "WHERE s.address = r.address), "
                       "coalesce(m.name, ''), coalesce(m.colour, ''), coalesce(m.read_only, 0) FROM recent "
                       "r LEFT JOIN mark m USING (address) ORDER BY "
                       "r.opened_at DESC, r.title"));
  std::vector<RecentDatabase> out;
  ITERANDUM_TRY(eachRow(s, "cannot read the databases that were open", [&](const SqliteStatement& row) {
    out.push_back(
        {row.text(0), row.text(1), row.text(2), row.integer(3), {row.text(4), row.text(5), row.integer(6) != 0}});
  }));
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
  ITERANDUM_TRY(eachRow(s, "cannot read the mark", [&](const SqliteStatement& row) {
    out = {row.text(0), row.text(1), row.integer(2) != 0};
  }));
  return out;
}

Result<std::int64_t> Store::keepReceipt(const Receipt& receipt, const StagedForReceipt* staged) {
  return inTransaction([&]() -> Result<std::int64_t> {
    ITERANDUM_ASSIGN(const std::int64_t id, insertReceipt(receipt, true));
    if (staged != nullptr) ITERANDUM_TRY(linkStaged(id, *staged));
    return id;
  });
}

Result<std::int64_t> Store::insertReceipt(const Receipt& receipt, bool pending) {
  ITERANDUM_ASSIGN(
      SqliteStatement s,
      handle_->prepare("INSERT INTO receipt (address, applied_at, applied_by, title, changes, pending, packed) "
                       "VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7)"));
  const std::string packed = packReceipt(receipt);
  s.bind(1, std::string_view(receipt.database));
  s.bind(2, std::string_view(receipt.appliedAt));
  s.bind(3, std::string_view(receipt.appliedBy));
  s.bind(4, std::string_view(receipt.title));
  s.bind(5, static_cast<std::int64_t>(receipt.appliedCount()));
  s.bind(6, std::int64_t{pending ? 1 : 0});
  s.bindBlob(7, packed);
  ITERANDUM_TRY(execute(s, "cannot keep the receipt"));
  const std::int64_t id = sqlite3_last_insert_rowid(handle_->raw());
  ITERANDUM_TRY(noteTouched(id, receipt));
  ITERANDUM_TRY(noteFiles(id, receipt));
  return id;
}

Result<std::uint64_t> Store::takeInReceipts(const std::string& address,
                                            const std::function<Result<std::optional<Receipt>>()>& next) {
  return inTransaction([&]() -> Result<std::uint64_t> {
    std::uint64_t taken = 0;
    while (true) {
      ITERANDUM_ASSIGN(std::optional<Receipt> receipt, next());
      if (!receipt) return taken;
      receipt->database = address;
      ITERANDUM_ASSIGN(const bool known, hasReceipt(*receipt));
      if (known) continue;
      ITERANDUM_ASSIGN(const std::int64_t id, insertReceipt(*receipt, false));
      ITERANDUM_TRY(hangOn(id));
      ++taken;
    }
  });
}

// What it says is compared, not its bytes: those are another version's now and then.
Result<bool> Store::hasReceipt(const Receipt& receipt) {
  ITERANDUM_ASSIGN(SqliteStatement s,
                   handle_->prepare("SELECT packed FROM receipt WHERE address = ?1 AND applied_at = ?2 "
                                    "AND applied_by = ?3 AND pending = 0"));
  s.bind(1, std::string_view(receipt.database));
  s.bind(2, std::string_view(receipt.appliedAt));
  s.bind(3, std::string_view(receipt.appliedBy));
  const std::string wanted = receiptJson(receipt);
  bool found = false;
  ITERANDUM_TRY(eachRow(s, "cannot read the receipts", [&](const SqliteStatement& row) {
    if (found) return;
    const auto kept = unpackReceipt(row.text(0));
    found = kept && receiptJson(*kept) == wanted;
  }));
  return found;
}

Status Store::confirmReceipt(std::int64_t id) {
  return inTransaction([&]() -> Result<bool> {
           ITERANDUM_ASSIGN(
               SqliteStatement s,
               handle_->prepare("UPDATE receipt SET pending = 0 WHERE id = ?1 AND pending = 1 RETURNING id"));
           s.bind(1, id);
           bool was = false;
           ITERANDUM_TRY(eachRow(s, "cannot confirm the receipt", [&](const SqliteStatement&) { was = true; }));
           // From here on it is to stay as it is.
           if (was) ITERANDUM_TRY(hangOn(id));
           return true;
         })
      .map([](bool) {});
}

Status Store::dropReceipt(std::int64_t id) {
  return inTransaction([&]() -> Result<bool> {
           for (const char* sql :
                {"DELETE FROM receipt WHERE id = ?1 AND pending = 1",
                 "DELETE FROM staged_receipt WHERE receipt = ?1 AND receipt NOT IN (SELECT id FROM receipt)",
                 "DELETE FROM receipt_file WHERE receipt = ?1 AND receipt NOT IN (SELECT id FROM receipt)",
                 "DELETE FROM touched WHERE receipt = ?1 AND receipt NOT IN (SELECT id FROM receipt)"}) {
             ITERANDUM_ASSIGN(SqliteStatement s, handle_->prepare(sql));
             s.bind(1, id);
             ITERANDUM_TRY(execute(s, "cannot drop the receipt"));
           }
           return true;
         })
      .map([](bool) {});
}

Status Store::noteFiles(std::int64_t id, const Receipt& receipt) {
  if (!receipt.origins.any()) return {};
  ITERANDUM_ASSIGN(SqliteStatement s, handle_->prepare("INSERT OR IGNORE INTO receipt_file VALUES (?1, ?2)"));
  for (const SourceFile& file : receipt.origins.files) {
    s.bind(1, id);
    s.bind(2, std::string_view(file.digest));
    ITERANDUM_TRY(execute(s, "cannot note which files the receipt is about"));
    s.reset();
  }
  return {};
}

Result<std::vector<std::int64_t>> Store::receiptsOfFile(const std::string& address, const std::string& digest) {
  ITERANDUM_ASSIGN(SqliteStatement s,
                   handle_->prepare("SELECT r.id FROM receipt_file f JOIN receipt r ON r.id = f.receipt "
                                    "WHERE f.digest = ?1 AND r.address = ?2 AND r.pending = 0 "
                                    "ORDER BY r.id"));
  s.bind(1, std::string_view(digest));
  s.bind(2, std::string_view(address));
  std::vector<std::int64_t> out;
  ITERANDUM_TRY(
      eachRow(s, "cannot read the receipts", [&](const SqliteStatement& row) { out.push_back(row.integer(0)); }));
  return out;
}

Result<std::vector<KeptReceipt>> Store::receipts(const std::string& address) {
  const std::string heads = "SELECT id, address, applied_at, applied_by, title, changes, pending FROM receipt ";
  ITERANDUM_ASSIGN(SqliteStatement s, handle_->prepare(heads + (address.empty() ? "" : "WHERE address = ?1 ") +
                                                       "ORDER BY applied_at DESC, id DESC"));
  if (!address.empty()) s.bind(1, std::string_view(address));
  std::vector<KeptReceipt> out;
  ITERANDUM_TRY(eachRow(s, "cannot read the receipts", [&](const SqliteStatement& row) {
    out.push_back(
        {row.integer(0), row.text(1), row.text(2), row.text(3), row.text(4), row.integer(5), row.integer(6) != 0});
  }));
  return out;
}

Result<Receipt> Store::receipt(std::int64_t id) {
  ITERANDUM_ASSIGN(SqliteStatement s, handle_->prepare("SELECT packed FROM receipt WHERE id = ?1"));
  s.bind(1, id);
  std::optional<std::string> packed;
  ITERANDUM_TRY(eachRow(s, "cannot read the receipt", [&](const SqliteStatement& row) { packed = row.text(0); }));
  if (!packed) return fail(ErrorKind::NotFound, "there is no such receipt");
  return unpackReceipt(*packed);
}

}  // namespace iterandum
