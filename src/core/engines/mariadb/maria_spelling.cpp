// Values in MariaDB's own spelling. The server itself is not asked: its casts take half of a text that they cannot
// read, with no more than a warning. Only spellings that it surely takes for the same value are changed here.
#include <arpa/inet.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <optional>

#include "core/engines/mariadb/maria_session.h"
#include "core/engines/mariadb/maria_types.h"

namespace iterandum {
namespace {

bool isDigits(std::string_view s) { return !s.empty() && s.find_first_not_of("0123456789") == std::string_view::npos; }

// Digits behind the second that a column keeps: those in the brackets of datetime(3).
std::size_t fractionDigits(const Column& column) {
  const std::size_t bracket = column.engineType.find('(');
  std::size_t out = 0;
  if (bracket != std::string::npos) {
    std::from_chars(column.engineType.data() + bracket + 1, column.engineType.data() + column.engineType.size(), out);
  }
  return out;
}

// h:mm, h:mm:ss and a fraction, as hh:mm:ss and as many digits as the column keeps. Digits that would be lost are left
// for the write to show.
std::optional<std::string> spelledTime(std::string_view text, std::size_t digits) {
  const std::size_t colon = text.find(':');
  if (colon == std::string_view::npos || colon > 3 || !isDigits(text.substr(0, colon))) return std::nullopt;
  std::string out = (colon == 1 ? "0" : "") + std::string(text.substr(0, colon + 1));
  text.remove_prefix(colon + 1);
  if (text.size() < 2 || !isDigits(text.substr(0, 2))) return std::nullopt;
  out += text.substr(0, 2);
  text.remove_prefix(2);
  std::string fraction;
  if (text.empty()) {
    out += ":00";
  } else {
    if (text.size() < 3 || text[0] != ':' || !isDigits(text.substr(1, 2))) return std::nullopt;
    out += text.substr(0, 3);
    text.remove_prefix(3);
    if (!text.empty()) {
      if (text[0] != '.' || !isDigits(text.substr(1))) return std::nullopt;
      fraction = text.substr(1);
    }
  }
  while (fraction.size() > digits && fraction.back() == '0') fraction.pop_back();
  if (fraction.size() > digits) return std::nullopt;
  fraction.resize(digits, '0');
  return digits == 0 ? out : out + "." + fraction;
}

std::optional<std::string> spelledTimestamp(std::string_view text, std::size_t digits) {
  if (text.size() < 10) return std::nullopt;
  const std::string day(text.substr(0, 10));
  const std::string_view rest = text.substr(10);
  if (rest.empty()) return day + " " + *spelledTime("00:00", digits);
  if (rest[0] != ' ' && rest[0] != 'T') return std::nullopt;
  const auto time = spelledTime(rest.substr(1), digits);
  return time ? std::optional(day + " " + *time) : std::nullopt;
}

std::optional<std::string> spelledInterval(std::string_view text, std::size_t digits) {
  const bool negative = text.starts_with('-');
  const auto time = spelledTime(text.substr(negative ? 1 : 0), digits);
  return time ? std::optional((negative ? "-" : "") + *time) : std::nullopt;
}

std::optional<std::string> spelledUuid(std::string_view text) {
  std::string hex;
  for (const char c : text) {
    if (c == '-') continue;
    const char small = static_cast<char>(c >= 'A' && c <= 'F' ? c + 32 : c);
    if ((small < '0' || small > '9') && (small < 'a' || small > 'f')) return std::nullopt;
    hex += small;
  }
  if (hex.size() != 32) return std::nullopt;
  for (const std::size_t at : {20, 16, 12, 8}) hex.insert(at, "-");
  return hex;
}

std::optional<std::string> spelledInet6(std::string_view text) {
  std::array<unsigned char, 16> address{};
  std::array<char, INET6_ADDRSTRLEN> out{};
  if (inet_pton(AF_INET6, std::string(text).c_str(), address.data()) != 1) return std::nullopt;
  if (inet_ntop(AF_INET6, address.data(), out.data(), out.size()) == nullptr) return std::nullopt;
  return std::string(out.data());
}

char smallLetter(char c) { return static_cast<char>(c >= 'A' && c <= 'Z' ? c + 32 : c); }

// The label that the server takes the text for, as far as ASCII's letters go.
const std::string* labelLike(const std::vector<std::string>& labels, std::string_view text, bool foldsCase) {
  const auto same = [&](char a, char b) { return foldsCase ? smallLetter(a) == smallLetter(b) : a == b; };
  for (const std::string& label : labels) {
    if (label == text) return &label;
  }
  for (const std::string& label : labels) {
    if (std::equal(label.begin(), label.end(), text.begin(), text.end(), same)) return &label;
  }
  return nullptr;
}

bool foldsCase(const Column& column) { return column.engineType.ends_with("_ci"); }

// A set's labels come in the order of the type, each once.
std::optional<std::string> spelledSet(const Column& column, std::string_view text) {
  const std::vector<std::string> labels = mariaLabels(column.engineType);
  std::vector<bool> chosen(labels.size(), false);
  while (!text.empty()) {
    const std::size_t comma = std::min(text.find(','), text.size());
    const std::string* label = labelLike(labels, text.substr(0, comma), foldsCase(column));
    if (label == nullptr) return std::nullopt;
    chosen[static_cast<std::size_t>(label - labels.data())] = true;
    text.remove_prefix(std::min(comma + 1, text.size()));
  }
  std::string out;
  for (std::size_t i = 0; i < labels.size(); ++i) {
    if (chosen[i]) out += (out.empty() ? "" : ",") + labels[i];
  }
  return out;
}

// A year of one or two digits is one of this century or the last; the year 0 is one of its own.
Value spelledYear(const Value& value) {
  if (value.kind() != Value::Kind::Integer) return value;
  const std::int64_t year = value.asInteger();
  if (year < 1 || year > 99) return value;
  return Value::integer(year < 70 ? 2000 + year : 1900 + year);
}

std::optional<std::string> spelled(const Column& column, std::string_view text) {
  const std::string_view base = mariaBaseType(column);
  if (column.type == TypeClass::Timestamp) return spelledTimestamp(text, fractionDigits(column));
  if (column.type == TypeClass::Interval) return spelledInterval(text, fractionDigits(column));
  if (base == "uuid") return spelledUuid(text);
  if (base == "inet6") return spelledInet6(text);
  if (base == "set") return spelledSet(column, text);
  return std::nullopt;
}

}  // namespace

Status MariaSession::respell(const Column& column, std::span<ValueColumn* const> columns, Progress&) {
  const bool year = mariaBaseType(column) == "year";
  for (ValueColumn* values : columns) {
    for (std::size_t r = 0; r < values->size(); ++r) {
      const Value value = values->at(r);
      if (year) values->set(r, spelledYear(value));
      if (value.kind() != Value::Kind::Text) continue;
      auto text = spelled(column, value.asString());
      if (text && *text != value.asString()) values->set(r, Value::text(*text));
    }
  }
  return {};
}

}  // namespace iterandum
