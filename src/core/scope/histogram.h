// Histogram: how the numbers or days of a column are spread. Bars have round edges, so that each can be said as a
// condition: >= 10 and < 20.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "core/catalogue/catalogue.h"

namespace iterandum {

class Histogram {
 public:
  struct Bar {
    std::string from;  // as a condition takes it: 10, 2025-03-01
    std::string to;    // does not belong to it any more
    std::uint64_t records = 0;
    [[nodiscard]] std::string condition() const { return ">= " + from + " and < " + to; }
  };

  // Bars over all that lies from `low` to `high`. Nothing for columns that hold neither numbers nor days, and where a
  // bound is none.
  [[nodiscard]] static std::optional<Histogram> over(const Column& column, const Value& low, const Value& high);
  // What is no number or day (SQLite lets a text lie among numbers) is left out.
  void add(const Value& value, std::uint64_t records = 1);
  [[nodiscard]] const std::vector<Bar>& bars() const { return bars_; }

  // Whether columns like this have one at all.
  [[nodiscard]] static bool isFor(const Column& column);

 private:
  void buildNumbers(double low, double high, bool whole);
  void buildDays(int low, int high);
  [[nodiscard]] std::optional<double> placeOf(const Value& value) const;

  bool days_ = false;
  std::vector<double> edges_;  // one more than bars; days since 1970 for days
  std::vector<Bar> bars_;
};

}  // namespace iterandum
