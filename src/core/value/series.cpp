#include "core/value/series.h"

#include <algorithm>
#include <boost/multiprecision/cpp_int.hpp>
#include <chrono>
#include <cmath>
#include <cstdlib>

#include "core/value/calendar_text.h"
#include "core/value/decimal.h"

namespace iterandum {
namespace {

using boost::multiprecision::cpp_int;

// A decimal as a whole number of its last places.
struct Scaled {
  cpp_int units;
  std::size_t places = 0;
};

Scaled scaled(const std::string& plain) {
  Scaled out;
  std::string digits = plain;
  const bool negative = digits.front() == '-';
  if (negative) digits.erase(0, 1);
  if (const std::size_t point = digits.find('.'); point != std::string::npos) {
    out.places = digits.size() - point - 1;
    digits.erase(point, 1);
  }
  digits.erase(0, std::min(digits.find_first_not_of('0'), digits.size() - 1));
  out.units = cpp_int(digits);
  if (negative) out.units = -out.units;
  return out;
}

Scaled withPlaces(Scaled number, std::size_t places) {
  for (; number.places < places; ++number.places) number.units *= 10;
  return number;
}

std::string plainText(const Scaled& number) {
  std::string digits = cpp_int(abs(number.units)).str();
  if (number.places > 0) {
    if (digits.size() <= number.places) digits.insert(0, number.places + 1 - digits.size(), '0');
    digits.insert(digits.size() - number.places, 1, '.');
  }
  return number.units < 0 ? "-" + digits : digits;
}

// Nothing: infinite, or no number.
std::optional<std::string> plainNumber(const Value& value) {
  if (value.kind() == Value::Kind::Boolean || !value.isNumber()) return std::nullopt;
  if (value.kind() == Value::Kind::Real && !std::isfinite(value.asReal())) return std::nullopt;
  if (value.kind() == Value::Kind::Real) return plainDouble(value.asReal());
  return canonicalText(value);
}

struct DayText {
  std::chrono::sys_days day;
  std::string rest;
};

std::optional<DayText> dayText(const Value& value) {
  if (!value.isString() || value.isNumber() || value.kind() == Value::Kind::Bytes) return std::nullopt;
  constexpr std::size_t kDay = 10;  // "2026-11-25"
  const std::string text(value.asString());
  const auto read = calendarText(text);
  if (!read || !read->hasDay || text.size() < kDay) return std::nullopt;
  const auto year = wholeNumber<int>(std::string_view(text).substr(0, 4));
  const auto month = wholeNumber<unsigned>(std::string_view(text).substr(5, 2));
  const auto day = wholeNumber<unsigned>(std::string_view(text).substr(8, 2));
  if (!year || !month || !day) return std::nullopt;
  const std::chrono::year_month_day ymd{std::chrono::year(*year), std::chrono::month(*month), std::chrono::day(*day)};
  if (!ymd.ok()) return std::nullopt;
  return DayText{std::chrono::sys_days(ymd), text.substr(kDay)};
}

std::int64_t monthsSinceZero(const std::chrono::year_month_day& ymd) {
  return static_cast<std::int64_t>(static_cast<int>(ymd.year())) * 12 + static_cast<unsigned>(ymd.month()) - 1;
}

bool isLastOfMonth(const std::chrono::year_month_day& ymd) {
  return ymd.day() == std::chrono::year_month_day_last(ymd.year(), std::chrono::month_day_last(ymd.month())).day();
}

// Where the digits of a text lie that count: at its end, else at its beginning.
std::optional<std::pair<std::size_t, std::size_t>> countingDigits(const std::string& text) {
  constexpr std::size_t kMostDigits = 18;
  const auto isDigit = [](char c) { return c >= '0' && c <= '9'; };
  std::size_t begin = text.size();
  while (begin > 0 && isDigit(text[begin - 1])) --begin;
  std::size_t end = text.size();
  if (begin == end) {
    begin = 0;
    end = 0;
    while (end < text.size() && isDigit(text[end])) ++end;
  }
  if (end == begin || end - begin > kMostDigits) return std::nullopt;
  return std::pair(begin, end);
}

}  // namespace

std::optional<Series> Series::from(const Value& first, const std::optional<Value>& second) {
  if (auto numbers = ofNumbers(first, second)) return numbers;
  if (auto days = ofDays(first, second)) return days;
  return ofTexts(first, second);
}

std::optional<Series> Series::ofNumbers(const Value& first, const std::optional<Value>& second) {
  const auto begin = plainNumber(first);
  if (!begin) return std::nullopt;
  std::string step = "1";
  if (second) {
    const auto next = plainNumber(*second);
    if (!next) return std::nullopt;
    const std::size_t places = std::max(scaled(*begin).places, scaled(*next).places);
    Scaled difference = withPlaces(scaled(*next), places);
    difference.units -= withPlaces(scaled(*begin), places).units;
    step = plainText(difference);
  }
  return Series(first, Numbers{*begin, step});
}

std::optional<Series> Series::ofDays(const Value& first, const std::optional<Value>& second) {
  const auto begin = dayText(first);
  if (!begin) return std::nullopt;
  Days rule{begin->day.time_since_epoch().count(), 1, false, begin->rest};
  if (second) {
    const auto next = dayText(*second);
    if (!next || next->rest != begin->rest) return std::nullopt;
    rule.step = (next->day - begin->day).count();
    const std::chrono::year_month_day a(begin->day);
    const std::chrono::year_month_day b(next->day);
    const std::int64_t months = monthsSinceZero(b) - monthsSinceZero(a);
    if (months != 0 && (a.day() == b.day() || (isLastOfMonth(a) && isLastOfMonth(b)))) {
      rule.step = months;
      rule.months = true;
    }
  }
  return Series(first, rule);
}

std::optional<Series> Series::ofTexts(const Value& first, const std::optional<Value>& second) {
  if (first.kind() != Value::Kind::Text) return std::nullopt;
  const auto read = [](const Value& value) -> std::optional<Texts> {
    if (value.kind() != Value::Kind::Text) return std::nullopt;
    const std::string text(value.asString());
    const auto digits = countingDigits(text);
    if (!digits) return std::nullopt;
    const auto [begin, end] = *digits;
    const auto number = wholeNumber<std::uint64_t>(std::string_view(text).substr(begin, end - begin));
    if (!number) return std::nullopt;
    return Texts{text.substr(0, begin), *number, 1, end - begin, text.substr(end)};
  };
  auto rule = read(first);
  if (!rule) return std::nullopt;
  if (second) {
    const auto next = read(*second);
    if (!next || next->before != rule->before || next->behind != rule->behind) return std::nullopt;
    rule->step = static_cast<std::int64_t>(next->first) - static_cast<std::int64_t>(rule->first);
  }
  return Series(first, *rule);
}

Value Series::at(std::int64_t n) const {
  if (n == 0) return first_;
  if (const auto* numbers = std::get_if<Numbers>(&rule_)) {
    const std::size_t places = std::max(scaled(numbers->first).places, scaled(numbers->step).places);
    Scaled number = withPlaces(scaled(numbers->first), places);
    number.units += withPlaces(scaled(numbers->step), places).units * n;
    const std::string plain = plainText(number);
    if (first_.kind() == Value::Kind::Real) return Value::real(std::strtod(plain.c_str(), nullptr));
    if (number.places == 0) {
      if (const auto whole = wholeNumber<std::int64_t>(plain)) return Value::integer(*whole);
      if (const auto whole = wholeNumber<std::uint64_t>(plain)) return Value::unsignedInteger(*whole);
    }
    return Value::decimal(plain);
  }
  if (const auto* days = std::get_if<Days>(&rule_)) {
    std::chrono::sys_days day{std::chrono::days(days->first)};
    constexpr std::int64_t kFar = 4000000;  // more than all days there are; keeps the sums small
    if (std::abs(n) > kFar || std::abs(days->step) > kFar) return {};
    if (days->months) {
      const std::chrono::year_month_day ymd(day);
      const bool last = isLastOfMonth(ymd);
      const std::int64_t months = monthsSinceZero(ymd) + days->step * n;
      if (months < 12 || months >= 120000) return {};
      const auto year = std::chrono::year(static_cast<int>(months / 12));
      const auto month = std::chrono::month(static_cast<unsigned>(months % 12) + 1);
      const auto end = std::chrono::year_month_day_last(year, std::chrono::month_day_last(month));
      day = std::chrono::sys_days(year / month / (last ? end.day() : std::min(ymd.day(), end.day())));
    } else {
      day += std::chrono::days(days->step * n);
    }
    const std::chrono::year_month_day ymd(day);
    const int year = static_cast<int>(ymd.year());
    if (year < 1 || year > 9999 || !ymd.ok()) return {};
    char text[16];
    std::snprintf(text, sizeof text, "%04d-%02u-%02u", year, static_cast<unsigned>(ymd.month()),
                  static_cast<unsigned>(ymd.day()));
    return Value::ofString(first_.kind(), text + days->rest);
  }
  const auto& texts = std::get<Texts>(rule_);
  const cpp_int number = cpp_int(texts.first) + cpp_int(texts.step) * n;
  if (number < 0) return {};
  std::string digits = number.str();
  if (digits.size() < texts.digits) digits.insert(0, texts.digits - digits.size(), '0');
  return Value::text(texts.before + digits + texts.behind);
}

std::string Series::step() const {
  if (const auto* numbers = std::get_if<Numbers>(&rule_)) return normalDecimal(numbers->step);
  if (const auto* days = std::get_if<Days>(&rule_)) {
    const char* unit = days->months ? "month" : "day";
    return std::to_string(days->step) + " " + unit + (std::abs(days->step) == 1 ? "" : "s");
  }
  return std::to_string(std::get<Texts>(rule_).step);
}

}  // namespace iterandum
