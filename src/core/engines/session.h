// Session: one connection to one database, and the only door to it. All that differs between engines is behind here.
//
// A session belongs to one thread at a time. Long calls watch the Progress they are given, which any thread may cancel;
// a cancelled call fails with ErrorKind::Cancelled and the session lives on. Values go in and come out in the form that
// the catalogue's columns describe; an engine compares nothing on our behalf: callers compare with sameValue().
#pragma once

#include <chrono>
#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <set>
#include <span>
#include <string>
#include <utility>
#include <vector>

#include "core/base/progress.h"
#include "core/base/result.h"
#include "core/catalogue/catalogue.h"
#include "core/scope/query.h"
#include "core/value/value_column.h"

namespace iterandum {

// A value with how many records have it. Returns false to stop the reading early.
using ValueCountSink = std::function<bool(Value&& value, std::uint64_t records)>;

struct SessionInfo {
  std::string address;       // what to show and to keep in receipts: never a password
  std::string title;         // short, for a window's title
  std::string readOnly;      // why nothing can be written; empty: it can
  std::string encryption;    // of the line to a server ("TLSv1.3"); empty: none
  bool canBeCopied = false;  // copyTo() can
};

// Returns false to stop the reading early (which is no error). The row is the receiver's to take, or to leave for
// reuse.
using RowSink = std::function<bool(ValueTuple&& row)>;
// Called once for each record found; `row` is the position in the key columns. A key may find none or several.
using KeyedRowSink = std::function<void(std::size_t row, ValueTuple&& record)>;

using BrokenRuleSink = std::function<void(std::size_t record, const CheckRule& rule)>;

// Records looked up by the values of some columns. NULL finds NULL.
struct KeyRead {
  const Table* table = nullptr;
  std::vector<std::string> keyColumns;
  const std::vector<ValueColumn>* keys = nullptr;
  std::span<const std::uint32_t> rows;  // which rows of `keys`; ascending key order is fastest
  std::vector<std::string> columns;
  std::uint64_t mostPerKey = 2;  // no more records than this are reported for one key
  bool lock = false;             // hold the records found until the transaction ends, so that nobody changes them
  // Only records whose key columns hold the very values that are asked for, as the core compares them; else also those
  // that the database takes for equal (other letters, blanks behind), as its references and unique keys do.
  bool exact = true;
};

// The same write for many records, in the engine's bulk form.
struct WriteStep {
  enum class Kind { Update, Insert, Remove };
  Kind kind = Kind::Update;
  const Table* table = nullptr;
  std::vector<std::string> keyColumns;  // Update, Remove: the record's identity, verified beforehand
  std::vector<const ValueColumn*> keys;
  std::vector<std::string> columns;  // Update, Insert
  std::vector<const ValueColumn*> values;
  std::span<const std::uint32_t> rows;
  std::vector<std::string> returning;  // Insert: columns whose value is wanted back
};

// What a write step reports for single rows. A failed row changes nothing and does not hide the rows after it.
struct WriteReport {
  std::function<void(std::size_t row, const Error& error)> failed;
  std::function<void(std::size_t row, ValueTuple&& returned)> returned;
};

// What the open transaction has written in one table, whoever did it: this program, references, triggers.
struct TableWrites {
  TableName name;
  const Table* table = nullptr;         // null: the catalogue does not have it
  std::vector<std::string> keyColumns;  // by these the records are found; the row id where it is the surer name
  std::vector<ValueColumn> keys;        // of records written; one that is not there any more was removed or renamed
  std::uint64_t removed = 0;            // removals of records that the keys do not name
  std::string untold;                   // why the keys do not name all of them; empty: they do
};

// One statement of the script that a person reads (docs/formats.md, "Review"). A value of the kind PendingKey stands
// for what an earlier statement remembers under that name.
struct ScriptStatement {
  std::size_t number =
      0;  // of the look behind it, from 1; of tables whose writes are not counted that of the look before
  WriteStep::Kind kind = WriteStep::Kind::Update;
  const Table* table = nullptr;
  std::vector<std::string> keyColumns;
  std::vector<ValueTuple> keys;  // all records that the statement is for
  std::vector<std::pair<std::string, Value>> set;
  std::vector<std::pair<std::string, Value>> guard;
  std::vector<std::pair<std::string, std::string>> remember;  // Insert: names, and the columns of the new record
};

// What there will be in a script: what has to be set up before depends on it.
struct ScriptOutline {
  std::size_t looks = 0;
  bool usesLabels = false;
  std::set<std::pair<const Table*, WriteStep::Kind>> writes;
};

class Session {
 public:
  Session() = default;
  Session(const Session&) = delete;
  Session& operator=(const Session&) = delete;
  virtual ~Session() = default;

