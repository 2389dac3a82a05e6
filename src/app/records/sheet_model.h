// SheetModel: a scope's records with what is staged laid over them, as a table model. New records follow the existing
// ones; columns borrowed from records that these point at follow the table's own. It stages through the desk and never
// touches the database.
#pragma once

#include <QAbstractTableModel>
#include <optional>

#include "app/records/house_rule_watch.h"
#include "app/records/record_source.h"
#include "app/records/rule_watch.h"
#include "app/session/desk.h"
#include "app/style/marks.h"
#include "app/values/shown_value.h"

namespace iterandum {

// All there is to know about one cell on screen.
struct CellState {
  bool loaded = false;
  bool addedRecord = false;
  bool removedRecord = false;
  bool setByDatabase = false;  // of a new record, left out so far
  bool noLender = false;       // borrowed, and the record points at nothing
  Value stored;                // what the database holds, as last read
  std::optional<StagedCell> staged;
  bool somebodyElse = false;  // the database no longer holds what was staged over
  QString typedWrong;         // text that was typed and does not fit; not staged
  QString wrongBecause;
  QString ruleBroken;  // what rule of the database or the house the record would break with this cell
  bool found = false;  // the last review found something here that blocks

  [[nodiscard]] bool needsALook() const {
    return somebodyElse || found || !typedWrong.isEmpty() || !ruleBroken.isEmpty();
  }
  [[nodiscard]] const Value& effective() const { return staged ? staged->to : stored; }
};

class SheetModel : public QAbstractTableModel {
  Q_OBJECT
 public:
  SheetModel(Desk& desk, const Table& table, QObject* parent = nullptr);

  [[nodiscard]] const Table& table() const { return table_; }
  [[nodiscard]] RecordSource& source() { return source_; }
  [[nodiscard]] const RecordSource& source() const { return source_; }
  [[nodiscard]] Desk& desk() { return desk_; }

