#include "core/scope/histogram.h"

#include <algorithm>
#include <charconv>
#include <chrono>
#include <cmath>
#include <cstdlib>

#include "core/scope/period.h"

namespace iterandum {
namespace {

using std::chrono::sys_days;
using std::chrono::year_month_day;

constexpr int kMostBars = 24;

// The day that a date or moment begins with.
std::optional<int> dayOf(std::string_view text) {
  int y = 0;
  unsigned m = 0;
  unsigned d = 0;
  if (text.size() < 10 || text[4] != '-' || text[7] != '-') return std::nullopt;
  const auto number = [&](std::size_t at, std::size_t length, auto& into) {
    const auto read = std::from_chars(text.data() + at, text.data() + at + length, into);
    return read.ec == std::errc() && read.ptr == text.data() + at + length;
  };
  if (!number(0, 4, y) || !number(5, 2, m) || !number(8, 2, d)) return std::nullopt;
  const year_month_day day{std::chrono::year(y), std::chrono::month(m), std::chrono::day(d)};
  if (!day.ok()) return std::nullopt;
  return static_cast<int>(sys_days(day).time_since_epoch().count());
}

std::optional<double> numberOf(const Value& value) {
  if (!value.isNumber()) return std::nullopt;
  const std::string text = canonicalText(value);
  double out = 0;
  const auto read = std::from_chars(text.data(), text.data() + text.size(), out);
  if (read.ec != std::errc() || !std::isfinite(out)) return std::nullopt;
  return out;
}

// 1, 2 or 5 times a power of ten.
double roundStep(double atLeast) {
  const double power = std::pow(10, std::floor(std::log10(atLeast)));
  for (const double times : {1.0, 2.0, 5.0}) {
    if (times * power >= atLeast) return times * power;
  }
  return 10 * power;
}

// A round edge, without what binary fractions add to it.
std::string edgeText(double edge, double step) {
  const int decimals = step >= 1 ? 0 : static_cast<int>(std::ceil(-std::log10(step) - 1e-9));
  char text[64];
  const auto written = std::to_chars(text, text + sizeof text, edge, std::chars_format::fixed, std::min(decimals, 30));
  return written.ec == std::errc() ? std::string(text, written.ptr) : std::to_string(edge);
}

sys_days firstOf(int year, unsigned month) {
  return sys_days(year_month_day(std::chrono::year(year), std::chrono::month(month), std::chrono::day(1)));
}

}  // namespace

bool Histogram::isFor(const Column& column) {
  return column.type == TypeClass::Integer || column.type == TypeClass::Real || column.type == TypeClass::Decimal ||
         column.type == TypeClass::Date || column.type == TypeClass::Timestamp;
}

std::optional<double> Histogram::placeOf(const Value& value) const {
  if (!days_) return numberOf(value);
  if (!value.isString()) return std::nullopt;
  const auto day = dayOf(value.asString());
  return day ? std::optional<double>(*day) : std::nullopt;
}

std::optional<Histogram> Histogram::over(const Column& column, const Value& low, const Value& high) {
  if (!isFor(column)) return std::nullopt;
  Histogram out;
  out.days_ = column.type == TypeClass::Date || column.type == TypeClass::Timestamp;
  const auto from = out.placeOf(low);
  const auto to = out.placeOf(high);
  if (!from || !to || *to < *from) return std::nullopt;
  if (out.days_) {
    out.buildDays(static_cast<int>(*from), static_cast<int>(*to));
  } else {
    // Beyond this, whole numbers and their neighbours are one to a double.
    if (std::abs(*from) > 1e15 || std::abs(*to) > 1e15) return std::nullopt;
    out.buildNumbers(*from, *to, column.type == TypeClass::Integer);
  }
  return out;
}

void Histogram::buildNumbers(double low, double high, bool whole) {
  double step = high > low ? roundStep((high - low) / kMostBars) : 1;
  if (whole) step = std::max(1.0, step);
  const double first = std::floor(low / step);
  // The edges are what their texts say, so that the condition and the bar agree on what lies on them.
  const auto edge = [&](int i) { return edgeText((first + i) * step, step); };
  const auto number = [](const std::string& text) {
    double d = 0;
    std::from_chars(text.data(), text.data() + text.size(), d);
    return d;
  };
  for (int i = 0; i == 0 || edges_.back() <= high; ++i) {
    if (i == 0) edges_.push_back(number(edge(0)));
    bars_.push_back({edge(i), edge(i + 1), 0});
    edges_.push_back(number(edge(i + 1)));
  }
}

// By days, months, years or tens of years, whatever gives not too many.
void Histogram::buildDays(int low, int high) {
  const auto dateOf = [](int day) { return year_month_day(sys_days(std::chrono::days(day))); };
  const int length = high - low + 1;
  const int firstYear = static_cast<int>(dateOf(low).year());
  const int years = static_cast<int>(dateOf(high).year()) - firstYear + 1;
  std::vector<sys_days> edges;
  if (length <= kMostBars) {
    for (int d = low; d <= high + 1; ++d) edges.emplace_back(std::chrono::days(d));
  } else if (years <= 2) {
    unsigned month = static_cast<unsigned>(dateOf(low).month());
    for (int y = firstYear;; month = month % 12 + 1, y += month == 1 ? 1 : 0) {
      edges.push_back(firstOf(y, month));
      if (edges.back() > sys_days(std::chrono::days(high))) break;
    }
  } else {
    const int step = static_cast<int>(roundStep(std::max(1.0, static_cast<double>(years) / kMostBars)));
    int year = firstYear >= 0 ? firstYear - firstYear % step : firstYear;
    for (;; year += step) {
      edges.push_back(firstOf(year, 1));
      if (edges.back() > sys_days(std::chrono::days(high))) break;
    }
  }
  for (std::size_t i = 0; i < edges.size(); ++i) {
    edges_.push_back(static_cast<double>(edges[i].time_since_epoch().count()));
    if (i + 1 < edges.size()) bars_.push_back({isoDay(edges[i]), isoDay(edges[i + 1]), 0});
  }
}

void Histogram::add(const Value& value, std::uint64_t records) {
  const auto place = placeOf(value);
  if (!place || *place < edges_.front() || *place >= edges_.back()) return;
  const auto after = std::upper_bound(edges_.begin(), edges_.end(), *place);
  bars_[static_cast<std::size_t>(after - edges_.begin()) - 1].records += records;
}

}  // namespace iterandum
