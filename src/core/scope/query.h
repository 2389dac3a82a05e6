// Query: which records, which columns, in which order. Built by a scope, turned into the engine's language by an
// engine.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "core/catalogue/catalogue.h"
#include "core/value/value.h"

namespace iterandum {

// A condition over one record. And/Or/Not hold `parts`; the others compare `column` with `value`.
struct Condition {
  enum class Op {
    All,  // no condition at all
    And,
    Or,
    Not,
    Equal,
    NotEqual,  // holds for NULL too: a person who asks for "not 3" wants to see the records without a value
    Less,
    LessOrEqual,
    Greater,
    GreaterOrEqual,
    Contains,  // text, letters' case folded
    StartsWith,
    EndsWith,
    NoValue,
    HasValue
  };
  Op op = Op::All;
  std::string column;
  Value value;
  std::vector<Condition> parts;
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
