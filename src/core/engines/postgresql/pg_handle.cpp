#include "core/engines/postgresql/pg_handle.h"

#include <poll.h>
#include <sys/socket.h>

#include <algorithm>
#include <charconv>
#include <chrono>
#include <thread>

namespace iterandum {
namespace {

// How long a wait may last before the progress is looked at again.
constexpr int kWatchMs = 50;

// How long a server may take to end a statement that was cancelled before its connection is given up.
constexpr std::chrono::seconds kPatience{6};
// How long connecting may take where nothing else is said.
constexpr long kConnectSeconds = 15;

// Waits until the socket can be read (or written). False when the wait was cut short by `progress`.
bool waitFor(PGconn* connection, short events, const Progress& progress) {
  pollfd watched{PQsocket(connection), events, 0};
  while (!progress.cancelled()) {
    const int ready = poll(&watched, 1, kWatchMs);
    if (ready != 0) return true;  // also on errors: libpq finds out which
  }
  return false;
}

// The same after a cancel. A server that does not even answer to that has its connection cut, which libpq notices.
void waitAfterCancel(PGconn* connection) {
  pollfd watched{PQsocket(connection), POLLIN, 0};
  const int ms = static_cast<int>(std::chrono::milliseconds(kPatience).count());
  if (poll(&watched, 1, ms) == 0) shutdown(PQsocket(connection), SHUT_RDWR);
}

std::string trimmed(const char* words) {
  std::string out = words == nullptr ? "" : words;
  while (!out.empty() && (out.back() == '\n' || out.back() == ' ')) out.pop_back();
  // The library speaks in several lines; a message of ours has one.
  for (std::size_t at = out.find_first_of("\n\t"); at != std::string::npos; at = out.find_first_of("\n\t", at)) {
    const std::size_t end = std::min(out.find_first_not_of("\n\t ", at), out.size());
    out.replace(at, end - at, " ");
  }
  return out;
}

bool startsWithAny(const std::string& s, std::initializer_list<const char*> starts) {
  for (const char* start : starts) {
    if (s.rfind(start, 0) == 0) return true;
  }
  return false;
}

struct Refusal {
  const char* part;  // of the library's words
  const char* step;
  const char* advice;
};
// Which step of connecting failed, and what to do about it. The library's own words are the only thing that tells
// before a server has answered.
constexpr Refusal kRefusals[] = {
    {"could not translate host name", "name", "the host's name is not known; check its spelling and the network"},
    {"Connection refused", "port", "no server listens at that host and port; check both, and that it runs"},
    {"No such file or directory", "port", "no server listens at that socket; check that it runs"},
    {"timeout expired", "port", "the server did not answer in time; check host and network"},
    {"timed out", "port", "the server did not answer in time; check host and network"},
    {"password authentication failed", "password", "the user's name or the password is not right"},
    {"no password supplied", "password", "a password is wanted; set ITERANDUM_PASSWORD or use a password file"},
    {"certificate", "tls", "the encrypted connection could not be made"},
    {"SSL", "tls", "the encrypted connection could not be made"},
    {"pg_hba.conf", "password", "the server does not let this user in from here; ask whoever runs it"},
    {"too many connections", "database", "the server takes no more connections"},
    {"remaining connection slots", "database", "the server takes no more connections"},
    {"permission denied for database", "database", "this user may not connect to that database"},
};

void explain(Error& error) {
  const std::string words = error.engineWords;
  const auto says = [&](const char* part) { return words.find(part) != std::string::npos; };
  std::string advice;
  for (const Refusal& r : kRefusals) {
    if (!says(r.part) || !advice.empty()) continue;
    error.step = r.step;
    advice = r.advice;
  }
  if (says("does not exist") && says("FATAL")) {
    error.step = says("role") ? "password" : "database";
    advice = says("role") ? "the server has no user of that name" : "the server has no database of that name";
  }
  if (error.step.empty()) error.step = "port";
  error.message = advice.empty() ? "the server could not be reached: " + words
                                 : advice + " (the client library says: " + words + ")";
}

// How long connecting may take in all: libpq leaves that to the caller. Its connect_timeout, from wherever it was
// given, is for each of several hosts; nought and less mean without end.
std::chrono::milliseconds connectTimeout(PGconn* connection) {
  long seconds = kConnectSeconds;
  long hosts = 1;
  PQconninfoOption* options = PQconninfo(connection);
  for (const PQconninfoOption* o = options; o != nullptr && o->keyword != nullptr; ++o) {
    if (o->val == nullptr) continue;
    const std::string_view keyword = o->keyword;
    const std::string_view value = o->val;
    if (keyword == "connect_timeout" && !value.empty()) seconds = std::strtol(o->val, nullptr, 10);
    if (keyword == "host") hosts += std::count(value.begin(), value.end(), ',');
  }
  PQconninfoFree(options);
  return seconds > 0 ? std::chrono::seconds(seconds * hosts) : std::chrono::hours(24);
}

}  // namespace

std::int64_t PgResult::integer(int row, int column) const {
  std::int64_t n = 0;
  const std::string_view s = text(row, column);
  std::from_chars(s.data(), s.data() + s.size(), n);
  return n;
}

std::int64_t PgResult::affected() const { return std::strtoll(PQcmdTuples(result_.get()), nullptr, 10); }

Error pgError(const std::string& state, const std::string& words, const std::string& detail) {
  Error error(ErrorKind::Refused, detail.empty() ? words : words + " (" + detail + ")");
  error.engineCode = state;
  error.engineWords = error.message;
  const auto constraint = [&](ConstraintKind kind) {
    error.kind = ErrorKind::Constraint;
    error.constraint = kind;
  };
  if (state == "23505") constraint(ConstraintKind::Unique);
  if (state == "23502") constraint(ConstraintKind::NotNull);
  if (state == "23514") constraint(ConstraintKind::Check);
  if (state == "23503" || state == "23001") constraint(ConstraintKind::ForeignKey);
  if (state.rfind("22", 0) == 0) constraint(ConstraintKind::DataType);
  if (startsWithAny(state, {"40001", "40P01"})) error.kind = ErrorKind::TryAgain;
  if (state == "55P03") error.kind = ErrorKind::LockTimeout;
  if (state == "57014") error.kind = ErrorKind::Cancelled;
  if (startsWithAny(state, {"53100", "53200"})) error.kind = ErrorKind::StorageFull;
  // A value that an index cannot hold, for one.
  if (state == "54000") constraint(ConstraintKind::DataType);
  if (state == "42501") error.kind = ErrorKind::NoRight;
  if (state == "25006") error.kind = ErrorKind::ReadOnly;
  if (state == "42P01") error.kind = ErrorKind::NotFound;
  return error;
}

namespace {

// Whether a procedural language raised the error on somebody's behalf: then it comes from that language's own source.
bool isRaised(const PGresult* result) {
  const char* field = PQresultErrorField(result, PG_DIAG_SOURCE_FILE);
  const std::string_view file = field == nullptr ? std::string_view() : field;
  return file.starts_with("pl_") || file.starts_with("plperl") || file.starts_with("plpy") || file.starts_with("pltcl");
}

}  // namespace

Error PgHandle::error(const PGresult* result) const {
  if (result == nullptr || !isAlive()) {
    Error lost(ErrorKind::ConnectionLost, "the connection to the server was lost");
    lost.engineWords = trimmed(PQerrorMessage(connection_.get()));
    if (!lost.engineWords.empty()) lost.message += ": " + lost.engineWords;
    return lost;
  }
  const char* state = PQresultErrorField(result, PG_DIAG_SQLSTATE);
  const char* words = PQresultErrorField(result, PG_DIAG_MESSAGE_PRIMARY);
  const char* detail = PQresultErrorField(result, PG_DIAG_MESSAGE_DETAIL);
  Error told = pgError(state == nullptr ? "" : state, words == nullptr ? trimmed(PQresultErrorMessage(result)) : words,
                       detail == nullptr ? "" : detail);
  // Code of the database can raise any state; what the server itself never said is a refusal like any other.
  const bool ofTheServer = told.kind == ErrorKind::TryAgain || told.kind == ErrorKind::LockTimeout ||
                           told.kind == ErrorKind::Cancelled || told.kind == ErrorKind::StorageFull ||
                           told.kind == ErrorKind::ReadOnly || told.kind == ErrorKind::NotFound ||
                           told.kind == ErrorKind::NoRight;
  const bool unasked = told.kind == ErrorKind::Cancelled && !cancelSent_;
  if (ofTheServer && (isRaised(result) || unasked)) told.kind = ErrorKind::Refused;
  return told;
}

Result<std::unique_ptr<PgHandle>> PgHandle::open(const std::vector<std::pair<std::string, std::string>>& parameters,
                                                 Progress& progress) {
  std::vector<const char*> keywords;
  std::vector<const char*> values;
  for (const auto& [keyword, value] : parameters) {
    keywords.push_back(keyword.c_str());
    values.push_back(value.c_str());
  }
  keywords.push_back(nullptr);
  values.push_back(nullptr);
  std::unique_ptr<PgHandle> handle(new PgHandle(PQconnectStartParams(keywords.data(), values.data(), 0)));
  if (handle->raw() == nullptr) return fail(ErrorKind::CannotOpen, "there is not enough memory for a connection");
  ITERANDUM_TRY(handle->connect(progress));
  PQsetNoticeReceiver(
      handle->raw(),
      [](void* self, const PGresult* notice) {
        const char* from = PQresultErrorField(notice, PG_DIAG_SOURCE_FUNCTION);
        const auto& heard = static_cast<PgHandle*>(self)->noticed_;
        if (from != nullptr && heard) heard(from);
      },
      handle.get());
  return handle;
}

Status PgHandle::connect(const Progress& progress) {
  PGconn* c = connection_.get();
  const auto giveUpAt = std::chrono::steady_clock::now() + connectTimeout(c);
  PostgresPollingStatusType wish = PQstatus(c) == CONNECTION_BAD ? PGRES_POLLING_FAILED : PGRES_POLLING_WRITING;
  std::string words;
  while (wish == PGRES_POLLING_READING || wish == PGRES_POLLING_WRITING) {
    pollfd watched{PQsocket(c), static_cast<short>(wish == PGRES_POLLING_READING ? POLLIN : POLLOUT), 0};
    const int ready = poll(&watched, 1, kWatchMs);
    if (progress.cancelled()) return fail(ErrorKind::Cancelled, "connecting was stopped");
    if (ready != 0) {
      wish = PQconnectPoll(c);
    } else if (std::chrono::steady_clock::now() > giveUpAt) {
      words = "timeout expired";
      break;
    }
  }
  if (wish == PGRES_POLLING_OK) return {};
  Error error(ErrorKind::CannotOpen, words.empty() ? trimmed(PQerrorMessage(c)) : words);
  error.engineWords = error.message;
  explain(error);
  return fail(std::move(error));
}

Status PgHandle::send(const std::string& sql, const PgParameters& parameters) {
  std::vector<const char*> values;
  std::vector<int> lengths;
  for (const auto& p : parameters) {
    if (p && p->find('\0') != std::string::npos) {
      Error error(ErrorKind::Constraint, "a text with a NUL character cannot be held by this server");
      error.constraint = ConstraintKind::DataType;
      return fail(std::move(error));
    }
    values.push_back(p ? p->c_str() : nullptr);
  }
  const int sent = PQsendQueryParams(connection_.get(), sql.c_str(), static_cast<int>(parameters.size()), nullptr,
                                     values.data(), nullptr, nullptr, 0);
  if (sent == 0) return fail(error(nullptr));
  return {};
}

// The library cancels by a second connection and waits for its end; where the network is dead, for minutes. That is
// left to a thread that has nothing but what the library made for it.
void PgHandle::cancelStatement() {
  if (cancelSent_) return;
  cancelSent_ = true;
  PGcancel* cancel = PQgetCancel(connection_.get());
  if (cancel == nullptr) return;
  std::packaged_task<void()> task([cancel] {
    char words[256];
    PQcancel(cancel, words, sizeof words);
    PQfreeCancel(cancel);
  });
  cancelling_ = task.get_future();
  std::thread(std::move(task)).detach();
}

// A cancel that is still on its way would hit the next statement.
void PgHandle::startStatement() {
  ++roundTrips_;
  cancelSent_ = false;
  if (!cancelling_.valid()) return;
  if (cancelling_.wait_for(kPatience) != std::future_status::ready) shutdown(PQsocket(connection_.get()), SHUT_RDWR);
  cancelling_ = {};
}

Status PgHandle::awaitResult(Progress& progress) {
  PGconn* c = connection_.get();
  static const Progress kNeverStopped;
  int flushed = PQflush(c);
  while (flushed > 0) {
    waitFor(c, POLLIN | POLLOUT, kNeverStopped);
    if (PQconsumeInput(c) == 0) return fail(error(nullptr));
    flushed = PQflush(c);
  }
  while (PQisBusy(c) != 0) {
    if (cancelSent_) {
      waitAfterCancel(c);
    } else if (!waitFor(c, POLLIN, progress)) {
      cancelStatement();
      continue;
    }
    if (PQconsumeInput(c) == 0) return fail(error(nullptr));
  }
  return {};
}

Result<std::optional<PgResult>> PgHandle::next(Progress& progress) {
  ITERANDUM_TRY(awaitResult(progress));
  PGresult* result = PQgetResult(connection_.get());
  if (result == nullptr) {
    // At the end of a statement there is no result; neither is there when the connection is gone.
    if (!isAlive()) return fail(error(nullptr));
    return std::optional<PgResult>();
  }
  PgResult owned(result);
  const ExecStatusType status = PQresultStatus(result);
  if (status == PGRES_FATAL_ERROR || status == PGRES_BAD_RESPONSE) {
    Error refused = error(result);
    drain();
    return fail(std::move(refused));
  }
  return std::optional<PgResult>(std::move(owned));
}

void PgHandle::drain() {
  while (PGresult* result = PQgetResult(connection_.get())) {
    PQclear(result);
    if (!isAlive()) return;
  }
}

Result<PgResult> PgHandle::query(const std::string& sql, const PgParameters& parameters, Progress& progress) {
  if (progress.cancelled()) return fail(ErrorKind::Cancelled, "it was stopped");
  startStatement();
  ITERANDUM_TRY(send(sql, parameters));
  PgResult last;
  while (true) {
    ITERANDUM_ASSIGN(std::optional<PgResult> result, next(progress));
    if (!result) return last;
    last = std::move(*result);
  }
}

Result<std::vector<PgResult>> PgHandle::pipeline(const std::vector<Command>& commands, Progress& progress) {
  if (progress.cancelled()) return fail(ErrorKind::Cancelled, "it was stopped");
  PGconn* c = connection_.get();
  startStatement();
  if (PQenterPipelineMode(c) == 0) return fail(error(nullptr));
  std::optional<Error> first;
  std::size_t sent = 0;
  for (; sent < commands.size() && !first; ++sent) {
    Status status = send(commands[sent].sql, commands[sent].parameters);
    if (!status) first = std::move(status.error());
  }
  if (PQpipelineSync(c) == 0 && !first) first = error(nullptr);
  std::vector<PgResult> results;
  while (isAlive()) {
    Status waited = awaitResult(progress);
    if (!waited) return waited.map([] { return std::vector<PgResult>(); });
    PgResult result(PQgetResult(c));
    if (result.raw() == nullptr) continue;  // the end of one of the statements
    const ExecStatusType status = PQresultStatus(result.raw());
    if (status == PGRES_PIPELINE_SYNC) break;
    if (status == PGRES_FATAL_ERROR && !first) first = error(result.raw());
    if (status != PGRES_PIPELINE_ABORTED && status != PGRES_FATAL_ERROR) results.push_back(std::move(result));
  }
  if (isAlive()) PQexitPipelineMode(c);
  if (!isAlive() && !first) first = error(nullptr);
  if (first) return fail(std::move(*first));
  return results;
}

Status PgHandle::run(const std::string& sql, Progress& progress) {
  startStatement();
  if (PQsendQuery(connection_.get(), sql.c_str()) == 0) return fail(error(nullptr));
  while (true) {
    ITERANDUM_ASSIGN(const std::optional<PgResult> result, next(progress));
    if (!result) return {};
  }
}

Status PgHandle::stream(const std::string& sql, const PgParameters& parameters, const PgRowSink& sink,
                        Progress& progress) {
  if (progress.cancelled()) return fail(ErrorKind::Cancelled, "it was stopped");
  startStatement();
  ITERANDUM_TRY(send(sql, parameters));
  PQsetSingleRowMode(connection_.get());
  bool enough = false;
  while (true) {
    auto result = next(progress);
    if (!result) {
      // The end of a statement that was cancelled because nobody wants the rest is no error.
      if (enough && result.error().kind == ErrorKind::Cancelled) return {};
      return fail(std::move(result.error()));
    }
    if (!*result) return {};
    if (enough || PQresultStatus((*result)->raw()) != PGRES_SINGLE_TUPLE) continue;
    if (!sink(**result)) {
      enough = true;
      cancelStatement();
    }
  }
}

std::string pgIdentifier(std::string_view name) {
  std::string out = "\"";
  for (const char c : name) {
    if (c == '"') out += '"';
    out += c;
  }
  return out + "\"";
}

void PgArray::add(const std::optional<std::string>& element) {
  if (!empty_) text_ += ',';
  empty_ = false;
  if (!element) {
    text_ += "NULL";
    return;
  }
  text_ += '"';
  for (const char c : *element) {
    if (c == '"' || c == '\\') text_ += '\\';
    text_ += c;
  }
  text_ += '"';
}

std::string PgArray::take() { return std::move(text_) + "}"; }

}  // namespace iterandum
