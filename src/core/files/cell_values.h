// What a cell of a file means in a column: values as people write them.
#pragma once

#include <optional>
#include <string>
#include <string_view>

#include "core/catalogue/catalogue.h"
#include "core/files/table_source.h"

namespace iterandum {

struct WrittenForms {
  enum class Decimal { AsTyped, Comma, Point };  // Comma, Point: the other sign parts thousands
  enum class Days { AsTyped, YearFirst, DayFirst, MonthFirst };
  Decimal decimal = Decimal::AsTyped;
  Days days = Days::AsTyped;
};

// The value that the column would hold. REQUIRES: the cell says something (neither Absent nor None).
// Errors: InvalidInput or Constraint, in words that say what is wanted.
[[nodiscard]] Result<Value> valueOfCell(const Column& column, const FileCell& cell, const WrittenForms& forms);

// 3.4.2025, 03/04/25 14:30, with the year first: as it reads in this order. Nothing: it is not written like that, or
// has the year first already.
[[nodiscard]] std::optional<std::string> momentAsIso(std::string_view text, WrittenForms::Days order);

// Whether the cell says what the column holds, as far as that is told without its rules.
[[nodiscard]] bool saysTheSame(const Column& column, const FileCell& cell, const Value& stored);
// Whether what a cell means is what lies there. A moment is the same however it is spelled: programs that make lists
// write seconds that nobody typed, and leave out those that are noughts.
[[nodiscard]] bool meansTheSame(const Column& column, const FileCell& cell, const Value& meant, const Value& stored);

}  // namespace iterandum
