// Computed: what an expression works with: nothing, a number, a text, a day, a moment, a time of day, a stretch of
// time, or a value that can only be passed on. Part of expressions.
#pragma once

#include <chrono>
#include <cstdint>
#include <optional>
#include <string>
#include <utility>

#include "core/base/result.h"
#include "core/catalogue/catalogue.h"
#include "core/value/exact_number.h"

namespace iterandum {

// A stretch of time. Months, days and seconds are kept apart, since a month is no number of days.
struct Stretch {
  std::int64_t months = 0;
  std::int64_t days = 0;
  std::int64_t nanoseconds = 0;
  bool ofTheDay = false;  // hours, minutes or seconds were spoken of: a day and it give a moment
};

struct Computed {
  enum class Kind { None, Number, Text, Day, Moment, Time, Stretch, Other };
  Kind kind = Kind::None;
  ExactNumber number;              // Number
  std::string text;                // Text
  std::chrono::sys_days day{};     // Day, Moment
  std::int64_t nanoseconds = 0;    // Moment, Time: since the day began
  Stretch stretch;                 // Stretch
  std::optional<Value> unchanged;  // as it was taken from a column

  // Becomes this number. What it was besides is of no account then.
  void becomeNumber(ExactNumber value) {
    kind = Kind::Number;
    number = std::move(value);
    unchanged.reset();
  }
  static Computed ofNumber(ExactNumber number);
  static Computed ofText(std::string text);
  static Computed ofDay(std::chrono::sys_days day);
  static Computed ofMoment(std::chrono::sys_days day, std::int64_t nanoseconds);
  static Computed ofStretch(Stretch stretch);
  // As it lies in a column.
  static Computed ofValue(const Column& column, const Value& value) {
    Computed out;
    out.take(column, value);
    return out;
  }
  void take(const Column& column, const Value& value);
};

// "the text 'Elm'", "the day 2026-11-25": for messages.
[[nodiscard]] std::string inWords(const Computed& value);

// As it is joined to a text: digits as they were where it was taken unchanged. REQUIRES: neither Stretch nor Other.
[[nodiscard]] std::string textOf(const Computed& value);

// The day and time that a text says, in the forms of ISO 8601; nothing: none.
[[nodiscard]] std::optional<Computed> calendarOf(std::string_view text);

// Errors of these: InvalidInput, without a place.

// A day, moment or time of day so much later. A month that has no such day gives its last.
[[nodiscard]] Result<Computed> later(const Computed& start, const Stretch& stretch);
// A stretch so many times.
[[nodiscard]] Result<Stretch> times(const Stretch& stretch, const ExactNumber& number);
[[nodiscard]] Result<Stretch> together(const Stretch& a, const Stretch& b);

// The value that a column would hold were this typed into it; a value taken unchanged goes in as it is.
// Errors: Constraint as typedValue() has them; InvalidInput for what can be in no column.
[[nodiscard]] Result<Value> valueFor(const Column& column, const Computed& computed);

}  // namespace iterandum
