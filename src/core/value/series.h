// Series: values that count on from a first one. Numbers go on exactly by a step; days and moments by days, or by whole
// months where both lie on the same day of theirs; texts by the number at their end ("T-01"), else at their beginning
// ("12 Harbour Row"), with the same count of digits.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <variant>

#include "core/value/value.h"

namespace iterandum {

class Series {
 public:
  // By one, or by what `second` is more than `first`. Nothing: one cannot count on from these.
  [[nodiscard]] static std::optional<Series> from(const Value& first, const std::optional<Value>& second = {});

  // Number `n` of them, from 0, which is the first one itself. No value where it goes beyond what there is: below
  // nought in a text, beyond the years 1 to 9999.
  [[nodiscard]] Value at(std::int64_t n) const;
  // The step in words: "1", "-0.5", "7 days", "2 months".
  [[nodiscard]] std::string step() const;

 private:
  struct Numbers {
    std::string first;  // plain decimals
    std::string step;
  };
  struct Days {
    std::int64_t first = 0;  // days since 1970-01-01
    std::int64_t step = 1;
    bool months = false;  // `step` counts months
    std::string rest;     // what follows the day
  };
  struct Texts {
    std::string before;
    std::uint64_t first = 0;
    std::int64_t step = 1;
    std::size_t digits = 1;
    std::string behind;
  };
  static std::optional<Series> ofNumbers(const Value& first, const std::optional<Value>& second);
  static std::optional<Series> ofDays(const Value& first, const std::optional<Value>& second);
  static std::optional<Series> ofTexts(const Value& first, const std::optional<Value>& second);
  Series(Value first, std::variant<Numbers, Days, Texts> rule) : first_(std::move(first)), rule_(std::move(rule)) {}

  Value first_;
  std::variant<Numbers, Days, Texts> rule_;
};

}  // namespace iterandum
