// Desk: one database that is open in the window: its sessions, what it holds, and what is staged for it.
//
// All staging goes through here; each gesture is put on disk by the store's own thread in the order it was made.
// Lives on the interface thread.
#pragma once

#include <QObject>
#include <memory>
#include <set>
#include <string>
#include <vector>

#include "app/session/applying.h"
#include "app/session/database_session.h"
#include "app/session/lenses.h"
#include "app/session/lent_records.h"
#include "app/session/reference_names.h"
#include "app/session/store_thread.h"
#include "app/values/shown_value.h"
#include "core/apply/apply.h"
#include "core/changes/change_set.h"
#include "core/store/store.h"

namespace iterandum {

// One record as the window speaks of it: an existing one by its key, or a new one by its id.
struct RecordRef {
  TableName table;
  ValueTuple key;             // by writeKeyColumns()
  std::uint64_t addedId = 0;  // not 0: a new record

  [[nodiscard]] bool isAdded() const { return addedId != 0; }
  friend bool operator==(const RecordRef& a, const RecordRef& b) {
    return a.table == b.table && a.addedId == b.addedId && sameTuple(a.key, b.key);
  }
};

// The same text for the same record: for looking records up.
[[nodiscard]] QString recordText(const RecordRef& ref);

// One cell to be staged, with what it holds in the database.
struct CellEdit {
  RecordRef record;
  std::string column;
  Value from;
  Value to;
};

class Desk : public QObject {
  Q_OBJECT
 public:
  explicit Desk(std::shared_ptr<StoreThread> storeThread, QObject* parent = nullptr);
  Desk(const Desk&) = delete;
  Desk& operator=(const Desk&) = delete;
  ~Desk() override;  // the log of what is staged is left to the next window

  // Opens the database and what was left staged for it; opened() or openFailed() follows.
  void open(const std::string& address, const OpenOptions& options = {});

  [[nodiscard]] const Catalogue& catalogue() const { return *catalogue_; }
  [[nodiscard]] std::shared_ptr<const Catalogue> sharedCatalogue() const { return catalogue_; }
  [[nodiscard]] const SessionInfo& info() const { return info_; }
  [[nodiscard]] const ChangeSet& changes() const { return changes_; }
  [[nodiscard]] const DatabaseMark& mark() const { return mark_; }
  void setMark(const DatabaseMark& mark);
  [[nodiscard]] DatabaseSession& front() { return front_; }
  [[nodiscard]] DatabaseSession& behind() { return behind_; }
  [[nodiscard]] DatabaseSession& indexing() { return indexing_; }
  [[nodiscard]] ReferenceNames& names() { return *names_; }
  [[nodiscard]] LentRecords& lent() { return *lent_; }
  // What records point at is read again when it is next shown.
  void forgetReferences();

  // What conditions may speak of: references, today, what is staged, what has a finding.
  [[nodiscard]] ConditionContext conditions() const;
  struct FoundCell {
    TableName table;
    ValueTuple key;
    std::string column;  // empty: the record as a whole
  };
  // Of the last review.
  void setFindings(std::vector<FoundCell> findings);
  // Whether the last review found something that blocks in this cell, or in the record where no column is named, and
  // nothing was staged there since.
  [[nodiscard]] bool hasFinding(const TableName& table, const ValueTuple& key, const std::string& column) const;
  [[nodiscard]] bool hasFindings(const TableName& table) const { return foundAt_.contains(table); }

