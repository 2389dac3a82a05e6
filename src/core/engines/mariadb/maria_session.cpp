#include "core/engines/mariadb/maria_session.h"

#include <algorithm>
#include <cstdlib>

#include "core/engines/common/address.h"
#include "core/engines/common/resume.h"

namespace iterandum {
namespace {

// What makes every value come and go in one and the same text, whatever the server's or the user's settings are:
// nothing is cut to fit, and what once got into the database (a date of noughts) may be put back.
constexpr const char* kSettings =
    "SET NAMES utf8mb4 COLLATE utf8mb4_bin; "
    "SET SESSION sql_mode = 'STRICT_TRANS_TABLES,STRICT_ALL_TABLES,NO_AUTO_VALUE_ON_ZERO,ERROR_FOR_DIVISION_BY_ZERO,"
    "NO_ENGINE_SUBSTITUTION', time_zone = '+00:00', autocommit = 1, foreign_key_checks = 1, unique_checks = 1, "
    "check_constraint_checks = 1, sql_auto_is_null = 0, sql_select_limit = DEFAULT, sql_safe_updates = 0, "
    "sql_big_selects = 1, "
    "max_statement_time = 0, completion_type = 0";

constexpr unsigned long kOldestVersion = 100600;  // JSON_TABLE

bool isYes(const std::string& value) { return value != "0" && value != "no" && value != "off" && value != "false"; }

// A parameter of the address, named as in the library's option files, with - or _.
Status takeParameter(MariaConnect& how, std::string name, const std::string& value) {
  std::replace(name.begin(), name.end(), '_', '-');
  if (name == "socket") {
    how.socket = value;
  } else if (name == "password") {
    how.password = value;
  } else if (name == "ssl" || name == "tls") {
    how.tls = isYes(value);
  } else if (name == "ssl-ca") {
    how.tlsAuthority = value;
    how.tls = true;
  } else if (name == "ssl-cert") {
    how.tlsCertificate = value;
  } else if (name == "ssl-key") {
    how.tlsKey = value;
  } else if (name == "ssl-verify-server-cert") {
    how.tlsVerify = isYes(value);
  } else if (name == "connect-timeout") {
    const long seconds = std::strtol(value.c_str(), nullptr, 10);
    if (seconds < 1 || seconds > 3600) {
      return fail(ErrorKind::CannotOpen, "connect-timeout in the address is no number of seconds from 1 to 3600");
    }
    how.timeoutSeconds = static_cast<unsigned>(seconds);
  } else {
    return fail(ErrorKind::CannotOpen,
                "the address has a parameter '" + name +
                    "' that is not known; known are socket, ssl, ssl-ca, ssl-cert, ssl-key, ssl-verify-server-cert and "
                    "connect-timeout");
  }
  return {};
}

Result<MariaConnect> connectParameters(const std::string& address, const std::string& password) {
  ITERANDUM_ASSIGN(const ServerAddress parts, serverAddress(address));
  MariaConnect how;
  how.user = parts.user;
  how.password = parts.password;
  how.hosts.clear();
  for (const ServerHost& host : parts.hosts) {
    how.hosts.push_back({host.name, host.port.empty() ? 0 : static_cast<unsigned>(std::stoul(host.port))});
  }
  how.database = parts.database;
  for (const auto& [name, value] : parts.parameters) ITERANDUM_TRY(takeParameter(how, name, value));
  if (how.password.empty()) {
    const char* given = password.empty() ? std::getenv("ITERANDUM_PASSWORD") : password.c_str();
    if (given != nullptr) how.password = given;
  }
  return how;
}

bool wantsPassword(const Error& error) { return error.engineWords.find("using password: NO") != std::string::npos; }

// The server counts lock waits in whole seconds.
std::string lockSeconds(std::chrono::milliseconds timeout) {
  return std::to_string(std::clamp<std::int64_t>((timeout.count() + 999) / 1000, 1, 31536000));
}

struct Membership {
  bool inCluster = false;
  std::int64_t mostRows = 0;  // of a transaction; 0: any number
};

Result<Membership> readMembership(MariaHandle& handle, Progress& progress) {
  Membership out;
  ITERANDUM_TRY(handle.each(
      "SHOW GLOBAL VARIABLES WHERE Variable_name IN ('wsrep_on', 'wsrep_max_ws_rows')",
      [&](const MariaRow& row) {
        if (row.text(0) == "wsrep_on") out.inCluster = row.text(1) == "ON";
        if (row.text(0) == "wsrep_max_ws_rows") out.mostRows = row.integer(1);
      },
      progress));
  return out;
}

Status prepare(MariaHandle& handle, SessionInfo& info, std::chrono::milliseconds lockTimeout, Progress& progress) {
  if (!handle.isMariaDb() || handle.serverVersion() < kOldestVersion) {
    return fail(ErrorKind::Unsupported, "the server is " + std::string(handle.isMariaDb() ? "MariaDB " : "MySQL ") +
                                            handle.serverVersionText() + "; MariaDB 10.6 or newer is needed");
  }
  ITERANDUM_TRY(handle.learnServer(progress));
  ITERANDUM_TRY(handle.run(
      "SELECT @@max_allowed_packet, @@global.read_only, coalesce(DATABASE(), '')",
      [&](const MariaRow& row) {
        handle.setMostBytes(static_cast<std::size_t>(row.integer(0)));
        if (row.integer(1) == 1 && info.readOnly.empty()) info.readOnly = "the server is set to read only";
        info.title = row.string(2);
        return true;
      },
      progress));
  ITERANDUM_ASSIGN(const Membership member, readMembership(handle, progress));
  handle.setMostRows(member.inCluster && member.mostRows > 0 ? static_cast<std::size_t>(member.mostRows) : 0);
  ITERANDUM_TRY(handle.run(kSettings, progress));
  // For every statement, those that read the catalogue too: somebody may hold a table for hours.
  return handle.run("SET SESSION innodb_lock_wait_timeout = " + lockSeconds(lockTimeout) +
                        ", lock_wait_timeout = " + lockSeconds(lockTimeout),
                    progress);
}

}  // namespace

Result<std::unique_ptr<Session>> openMariaSession(const std::string& address, const OpenOptions& options,
                                                  Progress& progress) {
  const std::string shown = withoutPassword(address);
  const auto failed = [&](Error error) {
    error.message = shown + ": " + withoutSecrets(error.message, address);
    error.engineWords = withoutSecrets(error.engineWords, address);
    return fail(std::move(error));
  };
  auto how = connectParameters(address, options.password);
  if (!how) return failed(std::move(how.error()));
  auto handle = MariaHandle::open(*how, progress);
  if (!handle && options.askPassword && wantsPassword(handle.error())) {
    if (const auto password = options.askPassword(shown)) {
      how->password = *password;
      handle = MariaHandle::open(*how, progress);
    }
  }
  if (!handle) return failed(std::move(handle.error()));
  SessionInfo info;
  info.address = shown;
  if (options.readOnly) info.readOnly = "it was opened for reading only";
  Status ready = prepare(**handle, info, options.lockTimeout, progress);
  if (!ready) return failed(std::move(ready.error()));
  info.encryption = (*handle)->encryption();
  if (info.title.empty()) info.title = how->hosts[0].name.empty() ? "MariaDB" : how->hosts[0].name;
  return std::make_unique<MariaSession>(std::move(*handle), std::move(info), std::move(*how));
}

Result<Catalogue> MariaSession::readCatalogue(Progress& progress) { return readMariaCatalogue(*handle_, progress); }

// --- the transaction -------------------------------------------------------------------------------------------------

Status MariaSession::begin(std::chrono::milliseconds lockTimeout, Progress& progress) {
  if (!info_.readOnly.empty()) {
    return fail(ErrorKind::ReadOnly, "nothing can be written to " + info_.address + ": " + info_.readOnly);
  }
  lockTimeout_ = lockTimeout;
  // READ COMMITTED: a record that is locked is seen as it is then.
  const std::string seconds = lockSeconds(lockTimeout);
  ITERANDUM_TRY(handle_->run("SET SESSION innodb_lock_wait_timeout = " + seconds + ", lock_wait_timeout = " + seconds +
                                 "; SET TRANSACTION ISOLATION LEVEL READ COMMITTED; START TRANSACTION READ WRITE",
                             progress));
  inTransaction_ = true;
  leftOnAnother_ = false;
  written_ = 0;
  return {};
}

Status MariaSession::runForProbe(const std::string& sql, Progress& progress) { return handle_->run(sql, progress); }

void MariaSession::rollback() {
  if (!inTransaction()) return;
  inTransaction_ = false;
  Progress progress;
  // When even this fails the connection is gone, and with it the transaction.
  (void)handle_->run("ROLLBACK", progress);
}

// What a COMMIT comes to that is ended half way the server does not say: it is waited for.
Status MariaSession::commit(Progress&) {
  Progress unstopped;
  Status done = handle_->run("COMMIT", unstopped);
  if (done) inTransaction_ = false;
  if (done) return done;
  if (handle_->isAlive()) {
    rollback();
    // A cluster that broke apart under the COMMIT: whether the larger part has it, this server cannot say. One that had
    // lost touch before refuses the statement itself.
    const bool broke = done.error().engineWords.find("Not connected to Primary Component") != std::string::npos;
    if (broke) return fail(unknownOutcome(done.error(), "the server lost touch with its cluster"));
    return done;
  }
  inTransaction_ = false;
  // The caller reads the records back, for which it needs a session.
  (void)resume(unstopped);
  return fail(unknownOutcome(done.error()));
}

Status MariaSession::resume(Progress& progress) {
  const std::string lost = std::to_string(handle_->id());
  const MariaServer server = handle_->server();
  return resumeSession(
      [&]() -> Result<bool> {
        ITERANDUM_ASSIGN(std::unique_ptr<MariaHandle> again, MariaHandle::open(how_, progress));
        SessionInfo ignored;
        ITERANDUM_TRY(prepare(*again, ignored, lockTimeout_, progress));
        leftOnAnother_ = !again->server().isSamePlace(server);
        // What the lost connection left unfinished must be over before its records tell anything. A server that was
        // started anew has nothing left of it, and gives its number to somebody else.
        bool there = false;
        if (again->server().isSameRun(server)) {
          ITERANDUM_TRY(again->run(
              "SELECT ID FROM information_schema.PROCESSLIST WHERE ID = " + lost + " AND ID <> CONNECTION_ID()",
              [&](const MariaRow&) { return there = true; }, progress));
        }
        if (there) {
          (void)again->run("KILL " + lost, progress);
          return false;
        }
        handle_ = std::move(again);
        return true;
      },
      progress);
}

// A member shows what has arrived, and says nothing of what is on its way. One that has lost touch with the others
// answers for a moment as if nothing were; asked to wait for all before, it cannot.
Status MariaSession::catchUp(Progress& progress) {
  ITERANDUM_ASSIGN(const Membership member, readMembership(*handle_, progress));
  if (!member.inCluster) return {};
  ITERANDUM_TRY(handle_->run("SET SESSION wsrep_sync_wait = 1", progress));
  Status waited = handle_->each(
      "SELECT 1", [](const MariaRow&) {}, progress);
  // Each later reading would wait, too. Where this fails the session is of no more use anyway.
  (void)handle_->run("SET SESSION wsrep_sync_wait = DEFAULT", progress);
  if (waited || waited.error().kind != ErrorKind::LockTimeout) return waited;
  waited.error().kind = ErrorKind::NotServing;
  waited.error().message =
      "this server waits in vain for the others of its cluster (the server says: " + waited.error().engineWords + ")";
  return waited;
}

// The server says whether the transaction is over; its error numbers do not, for code of the database can signal any.
bool MariaSession::transactionStands() {
  Progress progress;
  bool stands = false;
  (void)handle_->run(
      "SELECT @@in_transaction",
      [&](const MariaRow& row) {
        stands = row.integer(0) == 1;
        return true;
      },
      progress);
  if (!stands) inTransaction_ = false;
  return stands;
}

Status MariaSession::countWrites(std::size_t records) {
  written_ += records;
  const std::size_t most = handle_->mostRows();
  if (most == 0 || written_ <= most) return {};
  return fail(tooMuchForCluster("wsrep_max_ws_rows is " + std::to_string(most)));
}

void MariaSession::judge(Error& error, std::chrono::steady_clock::duration took) {
  if (!inTransaction()) return;
  // Under a limit the servers take no UPDATE of several records at once. The number is of their own headers.
  constexpr const char* kReplicationNotSupported = "4165";
  if (handle_->mostRows() > 0 && error.engineCode == kReplicationNotSupported) {
    error.kind = ErrorKind::StorageFull;
    error.message = "this cluster limits the records of a transaction (wsrep_max_ws_rows is " +
                    std::to_string(handle_->mostRows()) +
                    "), and under such a limit it takes no edits in batches; ask whoever runs it to set it to 0 (the "
                    "server says: " +
                    error.engineWords + ")";
  }
  if (error.kind == ErrorKind::TryAgain && transactionStands()) error.kind = ErrorKind::Refused;
  // A lock that was really waited for took its time.
  if (error.kind == ErrorKind::LockTimeout && took < lockTimeout_ / 2) error.kind = ErrorKind::Refused;
}

Status MariaSession::look(const std::string& sql, const MariaRowSink& sink, Progress& progress,
                          MariaHandle::Rows rows) {
  if (inTransaction()) {
    ITERANDUM_TRY(handle_->run(sql, sink, progress, rows));
    return {};
  }
  constexpr std::size_t kStatements = 3;
  const auto done = handle_->run("START TRANSACTION READ ONLY; " + sql + "; COMMIT", sink, progress, rows);
  if (!done || done->size() < kStatements) {
    Progress always;
    (void)handle_->run("ROLLBACK", always);
  }
  if (!done) return fail(done.error());
  return {};
}

Error MariaSession::lockTimedOut(Error error, const Table& table) {
  Progress progress;
  rollback();
  error.message = "did not get the lock on " + displayName(table.name) + " within " + lockSeconds(lockTimeout_) + " s";
  int count = 0;
  // Only who may see all processes is told; nobody else gets a row.
  (void)handle_->run(
      "SELECT p.ID, p.USER, p.HOST FROM information_schema.INNODB_TRX x JOIN information_schema.PROCESSLIST p ON "
      "p.ID = x.trx_mysql_thread_id WHERE p.ID <> CONNECTION_ID() AND (x.trx_rows_locked > 0 OR x.trx_tables_locked > "
      "0) "
      "LIMIT 3",
      [&](const MariaRow& row) {
        error.message += (count++ == 0 ? "; it may be held by " : ", ") + row.string(1) + " on " + row.string(2) +
                         " (connection " + row.string(0) + ")";
        return true;
      },
      progress);
  return error;
}

}  // namespace iterandum
