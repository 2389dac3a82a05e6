#include "core/files/days_found.h"

#include <optional>

#include "core/catalogue/column_rules.h"
#include "core/value/text_forms.h"

namespace iterandum {
namespace {

using Days = WrittenForms::Days;

// Whether the calendar has such a day when it is read in this order.
bool fits(const Column& column, const std::string& text, Days order) {
  const auto iso = momentAsIso(text, order);
  return iso && typedValue(column, *iso).has_value();
}

void look(const Column& column, const FileLine& line, std::size_t at, std::optional<ColumnDays>& found) {
  const std::string text = trimmed(line.cells[at].text);
  const bool dayFirst = fits(column, text, Days::DayFirst);
  const bool monthFirst = fits(column, text, Days::MonthFirst);
  if (!dayFirst && !monthFirst) return;  // no day at all: refused by itself
  const bool open = dayFirst && monthFirst;
  const Days order = open ? Days::AsTyped : dayFirst ? Days::DayFirst : Days::MonthFirst;
  if (!found || (found->order == Days::AsTyped && !open)) {
    found = {column.name, order, line.number, text, 0, {}};
  } else if (!open && found->order != order && found->otherLine == 0) {
    found->otherLine = line.number;
    found->otherText = text;
  }
}

}  // namespace

bool needsDayOrder(const Column& column, const FileCell& cell) {
  const bool ofDays = column.type == TypeClass::Date || column.type == TypeClass::Timestamp;
  if (!ofDays || cell.kind != FileCell::Kind::Text) return false;
  const std::string text = trimmed(cell.text);
  return momentAsIso(text, Days::DayFirst) || momentAsIso(text, Days::MonthFirst);
}

Result<std::vector<ColumnDays>> daysFound(TableSource& source, const FileHeader& header, Progress& progress) {
  std::vector<std::optional<ColumnDays>> found(header.columns.size());
  FileLine line;
  std::uint64_t lines = 0;
  while (true) {
    ITERANDUM_ASSIGN(const bool more, source.next(line));
    if (!more) break;
    for (std::size_t at = 0; at < header.columns.size() && at < line.cells.size(); ++at) {
      const Column* column = header.columns[at];
      if (column != nullptr && needsDayOrder(*column, line.cells[at])) look(*column, line, at, found[at]);
    }
    constexpr std::uint64_t kStep = 4096;
    if (++lines % kStep == 0 && !progress.step("looking how days are written", lines, 0))
      return fail(ErrorKind::Cancelled, "it was stopped");
  }
  std::vector<ColumnDays> out;
  for (auto& column : found) {
    if (!column) continue;
    if (column->otherLine != 0) column->order = Days::AsTyped;
    out.push_back(std::move(*column));
  }
  return out;
}

std::string inWords(const ColumnDays& days, const char* lineWord) {
  const auto place = [&](const std::string& text, std::uint64_t line) {
    return text + " in " + lineWord + " " + std::to_string(line);
  };
  const std::string shown = place(days.text, days.line);
  if (days.otherLine != 0) {
    return days.column + ": the day comes first in some and the month in others, as " + shown + " and " +
           place(days.otherText, days.otherLine) + " show";
  }
  if (days.order == Days::AsTyped)
    return days.column + ": whether the day or the month comes first cannot be told, as of " + shown;
  return days.column + ": the " + (days.order == Days::DayFirst ? "day" : "month") + " comes first, as " + shown +
         " shows";
}

}  // namespace iterandum
