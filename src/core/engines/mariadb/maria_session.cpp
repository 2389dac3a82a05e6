#include "core/engines/mariadb/maria_session.h"

#include <algorithm>
#include <cstdlib>
#include <thread>

#include "core/engines/common/address.h"

namespace iterandum {
namespace {

// What makes every value come and go in one and the same text, whatever the server's or the user's settings are:
// nothing is cut to fit, and what once got into the database (a date of noughts) may be put back.
constexpr const char* kSettings =
    "SET NAMES utf8mb4 COLLATE utf8mb4_bin; "
    "SET SESSION sql_mode = 'STRICT_TRANS_TABLES,STRICT_ALL_TABLES,NO_AUTO_VALUE_ON_ZERO,ERROR_FOR_DIVISION_BY_ZERO,"
    "NO_ENGINE_SUBSTITUTION', time_zone = '+00:00', autocommit = 1, foreign_key_checks = 1, unique_checks = 1, "
    "check_constraint_checks = 1, sql_auto_is_null = 0, sql_select_limit = DEFAULT, "
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
  how.host = parts.host;
  how.port = parts.port.empty() ? 0 : static_cast<unsigned>(std::stoul(parts.port));
  how.database = parts.database;
  for (const auto& [name, value] : parts.parameters) ITERANDUM_TRY(takeParameter(how, name, value));
  if (how.password.empty()) {
    const char* given = password.empty() ? std::getenv("ITERANDUM_PASSWORD") : password.c_str();
    if (given != nullptr) how.password = given;
  }
  return how;
}

bool wantsPassword(const Error& error) { return error.engineWords.find("using password: NO") != std::string::npos; }

Status prepare(MariaHandle& handle, SessionInfo& info, Progress& progress) {
  if (!handle.isMariaDb() || handle.serverVersion() < kOldestVersion) {
    return fail(ErrorKind::Unsupported, "the server is " + std::string(handle.isMariaDb() ? "MariaDB " : "MySQL ") +
                                            handle.serverVersionText() + "; MariaDB 10.6 or newer is needed");
  }
  ITERANDUM_TRY(handle.run(
      "SELECT @@max_allowed_packet, @@global.read_only, coalesce(DATABASE(), '')",
      [&](const MariaRow& row) {
        handle.setMostBytes(static_cast<std::size_t>(row.integer(0)));
        if (row.integer(1) == 1 && info.readOnly.empty()) info.readOnly = "the server is set to read only";
        info.title = row.string(2);
        return true;
      },
      progress));
  return handle.run(kSettings, progress);
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
  Status ready = prepare(**handle, info, progress);
  if (!ready) return failed(std::move(ready.error()));
  info.encryption = (*handle)->encryption();
  if (info.title.empty()) info.title = how->host.empty() ? "MariaDB" : how->host;
  return std::make_unique<MariaSession>(std::move(*handle), std::move(info), std::move(*how));
}

Result<Catalogue> MariaSession::readCatalogue(Progress& progress) { return readMariaCatalogue(*handle_, progress); }

// --- the transaction -------------------------------------------------------------------------------------------------

Status MariaSession::begin(std::chrono::milliseconds lockTimeout, Progress& progress) {
  if (!info_.readOnly.empty()) {
    return fail(ErrorKind::ReadOnly, "nothing can be written to " + info_.address + ": " + info_.readOnly);
  }
  lockTimeout_ = lockTimeout;
  // The server counts lock waits in whole seconds. READ COMMITTED: a record that is locked is seen as it is then.
  const std::string seconds = std::to_string(std::max<std::int64_t>(1, (lockTimeout.count() + 999) / 1000));
  ITERANDUM_TRY(handle_->run("SET SESSION innodb_lock_wait_timeout = " + seconds + ", lock_wait_timeout = " + seconds +
                                 "; SET TRANSACTION ISOLATION LEVEL READ COMMITTED; START TRANSACTION READ WRITE",
                             progress));
  inTransaction_ = true;
  return {};
}

void MariaSession::rollback() {
  if (!inTransaction()) return;
  inTransaction_ = false;
  Progress progress;
  // When even this fails the connection is gone, and with it the transaction.
  (void)handle_->run("ROLLBACK", progress);
}

Status MariaSession::commit() {
  Progress progress;
  Status done = handle_->run("COMMIT", progress);
  inTransaction_ = false;
  if (done || done.error().kind != ErrorKind::ConnectionLost) return done;
  Error unknown(ErrorKind::OutcomeUnknown,
                "the connection was lost while committing, and whether the change set was written is not known; review "
                "it again before applying it again");
  unknown.engineCode = done.error().engineCode;
  unknown.engineWords = done.error().engineWords;
  // The caller reads the records back, for which it needs a session.
  (void)resume();
  return fail(std::move(unknown));
}

Status MariaSession::resume() {
  Progress progress;
  const unsigned long lost = handle_->id();
  constexpr int kTries = 20;
  for (int attempt = 0; attempt < kTries; ++attempt) {
    std::this_thread::sleep_for(std::chrono::milliseconds(attempt == 0 ? 0 : 250));
    auto again = MariaHandle::open(how_, progress);
    if (!again) continue;
    SessionInfo ignored;
    if (!prepare(**again, ignored, progress)) continue;
    // What the lost connection left unfinished must be over before its records tell anything.
    bool there = false;
    const auto asked = (*again)->run(
        "SELECT ID FROM information_schema.PROCESSLIST WHERE ID = " + std::to_string(lost) +
            " AND ID <> CONNECTION_ID()",
        [&](const MariaRow&) { return there = true; }, progress);
    if (!asked) continue;
    if (there) {
      (void)(*again)->run("KILL " + std::to_string(lost), progress);
      continue;
    }
    handle_ = std::move(*again);
    return {};
  }
  return fail(ErrorKind::ConnectionLost, "the server could not be reached again");
}

Error MariaSession::lockTimedOut(Error error, const Table& table) {
  Progress progress;
  rollback();
  error.message = "did not get the lock on " + displayName(table.name) + " within " +
                  std::to_string(std::max<std::int64_t>(1, (lockTimeout_.count() + 999) / 1000)) + " s";
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
  error.message += "; nothing was written";
  return error;
}

}  // namespace iterandum
