// Days, times and moments as text: the forms of ISO 8601 that databases keep and people type.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <utility>

namespace iterandum {

// What a text of the calendar says.
struct CalendarText {
  bool hasDay = false;
  bool hasTime = false;
  bool hasZone = false;
  // "2026-11-25 14:05:00.25", "2026-11-25 00:00:00" for a day alone, "14:05:00" for a time alone; in UTC where a zone
  // is given with a day; no noughts at the end of a fraction. So texts of one kind go by their order in time.
  std::string form;
};

// 2026-11-25; 14:05, 14:05:00.5, with Z or +02:00; both with a blank or T between. Nothing: it is none of these, or no
// day of the calendar (from the year 1 to 9999).
[[nodiscard]] std::optional<CalendarText> calendarText(std::string_view text);

// The day before the one that such a form begins with, and the second one after it, as texts: whatever zone a moment is
// written in, it begins with a day between them, the latter left out. REQUIRES: the form begins with a day.
[[nodiscard]] std::pair<std::string, std::string> daysBesides(std::string_view form);

}  // namespace iterandum
