// Bars of a histogram have round edges, cover everything once, and say the same as a count by hand.
#include "core/scope/histogram.h"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <random>

#include "support/numbers.h"

namespace iterandum {
namespace {

std::string spread(TypeClass type, const std::vector<Value>& values) {
  Column column;
  column.type = type;
  auto histogram = Histogram::over(column, values.front(), values.back());
  if (!histogram) return "none";
  for (const Value& v : values) histogram->add(v);
  std::string out;
  for (const Histogram::Bar& bar : histogram->bars()) {
    out += (out.empty() ? "" : " ") + bar.from + ":" + std::to_string(bar.records);
  }
  return out + " .." + histogram->bars().back().to;
}

TEST(HistogramTest, EdgesAreRound) {
  const auto n = [](std::int64_t i) { return Value::integer(i); };
  EXPECT_EQ("1:1 2:0 3:2 4:1 ..5", spread(TypeClass::Integer, {n(1), n(3), n(3), n(4)}));
  EXPECT_EQ("7:1 ..8", spread(TypeClass::Integer, {n(7)}));
  EXPECT_EQ("2025-02-27:1 2025-02-28:0 2025-03-01:1 ..2025-03-02",
            spread(TypeClass::Date, {Value::text("2025-02-27"), Value::text("2025-03-01T10:00:00")}));
  EXPECT_EQ("2024-12-01:1 2025-01-01:0 2025-02-01:1 ..2025-03-01",
            spread(TypeClass::Timestamp, {Value::text("2024-12-31"), Value::text("2025-02-03")}));
  EXPECT_EQ("none", spread(TypeClass::Text, {Value::text("a")}));
  EXPECT_EQ("none", spread(TypeClass::Date, {Value::text("long ago")}));
}

TEST(HistogramTest, EveryValueFallsIntoOneBarAndThatIsWhatItsEdgesSay) {
  std::mt19937 random(7);
  for (int round = 0; round < 200; ++round) {
    const double width = std::pow(10.0, static_cast<double>(random() % 12) - 4);
    std::vector<double> numbers;
    for (int i = 0; i < 50; ++i) numbers.push_back(width * (static_cast<double>(random()) / 2e9 - 1));
    std::sort(numbers.begin(), numbers.end());
    Column column;
    column.type = TypeClass::Real;
    auto histogram = Histogram::over(column, Value::real(numbers.front()), Value::real(numbers.back()));
    ASSERT_TRUE(histogram.has_value());
    EXPECT_LE(histogram->bars().size(), 26U);
    for (const double n : numbers) histogram->add(Value::real(n));
    std::uint64_t all = 0;
    for (const Histogram::Bar& bar : histogram->bars()) {
      all += bar.records;
      const double from = test::numberIn(bar.from);
      const double to = test::numberIn(bar.to);
      const auto between = std::count_if(numbers.begin(), numbers.end(), [&](double n) { return n >= from && n < to; });
      EXPECT_EQ(static_cast<std::uint64_t>(between), bar.records) << bar.condition();
    }
    EXPECT_EQ(numbers.size(), all);
  }
}

}  // namespace
}  // namespace iterandum
