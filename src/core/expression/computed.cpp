#include "core/expression/computed.h"

#include <algorithm>
#include <cmath>
#include <cstdio>

#include "core/catalogue/column_rules.h"
#include "core/scope/period.h"
#include "core/value/calendar_text.h"
#include "core/value/decimal.h"

namespace iterandum {
namespace {

using std::chrono::days;
using std::chrono::sys_days;
using std::chrono::year_month_day;

constexpr std::int64_t kSecond = 1'000'000'000;
constexpr std::int64_t kDay = 86'400 * kSecond;

std::optional<ExactNumber> numberOf(const Value& value) {
  switch (value.kind()) {
    case Value::Kind::Boolean:
    case Value::Kind::Integer:
      return ExactNumber(value.asInteger());
    case Value::Kind::Real:
      return std::isfinite(value.asReal()) ? ExactNumber::read(plainDouble(value.asReal())) : std::nullopt;
    default:
      return ExactNumber::read(canonicalText(value));
  }
}

// "14:05:00", with a fraction where there is one.
std::string timeText(std::int64_t nanoseconds) {
  const std::int64_t seconds = nanoseconds / kSecond;
  char text[32];
  std::snprintf(text, sizeof text, "%02d:%02d:%02d", static_cast<int>(seconds / 3600),
                static_cast<int>(seconds / 60 % 60), static_cast<int>(seconds % 60));
  std::string out = text;
  if (const std::int64_t rest = nanoseconds % kSecond; rest != 0) {
    std::snprintf(text, sizeof text, ".%09d", static_cast<int>(rest));
    out += text;
    out.erase(out.find_last_not_of('0') + 1);
  }
  return out;
}

// Of the form that calendarText() gives: "14:05:00.25".
std::int64_t nanosecondsOf(std::string_view time) {
  const auto two = [&](std::size_t at) { return (time[at] - '0') * 10 + (time[at + 1] - '0'); };
  std::int64_t out = (two(0) * 3600LL + two(3) * 60LL + two(6)) * kSecond;
  std::int64_t unit = kSecond / 10;
  for (std::size_t at = 9; at < time.size() && unit > 0; ++at, unit /= 10) out += (time[at] - '0') * unit;
  return out;
}

tl::unexpected<Error> beyondTheCalendar() {
  return fail(ErrorKind::InvalidInput, "this goes beyond the years 1 to 9999");
}

Result<sys_days> moved(sys_days day, std::int64_t months, std::int64_t byDays) {
  constexpr std::int64_t kMonths = 12;
  constexpr std::int64_t kMost = 4'000'000;  // days: more than the calendar has
  const year_month_day date(day);
  const std::int64_t month = kMonths * static_cast<int>(date.year()) + static_cast<unsigned>(date.month()) - 1 + months;
  if (month < kMonths || month >= kMonths * 10000 || std::abs(byDays) > kMost) return beyondTheCalendar();
  const auto there = std::chrono::year(static_cast<int>(month / kMonths)) /
                     std::chrono::month(static_cast<unsigned>(month % kMonths) + 1);
  const year_month_day same = there / date.day();
  const sys_days out = (same.ok() ? sys_days(same) : sys_days(there / std::chrono::last)) + days(byDays);
  if (out < sys_days(std::chrono::year(1) / 1 / 1) || out > lastDay()) return beyondTheCalendar();
  return out;
}

}  // namespace

Computed Computed::ofNumber(ExactNumber number) {
  Computed out;
  out.kind = Kind::Number;
  out.number = std::move(number);
  return out;
}

Computed Computed::ofText(std::string text) {
  Computed out;
  out.kind = Kind::Text;
  out.text = std::move(text);
  return out;
}

Computed Computed::ofDay(sys_days day) {
  Computed out;
  out.kind = Kind::Day;
  out.day = day;
  return out;
}

Computed Computed::ofMoment(sys_days day, std::int64_t nanoseconds) {
  Computed out = ofDay(day);
  out.kind = Kind::Moment;
  out.nanoseconds = nanoseconds;
  return out;
}

Computed Computed::ofStretch(Stretch stretch) {
  Computed out;
  out.kind = Kind::Stretch;
  out.stretch = stretch;
  return out;
}

std::optional<Computed> calendarOf(std::string_view text) {
  const auto said = calendarText(text);
  if (!said) return std::nullopt;
  Computed out;
  if (!said->hasDay) {
    out.kind = Computed::Kind::Time;
    out.nanoseconds = nanosecondsOf(said->form);
    return out;
  }
  const auto number = [&](std::size_t at, std::size_t size) {
    int n = 0;
    for (std::size_t i = 0; i < size; ++i) n = 10 * n + (said->form[at + i] - '0');
    return n;
  };
  const sys_days day(std::chrono::year(number(0, 4)) / number(5, 2) / number(8, 2));
  return said->hasTime ? Computed::ofMoment(day, nanosecondsOf(std::string_view(said->form).substr(11)))
                       : Computed::ofDay(day);
}

void Computed::take(const Column& column, const Value& value) {
  if (value.kind() == Value::Kind::Integer) {
    kind = Kind::Number;
    number = ExactNumber(value.asInteger());
    unchanged = value;
    return;
  }
  *this = Computed();
  if (value.isNull()) return;
  kind = Kind::Other;
  if (value.isNumber()) {
    if (auto exact = numberOf(value)) becomeNumber(std::move(*exact));
  } else if (value.kind() != Value::Kind::Bytes && value.kind() != Value::Kind::PendingKey) {
    const bool calendar =
        column.type == TypeClass::Date || column.type == TypeClass::Timestamp || column.type == TypeClass::Time;
    auto said = calendar ? calendarOf(value.asString()) : std::nullopt;
    *this = said ? std::move(*said) : ofText(std::string(value.asString()));
  }
  unchanged = value;
}

std::string textOf(const Computed& value) {
  if (value.unchanged && value.unchanged->isString()) return std::string(value.unchanged->asString());
  switch (value.kind) {
    case Computed::Kind::Number:
      return value.number.plain();
    case Computed::Kind::Text:
      return value.text;
    case Computed::Kind::Day:
      return isoDay(value.day);
    case Computed::Kind::Moment:
      return isoDay(value.day) + " " + timeText(value.nanoseconds);
    case Computed::Kind::Time:
      return timeText(value.nanoseconds);
    default:
      return {};
  }
}

std::string inWords(const Computed& value) {
  constexpr std::size_t kMost = 40;
  switch (value.kind) {
    case Computed::Kind::None:
      return "no value";
    case Computed::Kind::Number:
      return "the number " + textOf(value);
    case Computed::Kind::Day:
      return "the day " + textOf(value);
    case Computed::Kind::Moment:
      return "the moment " + textOf(value);
    case Computed::Kind::Time:
      return "the time " + textOf(value);
    case Computed::Kind::Stretch:
      return "a stretch of time";
    case Computed::Kind::Other:
      return "a value that cannot be computed with";
    case Computed::Kind::Text:
      break;
  }
  std::size_t end = std::min(value.text.size(), kMost);
  while (end > 0 && end < value.text.size() && (static_cast<unsigned char>(value.text[end]) & 0xC0) == 0x80) --end;
  return "the text '" + value.text.substr(0, end) + (end < value.text.size() ? "…'" : "'");
}

Result<Stretch> together(const Stretch& a, const Stretch& b) {
  Stretch out;
  out.ofTheDay = a.ofTheDay || b.ofTheDay;
  if (__builtin_add_overflow(a.months, b.months, &out.months) || __builtin_add_overflow(a.days, b.days, &out.days) ||
      __builtin_add_overflow(a.nanoseconds, b.nanoseconds, &out.nanoseconds)) {
    return beyondTheCalendar();
  }
  return out;
}

Result<Stretch> times(const Stretch& stretch, const ExactNumber& number) {
  Stretch out = stretch;
  const auto product = [&](std::int64_t& part, bool whole) -> Status {
    const ExactNumber exact = ExactNumber(part).times(number);
    const auto n = whole ? exact.whole() : exact.rounded(0).whole();
    if (!n && !whole) return beyondTheCalendar();
    if (!n) return fail(ErrorKind::InvalidInput, "days, weeks, months and years are counted in whole numbers");
    part = *n;
    return {};
  };
  ITERANDUM_TRY(product(out.months, true));
  ITERANDUM_TRY(product(out.days, true));
  ITERANDUM_TRY(product(out.nanoseconds, false));
  return out;
}

Result<Computed> later(const Computed& start, const Stretch& stretch) {
  if (start.kind == Computed::Kind::Time) {
    std::int64_t there = 0;
    const bool over = __builtin_add_overflow(start.nanoseconds, stretch.nanoseconds, &there);
    if (stretch.months != 0 || stretch.days != 0 || over || there < 0 || there >= kDay) {
      return fail(ErrorKind::InvalidInput, "this goes beyond the day");
    }
    Computed out;
    out.kind = Computed::Kind::Time;
    out.nanoseconds = there;
    return out;
  }
  std::int64_t nanoseconds = 0;
  if (__builtin_add_overflow(start.nanoseconds, stretch.nanoseconds, &nanoseconds)) return beyondTheCalendar();
  std::int64_t turns = nanoseconds / kDay;
  nanoseconds %= kDay;
  if (nanoseconds < 0) {
    nanoseconds += kDay;
    --turns;
  }
  std::int64_t byDays = 0;
  if (__builtin_add_overflow(stretch.days, turns, &byDays)) return beyondTheCalendar();
  constexpr std::int64_t kMostMonths = 200'000;
  if (std::abs(stretch.months) > kMostMonths) return beyondTheCalendar();
  ITERANDUM_ASSIGN(const sys_days day, moved(start.day, stretch.months, byDays));
  const bool isDay = start.kind == Computed::Kind::Day && !stretch.ofTheDay;
  return isDay ? Computed::ofDay(day) : Computed::ofMoment(day, nanoseconds);
}

Result<Value> valueFor(const Column& column, const Computed& computed) {
  switch (computed.kind) {
    case Computed::Kind::None:
      return storedForm(column, Value());
    case Computed::Kind::Stretch:
      return fail(ErrorKind::InvalidInput, "a stretch of time alone is no value; add it to a day");
    case Computed::Kind::Other:
      return storedForm(column, *computed.unchanged);
    default:
      break;
  }
  const bool ofNumbers =
      column.type == TypeClass::Integer || column.type == TypeClass::Real || column.type == TypeClass::Decimal;
  if (computed.kind == Computed::Kind::Number && !computed.unchanged && ofNumbers) {
    // What its digits would give.
    if (const auto whole = computed.number.whole()) return storedForm(column, Value::integer(*whole));
  }
  const bool same = computed.unchanged && !(column.type == TypeClass::Text && computed.unchanged->isNumber());
  // A text is typed: what is empty is no value where the column holds no texts.
  if (same && computed.kind != Computed::Kind::Text) return storedForm(column, *computed.unchanged);
  if (computed.kind == Computed::Kind::Text && column.type == TypeClass::Other && computed.unchanged) {
    return storedForm(column, *computed.unchanged);
  }
  return typedValue(column, textOf(computed));
}

}  // namespace iterandum
