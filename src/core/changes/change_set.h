// ChangeSet: all that is staged for one database, with undo and redo.
//
// A fold over gestures: apply() adds one, undo() and redo() move along the list, and the state (which cells of which
// records hold what) always is what the gestures before the position amount to. A cell remembers what it held when it
// was first touched; setting it back to that is no change; a new record that is dropped is nothing.
// Records are numbered densely per table and cells lie in pages of columns, so that a million edits of a number cost
// some thirty bytes each.
// Threads: one writer, or many readers; the caller synchronises.
#pragma once

#include <array>
#include <map>
#include <memory>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "core/changes/change_list.h"
#include "core/changes/gesture.h"

namespace iterandum {

struct StagedCell {
  Value from;
  Value to;
};

struct AddedRecord {
  std::uint64_t id = 0;
  std::map<std::string, Value> cells;
  LineOrigin origin;
};

struct StagedCounts {
  std::uint64_t cells = 0;
  std::uint64_t edited = 0;
  std::uint64_t added = 0;
  std::uint64_t removed = 0;
  [[nodiscard]] bool any() const { return edited + added + removed > 0; }
  [[nodiscard]] std::uint64_t records() const { return edited + added + removed; }
};

// What is staged for one table.
class TableChanges {
 public:
  TableChanges(TableName name, std::vector<std::string> keyColumns);

  [[nodiscard]] const TableName& name() const { return name_; }
  [[nodiscard]] const std::vector<std::string>& keyColumns() const { return keyColumns_; }
  // The number of a record that some gesture touched, whether or not anything is left of it.
  [[nodiscard]] std::optional<std::uint32_t> find(const ValueTuple& key) const;
  [[nodiscard]] std::uint32_t records() const { return static_cast<std::uint32_t>(removed_.size()); }
  [[nodiscard]] ValueTuple key(std::uint32_t record) const;
  [[nodiscard]] bool isRemoved(std::uint32_t record) const { return removed_[record] != 0; }
  [[nodiscard]] bool isEdited(std::uint32_t record) const { return edited_[record] != 0 && !isRemoved(record); }
  [[nodiscard]] std::optional<StagedCell> cell(std::uint32_t record, const std::string& column) const;
  [[nodiscard]] std::vector<std::string> editedColumns(std::uint32_t record) const;
  [[nodiscard]] const std::map<std::uint64_t, AddedRecord>& added() const { return added_; }
  [[nodiscard]] std::size_t memoryBytes() const;

 private:
  friend class ChangeSet;
  static constexpr std::uint32_t kPage = 1024;
  struct Page {
    std::array<std::uint8_t, kPage> used{};
    ValueColumn from{kPage, Value()};
    ValueColumn to{kPage, Value()};
  };
  using Cells = std::vector<std::unique_ptr<Page>>;

  [[nodiscard]] std::uint32_t findOrAdd(const std::vector<ValueColumn>& keys, std::size_t row);
  [[nodiscard]] std::uint32_t append(const std::vector<ValueColumn>& keys, std::size_t row);
  // Takes in all keys at once where they are whole numbers that go on ascending behind the records that are there, as
  // those of a gesture over a whole sheet. False, and nothing done, when they are not.
  [[nodiscard]] bool appendAll(const std::vector<ValueColumn>& keys);
  // The first record whose key is not before this one. REQUIRES: ascending_.
  template <typename CompareTo>
  [[nodiscard]] std::uint32_t lowerBound(const CompareTo& compareTo) const;
  // Goes over from bisection to the hash.
  void leaveAscending();
  // The slot of a key, or the free one where it would go.
  template <typename Same>
  [[nodiscard]] std::size_t slotOf(std::size_t hash, const Same& isSame) const;
  // Makes room for `more` records, so that the table is not rebuilt again and again.
  void reserve(std::size_t more);
  void setCell(Cells& cells, std::uint32_t record, const Value& from, const Value& to);
  void eraseCell(Cells& cells, std::uint32_t record);
  void rebase(std::uint32_t record, const std::string& column, const Value& from);
  void apply(const GesturePart& part, const std::vector<std::uint32_t>& files);
  void applyAdded(const GesturePart& part, const std::vector<std::uint32_t>& files);
  // A correction was staged: where it comes from. `files`: for each of the gesture's, its number in the change set.
  void noteOrigin(std::uint32_t record, const GesturePart& part, std::size_t row,
                  const std::vector<std::uint32_t>& files);

