// What is learnt from the CREATE statements that SQLite keeps: CHECK rules, the names of references and the events of
// INSTEAD OF triggers, which no pragma tells.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "core/catalogue/catalogue.h"

namespace iterandum {

// The CHECK rules of a CREATE TABLE statement, in the order they stand there.
[[nodiscard]] std::vector<CheckRule> checkRulesOf(std::string_view createTable);

// A reference that a CREATE TABLE statement gives a name.
struct NamedReference {
  std::string name;
  std::vector<std::string> columns;
  std::string target;
};
[[nodiscard]] std::vector<NamedReference> namedReferencesOf(std::string_view createTable);

struct InsteadOfTrigger {
  enum class Event { None, Insert, Update, Delete };
  Event event = Event::None;
  std::vector<std::string> updateOf;  // empty: any column
};
[[nodiscard]] InsteadOfTrigger insteadOfTrigger(std::string_view createTrigger);

}  // namespace iterandum
