#include "core/engines/mariadb/maria_types.h"

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>

#include "core/engines/common/sql_tokens.h"
#include "core/value/base64.h"

namespace iterandum {
namespace {

constexpr unsigned kBinaryCharset = 63;  // as the protocol numbers it
// JSON_TABLE keeps short texts in memory; longer ones go to disk.
constexpr std::size_t kShortText = 500;

struct IntegerType {
  const char* name;
  std::int64_t low;
  std::int64_t high;
  std::int64_t unsignedHigh;
};
constexpr std::array<IntegerType, 5> kIntegers = {{{"tinyint", -128, 127, 255},
                                                   {"smallint", -32768, 32767, 65535},
                                                   {"mediumint", -8388608, 8388607, 16777215},
                                                   {"int", INT32_MIN, INT32_MAX, UINT32_MAX},
                                                   {"bigint", INT64_MIN, INT64_MAX, INT64_MAX}}};

template <std::size_t N>
bool isOneOf(std::string_view name, const std::array<const char*, N>& names) {
  return std::find(names.begin(), names.end(), name) != names.end();
}
constexpr std::array<const char*, 6> kTexts = {"char", "varchar", "tinytext", "text", "mediumtext", "longtext"};
constexpr std::array<const char*, 14> kBytes = {
    "binary", "varbinary", "tinyblob",   "blob",       "mediumblob",      "longblob",     "geometry",
    "point",  "polygon",   "linestring", "multipoint", "multilinestring", "multipolygon", "geometrycollection"};

bool isUnsigned(const MariaType& type) { return type.full.find("unsigned") != std::string::npos; }

bool describeInteger(Column& column, const MariaType& type) {
  const auto at =
      std::find_if(kIntegers.begin(), kIntegers.end(), [&](const IntegerType& i) { return type.name == i.name; });
  if (at == kIntegers.end()) return false;
  column.type = TypeClass::Integer;
  column.minInteger = isUnsigned(type) ? 0 : at->low;
  column.maxInteger = isUnsigned(type) ? at->unsignedHigh : at->high;
  if (isUnsigned(type) && type.name == "bigint") {
    column.maxInteger.reset();
    column.unsigned64 = true;
  }
  return true;
}

// A FLOAT as the shortest number that is that FLOAT: 0.1, not 0.10000000149011612.
Value shortestFloat(double d) {
  char text[32];
  const auto written = std::to_chars(text, text + sizeof text, static_cast<float>(d));
  double out = d;
  std::from_chars(text, written.ptr, out);
  return Value::real(out);
}

std::uint64_t bitsOf(std::string_view bytes) {
  std::uint64_t out = 0;
  for (const char c : bytes) out = out << 8U | static_cast<unsigned char>(c);
  return out;
}

std::string hexOf(std::string_view bytes) {
  static constexpr char kDigits[] = "0123456789ABCDEF";
  std::string out;
  for (const char c : bytes) {
    out += kDigits[static_cast<unsigned char>(c) >> 4U];
    out += kDigits[static_cast<unsigned char>(c) & 15U];
  }
  return out;
}

}  // namespace

// The server writes some characters of a label behind a backslash, whatever the session's settings.
static std::string unescaped(const std::string& text) {
  std::string out;
  for (std::size_t i = 0; i < text.size(); ++i) {
    if (text[i] != '\\' || i + 1 == text.size()) {
      out += text[i];
      continue;
    }
    const char c = text[++i];
    out += c == 'n' ? '\n' : c == 'r' ? '\r' : c == '0' ? '\0' : c;
  }
  return out;
}

std::vector<std::string> mariaLabels(const std::string& fullType) {
  std::vector<std::string> out;
  for (const SqlToken& token : sqlTokens(fullType, {})) {
    if (token.kind == SqlToken::Kind::String) out.push_back(unescaped(token.text));
  }
  return out;
}

void describeMariaType(Column& column, const MariaType& type) {
  const std::string& name = type.name;
  column.declaredType = type.full;
  column.engineType = type.full;
  if (describeInteger(column, type)) return;
  if (isOneOf(name, kTexts)) {
    column.type = TypeClass::Text;
    column.losesTrailingBlanks = name == "char";
    if (name == "char" || name == "varchar") column.maxLength = type.characters;
    column.engineType += " character set " + type.charset + " collate " + type.collation;
  } else if (isOneOf(name, kBytes)) {
    column.type = TypeClass::Bytes;
  } else if (name == "decimal") {
    column.type = TypeClass::Decimal;
    column.mostDigits = type.digits;
    column.mostDecimals = type.decimals;
  } else if (name == "double" || name == "float") {
    column.type = TypeClass::Real;
  } else if (name == "bit") {
    column.type = TypeClass::Integer;
    column.minInteger = 0;
    if (type.digits < 63) column.maxInteger = (std::int64_t{1} << type.digits) - 1;
    column.unsigned64 = type.digits == 64;
  } else if (name == "year") {
    column.type = TypeClass::Integer;
    column.minInteger = 0;
    column.maxInteger = 2155;
    column.respelled = true;
  } else if (name == "date") {
    column.type = TypeClass::Date;
  } else if (name == "datetime" || name == "timestamp") {
    column.type = TypeClass::Timestamp;
    column.respelled = true;
  } else if (name == "time") {
    column.type = TypeClass::Interval;  // from -838:59:59 to 838:59:59
    column.respelled = true;
  } else {
    column.type = TypeClass::Other;
    column.respelled = true;
    if (name == "enum") {
      for (const std::string& label : mariaLabels(type.full)) column.allowed.push_back(Value::text(label));
    }
    if (name == "enum" || name == "set")
      column.engineType += " character set " + type.charset + " collate " + type.collation;
  }
}

std::string_view mariaBaseType(const Column& column) {
  return std::string_view(column.engineType).substr(0, column.engineType.find_first_of("( "));
}

bool isMariaText(const Column& column) { return column.engineType.find(" character set ") != std::string::npos; }

std::string mariaSelected(const Column& column, const std::string& expression) {
  return mariaBaseType(column) == "float" ? "CAST(" + expression + " AS DOUBLE)" : expression;
}

Value mariaValue(const MYSQL_FIELD& field, std::string_view text, const Column* column) {
  switch (field.type) {
    case MYSQL_TYPE_TINY:
    case MYSQL_TYPE_SHORT:
    case MYSQL_TYPE_INT24:
    case MYSQL_TYPE_LONG:
    case MYSQL_TYPE_LONGLONG:
    case MYSQL_TYPE_YEAR: {
      if ((field.flags & UNSIGNED_FLAG) != 0) {
        std::uint64_t n = 0;
        std::from_chars(text.data(), text.data() + text.size(), n);
        return Value::unsignedInteger(n);
      }
      std::int64_t n = 0;
      std::from_chars(text.data(), text.data() + text.size(), n);
      return Value::integer(n);
    }
    case MYSQL_TYPE_BIT:
      return Value::unsignedInteger(bitsOf(text));
    case MYSQL_TYPE_FLOAT:
    case MYSQL_TYPE_DOUBLE: {
      double d = 0;
      std::from_chars(text.data(), text.data() + text.size(), d);
      return column != nullptr && mariaBaseType(*column) == "float" ? shortestFloat(d) : Value::real(d);
    }
    case MYSQL_TYPE_DECIMAL:
    case MYSQL_TYPE_NEWDECIMAL:
      return Value::decimal(text);
    case MYSQL_TYPE_GEOMETRY:
      return Value::bytes(text);
    case MYSQL_TYPE_TINY_BLOB:
    case MYSQL_TYPE_MEDIUM_BLOB:
    case MYSQL_TYPE_LONG_BLOB:
    case MYSQL_TYPE_BLOB:
    case MYSQL_TYPE_VARCHAR:
    case MYSQL_TYPE_VAR_STRING:
    case MYSQL_TYPE_STRING: {
      const bool bytes = column != nullptr ? column->type == TypeClass::Bytes : field.charsetnr == kBinaryCharset;
      return bytes ? Value::bytes(text) : Value::text(text);
    }
    default:
      return Value::text(text);
  }
}

MariaTransport mariaTransport(const Column* column, const std::string& name, std::size_t longest, bool asKey) {
  const std::string text =
      longest <= kShortText ? "varchar(" + std::to_string(std::max<std::size_t>(1, longest)) + ") character set utf8mb4"
                            : "longtext character set utf8mb4";
  if (column == nullptr) return {text, name};
  const std::string_view base = mariaBaseType(*column);
  if (column->type == TypeClass::Bytes) return {text, "FROM_BASE64(" + name + ")"};
  if (base == "bit" || base == "year") return {"bigint unsigned", name};
  if (base == "float") return {"double", asKey ? "CAST(" + name + " AS FLOAT)" : name};
  if (base == "double") return {"double", name};
  if (!asKey) return {text, name};
  // What a key is compared with is of the column's own type, or the server would not use the index.
  if (column->type == TypeClass::Integer || base == "decimal" || base == "date") return {column->engineType, name};
  if (base == "datetime" || base == "timestamp") return {"datetime(6)", name};
  if (base == "time") return {"time(6)", name};
  if (isMariaText(*column)) {
    const std::string collation = column->engineType.substr(column->engineType.find(" character set "));
    return {
        (longest <= kShortText ? "varchar(" + std::to_string(std::max<std::size_t>(1, longest)) + ")" : "longtext") +
            collation,
        name};
  }
  return {text, name};
}

bool mariaText(const Column* column, const Value& value, std::string& out) {
  if (value.kind() == Value::Kind::Bytes || (column != nullptr && column->type == TypeClass::Bytes)) {
    if (value.isNumber()) return false;
    out = encodeBase64(value.asString());
    return true;
  }
  if (value.kind() == Value::Kind::Real && !std::isfinite(value.asReal())) return false;
  if (value.kind() == Value::Kind::Boolean) {
    out = value.asBoolean() ? "1" : "0";
    return true;
  }
  out = canonicalText(value);
  if (column != nullptr && column->type == TypeClass::Integer) {
    // The server would round what is no whole number.
    return value.kind() == Value::Kind::Integer || value.kind() == Value::Kind::Unsigned ||
           (out.find_first_not_of("0123456789", out.starts_with('-') ? 1 : 0) == std::string::npos && !out.empty());
  }
  return !value.isString() || isValidUtf8(value.asString());
}

std::string mariaLiteral(const Value& value) {
  using Kind = Value::Kind;
  switch (value.kind()) {
    case Kind::Null:
      return "NULL";
    case Kind::Boolean:
      return value.asBoolean() ? "1" : "0";
    case Kind::Integer:
    case Kind::Unsigned:
    case Kind::Decimal:
      return canonicalText(value);
    case Kind::Real: {
      // With an exponent it is a binary number, not a decimal one.
      const std::string text = canonicalText(value);
      return text.find_first_of("eE") == std::string::npos ? text + "e0" : text;
    }
    case Kind::Bytes:
      return value.asString().empty() ? "''" : "X'" + hexOf(value.asString()) + "'";
    default:
      break;
  }
  const std::string text = canonicalText(value);
  const bool plain = std::all_of(text.begin(), text.end(), [](char c) {
    return static_cast<unsigned char>(c) >= 0x20 && static_cast<unsigned char>(c) < 0x7F && c != '\'' && c != '\\' &&
           c != '"';
  });
  if (plain) return "'" + text + "'";
  const bool onlyNeedsQuotes = std::all_of(
      text.begin(), text.end(), [](char c) { return static_cast<unsigned char>(c) >= 0x20 && c != '\\' && c != 0x7F; });
  if (!onlyNeedsQuotes) return "CONVERT(X'" + hexOf(text) + "' USING utf8mb4)";
  std::string out = "'";
  for (const char c : text) {
    if (c == '\'') out += '\'';
    out += c;
  }
  return out + "'";
}

}  // namespace iterandum
