#include "core/files/cell_values.h"

#include <algorithm>
#include <array>
#include <cctype>

#include "core/acts/record_acts.h"
#include "core/catalogue/column_rules.h"
#include "core/value/base64.h"
#include "core/value/calendar_text.h"
#include "core/value/text_forms.h"

namespace iterandum {
namespace {

using CellKind = FileCell::Kind;

bool isDigit(char c) { return c >= '0' && c <= '9'; }
bool areDigits(std::string_view text) { return !text.empty() && std::all_of(text.begin(), text.end(), isDigit); }

bool isNumeric(TypeClass type) {
  return type == TypeClass::Integer || type == TypeClass::Real || type == TypeClass::Decimal;
}

// Without the marks between thousands, a point before decimals. Nothing: it is not written like that.
std::optional<std::string> plainDecimal(std::string_view text, char decimal, char thousands) {
  std::string out;
  if (!text.empty() && (text.front() == '-' || text.front() == '+')) {
    if (text.front() == '-') out += '-';
    text.remove_prefix(1);
  }
  const std::size_t end = std::min(text.find(decimal), text.size());
  std::string_view whole = text.substr(0, end);
  bool first = true;
  bool grouped = false;
  while (true) {
    const std::size_t mark = whole.find(thousands);
    const std::string_view group = whole.substr(0, mark);
    grouped = grouped || mark != std::string_view::npos;
    const bool fits =
        first ? areDigits(group) && (!grouped || group.size() <= 3) : group.size() == 3 && areDigits(group);
    if (!fits && !(first && group.empty() && end < text.size() && !grouped)) return std::nullopt;
    out += group.empty() ? "0" : std::string(group);
    if (mark == std::string_view::npos) break;
    whole.remove_prefix(mark + 1);
    first = false;
  }
  if (end == text.size()) return out;
  const std::string_view behind = text.substr(end + 1);
  if (!areDigits(behind)) return std::nullopt;
  return out + "." + std::string(behind);
}

Result<Value> numberAsWritten(const Column& column, const std::string& text, const WrittenForms& forms) {
  const bool comma = forms.decimal == WrittenForms::Decimal::Comma;
  const std::string plain = trimmed(text);
  const auto read = plainDecimal(plain, comma ? ',' : '.', comma ? '.' : ',');
  // Blanks between thousands, and an exponent, are as in a cell; what has the other sign in it is not guessed at.
  const bool other = plain.find(comma ? '.' : ',') != std::string::npos;
  if (!read && other) {
    return fail(ErrorKind::InvalidInput, wantedInWords(column) + " is wanted in " + column.name + ", with a " +
                                             (comma ? "comma" : "point") + " before decimals, not '" + text + "'");
  }
  std::string said = read ? *read : plain;
  if (!read && comma) std::replace(said.begin(), said.end(), ',', '.');
  return typedValue(column, said);
}

Result<Value> textAsWritten(const Column& column, const FileCell& cell, const WrittenForms& forms) {
  if (column.type == TypeClass::Bytes) {
    auto bytes = decodeBase64(cell.text);
    if (bytes) return storedForm(column, Value::bytes(*bytes));
    return fail(ErrorKind::InvalidInput, "bytes are wanted in " + column.name + ", in base64");
  }
  if (isNumeric(column.type) && forms.decimal != WrittenForms::Decimal::AsTyped) {
    return numberAsWritten(column, cell.text, forms);
  }
  const bool ofDays = column.type == TypeClass::Date || column.type == TypeClass::Timestamp;
  if (ofDays && forms.days != WrittenForms::Days::AsTyped) {
    if (const auto iso = momentAsIso(trimmed(cell.text), forms.days)) return typedValue(column, *iso);
  }
  // What stands in quotes is a text, also where any type may lie.
  if (cell.quoted && column.type == TypeClass::Any) return storedForm(column, Value::text(cell.text));
  return typedValue(column, cell.text);
}

}  // namespace

std::optional<std::string> momentAsIso(std::string_view text, WrittenForms::Days order) {
  std::array<std::string_view, 3> parts;
  std::size_t at = 0;
  for (std::size_t i = 0; i < 3; ++i) {
    const std::size_t from = at;
    while (at < text.size() && isDigit(text[at])) ++at;
    parts[i] = text.substr(from, at - from);
    if (parts[i].empty() || parts[i].size() > 4) return std::nullopt;
    if (i == 2) break;
    if (at == text.size() || (text[at] != '.' && text[at] != '/' && text[at] != '-')) return std::nullopt;
    ++at;
    while (at < text.size() && text[at] == ' ') ++at;
  }
  const std::string_view rest = text.substr(at);
  if (!rest.empty() && rest.front() != ' ' && rest.front() != 'T') return std::nullopt;
  if (parts[0].size() == 4 || order == WrittenForms::Days::YearFirst) return std::nullopt;  // as in a cell
  const bool dayFirst = order == WrittenForms::Days::DayFirst;
  const std::string_view day = parts[dayFirst ? 0 : 1];
  const std::string_view month = parts[dayFirst ? 1 : 0];
  std::string year(parts[2]);
  if (year.size() <= 2) year = (std::stoi(year) < 70 ? "20" : "19") + std::string(2 - year.size(), '0') + year;
  if (day.size() > 2 || month.size() > 2 || year.size() != 4) return std::nullopt;
  const auto two = [](std::string_view digits) { return std::string(2 - digits.size(), '0') + std::string(digits); };
  return year + "-" + two(month) + "-" + two(day) + std::string(rest);
}

Result<Value> valueOfCell(const Column& column, const FileCell& cell, const WrittenForms& forms) {
  switch (cell.kind) {
    case CellKind::Error:
      return fail(ErrorKind::InvalidInput, "the cell of " + column.name + " holds the error " + cell.text);
    case CellKind::Exact:
      if (cell.value.kind() == Value::Kind::PendingKey) {
        return fail(ErrorKind::InvalidInput, "a value is wanted in " + column.name + ", not what stands for one");
      }
      return storedForm(column, cell.value);
    case CellKind::Boolean:
      if (column.type == TypeClass::Text) return storedForm(column, Value::text(cell.text == "1" ? "TRUE" : "FALSE"));
      return storedForm(column, Value::integer(cell.text == "1" ? 1 : 0));
    case CellKind::Moment: {
      const std::string_view text = cell.text;
      constexpr std::string_view kMidnight = " 00:00:00";
      const bool day = column.type == TypeClass::Date && text.size() > kMidnight.size() && text.ends_with(kMidnight);
      return typedValue(column, day ? text.substr(0, text.size() - kMidnight.size()) : text);
    }
    case CellKind::Number:
      return typedValue(column, cell.text);
    default:
      return textAsWritten(column, cell, forms);
  }
}

bool saysTheSame(const Column& column, const FileCell& cell, const Value& stored) {
  if (stored.isNull()) return cell.kind == CellKind::None;
  // What lies there against the column's type is as good as any.
  if (cell.kind == CellKind::Exact) return sameValue(comparableForm(column, cell.value), stored);
  if (cell.kind != CellKind::Text && cell.kind != CellKind::Number) return false;
  return readsAs(stored, cell.text);
}

bool meansTheSame(const Column& column, const FileCell& cell, const Value& meant, const Value& stored) {
  if (sameInColumn(column, meant, stored)) return true;
  const bool ofMoments = column.type == TypeClass::Timestamp || column.type == TypeClass::Time;
  if (!ofMoments || cell.kind == CellKind::Exact || !meant.isString() || !stored.isString()) return false;
  const auto one = calendarText(meant.asString());
  const auto other = calendarText(stored.asString());
  return one && other && one->form == other->form && one->hasZone == other->hasZone;
}

}  // namespace iterandum