  [[nodiscard]] virtual const SessionInfo& info() const = 0;
  [[nodiscard]] virtual Result<Catalogue> readCatalogue(Progress& progress) = 0;

  // --- reading ---
  [[nodiscard]] virtual Status select(const Query& query, const RowSink& sink, Progress& progress) = 0;
  [[nodiscard]] virtual Result<std::uint64_t> count(const Query& query, Progress& progress) = 0;
  // The different values of a column, its own or borrowed, in the query's records, the commonest first, NULL among
  // them; at most `most`. Different is what is not the same byte for byte, whatever the collation takes for equal.
  [[nodiscard]] virtual Status distinctValues(const Query& query, const ColumnPath& column, std::uint64_t most,
                                              const ValueCountSink& sink, Progress& progress) = 0;
  [[nodiscard]] Status readByKeys(const KeyRead& read, const KeyedRowSink& sink, Progress& progress);
  // Brings texts of a `respelled` column into the spelling in which the database would give them back: a uuid in small
  // letters, {"a": 1} for {"a":1}. What it cannot read as such a value stays as it is: writing that fails in its own
  // words.
  [[nodiscard]] virtual Status respell(const Column& column, std::span<ValueColumn* const> columns,
                                       Progress& progress) = 0;
  // The CHECK rules that the records break, as far as that can be told without writing. Rules that the columns'
  // descriptions say already are left out. `sink` gets the position of the record and the rule, which the table owns.
  [[nodiscard]] virtual Status brokenRules(const Table& table, const std::vector<std::string>& columns,
                                           const std::vector<ValueTuple>& records, const BrokenRuleSink& sink) = 0;

  // --- writing; all inside one transaction ---
  // Starts a transaction that holds off other writers. Errors: LockTimeout (who holds it, where that is known),
  // ReadOnly.
  [[nodiscard]] virtual Status begin(std::chrono::milliseconds lockTimeout, Progress& progress) = 0;
  // Errors: OutcomeUnknown when the session died meanwhile, in which case a new one was opened where that could be done
  // before `progress` was cancelled, and the lost one has ended on the server: what is read then tells what became of
  // it. After any other error nothing was written that can be rolled back. Stopping it ends what can be ended without
  // leaving that open; most engines go on to the end.
  [[nodiscard]] virtual Status commit(Progress& progress) = 0;
  // What a commit that went through still waits for elsewhere, as a sentence without its full stop; empty: nothing.
  [[nodiscard]] virtual std::string notReachedByCommit() const { return {}; }
  // Waits until what this server shows is all that has been committed before, on whichever server: what is read then
  // can tell what became of a transaction. Errors: NotServing where that cannot be had now.
  [[nodiscard]] virtual Status catchUp(Progress&) { return {}; }
  // Whether a commit() of this session may still be under way on a server that is out of reach: that nothing of it is
  // there is no proof then.
  [[nodiscard]] virtual bool mayStillArrive() const { return false; }
  virtual void rollback() = 0;
  // False when the database itself ended the transaction while refusing a write (SQL "ROLLBACK" conflict rules).
  [[nodiscard]] virtual bool inTransaction() const = 0;
  // Single rows fail through the report; an error is returned only when the session cannot go on.
  [[nodiscard]] virtual Status write(const WriteStep& step, const WriteReport& report, Progress& progress) = 0;
  // What would make commit() fail by now: a rule that is checked at the end only and does not hold. Nothing: all hold.
  [[nodiscard]] virtual std::optional<Error> brokenAtTheEnd() = 0;

