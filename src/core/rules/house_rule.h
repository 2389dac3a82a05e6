// House rules: what the records of a table must hold besides what the database asks for, as a steward says it: a
// condition (docs/conditions.md), which may speak of the record before a change: [before condition_code].
//
// A document of its own (docs/formats.md, "House rules"), kept in the store and exchanged as a file.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "core/scope/condition_text.h"

namespace iterandum {

struct HouseRule {
  std::string name;
  std::string table;    // as parseTableName() takes it
  bool stops = true;    // else it only warns
  std::string holds;    // the condition
  std::string message;  // to a person whose record breaks it; empty: the condition in words
  friend bool operator==(const HouseRule&, const HouseRule&) = default;
};

[[nodiscard]] std::string rulesToJson(const std::vector<HouseRule>& rules);
// Errors: InvalidFile with the JSON Pointer.
[[nodiscard]] Result<std::vector<HouseRule>> rulesFromJson(std::string_view document);

// A rule held against a database.
struct ReadRule {
  std::string name;
  bool stops = true;
  std::string message;           // never empty
  const Table* table = nullptr;  // the catalogue's
  Condition holds;
};

// `context` is that of the table's own conditions; what a record held before is known. Errors: NotFound, InvalidInput,
// with the rule's name as the place: its table is not there, its condition cannot be read.
[[nodiscard]] Result<ReadRule> readRule(const HouseRule& rule, const ConditionContext& context);
// Errors: InvalidFile, of the first that cannot be read.
[[nodiscard]] Result<std::vector<ReadRule>> readRules(const std::vector<HouseRule>& rules,
                                                      const ConditionContext& context);

// Those that can be read; `unread` gets why the others cannot, each with its rule.
[[nodiscard]] std::vector<ReadRule> readableRules(const std::vector<HouseRule>& rules, const ConditionContext& context,
                                                  std::vector<std::string>& unread);
// Whether the condition speaks of what a record held before.
[[nodiscard]] bool asksBefore(const Condition& condition);

// The records that break the rule.
[[nodiscard]] Condition breaks(const ReadRule& rule);

}  // namespace iterandum
