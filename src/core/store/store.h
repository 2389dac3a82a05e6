// Store: Iterandum's own SQLite file. Staged work, receipts and recent databases lie in it, so that nothing is lost
// when the program or the machine dies.
//
// The file is in the state directory of the user ($XDG_STATE_HOME/iterandum), readable and writable by them alone.
// Every call is durable when it returns. A store belongs to one thread at a time; several processes may have it open.
#pragma once

#include <chrono>
#include <cstdint>
#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <set>
#include <string>
#include <unordered_map>
#include <unordered_set>
#include <utility>
#include <vector>

#include "core/acts/recipe.h"
#include "core/apply/receipt.h"
#include "core/base/progress.h"
#include "core/base/result.h"
#include "core/changes/gesture.h"
#include "core/engines/sqlite/sqlite_handle.h"
#include "core/forms/form.h"
#include "core/lenses/lens.h"
#include "core/rules/house_rule.h"
#include "core/scope/scope.h"
#include "core/store/receipt_chain.h"
#include "core/store/staged_log.h"

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

// A scope that somebody kept under a name.
struct SavedScope {
  std::string name;
  Scope scope;
};

// Which receipts may speak of a record, without unpacking them.
struct TouchedReceipts {
  struct Filter {
    std::string keyColumns;  // by which the records are named there
    std::string bytes;       // key_filter.h
  };
  std::unordered_set<std::int64_t> noted;  // of which it is known at all
  std::unordered_map<std::int64_t, std::vector<Filter>> byReceipt;

  std::string keyColumns;  // by which those are named that are meant

  // `keys`: keyHash() of them.
  [[nodiscard]] bool maySpeakOf(std::int64_t receipt, const std::vector<std::uint64_t>& keys) const;
};

class Store {
 public:
  // The usual place of the file. Errors: InvalidFile when no home directory is known.
  [[nodiscard]] static Result<std::string> defaultPath();
  // Makes the file and its folder where they are missing. Errors: InvalidFile with the path.
  // `patience`: how long other processes that write to it are waited for.
  [[nodiscard]] static Result<std::unique_ptr<Store>> open(
      const std::string& path, std::chrono::milliseconds patience = std::chrono::milliseconds(10000));

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

  // Recipes, in the order of their names; one that cannot be read is left out. Saving replaces.
  [[nodiscard]] Result<std::vector<Recipe>> recipes(const std::string& address);
  [[nodiscard]] Status saveRecipe(const std::string& address, const Recipe& recipe);
  [[nodiscard]] Status forgetRecipe(const std::string& address, const std::string& name);

  // House rules, all of them together; none where what is kept cannot be read.
  [[nodiscard]] Result<std::vector<HouseRule>> houseRules(const std::string& address);
  [[nodiscard]] Status keepHouseRules(const std::string& address, const std::vector<HouseRule>& rules);

  // The same of lenses.
  [[nodiscard]] Result<std::vector<Lens>> lenses(const std::string& address);
  [[nodiscard]] Status keepLenses(const std::string& address, const std::vector<Lens>& lenses);

  // And of forms.
  [[nodiscard]] Result<std::vector<Form>> forms(const std::string& address);
  [[nodiscard]] Status keepForms(const std::string& address, const std::vector<Form>& forms);

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

  // The sheets that are open over it, in the window's own words; empty: never kept.
  [[nodiscard]] Status keepOpenSheets(const std::string& address, const std::string& sheets);
  [[nodiscard]] Result<std::string> openSheets(const std::string& address);

  // What somebody chose for a database, under the choice's name.
  [[nodiscard]] Status keepChoice(const std::string& address, const std::string& name, const std::string& chosen);
  [[nodiscard]] Result<std::map<std::string, std::string>> choices(const std::string& address);
  // Puts what `amend` makes of it in the place of what is kept by now, which others may have kept; says what it is
  // then.
  [[nodiscard]] Result<std::string> amendChoice(const std::string& address, const std::string& name,
                                                const std::function<std::string(const std::string& kept)>& amend);

  // What somebody was shown once, under its name; for no database in particular.
  [[nodiscard]] Status rememberSeen(const std::string& name);
  [[nodiscard]] Result<bool> wasSeen(const std::string& name);

