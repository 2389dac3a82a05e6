// ExactNumber: a decimal of any size to compute with. Sums, differences and products are exact; a quotient keeps 34
// significant digits, half to even (as decimal128 of IEEE 754-2008 does). Nothing goes through a binary float.
// Values: copy and share them freely.
#pragma once

#include <boost/multiprecision/cpp_int.hpp>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

namespace iterandum {

class ExactNumber {
 public:
  ExactNumber() = default;
  explicit ExactNumber(std::int64_t whole) : units_(whole) {}

  // A number as plainDecimal() takes it. Nothing: it is none.
  [[nodiscard]] static std::optional<ExactNumber> read(std::string_view text);

  // Plain notation without needless zeros: "-12.5", "0", "1000".
  [[nodiscard]] std::string plain() const;
  // The whole number that it is, where it is one and fits.
  [[nodiscard]] std::optional<std::int64_t> whole() const;
  [[nodiscard]] bool isZero() const { return units_.is_zero(); }
  [[nodiscard]] bool isNegative() const { return units_ < 0; }
  // Whether it has more digits than any column takes (20 000): what is computed on with it would fill memory.
  [[nodiscard]] bool isTooLong() const;

  [[nodiscard]] ExactNumber negated() const { return {-units_, places_}; }
  [[nodiscard]] ExactNumber absolute() const { return {abs(units_), places_}; }
  [[nodiscard]] ExactNumber plus(const ExactNumber& other) const;
  [[nodiscard]] ExactNumber minus(const ExactNumber& other) const { return plus(other.negated()); }
  [[nodiscard]] ExactNumber times(const ExactNumber& other) const;
  // REQUIRES, of both: the other one is not nought.
  [[nodiscard]] ExactNumber dividedBy(const ExactNumber& other) const;
  // What is left of a whole number of times; with the sign of this one.
  [[nodiscard]] ExactNumber remainder(const ExactNumber& other) const;
  // To so many places behind the point, or before it where that is negative; a half goes away from nought.
  [[nodiscard]] ExactNumber rounded(std::int64_t places) const;
  // The next whole number that is not more, not less.
  [[nodiscard]] ExactNumber floor() const;
  [[nodiscard]] ExactNumber ceil() const { return negated().floor().negated(); }
  // -1, 0, 1
  [[nodiscard]] int compare(const ExactNumber& other) const;

 private:
  using Units = boost::multiprecision::cpp_int;
  ExactNumber(Units units, std::size_t places) : units_(std::move(units)), places_(places) {}
  [[nodiscard]] static Units powerOfTen(std::size_t exponent);
  [[nodiscard]] Units unitsAt(std::size_t places) const;  // REQUIRES: not fewer places than it has

  Units units_ = 0;  // of the last place
  std::size_t places_ = 0;
};

}  // namespace iterandum
