// Learns from CHECK rules what a column takes, so that a wrong value is refused while it is typed.
#pragma once

#include <vector>

#include "core/catalogue/catalogue.h"
#include "core/engines/common/sql_tokens.h"

namespace iterandum {

// How an engine writes its rules.
struct RuleLanguage {
  SqlDialect dialect;
  std::vector<const char*> lengthFunctions;  // those that count characters, not bytes
  // Whether the engine takes texts of the column for equal that are not ('a' and 'A'). A list of texts is then what to
  // offer, and the rule itself decides.
  bool (*comparesLoosely)(const Column&) = [](const Column&) { return false; };
};

// Learns allowed values, bounds and greatest lengths from a rule, where its form is plain enough (IN, = ANY (ARRAY),
// BETWEEN, comparisons, lengths, joined by AND; "IS NULL OR" before it; with the casts and brackets that servers add).
// Anything else teaches nothing. Marks the rule as understood when every part of it was learnt, and fills in the
// columns it speaks of where they are not told yet.
void learnFromRule(CheckRule& rule, std::vector<Column>& columns, const RuleLanguage& language);

}  // namespace iterandum
