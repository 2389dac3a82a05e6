#include "core/engines/postgresql/pg_session.h"

#include <algorithm>
#include <cstdlib>

#include "core/engines/common/address.h"
#include "core/engines/common/resume.h"

namespace iterandum {
namespace {

// What makes every value come and go in one and the same text, whatever the server's or the user's settings are.
constexpr const char* kSettings =
    "SET client_encoding = 'UTF8'; SET datestyle = 'ISO, YMD'; SET intervalstyle = 'iso_8601'; SET timezone = 'UTC';"
    "SET extra_float_digits = 3; SET bytea_output = 'hex'; SET standard_conforming_strings = on;"
    "SET lc_monetary = 'C'; SET xmloption = 'content'; SET array_nulls = on; SET transform_null_equals = off;"
    "SET statement_timeout = 0; SET idle_in_transaction_session_timeout = 0; SET client_min_messages = 'error';"
    "SET default_transaction_read_only = on";

constexpr int kOldestVersion = 120000;

bool has(const PgConnectParameters& parameters, std::string_view keyword) {
  return std::any_of(parameters.begin(), parameters.end(), [&](const auto& p) { return p.first == keyword; });
}

Result<PgConnectParameters> parametersOf(const std::string& address) {
  char* words = nullptr;
  PQconninfoOption* options = PQconninfoParse(address.c_str(), &words);
  if (options == nullptr) {
    std::string message = words == nullptr ? "" : words;
    PQfreemem(words);
    while (!message.empty() && message.back() == '\n') message.pop_back();
    return fail(ErrorKind::CannotOpen, "the address cannot be read: " + withoutSecrets(message, address));
  }
  PgConnectParameters out;
  for (const PQconninfoOption* o = options; o->keyword != nullptr; ++o) {
    if (o->val == nullptr) continue;
    out.emplace_back(o->keyword, o->val);
  }
  PQconninfoFree(options);
  out.emplace_back("fallback_application_name", "iterandum");
  // A network that has died without a word is noticed within minutes, not hours: the customary setting is two hours.
  for (const auto& [keyword, value] : {std::pair{"keepalives_idle", "30"}, std::pair{"keepalives_interval", "10"},
                                       std::pair{"keepalives_count", "3"}, std::pair{"tcp_user_timeout", "120000"}}) {
    if (!has(out, keyword)) out.emplace_back(keyword, value);
  }
  return out;
}

// In milliseconds; nought would be for ever.
std::string lockTimeoutText(std::chrono::milliseconds timeout) {
  return std::to_string(std::clamp<std::int64_t>(timeout.count(), 1, INT32_MAX));
}

bool wantsPassword(const Error& error) { return error.engineWords.find("no password supplied") != std::string::npos; }

Result<std::unique_ptr<PgHandle>> connect(PgConnectParameters& parameters, const OpenOptions& options,
                                          const std::string& shown, Progress& progress) {
  const char* given = options.password.empty() ? std::getenv("ITERANDUM_PASSWORD") : options.password.c_str();
  if (given != nullptr && !has(parameters, "password")) parameters.emplace_back("password", given);
  auto handle = PgHandle::open(parameters, progress);
  if (handle || !options.askPassword || !wantsPassword(handle.error())) return handle;
  const auto password = options.askPassword(shown);
  if (!password) return handle;
  parameters.emplace_back("password", *password);
  return PgHandle::open(parameters, progress);
}

}  // namespace

Result<std::unique_ptr<Session>> openPgSession(const std::string& address, const OpenOptions& options,
                                               Progress& progress) {
  ITERANDUM_ASSIGN(PgConnectParameters parameters, parametersOf(address));
  const std::string shown = withoutPassword(address);
  auto connected = connect(parameters, options, shown, progress);
  if (!connected) {
    Error error = std::move(connected.error());
    error.message = shown + ": " + withoutSecrets(error.message, address);
    error.engineWords = withoutSecrets(error.engineWords, address);
    return fail(std::move(error));
  }
  std::unique_ptr<PgHandle> handle = std::move(*connected);
  if (PQserverVersion(handle->raw()) < kOldestVersion) {
    return fail(ErrorKind::Unsupported, shown + ": the server is PostgreSQL " +
                                            std::to_string(PQserverVersion(handle->raw()) / 10000) +
                                            "; version 12 or newer is needed");
  }
  ITERANDUM_TRY(handle->run(kSettings, progress));
  // For every statement, those that read the catalogue too: somebody may hold a table for hours.
  ITERANDUM_TRY(handle->run("SET lock_timeout = " + lockTimeoutText(options.lockTimeout), progress));
  SessionInfo info;
  info.address = shown;
  info.title = PQdb(handle->raw());
  if (PQsslInUse(handle->raw()) != 0) {
    const char* protocol = PQsslAttribute(handle->raw(), "protocol");
    info.encryption = protocol == nullptr ? "TLS" : protocol;
  }
  ITERANDUM_ASSIGN(
      const PgResult server,
      handle->query("SELECT pg_catalog.pg_is_in_recovery(), EXISTS (SELECT FROM pg_catalog.pg_collation WHERE collname "
                    "OPERATOR(pg_catalog.=) 'und-x-icu'::pg_catalog.name)",
                    {}, progress));
  if (options.readOnly) {
    info.readOnly = "it was opened for reading only";
  } else if (server.rows() == 1 && server.isTrue(0, 0)) {
    info.readOnly = "the server is a standby, which only follows another one";
  }
  auto session = std::make_unique<PgSession>(std::move(handle), std::move(info), std::move(parameters));
  session->setKnowsUnicode(server.rows() == 1 && server.isTrue(0, 1));
  return session;
}

Result<Catalogue> PgSession::readCatalogue(Progress& progress) {
  return readPgCatalogue(*handle_, mayDefer_, progress);
}

// --- the transaction -------------------------------------------------------------------------------------------------

Status PgSession::begin(std::chrono::milliseconds lockTimeout, Progress& progress) {
  if (!info_.readOnly.empty()) {
    return fail(ErrorKind::ReadOnly, "nothing can be written to " + info_.address + ": " + info_.readOnly);
  }
  lockTimeout_ = lockTimeout;
  written_.clear();
  countedBefore_.clear();
  joinsOff_ = true;
  // READ COMMITTED: a record that is locked is seen as it is then. Joins by hashing are off because the planner would
  // read the whole table for a batch of one record in a hundred.
  return handle_->run(
      "BEGIN ISOLATION LEVEL READ COMMITTED READ WRITE; SET LOCAL enable_hashjoin = off; SET LOCAL enable_mergejoin = "
      "off; SET LOCAL lock_timeout = " +
          lockTimeoutText(lockTimeout),
      progress);
}

Status PgSession::runForProbe(const std::string& sql, Progress& progress) {
  return handle_->run("BEGIN READ WRITE; SET LOCAL lock_timeout = 5000; " + sql + "; COMMIT", progress);
}

bool PgSession::inTransaction() const {
  const PGTransactionStatusType status = PQtransactionStatus(handle_->raw());
  return status == PQTRANS_INTRANS || status == PQTRANS_INERROR || status == PQTRANS_ACTIVE;
}

void PgSession::rollback() {
  if (!inTransaction()) return;
  Progress progress;
  // When even this fails the connection is gone, and with it the transaction.
  (void)handle_->run("ROLLBACK", progress);
}

Status PgSession::commit(Progress& progress) {
  Status done = handle_->run("COMMIT", progress);
  if (done && !inTransaction()) return {};
  if (!done && !handle_->isAlive()) {
    // The caller reads the records back, for which it needs a session.
    (void)resume(progress);
    return fail(unknownOutcome(done.error()));
  }
  rollback();
  if (!done) return done;
  return fail(ErrorKind::Refused, "the server rolled the transaction back instead of committing it");
}

Status PgSession::resume(Progress& progress) {
  const std::string lost = std::to_string(PQbackendPID(handle_->raw()));
  return resumeSession(
      [&]() -> Result<bool> {
        ITERANDUM_ASSIGN(std::unique_ptr<PgHandle> again, PgHandle::open(parameters_, progress));
        ITERANDUM_TRY(again->run(kSettings, progress));
        // What the lost connection left unfinished must be over before its records tell anything.
        ITERANDUM_ASSIGN(
            const PgResult there,
            again->query("SELECT pg_catalog.pg_terminate_backend(pid) FROM pg_catalog.pg_stat_activity WHERE "
                         "pid OPERATOR(pg_catalog.=) $1::pg_catalog.int4 AND pid OPERATOR(pg_catalog.<>) "
                         "pg_catalog.pg_backend_pid() AND xact_start IS NOT NULL",
                         {lost}, progress));
        if (there.rows() > 0) return false;
        handle_ = std::move(again);
        return true;
      },
      progress);
}

std::optional<Error> PgSession::brokenAtTheEnd() {
  if (!mayDefer_) return std::nullopt;
  Progress progress;
  Status status = handle_->run("SAVEPOINT iterandum; SET CONSTRAINTS ALL IMMEDIATE", progress);
  if (status) status = handle_->run("RELEASE iterandum", progress);
  if (status) return std::nullopt;
  // What was written is looked at all the same.
  (void)handle_->run("ROLLBACK TO iterandum; RELEASE iterandum", progress);
  return std::move(status.error());
}

Error PgSession::lockTimedOut(Error error, const Table& table) {
  Progress progress;
  rollback();
  auto holders = handle_->query(
      pgHardened("SELECT DISTINCT a.pid, coalesce(nullif(a.application_name, ''), 'a program'), a.usename, "
                 "coalesce(host(a.client_addr), 'this computer') FROM pg_catalog.pg_locks l JOIN "
                 "pg_catalog.pg_stat_activity a USING (pid) "
                 "WHERE l.granted AND l.relation = to_regclass($1) AND a.pid <> pg_catalog.pg_backend_pid() "
                 "AND l.mode <> 'AccessShareLock' LIMIT 3"),
      {pgTable(table)}, progress);
  error.message = "did not get the lock on " + displayName(table.name) + " within " +
                  std::to_string(std::max<std::int64_t>(1, lockTimeout_.count() / 1000)) + " s";
  if (holders) {
    for (int r = 0; r < holders->rows(); ++r) {
      error.message += (r == 0 ? "; it is held by " : ", ") + holders->string(r, 1) + " of " + holders->string(r, 2) +
                       " on " + holders->string(r, 3) + " (process " + holders->string(r, 0) + ")";
    }
  }
  return error;
}

}  // namespace iterandum
