#include "core/files/spreadsheet.h"

#include <algorithm>
#include <array>
#include <charconv>
#include <chrono>
#include <cmath>
#include <cstdio>

#include "core/files/ods_reader.h"
#include "core/files/xlsx_reader.h"

namespace iterandum {

Result<std::unique_ptr<Spreadsheet>> Spreadsheet::open(std::string_view content) {
  ITERANDUM_ASSIGN(std::unique_ptr<Package> package, Package::open(content));
  return package->has("content.xml") ? openOds(std::move(package)) : openXlsx(std::move(package));
}

bool looksLikeSpreadsheet(std::string_view content) {
  return content.starts_with("PK\x03\x04") || content.starts_with("\xD0\xCF\x11\xE0");
}

namespace {

// Up to fifteen digits a double holds as they are.
bool isPlainWhole(std::string_view text) {
  if (text.starts_with('-')) text.remove_prefix(1);
  const bool fits = !text.empty() && text.size() <= 15 && (text.size() == 1 || text.front() != '0');
  return fits && std::all_of(text.begin(), text.end(), [](char c) { return c >= '0' && c <= '9'; });
}

}  // namespace

std::string plainNumber(std::string_view digits) {
  if (isPlainWhole(digits)) return std::string(digits);
  double number = 0;
  const auto read = std::from_chars(digits.data(), digits.data() + digits.size(), number);
  if (read.ec != std::errc() || read.ptr != digits.data() + digits.size() || !std::isfinite(number)) {
    return std::string(digits);
  }
  std::array<char, 400> buffer{};
  const auto written = std::to_chars(buffer.data(), buffer.data() + buffer.size(), number, std::chars_format::fixed);
  return written.ec == std::errc() ? std::string(buffer.data(), written.ptr) : std::string(digits);
}

ShownAs shownAs(std::string_view code) {
  bool day = false;
  bool time = false;
  for (std::size_t i = 0; i < code.size() && code[i] != ';'; ++i) {
    const char c = code[i];
    if (c == '\\' || c == '_' || c == '*') {
      ++i;
    } else if (c == '"') {
      i = std::min(code.find('"', i + 1), code.size());
    } else if (c == '[') {
      const std::size_t end = std::min(code.find(']', i), code.size());
      // [h] counts hours on; [Red] and [$-409] say nothing of days.
      const std::string_view inside = code.substr(i + 1, end - i - 1);
      time = time || inside.find_first_not_of("hHmMsS") == std::string_view::npos;
      i = end;
    } else if (c == 'y' || c == 'Y' || c == 'd' || c == 'D') {
      day = true;
    } else if (c == 'h' || c == 'H' || c == 's' || c == 'S') {
      time = true;
    } else if (c == 'E' || c == 'e') {
      break;  // 0.00E+00
    }
  }
  if (!day && !time && code.find_first_of("mM") != std::string_view::npos) {
    day = code.find_first_of("0#?@") == std::string_view::npos && code.find("General") == std::string_view::npos;
  }
  return day && time ? ShownAs::Moment : (day ? ShownAs::Day : (time ? ShownAs::Time : ShownAs::Number));
}

std::string momentOfSerial(double serial, ShownAs shown, bool since1904) {
  using std::chrono::days;
  using std::chrono::sys_days;
  constexpr std::int64_t kPerDay = 86400000;
  const auto all = static_cast<std::int64_t>(std::llround(serial * static_cast<double>(kPerDay)));
  std::int64_t day = all / kPerDay - (all % kPerDay < 0 ? 1 : 0);
  const std::int64_t within = all - day * kPerDay;
  std::array<char, 32> time{};
  const auto ms = static_cast<int>(within % 1000);
  std::snprintf(time.data(), time.size(), "%02d:%02d:%02d", static_cast<int>(within / 3600000),
                static_cast<int>(within / 60000 % 60), static_cast<int>(within / 1000 % 60));
  std::string clock = time.data();
  if (ms != 0) {
    std::snprintf(time.data(), time.size(), ".%03d", ms);
    clock += time.data();
  }
  if (shown == ShownAs::Time && day == 0) return clock;
  if (!since1904 && day < 60 && day > 0) ++day;
  const sys_days origin =
      since1904 ? sys_days(std::chrono::year(1904) / 1 / 1) : sys_days(std::chrono::year(1899) / 12 / 30);
  const std::chrono::year_month_day date{origin + days(day)};
  std::snprintf(time.data(), time.size(), "%04d-%02u-%02u", static_cast<int>(date.year()),
                static_cast<unsigned>(date.month()), static_cast<unsigned>(date.day()));
  const std::string text = time.data();
  return shown == ShownAs::Day && within == 0 ? text : text + " " + clock;
}

}  // namespace iterandum
