// In which order the days of a file are written (31.12.2025, 12/31/2025), found from each column as a whole: one day
// after the twelfth tells it for all of them.
#pragma once

#include <functional>
#include <memory>
#include <string>
#include <vector>

#include "core/base/progress.h"
#include "core/files/cell_values.h"
#include "core/files/file_header.h"

namespace iterandum {

// The lines behind the header once more, from the first.
using LinesAgain = std::function<Result<std::unique_ptr<TableSource>>()>;

struct ColumnDays {
  std::string column;
  // AsTyped: it cannot be told, since each day of the column may be read either way, or some only in one order and
  // some only in the other.
  WrittenForms::Days order = WrittenForms::Days::AsTyped;
  std::uint64_t line = 0;  // that shows it; where it cannot be told, the first that leaves it open
  std::string text;        // what stands there
  // Of the first that shows the other order; 0: there is none.
  std::uint64_t otherLine = 0;
  std::string otherText;
};

// Whether the cell is a day of which the order has to be known: not with the year first, not of a spreadsheet.
[[nodiscard]] bool needsDayOrder(const Column& column, const FileCell& cell);

// Those columns of the header that hold such days. Errors: the source's; Cancelled.
[[nodiscard]] Result<std::vector<ColumnDays>> daysFound(TableSource& source, const FileHeader& header,
                                                        Progress& progress);

// "planted: the day comes first, as 31.12.2025 in line 7 shows".
[[nodiscard]] std::string inWords(const ColumnDays& days, const char* lineWord);

}  // namespace iterandum
