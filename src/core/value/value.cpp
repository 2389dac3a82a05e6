#include "core/value/value.h"

#include <utf8proc.h>

#include <array>
#include <charconv>
#include <cmath>
#include <functional>
#include <limits>

#include "core/value/base64.h"
#include "core/value/decimal.h"

namespace iterandum {

Value& Value::operator=(const Value& other) {
  if (this != &other) {
    Value copy(other);
    *this = std::move(copy);
  }
  return *this;
}

void Value::copyHeap(const Value& other) {
  size_ = 0;  // owns nothing yet, should the allocation throw
  const Heap from = other.heap();
  Heap to{new char[from.size], from.size};
  std::memcpy(to.data, from.data, from.size);
  store(to);
  size_ = kOnHeap;
}

void Value::freeHeap() noexcept { delete[] heap().data; }

Value Value::boolean(bool b) {
  Value v = integer(b ? 1 : 0);
  v.kind_ = static_cast<std::uint8_t>(Kind::Boolean);
  return v;
}

Value Value::unsignedInteger(std::uint64_t n) {
  Value v;
  v.store(n);
  const bool fits = n <= static_cast<std::uint64_t>(std::numeric_limits<std::int64_t>::max());
  v.kind_ = static_cast<std::uint8_t>(fits ? Kind::Integer : Kind::Unsigned);
  return v;
}

Value Value::real(double d) {
  Value v;
  v.store(d);
  v.kind_ = static_cast<std::uint8_t>(Kind::Real);
  return v;
}

Value Value::decimal(std::string_view plainNotation) { return ofString(Kind::Decimal, plainNotation); }

Value Value::ofString(Kind kind, std::string_view s) {
  Value v;
  v.kind_ = static_cast<std::uint8_t>(kind);
  if (s.size() <= kInline) {
    if (!s.empty()) std::memcpy(v.storage_, s.data(), s.size());
    v.size_ = static_cast<std::uint8_t>(s.size());
  } else {
    Heap to{new char[s.size()], s.size()};
    std::memcpy(to.data, s.data(), s.size());
    v.store(to);
    v.size_ = kOnHeap;
  }
  return v;
}

std::string_view Value::asString() const noexcept {
  if (onHeap()) {
    const Heap h = heap();
    return {h.data, h.size};
  }
  return {storage_, size_};
}

bool operator==(const Value& a, const Value& b) noexcept {
  if (a.kind_ != b.kind_) return false;
  if (a.isString()) return a.asString() == b.asString();
  return a.load<std::uint64_t>() == b.load<std::uint64_t>();
}

namespace {

// 2^63 and 2^64 are exact as doubles: the borders where a double stops fitting an integer type.
constexpr double kTwo63 = 9223372036854775808.0;
constexpr double kTwo64 = 18446744073709551616.0;

bool isWhole(const Value& v) {
  return v.kind() == Value::Kind::Integer || v.kind() == Value::Kind::Boolean || v.kind() == Value::Kind::Unsigned;
}

int sign(bool less, bool greater) { return less ? -1 : (greater ? 1 : 0); }

Value wholeOfDecimal(const Value& v) {
  const std::string text = normalDecimal(v.asString());
  if (const auto n = wholeNumber<std::int64_t>(text)) return Value::integer(*n);
  if (const auto n = wholeNumber<std::uint64_t>(text)) return Value::unsignedInteger(*n);
  return v;
}

// A finite double or decimal that is a whole number within 64 bits becomes an integer value; anything else stays.
Value wholeIfExact(const Value& v) {
  if (v.kind() == Value::Kind::Decimal) return wholeOfDecimal(v);
  if (v.kind() != Value::Kind::Real) return v;
  const double d = v.asReal();
  if (!(std::floor(d) == d)) return v;
  if (d >= -kTwo63 && d < kTwo63) return Value::integer(static_cast<std::int64_t>(d));
  if (d >= kTwo63 && d < kTwo64) return Value::unsignedInteger(static_cast<std::uint64_t>(d));
  return v;
}

std::string numberText(const Value& v) {
  switch (v.kind()) {
    case Value::Kind::Real:
      return plainDouble(v.asReal());
    case Value::Kind::Decimal:
      return normalDecimal(v.asString());
    case Value::Kind::Unsigned:
      return std::to_string(v.asUnsigned());
    default:
      return std::to_string(v.asInteger());
  }
}

int compareNonFinite(const Value& a, const Value& b) {
  const double x = a.kind() == Value::Kind::Real && !std::isfinite(a.asReal()) ? a.asReal() : 0.0;
  const double y = b.kind() == Value::Kind::Real && !std::isfinite(b.asReal()) ? b.asReal() : 0.0;
  if (std::isnan(x) || std::isnan(y)) return sign(!std::isnan(x) && std::isnan(y), std::isnan(x) && !std::isnan(y));
  return sign(x<y, x> y);
}

int compareNumbers(const Value& a, const Value& b) {
  if (a.kind() == Value::Kind::Integer && b.kind() == Value::Kind::Integer) {
    return sign(a.asInteger() < b.asInteger(), a.asInteger() > b.asInteger());
  }
  if (a.kind() == Value::Kind::Real && b.kind() == Value::Kind::Real && std::isfinite(a.asReal()) &&
      std::isfinite(b.asReal())) {
    return sign(a.asReal() < b.asReal(), a.asReal() > b.asReal());
  }
  const auto nonFinite = [](const Value& v) { return v.kind() == Value::Kind::Real && !std::isfinite(v.asReal()); };
  if (nonFinite(a) || nonFinite(b)) return compareNonFinite(a, b);
  const Value x = wholeIfExact(a);
  const Value y = wholeIfExact(b);
  if (isWhole(x) && isWhole(y)) {
    const bool bigX = x.kind() == Value::Kind::Unsigned;
    const bool bigY = y.kind() == Value::Kind::Unsigned;
    if (bigX && bigY) return sign(x.asUnsigned() < y.asUnsigned(), x.asUnsigned() > y.asUnsigned());
    if (bigX != bigY) return bigX ? 1 : -1;
    return sign(x.asInteger() < y.asInteger(), x.asInteger() > y.asInteger());
  }
  return compareNormalDecimals(normalDecimal(numberText(x)), normalDecimal(numberText(y)));
}

int rank(const Value& v) {
  if (v.isNull()) return 0;
  if (v.isNumber()) return 1;
  return static_cast<int>(v.kind());
}

}  // namespace

int compareValues(const Value& a, const Value& b) {
  const int ra = rank(a);
  const int rb = rank(b);
  if (ra != rb) return ra < rb ? -1 : 1;
  if (ra == 0) return 0;
  if (ra == 1) return compareNumbers(a, b);
  const int order = a.asString().compare(b.asString());
  return sign(order<0, order> 0);
}

bool sameValue(const Value& a, const Value& b) {
  if (a.kind() == b.kind() && a.kind() != Value::Kind::Real && a.kind() != Value::Kind::Decimal) return a == b;
  return compareValues(a, b) == 0;
}

namespace {
// The finalizer of splitmix64 (Steele, Lea, Flood 2014): consecutive keys must not share low bits.
std::uint64_t mix(std::uint64_t n) {
  n += 0x9E3779B97F4A7C15ULL;
  n = (n ^ (n >> 30)) * 0xBF58476D1CE4E5B9ULL;
  n = (n ^ (n >> 27)) * 0x94D049BB133111EBULL;
  return n ^ (n >> 31);
}
}  // namespace

std::uint64_t hashValue(const Value& v) {
  if (v.kind() == Value::Kind::Integer) return mix(static_cast<std::uint64_t>(v.asInteger()));
  if (v.isNull()) return 0x9E3779B97F4A7C15ULL;
  if (!v.isNumber()) return std::hash<std::string_view>{}(v.asString());
  const Value x = wholeIfExact(v);
  if (x.kind() == Value::Kind::Real && !std::isfinite(x.asReal())) return 7;
  if (x.kind() == Value::Kind::Decimal || x.kind() == Value::Kind::Real || x.kind() == Value::Kind::Unsigned) {
    // A decimal and a double of the same worth must meet in the same bucket.
    return std::hash<std::string>{}(normalDecimal(numberText(x)));
  }
  return mix(static_cast<std::uint64_t>(x.asInteger()));
}

void appendSameBytes(const Value& v, std::string& out) {
  const auto append = [&out](char kind, std::string_view text) {
    out += kind;
    out += std::to_string(text.size());
    out += ':';
    out += text;
  };
  if (v.isNull()) return append('-', {});
  if (!v.isNumber()) return append('t', v.asString());
  const Value x = wholeIfExact(v);
  if (x.kind() == Value::Kind::Integer) return append('n', std::to_string(x.asInteger()));
  if (x.kind() == Value::Kind::Real && !std::isfinite(x.asReal())) return append('r', shortestDouble(x.asReal()));
  append('n', normalDecimal(numberText(x)));
}

std::string canonicalText(const Value& v) {
  switch (v.kind()) {
    case Value::Kind::Null:
      return {};
    case Value::Kind::Boolean:
      return v.asBoolean() ? "true" : "false";
    case Value::Kind::Integer:
      return std::to_string(v.asInteger());
    case Value::Kind::Unsigned:
      return std::to_string(v.asUnsigned());
    case Value::Kind::Real:
      return shortestDouble(v.asReal());
    case Value::Kind::Bytes:
      return encodeBase64(v.asString());
    default:
      return std::string(v.asString());
  }
}

bool readsAs(const Value& v, std::string_view text) {
  if (v.isString() && v.kind() != Value::Kind::Bytes) return v.asString() == text;
  if (v.kind() != Value::Kind::Integer) return canonicalText(v) == text;
  std::array<char, 20> digits{};
  const auto end = std::to_chars(digits.data(), digits.data() + digits.size(), v.asInteger());
  return text == std::string_view(digits.data(), static_cast<std::size_t>(end.ptr - digits.data()));
}

bool isValidUtf8(std::string_view s) {
  const auto* at = reinterpret_cast<const utf8proc_uint8_t*>(s.data());
  auto left = static_cast<utf8proc_ssize_t>(s.size());
  while (left > 0) {
    if (*at < 0x80) {
      ++at;
      --left;
      continue;
    }
    utf8proc_int32_t codepoint = 0;
    const utf8proc_ssize_t used = utf8proc_iterate(at, left, &codepoint);
    if (used <= 0) return false;
    at += used;
    left -= used;
  }
  return true;
}

}  // namespace iterandum
