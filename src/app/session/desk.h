// Desk: one database that is open in the window: its sessions, what it holds, and what is staged for it.
//
// All staging goes through here; each gesture is put on disk by the store's own thread in the order it was made.
// Lives on the interface thread.
#pragma once

#include <QObject>
#include <memory>
#include <string>
#include <vector>

#include "app/session/database_session.h"
#include "app/session/reference_names.h"
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
  explicit Desk(std::shared_ptr<TaskThread> storeThread, std::string storePath, QObject* parent = nullptr);

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
  [[nodiscard]] ReferenceNames& names() { return *names_; }

  // --- staging: one gesture each ---
  void stageEdits(const QString& title, const std::vector<CellEdit>& edits);
  // Stages the same value in many records of one table without going over them one by one.
  void stageColumn(const QString& title, const Table& table, const std::string& column, std::vector<ValueColumn> keys,
                   ValueColumn from, ValueColumn to);
  std::uint64_t stageAddition(const Table& table, const std::vector<std::pair<std::string, Value>>& cells);
  // `records` holds, for each existing record, all of table.recordColumns().
  void stageRemovals(const Table& table, const std::vector<RecordRef>& refs, const std::vector<ValueTuple>& records);
  void putBack(const QString& title, const std::vector<RecordRef>& records);
  void putBackCells(const QString& title, const std::vector<CellEdit>& cells);
  void keepMine(const QString& title, const std::vector<CellEdit>& cells);  // `from`: what the database holds now
  void putAllBack();
  // Stages a whole change list, as a receipt that is taken back gives it.
  // False, with the reason said, when some record cannot be named here.
  bool stageChanges(const QString& title, const ChangeList& changes);
  void undo();
  void redo();
  // After a change set was applied: nothing is staged any more, and nothing can be undone by Undo.
  void forgetStaged();

  [[nodiscard]] std::shared_ptr<TaskThread> storeThread() const { return storeThread_; }
  [[nodiscard]] const std::string& storePath() const { return storePath_; }
  // Titles of the records that were applied last, for as long as the sheet shows them marked.
  void markApplied(const Receipt& receipt);
  [[nodiscard]] bool wasApplied(const TableName& table, const ValueTuple& key) const;
  void clearApplied();

 signals:
  void opened();
  void openFailed(const QString& message, const QString& step);  // connection_trial.h names the steps
  void markChanged();
  void stagedChanged();
  void storeFailed(const QString& message);
  void said(const QString& message);

 private:
  void stage(Gesture gesture);
  void restoreStaged();
  void takeMark(const DatabaseMark& mark);
  void keep(std::function<Status(Store&)> work);
  [[nodiscard]] static GesturePart partFor(GesturePart::Kind kind, const Table& table);

  std::shared_ptr<TaskThread> storeThread_;
  std::string storePath_;
  std::shared_ptr<std::unique_ptr<Store>> store_;  // touched by the store thread only
  DatabaseSession front_;
  DatabaseSession behind_;
  SessionInfo info_;
  std::string readOnlyBySession_;  // why, apart from the mark
  DatabaseMark mark_;
  std::shared_ptr<const Catalogue> catalogue_;
  std::unique_ptr<ReferenceNames> names_;
  ChangeSet changes_;
  std::map<TableName, std::unordered_map<ValueTuple, bool, TupleHash, TupleSame>> applied_;
};

// Text between the core and the interface.
[[nodiscard]] inline QString toQ(std::string_view s) {
  return QString::fromUtf8(s.data(), static_cast<qsizetype>(s.size()));
}

}  // namespace iterandum