  // --- what is kept for the database ---
  [[nodiscard]] const std::vector<SavedScope>& scopes() const { return scopes_; }
  void saveScope(const SavedScope& scope);
  void forgetScope(const std::string& name);
  [[nodiscard]] const std::vector<Recipe>& recipes() const { return recipes_; }
  void saveRecipe(const Recipe& recipe);
  void forgetRecipe(const std::string& name);
  // What records must hold besides what the database asks for; reviewing and applying hold to it.
  [[nodiscard]] const std::vector<HouseRule>& houseRules() const { return houseRules_; }
  // Takes the place of one with the same name.
  void saveHouseRules(const std::vector<HouseRule>& rules);
  void forgetHouseRule(const std::string& name);
  // Through which lenses columns are looked at.
  [[nodiscard]] Lenses& lenses() const { return *lenses_; }
  // Each takes the place of the one of its column.
  void saveLenses(const std::vector<Lens>& lenses);
  void forgetLens(const std::string& table, const std::string& column);
  // How the columns of a table's sheet lay when it was last closed, in the window's own words; empty: never.
  [[nodiscard]] std::string layout(const Table& table) const;
  void keepLayout(const Table& table, const std::string& layout);
  // The sheets that were open when the window last left this database, in the window's own words.
  [[nodiscard]] const std::string& openSheets() const { return openSheets_; }
  void keepOpenSheets(const std::string& sheets);
  // By which columns the records of a table are called where something points at them; none: as it was.
  void chooseReadable(const Table& table, const std::vector<std::string>& columns);
  // What of the database's own code (running_code.h) nobody was told about yet; from now on they are.
  [[nodiscard]] std::vector<std::string> tellOnce(const std::vector<std::string>& code);
  [[nodiscard]] const std::vector<StatedReference>& statedReferences() const { return stated_; }
  // The catalogue is another one afterwards, and its tables too: catalogueChanged() says so.
  void stateReference(const StatedReference& reference);
  void forgetReference(const StatedReference& reference);

  // --- staging: one gesture each ---
  void stageEdits(const QString& title, const std::vector<CellEdit>& edits);
  // Stages the same value in many records of one table without going over them one by one.
  void stageColumn(const QString& title, const Table& table, const std::string& column, std::vector<ValueColumn> keys,
                   ValueColumn from, ValueColumn to);
  // New values for many records of one table, a column at a time.
  struct ColumnEdits {
    std::string column;
    std::vector<ValueColumn> keys;
    ValueColumn from;  // what the database holds
    ValueColumn to;
  };
  void stageColumns(const QString& title, const Table& table, std::vector<ColumnEdits> edits);
  std::uint64_t stageAddition(const Table& table, const std::vector<std::pair<std::string, Value>>& cells);
  // Several new records as one gesture; the cells of each by column.
  void stageAdditions(const Table& table, const std::vector<std::vector<std::pair<std::string, Value>>>& records);
  // `records` holds, for each existing record, all of table.recordColumns().
  void stageRemovals(const Table& table, const std::vector<RecordRef>& refs, const std::vector<ValueTuple>& records);
  struct Removal {
    const Table* table = nullptr;
    std::vector<RecordRef> refs;
    std::vector<ValueTuple> records;
  };
  // The same over several tables.
  void stageRemovals(const QString& title, const std::vector<Removal>& removals);
  void putBack(const QString& title, const std::vector<RecordRef>& records);
  void putBackCells(const QString& title, const std::vector<CellEdit>& cells);
  void keepMine(const QString& title, const std::vector<CellEdit>& cells);  // `from`: what the database holds now
  void putAllBack();
  // Stages a whole change list, as a receipt that is taken back gives it.
  // False, with the reason said, when some record cannot be named here.
  bool stageChanges(const QString& title, const ChangeList& changes);
  void undo();
  void redo();
  // After the first `gestures` of what was staged were applied: they are staged no more and cannot be undone by Undo;
  // what was staged meanwhile stays.
  // `part`: of those, only this part was applied; its rest stays staged, as one gesture.
  void forgetApplied(std::size_t gestures, const AppliedAdditions& added,
                     const std::optional<SplitChanges>& part = std::nullopt);
  [[nodiscard]] Applying& applying() { return *applying_; }

  [[nodiscard]] StoreThread& storeThread() const { return *storeThread_; }
  // Titles of the records that were applied last, for as long as the sheet shows them marked.
  void markApplied(const Receipt& receipt);
  [[nodiscard]] bool wasApplied(const TableName& table, const ValueTuple& key) const;
  // How many records of the table were applied last and are still there.
  [[nodiscard]] std::size_t appliedCount(const TableName& table) const;
  void clearApplied();

