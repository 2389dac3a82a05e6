// Values that count on: exactly, and only where there is something to count.
#include <gtest/gtest.h>

#include <random>

#include "core/value/series.h"

namespace iterandum::test {
namespace {

std::string counted(const Value& first, const std::optional<Value>& second, std::int64_t n) {
  const auto series = Series::from(first, second);
  if (!series) return "none";
  std::string out;
  for (std::int64_t i = 0; i < n; ++i) {
    const Value value = series->at(i);
    out += (i > 0 ? " " : "") + (value.isNull() ? std::string("-") : canonicalText(value));
  }
  return out;
}

Value day(const char* text) { return Value::ofString(Value::Kind::Date, text); }

TEST(SeriesTest, NumbersGoOnExactly) {
  EXPECT_EQ("7 8 9", counted(Value::integer(7), {}, 3));
  EXPECT_EQ("7 5 3 1 -1", counted(Value::integer(7), Value::integer(5), 5));
  EXPECT_EQ("0.1 0.2 0.3 0.4", counted(Value::decimal("0.1"), Value::decimal("0.2"), 4));
  EXPECT_EQ("0.1 0.2 0.3", counted(Value::real(0.1), Value::real(0.2), 3)) << "not 0.30000000000000004";
  EXPECT_EQ("9223372036854775807 9223372036854775808", counted(Value::integer(INT64_MAX), {}, 2));
  EXPECT_EQ("-0.5 0.0 0.5", counted(Value::decimal("-0.5"), Value::decimal("0"), 3));
}

TEST(SeriesTest, DaysAndMonths) {
  EXPECT_EQ("2024-02-28 2024-02-29 2024-03-01", counted(day("2024-02-28"), {}, 3));
  EXPECT_EQ("2026-01-05 2026-01-12 2026-01-19", counted(day("2026-01-05"), day("2026-01-12"), 3));
  EXPECT_EQ("2026-01-15 2026-02-15 2026-03-15", counted(day("2026-01-15"), day("2026-02-15"), 3));
  EXPECT_EQ("2026-01-31 2026-02-28 2026-03-31 2026-04-30", counted(day("2026-01-31"), day("2026-02-28"), 4))
      << "the last day of each month";
  EXPECT_EQ("2024-02-29 2025-02-28 2026-02-28", counted(day("2024-02-29"), day("2025-02-28"), 3));
  EXPECT_EQ("2026-11-25 14:05:00+02 2026-11-26 14:05:00+02",
            counted(Value::ofString(Value::Kind::Timestamp, "2026-11-25 14:05:00+02"), {}, 2));
  EXPECT_EQ("9999-12-30 9999-12-31 -", counted(day("9999-12-30"), {}, 3));
}

TEST(SeriesTest, TextsCountTheirDigits) {
  EXPECT_EQ("T-08 T-09 T-10", counted(Value::text("T-08"), {}, 3));
  EXPECT_EQ("T-98 T-99 T-100", counted(Value::text("T-98"), {}, 3));
  EXPECT_EQ("12 Harbour Row 14 Harbour Row 16 Harbour Row",
            counted(Value::text("12 Harbour Row"), Value::text("14 Harbour Row"), 3));
  EXPECT_EQ("A2 A1 A0 -", counted(Value::text("A2"), Value::text("A1"), 4)) << "below nought there is none";
  EXPECT_EQ("none", counted(Value::text("Harbour"), {}, 3));
  EXPECT_EQ("none", counted(Value::text("A1"), Value::text("B2"), 3));
  EXPECT_EQ("none", counted(Value(), {}, 3));
  EXPECT_EQ("none", counted(Value::integer(1), Value::text("2"), 3));
}

// Against sums of whole numbers, which are their own oracle.
TEST(SeriesTest, RandomDecimalsAreTheSumOfTheirSteps) {
  std::mt19937_64 random(20261127);
  for (int round = 0; round < 2000; ++round) {
    const auto first = static_cast<std::int64_t>(random() % 2000001) - 1000000;
    const auto second = static_cast<std::int64_t>(random() % 2000001) - 1000000;
    const auto n = static_cast<std::int64_t>(random() % 1000);
    const auto hundredths = [](std::int64_t h) {
      std::string digits = std::to_string(std::abs(h));
      if (digits.size() < 3) digits.insert(0, 3 - digits.size(), '0');
      digits.insert(digits.size() - 2, ".");
      return Value::decimal((h < 0 ? "-" : "") + digits);
    };
    const auto series = Series::from(hundredths(first), hundredths(second));
    ASSERT_TRUE(series);
    EXPECT_TRUE(sameValue(hundredths(first + (second - first) * n), series->at(n)))
        << first << " " << second << " " << n << ": " << canonicalText(series->at(n));
  }
}

}  // namespace
}  // namespace iterandum::test
