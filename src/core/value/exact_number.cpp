#include "core/value/exact_number.h"

#include <algorithm>
#include <array>

#include "core/value/decimal.h"

namespace iterandum {
namespace {

constexpr std::size_t kQuotientDigits = 34;
constexpr std::size_t kMostExactDigits = 20000;

std::size_t digitsOf(const boost::multiprecision::cpp_int& n) {
  return boost::multiprecision::cpp_int(abs(n)).str().size();
}

}  // namespace

ExactNumber::Units ExactNumber::powerOfTen(std::size_t exponent) {
  static const std::array<Units, 40> kPowers = [] {
    std::array<Units, 40> out;
    Units power = 1;
    for (Units& one : out) {
      one = power;
      power *= 10;
    }
    return out;
  }();
  if (exponent < kPowers.size()) return kPowers[exponent];
  return pow(Units(10), static_cast<unsigned>(exponent));
}

ExactNumber::Units ExactNumber::unitsAt(std::size_t places) const {
  return places == places_ ? units_ : Units(units_ * powerOfTen(places - places_));
}

std::optional<ExactNumber> ExactNumber::read(std::string_view text) {
  // The usual case: digits that fit a machine word, with a point perhaps.
  if (const auto whole = wholeNumber<std::int64_t>(text)) return ExactNumber(*whole);
  const auto plain = plainDecimal(text);
  if (!plain) return std::nullopt;
  std::string digits = *plain;
  ExactNumber out;
  const bool negative = digits.front() == '-';
  if (negative) digits.erase(0, 1);
  if (const std::size_t point = digits.find('.'); point != std::string::npos) {
    out.places_ = digits.size() - point - 1;
    digits.erase(point, 1);
  }
  // A nought in front would make an octal number of it.
  digits.erase(0, std::min(digits.find_first_not_of('0'), digits.size() - 1));
  out.units_ = Units(digits);
  if (negative) out.units_ = -out.units_;
  return out;
}

std::string ExactNumber::plain() const {
  std::string digits = Units(abs(units_)).str();
  if (places_ > 0) {
    if (digits.size() <= places_) digits.insert(0, places_ + 1 - digits.size(), '0');
    digits.insert(digits.size() - places_, 1, '.');
    digits.erase(digits.find_last_not_of('0') + 1);
    if (digits.back() == '.') digits.pop_back();
  }
  return units_ < 0 ? "-" + digits : digits;
}

std::optional<std::int64_t> ExactNumber::whole() const {
  const Units power = powerOfTen(places_);
  const Units units = units_ / power;
  if (units * power != units_) return std::nullopt;
  if (units < std::numeric_limits<std::int64_t>::min() || units > std::numeric_limits<std::int64_t>::max())
    return std::nullopt;
  return static_cast<std::int64_t>(units);
}

bool ExactNumber::isTooLong() const {
  constexpr std::size_t kBitsForThreeDigits = 10;
  return places_ > kMostExactDigits ||
         (!units_.is_zero() && msb(Units(abs(units_))) > kMostExactDigits / 3 * kBitsForThreeDigits);
}

ExactNumber ExactNumber::plus(const ExactNumber& other) const {
  const std::size_t places = std::max(places_, other.places_);
  return {unitsAt(places) + other.unitsAt(places), places};
}

ExactNumber ExactNumber::times(const ExactNumber& other) const {
  return {units_ * other.units_, places_ + other.places_};
}

ExactNumber ExactNumber::dividedBy(const ExactNumber& other) const {
  if (isZero()) return {};
  Units numerator = abs(units_);
  Units denominator = abs(other.units_);
  const auto wanted = static_cast<std::int64_t>(kQuotientDigits + 1 + digitsOf(denominator));
  const std::int64_t shift = wanted - static_cast<std::int64_t>(digitsOf(numerator));
  if (shift > 0) {
    numerator *= powerOfTen(static_cast<std::size_t>(shift));
  } else {
    denominator *= powerOfTen(static_cast<std::size_t>(-shift));
  }
  Units quotient;
  Units rest;
  divide_qr(numerator, denominator, quotient, rest);
  auto places = static_cast<std::int64_t>(places_) - static_cast<std::int64_t>(other.places_) + shift;
  if (const std::size_t digits = digitsOf(quotient); digits > kQuotientDigits) {
    const Units power = powerOfTen(digits - kQuotientDigits);
    Units dropped;
    Units kept;
    divide_qr(quotient, power, kept, dropped);
    const int half = Units(dropped * 2).compare(power);
    const bool beyondHalf = half > 0 || (half == 0 && !rest.is_zero());
    if (beyondHalf || (half == 0 && bit_test(kept, 0))) ++kept;
    quotient = kept;
    places -= static_cast<std::int64_t>(digits - kQuotientDigits);
  }
  if (places < 0) {
    quotient *= powerOfTen(static_cast<std::size_t>(-places));
    places = 0;
  }
  if ((units_ < 0) != (other.units_ < 0)) quotient = -quotient;
  // Noughts at the end would only make later numbers longer.
  while (places > 0 && quotient % 10 == 0) {
    quotient /= 10;
    --places;
  }
  return {std::move(quotient), static_cast<std::size_t>(places)};
}

ExactNumber ExactNumber::remainder(const ExactNumber& other) const {
  const std::size_t places = std::max(places_, other.places_);
  return {unitsAt(places) % other.unitsAt(places), places};
}

ExactNumber ExactNumber::rounded(std::int64_t places) const {
  if (places >= static_cast<std::int64_t>(places_)) return *this;
  const auto dropped = static_cast<std::size_t>(static_cast<std::int64_t>(places_) - places);
  // Rounded to far more noughts than it has digits, nothing is left.
  if (dropped > digitsOf(units_) + 1) return {};
  const Units power = powerOfTen(dropped);
  Units kept;
  Units rest;
  divide_qr(Units(abs(units_)), power, kept, rest);
  if (rest * 2 >= power) ++kept;
  if (units_ < 0) kept = -kept;
  if (places >= 0) return {std::move(kept), static_cast<std::size_t>(places)};
  return {kept * powerOfTen(static_cast<std::size_t>(-places)), 0};
}

ExactNumber ExactNumber::floor() const {
  const Units power = powerOfTen(places_);
  Units kept = units_ / power;
  if (units_ < 0 && kept * power != units_) --kept;
  return {std::move(kept), 0};
}

int ExactNumber::compare(const ExactNumber& other) const {
  const std::size_t places = std::max(places_, other.places_);
  return unitsAt(places).compare(other.unitsAt(places));
}

}  // namespace iterandum
