// Scope: which records and columns are looked at, as it is said and kept: texts, not yet held against a catalogue. A
// sheet shows one; saved, it has a name.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "core/scope/condition_text.h"

namespace iterandum {

struct JsonNode;

struct ScopeFilter {
  std::string column;     // as readColumnPath() takes it; empty: the condition names its columns itself
  std::string condition;  // as a filter cell, or `--where`, takes it
  friend bool operator==(const ScopeFilter&, const ScopeFilter&) = default;
};

struct ScopeOrder {
  std::string column;
  bool descending = false;
  bool natural = false;
  bool byName = false;  // of a reference: by how the record there is called, not by the key
  friend bool operator==(const ScopeOrder&, const ScopeOrder&) = default;
};

struct Scope {
  std::string table;  // as parseTableName() takes it
  std::vector<ScopeFilter> filters;
  std::vector<ScopeOrder> order;
  std::vector<std::string> columns;  // as readColumnPath() takes them; none: all of the table's own
  friend bool operator==(const Scope&, const Scope&) = default;
};

// A scope held against a database.
struct ReadScope {
  const Table* table = nullptr;
  std::vector<ColumnPath> columns;
  std::vector<std::pair<std::size_t, Condition>> phrases;  // position in Scope::filters; those without any left out
  std::vector<SortKey> order;

  [[nodiscard]] Condition where() const;
};

// What cannot be read of a scope.
struct ScopeProblem {
  std::optional<std::size_t> filter;  // position in Scope::filters
  Error error;
};

// The database's answer to a scope: all that can be read of it, and what cannot. `problems` empty: all of it.
// Errors: NotFound when the table is not there.
[[nodiscard]] Result<ReadScope> readScope(const Scope& scope, const ConditionContext& context,
                                          std::vector<ScopeProblem>& problems);

// The file of a saved scope (docs/formats.md). Errors: InvalidFile with the JSON Pointer.
[[nodiscard]] std::string scopeToJson(const std::string& name, const Scope& scope);
[[nodiscard]] Result<std::pair<std::string, Scope>> scopeFromJson(std::string_view document);
// The same as a part of another document, at this place in it.
[[nodiscard]] Result<std::pair<std::string, Scope>> scopeFromJson(const JsonNode& node, const std::string& place);

}  // namespace iterandum
