// Opening what a call names, and saying what went wrong.
#include <unistd.h>

#include <cstdio>

#include "cli/command_line.h"
#include "cli/password.h"
#include "core/value/visible_text.h"

namespace iterandum::cli {

Exit report(const Error& error) {
  // Who reads on no longer wants the rest: that is no failure.
  if (error.kind == ErrorKind::ReaderGone) return Exit::Done;
  std::fprintf(stderr, "%s: %s\n", kProgram, visibleText(error.text()).c_str());
  switch (error.kind) {
    case ErrorKind::InvalidInput:
    case ErrorKind::NotFound:
    case ErrorKind::Unsupported:
      return Exit::Usage;
    case ErrorKind::InvalidFile:
      return Exit::File;
    case ErrorKind::CannotOpen:
    case ErrorKind::NoRight:
    case ErrorKind::ReadOnly:
    case ErrorKind::LockTimeout:
    case ErrorKind::TryAgain:
    case ErrorKind::StorageFull:
    case ErrorKind::NotServing:
    case ErrorKind::ConnectionLost:
      return Exit::Database;
    case ErrorKind::OutcomeUnknown:
      return Exit::Unknown;
    case ErrorKind::NotSigned:
    case ErrorKind::Constraint:
      return Exit::Blocked;
    default:
      return Exit::Failure;
  }
}

OpenOptions openOptions(const Arguments& arguments, bool readOnly) {
  OpenOptions options;
  options.readOnly = readOnly;
  if (arguments.lockTimeout)
    options.lockTimeout = std::chrono::milliseconds(static_cast<long>(*arguments.lockTimeout * 1000));
  options.askPassword = askPasswordOnTerminal;
  if (holdsPassword(arguments.database)) {
    std::fprintf(stderr,
                 "%s: a password in the address can be seen by everybody on this computer; "
                 "ITERANDUM_PASSWORD or the server's own password file keep it to you\n",
                 kProgram);
  }
  return options;
}

Result<std::unique_ptr<Session>> openDatabase(const Arguments& arguments, bool readOnly) {
  return openSession(arguments.database, openOptions(arguments, readOnly));
}

Progress::Listener terminalProgress() {
  if (isatty(STDERR_FILENO) == 0) return {};
  return [](const std::string& what, std::uint64_t done, std::uint64_t total) {
    if (done % 16384 == 0) {
      std::fprintf(stderr, "\r%s: %llu of %llu   ", what.c_str(), static_cast<unsigned long long>(done),
                   static_cast<unsigned long long>(total));
    }
  };
}

}  // namespace iterandum::cli
