// XLSX through libxlsxwriter: rows go to a file of no name as they come, so that a million of them fit.
#include <locale.h>
#include <xlsxwriter.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <charconv>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <optional>

#include "core/files/record_writer.h"

namespace iterandum {
namespace {

constexpr std::size_t kMostLetters = 32767;
constexpr std::size_t kMostDigits = 15;  // a spreadsheet keeps no more of a number
constexpr std::int64_t kWhole = 999999999999999;

std::optional<int> number(std::string_view text) {
  int out = 0;
  const auto read = std::from_chars(text.data(), text.data() + text.size(), out);
  if (read.ec != std::errc() || read.ptr != text.data() + text.size()) return std::nullopt;
  return out;
}

// "2025-03-01", "2025-03-01 14:30:00": days since 1899-12-30. Nothing: a spreadsheet has no such day, or it would not
// come back as it is.
std::optional<double> serialOf(std::string_view text) {
  if ((text.size() != 10 && text.size() != 19) || text[4] != '-' || text[7] != '-') return std::nullopt;
  const auto year = number(text.substr(0, 4));
  const auto month = number(text.substr(5, 2));
  const auto day = number(text.substr(8, 2));
  if (!year || !month || !day) return std::nullopt;
  const std::chrono::year_month_day date{std::chrono::year(*year), std::chrono::month(static_cast<unsigned>(*month)),
                                         std::chrono::day(static_cast<unsigned>(*day))};
  // A leap day in 1900 that there was not lies before this.
  if (!date.ok() || date < std::chrono::year(1900) / 3 / 1) return std::nullopt;
  const auto days = (std::chrono::sys_days(date) - std::chrono::sys_days(std::chrono::year(1899) / 12 / 30)).count();
  if (text.size() == 10) return static_cast<double>(days);
  const auto hour = number(text.substr(11, 2));
  const auto minute = number(text.substr(14, 2));
  const auto second = number(text.substr(17, 2));
  if (text[10] != ' ' || text[13] != ':' || text[16] != ':' || !hour || !minute || !second || *hour > 23) {
    return std::nullopt;
  }
  return static_cast<double>(days) + (*hour * 3600 + *minute * 60 + *second) / 86400.0;
}

// What would be read as an escape, _x0041_, is escaped itself.
std::string escaped(std::string_view text) {
  std::string out;
  for (std::size_t i = 0; i < text.size(); ++i) {
    const bool isEscape = text.substr(i, 2) == "_x" && text.size() >= i + 7 && text[i + 6] == '_' &&
                          std::all_of(text.begin() + static_cast<std::ptrdiff_t>(i) + 2,
                                      text.begin() + static_cast<std::ptrdiff_t>(i) + 6,
                                      [](char c) { return std::isxdigit(static_cast<unsigned char>(c)) != 0; });
    if (isEscape) out += "_x005F";
    out += text[i];
  }
  return out;
}

std::size_t letters(std::string_view text) {
  return static_cast<std::size_t>(
      std::count_if(text.begin(), text.end(), [](char c) { return (static_cast<unsigned char>(c) & 0xC0) != 0x80; }));
}

// The library writes numbers as the thread's locale has them; a spreadsheet wants a point.
class PointBeforeDecimals {
 public:
  PointBeforeDecimals() : was_(uselocale(plain())) {}
  PointBeforeDecimals(const PointBeforeDecimals&) = delete;
  PointBeforeDecimals& operator=(const PointBeforeDecimals&) = delete;
  ~PointBeforeDecimals() { uselocale(was_); }

 private:
  // Made once, for as long as the program runs.
  static locale_t plain() {
    static const locale_t kPlain = newlocale(LC_ALL_MASK, "C", nullptr);
    return kPlain;
  }
  locale_t was_;
};

struct CloseFile {
  void operator()(std::FILE* file) const { (void)std::fclose(file); }
};

class XlsxWriter final : public RecordWriter {
 public:
  XlsxWriter(RecordForm form, Sink sink) : form_(std::move(form)), sink_(std::move(sink)) {}
  ~XlsxWriter() override {
    const PointBeforeDecimals point;
    if (book_ != nullptr) (void)workbook_close(book_);
  }

