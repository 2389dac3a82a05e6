// Query: which records, which columns, in which order. Built by a scope, turned into the engine's language by an
// engine.
#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "core/catalogue/catalogue.h"
#include "core/value/value_column.h"

namespace iterandum {

// Records named one by one, by the columns of Table::writeKeyColumns().
struct KeyList {
  std::vector<ValueColumn> keys;  // one for each key column
  [[nodiscard]] std::size_t size() const { return keys.empty() ? 0 : keys.front().size(); }
};

// A condition over one record. And, Or, Not, Through and Pointing hold `parts`; the others compare `column`.
struct Condition {
  enum class Op {
    All,  // no condition at all
    And,
    Or,
    Not,  // holds wherever its part does not, for want of a value too
    Equal,
    NotEqual,  // holds for NULL too: a person who asks for "not 3" wants to see the records without a value
    Less,
    LessOrEqual,
    Greater,
    GreaterOrEqual,
    Between,   // values[0] to values[1], with the latter or just up to it
    OneOf,     // of `values`
    Contains,  // text or column; letters' case folded, as in the next three, unless `exactCase`
    StartsWith,
    EndsWith,
    Like,  // a pattern: * any characters, ? one, \ before one that is meant itself
    NoValue,
    HasValue,
    Among,    // the record is one of `keys`; `said` is how that was put
    Through,  // the record that this one points at fits parts[0]; there is at most one
    Pointing  // the number of records that point at this one and fit parts[0], compared by `compare` with `value`
  };
  Op op = Op::All;
  std::string column;
  Value value;
  std::vector<Value> values;
  std::string otherColumn;              // compared with that column of the same record; empty: with a value
  std::shared_ptr<const KeyList> keys;  // Among
  // What the columns held before a change (house rules). For an engine, to which nothing is changing, that is what they
  // hold.
  bool before = false;
  bool otherBefore = false;
  bool exactCase = false;
  bool upToExcluded = false;  // Between
  std::string said;           // how the value was said where that tells more: "this year"
  std::string saidTo;         // Between: how the upper end was said
  std::vector<Condition> parts;

  // Through, Pointing
  using Join = std::vector<std::pair<std::string, std::string>>;  // column here, column there
  const Table* related = nullptr;                                 // not owned: the catalogue's
  std::string relatedSaid;  // how it is spoken of: Through, the bare name; Pointing, as conditions take it
  std::vector<Join> joins;  // Through: one; Pointing: a record points here by any of them
  bool byName = false;      // Through: said of the reference's own column, meaning the name of the record it points at
  Op compare = Op::Greater;
};

// One step from a record to the one that it points at; there is at most one.
struct ReferenceStep {
  const Table* target = nullptr;                          // not owned: the catalogue's
  std::string said;                                       // how it is spoken of
  std::vector<std::pair<std::string, std::string>> join;  // column here, column there

  friend bool operator==(const ReferenceStep& a, const ReferenceStep& b) {
    return a.target == b.target && a.join == b.join;
  }
};

// A column of a table, or one borrowed from the record that is reached by the steps.
struct ColumnPath {
  std::vector<ReferenceStep> steps;
  std::string column;

  [[nodiscard]] bool isBorrowed() const { return !steps.empty(); }
  // The table whose column it is.
  [[nodiscard]] const Table& owner(const Table& own) const { return steps.empty() ? own : *steps.back().target; }
  friend bool operator==(const ColumnPath&, const ColumnPath&) = default;
};

struct SortKey {
  std::string column;
  bool descending = false;
  std::vector<ReferenceStep> steps = {};  // by which the column is reached; none: the table's own
  bool natural = false;                   // numbers inside a text go by their size: "9" before "10"
};

struct Query {
  const Table* table = nullptr;      // not owned; outlives the query
  std::vector<std::string> columns;  // the row id's name is allowed where the table has one
  Condition where;
  std::vector<SortKey> order;  // ties are broken by the record's identity
  std::optional<std::uint64_t> limit;
  // These follow the columns in each row; NULL where a reference leads nowhere.
  std::vector<ColumnPath> borrowed = {};
};

}  // namespace iterandum
