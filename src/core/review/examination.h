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

struct ExaminedBlock {
  ChangeBlock changes;           // keys and values in the database's form
  const Table* table = nullptr;  // null: no such table
  std::vector<ChangeState> states;
  std::vector<std::uint8_t> found;               // edits, removals: 1 when exactly one record has the key
  std::vector<std::string> recordColumns;        // of `before`
  std::vector<ValueColumn> before;               // one for each record column; NULL where nothing was found
  std::vector<std::vector<std::uint8_t>> write;  // for each cell column: which rows are written; empty: all
  std::vector<ValueColumn> writeKeys;            // one for each of table->writeKeyColumns()
  // By position of the table's column, looked up once for all rows: which cell it is, where it is in `before`.
  std::vector<std::optional<std::size_t>> cellAt;
  std::vector<std::size_t> recordAt;

  [[nodiscard]] bool writesCell(std::size_t cell, std::size_t row) const {
    return write[cell].empty() || write[cell][row] != 0;
  }
  [[nodiscard]] std::size_t recordColumn(const std::string& name) const;
  [[nodiscard]] std::optional<std::size_t> cellOf(const std::string& column) const;
  [[nodiscard]] ValueTuple beforeTuple(const std::vector<std::size_t>& columns, std::size_t row) const;
  [[nodiscard]] ValueTuple writeKey(std::size_t row) const;
};

// `first` has to be written before `then`. For a unique value that `first` gives up, `key` says which.
struct Dependency {
  RowPlace first;
  RowPlace then;
  const UniqueKey* key = nullptr;
};

// A record that the database changes or removes by itself because of a change.
struct Consequence {
  enum class Kind { Remove, Set };
  Kind kind = Kind::Remove;
  std::uint32_t change = 0;
  const Table* table = nullptr;
  std::vector<std::size_t> columns;        // Set: the columns that change
  std::vector<std::string> recordColumns;  // of `before`
  ValueTuple before;
  ValueTuple identity;  // by table->writeKeyColumns()
};

struct ExaminationOptions {
  OnConflict onConflict = OnConflict::Stop;
  bool wholeRecords = true;  // read touched records whole, as receipts need them
  bool checkRules = false;   // evaluate CHECK rules by reading, for when nothing is rehearsed
};

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
  // The change of this change set that touches the record, if any. Built for a table when first asked for.
  [[nodiscard]] const RowPlace* touching(const Table& table, const ValueTuple& identity);
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
  ReviewCounts counts_;
  std::map<const Table*, TupleIndex> touched_;
};

}  // namespace iterandum