  TableName name_;
  std::vector<std::string> keyColumns_;
  std::vector<ValueColumn> keys_;
  // While records were first touched in the order of their keys, as a sheet reads them, they are found by bisection;
  // the hash is made when the first one comes that is out of order.
  bool ascending_ = true;
  std::vector<std::uint32_t> slots_;   // open addressing: record number + 1, 0 is free
  std::vector<std::uint16_t> edited_;  // how many cells of the record are changed
  std::vector<std::uint8_t> removed_;
  std::vector<LineOrigin> origins_;  // of records; shorter where the last ones come from no file
  std::map<std::string, Cells> cells_;
  // What removed records held, as the gesture brought it.
  struct RemovedBatch {
    std::vector<std::string> columns;
    std::vector<ValueColumn> records;
  };
  struct RemovedPlace {
    std::uint32_t batch = 0;
    std::uint32_t row = 0;
  };
  std::vector<RemovedBatch> removedBatches_;
  std::vector<RemovedPlace> removedPlaces_;  // of records that are removed; shorter where the last ones are not
  std::map<std::uint64_t, AddedRecord> added_;
  StagedCounts counts_;
};

// A new record that was applied: the key it got, and what it holds.
struct AppliedAddition {
  std::vector<std::string> keyColumns;
  ValueTuple key;
  std::vector<std::string> columns;
  std::vector<Value> values;  // one for each column
};
using AppliedAdditions = std::map<std::uint64_t, AppliedAddition>;  // by the id it had while it was staged

class ChangeSet {
 public:
  ChangeSet() = default;

  // Stages. What was undone before is dropped. REQUIRES: parts fit together (their columns have equal lengths).
  void apply(Gesture gesture);
  // False when there is nothing to undo, or to redo.
  bool undo();
  bool redo();
  [[nodiscard]] bool canUndo() const { return position_ > 0; }
  [[nodiscard]] bool canRedo() const { return position_ < gestures_.size(); }
  // The gesture that undo() would take back, or redo() would bring again. REQUIRES: there is one.
  [[nodiscard]] const Gesture& lastGesture() const { return gestures_[position_ - 1]; }
  [[nodiscard]] const Gesture& nextGesture() const { return gestures_[position_]; }
  [[nodiscard]] std::size_t position() const { return position_; }
  // What redo() is to bring, the next first, in place of what was undone here.
  void setUndone(std::vector<Gesture> gestures);
  // New records get ids from `first` on, of which nobody else gives the next kAddedIds. REQUIRES: first > 0.
  static constexpr std::uint64_t kAddedIds = 1'000'000'000;
  void takeAddedIdsFrom(std::uint64_t first);
  // Takes over what was kept on disk.
  void restore(std::vector<Gesture> gestures, std::size_t position);
  void clear();
  // Other gestures that come to the same; all of them are done. Ids of new records stay used up.
  void replaceAll(std::vector<Gesture> gestures);
  // The first `count` gestures were applied: they are gone, and cannot be undone here. Those behind them stay staged,
  // on the records as they are now. `added`: what became of the new records among what was applied.
  void forgetApplied(std::size_t count, const AppliedAdditions& added);
  [[nodiscard]] const std::vector<Gesture>& gestures() const { return gestures_; }

  [[nodiscard]] const TableChanges* table(const TableName& name) const;
  [[nodiscard]] std::vector<const TableChanges*> tables() const;
  [[nodiscard]] StagedCounts counts() const;
  [[nodiscard]] bool empty() const { return !counts().any(); }
  // An id that no new record had before.
  [[nodiscard]] std::uint64_t nextAddedId() const { return nextId_; }
  [[nodiscard]] std::size_t memoryBytes() const;

  // The net change, as review and apply take it. New records that others point at get labels, and those whose labels
  // are `spokenOf`.
  [[nodiscard]] ChangeList toChangeList(const std::string& title, const std::set<std::string>& spokenOf = {}) const;

 private:
  void fold(const Gesture& gesture);
  void rebuild();
  void noteAddedId(std::uint64_t id);
  [[nodiscard]] std::set<std::string> usedLabels() const;

  std::vector<Gesture> gestures_;
  std::size_t position_ = 0;
  std::uint64_t firstId_ = 1;  // of those that are given here
  std::uint64_t nextId_ = 1;
  std::map<TableName, TableChanges> tables_;
  std::vector<SourceFile> files_;
};

// The label under which a new record is pointed at by other staged cells.
[[nodiscard]] std::string addedLabel(std::uint64_t id);

}  // namespace iterandum
