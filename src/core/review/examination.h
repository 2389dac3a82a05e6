// Examination: a change set held against the database as it is now, by reading alone.
//
// It resolves names, brings values into the form the database holds them in, reads the touched records by key, compares
// them with what was seen when the change was staged, and follows unique keys and references, seeing the change set's
// own records as they will be. All problems are found, none hides another. What it learns (the records before, which
// cells are still to be written, what must happen before what) is what the plan and the write work from.
//
// Inside a transaction that holds off other writers, what it found stays true until the end of that transaction.
#pragma once

#include <cstdint>
#include <functional>
#include <map>
#include <memory>
#include <unordered_map>
#include <vector>

#include "core/changes/change_list.h"
#include "core/engines/session.h"
#include "core/review/finding.h"

namespace iterandum {

enum class OnConflict { Stop, Mine, Theirs };

// Where one change lies.
struct RowPlace {
  std::uint32_t block = 0;
  std::uint32_t row = 0;
  friend bool operator==(const RowPlace&, const RowPlace&) = default;
};

enum class ChangeState : std::uint8_t {
  Open,         // to be written
  AlreadySo,    // nothing is left to write
  Skipped,      // dropped, because theirs was to be kept
  Blocked,      // has a finding that blocks
  Unresolvable  // has one that not even a statement can be made for: a table or column is missing
};

// What becomes of a cell that a change names.
enum class CellFate : std::uint8_t {
  Left,      // it is so already, or theirs is kept: nothing is written and nothing is promised
  Written,   // the change writes it
  ByCascade  // the database brings it there by itself, because of another change; it is promised all the same
};

struct ExaminedBlock {
  ChangeBlock changes;           // keys and values in the database's form
  const Table* table = nullptr;  // null: no such table
  std::vector<ChangeState> states;
  std::vector<std::uint8_t> found;         // edits, removals: 1 when exactly one record has the key
  std::vector<std::string> recordColumns;  // of `before`
  std::vector<ValueColumn> before;         // one for each record column; NULL where nothing was found
  // For each cell column: what becomes of each row's cell; empty: all are written.
  std::vector<std::vector<CellFate>> fates;
  std::vector<ValueColumn> writeKeys;  // one for each of table->writeKeyColumns()
  // By cell and row: what it holds when it is written, where a cascade of another change comes before.
  std::map<std::pair<std::size_t, std::uint32_t>, Value> between;
  // By position of the table's column, looked up once for all rows: which cell it is, where it is in `before`.
  std::vector<std::optional<std::size_t>> cellAt;
  std::vector<std::size_t> recordAt;

  [[nodiscard]] CellFate fate(std::size_t cell, std::size_t row) const {
    return fates[cell].empty() ? CellFate::Written : fates[cell][row];
  }
  void setFate(std::size_t cell, std::size_t row, CellFate fate);
  [[nodiscard]] bool writesCell(std::size_t cell, std::size_t row) const {
    return fate(cell, row) == CellFate::Written;
  }
  // Whether the cell is to end as the change says, by whatever way.
  [[nodiscard]] bool promisesCell(std::size_t cell, std::size_t row) const { return fate(cell, row) != CellFate::Left; }
  [[nodiscard]] std::size_t recordColumn(const std::string& name) const;
  [[nodiscard]] std::optional<std::size_t> cellOf(const std::string& column) const;
  [[nodiscard]] ValueTuple beforeTuple(const std::vector<std::size_t>& columns, std::size_t row) const;
  [[nodiscard]] ValueTuple writeKey(std::size_t row) const;
};

// `first` has to be written before `then`.
struct Dependency {
  enum class Kind {
    Before,   // for any other reason; nothing can take its place
    GivesUp,  // `first` gives up the unique value (of `key`) that `then` takes
    Leaves,   // by `reference`, `first` points at what `then` takes away
    Provides  // `first` makes what `then` points at by `reference`
  };
  Kind kind = Kind::Before;
  RowPlace first;
  RowPlace then;
  const UniqueKey* key = nullptr;
  const Reference* reference = nullptr;
  std::optional<std::size_t> cell;  // Provides: the one cell of `then` that waits for the new key; else all of them
};

// A record that the database changes or removes by itself because of changes. One for each record, whatever the number
// of its causes.
struct Consequence {
  enum class Kind { Remove, Set };
  struct Cause {
    std::uint32_t change = 0;
    std::vector<std::size_t> columns;  // Set: the columns that this one changes
  };
  Kind kind = Kind::Remove;
  std::vector<Cause> causes;
  const Table* table = nullptr;
  std::vector<std::size_t> columns;          // Set: all columns that change
  std::vector<std::optional<Value>> values;  // what they will hold; nothing: a default that is not known here
  ValueTuple before;                         // by table->recordColumns()
  ValueTuple identity;                       // by table->writeKeyColumns(), before
  RowPlace place;                            // the first change that causes it

