#include <string_view>

#include "core/engines/common/address.h"
#include "core/engines/mariadb/maria_session.h"
#include "core/engines/postgresql/pg_session.h"
#include "core/engines/session.h"
#include "core/engines/sqlite/sqlite_session.h"

namespace iterandum {

namespace {

Result<std::unique_ptr<Session>> openByForm(const std::string& address, const OpenOptions& options,
                                            Progress& progress) {
  const std::string_view text = address;
  if (text.starts_with("postgresql://") || text.starts_with("postgres://")) {
    return openPgSession(address, options, progress);
  }
  if (text.starts_with("mariadb://") || text.starts_with("mysql://")) {
    return openMariaSession(address, options, progress);
  }
  if (text.starts_with("sqlite:")) return openSqliteSession(address.substr(7), options);
  return openSqliteSession(address, options);
}

}  // namespace

Result<std::unique_ptr<Session>> openSession(const std::string& address, const OpenOptions& options,
                                             Progress& progress) {
  auto session = openByForm(address, options, progress);
  if (session) return session;
  // What was typed may be no address at all, and hold a password all the same.
  Error& error = session.error();
  for (std::string* said : {&error.message, &error.engineWords, &error.place}) *said = withoutSecrets(*said, address);
  return session;
}

Result<std::unique_ptr<Session>> openSession(const std::string& address, const OpenOptions& options) {
  Progress progress;
  return openSession(address, options, progress);
}

bool holdsPassword(const std::string& address) { return !passwordIn(address).empty(); }

}  // namespace iterandum
