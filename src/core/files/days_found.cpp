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
      const bool told = found[at] && found[at]->order != Days::AsTyped;
      if (column == nullptr || told || !needsDayOrder(*column, line.cells[at])) continue;
      const std::string text = trimmed(line.cells[at].text);
      const bool dayFirst = fits(*column, text, Days::DayFirst);
      const bool monthFirst = fits(*column, text, Days::MonthFirst);
      if (!dayFirst && !monthFirst) continue;  // no day at all: refused by itself
      const bool open = dayFirst && monthFirst;
      if (open && found[at]) continue;
      found[at] = {column->name,
                   open       ? Days::AsTyped
                   : dayFirst ? Days::DayFirst
                              : Days::MonthFirst,
                   line.number, text};
    }
    constexpr std::uint64_t kStep = 4096;
    if (++lines % kStep == 0 && !progress.step("looking how days are written", lines, 0))
      return fail(ErrorKind::Cancelled, "it was stopped");
  }
  std::vector<ColumnDays> out;
  for (auto& column : found) {
    if (column) out.push_back(std::move(*column));
  }
  return out;
}

std::string inWords(const ColumnDays& days, const char* lineWord) {
  const std::string place = days.text + " in " + lineWord + " " + std::to_string(days.line);
  if (days.order == Days::AsTyped) {
    return days.column + ": whether the day or the month comes first cannot be told, as of " + place;
  }
  return days.column + ": the " + (days.order == Days::DayFirst ? "day" : "month") + " comes first, as " + place +
         " shows";
}

}  // namespace iterandum