 signals:
  void opened();
  void openFailed(const QString& message, const QString& step);  // connection_trial.h names the steps
  void markChanged();
  void scopesChanged();
  void recipesChanged();
  void houseRulesChanged();
  void catalogueChanged();
  void stagedChanged();
  void storeFailed(const QString& message);
  void said(const QString& message);

 private:
  void stage(Gesture gesture);
  // PutBackCells or KeepMine.
  void stageDecided(GesturePart::Kind kind, const QString& title, const std::vector<CellEdit>& cells);
  [[nodiscard]] bool isSoAlready(const CellEdit& edit) const;
  struct Restored {
    StagedLog log;
    DatabaseMark mark;
    std::vector<SavedScope> scopes;
    std::vector<Recipe> recipes;
    std::vector<HouseRule> houseRules;
    std::vector<Lens> lenses;
    std::vector<StatedReference> references;
    std::map<std::string, std::vector<std::string>> readable;
    std::map<std::string, std::string> layouts;
    std::set<std::string> toldCode;
    std::string openSheets;
  };
  void restoreStaged();
  [[nodiscard]] static Result<Restored> readKept(Store& store, const std::string& address, const std::string& owner);
  // All gestures in place of what is kept: after an apply, and after one could not be kept.
  void keepAll();
  void sayWhatWasLeft(const StagedLog& log);
  void keepPosition();
  [[nodiscard]] bool heldByApplying();
  void takeKept(Restored&& restored);
  void useCatalogue();
  [[nodiscard]] std::shared_ptr<const KeyList> stagedKeys(const Table& table, const std::string& column) const;
  [[nodiscard]] std::shared_ptr<const KeyList> foundKeys(const Table& table, const std::string& column) const;
  [[nodiscard]] std::shared_ptr<const KeyList> appliedKeys(const Table& table) const;
  // What was found in records that this is about is not known any more.
  void forgetFindings(const Gesture& gesture);
  void takeMark(const DatabaseMark& mark);
  void keep(std::function<Status(Store&)> work);
  void useLenses(std::vector<Lens> lenses);
  // The same for what is staged, in this window's log. When it fails all gestures are kept with the next one.
  void keepStaged(std::function<Status(Store&, std::int64_t log)> work);
  [[nodiscard]] static GesturePart partFor(GesturePart::Kind kind, const Table& table);

  std::shared_ptr<StoreThread> storeThread_;
  std::shared_ptr<std::int64_t> log_;  // touched by the store thread only; 0: none yet
  std::string logOwner_;
  bool keepAllNext_ = false;
  std::unique_ptr<Applying> applying_;
  DatabaseSession front_;
  DatabaseSession behind_;
  DatabaseSession indexing_;
  SessionInfo info_;
  std::string readOnlyBySession_;  // why, apart from the mark
  DatabaseMark mark_;
  std::shared_ptr<const Catalogue> declared_;   // what the database itself says
  std::shared_ptr<const Catalogue> catalogue_;  // with the references that somebody stated
  std::unique_ptr<ReferenceNames> names_;
  std::unique_ptr<LentRecords> lent_;
  std::unique_ptr<Lenses> lenses_ = std::make_unique<Lenses>();
  std::vector<SavedScope> scopes_;
  std::vector<Recipe> recipes_;
  std::vector<HouseRule> houseRules_;
  std::vector<StatedReference> stated_;
  std::map<std::string, std::vector<std::string>> readable_;
  std::map<std::string, std::string> layouts_;
  std::set<std::string> toldCode_;
  std::string openSheets_;
  std::vector<FoundCell> findings_;
  using FoundColumns = std::unordered_map<ValueTuple, std::set<std::string>, TupleHash, TupleSame>;
  std::map<TableName, FoundColumns> foundAt_;
  ChangeSet changes_;
  std::map<TableName, std::unordered_map<ValueTuple, bool, TupleHash, TupleSame>> applied_;
};

}  // namespace iterandum
