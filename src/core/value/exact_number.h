// ExactNumber: a decimal of any size to compute with. Sums, differences and products are exact; a quotient keeps 34
// significant digits, half to even (as decimal128 of IEEE 754-2008 does). Nothing goes through a binary float.
// Values: copy and share them freely.
#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <string_view>

namespace iterandum {

class ExactNumber {
 public:
  ExactNumber() = default;
  explicit ExactNumber(std::int64_t whole) : small_(whole) {}

  // A number as plainDecimal() takes it. Nothing: it is none.
  [[nodiscard]] static std::optional<ExactNumber> read(std::string_view text);

  // Plain notation without needless zeros: "-12.5", "0", "1000".
  [[nodiscard]] std::string plain() const;
  // The whole number that it is, where it is one and fits.
  [[nodiscard]] std::optional<std::int64_t> whole() const;
  [[nodiscard]] bool isZero() const { return big_ == nullptr && small_ == 0; }
  // Whether it has more digits than any column takes (20 000): what is computed on with it would fill memory.
  [[nodiscard]] bool isTooLong() const;

  [[nodiscard]] ExactNumber negated() const;
  [[nodiscard]] ExactNumber absolute() const;
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
  struct Units;  // a whole number of any size
  struct Compute;

  // Of the last place: in a machine word while it fits, which is nearly always.
  std::int64_t small_ = 0;
  std::shared_ptr<const Units> big_;
  std::size_t places_ = 0;
};

}  // namespace iterandum
