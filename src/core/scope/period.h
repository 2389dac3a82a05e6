// Stretches of days as people speak of them: "today", "last month", "2025", "the last 30 days".
#pragma once

#include <chrono>
#include <optional>
#include <string>
#include <string_view>

namespace iterandum {

struct Period {
  std::chrono::sys_days from;
  std::chrono::sys_days to;  // the day after the last one
  friend bool operator==(const Period&, const Period&) = default;
};

// today, yesterday, tomorrow; this, last, next week, month, year; last or next N days, weeks, months, years; N days (…)
// ago, in N days (…); a year; a year and a month; a day. Weeks begin on Monday (ISO 8601). What reaches beyond the
// years 1 to 9999 ends there. Nothing: it is none of these, or a day beyond them.
[[nodiscard]] std::optional<Period> periodOf(std::string_view text, std::chrono::sys_days today);

// The last day that every engine knows; a stretch that goes up to it ends behind it, and none goes further.
[[nodiscard]] std::chrono::sys_days lastDay();

// 2026-11-25
[[nodiscard]] std::string isoDay(std::chrono::sys_days day);

}  // namespace iterandum