  Status begin() override {
    const PointBeforeDecimals point;
    file_.reset(std::tmpfile());
    if (!file_) return fail(ErrorKind::InvalidFile, "no passing file can be made for the spreadsheet");
    const std::string path = "/proc/self/fd/" + std::to_string(fileno(file_.get()));
    lxw_workbook_options options{};
    options.constant_memory = LXW_TRUE;
    book_ = workbook_new_opt(path.c_str(), &options);
    if (book_ == nullptr) return fail(ErrorKind::InvalidFile, "the spreadsheet cannot be begun");
    sheet_ = workbook_add_worksheet(book_, sheetName().c_str());
    if (sheet_ == nullptr) sheet_ = workbook_add_worksheet(book_, nullptr);
    std::string title = form_.title;
    lxw_doc_properties properties{};
    properties.title = title.data();
    if (!title.empty() && title.size() < 255) (void)workbook_set_properties(book_, &properties);
    head_ = workbook_add_format(book_);
    format_set_bold(head_);
    day_ = workbook_add_format(book_);
    format_set_num_format(day_, "yyyy-mm-dd");
    moment_ = workbook_add_format(book_);
    format_set_num_format(moment_, "yyyy-mm-dd hh:mm:ss");
    worksheet_freeze_panes(sheet_, 1, 0);
    for (const Column& column : form_.columns) {
      widths_.push_back(letters(column.name));
      ITERANDUM_TRY(putText(static_cast<lxw_col_t>(widths_.size() - 1), column.name, head_));
    }
    return {};
  }

  Status record(const ValueTuple& values) override {
    const PointBeforeDecimals point;
    if (++row_ >= LXW_ROW_MAX) {
      return fail(ErrorKind::InvalidFile, "a sheet has 1 048 576 rows and no more; take fewer records, or CSV");
    }
    for (std::size_t i = 0; i < values.size(); ++i) {
      const Value& v = values[i];
      if (v.isNull()) continue;
      const auto column = static_cast<lxw_col_t>(i);
      if (Status put = putValue(column, form_.columns[i], v); !put) {
        put.error().place = "record " + std::to_string(row_) + ", " + form_.columns[i].name;
        return put;
      }
    }
    return {};
  }

  Status end() override {
    const PointBeforeDecimals point;
    for (std::size_t i = 0; i < widths_.size(); ++i) {
      const auto column = static_cast<lxw_col_t>(i);
      const double width = static_cast<double>(std::clamp<std::size_t>(widths_[i] + 2, 6, 60));
      (void)worksheet_set_column(sheet_, column, column, width, nullptr);
    }
    const lxw_error closed = workbook_close(std::exchange(book_, nullptr));
    if (closed != LXW_NO_ERROR)
      return fail(ErrorKind::InvalidFile, std::string("the spreadsheet cannot be written: ") + lxw_strerror(closed));
    std::rewind(file_.get());
    std::array<char, 1U << 16U> buffer{};
    while (const std::size_t got = std::fread(buffer.data(), 1, buffer.size(), file_.get())) {
      ITERANDUM_TRY(sink_({buffer.data(), got}));
    }
    if (std::ferror(file_.get()) != 0) return fail(ErrorKind::InvalidFile, "the spreadsheet cannot be read again");
    return {};
  }

 private:
  Status checked(lxw_error error) const {
    if (error == LXW_NO_ERROR) return {};
    return fail(ErrorKind::InvalidFile, std::string("the spreadsheet does not take it: ") + lxw_strerror(error));
  }

