// Result and Error: how the core reports failure.
//
// Nothing in the core throws across its boundary. A function that can fail returns Result<T>; the error says which
// closed kind of failure it was (the command line derives its exit status from it), what happened in words that a
// data steward understands, and the engine's own code and words where an engine said something.
#pragma once

#include <string>
#include <tl/expected.hpp>
#include <utility>

namespace iterandum {

enum class ErrorKind {
  InvalidInput,  // the caller's words or values are off
  InvalidFile,   // a file could not be read or written, or its contents are not valid
  NotFound,      // a table or column that is not there
  CannotOpen,    // the database cannot be reached, or is no database
  ReadOnly,      // the database, or the session, may not be written
  LockTimeout,   // somebody else holds a lock
  TryAgain,      // the server ended the transaction in favour of another one (deadlock, serialisation); nothing written
  StorageFull,   // no space left where the database lives, or more than it takes in one transaction
  NotServing,    // the server is there and takes no part just now: a member of a cluster without the majority
  ConnectionLost,  // the session died before anything was written
  OutcomeUnknown,  // the session died while committing
  PartlyWritten,   // what lies in storage that cannot roll back was written, the rest was not
  NoRight,         // the user lacks a right in the database
  NotSigned,       // the database takes only what somebody else signed, and this is not
  Constraint,      // a rule of the database refused one record
  Refused,         // anything else that the database says
  Cancelled,       // the user asked to stop
  ReaderGone,      // who read our output went away
  Unsupported,     // not in this build
  Internal         // a mistake of this program
};

// What kind of rule refused a write. Only meaningful with ErrorKind::Constraint.
enum class ConstraintKind { None, Unique, NotNull, Check, ForeignKey, DataType, Trigger };

struct Error {
  ErrorKind kind = ErrorKind::Internal;
  std::string message;      // one or more whole sentences: what, where, what to do
  std::string place;        // JSON Pointer, line, file, table: whatever names the place; may be empty
  std::string engineCode;   // the engine's own code (a number, an SQLSTATE); empty if no engine spoke
  std::string engineWords;  // the engine's own words, unchanged
  std::string step;         // CannotOpen: which step of connecting failed, as connection_trial.h names them
  ConstraintKind constraint = ConstraintKind::None;

  Error() = default;
  Error(ErrorKind k, std::string text, std::string where = {})
      : kind(k), message(std::move(text)), place(std::move(where)) {}

  // Message with its place, on one line.
  [[nodiscard]] std::string text() const { return place.empty() ? message : place + ": " + message; }
};

template <typename T>
using Result = tl::expected<T, Error>;
using Status = Result<void>;

[[nodiscard]] inline tl::unexpected<Error> fail(ErrorKind kind, std::string message, std::string place = {}) {
  return tl::unexpected<Error>(Error(kind, std::move(message), std::move(place)));
}
[[nodiscard]] inline tl::unexpected<Error> fail(Error error) { return tl::unexpected<Error>(std::move(error)); }

}  // namespace iterandum

// Returns the error of EXPRESSION to the caller, or goes on. The only two macros of the core.
#define ITERANDUM_TRY(expression)                                  \
  do {                                                             \
    if (auto iterandumTried = (expression); !iterandumTried)       \
      return ::iterandum::fail(std::move(iterandumTried.error())); \
  } while (false)
#define ITERANDUM_JOIN2(a, b) a##b
#define ITERANDUM_JOIN(a, b) ITERANDUM_JOIN2(a, b)
#define ITERANDUM_ASSIGN(target, expression) \
  ITERANDUM_ASSIGN_AS(ITERANDUM_JOIN(iterandumResult, __LINE__), target, expression)
#define ITERANDUM_ASSIGN_AS(name, target, expression)           \
  auto name = (expression);                                     \
  if (!name) return ::iterandum::fail(std::move(name.error())); \
  target = std::move(*name)
