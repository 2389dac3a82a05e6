// Exact decimals as text.
//
// Debian 12 ships no arbitrary-precision decimal library for C or C++, and all that is needed here is to read a
// number's digits, bring them into one form and compare. The canonical form is plain notation without needless zeros
// ("-12.5", "0", "1000"); it never passes through a binary float.
#pragma once

#include <charconv>
#include <optional>
#include <string>
#include <string_view>

namespace iterandum {

// Plain notation of a number written as JSON or SQL write it (sign, digits, point, exponent), digits kept as written
// ("12.50" stays "12.50", "1e3" becomes "1000"). Nothing when it is no number, or would need over 20 000 digits.
[[nodiscard]] std::optional<std::string> plainDecimal(std::string_view number);

// The canonical form of a plain notation: no leading zeros, no trailing zeros after the point, no "-0".
[[nodiscard]] std::string normalDecimal(std::string_view plain);

// -1, 0, 1. REQUIRES: both are canonical.
[[nodiscard]] int compareNormalDecimals(std::string_view a, std::string_view b);

// A whole number of the type, written in plain digits and nothing else. Nothing when it does not fit.
template <typename Number>
[[nodiscard]] std::optional<Number> wholeNumber(std::string_view digits) {
  Number n{};
  const auto [end, error] = std::from_chars(digits.data(), digits.data() + digits.size(), n);
  if (error != std::errc() || end != digits.data() + digits.size()) return std::nullopt;
  return n;
}

// The shortest plain notation that reads back as the same double. REQUIRES: d is finite.
[[nodiscard]] std::string plainDouble(double d);

// The shortest form that reads back the same and is visibly a float: "2.0", "1e+300", "NaN", "-Infinity".
[[nodiscard]] std::string shortestDouble(double d);

}  // namespace iterandum