  Status putText(lxw_col_t column, const std::string& text, lxw_format* format = nullptr) {
    // The one way in which a sheet holds an empty text.
    if (text.empty()) return checked(worksheet_write_formula_str(sheet_, row_, column, "=\"\"", nullptr, ""));
    if (letters(text) > kMostLetters) {
      return fail(ErrorKind::InvalidFile, "a cell of a spreadsheet holds 32 767 characters and no more; take CSV");
    }
    if (!isValidUtf8(text))
      return fail(ErrorKind::InvalidFile, "it is no UTF-8, which a spreadsheet cannot hold; take CSV");
    return checked(worksheet_write_string(sheet_, row_, column, escaped(text).c_str(), format));
  }

  Status putValue(lxw_col_t column, const Column& description, const Value& v) {
    const std::string text = canonicalText(v);
    widths_[column] = std::max(widths_[column], std::min<std::size_t>(letters(text), 60));
    switch (v.kind()) {
      case Value::Kind::Boolean:
        return checked(worksheet_write_boolean(sheet_, row_, column, v.asBoolean() ? 1 : 0, nullptr));
      case Value::Kind::Integer:
        if (std::abs(v.asInteger()) > kWhole) return putText(column, text);
        return checked(worksheet_write_number(sheet_, row_, column, static_cast<double>(v.asInteger()), nullptr));
      case Value::Kind::Real:
        if (!std::isfinite(v.asReal())) return putText(column, text);
        return putReal(column, v.asReal(), text);
      case Value::Kind::Decimal:
        return putDecimal(column, text);
      default:
        break;
    }
    const bool ofDays = v.kind() == Value::Kind::Date || v.kind() == Value::Kind::Timestamp ||
                        ((description.type == TypeClass::Date || description.type == TypeClass::Timestamp) &&
                         v.kind() == Value::Kind::Text);
    const auto serial = ofDays ? serialOf(text) : std::nullopt;
    if (!serial) return putText(column, text);
    lxw_format* const format = text.size() == 10 ? day_ : moment_;
    return checked(worksheet_write_number(sheet_, row_, column, *serial, format));
  }

  // The library writes 16 digits: what needs 17 is a text, which reads as the same number.
  Status putReal(lxw_col_t column, double number, const std::string& text) {
    std::array<char, 40> digits{};
    (void)std::snprintf(digits.data(), digits.size(), "%.16G", number);
    if (std::strtod(digits.data(), nullptr) != number) return putText(column, text);
    return checked(worksheet_write_number(sheet_, row_, column, number, nullptr));
  }

  Status putDecimal(lxw_col_t column, const std::string& text) {
    const auto digits = std::count_if(text.begin(), text.end(), [](char c) { return c >= '0' && c <= '9'; });
    double number = 0;
    const auto read = std::from_chars(text.data(), text.data() + text.size(), number);
    if (static_cast<std::size_t>(digits) > kMostDigits || read.ptr != text.data() + text.size())
      return putText(column, text);
    return checked(worksheet_write_number(sheet_, row_, column, number, nullptr));
  }

  [[nodiscard]] std::string sheetName() const {
    std::string out;
    for (const char c : form_.table != nullptr ? form_.table->name.name : std::string("Records")) {
      out += std::string_view("[]:*?/\\'").find(c) == std::string_view::npos ? c : ' ';
    }
    if (out.size() > 31) out.resize(31);
    while (!out.empty() && !isValidUtf8(out)) out.pop_back();
    return out;
  }

  RecordForm form_;
  Sink sink_;
  std::unique_ptr<std::FILE, CloseFile> file_;
  lxw_workbook* book_ = nullptr;  // the library's: goes when it is closed
  lxw_worksheet* sheet_ = nullptr;
  lxw_format* head_ = nullptr;
  lxw_format* day_ = nullptr;
  lxw_format* moment_ = nullptr;
  lxw_row_t row_ = 0;
  std::vector<std::size_t> widths_;
};

}  // namespace

std::unique_ptr<RecordWriter> makeXlsxWriter(RecordForm form, RecordWriter::Sink sink) {
  return std::make_unique<XlsxWriter>(std::move(form), std::move(sink));
}

}  // namespace iterandum
