// Store: Iterandum's own SQLite file. Staged work, receipts and recent databases lie in it, so that nothing is lost
// when the program or the machine dies.
//
// The file is in the state directory of the user ($XDG_STATE_HOME/iterandum), readable and writable by them alone.
// Every call is durable when it returns. A store belongs to one thread at a time; several processes may have it open.
#pragma once

#include <cstdint>
#include <map>
#include <memory>
#include <string>
#include <vector>

#include "core/apply/receipt.h"
#include "core/base/result.h"
#include "core/engines/sqlite/sqlite_handle.h"
#include "core/scope/scope.h"

namespace iterandum {

// What somebody calls a database, so that the live one is never taken for the trial one.
struct DatabaseMark {
  std::string name;       // "live"; empty: not marked
  std::string colour;     // a name that the window knows
  bool readOnly = false;  // nothing is to be staged for it
  friend bool operator==(const DatabaseMark&, const DatabaseMark&) = default;
};

struct RecentDatabase {
  std::string address;
  std::string title;
  std::string openedAt;
  std::int64_t stagedGestures = 0;
  DatabaseMark mark;
};

struct KeptReceipt {
  std::int64_t id = 0;
  std::string database;
  std::string appliedAt;
  std::string appliedBy;
  std::string title;
  std::int64_t changes = 0;
  bool pending = false;  // written, but the program ended before it learnt whether the commit went through
};

// What was staged for a database when the program last ran.
struct StagedWork {
  std::vector<std::string> gestures;  // packed, in order; those behind `position` were undone
  std::size_t position = 0;
};

// A scope that somebody kept under a name.
struct SavedScope {
  std::string name;
  Scope scope;
};

class Store {
 public:
  // The usual place of the file. Errors: InvalidFile when no home directory is known.
  [[nodiscard]] static Result<std::string> defaultPath();
  // Makes the file and its folder where they are missing. Errors: InvalidFile with the path.
  [[nodiscard]] static Result<std::unique_ptr<Store>> open(const std::string& path);

  [[nodiscard]] Status rememberDatabase(const std::string& address, const std::string& title);
  [[nodiscard]] Status forgetDatabase(const std::string& address);
  [[nodiscard]] Result<std::vector<RecentDatabase>> recentDatabases();

  [[nodiscard]] Status setMark(const std::string& address, const DatabaseMark& mark);
  // An empty one where the database is not marked.
  [[nodiscard]] Result<DatabaseMark> mark(const std::string& address);

  // Scopes by name, in the order of their names; one that cannot be read is left out. Saving replaces.
  [[nodiscard]] Result<std::vector<SavedScope>> scopes(const std::string& address);
  [[nodiscard]] Status saveScope(const std::string& address, const SavedScope& scope);
  [[nodiscard]] Status forgetScope(const std::string& address, const std::string& name);

  [[nodiscard]] Result<std::vector<StatedReference>> statedReferences(const std::string& address);
  [[nodiscard]] Status stateReference(const std::string& address, const StatedReference& reference);
  [[nodiscard]] Status forgetReference(const std::string& address, const StatedReference& reference);

  // The columns by which records of a table are called where something points at them; by the table's name.
  [[nodiscard]] Result<std::map<std::string, std::vector<std::string>>> readableChoices(const std::string& address);
  [[nodiscard]] Status chooseReadable(const std::string& address, const std::string& table,
                                      const std::vector<std::string>& columns);

  // How the columns of a table lie, in the window's own words; empty: never kept.
  [[nodiscard]] Status keepLayout(const std::string& address, const std::string& table, const std::string& layout);
  [[nodiscard]] Result<std::map<std::string, std::string>> layouts(const std::string& address);

  // Appends a gesture behind `position` gestures; what was undone before is dropped.
  [[nodiscard]] Status appendGesture(const std::string& address, std::size_t position, const std::string& packed);
  [[nodiscard]] Status setPosition(const std::string& address, std::size_t position);
  [[nodiscard]] Status clearStaged(const std::string& address);
  [[nodiscard]] Result<StagedWork> stagedWork(const std::string& address);

  // Keeps a receipt as pending; confirmReceipt() makes it final, dropReceipt() takes it away after a failed commit.
  [[nodiscard]] Result<std::int64_t> keepReceipt(const Receipt& receipt);
  [[nodiscard]] Status confirmReceipt(std::int64_t id);
  [[nodiscard]] Status dropReceipt(std::int64_t id);
  // Newest first; of one database, or of all when `address` is empty.
  [[nodiscard]] Result<std::vector<KeptReceipt>> receipts(const std::string& address);
  [[nodiscard]] Result<Receipt> receipt(std::int64_t id);

 private:
  explicit Store(std::unique_ptr<SqliteHandle> handle) : handle_(std::move(handle)) {}
  [[nodiscard]] Status makeTables();
  // What is kept for a database besides: a text for each kind and name.
  [[nodiscard]] Status keepText(const std::string& address, std::string_view kind, const std::string& name,
                                const std::string& text);
  [[nodiscard]] Status forgetText(const std::string& address, std::string_view kind, const std::string& name);
  [[nodiscard]] Result<std::vector<std::pair<std::string, std::string>>> texts(const std::string& address,
                                                                               std::string_view kind);
  [[nodiscard]] Status execute(SqliteStatement& statement, const char* doing);
  [[nodiscard]] Status inTransaction(const std::vector<SqliteStatement*>& statements, const char* doing);

  std::unique_ptr<SqliteHandle> handle_;
};

}  // namespace iterandum