  // What the column will hold, where the consequence says so.
  [[nodiscard]] const std::optional<Value>* valueOf(std::size_t column) const;
  // The identity afterwards.
  [[nodiscard]] ValueTuple identityAfter() const;
};

struct ExaminationOptions {
  OnConflict onConflict = OnConflict::Stop;
  bool wholeRecords = true;  // read touched records whole, as receipts need them
  bool checkRules = false;   // evaluate CHECK rules by reading, for when nothing is rehearsed
};

// What a note says about such a value.
[[nodiscard]] std::string strangeDate(const Column& column, const Value& value);
// The column of an added record whose value a label stands for in this column of a table that points at it.
[[nodiscard]] std::string labelledColumn(const Table& table, const std::string& column, const Table& added);

class Examination {
 public:
  // The session and the catalogue outlive the examination.
  Examination(Session& session, const Catalogue& catalogue, ExaminationOptions options, Progress& progress)
      : session_(session), catalogue_(catalogue), options_(options), progress_(progress) {}

  // Errors: InvalidFile for a change set that contradicts itself; what the session reports.
  [[nodiscard]] Status run(ChangeList changes);

  [[nodiscard]] std::vector<ExaminedBlock>& blocks() { return blocks_; }
  [[nodiscard]] const std::vector<ExaminedBlock>& blocks() const { return blocks_; }
  [[nodiscard]] const std::vector<Dependency>& dependencies() const { return dependencies_; }
  [[nodiscard]] const std::vector<Consequence>& consequences() const { return consequences_; }
  // The change of this change set that touches the record with this identity, if any. Built for a table when first
  // asked for.
  [[nodiscard]] const RowPlace* touching(const Table& table, const ValueTuple& identity);
  // What the database does by itself to the record that has this identity before; null: nothing.
  [[nodiscard]] const Consequence* consequenceFor(const Table& table, const ValueTuple& identity) const;
  [[nodiscard]] const Catalogue& catalogue() const { return catalogue_; }
  [[nodiscard]] const ReviewCounts& counts() const { return counts_; }
  [[nodiscard]] const std::vector<Finding>& findings() const { return findings_; }
  [[nodiscard]] std::vector<Finding> takeFindings();
  void addFinding(Finding finding) { findings_.push_back(std::move(finding)); }
  [[nodiscard]] bool blocked() const;
  // A finding about one change, with its table, key and index filled in.
  [[nodiscard]] Finding findingFor(const RowPlace& place, FindingKind kind, const std::string& message) const;

 private:
  friend class ReferenceCheck;
  friend class UniqueCheck;
  using TupleIndex = std::unordered_map<ValueTuple, RowPlace, TupleHash, TupleSame>;

  void count();
  void resolve(ExaminedBlock& block, std::uint32_t index);
  void resolveColumns(ExaminedBlock& block, std::uint32_t index);
  void resolveValues(ExaminedBlock& block, std::uint32_t index);
  // Brings texts into the spelling in which the database keeps them.
  [[nodiscard]] Status respell(ExaminedBlock& block);
  // A label whose addition gives the value itself stands for that value from the beginning.
  void resolveLabels();
  void checkAdditionComplete(ExaminedBlock& block, std::uint32_t index);
  void refuseAll(std::uint32_t block, FindingKind kind, const std::string& column, const std::string& message,
                 ChangeState state);
  void note(const RowPlace& place, Finding finding);
  [[nodiscard]] std::vector<std::string> neededColumns(const ExaminedBlock& block) const;
  [[nodiscard]] Status readBefore(std::uint32_t index);
  void judgeFound(std::uint32_t index, const std::vector<std::uint8_t>& hits);
  [[nodiscard]] Result<bool> mergeDoubles(ChangeList& changes);
  void compare(std::uint32_t index);
  void compareCell(std::uint32_t index, std::size_t cell, std::size_t row);
  [[nodiscard]] Status checkRules(std::uint32_t index);
  void noteNotAtomic();
  // What a record's columns hold after its change: nothing when a value is only known when it is written.
  [[nodiscard]] std::optional<ValueTuple> finalTuple(const RowPlace& place,
                                                     const std::vector<std::size_t>& columns) const;
  [[nodiscard]] bool writesAny(const ExaminedBlock& block, std::size_t row,
                               const std::vector<std::size_t>& columns) const;

  Session& session_;
  const Catalogue& catalogue_;
  ExaminationOptions options_;
  Progress& progress_;
  std::vector<ExaminedBlock> blocks_;
  std::vector<Finding> findings_;
  std::vector<Dependency> dependencies_;
  std::vector<Consequence> consequences_;
  std::map<const Table*, std::unordered_map<ValueTuple, std::size_t, TupleHash, TupleSame>> consequenceAt_;
  ReviewCounts counts_;
  std::map<const Table*, TupleIndex> touched_;
};

}  // namespace iterandum
