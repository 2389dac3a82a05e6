#include "core/engines/sqlite/sqlite_session.h"

#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <filesystem>
#include <optional>

#include "core/engines/sqlite/sqlite_catalogue.h"
#include "core/value/calendar_text.h"
#include "core/value/small_letters.h"

namespace iterandum {
namespace {

// --- iterandum_fold(text): the text in small letters, for conditions that do not care about case -------------------

// The text of an argument, in UTF-8; nothing for NULL, and for bytes, which have no letters.
std::optional<std::string_view> textArgument(sqlite3_value* value) {
  if (sqlite3_value_type(value) == SQLITE_BLOB) return std::nullopt;
  const auto* data = reinterpret_cast<const char*>(sqlite3_value_text(value));
  if (data == nullptr) return std::nullopt;
  return std::string_view(data, static_cast<std::size_t>(sqlite3_value_bytes(value)));
}

void foldFunction(sqlite3_context* context, int, sqlite3_value** arguments) {
  const auto text = textArgument(arguments[0]);
  if (!text) return sqlite3_result_null(context);
  const std::string folded = smallLetters(*text);
  sqlite3_result_text64(context, folded.data(), folded.size(), SQLITE_TRANSIENT, SQLITE_UTF8);
}

// --- iterandum_order(text): the same as bytes of UTF-8, which go by code points; texts go by the database's encoding
// ---

void orderFunction(sqlite3_context* context, int, sqlite3_value** arguments) {
  const auto text = textArgument(arguments[0]);
  if (!text) return sqlite3_result_null(context);
  const std::string folded = smallLetters(*text);
  sqlite3_result_blob64(context, folded.data(), folded.size(), SQLITE_TRANSIENT);
}

// --- iterandum_natural(text): small letters, and every number brought to twenty digits, so that it goes by its size --

std::string naturalKey(std::string_view s) {
  constexpr std::size_t kDigits = 20;
  const std::string folded = smallLetters(s);
  const auto isDigit = [](char c) { return c >= '0' && c <= '9'; };
  std::string out;
  for (std::size_t i = 0; i < folded.size();) {
    if (!isDigit(folded[i])) {
      out += folded[i++];
      continue;
    }
    while (i + 1 < folded.size() && folded[i] == '0' && isDigit(folded[i + 1])) ++i;
    std::size_t end = i;
    while (end < folded.size() && isDigit(folded[end])) ++end;
    if (end - i < kDigits) out.append(kDigits - (end - i), '0');
    out.append(folded, i, end - i);
    i = end;
  }
  return out;
}

void naturalFunction(sqlite3_context* context, int, sqlite3_value** arguments) {
  const auto text = textArgument(arguments[0]);
  if (!text) return sqlite3_result_null(context);
  const std::string key = naturalKey(*text);
  sqlite3_result_blob64(context, key.data(), key.size(), SQLITE_TRANSIENT);
}

// --- iterandum_moment(text), iterandum_clock(text): a day or moment, or a time, in the one form that goes by its order
// in time; NULL for anything else

template <bool ofDays>
void calendarFunction(sqlite3_context* context, int, sqlite3_value** arguments) {
  const auto given = sqlite3_value_type(arguments[0]) == SQLITE_TEXT ? textArgument(arguments[0]) : std::nullopt;
  const auto text = given ? calendarText(*given) : std::nullopt;
  if (!text || text->hasDay != ofDays) return sqlite3_result_null(context);
  sqlite3_result_text64(context, text->form.data(), text->form.size(), SQLITE_TRANSIENT, SQLITE_UTF8);
}

// --- opening ---------------------------------------------------------------------------------------------------------

Status checkFile(const std::string& path) {
  if (path.empty()) return fail(ErrorKind::CannotOpen, "no database was named; give the path of an SQLite file");
  if (path.find('\0') != std::string::npos) return fail(ErrorKind::CannotOpen, "a path cannot hold a NUL byte");
  struct stat info {};
  if (stat(path.c_str(), &info) != 0) {
    if (errno == ENOENT) return fail(ErrorKind::CannotOpen, "there is no file " + path + "; check the path");
    return fail(ErrorKind::CannotOpen, "cannot look at " + path + ": " + std::string(strerror(errno)));
  }
  if (S_ISDIR(info.st_mode)) return fail(ErrorKind::CannotOpen, path + " is a folder, not a database file");
  if (!S_ISREG(info.st_mode)) return fail(ErrorKind::CannotOpen, path + " is no regular file");
  if (access(path.c_str(), R_OK) != 0) {
    return fail(ErrorKind::CannotOpen, "you may not read " + path + "; ask for the right to");
  }
  return {};
}

// Settings that make SQLite do what the database's own rules say, whatever the defaults of this build. As calls where
// there are calls: opening is felt, and each statement costs its parsing.
Status setUp(SqliteHandle& handle) {
  sqlite3* db = handle.raw();
  sqlite3_db_config(db, SQLITE_DBCONFIG_DEFENSIVE, 1, nullptr);
  sqlite3_db_config(db, SQLITE_DBCONFIG_ENABLE_FKEY, 1, nullptr);
  sqlite3_db_config(db, SQLITE_DBCONFIG_ENABLE_TRIGGER, 1, nullptr);
  sqlite3_db_config(db, SQLITE_DBCONFIG_TRUSTED_SCHEMA, 0, nullptr);
  const auto define = [db](const char* name, void (*function)(sqlite3_context*, int, sqlite3_value**)) {
    sqlite3_create_function_v2(db, name, 1, SQLITE_UTF8 | SQLITE_DETERMINISTIC | SQLITE_DIRECTONLY, nullptr, function,
                               nullptr, nullptr, nullptr);
  };
  define("iterandum_fold", &foldFunction);
  define("iterandum_order", &orderFunction);
  define("iterandum_natural", &naturalFunction);
  define("iterandum_moment", &calendarFunction<true>);
  define("iterandum_clock", &calendarFunction<false>);
  return handle.run(
      "PRAGMA cell_size_check = ON; PRAGMA cache_size = -65536; PRAGMA temp_store = FILE; PRAGMA query_only = ON");
}

std::string fileTitle(const std::string& path) { return std::filesystem::path(path).stem().string(); }

}  // namespace

Result<std::unique_ptr<Session>> openSqliteSession(const std::string& path, const OpenOptions& options) {
  ITERANDUM_TRY(checkFile(path));
  int flags = SQLITE_OPEN_NOMUTEX | SQLITE_OPEN_EXRESCODE;
  flags |= options.readOnly ? SQLITE_OPEN_READONLY : SQLITE_OPEN_READWRITE;
  ITERANDUM_ASSIGN(std::unique_ptr<SqliteHandle> handle, SqliteHandle::open(path, flags));
  handle->setLockTimeout(options.lockTimeout);
  ITERANDUM_TRY(setUp(*handle));
  if (auto probe = handle->prepare("SELECT 1 FROM sqlite_schema LIMIT 1"); !probe) {
    Error error = probe.error();
    return fail(std::move(error));
  } else if (const int code = probe->step(); code != SQLITE_ROW && code != SQLITE_DONE) {
    return fail(handle->error(code, "cannot read " + path));
  }
  std::error_code ignored;
  SessionInfo info;
  info.address = "sqlite:" + std::filesystem::absolute(path, ignored).lexically_normal().string();
  info.title = fileTitle(path);
  info.canBeCopied = true;
  if (options.readOnly) {
    info.readOnly = "it was opened for reading only";
  } else if (sqlite3_db_readonly(handle->raw(), "main") == 1) {
    info.readOnly = "the file may only be read by you";
  }
  ITERANDUM_ASSIGN(SqliteStatement encoding, handle->prepare("PRAGMA encoding"));
  std::string name = encoding.step() == SQLITE_ROW ? encoding.text(0) : "UTF-8";
  encoding = {};
  return std::make_unique<SqliteSession>(std::move(handle), std::move(info), std::move(name));
}

Result<Catalogue> SqliteSession::readCatalogue(Progress& progress) {
  const SqliteWatch watch(*handle_, progress);
  return readSqliteCatalogue(*handle_);
}

Status SqliteSession::begin(std::chrono::milliseconds lockTimeout, Progress& progress) {
  if (!info_.readOnly.empty()) {
    return fail(ErrorKind::ReadOnly, "nothing can be written to " + info_.address + ": " + info_.readOnly);
  }
  const SqliteWatch watch(*handle_, progress);
  handle_->setLockTimeout(lockTimeout);
  allowWriting(true);
  // IMMEDIATE: other writers wait from here on, so that what is read is what is written over.
  if (Status status = handle_->run("BEGIN IMMEDIATE"); !status) {
    Error error = status.error();
    allowWriting(false);
    if (error.kind == ErrorKind::LockTimeout) {
      error.message =
          "did not get the lock within " + std::to_string(lockTimeout.count() / 1000) + " s; " + error.message;
    }
    return fail(std::move(error));
  }
  // References are checked at the end, so that records of one change set may point at each other in any order.
  return handle_->run("PRAGMA defer_foreign_keys = ON");
}

Status SqliteSession::commit(Progress&) {
  Progress unstopped;
  const SqliteWatch watch(*handle_, unstopped);
  Status status = handle_->run("COMMIT");
  rollback();
  return status;
}

Status SqliteSession::runForProbe(const std::string& sql, Progress& progress) {
  ITERANDUM_TRY(begin(std::chrono::seconds(5), progress));
  if (Status done = handle_->run(sql); !done) {
    rollback();
    return done;
  }
  return commit(progress);
}

Status SqliteSession::noteWrites(const Catalogue& catalogue, bool knownCode, Progress&) {
  // Nothing else than triggers can write here, and being asked at every record costs.
  if (knownCode) writes_ = std::make_unique<SqliteWrites>(handle_->raw(), catalogue);
  return {};
}

Result<std::optional<std::vector<TableWrites>>> SqliteSession::writesSoFar(const Catalogue&, std::uint64_t most,
                                                                           Progress&) {
  return std::optional(writes_ == nullptr ? std::vector<TableWrites>() : writes_->soFar(most));
}

void SqliteSession::rollback() {
  writes_.reset();
  if (inTransaction()) {
    // SQLite rolls back by itself when it cannot do it on request; nothing is left to do.
    (void)handle_->run("ROLLBACK");
  }
  allowWriting(false);
}

// Outside of a transaction of ours nothing can be written, by whatever a view or a virtual table does when it is read.
void SqliteSession::allowWriting(bool allow) {
  (void)handle_->run(allow ? "PRAGMA query_only = OFF" : "PRAGMA query_only = ON");
}

bool SqliteSession::inTransaction() const { return sqlite3_get_autocommit(handle_->raw()) == 0; }

std::optional<Error> SqliteSession::brokenAtTheEnd() {
  int unresolved = 0;
  int highest = 0;
  sqlite3_db_status(handle_->raw(), SQLITE_DBSTATUS_DEFERRED_FKS, &unresolved, &highest, 0);
  if (unresolved == 0) return std::nullopt;
  Error error(ErrorKind::Constraint,
              "after the whole change set some record points at nothing (a trigger may have "
              "changed it); the database would refuse to keep it");
  error.constraint = ConstraintKind::ForeignKey;
  return error;
}

}  // namespace iterandum