  // Which code of the database (running_code.h) somebody was told about.
  [[nodiscard]] Result<std::set<std::string>> toldCode(const std::string& address);
  [[nodiscard]] Status rememberToldCode(const std::string& address, const std::vector<std::string>& code);

  // The log of what is staged for a database, for a window more; a new one where there is none. All windows that have
  // the database open have the same.
  [[nodiscard]] Result<StagedLog> claimStaged(const std::string& address, const std::string& owner);
  // The window is done with it: what is in it waits for the next one; an empty log that nobody has goes.
  [[nodiscard]] Status releaseStaged(std::int64_t log, const std::string& owner);
  // What lies in it by now. The gestures in `has` are not read. `written` is told only where nobody else is applying.
  [[nodiscard]] Result<StagedLog> readStaged(std::int64_t log, const std::string& owner,
                                             const std::unordered_set<GestureId>& has);
  // The same without the gestures.
  [[nodiscard]] Result<StagedState> stagedState(std::int64_t log, const std::string& owner);
  // Brings what a window did together with what others did meanwhile (staged_merge.h). What comes out is told: where it
  // is not what the window wanted, it has to read. Errors: InvalidFile when a gesture is missing, as after a call that
  // failed: then `view` has to hold all of them packed.
  [[nodiscard]] Result<StagedState> mergeStaged(std::int64_t log, const std::string& owner, const StagedView& view);
  // Puts `gestures` in place of all that is there, since what was applied is to be staged no more, and lets go. Nothing
  // is done where anything but `before` lies there.
  // Nothing is given then.
  [[nodiscard]] Result<std::optional<StagedState>> replaceStaged(std::int64_t log, const std::string& owner,
                                                                 const std::vector<GestureId>& before,
                                                                 const StagedView& gestures);
  // The window is about to apply what `done` says, which must be the first that lies there: until letGoStaged() nobody
  // takes any of it out. Errors: TryAgain when something else lies there; LockTimeout while another window holds it.
  [[nodiscard]] Status holdStaged(std::int64_t log, const std::string& owner, const std::vector<GestureId>& done);
  [[nodiscard]] Status letGoStaged(std::int64_t log, const std::string& owner);

  // Of the gestures of this log those that a confirmed receipt is about, until replaceStaged() or an undo.
  [[nodiscard]] Result<std::vector<WrittenStaged>> writtenOf(std::int64_t log);
  // Receipts about gestures of this log of which nobody knows yet whether they were written.
  [[nodiscard]] Result<std::vector<std::int64_t>> undecidedOf(std::int64_t log);
  // The same for all logs of the database that nobody is applying from just now.
  [[nodiscard]] Result<std::vector<std::int64_t>> undecidedReceipts(const std::string& address);

  // Keeps a receipt as pending; confirmReceipt() makes it final, dropReceipt() takes it away after a failed commit.
  // `staged`: what it is about, if that lies in a log.
  [[nodiscard]] Result<std::int64_t> keepReceipt(const Receipt& receipt, const StagedForReceipt* staged = nullptr);
  [[nodiscard]] Status confirmReceipt(std::int64_t id);
  [[nodiscard]] Status dropReceipt(std::int64_t id);
  // Receipts that were kept elsewhere, as confirmed ones of this database: all of them or none, those that are here
  // already passed over. `next` gives one after the other, nothing at the end. How many were taken in.
  [[nodiscard]] Result<std::uint64_t> takeInReceipts(const std::string& address,
                                                     const std::function<Result<std::optional<Receipt>>()>& next);
  // Newest first; of one database, or of all when `address` is empty.
  [[nodiscard]] Result<std::vector<KeptReceipt>> receipts(const std::string& address);
  [[nodiscard]] Result<Receipt> receipt(std::int64_t id);
  // Those about lines of a file with this digest, the oldest first; none that are pending.
  [[nodiscard]] Result<std::vector<std::int64_t>> receiptsOfFile(const std::string& address, const std::string& digest);
  // Whether all receipts, of whichever database, are there and as they were kept (receipt_chain.h). Errors: Cancelled.
  [[nodiscard]] Result<ChainCheck> checkChain(Progress& progress);
  // What the receipts of a database touch in tables of this name, in whichever schema.
  [[nodiscard]] Result<TouchedReceipts> touchedBy(const std::string& address, const std::string& table,
                                                  const std::vector<std::string>& keyColumns);
  // The same of one that was kept by an older version of this program.
  [[nodiscard]] Status noteTouchedLater(std::int64_t id, const Receipt& receipt);

