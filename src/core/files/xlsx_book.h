// XlsxBook: one spreadsheet file being made, through libxlsxwriter: rows go to files of no name as they come, so that a
// million of them fit. What a cell holds so that it comes back as it was is settled here, for all that writes XLSX.
#pragma once

#include <xlsxwriter.h>

#include <cstdio>
#include <functional>
#include <map>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/result.h"
#include "core/catalogue/catalogue.h"

namespace iterandum {

// How a cell looks, and whether it may be changed where its sheet is protected.
struct XlsxLook {
  enum class Shown { AsItIs, Day, Moment };
  bool bold = false;
  bool shaded = false;    // a ground of its own: what says which record it is
  bool unlocked = false;  // may be changed
  Shown shown = Shown::AsItIs;
  friend auto operator<=>(const XlsxLook&, const XlsxLook&) = default;
};

// A sheet of the book, which owns it. Rows are written from the first to the last: what lies behind cannot be
// written again.
class XlsxSheet {
 public:
  static constexpr std::uint64_t kMostRows = LXW_ROW_MAX;

  // Words above what the sheet holds; no column becomes wide for them.
  [[nodiscard]] Status title(std::uint32_t row, const std::string& text, const XlsxLook& look = {});
  // Errors: InvalidFile, a text that a cell cannot hold.
  [[nodiscard]] Status text(std::uint32_t row, std::uint16_t column, const std::string& text,
                            const XlsxLook& look = {});
  // No value leaves the cell empty (with the look, where that says more than none).
  [[nodiscard]] Status value(std::uint32_t row, std::uint16_t column, const Column& description, const Value& value,
                             const XlsxLook& look = {});
  void freeze(std::uint32_t rows, std::uint16_t columns);
  void hide();
  // Only unlocked cells can be changed; widths, and what a filter leaves, still can.
  void protect();
  void filterBy(std::uint32_t headRow, std::uint32_t lastRow, std::uint16_t lastColumn);
  // The cells of a column take what stands in a range of another sheet (its first column is 0): `only`: nothing else.
  void choices(std::uint16_t column, std::uint32_t from, std::uint32_t to, const std::string& sheet,
               std::uint16_t listColumn, std::uint32_t count, bool only);
  // Widths from what was written.
  void fitColumns();

 private:
  friend class XlsxBook;
  XlsxSheet(class XlsxBook& book, lxw_worksheet* sheet) : book_(book), sheet_(sheet) {}
  [[nodiscard]] Status real(std::uint32_t row, std::uint16_t column, double number, const std::string& text,
                            const XlsxLook& look);
  [[nodiscard]] Status decimal(std::uint32_t row, std::uint16_t column, const std::string& text, const XlsxLook& look);
  void widen(std::uint16_t column, std::size_t letters);

  class XlsxBook& book_;
  lxw_worksheet* sheet_;  // the library's
  std::vector<std::size_t> widths_;
};

class XlsxBook {
 public:
  // Gets what is written, piece by piece. Errors are handed on.
  using Sink = std::function<Status(std::string_view piece)>;

  [[nodiscard]] static Result<std::unique_ptr<XlsxBook>> begin(const std::string& title);
  XlsxBook(const XlsxBook&) = delete;
  XlsxBook& operator=(const XlsxBook&) = delete;
  ~XlsxBook();

  // Signs that a sheet's name cannot have become blanks; a name that cannot be had becomes the library's own.
  [[nodiscard]] Result<XlsxSheet*> addSheet(const std::string& name);
  // What a sheet of this name would be called.
  [[nodiscard]] static std::string sheetName(const std::string& name);
  // Nothing may follow.
  [[nodiscard]] Status finish(const Sink& sink);

 private:
  friend class XlsxSheet;
  struct CloseFile {
    void operator()(std::FILE* file) const { (void)std::fclose(file); }
  };
  XlsxBook() = default;
  [[nodiscard]] lxw_format* format(const XlsxLook& look);

  std::unique_ptr<std::FILE, CloseFile> file_;
  lxw_workbook* book_ = nullptr;  // the library's: goes when it is closed
  std::map<XlsxLook, lxw_format*> formats_;
  std::vector<std::unique_ptr<XlsxSheet>> sheets_;
};

}  // namespace iterandum
