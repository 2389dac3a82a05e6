#include "core/value/calendar_text.h"

#include <algorithm>
#include <charconv>
#include <chrono>
#include <cstdio>

namespace iterandum {
namespace {

namespace ch = std::chrono;

bool readNumber(std::string_view& s, std::size_t digits, int& out) {
  if (s.size() < digits || s[0] == '-') return false;
  const auto r = std::from_chars(s.data(), s.data() + digits, out);
  if (r.ec != std::errc() || r.ptr != s.data() + digits) return false;
  s.remove_prefix(digits);
  return true;
}

bool skip(std::string_view& s, char c) {
  if (s.empty() || s.front() != c) return false;
  s.remove_prefix(1);
  return true;
}

struct Moment {
  ch::sys_days day{};
  int seconds = 0;  // since the day began
  std::string_view fraction;
  int zoneMinutes = 0;  // east of UTC
};

bool readDay(std::string_view& s, Moment& out) {
  int y = 0;
  int m = 0;
  int d = 0;
  if (!readNumber(s, 4, y) || !skip(s, '-') || !readNumber(s, 2, m) || !skip(s, '-') || !readNumber(s, 2, d)) {
    return false;
  }
  const ch::year_month_day date(ch::year(y), ch::month(static_cast<unsigned>(m)), ch::day(static_cast<unsigned>(d)));
  if (!date.ok() || y == 0) return false;
  out.day = ch::sys_days(date);
  return true;
}

// Z, +02, +0200, +02:00; `there` tells whether one was given.
bool readZone(std::string_view& s, Moment& out, bool& there) {
  there = !s.empty();
  if (s.empty() || skip(s, 'Z')) return true;
  int h = 0;
  int m = 0;
  const bool west = s.front() == '-';
  if (!skip(s, '+') && !skip(s, '-')) return false;
  if (!readNumber(s, 2, h) || h > 14) return false;
  if (!s.empty()) {
    skip(s, ':');
    if (!readNumber(s, 2, m) || m > 59) return false;
  }
  out.zoneMinutes = (west ? -1 : 1) * (60 * h + m);
  return true;
}

bool readTime(std::string_view& s, Moment& out, bool& zone) {
  int h = 0;
  int m = 0;
  int sec = 0;
  if (!readNumber(s, 2, h) || !skip(s, ':') || !readNumber(s, 2, m) || h > 23 || m > 59) return false;
  if (skip(s, ':')) {
    if (!readNumber(s, 2, sec) || sec > 60) return false;
    if (skip(s, '.')) {
      const std::size_t digits = std::min(s.find_first_not_of("0123456789"), s.size());
      if (digits == 0) return false;
      out.fraction = s.substr(0, s.substr(0, digits).find_last_not_of('0') + 1);
      s.remove_prefix(digits);
    }
  }
  out.seconds = 3600 * h + 60 * m + sec;
  return readZone(s, out, zone);
}

std::string timeForm(int seconds, std::string_view fraction) {
  char text[16];
  std::snprintf(text, sizeof text, "%02d:%02d:%02d", seconds / 3600, seconds / 60 % 60, seconds % 60);
  std::string out = text;
  if (!fraction.empty()) out.append(".").append(fraction);
  return out;
}

std::string dayForm(ch::sys_days day) {
  const ch::year_month_day date(day);
  char text[24];
  std::snprintf(text, sizeof text, "%04d-%02u-%02u", static_cast<int>(date.year()), static_cast<unsigned>(date.month()),
                static_cast<unsigned>(date.day()));
  return text;
}

std::string momentForm(const Moment& m) {
  constexpr int kDay = 86400;
  int seconds = m.seconds - 60 * m.zoneMinutes;
  const int turns = seconds < 0 ? -1 : (seconds >= kDay && m.zoneMinutes != 0 ? 1 : 0);
  seconds -= turns * kDay;
  return dayForm(m.day + ch::days(turns)) + " " + timeForm(seconds, m.fraction);
}

}  // namespace

std::optional<CalendarText> calendarText(std::string_view s) {
  CalendarText out;
  Moment m;
  if (s.size() > 2 && s[2] == ':') {
    out.hasTime = true;
    if (!readTime(s, m, out.hasZone) || !s.empty()) return std::nullopt;
    out.form = timeForm(m.seconds, m.fraction);
    return out;
  }
  if (!readDay(s, m)) return std::nullopt;
  out.hasDay = true;
  if (!s.empty()) {
    out.hasTime = true;
    if ((!skip(s, ' ') && !skip(s, 'T')) || !readTime(s, m, out.hasZone) || !s.empty()) return std::nullopt;
  }
  out.form = momentForm(m);
  return out;
}

std::pair<std::string, std::string> daysBesides(std::string_view form) {
  Moment m;
  readDay(form, m);
  const ch::sys_days first{ch::year(1) / 1 / 1};
  const ch::sys_days last{ch::year(9999) / 12 / 31};
  const ch::sys_days after = m.day + ch::days(2);
  // A sign that is after every digit stands for the days that have no text of their own.
  return {dayForm(std::max(first, m.day - ch::days(1))), after > last ? ":" : dayForm(after)};
}

}  // namespace iterandum
