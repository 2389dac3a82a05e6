// Values through lenses, there and back. All numbers are exact.
#include <algorithm>
#include <array>
#include <chrono>
#include <utility>

#include "core/catalogue/column_rules.h"
#include "core/lenses/lens.h"
#include "core/value/calendar_text.h"
#include "core/value/decimal.h"
#include "core/value/exact_number.h"
#include "core/value/small_letters.h"
#include "core/value/text_forms.h"

namespace iterandum {
namespace {

using std::chrono::days;
using std::chrono::sys_days;

constexpr std::int64_t kSecond = 1'000'000'000;
constexpr std::int64_t kMinute = 60 * kSecond;
constexpr std::int64_t kHour = 60 * kMinute;
constexpr std::int64_t kDay = 24 * kHour;

constexpr std::string_view kStored = "stored ";
constexpr std::string_view kDots = "\u2022\u2022\u2022\u2022\u2022";

std::int64_t nanosecondsOf(StoredUnit unit) {
  constexpr std::array<std::int64_t, 7> kOf{1, 1000, 1'000'000, kSecond, kMinute, kHour, kDay};
  return kOf[static_cast<std::size_t>(unit)];
}

tl::unexpected<Error> refuse(const std::string& message) {
  Error error(ErrorKind::Constraint, message);
  error.constraint = ConstraintKind::DataType;
  return fail(std::move(error));
}

std::optional<ExactNumber> numberOf(const Value& value) {
  if (!value.isNumber() || value.kind() == Value::Kind::Boolean) return std::nullopt;
  return ExactNumber::read(canonicalText(value));
}

// What comes of it as a value of the column. Errors: it would have to be rounded.
Result<Value> asStored(const Column& column, const ExactNumber& number, const ExactNumber& unit, std::string_view text,
                       const std::string& unitSaid) {
  const ExactNumber stored = number.dividedBy(unit);
  if (stored.times(unit).compare(number) != 0)
    return refuse("'" + std::string(text) + "' cannot be kept exactly in " + column.name + " (" + unitSaid + ")");
  if (column.type == TypeClass::Integer && stored.compare(stored.floor()) != 0)
    return refuse("'" + std::string(text) + "' is no whole number of " + unitSaid + ", which " + column.name +
                  " holds");
  return typedValue(column, stored.plain());
}

// --- durations -------------------------------------------------------------------------------------------------------

// A number of nanoseconds that is none or more, in its parts.
struct Stretch {
  ExactNumber days;
  std::int64_t rest = 0;  // of a day, in nanoseconds
};

std::optional<Stretch> stretchOf(const ExactNumber& nanoseconds) {
  const ExactNumber day(kDay);
  const ExactNumber whole = nanoseconds.dividedBy(day).floor();
  const auto rest = nanoseconds.minus(whole.times(day)).whole();
  if (!rest || *rest < 0 || *rest >= kDay) return std::nullopt;
  return Stretch{whole, *rest};
}

std::string plainSeconds(std::int64_t nanoseconds) {
  return ExactNumber(nanoseconds).times(*ExactNumber::read("0.000000001")).plain();
}

std::string inWords(const Stretch& stretch) {
  if (stretch.days.isZero() && stretch.rest > 0 && stretch.rest < kSecond) {
    if (stretch.rest < 1000) return std::to_string(stretch.rest) + " ns";
    const bool micro = stretch.rest < 1'000'000;
    return ExactNumber(stretch.rest).dividedBy(ExactNumber(micro ? 1000 : 1'000'000)).plain() + (micro ? " us" : " ms");
  }
  std::string out;
  const auto add = [&](const std::string& number, const char* unit) {
    if (number != "0") out += (out.empty() ? "" : " ") + number + unit;
  };
  add(stretch.days.plain(), " d");
  add(std::to_string(stretch.rest / kHour), " h");
  add(std::to_string(stretch.rest % kHour / kMinute), " min");
  add(plainSeconds(stretch.rest % kMinute), " s");
  return out.empty() ? "0 s" : out;
}

// ISO 8601
std::string inIso(const Stretch& stretch) {
  std::string out = "P";
  if (!stretch.days.isZero()) out += stretch.days.plain() + "D";
  std::string time;
  if (stretch.rest / kHour != 0) time += std::to_string(stretch.rest / kHour) + "H";
  if (stretch.rest % kHour / kMinute != 0) time += std::to_string(stretch.rest % kHour / kMinute) + "M";
  if (stretch.rest % kMinute != 0) time += plainSeconds(stretch.rest % kMinute) + "S";
  if (time.empty() && stretch.days.isZero()) time = "0S";
  return out + (time.empty() ? "" : "T" + time);
}

std::string twoDigits(std::int64_t n) { return (n < 10 ? "0" : "") + std::to_string(n); }

std::string onClock(const Stretch& stretch) {
  const ExactNumber hours = stretch.days.times(ExactNumber(24)).plus(ExactNumber(stretch.rest / kHour));
  std::string out = hours.plain() + ":" + twoDigits(stretch.rest % kHour / kMinute);
  const std::int64_t rest = stretch.rest % kMinute;
  if (rest == 0) return out;
  return out + ":" + (rest < 10 * kSecond ? "0" : "") + plainSeconds(rest);
}

std::optional<std::string> shownDuration(const Lens& lens, const Value& value) {
  const auto number = numberOf(value);
  if (!number || number->isTooLong()) return std::nullopt;
  const ExactNumber total = number->times(ExactNumber(nanosecondsOf(lens.unit)));
  const auto stretch = stretchOf(total.absolute());
  if (!stretch) return std::nullopt;
  const std::string sign = total.compare(ExactNumber(0)) < 0 ? "-" : "";
  switch (lens.form) {
    case DurationForm::Iso:
      return sign + inIso(*stretch);
    case DurationForm::Clock:
      return sign + onClock(*stretch);
    default:
      return sign + inWords(*stretch);
  }
}

// The number that the text begins with is taken off it.
std::optional<ExactNumber> takeNumber(std::string_view& text) {
  const std::size_t end = std::min(text.find_first_not_of("0123456789."), text.size());
  auto number = ExactNumber::read(text.substr(0, end));
  if (end == 0 || !number) return std::nullopt;
  text.remove_prefix(end);
  return number;
}

std::optional<std::int64_t> unitInWords(std::string_view word) {
  struct Unit {
    std::string_view word;
    std::int64_t nanoseconds;
  };
  constexpr std::array<Unit, 26> kUnitWords{{{"w", 7 * kDay},
                                             {"week", 7 * kDay},
                                             {"weeks", 7 * kDay},
                                             {"d", kDay},
                                             {"day", kDay},
                                             {"days", kDay},
                                             {"h", kHour},
                                             {"hr", kHour},
                                             {"hour", kHour},
                                             {"hours", kHour},
                                             {"min", kMinute},
                                             {"mins", kMinute},
                                             {"minute", kMinute},
                                             {"minutes", kMinute},
                                             {"s", kSecond},
                                             {"sec", kSecond},
                                             {"secs", kSecond},
                                             {"second", kSecond},
                                             {"seconds", kSecond},
                                             {"ms", 1'000'000},
                                             {"millisecond", 1'000'000},
                                             {"milliseconds", 1'000'000},
                                             {"us", 1000},
                                             {"\u00b5s", 1000},
                                             {"\u03bcs", 1000},
                                             {"ns", 1}}};
  const auto at =
      std::find_if(kUnitWords.begin(), kUnitWords.end(), [&](const Unit& unit) { return unit.word == word; });
  return at == kUnitWords.end() ? std::nullopt : std::optional(at->nanoseconds);
}

// "1 h 30 min", "2d", "1.5 hours", "1 h, 5 min and 3 s" without the "and"
std::optional<ExactNumber> durationInWords(std::string_view text) {
  const auto skip = [&](std::string_view signs) {
    text.remove_prefix(std::min(text.find_first_not_of(signs), text.size()));
  };
  std::optional<ExactNumber> total;
  for (skip(" "); !text.empty(); skip(", ")) {
    const auto number = takeNumber(text);
    if (!number) return std::nullopt;
    skip(" ");
    const std::size_t end = std::min(text.find_first_of("0123456789., "), text.size());
    const auto unit = unitInWords(smallLetters(text.substr(0, end)));
    if (!unit) return std::nullopt;
    text.remove_prefix(end);
    const ExactNumber part = number->times(ExactNumber(*unit));
    total = total ? total->plus(part) : part;
  }
  return total;
}

// P4D, PT1H30M, P1W, P1DT0.5S: each unit once at most, in their order; years and months have no fixed length.
std::optional<ExactNumber> durationInIso(std::string_view text) {
  constexpr std::string_view kOfDays = "WD";
  constexpr std::string_view kOfTime = "HMS";
  constexpr std::array<std::int64_t, 2> kDayUnits{7 * kDay, kDay};
  constexpr std::array<std::int64_t, 3> kTimeUnits{kHour, kMinute, kSecond};
  text.remove_prefix(1);
  bool ofTime = false;
  std::size_t next = 0;
  std::optional<ExactNumber> total;
  while (!text.empty()) {
    if (text.front() == 'T') {
      if (ofTime || text.size() == 1) return std::nullopt;
      ofTime = true;
      next = 0;
      text.remove_prefix(1);
      continue;
    }
    const auto number = takeNumber(text);
    if (!number || text.empty()) return std::nullopt;
    const std::size_t unit = (ofTime ? kOfTime : kOfDays).find(text.front(), next);
    if (unit == std::string_view::npos) return std::nullopt;
    next = unit + 1;
    text.remove_prefix(1);
    const ExactNumber part = number->times(ExactNumber(ofTime ? kTimeUnits[unit] : kDayUnits[unit]));
    total = total ? total->plus(part) : part;
  }
  return total;
}

// 1:30 is an hour and a half, 1:30:05.25 has seconds.
std::optional<ExactNumber> durationOnClock(std::string_view text) {
  const auto hours = takeNumber(text);
  if (!hours || hours->compare(hours->floor()) != 0) return std::nullopt;
  ExactNumber total = hours->times(ExactNumber(kHour));
  for (const std::int64_t unit : {kMinute, kSecond}) {
    if (text.empty() && unit == kSecond) break;
    if (text.size() < 3 || text.front() != ':') return std::nullopt;
    text.remove_prefix(1);
    const std::size_t before = text.size();
    const auto part = takeNumber(text);
    const bool whole = part && part->compare(part->floor()) == 0 && before - text.size() == 2;
    if (!part || part->compare(ExactNumber(60)) >= 0 || (unit == kMinute && !whole)) return std::nullopt;
    total = total.plus(part->times(ExactNumber(unit)));
  }
  return text.empty() ? std::optional(total) : std::nullopt;
}

Result<Value> typedDuration(const Lens& lens, const Column& column, std::string_view text) {
  std::string_view rest = text;
  const bool negative = rest.front() == '-';
  if (negative) rest.remove_prefix(1);
  std::optional<ExactNumber> total;
  if (rest.starts_with('P')) {
    total = durationInIso(rest);
  } else if (rest.find(':') != std::string_view::npos) {
    total = durationOnClock(rest);
  } else {
    total = durationInWords(rest);
  }
  if (!total) {
    const auto bare = ExactNumber::read(text);
    if (bare && bare->isZero()) {
      total = bare;
    } else if (bare) {
      // A number alone may be meant in the unit that is shown or in the one that is stored.
      return refuse(std::string(text) + " of what? Write " + std::string(text) + " d, h, min or s; or 'stored " +
                    std::string(text) + "' for what lies in " + column.name);
    } else {
      return refuse("a stretch of time is wanted in " + column.name + ", like 4 d, 1 h 30 min, 1:30 or PT1H30M, not '" +
                    std::string(text) + "'");
    }
  }
  if (negative) total = total->negated();
  return asStored(column, *total, ExactNumber(nanosecondsOf(lens.unit)), text, unitName(lens.unit));
}

// --- moments ---------------------------------------------------------------------------------------------------------

std::optional<sys_days> dayOf(std::string_view iso) {
  const auto year = wholeNumber<int>(iso.substr(0, 4));
  const auto month = wholeNumber<unsigned>(iso.substr(5, 2));
  const auto day = wholeNumber<unsigned>(iso.substr(8, 2));
  if (!year || !month || !day) return std::nullopt;
  return sys_days(
      std::chrono::year_month_day(std::chrono::year(*year), std::chrono::month(*month), std::chrono::day(*day)));
}

std::string isoOf(sys_days day) {
  const std::chrono::year_month_day date(day);
  const std::string year = std::to_string(static_cast<int>(date.year()));
  return std::string(4 - std::min<std::size_t>(4, year.size()), '0') + year + "-" +
         twoDigits(static_cast<unsigned>(date.month())) + "-" + twoDigits(static_cast<unsigned>(date.day()));
}

std::optional<std::string> shownMoment(const Lens& lens, const Value& value) {
  const auto number = numberOf(value);
  const auto since = dayOf(lens.since);
  if (!number || !since || number->isTooLong()) return std::nullopt;
  const ExactNumber total = number->times(ExactNumber(nanosecondsOf(lens.unit)));
  const auto behind = total.dividedBy(ExactNumber(kDay)).floor().whole();
  constexpr std::int64_t kFar = 4'000'000;  // more days than the calendar has
  if (!behind || *behind < -kFar || *behind > kFar) return std::nullopt;
  const auto rest = total.minus(ExactNumber(*behind).times(ExactNumber(kDay))).whole();
  const sys_days day = *since + days(*behind);
  const int year = static_cast<int>(std::chrono::year_month_day(day).year());
  if (!rest || year < 1 || year > 9999) return std::nullopt;
  if (lens.unit == StoredUnit::Day && *rest == 0) return isoOf(day);
  const std::int64_t second = *rest % kMinute;
  return isoOf(day) + " " + twoDigits(*rest / kHour) + ":" + twoDigits(*rest % kHour / kMinute) + ":" +
         (second < 10 * kSecond ? "0" : "") + plainSeconds(second) + " UTC";
}

Result<Value> typedMoment(const Lens& lens, const Column& column, std::string_view text) {
  std::string_view said = text;
  constexpr std::string_view kUtc = " UTC";
  if (said.ends_with(kUtc)) said.remove_suffix(kUtc.size());
  const auto moment = calendarText(said);
  const auto since = dayOf(lens.since);
  const auto day = moment && moment->hasDay ? dayOf(moment->form) : std::nullopt;
  if (!day || !since) {
    return refuse("a day or a moment is wanted in " + column.name +
                  ", like 2026-11-25 or 2026-11-25 14:05:00 (UTC), not '" + std::string(text) + "'");
  }
  const std::string_view form = moment->form;
  const auto hours = wholeNumber<std::int64_t>(form.substr(11, 2));
  const auto minutes = wholeNumber<std::int64_t>(form.substr(14, 2));
  const auto seconds = ExactNumber::read(form.substr(17));
  if (!hours || !minutes || !seconds) return refuse("'" + std::string(text) + "' is no moment");
  const ExactNumber total = ExactNumber((*day - *since).count())
                                .times(ExactNumber(kDay))
                                .plus(ExactNumber(*hours * kHour + *minutes * kMinute))
                                .plus(seconds->times(ExactNumber(kSecond)));
  return asStored(column, total, ExactNumber(nanosecondsOf(lens.unit)), text, unitName(lens.unit));
}

// --- labels, factors, flags ------------------------------------------------------------------------------------------

std::optional<std::string> shownLabel(const Lens& lens, const Column& column, const Value& value) {
  if (value.kind() == Value::Kind::Bytes || value.kind() == Value::Kind::PendingKey) return std::nullopt;
  const std::string text = canonicalText(value);
  const auto at = std::find_if(lens.labels.begin(), lens.labels.end(),
                               [&](const LensLabel& label) { return label.stored == text; });
  if (at != lens.labels.end()) {
    const auto back = typedValue(column, at->stored);
    if (back && sameValue(*back, value)) return at->shown;
  }
  return std::nullopt;
}

Result<Value> typedLabel(const Lens& lens, const Column& column, std::string_view text) {
  std::string wanted;
  const std::string small = smallLetters(text);
  const LensLabel* inAnyCase = nullptr;
  std::size_t found = 0;
  for (const LensLabel& label : lens.labels) {
    if (label.shown == text) return typedValue(column, label.stored);
    if (smallLetters(label.shown) == small) {
      inAnyCase = &label;
      ++found;
    }
    wanted += (wanted.empty() ? "" : ", ") + label.shown;
  }
  for (const LensLabel& label : lens.labels) {
    if (label.stored == text) return typedValue(column, label.stored);
  }
  if (found == 1) return typedValue(column, inAnyCase->stored);
  return refuse("one of " + wanted + " is wanted in " + column.name + ", not '" + std::string(text) +
                "'; write 'stored " + std::string(text) + "' for a value without a label");
}

std::optional<std::string> shownTimes(const Lens& lens, const Value& value) {
  const auto number = numberOf(value);
  if (!number || number->isTooLong()) return std::nullopt;
  return number->times(*ExactNumber::read(lens.factor)).plain() + (lens.behind.empty() ? "" : " " + lens.behind);
}

Result<Value> typedTimes(const Lens& lens, const Column& column, std::string_view text) {
  std::string said(text);
  if (!lens.behind.empty() && said.ends_with(lens.behind))
    said = trimmed(said.substr(0, said.size() - lens.behind.size()));
  const auto number = ExactNumber::read(said);
  if (!number || number->isTooLong()) {
    return refuse("a number" + (lens.behind.empty() ? "" : " of " + lens.behind) + " is wanted in " + column.name +
                  ", not '" + std::string(text) + "'");
  }
  return asStored(column, *number, *ExactNumber::read(lens.factor), text, lens.factor + " " + lens.behind);
}

std::optional<std::string> shownFlags(const Lens& lens, const Value& value) {
  if (value.kind() != Value::Kind::Integer || value.asInteger() < 0) return std::nullopt;
  const std::int64_t flags = value.asInteger();
  if (flags == 0) return "none";
  std::string out;
  std::int64_t left = flags;
  for (std::size_t bit = 0; bit < lens.bits.size(); ++bit) {
    const std::int64_t one = std::int64_t{1} << bit;
    if ((flags & one) == 0 || lens.bits[bit].empty()) continue;
    out += (out.empty() ? "" : ", ") + lens.bits[bit];
    left &= ~one;
  }
  return left == 0 ? std::optional(out) : std::nullopt;
}

Result<Value> typedFlags(const Lens& lens, const Column& column, std::string_view text) {
  if (smallLetters(text) == "none") return typedValue(column, "0");
  std::int64_t flags = 0;
  for (std::size_t from = 0; from <= text.size();) {
    const std::size_t end = std::min(text.find_first_of(",;", from), text.size());
    const std::string name = smallLetters(trimmed(text.substr(from, end - from)));
    const auto at = std::find_if(lens.bits.begin(), lens.bits.end(),
                                 [&](const std::string& bit) { return !bit.empty() && smallLetters(bit) == name; });
    if (at == lens.bits.end()) {
      std::string wanted;
      for (const std::string& bit : lens.bits) {
        if (!bit.empty()) wanted += (wanted.empty() ? "" : ", ") + bit;
      }
      return refuse("names of " + wanted + ", or none, are wanted in " + column.name + ", not '" + std::string(text) +
                    "'");
    }
    flags |= std::int64_t{1} << (at - lens.bits.begin());
    from = end + 1;
  }
  return typedValue(column, std::to_string(flags));
}

}  // namespace

std::optional<std::string> shownThrough(const Lens& lens, const Column& column, const Value& value) {
  if (value.isNull()) return std::nullopt;
  switch (lens.kind) {
    case LensKind::Duration:
      return shownDuration(lens, value);
    case LensKind::Moment:
      return shownMoment(lens, value);
    case LensKind::Labels:
      return shownLabel(lens, column, value);
    case LensKind::Factor:
      return shownTimes(lens, value);
    case LensKind::Flags:
      return shownFlags(lens, value);
    default:
      return std::string(kDots);
  }
}

Result<Value> typedThrough(const Lens& lens, const Column& column, std::string_view text) {
  const std::string said = trimmed(text);
  if (said.empty()) return typedValue(column, text);
  // Dots are what is shown, never what is meant.
  if (lens.kind == LensKind::Masked) {
    return said == kDots ? Result<Value>(refuse("the dots stand for what is masked in " + column.name))
                         : typedValue(column, text);
  }
  if (said.starts_with(kStored)) {
    // A text is what it is, to its last blank.
    const bool exact = column.type == TypeClass::Text && text.starts_with(kStored);
    return typedValue(column, (exact ? text : std::string_view(said)).substr(kStored.size()));
  }
  switch (lens.kind) {
    case LensKind::Duration:
      return typedDuration(lens, column, said);
    case LensKind::Moment:
      return typedMoment(lens, column, said);
    case LensKind::Labels:
      return typedLabel(lens, column, said);
    case LensKind::Factor:
      return typedTimes(lens, column, said);
    default:
      return typedFlags(lens, column, said);
  }
}

}  // namespace iterandum
