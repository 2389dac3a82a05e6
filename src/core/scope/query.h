// Query: which records, which columns, in which order. Built by a scope, turned into the engine's language by an
// engine.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "core/catalogue/catalogue.h"
#include "core/value/value.h"

namespace iterandum {

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
    Contains,  // text; letters' case folded, as in the next three, unless `exactCase`
    StartsWith,
    EndsWith,
    Like,  // a pattern: * any characters, ? one, \ before one that is meant itself
    NoValue,
    HasValue,
    Through,  // the record that this one points at fits parts[0]; there is at most one
    Pointing  // the number of records that point at this one and fit parts[0], compared by `compare` with `value`
  };
  Op op = Op::All;
  std::string column;
  Value value;
  std::vector<Value> values;
  std::string otherColumn;  // compared with that column of the same record; empty: with a value
  bool exactCase = false;
  bool upToExcluded = false;  // Between
  std::string said;           // how the value was said where that tells more: "this year"
  std::vector<Condition> parts;

  // Through, Pointing
  const Table* related = nullptr;                         // not owned: the catalogue's
  std::string relatedSaid;                                // how it is spoken of
  std::vector<std::pair<std::string, std::string>> join;  // column here, column there
  Op compare = Op::Greater;
};

struct SortKey {
  std::string column;
  bool descending = false;
};

struct Query {
  const Table* table = nullptr;      // not owned; outlives the query
  std::vector<std::string> columns;  // the row id's name is allowed where the table has one
  Condition where;
  std::vector<SortKey> order;  // ties are broken by the record's identity
  std::optional<std::uint64_t> limit;
};

}  // namespace iterandum
