#include "core/files/xlsx_book.h"

#include <locale.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <charconv>
#include <chrono>
#include <cmath>
#include <optional>
#include <utility>

namespace iterandum {
namespace {

constexpr std::size_t kMostLetters = 32767;
constexpr std::size_t kMostDigits = 15;  // a spreadsheet keeps no more of a number
constexpr std::int64_t kWhole = 999999999999999;
constexpr std::size_t kWidest = 60;  // letters that a column makes room for

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
  if (text.find("_x") == std::string_view::npos) return std::string(text);
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

Status checked(lxw_error error) {
  if (error == LXW_NO_ERROR) return {};
  return fail(ErrorKind::InvalidFile, std::string("the spreadsheet does not take it: ") + lxw_strerror(error));
}

}  // namespace

Result<std::unique_ptr<XlsxBook>> XlsxBook::begin(const std::string& title) {
  const PointBeforeDecimals point;
  std::unique_ptr<XlsxBook> out(new XlsxBook);
  out->file_.reset(std::tmpfile());
  if (!out->file_) return fail(ErrorKind::InvalidFile, "no passing file can be made for the spreadsheet");
  const std::string path = "/proc/self/fd/" + std::to_string(fileno(out->file_.get()));
  lxw_workbook_options options{};
  options.constant_memory = LXW_TRUE;
  out->book_ = workbook_new_opt(path.c_str(), &options);
  if (out->book_ == nullptr) return fail(ErrorKind::InvalidFile, "the spreadsheet cannot be begun");
  std::string words = title;
  lxw_doc_properties properties{};
  properties.title = words.data();
  if (!words.empty() && words.size() < 255) (void)workbook_set_properties(out->book_, &properties);
  return out;
}

XlsxBook::~XlsxBook() {
  const PointBeforeDecimals point;
  if (book_ != nullptr) (void)workbook_close(book_);
}

std::string XlsxBook::sheetName(const std::string& name) {
  std::string out;
  for (const char c : name) out += std::string_view("[]:*?/\\'").find(c) == std::string_view::npos ? c : ' ';
  if (out.size() > 31) out.resize(31);
  while (!out.empty() && !isValidUtf8(out)) out.pop_back();
  return out;
}

Result<XlsxSheet*> XlsxBook::addSheet(const std::string& name) {
  const PointBeforeDecimals point;
  lxw_worksheet* sheet = workbook_add_worksheet(book_, sheetName(name).c_str());
  if (sheet == nullptr) sheet = workbook_add_worksheet(book_, nullptr);
  if (sheet == nullptr) return fail(ErrorKind::InvalidFile, "the spreadsheet takes no sheet");
  sheets_.push_back(std::unique_ptr<XlsxSheet>(new XlsxSheet(*this, sheet)));
  return sheets_.back().get();
}

Status XlsxBook::finish(const Sink& sink) {
  const PointBeforeDecimals point;
  const lxw_error closed = workbook_close(std::exchange(book_, nullptr));
  if (closed != LXW_NO_ERROR)
    return fail(ErrorKind::InvalidFile, std::string("the spreadsheet cannot be written: ") + lxw_strerror(closed));
  std::rewind(file_.get());
  std::array<char, 1U << 16U> buffer{};
  while (const std::size_t got = std::fread(buffer.data(), 1, buffer.size(), file_.get())) {
    ITERANDUM_TRY(sink({buffer.data(), got}));
  }
  if (std::ferror(file_.get()) != 0) return fail(ErrorKind::InvalidFile, "the spreadsheet cannot be read again");
  return {};
}

lxw_format* XlsxBook::format(const XlsxLook& look) {
  if (look == XlsxLook()) return nullptr;
  const auto [at, isNew] = formats_.try_emplace(look, nullptr);
  if (!isNew) return at->second;
  lxw_format* const out = workbook_add_format(book_);
  if (look.bold) format_set_bold(out);
  if (look.shaded) {
    format_set_pattern(out, LXW_PATTERN_SOLID);
    format_set_fg_color(out, 0xEFEBE3);
  }
  if (look.unlocked) format_set_unlocked(out);
  if (look.shown == XlsxLook::Shown::Day) format_set_num_format(out, "yyyy-mm-dd");
  if (look.shown == XlsxLook::Shown::Moment) format_set_num_format(out, "yyyy-mm-dd hh:mm:ss");
  return at->second = out;
}

void XlsxSheet::widen(std::uint16_t column, std::size_t letters) {
  if (widths_.size() <= column) widths_.resize(column + 1U);
  widths_[column] = std::max(widths_[column], std::min(letters, kWidest));
}

Status XlsxSheet::title(std::uint32_t row, const std::string& text, const XlsxLook& look) {
  const PointBeforeDecimals point;
  return checked(worksheet_write_string(sheet_, row, 0, escaped(text).c_str(), book_.format(look)));
}

Status XlsxSheet::text(std::uint32_t row, std::uint16_t column, const std::string& text, const XlsxLook& look) {
  const PointBeforeDecimals point;
  const std::size_t size = letters(text);
  widen(column, size);
  lxw_format* const format = book_.format(look);
  // The one way in which a sheet holds an empty text.
  if (text.empty()) return checked(worksheet_write_formula_str(sheet_, row, column, "=\"\"", format, ""));
  if (size > kMostLetters) {
    return fail(ErrorKind::InvalidFile, "a cell of a spreadsheet holds 32 767 characters and no more; take CSV");
  }
  if (!isValidUtf8(text))
    return fail(ErrorKind::InvalidFile, "it is no UTF-8, which a spreadsheet cannot hold; take CSV");
  return checked(worksheet_write_string(sheet_, row, column, escaped(text).c_str(), format));
}

Status XlsxSheet::value(std::uint32_t row, std::uint16_t column, const Column& description, const Value& v,
                        const XlsxLook& look) {
  const PointBeforeDecimals point;
  if (v.isNull()) {
    lxw_format* const format = book_.format(look);
    return format == nullptr ? Status() : checked(worksheet_write_blank(sheet_, row, column, format));
  }
  const std::string text = canonicalText(v);
  widen(column, letters(text));
  switch (v.kind()) {
    case Value::Kind::Boolean:
      return checked(worksheet_write_boolean(sheet_, row, column, v.asBoolean() ? 1 : 0, book_.format(look)));
    case Value::Kind::Integer:
      if (std::abs(v.asInteger()) > kWhole) return this->text(row, column, text, look);
      return checked(
          worksheet_write_number(sheet_, row, column, static_cast<double>(v.asInteger()), book_.format(look)));
    case Value::Kind::Real:
      if (!std::isfinite(v.asReal())) return this->text(row, column, text, look);
      return real(row, column, v.asReal(), text, look);
    case Value::Kind::Decimal:
      return decimal(row, column, text, look);
    default:
      break;
  }
  const bool ofDays = v.kind() == Value::Kind::Date || v.kind() == Value::Kind::Timestamp ||
                      ((description.type == TypeClass::Date || description.type == TypeClass::Timestamp) &&
                       v.kind() == Value::Kind::Text);
  const auto serial = ofDays ? serialOf(text) : std::nullopt;
  if (!serial) return this->text(row, column, text, look);
  XlsxLook shown = look;
  shown.shown = text.size() == 10 ? XlsxLook::Shown::Day : XlsxLook::Shown::Moment;
  return checked(worksheet_write_number(sheet_, row, column, *serial, book_.format(shown)));
}

// The library writes 16 digits: what needs 17 is a text, which reads as the same number.
Status XlsxSheet::real(std::uint32_t row, std::uint16_t column, double number, const std::string& text,
                       const XlsxLook& look) {
  std::array<char, 40> digits{};
  (void)std::snprintf(digits.data(), digits.size(), "%.16G", number);
  if (std::strtod(digits.data(), nullptr) != number) return this->text(row, column, text, look);
  return checked(worksheet_write_number(sheet_, row, column, number, book_.format(look)));
}

Status XlsxSheet::decimal(std::uint32_t row, std::uint16_t column, const std::string& text, const XlsxLook& look) {
  const auto digits = std::count_if(text.begin(), text.end(), [](char c) { return c >= '0' && c <= '9'; });
  double number = 0;
  const auto read = std::from_chars(text.data(), text.data() + text.size(), number);
  if (static_cast<std::size_t>(digits) > kMostDigits || read.ptr != text.data() + text.size())
    return this->text(row, column, text, look);
  return checked(worksheet_write_number(sheet_, row, column, number, book_.format(look)));
}

void XlsxSheet::freeze(std::uint32_t rows, std::uint16_t columns) { worksheet_freeze_panes(sheet_, rows, columns); }

void XlsxSheet::hide() { worksheet_hide(sheet_); }

void XlsxSheet::protect() {
  lxw_protection allowed{};
  allowed.format_columns = LXW_TRUE;
  allowed.format_rows = LXW_TRUE;
  allowed.autofilter = LXW_TRUE;
  allowed.sort = LXW_TRUE;
  worksheet_protect(sheet_, nullptr, &allowed);
}

void XlsxSheet::filterBy(std::uint32_t headRow, std::uint32_t lastRow, std::uint16_t lastColumn) {
  (void)worksheet_autofilter(sheet_, headRow, 0, lastRow, lastColumn);
}

void XlsxSheet::choices(std::uint16_t column, std::uint32_t from, std::uint32_t to, const std::string& sheet,
                        std::uint16_t listColumn, std::uint32_t count, bool only) {
  std::array<char, LXW_MAX_COL_NAME_LENGTH> name{};
  lxw_col_to_name(name.data(), listColumn, LXW_TRUE);
  std::string range = "=" + sheet + "!" + name.data() + "$1:" + name.data() + "$" + std::to_string(count);
  lxw_data_validation rule{};
  rule.validate = LXW_VALIDATION_TYPE_LIST_FORMULA;
  rule.value_formula = range.data();
  rule.ignore_blank = LXW_VALIDATION_ON;
  rule.error_type = only ? LXW_VALIDATION_ERROR_TYPE_STOP : LXW_VALIDATION_ERROR_TYPE_WARNING;
  (void)worksheet_data_validation_range(sheet_, from, column, to, column, &rule);
}

void XlsxSheet::fitColumns() {
  const PointBeforeDecimals point;
  for (std::size_t i = 0; i < widths_.size(); ++i) {
    const auto column = static_cast<lxw_col_t>(i);
    const double width = static_cast<double>(std::clamp<std::size_t>(widths_[i] + 2, 6, kWidest));
    (void)worksheet_set_column(sheet_, column, column, width, nullptr);
  }
}

}  // namespace iterandum
