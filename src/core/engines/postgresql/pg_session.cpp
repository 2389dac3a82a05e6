#include "core/engines/postgresql/pg_session.h"

#include <algorithm>
#include <cstdlib>

#include "core/engines/common/address.h"
#include "core/engines/common/resume.h"

namespace iterandum {
namespace {

// What makes every value come and go in one and the same text, whatever the server's or the user's settings are.
constexpr std::pair<const char*, const char*> kSettings[] = {
    {"client_encoding", "UTF8"},
    {"datestyle", "ISO, YMD"},
    {"intervalstyle", "iso_8601"},
    {"timezone", "UTC"},
    {"extra_float_digits", "3"},
    {"bytea_output", "hex"},
    {"standard_conforming_strings", "on"},
    {"lc_monetary", "C"},
    {"xmloption", "content"},
    {"array_nulls", "on"},
    {"transform_null_equals", "off"},
    {"statement_timeout", "0"},
    {"idle_in_transaction_session_timeout", "0"},
    {"client_min_messages", "error"},
};

// A standby that has nothing to tell is as good as its primary; else it says how far it is.
constexpr const char* kServer =
    "SELECT pg_catalog.pg_is_in_recovery(), EXISTS (SELECT FROM pg_catalog.pg_collation WHERE collname "
    "OPERATOR(pg_catalog.=) 'und-x-icu'::pg_catalog.name), pg_catalog.pg_backend_pid(), (SELECT backend_start FROM "
    "pg_catalog.pg_stat_activity WHERE pid OPERATOR(pg_catalog.=) pg_catalog.pg_backend_pid()), "
    "pg_catalog.to_char(pg_catalog.timezone('UTC', pg_catalog.pg_last_xact_replay_timestamp()), 'YYYY-MM-DD "
    "HH24:MI:SS')";
enum ServerColumn { kInRecovery, kHasUnicode, kPid, kStartedAt, kReplayedUntil };

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

// One statement; for the transaction that is open, else for the session.
std::string settings(std::chrono::milliseconds lockTimeout, bool forTransaction) {
  const std::string end = forTransaction ? "', true)" : "', false)";
  std::string out = "SELECT ";
  for (const auto& [name, value] : kSettings) {
    out += "pg_catalog.set_config('" + std::string(name) + "', '" + value + end + ", ";
  }
  // For every statement, those that read the catalogue too: somebody may hold a table for hours.
  out += "pg_catalog.set_config('lock_timeout', '" + lockTimeoutText(lockTimeout) + end;
  if (!forTransaction) out += ", pg_catalog.set_config('default_transaction_read_only', 'on', false)";
  return out;
}

// A pooler that stands between answers for many servers' processes, each of which may serve somebody else after every
// transaction: nothing may stay set in it. It is known by its own number, which is not the process's.
Result<PgResult> prepare(PgHandle& handle, std::chrono::milliseconds lockTimeout, Progress& progress) {
  ITERANDUM_ASSIGN(PgResult server, handle.query(kServer, {}, progress));
  if (server.rows() != 1) return fail(ErrorKind::CannotOpen, "the server does not say what it is");
  if (server.integer(0, kPid) != PQbackendPID(handle.raw())) {
    handle.setOpening(settings(lockTimeout, true));
  } else {
    ITERANDUM_TRY(handle.run(settings(lockTimeout, false), progress));
  }
  return server;
}

std::string standbyInWords(const PgResult& server) {
  std::string out = "the server is a standby, which only follows another one";
  if (!server.isNull(0, kReplayedUntil)) {
    out += " (the last change that had arrived here when it was opened was made at " +
           server.string(0, kReplayedUntil) + " UTC)";
  }
  return out;
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
  ITERANDUM_ASSIGN(const PgResult server, prepare(*handle, options.lockTimeout, progress));
  SessionInfo info;
  info.address = shown;
  info.title = PQdb(handle->raw());
  if (PQsslInUse(handle->raw()) != 0) {
    const char* protocol = PQsslAttribute(handle->raw(), "protocol");
    info.encryption = protocol == nullptr ? "TLS" : protocol;
  }
  if (options.readOnly) {
    info.readOnly = "it was opened for reading only";
  } else if (server.isTrue(0, kInRecovery)) {
    info.readOnly = standbyInWords(server);
  }
  auto session = std::make_unique<PgSession>(std::move(handle), std::move(info), std::move(parameters));
  session->setKnowsUnicode(server.isTrue(0, kHasUnicode));
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
  syncWaitEnded_ = false;
  // READ COMMITTED: a record that is locked is seen as it is then. Joins by hashing are off because the planner would
  // read the whole table for a batch of one record in a hundred.
  ITERANDUM_TRY(handle_->run("BEGIN ISOLATION LEVEL READ COMMITTED READ WRITE; " + handle_->opening() +
                                 "; SET LOCAL enable_hashjoin = off; SET LOCAL enable_mergejoin = off; SET LOCAL "
                                 "lock_timeout = " +
                                 lockTimeoutText(lockTimeout),
                             progress));
  Status learnt = learnBackend(progress);
  if (!learnt) rollback();
  return learnt;
}

// Numbers of processes are used again, and other servers have the same ones: with its start it is one and no other.
Status PgSession::learnBackend(Progress& progress) {
  // Behind a pooler every transaction may have another.
  if (!backend_.pid.empty() && handle_->opening().empty()) return {};
  ITERANDUM_ASSIGN(const PgResult server, handle_->query(kServer, {}, progress));
  if (server.rows() != 1) return fail(ErrorKind::Refused, "the server does not say which of its processes this is");
  backend_ = {server.string(0, kPid), server.string(0, kStartedAt)};
  return {};
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
  // Only so much is heard that a wait for a standby was given up: a COMMIT that somebody stops has been done by then,
  // or is undone.
  handle_->onNotice([this](const char* sourceFunction) {
    if (std::string_view(sourceFunction) == "SyncRepWaitForLSN") syncWaitEnded_ = true;
  });
  Status done = handle_->run("SET LOCAL client_min_messages = 'warning'; COMMIT", progress);
  handle_->onNotice({});
  if (done && !inTransaction()) return {};
  if (!done && !handle_->isAlive()) {
    // The caller reads the records back, for which it needs a session.
    Progress unstopped;
    (void)resume(unstopped);
    return fail(unknownOutcome(done.error()));
  }
  rollback();
  if (!done) return done;
  return fail(ErrorKind::Refused, "the server rolled the transaction back instead of committing it");
}

std::string PgSession::notReachedByCommit() const {
  return syncWaitEnded_
             ? "it is written on this server, but the standby that it waits for has not confirmed it: should "
               "this server be lost before the standby is back, so is this change set"
             : std::string();
}

// Where several hosts are named another one may answer by now: only one that takes writes can tell.
Status PgSession::resume(Progress& progress) {
  PgConnectParameters parameters = parameters_;
  if (!has(parameters, "target_session_attrs")) parameters.emplace_back("target_session_attrs", "primary");
  return resumeSession(
      [&]() -> Result<bool> {
        ITERANDUM_ASSIGN(std::unique_ptr<PgHandle> again, PgHandle::open(parameters, progress));
        ITERANDUM_ASSIGN(const PgResult server, prepare(*again, lockTimeout_, progress));
        if (server.isTrue(0, kInRecovery)) return false;
        // What the lost connection left unfinished must be over before its records tell anything.
        ITERANDUM_ASSIGN(
            const PgResult there,
            again->query("SELECT pg_catalog.pg_terminate_backend(pid) FROM pg_catalog.pg_stat_activity WHERE "
                         "pid OPERATOR(pg_catalog.=) $1::pg_catalog.int4 AND backend_start OPERATOR(pg_catalog.=) "
                         "$2::pg_catalog.timestamptz AND pid OPERATOR(pg_catalog.<>) pg_catalog.pg_backend_pid() AND "
                         "xact_start IS NOT NULL",
                         {backend_.pid, backend_.startedAt}, progress));
        if (there.rows() > 0) return false;
        handle_ = std::move(again);
        backend_ = {};
        return true;
      },
      progress);
}

Status PgSession::catchUp(Progress& progress) {
  ITERANDUM_ASSIGN(const PgResult server, look(kServer, {}, progress));
  if (server.rows() == 1 && !server.isTrue(0, kInRecovery)) return {};
  return fail(ErrorKind::NotServing, "only the server that takes the writes can tell; this one is a standby");
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
