// ConditionCheck: whether a condition holds for a record that is here, told without the database. It is the same
// language with the same meaning (docs/conditions.md): what the engines do to find records, this does for records as
// they are staged, or are about to be.
#pragma once

#include <cstdint>
#include <memory>
#include <span>
#include <vector>

#include "core/base/result.h"
#include "core/scope/query.h"

namespace iterandum {

// What has to be known of a record to tell something about it. Each column and each fact is there once.
struct RecordNeeds {
  std::vector<ColumnPath> columns;
  // The same of the record as it was before a change.
  std::vector<ColumnPath> before;
  // What only the database can tell: conditions on the records that point at this one.
  std::vector<Condition> facts;
  // The records are in the database just as they are to be judged: whatever only it can tell is a fact.
  bool asTheyLie = false;

  // Its place among them; it is added where it is not there yet.
  [[nodiscard]] std::size_t column(const ColumnPath& path);
  [[nodiscard]] std::size_t beforeColumn(const ColumnPath& path);
  [[nodiscard]] std::size_t fact(const Condition& condition);
};

// What is known of one record, in the order of the needs.
struct KnownRecord {
  std::span<const Value> columns;
  std::span<const char> facts;  // 1: it holds
  std::uint64_t number = 0;     // in the order that was asked for, from 1
  std::span<const Value> before = {};
};

class ConditionCheck {
 public:
  // `table`: what the condition is over; it and what the condition points at outlive this.
  // Errors: InvalidInput, an order that only the database has (of intervals, bytes and the like).
  [[nodiscard]] static Result<ConditionCheck> make(const Table& table, const Condition& condition, RecordNeeds& needs);
  [[nodiscard]] bool holds(const KnownRecord& record) const;

 private:
  struct Node;
  static Result<std::shared_ptr<const Node>> nodeOf(const Table& table, const Condition& condition,
                                                    const std::vector<ReferenceStep>& steps, RecordNeeds& needs);
  static const Value& ownValue(const Node& node, const KnownRecord& record);
  static const Value& otherValue(const Node& node, const KnownRecord& record);
  static bool holds(const Node& node, const KnownRecord& record);
  static bool compares(const Node& node, const KnownRecord& record);
  static bool fitsText(const Node& node, const KnownRecord& record);

  std::shared_ptr<const Node> root_;
};

// Whether the pattern (* any characters, ? one, \ before one that is meant itself) is all of the text.
[[nodiscard]] bool fitsPattern(std::string_view pattern, std::string_view text);

}  // namespace iterandum
