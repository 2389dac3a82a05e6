// A tokenizer for the CREATE statements that SQLite keeps, and what is learnt from them: CHECK rules and the events of
// INSTEAD OF triggers, which no pragma tells. SQLite parsed these texts before; this only has to find its way in them.
// Source: "SQL As Understood By SQLite", lexical rules.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "core/catalogue/catalogue.h"

namespace iterandum {

struct SqlToken {
  enum class Kind { Word, Quoted, String, Number, Blob, Symbol };
  Kind kind = Kind::Symbol;
  std::string text;       // unquoted for Quoted and String
  std::size_t begin = 0;  // bytes in the source
  std::size_t end = 0;
};

[[nodiscard]] std::vector<SqlToken> sqlTokens(std::string_view sql);

// The CHECK rules of a CREATE TABLE statement, in the order they stand there.
[[nodiscard]] std::vector<CheckRule> checkRulesOf(std::string_view createTable);

// Learns allowed values, bounds and greatest lengths from a rule, where its form is plain enough
// (IN, BETWEEN, comparisons, length(), joined by AND; "IS NULL OR" before it). Anything else teaches nothing.
// Marks the rule as understood when every part of it was learnt.
void learnFromRule(CheckRule& rule, std::vector<Column>& columns);

struct InsteadOfTrigger {
  enum class Event { None, Insert, Update, Delete };
  Event event = Event::None;
  std::vector<std::string> updateOf;  // empty: any column
};
[[nodiscard]] InsteadOfTrigger insteadOfTrigger(std::string_view createTrigger);

}  // namespace iterandum
