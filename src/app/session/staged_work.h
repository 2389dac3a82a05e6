// StagedWork: what is staged for one database, by this window and by others that have it open (shared_log.h).
//
// All staging goes through here; each gesture is put on disk by the store's own thread in the order it was made.
// Lives on the interface thread.
#pragma once

#include <QObject>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "app/session/record_ref.h"
#include "app/session/shared_log.h"
#include "core/apply/applied_additions.h"
#include "core/changes/change_set.h"
#include "core/changes/part_of_changes.h"
#include "core/store/store.h"

namespace iterandum {

class StagedWork : public QObject {
  Q_OBJECT
 public:
  // `applying`: whether what is staged is being written just now; then nothing of it is undone.
  StagedWork(std::shared_ptr<StoreThread> storeThread, std::function<bool()> applying);
  StagedWork(const StagedWork&) = delete;
  StagedWork& operator=(const StagedWork&) = delete;

  // For which database; nothing is staged before.
  void setAddress(const std::string& address) { log_.setAddress(address); }
  void useCatalogue(std::shared_ptr<const Catalogue> catalogue) { catalogue_ = std::move(catalogue); }
  // Why nothing can be staged; empty: it can.
  void setReadOnly(const std::string& why) { readOnly_ = why; }
  // Who has the log, and whose place this takes when it joins it: the window's own, which is about to go.
  [[nodiscard]] const std::string& owner() const { return log_.owner(); }
  void takePlaceOf(const std::string& owner) { insteadOf_ = owner; }
  // Joins the log that is there for the database, or a new one: a task for the store's thread.
  [[nodiscard]] std::function<Result<StagedLog>(Store&)> claim() const { return log_.claim(); }
  // Gives back what is to be known about it, in words: that some of it turned out to have been written, that other
  // windows have it too; empty: nothing.
  [[nodiscard]] QString take(StagedLog&& log);
  // So that it can be applied, by this window alone: see SharedLog. Until letGo() or forgetApplied().
  [[nodiscard]] std::shared_future<Result<std::int64_t>> hold() { return log_.hold(); }
  void letGo() { log_.letGo(); }
  // Looks for gestures here of which it is known by now that they were written: they are staged no more; and for what
  // other windows did.
  void lookForWritten() { log_.read(); }

  [[nodiscard]] const ChangeSet& changes() const { return changes_; }
  [[nodiscard]] std::shared_ptr<const KeyList> stagedKeys(const Table& table, const std::string& column) const;

  // --- staging: one gesture each ---
  void stageEdits(const QString& title, const std::vector<CellEdit>& edits);
  // What somebody else wrote into these cells meanwhile is known, and written over; `from`: that.
  void stageOver(const QString& title, const std::vector<CellEdit>& edits);
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
  // Records that are gone from the database, whose corrections become new records with these cells.
  void addAgain(const QString& title, const Table& table, const std::vector<RecordRef>& gone,
                const std::vector<std::vector<std::pair<std::string, Value>>>& records);
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
  // One that was made elsewhere; its new records have ids from changes().nextAddedId() on.
  void stageGesture(const QString& title, Gesture gesture);
  void undo();
  void redo();
  // After the first `gestures` of what was staged were applied: they are staged no more and cannot be undone by Undo;
  // what was staged meanwhile stays.
  // `part`: of those, only this part was applied; its rest stays staged, as one gesture.
  void forgetApplied(std::size_t gestures, const AppliedAdditions& added,
                     const std::optional<SplitChanges>& part = std::nullopt);

 signals:
  void changed();
  // This gesture was staged, undone or done again.
  void touched(const iterandum::Gesture& gesture);
  void storeFailed(const QString& message);
  // Another window was applying, and is gone or let go.
  void holderLeft();
  // Another window applied some of what was staged: what was read before is not so any more.
  void appliedElsewhere();
  void said(const QString& message);

 private:
  void stage(Gesture gesture);
  // PutBackCells or KeepMine.
  void stageDecided(GesturePart::Kind kind, const QString& title, const std::vector<CellEdit>& cells);
  [[nodiscard]] std::vector<GesturePart> decidedParts(GesturePart::Kind kind, const std::vector<CellEdit>& cells) const;
  [[nodiscard]] std::vector<GesturePart> editParts(const std::vector<CellEdit>& edits) const;
  // New records of one table.
  [[nodiscard]] std::vector<GesturePart> additionParts(
      const Table& table, const std::vector<std::vector<std::pair<std::string, Value>>>& records) const;
  [[nodiscard]] bool isSoAlready(const CellEdit& edit) const;
  void connectLog();
  [[nodiscard]] QString whatWasLeft(const StagedLog& log) const;
  [[nodiscard]] QString forgetWritten(const std::vector<WrittenStaged>& written);
  [[nodiscard]] bool heldByApplying();
  [[nodiscard]] static GesturePart partFor(GesturePart::Kind kind, const Table& table);

  std::function<bool()> applying_;
  std::string readOnly_;
  std::string insteadOf_;
  std::shared_ptr<const Catalogue> catalogue_;
  ChangeSet changes_;
  SharedLog log_;
};

}  // namespace iterandum
