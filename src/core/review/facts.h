// Facts: what an examination has found out: the records as they were, what becomes of each cell, what must happen
// before what, and what the database will do by itself. What is thought of it (verdicts.h) is kept apart.
//
// Gathered by the examination and its checks; read by whoever plans, writes or tells.
#pragma once

#include <cstdint>
#include <map>
#include <optional>
#include <string>
#include <unordered_map>
#include <vector>

#include "core/catalogue/catalogue.h"
#include "core/changes/change_list.h"

namespace iterandum {

// Where one change lies.
struct RowPlace {
  std::uint32_t block = 0;
  std::uint32_t row = 0;
  friend bool operator==(const RowPlace&, const RowPlace&) = default;
};

// What becomes of a cell that a change names.
enum class CellFate : std::uint8_t {
  Left,      // it is so already, or theirs is kept: nothing is written and nothing is promised
  Written,   // the change writes it
  ByCascade  // the database brings it there by itself, because of another change; it is promised all the same
};

struct ExaminedBlock {
  ChangeBlock changes;                     // keys and values in the database's form
  const Table* table = nullptr;            // null: no such table
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

class Facts {
 public:
  // The catalogue outlives the facts.
  explicit Facts(const Catalogue& catalogue) : catalogue_(catalogue) {}

  [[nodiscard]] const Catalogue& catalogue() const { return catalogue_; }
  [[nodiscard]] std::vector<ExaminedBlock>& blocks() { return blocks_; }
  [[nodiscard]] const std::vector<ExaminedBlock>& blocks() const { return blocks_; }
  [[nodiscard]] const std::vector<Dependency>& dependencies() const { return dependencies_; }
  void addDependency(const Dependency& dependency) { dependencies_.push_back(dependency); }

  [[nodiscard]] const std::vector<Consequence>& consequences() const { return consequences_; }
  // What the database does by itself to the record that has this identity before; null: nothing.
  [[nodiscard]] const Consequence* consequenceFor(const Table& table, const ValueTuple& identity) const;
  // The same, made when there is none yet (of kind Set, without columns). Valid until the next one is made.
  [[nodiscard]] Consequence& addConsequence(const Table& table, const ValueTuple& identity, const ValueTuple& record,
                                            const RowPlace& place);

  // Whether the change promises anything in one of these columns of its table.
  [[nodiscard]] static bool promisesAny(const ExaminedBlock& block, std::size_t row,
                                        const std::vector<std::size_t>& columns);
  // What a record's columns hold after its change: nothing when a value is only known when it is written.
  [[nodiscard]] std::optional<ValueTuple> finalTuple(const RowPlace& place,
                                                     const std::vector<std::size_t>& columns) const;
  // The position of the change in its change set.
  [[nodiscard]] std::uint32_t changeIndex(const RowPlace& place) const {
    return blocks_[place.block].changes.changeIndex[place.row];
  }
  void clear();

 private:
  const Catalogue& catalogue_;
  std::vector<ExaminedBlock> blocks_;
  std::vector<Dependency> dependencies_;
  std::vector<Consequence> consequences_;
  std::map<const Table*, std::unordered_map<ValueTuple, std::size_t, TupleHash, TupleSame>> consequenceAt_;
};

// The column of an added record whose value a label stands for in this column of a table that points at it.
[[nodiscard]] std::string labelledColumn(const Table& table, const std::string& column, const Table& added);

}  // namespace iterandum
