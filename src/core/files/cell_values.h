// What a cell of a file means in a column: values as people write them.
#pragma once

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

// Whether the cell says what the column holds, as far as that is told without its rules.
[[nodiscard]] bool saysTheSame(const Column& column, const FileCell& cell, const Value& stored);

}  // namespace iterandum
