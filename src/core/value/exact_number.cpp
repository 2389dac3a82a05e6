#include "core/value/exact_number.h"

#include <algorithm>
#include <array>
#include <boost/multiprecision/cpp_int.hpp>
#include <limits>

#include "core/value/decimal.h"

namespace iterandum {
namespace {

using Whole = boost::multiprecision::cpp_int;

constexpr std::size_t kQuotientDigits = 34;
constexpr std::size_t kMostExactDigits = 20000;
// 10^18 is the last power of ten in a machine word.
constexpr std::size_t kSmallPowers = 19;

constexpr std::array<std::int64_t, kSmallPowers> kSmallPower = [] {
  std::array<std::int64_t, kSmallPowers> out{};
  std::int64_t power = 1;
  for (std::size_t i = 0; i < out.size(); ++i) {
    out[i] = power;
    if (i + 1 < out.size()) power *= 10;
  }
  return out;
}();

Whole powerOfTen(std::size_t exponent) {
  if (exponent < kSmallPowers) return kSmallPower[exponent];
  return pow(Whole(10), static_cast<unsigned>(exponent));
}

std::size_t digitsOf(const Whole& n) { return Whole(abs(n)).str().size(); }

}  // namespace

struct ExactNumber::Units {
  Whole n;
};

// What is done with numbers of any size.
struct ExactNumber::Compute {
  static Whole units(const ExactNumber& x) { return x.big_ == nullptr ? Whole(x.small_) : x.big_->n; }
  static Whole unitsAt(const ExactNumber& x, std::size_t places) {
    Whole out = units(x);
    if (places > x.places_) out *= powerOfTen(places - x.places_);
    return out;
  }
  static ExactNumber of(Whole n, std::size_t places) {
    ExactNumber out;
    out.places_ = places;
    if (n >= std::numeric_limits<std::int64_t>::min() && n <= std::numeric_limits<std::int64_t>::max()) {
      out.small_ = static_cast<std::int64_t>(n);
    } else {
      out.big_ = std::make_shared<const Units>(Units{std::move(n)});
    }
    return out;
  }
  // The same number with more places; nothing: it does not fit a machine word.
  static std::optional<std::int64_t> smallAt(const ExactNumber& x, std::size_t places) {
    if (x.big_ != nullptr || places - x.places_ >= kSmallPowers) return std::nullopt;
    std::int64_t out = 0;
    if (__builtin_mul_overflow(x.small_, kSmallPower[places - x.places_], &out)) return std::nullopt;
    return out;
  }
  static ExactNumber small(std::int64_t n, std::size_t places) {
    ExactNumber out(n);
    out.places_ = places;
    return out;
  }
};

std::optional<ExactNumber> ExactNumber::read(std::string_view text) {
  // The usual case: digits that fit a machine word.
  if (const auto whole = wholeNumber<std::int64_t>(text)) return ExactNumber(*whole);
  const auto plain = plainDecimal(text);
  if (!plain) return std::nullopt;
  std::string digits = *plain;
  std::size_t places = 0;
  const bool negative = digits.front() == '-';
  if (negative) digits.erase(0, 1);
  if (const std::size_t point = digits.find('.'); point != std::string::npos) {
    places = digits.size() - point - 1;
    digits.erase(point, 1);
  }
  // A nought in front would make an octal number of it.
  digits.erase(0, std::min(digits.find_first_not_of('0'), digits.size() - 1));
  if (const auto small = wholeNumber<std::int64_t>(digits)) return Compute::small(negative ? -*small : *small, places);
  Whole units(digits);
  return Compute::of(negative ? Whole(-units) : units, places);
}

std::string ExactNumber::plain() const {
  if (big_ == nullptr && places_ == 0) return std::to_string(small_);
  const Whole units = Compute::units(*this);
  std::string digits = Whole(abs(units)).str();
  if (places_ > 0) {
    if (digits.size() <= places_) digits.insert(0, places_ + 1 - digits.size(), '0');
    digits.insert(digits.size() - places_, 1, '.');
    digits.erase(digits.find_last_not_of('0') + 1);
    if (digits.back() == '.') digits.pop_back();
  }
  return units < 0 ? "-" + digits : digits;
}

std::optional<std::int64_t> ExactNumber::whole() const {
  if (big_ == nullptr && places_ < kSmallPowers) {
    const std::int64_t power = kSmallPower[places_];
    return small_ % power == 0 ? std::optional(small_ / power) : std::nullopt;
  }
  const Whole units = Compute::units(*this);
  const Whole power = powerOfTen(places_);
  const Whole there = units / power;
  if (there * power != units) return std::nullopt;
  const ExactNumber out = Compute::of(there, 0);
  return out.big_ == nullptr ? std::optional(out.small_) : std::nullopt;
}

bool ExactNumber::isTooLong() const {
  constexpr std::size_t kBitsForThreeDigits = 10;
  if (places_ > kMostExactDigits) return true;
  return big_ != nullptr && msb(Whole(abs(big_->n))) > kMostExactDigits / 3 * kBitsForThreeDigits;
}

ExactNumber ExactNumber::negated() const {
  if (big_ == nullptr && small_ != std::numeric_limits<std::int64_t>::min()) return Compute::small(-small_, places_);
  return Compute::of(-Compute::units(*this), places_);
}

ExactNumber ExactNumber::absolute() const {
  const bool negative = big_ == nullptr ? small_ < 0 : big_->n < 0;
  return negative ? negated() : *this;
}

ExactNumber ExactNumber::plus(const ExactNumber& other) const {
  const std::size_t places = std::max(places_, other.places_);
  const auto a = Compute::smallAt(*this, places);
  const auto b = Compute::smallAt(other, places);
  std::int64_t sum = 0;
  if (a && b && !__builtin_add_overflow(*a, *b, &sum)) return Compute::small(sum, places);
  return Compute::of(Compute::unitsAt(*this, places) + Compute::unitsAt(other, places), places);
}

ExactNumber ExactNumber::times(const ExactNumber& other) const {
  std::int64_t product = 0;
  const bool small = big_ == nullptr && other.big_ == nullptr;
  if (small && !__builtin_mul_overflow(small_, other.small_, &product)) {
    return Compute::small(product, places_ + other.places_);
  }
  return Compute::of(Compute::units(*this) * Compute::units(other), places_ + other.places_);
}

ExactNumber ExactNumber::dividedBy(const ExactNumber& other) const {
  if (isZero()) return {};
  // Whole numbers that go into each other.
  if (big_ == nullptr && other.big_ == nullptr && places_ == other.places_ && other.small_ != -1 &&
      small_ % other.small_ == 0) {
    return ExactNumber(small_ / other.small_);
  }
  Whole numerator = abs(Compute::units(*this));
  Whole denominator = abs(Compute::units(other));
  const auto wanted = static_cast<std::int64_t>(kQuotientDigits + 1 + digitsOf(denominator));
  const std::int64_t shift = wanted - static_cast<std::int64_t>(digitsOf(numerator));
  if (shift > 0) {
    numerator *= powerOfTen(static_cast<std::size_t>(shift));
  } else {
    denominator *= powerOfTen(static_cast<std::size_t>(-shift));
  }
  Whole quotient;
  Whole rest;
  divide_qr(numerator, denominator, quotient, rest);
  auto places = static_cast<std::int64_t>(places_) - static_cast<std::int64_t>(other.places_) + shift;
  if (const std::size_t digits = digitsOf(quotient); digits > kQuotientDigits) {
    const Whole power = powerOfTen(digits - kQuotientDigits);
    Whole dropped;
    Whole kept;
    divide_qr(quotient, power, kept, dropped);
    const int half = Whole(dropped * 2).compare(power);
    const bool beyondHalf = half > 0 || (half == 0 && !rest.is_zero());
    if (beyondHalf || (half == 0 && bit_test(kept, 0))) ++kept;
    quotient = kept;
    places -= static_cast<std::int64_t>(digits - kQuotientDigits);
  }
  if (places < 0) {
    quotient *= powerOfTen(static_cast<std::size_t>(-places));
    places = 0;
  }
  if ((Compute::units(*this) < 0) != (Compute::units(other) < 0)) quotient = -quotient;
  // Noughts at the end would only make later numbers longer.
  while (places > 0 && quotient % 10 == 0) {
    quotient /= 10;
    --places;
  }
  return Compute::of(std::move(quotient), static_cast<std::size_t>(places));
}

ExactNumber ExactNumber::remainder(const ExactNumber& other) const {
  const std::size_t places = std::max(places_, other.places_);
  return Compute::of(Compute::unitsAt(*this, places) % Compute::unitsAt(other, places), places);
}

ExactNumber ExactNumber::rounded(std::int64_t places) const {
  if (places >= static_cast<std::int64_t>(places_)) return *this;
  const auto dropped = static_cast<std::size_t>(static_cast<std::int64_t>(places_) - places);
  const Whole units = Compute::units(*this);
  // Rounded to far more noughts than it has digits, nothing is left.
  if (dropped > digitsOf(units) + 1) return {};
  const Whole power = powerOfTen(dropped);
  Whole kept;
  Whole rest;
  divide_qr(Whole(abs(units)), power, kept, rest);
  if (rest * 2 >= power) ++kept;
  if (units < 0) kept = -kept;
  if (places >= 0) return Compute::of(std::move(kept), static_cast<std::size_t>(places));
  return Compute::of(kept * powerOfTen(static_cast<std::size_t>(-places)), 0);
}

ExactNumber ExactNumber::floor() const {
  const Whole units = Compute::units(*this);
  const Whole power = powerOfTen(places_);
  Whole kept = units / power;
  if (units < 0 && kept * power != units) --kept;
  return Compute::of(std::move(kept), 0);
}

int ExactNumber::compare(const ExactNumber& other) const {
  const std::size_t places = std::max(places_, other.places_);
  const auto a = Compute::smallAt(*this, places);
  const auto b = Compute::smallAt(other, places);
  if (a && b) return *a < *b ? -1 : (*a > *b ? 1 : 0);
  return Compute::unitsAt(*this, places).compare(Compute::unitsAt(other, places));
}

}  // namespace iterandum
