#include "core/value/codec.h"

#include <bit>

namespace iterandum {
namespace {
std::uint64_t zigzag(std::int64_t n) {
  return (static_cast<std::uint64_t>(n) << 1) ^ static_cast<std::uint64_t>(n >> 63);
}
// How the values of a column are written.
constexpr std::uint64_t kEach = 0;
constexpr std::uint64_t kOneForAll = 1;
constexpr std::uint64_t kSteps = 2;  // integers, each as its distance from the one before, modulo 2^64

std::int64_t unzigzag(std::uint64_t n) { return static_cast<std::int64_t>((n >> 1) ^ (~(n & 1) + 1)); }
}  // namespace

void ByteWriter::number(std::uint64_t n) {
  while (n >= 0x80) {
    bytes_ += static_cast<char>(n | 0x80);
    n >>= 7;
  }
  bytes_ += static_cast<char>(n);
}

void ByteWriter::signedNumber(std::int64_t n) { number(zigzag(n)); }

void ByteWriter::string(std::string_view s) {
  number(s.size());
  bytes_ += s;
}

void ByteWriter::value(const Value& v) {
  bytes_ += static_cast<char>(v.kind());
  switch (v.kind()) {
    case Value::Kind::Null:
      break;
    case Value::Kind::Boolean:
    case Value::Kind::Integer:
      signedNumber(v.asInteger());
      break;
    case Value::Kind::Unsigned:
      number(v.asUnsigned());
      break;
    case Value::Kind::Real: {
      auto bits = std::bit_cast<std::uint64_t>(v.asReal());
      for (int i = 0; i < 8; ++i, bits >>= 8) bytes_ += static_cast<char>(bits & 0xFF);
      break;
    }
    default:
      string(v.asString());
  }
}

void ByteWriter::column(const ValueColumn& column) {
  number(column.size());
  if (const auto integers = column.integers(); !integers.empty()) {
    // Keys mostly follow each other: the step from one to the next fits a byte.
    number(kSteps);
    std::uint64_t last = 0;
    for (const std::int64_t n : integers) {
      signedNumber(static_cast<std::int64_t>(static_cast<std::uint64_t>(n) - last));
      last = static_cast<std::uint64_t>(n);
    }
    return;
  }
  number(column.isConstant() ? kOneForAll : kEach);
  const std::size_t written = column.isConstant() && !column.empty() ? 1 : column.size();
  for (std::size_t i = 0; i < written; ++i) value(column.at(i));
}

void ByteWriter::tuple(const ValueTuple& tuple) {
  number(tuple.size());
  for (const Value& v : tuple) value(v);
}

std::uint64_t ByteReader::number() {
  std::uint64_t n = 0;
  for (unsigned shift = 0; shift < 64 && !rest_.empty(); shift += 7) {
    const auto byte = static_cast<unsigned char>(rest_.front());
    rest_.remove_prefix(1);
    n |= static_cast<std::uint64_t>(byte & 0x7F) << shift;
    if (byte < 0x80) return n;
  }
  ok_ = false;
  rest_ = {};
  return 0;
}

std::int64_t ByteReader::signedNumber() { return unzigzag(number()); }

std::string_view ByteReader::string() {
  const std::uint64_t size = number();
  if (size > rest_.size()) {
    ok_ = false;
    rest_ = {};
    return {};
  }
  const std::string_view s = rest_.substr(0, size);
  rest_.remove_prefix(size);
  return s;
}

Value ByteReader::value() {
  if (rest_.empty()) {
    ok_ = false;
    return {};
  }
  const auto kind = static_cast<Value::Kind>(rest_.front());
  rest_.remove_prefix(1);
  switch (kind) {
    case Value::Kind::Null:
      return {};
    case Value::Kind::Boolean:
      return Value::boolean(signedNumber() != 0);
    case Value::Kind::Integer:
      return Value::integer(signedNumber());
    case Value::Kind::Unsigned:
      return Value::unsignedInteger(number());
    case Value::Kind::Real: {
      if (rest_.size() < 8) break;
      std::uint64_t bits = 0;
      for (int i = 7; i >= 0; --i) bits = bits << 8 | static_cast<unsigned char>(rest_[static_cast<std::size_t>(i)]);
      rest_.remove_prefix(8);
      return Value::real(std::bit_cast<double>(bits));
    }
    default:
      if (kind > Value::Kind::PendingKey) break;
      return Value::ofString(kind, string());
  }
  ok_ = false;
  rest_ = {};
  return {};
}

std::size_t ByteReader::count() {
  const std::uint64_t n = number();
  if (n > rest_.size()) {
    ok_ = false;
    rest_ = {};
    return 0;
  }
  return static_cast<std::size_t>(n);
}

ValueColumn ByteReader::column() {
  const std::uint64_t size = number();
  const std::uint64_t form = number();
  if (form == kOneForAll) return size == 0 ? ValueColumn() : ValueColumn(static_cast<std::size_t>(size), value());
  ValueColumn column;
  if (size > rest_.size() || form > kSteps) ok_ = false;
  if (!ok_) return column;
  column.reserve(static_cast<std::size_t>(size));
  if (form == kSteps) {
    std::uint64_t last = 0;
    for (std::uint64_t i = 0; i < size && ok_; ++i) {
      last += static_cast<std::uint64_t>(signedNumber());
      column.push(Value::integer(static_cast<std::int64_t>(last)));
    }
    return column;
  }
  for (std::uint64_t i = 0; i < size && ok_; ++i) column.push(value());
  return column;
}

ValueTuple ByteReader::tuple() {
  const std::size_t size = count();
  ValueTuple t;
  t.reserve(size);
  for (std::size_t i = 0; i < size && ok_; ++i) t.push_back(value());
  return t;
}

}  // namespace iterandum