  // --- what code of the database writes besides ---
  // From now to the end of the transaction what is written in these tables can be asked for. `knownCode`: there are
  // triggers that may write. The catalogue outlives the transaction.
  [[nodiscard]] virtual Status noteWrites(const Catalogue&, bool /*knownCode*/, Progress&) { return {}; }
  // What was written since: of tables that write() wrote to it may leave out what write() alone did. At most `most`
  // keys for a table. Nothing: this engine cannot tell. Errors: the session's.
  [[nodiscard]] virtual Result<std::optional<std::vector<TableWrites>>> writesSoFar(const Catalogue&, std::uint64_t,
                                                                                    Progress&) {
    return std::optional<std::vector<TableWrites>>();
  }

  // The whole database as it is at one moment, into a new file that only this user may read; others go on working
  // meanwhile. It is read back before it is put in place; where that fails nothing of it is left. Errors: InvalidFile,
  // for a file that is there already too; LockTimeout; Cancelled; Unsupported unless info().canBeCopied.
  [[nodiscard]] virtual Status copyTo(const std::string& path, Progress&) {
    return fail(ErrorKind::Unsupported, "only a database in a file can be copied as a whole", path);
  }

  // A statement by which the probe (probe.h) makes or drops a table of its own; outside a transaction.
  [[nodiscard]] virtual Status runForProbe(const std::string& sql, Progress& progress) = 0;

  // --- the script: all or nothing when the engine's plain client runs it under default settings. Each statement is
  // followed by a look at how many records it met; where that is another number than meant, or a statement failed, the
  // transaction can no longer be committed. ---
  [[nodiscard]] virtual std::vector<std::string> scriptOpening(const ScriptOutline& outline) const = 0;
  [[nodiscard]] virtual std::vector<std::string> scriptClosing() const = 0;
  [[nodiscard]] virtual std::string scriptText(const ScriptStatement& statement) const = 0;
  // A statement that makes a record again as it is, numbers that the database gives out included.
  [[nodiscard]] virtual std::string insertText(const Table& table, const std::vector<std::string>& columns,
                                               const ValueTuple& values) const = 0;

 protected:
  // All records that the database finds by these keys, but for `exact`, which is not for the engine to look at.
  // `mostPerKey` is what suffices: more records for a key do no harm where `exact` is asked for.
  [[nodiscard]] virtual Status findByKeys(const KeyRead& read, const KeyedRowSink& sink, Progress& progress) = 0;
};

struct OpenOptions {
  bool readOnly = false;
  std::string password;  // for servers, where the address has none; kept in memory for as long as the session lives
  std::chrono::milliseconds lockTimeout{5000};
  // Asked when a server wants a password that its customary places do not give; nothing gives up.
  std::function<std::optional<std::string>(const std::string& forWhom)> askPassword;
};

// Opens the database that an address names: a path, sqlite:PATH, postgresql://… or mariadb://….
// Errors: CannotOpen, ReadOnly, Unsupported, Cancelled. Only looking up a host's name cannot be cut short.
[[nodiscard]] Result<std::unique_ptr<Session>> openSession(const std::string& address, const OpenOptions& options,
                                                           Progress& progress);
[[nodiscard]] Result<std::unique_ptr<Session>> openSession(const std::string& address, const OpenOptions& options = {});

// Whether a password is written into the address, where others can see it.
[[nodiscard]] bool holdsPassword(const std::string& address);

}  // namespace iterandum