 private:
  explicit Store(std::unique_ptr<SqliteHandle> handle) : handle_(std::move(handle)) {}
  [[nodiscard]] Status setUp();
  [[nodiscard]] Status makeTables();
  [[nodiscard]] Status hangOn(std::int64_t id);
  [[nodiscard]] Status hangAllOn();
  [[nodiscard]] Result<std::string> ownDigest(std::int64_t id);
  [[nodiscard]] Status noteTouched(std::int64_t id, const Receipt& receipt);
  [[nodiscard]] Result<std::int64_t> insertReceipt(const Receipt& receipt, bool pending);
  [[nodiscard]] Result<bool> hasReceipt(const Receipt& receipt);
  [[nodiscard]] Status noteFiles(std::int64_t id, const Receipt& receipt);
  // What else is known of a log while something is done to it.
  struct StagedRow {
    StagedState state;
    std::size_t held = 0;  // the first so many are being applied by another window that runs
  };
  [[nodiscard]] Result<StagedRow> stagedRow(std::int64_t log, const std::string& owner);
  [[nodiscard]] Result<std::int64_t> logFor(const std::string& address, StagedLog& told);
  [[nodiscard]] Status forgetDeadWindows(const std::string& address);
  [[nodiscard]] Status addWindow(StagedLog& log, const std::string& owner);
  [[nodiscard]] Result<std::size_t> windowNumber(std::int64_t log, const std::string& owner);
  [[nodiscard]] Status readGestures(StagedLog& log, const std::unordered_set<GestureId>& has);
  [[nodiscard]] Status setAside(std::int64_t log, const std::string& packed);
  // Makes the log hold `now` in place of `before`.
  [[nodiscard]] Status writeOrder(std::int64_t log, const StagedOrder& before, const StagedOrder& now,
                                  const std::map<GestureId, std::string>& packed);
  [[nodiscard]] Status addGesture(std::int64_t log, std::size_t seq, GestureId id, const std::string& packed);
  // A new revision. `applied`: some of it was taken out for having been applied.
  [[nodiscard]] Status markChanged(std::int64_t log, std::size_t position, bool applied);
  [[nodiscard]] Status setHolder(std::int64_t log, const std::string& holder, std::size_t held);
  [[nodiscard]] Status linkStaged(std::int64_t receipt, const StagedForReceipt& staged);
  // Those about more than the first gestures of the log.
  [[nodiscard]] Status unlinkBeyond(std::int64_t log, std::size_t gestures);
  // What is kept for a database besides: a text for each kind and name.
  [[nodiscard]] Status keepText(const std::string& address, std::string_view kind, const std::string& name,
                                const std::string& text);
  [[nodiscard]] Status forgetText(const std::string& address, std::string_view kind, const std::string& name);
  [[nodiscard]] Result<std::vector<std::pair<std::string, std::string>>> texts(const std::string& address,
                                                                               std::string_view kind);
  [[nodiscard]] Status execute(SqliteStatement& statement, const char* doing);
  [[nodiscard]] Status eachRow(SqliteStatement& statement, const char* doing,
                               const std::function<void(const SqliteStatement&)>& take);
  // All of it or nothing.
  template <typename Work>
  auto inTransaction(const Work& work) -> decltype(work()) {
    ITERANDUM_TRY(handle_->run("BEGIN IMMEDIATE"));
    auto done = work();
    if (done) {
      if (Status committed = handle_->run("COMMIT"); committed)
        return done;
      else
        done = fail(std::move(committed.error()));
    }
    (void)handle_->run("ROLLBACK");
    return done;
  }

  std::unique_ptr<SqliteHandle> handle_;
};

}  // namespace iterandum