  [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
  [[nodiscard]] int columnCount(const QModelIndex& parent = {}) const override;
  [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
  [[nodiscard]] QVariant headerData(int section, Qt::Orientation orientation, int role) const override;
  [[nodiscard]] Qt::ItemFlags flags(const QModelIndex& index) const override;
  // Qt's views call these by themselves (on a change of the current row, on Escape): nothing of ours hangs on them.
  bool submit() override { return true; }
  void revert() override {}

  [[nodiscard]] CellState cell(int row, int column) const;
  [[nodiscard]] RecordRef ref(int row) const;
  [[nodiscard]] Mark mark(int row) const;
  // The column as its own table describes it.
  [[nodiscard]] const Column& column(int column) const { return *described_[static_cast<std::size_t>(column)]; }
  [[nodiscard]] const ColumnPath& path(int column) const { return paths_[static_cast<std::size_t>(column)]; }
  // "common_name"; of a borrowed one with the way to it: "species.common_name".
  [[nodiscard]] QString columnName(int column) const;
  [[nodiscard]] int ownColumns() const { return static_cast<int>(table_.columns.size()); }
  [[nodiscard]] bool isBorrowed(int column) const { return column >= ownColumns(); }
  // Shows a column of the records that these point at; gives its position, the one it has already if it is there.
  int borrow(const ColumnPath& path);
  void giveBack(int column);
  [[nodiscard]] std::optional<int> columnOf(const ColumnPath& path) const;
  // Whose cell it is: the row's own record, or the one it is borrowed from. Nothing: there is none, or it is not read
  // yet.
  [[nodiscard]] std::optional<RecordRef> owner(int row, int column) const;
  [[nodiscard]] const Table& ownerTable(int column) const { return path(column).owner(table_); }
  // The records of this table that share a borrowed cell's record, as far as the database knows.
  struct Sharing {
    Condition where;
    bool withThisOne = false;  // this row's record is among them
  };
  [[nodiscard]] std::optional<Sharing> sharing(int row, int column) const;
  // What the owner is called: "Tilia cordata".
  [[nodiscard]] QString ownerTitle(int row, int column) const;
  [[nodiscard]] const Reference* reference(int column) const;
  // Why the cell cannot be edited; empty: it can.
  [[nodiscard]] QString notEditable(int row, int column) const;
  // The same for what is so whichever record it is.
  [[nodiscard]] QString columnNotEditable(int column) const;
  // Why no record can be added here; empty: it can.
  [[nodiscard]] QString cannotAdd() const;
  // Why no record here can be removed; empty: they can.
  [[nodiscard]] QString cannotRemove() const;
  // Through which the column is looked at; null: none.
  // Whether what stands there is masked just now.
  [[nodiscard]] bool isHidden(int column) const {
    const Lens* lens = this->lens(column);
    return lens != nullptr && lens->kind == LensKind::Masked;
  }
  [[nodiscard]] const Lens* lens(int column) const {
    return desk_.lenses().of(ownerTable(column).name, path(column).column);
  }
  // What was typed in this column, and the text that an editor starts with.
  [[nodiscard]] Result<Value> typed(int column, const QString& text) const;
  [[nodiscard]] QString editText(int column, const Value& value) const;
  // The text of a value in this column as people read it; references by name where that is known.
  [[nodiscard]] QString shown(int column, const Value& value) const;

  // Stages one value in all these cells, as one gesture. Errors are said in words for the first cell that cannot take
  // it. A borrowed cell changes in every record that shares it: it is taken only by itself, and only when it was said
  // how many those are (`othersSaid`, in words).
  Result<void> stage(const QModelIndexList& cells, const Value& value, const QString& what,
                     const QString& othersSaid = {});
  // The house rule that the record would break, or that would warn, with this value in the cell; empty: none that is
  // about the record alone.
  [[nodiscard]] QString wouldBreak(int row, int column, const Value& value) const;
  // What is staged in a cell that somebody else changed meanwhile is meant for what they wrote: it was read.
  void setWritesOverOthers(bool writes) { writesOverOthers_ = writes; }
  // Takes typed text for one cell: stages it, or keeps it beside the cell with the reason.
  bool stageText(const QModelIndex& cell, const QString& text, const QString& othersSaid = {});
  // Remembers text that does not fit, so that it is not lost.
  void keepWrong(const QModelIndex& cell, const QString& text, const QString& because);
  void forgetWrong(const QModelIndex& cell);
  // Every record here holds these values, the columns' own: of the new ones those that do are shown, and one that is
  // added gets them. For the records that point at one record.
  using HeldByAll = std::vector<std::pair<std::string, Value>>;
  void setHeldByAll(HeldByAll values);
  [[nodiscard]] const HeldByAll& heldByAll() const { return heldByAll_; }
  int addRecord();
  // The row of a new record.
  [[nodiscard]] std::optional<int> rowOfAdded(std::uint64_t id) const;
  void putBack(const std::vector<int>& rows);
  // What is stepped through: records that need a look, or those with something staged.
  enum class Marked { Query, Staged };
  // Whether some record may need a look: else nobody has to look through all of them.
  [[nodiscard]] bool anyMayNeedALook() const;
  // The first row of these that is marked so, the last one when looking backwards.
  [[nodiscard]] std::optional<int> markedIn(int first, int last, bool backwards, Marked marked) const;
  // What the record is called in messages.
  [[nodiscard]] QString recordTitle(int row) const;

 signals:
  void said(const QString& message);

 private:
  void stagedChanged();
  [[nodiscard]] std::vector<std::uint64_t> addedHere() const;
  void askRules();
  [[nodiscard]] std::optional<std::vector<HouseRuleWatch::Cell>> cellsOf(int row, bool also) const;
  // The house rule that what is staged in the record breaks; null: none, as far as is known.
  [[nodiscard]] const HouseRuleWatch::Broken* houseBroken(int row) const;
  void showAgain(int first, int last);
  [[nodiscard]] bool isAddedRow(int row) const { return row >= source_.rows(); }
  [[nodiscard]] static QString wrongKey(const RecordRef& ref, const std::string& column);
  // A record whose cells are shown in a row: its own, or one that it borrows from.
  struct Held {
    const Table* table = nullptr;
    RecordRef ref;
    const ValueTuple* stored = nullptr;  // null: not loaded, or new
    bool gone = false;
  };
  enum class Way { There, NotYet, Nowhere };
  [[nodiscard]] Held heldOf(int row) const;
  // Goes the way to the record that the column is borrowed from.
  [[nodiscard]] std::pair<Way, Held> lender(int row, const ColumnPath& path) const;
  void takeCell(const Held& held, std::size_t column, CellState& out) const;
  [[nodiscard]] QString titleOf(const Held& held) const;
  void wantBorrowedNames();

  Desk& desk_;
  const Table& table_;
  RecordSource source_;
  RuleWatch rules_;
  HouseRuleWatch houseRules_;
  mutable QHash<QString, std::optional<HouseRuleWatch::Broken>> houseBroken_;  // as far as it was asked for
  std::vector<ColumnPath> paths_;
  std::vector<const Column*> described_;
  HeldByAll heldByAll_;
  bool writesOverOthers_ = false;
  std::vector<std::uint64_t> addedIds_;
  QHash<QString, std::pair<QString, QString>> wrong_;
};

}  // namespace iterandum
