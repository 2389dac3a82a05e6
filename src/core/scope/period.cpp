#include "core/scope/period.h"

#include <algorithm>
#include <cctype>
#include <charconv>
#include <cstdint>
#include <cstdio>
#include <vector>

namespace iterandum {
namespace {

using std::chrono::days;
using std::chrono::sys_days;
using std::chrono::year_month_day;

enum class Unit { Day, Week, Month, Year };

std::vector<std::string> wordsOf(std::string_view text) {
  std::vector<std::string> out(1);
  for (const char c : text) {
    if (c == ' ') {
      if (!out.back().empty()) out.emplace_back();
    } else {
      out.back() += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    }
  }
  if (out.back().empty()) out.pop_back();
  return out;
}

std::optional<Unit> unitOf(std::string word) {
  if (word.ends_with('s')) word.pop_back();
  if (word == "day") return Unit::Day;
  if (word == "week") return Unit::Week;
  if (word == "month") return Unit::Month;
  if (word == "year") return Unit::Year;
  return std::nullopt;
}

std::optional<int> numberOf(std::string_view text) {
  int n = 0;
  const auto read = std::from_chars(text.data(), text.data() + text.size(), n);
  const bool whole = read.ec == std::errc() && read.ptr == text.data() + text.size();
  return whole && n >= 0 && n <= 100000 ? std::optional(n) : std::nullopt;
}

sys_days firstDay() { return sys_days(std::chrono::year(1) / 1 / 1); }

// The last day of the month where there is no such day in it. Never beyond the day before the first or after the last.
sys_days moved(sys_days day, Unit unit, int count) {
  const sys_days before = firstDay() - days(1);
  const sys_days after = lastDay() + days(1);
  if (unit == Unit::Day || unit == Unit::Week) {
    return std::clamp(day + days((unit == Unit::Week ? 7 : 1) * count), before, after);
  }
  constexpr int kMonths = 12;
  const year_month_day date(day);
  const std::int64_t month = std::int64_t{kMonths} * static_cast<int>(date.year()) +
                             static_cast<unsigned>(date.month()) - 1 +
                             std::int64_t{unit == Unit::Month ? 1 : kMonths} * count;
  if (month < kMonths) return before;
  if (month >= std::int64_t{kMonths} * 10000) return after;
  const auto there = std::chrono::year(static_cast<int>(month / kMonths)) /
                     std::chrono::month(static_cast<unsigned>(month % kMonths) + 1);
  const year_month_day out = there / date.day();
  return out.ok() ? sys_days(out) : sys_days(there / std::chrono::last);
}

// The day on which the unit that holds this day begins.
sys_days beginning(sys_days day, Unit unit) {
  const year_month_day date(day);
  if (unit == Unit::Week) return day - (std::chrono::weekday(day) - std::chrono::Monday);
  if (unit == Unit::Month) return sys_days(date.year() / date.month() / 1);
  if (unit == Unit::Year) return sys_days(date.year() / 1 / 1);
  return day;
}

Period one(sys_days day) { return {day, day + days(1)}; }

bool isDay(sys_days day) { return day >= firstDay() && day <= lastDay(); }

std::optional<Period> relative(const std::vector<std::string>& words, sys_days today) {
  if (words.size() == 1) {
    if (words[0] == "today") return one(today);
    if (words[0] == "yesterday") return one(today - days(1));
    if (words[0] == "tomorrow") return one(today + days(1));
    return std::nullopt;
  }
  if (words.size() == 2) {
    const auto unit = unitOf(words[1]);
    const int step = words[0] == "this" ? 0 : words[0] == "last" ? -1 : words[0] == "next" ? 1 : 2;
    if (!unit || step == 2 || words[1].ends_with('s')) return std::nullopt;
    const sys_days from = moved(beginning(today, *unit), *unit, step);
    return Period{from, moved(from, *unit, 1)};
  }
  if (words.size() != 3) return std::nullopt;
  if (words[2] == "ago" || words[0] == "in") {
    const bool past = words[2] == "ago";
    const auto count = numberOf(words[past ? 0 : 1]);
    const auto unit = unitOf(words[past ? 1 : 2]);
    if (!count || !unit) return std::nullopt;
    const sys_days day = moved(today, *unit, past ? -*count : *count);
    return isDay(day) ? std::optional(one(day)) : std::nullopt;
  }
  const auto count = numberOf(words[1]);
  const auto unit = unitOf(words[2]);
  if (!count || *count == 0 || !unit) return std::nullopt;
  if (words[0] == "last") return Period{std::max(firstDay(), moved(today + days(1), *unit, -*count)), today + days(1)};
  if (words[0] == "next") return Period{today + days(1), moved(today + days(1), *unit, *count)};
  return std::nullopt;
}

// 2025, 2025-03, 2025-03-09
std::optional<Period> calendar(std::string_view text) {
  const auto digits = [&](std::size_t from, std::size_t count) -> std::optional<int> {
    if (text.size() < from + count) return std::nullopt;
    const std::string_view part = text.substr(from, count);
    if (part.find_first_not_of("0123456789") != std::string_view::npos) return std::nullopt;
    return numberOf(part);
  };
  const auto year = digits(0, 4);
  if (!year || *year == 0) return std::nullopt;
  const std::chrono::year y(*year);
  if (text.size() == 4) return Period{sys_days(y / 1 / 1), sys_days((y + std::chrono::years(1)) / 1 / 1)};
  const auto month = digits(5, 2);
  if (!month || text[4] != '-' || *month < 1 || *month > 12) return std::nullopt;
  const auto ym = y / *month;
  if (text.size() == 7) return Period{sys_days(ym / 1), sys_days((ym + std::chrono::months(1)) / 1)};
  const auto day = digits(8, 2);
  if (!day || text.size() != 10 || text[7] != '-') return std::nullopt;
  const year_month_day date = ym / *day;
  return date.ok() ? std::optional(one(sys_days(date))) : std::nullopt;
}

}  // namespace

std::optional<Period> periodOf(std::string_view text, sys_days today) {
  if (auto period = calendar(text)) return period;
  return relative(wordsOf(text), today);
}

sys_days lastDay() { return sys_days(std::chrono::year(9999) / 12 / 31); }

std::string isoDay(sys_days day) {
  const year_month_day date(day);
  char text[32];
  std::snprintf(text, sizeof text, "%04d-%02u-%02u", static_cast<int>(date.year()), static_cast<unsigned>(date.month()),
                static_cast<unsigned>(date.day()));
  return text;
}

}  // namespace iterandum
