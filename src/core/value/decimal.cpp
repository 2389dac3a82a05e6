#include "core/value/decimal.h"

#include <algorithm>
#include <charconv>
#include <cmath>

namespace iterandum {
namespace {

constexpr long kMaxDigits = 20000;  // more than any engine's exact type holds; keeps "1e999999999" from filling memory

bool isDigit(char c) { return c >= '0' && c <= '9'; }

struct Parts {
  bool negative = false;
  std::string digits;  // without the point
  long scale = 0;      // digits after the point; negative when zeros are to be appended
};

bool readDigits(std::string_view s, std::size_t& at, Parts& parts) {
  bool any = false;
  bool point = false;
  for (; at < s.size(); ++at) {
    if (isDigit(s[at])) {
      parts.digits += s[at];
      parts.scale += point ? 1 : 0;
      any = true;
    } else if (s[at] == '.' && !point) {
      point = true;
    } else {
      break;
    }
  }
  return any;
}

std::optional<Parts> readNumber(std::string_view s) {
  Parts parts;
  std::size_t at = 0;
  if (at < s.size() && (s[at] == '-' || s[at] == '+')) parts.negative = s[at++] == '-';
  if (!readDigits(s, at, parts)) return std::nullopt;
  if (at < s.size() && (s[at] == 'e' || s[at] == 'E')) {
    ++at;
    const bool plus = at < s.size() && s[at] == '+';
    long exponent = 0;
    const auto [end, error] = std::from_chars(s.data() + at + (plus ? 1 : 0), s.data() + s.size(), exponent);
    if (error != std::errc() || end != s.data() + s.size()) return std::nullopt;
    if (std::labs(exponent) > kMaxDigits) return std::nullopt;
    parts.scale -= exponent;
    at = s.size();
  }
  if (at != s.size() || static_cast<long>(parts.digits.size()) > kMaxDigits) return std::nullopt;
  return parts;
}

}  // namespace

std::optional<std::string> plainDecimal(std::string_view number) {
  auto parts = readNumber(number);
  if (!parts) return std::nullopt;
  std::string& digits = parts->digits;
  if (parts->scale < 0) {
    digits.append(static_cast<std::size_t>(-parts->scale), '0');
    parts->scale = 0;
  }
  const auto scale = static_cast<std::size_t>(parts->scale);
  if (digits.size() <= scale) digits.insert(0, scale + 1 - digits.size(), '0');
  const std::size_t whole = digits.size() - scale;
  const std::size_t firstDigit = std::min(digits.find_first_not_of('0'), whole - 1);
  std::string out = parts->negative ? "-" : "";
  out += digits.substr(firstDigit, whole - firstDigit);
  if (scale > 0) out += "." + digits.substr(whole);
  return out;
}

std::string normalDecimal(std::string_view plain) {
  auto text = plainDecimal(plain);
  if (!text) return std::string(plain);
  if (text->find('.') != std::string::npos) {
    text->erase(text->find_last_not_of('0') + 1);
    if (text->back() == '.') text->pop_back();
  }
  if (*text == "-0") *text = "0";
  return *text;
}

int compareNormalDecimals(std::string_view a, std::string_view b) {
  const bool negativeA = !a.empty() && a[0] == '-';
  const bool negativeB = !b.empty() && b[0] == '-';
  if (negativeA != negativeB) return negativeA ? -1 : 1;
  if (negativeA) return compareNormalDecimals(b.substr(1), a.substr(1));
  const std::size_t wholeA = std::min(a.find('.'), a.size());
  const std::size_t wholeB = std::min(b.find('.'), b.size());
  if (wholeA != wholeB) return wholeA < wholeB ? -1 : 1;
  const int order = a.compare(b);
  return order < 0 ? -1 : (order > 0 ? 1 : 0);
}

std::string plainDouble(double d) {
  // Not chars_format::fixed: that would spell out the digits of large numbers beyond the shortest ones.
  char buffer[64];
  const auto [end, error] = std::to_chars(buffer, buffer + sizeof buffer, d);
  return plainDecimal(std::string_view(buffer, static_cast<std::size_t>(end - buffer))).value_or("0");
}

std::string shortestDouble(double d) {
  if (std::isnan(d)) return "NaN";
  if (std::isinf(d)) return d < 0 ? "-Infinity" : "Infinity";
  char buffer[64];
  const auto [end, error] = std::to_chars(buffer, buffer + sizeof buffer, d);
  std::string out(buffer, error == std::errc() ? end : buffer);
  if (out.find_first_of(".e") == std::string::npos) out += ".0";
  return out;
}

}  // namespace iterandum
