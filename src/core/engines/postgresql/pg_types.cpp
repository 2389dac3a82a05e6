#include "core/engines/postgresql/pg_types.h"

#include <algorithm>
#include <charconv>
#include <chrono>
#include <cmath>

namespace iterandum {
namespace {

// The numbers of built-in types never change (src/include/catalog/pg_type.dat).
constexpr Oid kBool = 16;
constexpr Oid kBytea = 17;
constexpr Oid kChar = 18;
constexpr Oid kName = 19;
constexpr Oid kInt8 = 20;
constexpr Oid kInt2 = 21;
constexpr Oid kInt4 = 23;
constexpr Oid kText = 25;
constexpr Oid kOid = 26;
constexpr Oid kJson = 114;
constexpr Oid kXml = 142;
constexpr Oid kFloat4 = 700;
constexpr Oid kFloat8 = 701;
constexpr Oid kBpchar = 1042;
constexpr Oid kVarchar = 1043;
constexpr Oid kDate = 1082;
constexpr Oid kTime = 1083;
constexpr Oid kTimestamp = 1114;
constexpr Oid kTimestampTz = 1184;
constexpr Oid kInterval = 1186;
constexpr Oid kTimeTz = 1266;
constexpr Oid kBit = 1560;
constexpr Oid kNumeric = 1700;
// A type modifier counts the four bytes of a length word.
constexpr int kLengthWord = 4;

void describeInteger(Column& column, std::int64_t low, std::int64_t high) {
  column.type = TypeClass::Integer;
  column.minInteger = low;
  column.maxInteger = high;
}

void describeText(Column& column, int modifier) {
  column.type = TypeClass::Text;
  if (modifier > kLengthWord) column.maxLength = modifier - kLengthWord;
}

void describeNumeric(Column& column, int modifier) {
  column.type = TypeClass::Decimal;
  if (modifier < kLengthWord) return;
  column.mostDigits = ((modifier - kLengthWord) >> 16) & 0xFFFF;
  // Eleven bits with a sign, since version 15.
  column.mostDecimals = (((modifier - kLengthWord) & 0x7FF) ^ 1024) - 1024;
}

// Bits up to here are shown as a number; bits of a varying length would lose their length by that.
constexpr int kMostNumberBits = 63;

// bit(n): a number, as it is on every engine. The way of the cast is the server's only one from a number to bits.
void describeBits(Column& column, int bits) {
  if (bits < 1 || bits > kMostNumberBits) return;
  column.type = TypeClass::Integer;
  column.minInteger = 0;
  column.maxInteger = static_cast<std::int64_t>((std::uint64_t{1} << static_cast<unsigned>(bits)) - 1);
  column.engineType = "bigint::bit(" + std::to_string(bits) + ")";
}

Value bitsValue(std::string_view text) {
  if (text.size() > kMostNumberBits) return Value::text(text);
  std::int64_t n = 0;
  std::from_chars(text.data(), text.data() + text.size(), n, 2);
  return Value::integer(n);
}

// Types of which the server keeps more than the text it was given.
bool isRespelled(const PgType& type) {
  return type.category != 'E' && type.category != 'S' && type.base != kJson && type.base != kXml;
}

// A day of the calendar as the server writes it.
bool isDay(std::string_view text) {
  if (!isPgLike(text, kPgDay)) return false;
  const auto number = [&](std::size_t from, std::size_t count) {
    int out = 0;
    std::from_chars(text.data() + from, text.data() + from + count, out);
    return out;
  };
  namespace ch = std::chrono;
  const ch::year_month_day day(ch::year(number(0, 4)), ch::month(static_cast<unsigned>(number(5, 2))),
                               ch::day(static_cast<unsigned>(number(8, 2))));
  return number(0, 4) > 0 && day.ok();
}

int hexDigit(char c) {
  if (c >= '0' && c <= '9') return c - '0';
  if (c >= 'a' && c <= 'f') return c - 'a' + 10;
  return c >= 'A' && c <= 'F' ? c - 'A' + 10 : 0;
}

std::string bytesOfHex(std::string_view text) {
  std::string out;
  if (text.rfind("\\x", 0) != 0) return out;
  out.reserve(text.size() / 2);
  for (std::size_t i = 2; i + 1 < text.size(); i += 2) {
    out += static_cast<char>(hexDigit(text[i]) << 4 | hexDigit(text[i + 1]));
  }
  return out;
}

std::string hexOfBytes(std::string_view bytes) {
  static constexpr char kDigits[] = "0123456789abcdef";
  std::string out = "\\x";
  for (const char c : bytes) {
    out += kDigits[static_cast<unsigned char>(c) >> 4];
    out += kDigits[static_cast<unsigned char>(c) & 15];
  }
  return out;
}

Value realOf(std::string_view text) {
  if (text == "NaN") return Value::real(std::nan(""));
  if (text == "Infinity") return Value::real(INFINITY);
  if (text == "-Infinity") return Value::real(-INFINITY);
  double d = 0;
  std::from_chars(text.data(), text.data() + text.size(), d);
  return Value::real(d);
}

}  // namespace

void describePgType(Column& column, const PgType& type) {
  switch (type.base) {
    case kBool:
      column.type = TypeClass::Boolean;
      return;
    case kInt2:
      return describeInteger(column, -32768, 32767);
    case kInt4:
      return describeInteger(column, INT32_MIN, INT32_MAX);
    case kInt8:
      return describeInteger(column, INT64_MIN, INT64_MAX);
    case kOid:
      return describeInteger(column, 0, UINT32_MAX);
    case kFloat4:
    case kFloat8:
      column.type = TypeClass::Real;
      return;
    case kNumeric:
      return describeNumeric(column, type.modifier);
    case kBytea:
      column.type = TypeClass::Bytes;
      return;
    case kBpchar:
      column.paddedWithBlanks = true;
      [[fallthrough]];
    case kText:
    case kVarchar:
    case kName:
    case kChar:
      return describeText(column, type.modifier);
    case kDate:
      column.type = TypeClass::Date;
      break;
    case kTime:
    case kTimeTz:
      column.type = TypeClass::Time;
      break;
    case kTimestamp:
    case kTimestampTz:
      column.type = TypeClass::Timestamp;
      break;
    case kInterval:
      column.type = TypeClass::Interval;
      break;
    default:
      column.type = TypeClass::Other;
      if (type.base == kBit) describeBits(column, type.modifier);
      if (column.type == TypeClass::Integer) return;
  }
  column.respelled = isRespelled(type);
}

Value pgValue(Oid type, std::string_view text) {
  switch (type) {
    case kBool:
      return Value::boolean(text == "t");
    case kInt2:
    case kInt4:
    case kInt8:
    case kOid: {
      std::int64_t n = 0;
      std::from_chars(text.data(), text.data() + text.size(), n);
      return Value::integer(n);
    }
    case kFloat4:
    case kFloat8:
      return realOf(text);
    case kNumeric:
      return text == "NaN" || text == "Infinity" || text == "-Infinity" ? realOf(text) : Value::decimal(text);
    case kBytea:
      return Value::bytes(bytesOfHex(text));
    case kBit:
      return bitsValue(text);
    default:
      return Value::text(text);
  }
}

std::optional<std::string> pgText(const Value& value) {
  switch (value.kind()) {
    case Value::Kind::Null:
      return std::nullopt;
    case Value::Kind::Boolean:
      return value.asBoolean() ? "t" : "f";
    case Value::Kind::Bytes:
      return hexOfBytes(value.asString());
    default:
      return canonicalText(value);
  }
}

std::string pgLiteral(const Value& value, const std::string& castTo) {
  const auto text = pgText(value);
  if (!text) return "NULL";
  const bool number = value.isNumber() && value.kind() != Value::Kind::Boolean && value.kind() != Value::Kind::Real;
  if (number) return castTo.starts_with("bigint::") ? "(" + *text + "::" + castTo + ")" : *text;
  // A script goes through a client that looks for backslashes and ends of lines: neither stays bare.
  const bool plain = std::none_of(text->begin(), text->end(),
                                  [](char c) { return static_cast<unsigned char>(c) < 0x20 || c == '\\'; });
  std::string out = plain ? "'" : "E'";
  for (const char c : *text) {
    if (c == '\'') {
      out += "''";
    } else if (c == '\\') {
      out += "\\\\";
    } else if (static_cast<unsigned char>(c) < 0x20) {
      static constexpr char kDigits[] = "0123456789abcdef";
      out += std::string("\\x") + kDigits[static_cast<unsigned char>(c) >> 4] + kDigits[c & 15];
    } else {
      out += c;
    }
  }
  out += "'";
  const bool needsNoCast = castTo == "text" || castTo == "character varying" || castTo.empty();
  return needsNoCast ? out : out + "::" + castTo;
}

bool isPgLike(std::string_view text, std::string_view pattern) {
  return std::equal(text.begin(), text.end(), pattern.begin(), pattern.end(), [](char c, char p) {
    const bool digit = c >= '0' && c <= '9';
    if (p == 'a') return digit || (c >= 'a' && c <= 'f');
    return p == '0' ? digit : c == p;
  });
}

PgFit pgFit(const Column* column, const Value& value) {
  if (value.isNull()) return PgFit::Yes;
  if (value.isString() && value.kind() != Value::Kind::Bytes &&
      (value.asString().find('\0') != std::string_view::npos || !isValidUtf8(value.asString()))) {
    return PgFit::No;
  }
  const auto fits = [](bool yes) { return yes ? PgFit::Yes : PgFit::No; };
  switch (column == nullptr ? TypeClass::Text : column->type) {
    case TypeClass::Integer:
      return fits(value.kind() == Value::Kind::Integer &&
                  (!column->minInteger || value.asInteger() >= *column->minInteger) &&
                  (!column->maxInteger || value.asInteger() <= *column->maxInteger));
    case TypeClass::Boolean:
      return fits(value.kind() == Value::Kind::Boolean);
    case TypeClass::Decimal:
      return fits(value.isNumber());
    case TypeClass::Real:
      return value.isNumber() ? PgFit::OnlyTheServerKnows : PgFit::No;  // real does not go as far as we do
    case TypeClass::Bytes:
      return fits(value.kind() == Value::Kind::Bytes);
    case TypeClass::Text:
      return PgFit::Yes;
    case TypeClass::Date:
      return value.isString() && isDay(value.asString()) ? PgFit::Yes : PgFit::OnlyTheServerKnows;
    default:
      return column->engineType == "uuid" && value.isString() && isPgLike(value.asString(), kPgUuid)
                 ? PgFit::Yes
                 : PgFit::OnlyTheServerKnows;
  }
}

std::string pgArrayType(const Column* column) {
  static constexpr std::string_view kNumbers[] = {"smallint", "integer", "bigint"};
  const bool number = column != nullptr &&
                      std::find(std::begin(kNumbers), std::end(kNumbers), column->engineType) != std::end(kNumbers);
  return (number ? column->engineType : "text") + "[]";
}

bool isComparedAsText(const Column& column) {
  if (hasNoEquality(column)) return true;
  // Of an address the cast to text is not what the server shows; its equality is sameness, though.
  return column.type == TypeClass::Other && column.engineType != "inet" && column.engineType != "cidr";
}

bool hasNoEquality(const Column& column) {
  static constexpr std::string_view kTypes[] = {"json", "xml",     "point",  "line", "lseg",
                                                "path", "polygon", "circle", "box"};
  return std::find(std::begin(kTypes), std::end(kTypes), column.engineType) != std::end(kTypes);
}

}  // namespace iterandum
