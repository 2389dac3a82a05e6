#include "core/engines/mariadb/maria_handle.h"

#include <errmsg.h>
#include <mysqld_error.h>
#include <netinet/in.h>
#include <netinet/tcp.h>
#include <poll.h>
#include <sys/socket.h>

#include <algorithm>
#include <charconv>
#include <chrono>
#include <mutex>

namespace iterandum {
namespace {

// How long a wait may last before the progress is looked at again.
constexpr int kWatchMs = 50;
// How long a server may take to end a statement that was cancelled before its connection is given up.
constexpr std::chrono::seconds kPatience{6};

// Only in the servers' own headers: the number of "record has changed since last read".
constexpr unsigned kRecordChanged = 1020;

bool isOneOf(unsigned number, std::initializer_list<unsigned> numbers) {
  return std::find(numbers.begin(), numbers.end(), number) != numbers.end();
}

// Which step of connecting failed, and what to do about it.
void explain(Error& error, unsigned number) {
  const std::string& words = error.engineWords;
  const auto is = [&](const char* step, const std::string& advice) {
    error.step = step;
    error.message = advice + " (the client library says: " + words + ")";
  };
  error.step = "port";
  error.message = "the server could not be reached: " + words;
  switch (number) {
    case CR_UNKNOWN_HOST:
      return is("name", "the host's name is not known; check its spelling and the network");
    case CR_CONNECTION_ERROR:
      if (words.find("socket") != std::string::npos) {
        return is("port", "no server listens at that socket; check that it runs");
      }
      [[fallthrough]];
    case CR_CONN_HOST_ERROR:
    case CR_SERVER_LOST:
      if (words.find("Unknown server host") != std::string::npos) {
        return is("name", "the host's name is not known; check its spelling and the network");
      }
      // The library gives the number of the system's error: a wait that ended is 11 or 110.
      if (words.ends_with("error: 11") || words.ends_with("error: 110") || words.find("(110)") != std::string::npos) {
        return is("port", "the server did not answer in time; check host and network");
      }
      return is("port", "no server listens at that host and port; check both, and that it runs");
    case ER_ACCESS_DENIED_ERROR:
      return is("password", words.find("using password: NO") != std::string::npos
                                ? "a password is wanted; set ITERANDUM_PASSWORD or use an option file"
                                : "the user's name or the password is not right");
    case ER_DBACCESS_DENIED_ERROR:
      return is("database", "this user may not use that database");
    case ER_BAD_DB_ERROR:
      return is("database", "the server has no database of that name");
    case CR_SSL_CONNECTION_ERROR:
      return is("tls", "the encrypted connection could not be made");
    case ER_CON_COUNT_ERROR:
      return is("database", "the server takes no more connections");
    case ER_HOST_NOT_PRIVILEGED:
    case ER_HOST_IS_BLOCKED:
      return is("password", "the server does not let this computer in; ask whoever runs it");
    default:
      return;
  }
}

void setOptions(MYSQL* c, const MariaConnect& how) {
  mysql_options(c, MYSQL_OPT_NONBLOCK, nullptr);
  // The customary option files may name host, user, password and certificates, as for any client.
  mysql_options(c, MYSQL_READ_DEFAULT_FILE, nullptr);
  mysql_options(c, MYSQL_READ_DEFAULT_GROUP, "client");
  mysql_options(c, MYSQL_OPT_CONNECT_TIMEOUT, &how.timeoutSeconds);
  mysql_options(c, MYSQL_SET_CHARSET_NAME, "utf8mb4");
  // A server must not be able to ask for files of this computer.
  const unsigned off = 0;
  mysql_options(c, MYSQL_OPT_LOCAL_INFILE, &off);
  mysql_optionsv(c, MYSQL_OPT_CONNECT_ATTR_ADD, "program_name", "iterandum");
  // The library takes "localhost" for a socket, and would pass over a port that was written beside it.
  const unsigned tcp = MYSQL_PROTOCOL_TCP;
  if (how.hosts[0].port != 0 && how.socket.empty()) mysql_options(c, MYSQL_OPT_PROTOCOL, &tcp);
  if (!how.tlsAuthority.empty()) mysql_options(c, MYSQL_OPT_SSL_CA, how.tlsAuthority.c_str());
  if (!how.tlsCertificate.empty()) mysql_options(c, MYSQL_OPT_SSL_CERT, how.tlsCertificate.c_str());
  if (!how.tlsKey.empty()) mysql_options(c, MYSQL_OPT_SSL_KEY, how.tlsKey.c_str());
  const my_bool on = 1;
  if (how.tls || how.tlsVerify) mysql_options(c, MYSQL_OPT_SSL_ENFORCE, &on);
  if (how.tlsVerify) mysql_options(c, MYSQL_OPT_SSL_VERIFY_SERVER_CERT, &on);
}

// A network that has died without a word is noticed within minutes, not hours: the customary setting is two hours.
void keepAlive(int socket) {
  const auto set = [&](int level, int option, int value) { setsockopt(socket, level, option, &value, sizeof value); };
  set(SOL_SOCKET, SO_KEEPALIVE, 1);
  set(IPPROTO_TCP, TCP_KEEPIDLE, 30);
  set(IPPROTO_TCP, TCP_KEEPINTVL, 10);
  set(IPPROTO_TCP, TCP_KEEPCNT, 3);
  set(IPPROTO_TCP, TCP_USER_TIMEOUT, 120000);  // for what was sent and is never acknowledged, ms
}

// What a cluster says comes under several numbers, some of them nobody's in particular: it is known by its words.
void explainCluster(Error& error) {
  const std::string& words = error.engineWords;
  const auto says = [&words](const char* text) { return words.find(text) != std::string::npos; };
  const auto is = [&](ErrorKind kind, const std::string& advice) {
    error.kind = kind;
    error.message = advice + " (the server says: " + words + ")";
  };
  if (says("WSREP has not yet prepared") || says("Not connected to Primary Component")) {
    is(ErrorKind::NotServing,
       "this server has lost touch with most of its cluster and neither reads nor writes until it is back; wait, or "
       "use another server of the cluster");
  } else if (says("wsrep_max_ws_rows exceeded") || says("Maximum writeset size exceeded")) {
    const Error tooMuch = tooMuchForCluster(words);
    error.kind = tooMuch.kind;
    error.message = tooMuch.message;
  }
}

// Not so: who is not let in, or a database that is not there.
bool isOutOfReach(const Error& error) { return error.step == "port" || error.step == "name"; }

const char* orNull(const std::string& s) { return s.empty() ? nullptr : s.c_str(); }

}  // namespace

std::int64_t MariaRow::integer(unsigned c) const {
  std::int64_t n = 0;
  const std::string_view s = text(c);
  std::from_chars(s.data(), s.data() + s.size(), n);
  return n;
}

Error mariaError(unsigned number, const std::string& words) {
  Error error(ErrorKind::Refused, words);
  error.engineCode = std::to_string(number);
  error.engineWords = words;
  const auto constraint = [&](ConstraintKind kind) {
    error.kind = ErrorKind::Constraint;
    error.constraint = kind;
  };
  if (isOneOf(number, {ER_DUP_ENTRY, ER_DUP_ENTRY_WITH_KEY_NAME})) constraint(ConstraintKind::Unique);
  if (isOneOf(number, {ER_BAD_NULL_ERROR, ER_NO_DEFAULT_FOR_FIELD, ER_WARN_NULL_TO_NOTNULL})) {
    constraint(ConstraintKind::NotNull);
  }
  if (number == ER_CONSTRAINT_FAILED) constraint(ConstraintKind::Check);
  if (isOneOf(number, {ER_ROW_IS_REFERENCED, ER_ROW_IS_REFERENCED_2, ER_NO_REFERENCED_ROW, ER_NO_REFERENCED_ROW_2})) {
    constraint(ConstraintKind::ForeignKey);
  }
  if (isOneOf(number,
              {ER_WARN_DATA_OUT_OF_RANGE, WARN_DATA_TRUNCATED, ER_TRUNCATED_WRONG_VALUE_FOR_FIELD, ER_DATA_TOO_LONG,
               ER_TRUNCATED_WRONG_VALUE, ER_WRONG_VALUE, ER_DATA_OUT_OF_RANGE, ER_CANT_CREATE_GEOMETRY_OBJECT})) {
    constraint(ConstraintKind::DataType);
  }
  if (number == ER_SIGNAL_EXCEPTION) constraint(ConstraintKind::Trigger);
  if (isOneOf(number, {ER_LOCK_DEADLOCK, kRecordChanged})) error.kind = ErrorKind::TryAgain;
  if (number == ER_LOCK_WAIT_TIMEOUT) error.kind = ErrorKind::LockTimeout;
  if (isOneOf(number, {ER_QUERY_INTERRUPTED, ER_STATEMENT_TIMEOUT})) error.kind = ErrorKind::Cancelled;
  if (isOneOf(number, {ER_TABLEACCESS_DENIED_ERROR, ER_COLUMNACCESS_DENIED_ERROR, ER_PROCACCESS_DENIED_ERROR})) {
    error.kind = ErrorKind::NoRight;
  }
  if (isOneOf(number, {ER_DISK_FULL, ER_RECORD_FILE_FULL})) error.kind = ErrorKind::StorageFull;
  if (isOneOf(number, {ER_OPTION_PREVENTS_STATEMENT, ER_CANT_EXECUTE_IN_READ_ONLY_TRANSACTION})) {
    error.kind = ErrorKind::ReadOnly;
  }
  if (isOneOf(number, {CR_SERVER_GONE_ERROR, CR_SERVER_LOST, CR_SERVER_LOST_EXTENDED, ER_SERVER_SHUTDOWN,
                       ER_CONNECTION_KILLED, ER_NEW_ABORTING_CONNECTION, ER_UNKNOWN_COM_ERROR})) {
    error.kind = ErrorKind::ConnectionLost;
    error.message = "the connection to the server was lost: " + words;
  }
  if (isOneOf(number, {ER_NO_SUCH_TABLE, ER_BAD_TABLE_ERROR})) error.kind = ErrorKind::NotFound;
  explainCluster(error);
  return error;
}

Error tooMuchForCluster(const std::string& words) {
  Error error(ErrorKind::StorageFull,
              "this is more than the cluster takes in one transaction (wsrep_max_ws_rows, wsrep_max_ws_size); apply it "
              "in parts, or ask whoever runs it for a higher limit (the server says: " +
                  words + ")");
  error.engineWords = words;
  return error;
}

Error MariaHandle::error() {
  const unsigned number = mysql_errno(connection_.get());
  Error out = mariaError(number, mysql_error(connection_.get()));
  if (out.kind == ErrorKind::ConnectionLost) alive_ = false;
  return out;
}

bool MariaServer::isSameRun(const MariaServer& other) const {
  // What the server says of its age is in whole seconds.
  return isSamePlace(other) && std::abs(startedAt - other.startedAt) <= 2;
}

Result<std::unique_ptr<MariaHandle>> MariaHandle::open(const MariaConnect& how, Progress& progress) {
  // The library's own start is not safe between threads.
  static std::once_flag started;
  std::call_once(started, [] { mysql_server_init(0, nullptr, nullptr); });
  if (how.hosts.size() == 1) return openOne(how, progress);
  Error none(ErrorKind::CannotOpen, "none of the servers can be used");
  for (const MariaHost& host : how.hosts) {
    MariaConnect one = how;
    one.hosts = {host};
    auto handle = openOne(std::move(one), progress);
    if (!handle && (handle.error().kind == ErrorKind::Cancelled || !isOutOfReach(handle.error()))) return handle;
    if (handle) {
      ITERANDUM_TRY((*handle)->learnServer(progress));
      if (!(*handle)->inCluster_ || (*handle)->takesPart(progress)) return handle;
    }
    if (!handle && none.step.empty()) {
      none.step = handle.error().step;
      none.engineCode = handle.error().engineCode;
      none.engineWords = handle.error().engineWords;
    }
    none.message += (&host == &how.hosts[0] ? ": " : "; ") + (host.name.empty() ? "localhost" : host.name);
    if (host.port != 0) none.message += ":" + std::to_string(host.port);
    none.message += ": " + (handle ? "it has lost touch with most of its cluster" : handle.error().message);
  }
  return fail(std::move(none));
}

Result<std::unique_ptr<MariaHandle>> MariaHandle::openOne(MariaConnect how, Progress& progress) {
  MYSQL* connection = mysql_init(nullptr);
  if (connection == nullptr) return fail(ErrorKind::CannotOpen, "there is not enough memory for a connection");
  std::unique_ptr<MariaHandle> handle(new MariaHandle(connection, std::move(how)));
  setOptions(connection, handle->how_);
  ITERANDUM_TRY(handle->connect(progress));
  keepAlive(mysql_get_socket(connection));
  return handle;
}

// Without a look at any table: a member that takes no part answers this too.
Status MariaHandle::learnServer(Progress& progress) {
  if (!server_.place.empty()) return {};
  std::int64_t now = 0;
  std::int64_t age = 0;
  return runOnce(
             "SELECT CONCAT_WS(' ', @@hostname, @@port, @@server_id, @@datadir), UNIX_TIMESTAMP(); "
             "SHOW GLOBAL STATUS LIKE 'Uptime'; SHOW GLOBAL VARIABLES LIKE 'wsrep_on'",
             [&](const MariaRow& row) {
               if (row.text(0) == "Uptime") {
                 age = row.integer(1);
               } else if (row.text(0) == "wsrep_on") {
                 inCluster_ = row.text(1) == "ON";
               } else {
                 server_.place = row.string(0);
                 now = row.integer(1);
               }
               return true;
             },
             progress, Rows::Few)
      .map([&](const auto&) { server_.startedAt = now - age; });
}

Status MariaHandle::connect(const Progress& progress) {
  MYSQL* c = connection_.get();
  MYSQL* done = nullptr;
  connecting_ = true;
  int wish = mysql_real_connect_start(&done, c, orNull(how_.hosts[0].name), orNull(how_.user), orNull(how_.password),
                                      orNull(how_.database), how_.hosts[0].port, orNull(how_.socket),
                                      CLIENT_FOUND_ROWS | CLIENT_MULTI_STATEMENTS | CLIENT_REMEMBER_OPTIONS);
  while (wish != 0) wish = mysql_real_connect_cont(&done, c, await(wish, progress));
  connecting_ = false;
  if (progress.cancelled()) return fail(ErrorKind::Cancelled, "connecting was stopped");
  if (done != nullptr) return {};
  const unsigned number = mysql_errno(c);
  const std::string words = mysql_error(c);
  Error error(ErrorKind::CannotOpen, words);
  error.engineCode = std::to_string(number);
  error.engineWords = words;
  explain(error, number);
  return fail(std::move(error));
}

std::string MariaHandle::encryption() const {
  if (mysql_get_ssl_cipher(connection_.get()) == nullptr) return {};
  const char* version = nullptr;
  mariadb_get_infov(connection_.get(), MARIADB_CONNECTION_TLS_VERSION, &version);
  return version == nullptr ? "TLS" : version;
}

unsigned long MariaHandle::id() const { return mysql_thread_id(connection_.get()); }

int MariaHandle::await(int wish, const Progress& progress) {
  using Clock = std::chrono::steady_clock;
  const auto start = Clock::now();
  const bool timed = (wish & MYSQL_WAIT_TIMEOUT) != 0;
  const auto limit = std::chrono::milliseconds(timed ? mysql_get_timeout_value_ms(connection_.get()) : 0);
  short events = 0;
  if ((wish & MYSQL_WAIT_READ) != 0) events |= POLLIN;
  if ((wish & MYSQL_WAIT_WRITE) != 0) events |= POLLOUT;
  if ((wish & MYSQL_WAIT_EXCEPT) != 0) events |= POLLPRI;
  pollfd watched{mysql_get_socket(connection_.get()), events, 0};
  auto cancelledAt = Clock::time_point::max();
  while (true) {
    if (poll(&watched, 1, kWatchMs) > 0) {
      int met = 0;
      if ((watched.revents & (POLLIN | POLLHUP | POLLERR)) != 0) met |= wish & MYSQL_WAIT_READ;
      if ((watched.revents & (POLLOUT | POLLERR)) != 0) met |= wish & MYSQL_WAIT_WRITE;
      if ((watched.revents & POLLPRI) != 0) met |= MYSQL_WAIT_EXCEPT;
      return met;
    }
    const auto now = Clock::now();
    if (timed && now - start >= limit) return MYSQL_WAIT_TIMEOUT;
    if (progress.cancelled() && connecting_) return giveUp(wish);
    if (progress.cancelled() && !cancelSent_) {
      cancelledAt = now;
      cancelStatement();
    }
    // The server does not even answer to that: the connection is given up, which the library notices at once.
    if (cancelledAt < now - kPatience) shutdown(watched.fd, SHUT_RDWR);
  }
}

int MariaHandle::giveUp(int wish) {
  if ((wish & MYSQL_WAIT_TIMEOUT) != 0) return MYSQL_WAIT_TIMEOUT;
  shutdown(mysql_get_socket(connection_.get()), SHUT_RDWR);
  return wish;
}

void MariaHandle::cancelStatement() {
  cancelSent_ = true;
  MariaConnect how = how_;
  how.timeoutSeconds = 5;
  Progress progress;
  auto second = open(how, progress);
  // Through a balancer of loads it may be another server, where somebody else has the number.
  if (!second || !(*second)->learnServer(progress) || !(*second)->server_.isSameRun(server_)) return;
  (void)(*second)->run("KILL QUERY " + std::to_string(id()), progress);
}

// Few rows, taken over in one piece: going in and out of the library's waiting for each costs more than the row.
MYSQL_RES* MariaHandle::takeWhole(const Progress& progress) {
  MYSQL_RES* result = nullptr;
  int wish = mysql_store_result_start(&result, connection_.get());
  while (wish != 0) wish = mysql_store_result_cont(&result, connection_.get(), await(wish, progress));
  return result;
}

Status MariaHandle::readResult(const MariaRowSink& sink, const Progress& progress, Rows rows) {
  MYSQL* c = connection_.get();
  MYSQL_RES* result = rows == Rows::Few ? takeWhole(progress) : mysql_use_result(c);
  if (result == nullptr) {
    if (mysql_errno(c) != 0) return fail(error());
    return {};
  }
  const MYSQL_FIELD* fields = mysql_fetch_fields(result);
  const unsigned count = mysql_num_fields(result);
  while (true) {
    MYSQL_ROW cells = nullptr;
    if (rows == Rows::Few) {
      cells = mysql_fetch_row(result);
    } else {
      int wish = mysql_fetch_row_start(&cells, result);
      while (wish != 0) wish = mysql_fetch_row_cont(&cells, result, await(wish, progress));
    }
    if (cells == nullptr) break;
    if (enough_ || (sink && sink(MariaRow(cells, mysql_fetch_lengths(result), fields, count)))) continue;
    if (rows == Rows::Few) break;
    enough_ = true;
    // Few rows are read to their end; many are not worth waiting for.
    cancelStatement();
  }
  const bool failed = mysql_errno(c) != 0;
  Status status;
  if (failed) status = fail(error());
  mysql_free_result(result);  // read to its end or broken: nothing to wait for
  // The end of a statement that was cancelled because nobody wants the rest is no error.
  if (!status && enough_ && status.error().kind == ErrorKind::Cancelled) return {};
  return status;
}

// What several statements still have to say after one of them failed.
Status MariaHandle::drain(const Progress& progress) {
  while (alive_ && mysql_more_results(connection_.get()) != 0) {
    int failed = 0;
    int wish = mysql_next_result_start(&failed, connection_.get());
    while (wish != 0) wish = mysql_next_result_cont(&failed, connection_.get(), await(wish, progress));
    if (failed != 0) break;
    (void)readResult({}, progress, Rows::Many);
  }
  return {};
}

Result<std::vector<std::int64_t>> MariaHandle::run(const std::string& sql, const MariaRowSink& sink, Progress& progress,
                                                   Rows rows) {
  auto done = runOnce(sql, sink, progress, rows);
  if (done) return done;
  // Code of the database can signal any number; what the server itself never said is a refusal like any other.
  Error& told = done.error();
  const bool lost = told.kind == ErrorKind::ConnectionLost && !told.engineCode.empty() && answers(progress);
  const bool serves = told.kind == ErrorKind::NotServing && takesPart(progress);
  if (lost || serves || (told.kind == ErrorKind::Cancelled && !cancelSent_ && !progress.cancelled())) {
    told.kind = ErrorKind::Refused;
    told.message = told.engineWords;
  }
  return done;
}

// Whether a member of a cluster reads and writes; it answers this even where it does neither.
bool MariaHandle::takesPart(Progress& progress) {
  bool ready = false;
  (void)runOnce(
      "SHOW SESSION STATUS LIKE 'wsrep_ready'",
      [&ready](const MariaRow& row) {
        ready = row.string(1) == "ON";
        return true;
      },
      progress, Rows::Few);
  return ready;
}

// Whether the server still answers on this line.
bool MariaHandle::answers(const Progress& progress) {
  int failed = 0;
  int wish = mysql_ping_start(&failed, connection_.get());
  while (wish != 0) wish = mysql_ping_cont(&failed, connection_.get(), await(wish, progress));
  alive_ = failed == 0;
  return alive_;
}

Result<std::vector<std::int64_t>> MariaHandle::runOnce(const std::string& sql, const MariaRowSink& sink,
                                                       Progress& progress, Rows rows) {
  if (!alive_) return fail(ErrorKind::ConnectionLost, "the connection to the server was lost");
  if (progress.cancelled()) return fail(ErrorKind::Cancelled, "it was stopped");
  if (sql.size() >= mostBytes_) {
    Error error(ErrorKind::Constraint, "it is too long for this server, which takes " + std::to_string(mostBytes_) +
                                           " bytes at once (its setting max_allowed_packet)");
    error.constraint = ConstraintKind::DataType;
    return fail(std::move(error));
  }
  MYSQL* c = connection_.get();
  ++roundTrips_;
  cancelSent_ = false;
  enough_ = false;
  int failed = 0;
  int wish = mysql_real_query_start(&failed, c, sql.data(), sql.size());
  while (wish != 0) wish = mysql_real_query_cont(&failed, c, await(wish, progress));
  std::vector<std::int64_t> touched;
  while (failed == 0) {
    const bool hasRows = mysql_field_count(c) > 0;
    if (hasRows) {
      Status status = readResult(sink, progress, rows);
      if (!status) {
        ITERANDUM_TRY(drain(progress));
        return fail(std::move(status.error()));
      }
    }
    touched.push_back(static_cast<std::int64_t>(mysql_affected_rows(c)));
    if (mysql_more_results(c) == 0) return touched;
    wish = mysql_next_result_start(&failed, c);
    while (wish != 0) wish = mysql_next_result_cont(&failed, c, await(wish, progress));
    if (failed < 0) return touched;
  }
  return fail(error());
}

Status MariaHandle::each(const std::string& sql, const std::function<void(const MariaRow&)>& take, Progress& progress) {
  return run(
             sql,
             [&](const MariaRow& row) {
               take(row);
               return true;
             },
             progress)
      .map([](auto) {});
}

Status MariaHandle::run(const std::string& sql, Progress& progress) {
  ITERANDUM_TRY(run(sql, {}, progress));
  return {};
}

std::string MariaHandle::quoted(std::string_view text) const {
  std::string out(text.size() * 2 + 3, '\'');
  const unsigned long length = mysql_real_escape_string(connection_.get(), out.data() + 1, text.data(), text.size());
  out.resize(length + 2);
  out.back() = '\'';
  return out;
}

std::string mariaIdentifier(std::string_view name) {
  std::string out = "`";
  for (const char c : name) {
    if (c == '`') out += '`';
    out += c;
  }
  return out + "`";
}

}  // namespace iterandum
