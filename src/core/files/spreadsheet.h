// Spreadsheets to be read: XLSX (ECMA-376, SpreadsheetML) and ODS (OASIS OpenDocument 1.3, part 3).
//
// The containers and their XML are libzip's and Expat's work; what a cell holds is read here, since the library at hand
// (liborcus 0.17) leaves out inline texts, all but the last line of a text, and booleans without a word.
#pragma once

#include <string_view>

#include "core/files/table_source.h"

namespace iterandum {

class Spreadsheet {
 public:
  // `content` outlives the spreadsheet. Errors: InvalidFile.
  [[nodiscard]] static Result<std::unique_ptr<Spreadsheet>> open(std::string_view content);
  Spreadsheet() = default;
  Spreadsheet(const Spreadsheet&) = delete;
  Spreadsheet& operator=(const Spreadsheet&) = delete;
  virtual ~Spreadsheet() = default;

  [[nodiscard]] virtual const std::vector<std::string>& sheets() const = 0;
  // Rows that hold nothing are left out. The spreadsheet outlives it.
  [[nodiscard]] virtual Result<std::unique_ptr<TableSource>> sheet(std::size_t index) = 0;
};

// More columns no sheet has.
inline constexpr std::uint64_t kMostColumns = 16384;

// Whether the content begins as such a file does (or as one that is protected).
[[nodiscard]] bool looksLikeSpreadsheet(std::string_view content);

// A number of a cell in plain notation: the shortest that reads as the same binary number, which is what a spreadsheet
// means by it.
[[nodiscard]] std::string plainNumber(std::string_view digits);

// What a number format of a spreadsheet shows.
enum class ShownAs { Number, Day, Time, Moment };
[[nodiscard]] ShownAs shownAs(std::string_view formatCode);
// Days since 1899-12-30, or since 1904-01-01, as a spreadsheet counts them (there is a 29th of February in its 1900).
[[nodiscard]] std::string momentOfSerial(double serial, ShownAs shown, bool since1904);

}  // namespace iterandum
