// What a rule reads: which columns of which tables, and by which way from the record that it is about. A change to any
// of them can make a record keep or break the rule.
#pragma once

#include <set>
#include <string>
#include <vector>

#include "core/rules/house_rule.h"

namespace iterandum {

// From the records of one table to those of another that belong to them: along a reference, or against one.
struct RuleHop {
  const Table* from = nullptr;
  std::vector<std::string> here;
  const Table* to = nullptr;
  std::vector<std::string> there;
};

struct RuleRead {
  std::vector<RuleHop> hops;  // from the rule's own table; none: it is read itself
  const Table* table = nullptr;
  std::set<std::string> columns;
  // Records that point this way are asked for only when they are like this. All: any.
  Condition fits;
  // Whether what is told of them is a fact of the database (condition_check.h).
  bool isFact = false;
};

// The first one is that of the rule's own table.
[[nodiscard]] std::vector<RuleRead> readsOf(const ReadRule& rule);

// Whether a trigger of the database may write what the rule reads.
[[nodiscard]] bool triggersMayWrite(const Catalogue& catalogue, const std::vector<RuleRead>& reads);

}  // namespace iterandum
