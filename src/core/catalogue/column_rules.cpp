#include "core/catalogue/column_rules.h"

#include <algorithm>
#include <cctype>
#include <charconv>
#include <cmath>
#include <optional>

#include "core/value/calendar_text.h"
#include "core/value/decimal.h"
#include "core/value/small_letters.h"

namespace iterandum {
namespace {

using Kind = Value::Kind;

bool isNumeric(TypeClass type) {
  return type == TypeClass::Integer || type == TypeClass::Real || type == TypeClass::Decimal ||
         type == TypeClass::Boolean;
}

// Whether the engine holds to the column's type by itself, and has types that are more than their class says.
bool ofServer(const Column& column) { return !column.engineType.empty(); }

bool isCalendar(TypeClass type) {
  return type == TypeClass::Date || type == TypeClass::Time || type == TypeClass::Timestamp;
}

bool isCalendarText(TypeClass type, std::string_view s) {
  const auto text = calendarText(s);
  if (!text) return false;
  if (type == TypeClass::Time) return !text->hasDay;
  return text->hasDay && (type == TypeClass::Timestamp || !text->hasTime);
}

// Servers know dates beyond the calendar: infinity, years before the first and after the 9999th, the end of a day as
// 24:00, dates of noughts. What exactly, the server itself decides; here they are only told from slips of the finger.
bool isBeyondCalendar(std::string_view s) {
  if (s == "infinity" || s == "-infinity" || s.starts_with("24:00:00")) return true;
  const std::size_t year = std::min(s.find_first_not_of("0123456789"), s.size());
  return (year >= 4 && s.substr(year).starts_with('-') && (s.ends_with(" BC") || year > 4)) ||
         (year == 4 && s.size() >= 10 && (s.substr(4, 3) == "-00" || s.substr(7, 3) == "-00"));
}

// --- words ---------------------------------------------------------------------------------------------------------

std::string rangeWords(const Column& column) {
  std::string low = column.minimum ? canonicalText(*column.minimum) : "";
  std::string high = column.maximum ? canonicalText(*column.maximum) : "";
  if (low.empty() && high.empty()) return {};
  if (high.empty()) return " of " + low + " or more";
  if (low.empty()) return " of " + high + " or less";
  return " from " + low + " to " + high;
}

std::string typeWords(TypeClass type) {
  switch (type) {
    case TypeClass::Boolean:
      return "yes or no (1 or 0)";
    case TypeClass::Integer:
      return "a whole number";
    case TypeClass::Real:
    case TypeClass::Decimal:
      return "a number";
    case TypeClass::Bytes:
      return "bytes";
    case TypeClass::Date:
      return "a date like 2026-11-25";
    case TypeClass::Time:
      return "a time like 14:05:00";
    case TypeClass::Timestamp:
      return "a date and time like 2026-11-25 14:05:00";
    case TypeClass::Text:
      return "text";
    default:
      return "a value";
  }
}

// Types of the servers whose form is the same everywhere.
bool isUuid(const Column& column) { return column.type == TypeClass::Other && column.declaredType == "uuid"; }

// 32 hexadecimal digits, with or without dashes between.
bool isUuidText(std::string_view text) {
  const auto isDigit = [](char c) { return std::isxdigit(static_cast<unsigned char>(c)) != 0; };
  if (text.starts_with('{') && text.ends_with('}')) text = text.substr(1, text.size() - 2);
  return std::count_if(text.begin(), text.end(), isDigit) == 32 &&
         std::all_of(text.begin(), text.end(), [&](char c) { return isDigit(c) || c == '-'; });
}

tl::unexpected<Error> refuse(const Column& column, const std::string& but) {
  Error error(ErrorKind::Constraint, wantedInWords(column) + " is wanted in " + column.name + but);
  error.constraint = ConstraintKind::DataType;
  return fail(std::move(error));
}

std::string shortened(std::string_view s) {
  if (s.size() <= 40) return std::string(s);
  std::size_t end = 40;
  while (end > 0 && (static_cast<unsigned char>(s[end]) & 0xC0) == 0x80) --end;
  return std::string(s.substr(0, end)) + "…";
}

std::string given(const Value& value) {
  if (value.kind() == Kind::Bytes) return ", not bytes";
  return ", not '" + shortened(canonicalText(value)) + "'";
}

// --- changing form -------------------------------------------------------------------------------------------------

// Digits as most numbers come, which need no second look. Nothing: it takes one.
std::optional<std::int64_t> plainWhole(std::string_view text) {
  const std::string_view digits = text.substr(text.starts_with('-') ? 1 : 0);
  const bool isPlain = !digits.empty() && digits.size() <= 18 && (digits.front() != '0' || text.size() == 1) &&
                       std::all_of(digits.begin(), digits.end(), [](char c) { return c >= '0' && c <= '9'; });
  return isPlain ? wholeNumber<std::int64_t>(text) : std::nullopt;
}

std::optional<Value> numberOfText(std::string_view text) {
  if (const auto n = plainWhole(text)) return Value::integer(*n);
  const auto plain = plainDecimal(text);
  if (!plain) return std::nullopt;
  if (const auto n = wholeNumber<std::int64_t>(*plain); n && *plain != "-0") return Value::integer(*n);
  if (const auto n = wholeNumber<std::uint64_t>(*plain)) return Value::unsignedInteger(*n);
  return Value::decimal(*plain);
}

Value asReal(const Value& number) {
  switch (number.kind()) {
    case Kind::Real:
      return number;
    case Kind::Decimal: {
      double d = 0;
      const std::string_view s = number.asString();
      std::from_chars(s.data(), s.data() + s.size(), d);
      return Value::real(d);
    }
    case Kind::Unsigned:
      return Value::real(static_cast<double>(number.asUnsigned()));
    default:
      return Value::real(static_cast<double>(number.asInteger()));
  }
}

std::optional<Value> asWhole(const Value& number) {
  if (number.kind() == Kind::Integer || number.kind() == Kind::Unsigned) return number;
  if (number.kind() == Kind::Boolean) return Value::integer(number.asInteger());
  const std::string text =
      number.kind() == Kind::Real
          ? (std::isfinite(number.asReal()) ? normalDecimal(plainDouble(number.asReal())) : std::string("x"))
          : normalDecimal(number.asString());
  if (const auto n = wholeNumber<std::int64_t>(text)) return Value::integer(*n);
  const auto n = wholeNumber<std::uint64_t>(text);
  return n ? std::optional(Value::unsignedInteger(*n)) : std::nullopt;
}

// What a numeric column makes of a value: text that is a plain number becomes one; whole numbers become integers
// where the column holds numbers of both kinds.
Value numericForm(const Column& column, const Value& value) {
  Value number = value;
  if (value.kind() == Kind::Text) {
    const bool mayBeEndless = column.type == TypeClass::Real || (column.type == TypeClass::Decimal && ofServer(column));
    if (mayBeEndless &&
        (value.asString() == "NaN" || value.asString() == "Infinity" || value.asString() == "-Infinity")) {
      return value.asString() == "NaN" ? Value::real(std::nan(""))
                                       : Value::real(value.asString()[0] == '-' ? -INFINITY : INFINITY);
    }
    auto parsed = numberOfText(value.asString());
    if (!parsed) return value;
    number = std::move(*parsed);
  }
  if (!number.isNumber()) return number;
  if (column.type == TypeClass::Real) return asReal(number);
  const auto whole = asWhole(number);
  if (whole && (whole->kind() == Kind::Integer || column.unsigned64)) return *whole;
  // Where numbers are stored as binary floats, an exact decimal takes that form too.
  return number.kind() == Kind::Decimal && column.exactDigits ? asReal(number) : number;
}

Value changedForm(const Column& column, const Value& value) {
  if (value.isNull() || value.kind() == Kind::PendingKey) return value;
  if (value.kind() == Kind::Other && column.storesOffType) return Value::text(value.asString());
  if (column.type == TypeClass::Boolean && !column.booleansAsNumbers) {
    if (value.kind() == Kind::Integer && (value.asInteger() == 0 || value.asInteger() == 1)) {
      return Value::boolean(value.asInteger() == 1);
    }
    return value;
  }
  if (isNumeric(column.type) || column.numericText) return numericForm(column, value);
  const bool ofText = column.type == TypeClass::Text ||
                      (ofServer(column) && !isNumeric(column.type) && column.type != TypeClass::Bytes);
  if (ofText && value.isNumber() && value.kind() != Kind::Boolean) return Value::text(canonicalText(value));
  if (column.losesTrailingBlanks && value.kind() == Kind::Text && value.asString().ends_with(' ')) {
    return Value::text(value.asString().substr(0, value.asString().find_last_not_of(' ') + 1));
  }
  if (value.kind() == Kind::Boolean && column.booleansAsNumbers) return Value::integer(value.asInteger());
  if ((value.kind() == Kind::Decimal || value.kind() == Kind::Unsigned) && column.type == TypeClass::Any) {
    return asReal(value);
  }
  return value;
}

// --- checks --------------------------------------------------------------------------------------------------------

// A decimal with more digits than the column keeps would be rounded without a word.
Status checkDigits(const Column& column, const Value& original, const Value& value) {
  if (column.type != TypeClass::Decimal || !column.mostDecimals || value.kind() == Kind::Real) return {};
  const std::string digits = normalDecimal(canonicalText(value));
  const std::size_t point = std::min(digits.find('.'), digits.size());
  const std::size_t whole = point - (digits.front() == '-' ? 1 : 0);
  const auto decimals = static_cast<int>(point == digits.size() ? 0 : digits.size() - point - 1);
  if (decimals > *column.mostDecimals) {
    return refuse(column, " with at most " + std::to_string(std::max(0, *column.mostDecimals)) +
                              " digits after the point" + given(original));
  }
  const bool zero = digits.substr(digits.front() == '-' ? 1 : 0, whole) == "0";
  if (column.mostDigits && !zero && static_cast<int>(whole) > *column.mostDigits - *column.mostDecimals) {
    return refuse(column, ", within what " + column.declaredType + " holds" + given(original));
  }
  return {};
}

Status checkNumber(const Column& column, const Value& given_, const Value& value) {
  if (!value.isNumber()) return refuse(column, given(given_));
  if (column.type == TypeClass::Integer || column.type == TypeClass::Boolean) {
    if (value.kind() == Kind::Unsigned && column.unsigned64) return {};
    if (value.kind() != Kind::Integer && value.kind() != Kind::Boolean) return refuse(column, given(given_));
    const std::int64_t n = value.asInteger();
    if (column.type == TypeClass::Boolean && n != 0 && n != 1) return refuse(column, given(given_));
    if ((column.minInteger && n < *column.minInteger) || (column.maxInteger && n > *column.maxInteger)) {
      return refuse(column, ", within what " + column.declaredType + " holds" + given(given_));
    }
  }
  if (column.type == TypeClass::Decimal && column.exactDigits && compareValues(given_, value) != 0 &&
      given_.isNumber()) {
    return refuse(column, " with at most " + std::to_string(*column.exactDigits) +
                              " digits, which is what this database keeps exactly" + given(given_));
  }
  return checkDigits(column, given_, value);
}

std::size_t characters(std::string_view s) {
  return static_cast<std::size_t>(
      std::count_if(s.begin(), s.end(), [](char c) { return (static_cast<unsigned char>(c) & 0xC0) != 0x80; }));
}

Status checkText(const Column& column, const Value& value) {
  if (value.kind() != Kind::Text && value.kind() != Kind::Other) return refuse(column, given(value));
  const std::size_t length = characters(value.asString());
  if (column.maxLength && length > static_cast<std::size_t>(*column.maxLength)) {
    return refuse(column, "; this has " + std::to_string(length));
  }
  return {};
}

Status checkRules(const Column& column, const Value& value) {
  if (!column.allowed.empty() && !column.allowedIsAdvice &&
      std::none_of(column.allowed.begin(), column.allowed.end(), [&](const Value& v) { return sameValue(v, value); })) {
    return refuse(column, given(value));
  }
  const bool comparable = value.isNumber();
  if (comparable && column.minimum && compareValues(value, *column.minimum) < 0) return refuse(column, given(value));
  if (comparable && column.maximum && compareValues(value, *column.maximum) > 0) return refuse(column, given(value));
  return {};
}

Status checkNew(const Column& column, const Value& original, const Value& value) {
  if (value.isNull()) {
    if (column.nullable) return {};
    Error error(ErrorKind::Constraint, column.name + " must have a value: the database allows no NULL there");
    error.constraint = ConstraintKind::NotNull;
    return fail(std::move(error));
  }
  if (value.kind() == Kind::PendingKey) return {};
  // Said in so many words: as it is, whatever the declared type.
  const bool asItIs = original.kind() == Kind::Other || original.kind() == Kind::Bytes;
  if (asItIs && column.storesOffType) return {};
  if (isNumeric(column.type)) {
    // For exactness the number that was meant is wanted, even if it came as text.
    Value meant = original;
    if (original.kind() == Kind::Text) meant = numberOfText(original.asString()).value_or(original);
    ITERANDUM_TRY(checkNumber(column, meant, value));
  } else if (column.type == TypeClass::Text) {
    ITERANDUM_TRY(checkText(column, value));
  } else if (column.type == TypeClass::Bytes) {
    if (value.kind() != Kind::Bytes) return refuse(column, given(value));
  } else if (isUuid(column)) {
    if (!value.isString() || !isUuidText(value.asString())) return refuse(column, given(value));
  } else if (isCalendar(column.type)) {
    const bool numberOfSeconds = value.isNumber() && column.numericText;
    const bool known = value.isString() && (isCalendarText(column.type, value.asString()) ||
                                            (ofServer(column) && isBeyondCalendar(value.asString())));
    if (!numberOfSeconds && !known) return refuse(column, given(value));
  }
  return checkRules(column, value);
}

}  // namespace

std::string wantedInWords(const Column& column) {
  if (!column.allowed.empty()) {
    std::string out = "one of ";
    for (std::size_t i = 0; i < column.allowed.size() && i < 8; ++i) {
      out += (i ? ", " : "") + canonicalText(column.allowed[i]);
    }
    return out + (column.allowed.size() > 8 ? ", …" : "");
  }
  std::string out = isUuid(column) ? "an identifier like 6f9619ff-8b86-4011-b42d-00c04fc964ff"
                                   : typeWords(column.type) + rangeWords(column);
  if (column.type == TypeClass::Text && column.maxLength) {
    out += " of at most " + std::to_string(*column.maxLength) + " characters";
  }
  return out;
}

// 2020-4-3 is as clear as 2020-04-03: the month and the day get the noughts that they lack.
static std::string withWholeDate(const std::string& text) {
  std::size_t at = text.find_first_not_of(' ');
  if (at == std::string::npos) return text;
  const auto digits = [&](std::size_t from) {
    return std::min(text.find_first_not_of("0123456789", from), text.size()) - from;
  };
  if (digits(at) != 4 || at + 4 >= text.size() || text[at + 4] != '-') return text;
  const std::size_t month = at + 5;
  const std::size_t monthDigits = digits(month);
  const std::size_t day = month + monthDigits + 1;
  if (monthDigits < 1 || monthDigits > 2 || day > text.size() || text[day - 1] != '-') return text;
  const std::size_t dayDigits = day < text.size() ? digits(day) : 0;
  if (dayDigits < 1 || dayDigits > 2) return text;
  return text.substr(at, 5) + (monthDigits == 1 ? "0" : "") + text.substr(month, monthDigits) + "-" +
         (dayDigits == 1 ? "0" : "") + text.substr(day);
}

bool isStrangeDate(const Column& column, const Value& value) {
  return isCalendar(column.type) && value.isNumber() && column.storesOffType;
}

Value comparableForm(const Column& column, const Value& value) { return changedForm(column, value); }

Result<Value> storedForm(const Column& column, const Value& value) {
  Value stored = changedForm(column, value);
  ITERANDUM_TRY(checkNew(column, value, stored));
  if (column.paddedWithBlanks && column.maxLength && stored.kind() == Kind::Text) {
    const auto full = static_cast<std::size_t>(*column.maxLength);
    const std::size_t length = characters(stored.asString());
    if (length < full) stored = Value::text(std::string(stored.asString()).append(full - length, ' '));
  }
  return stored;
}

namespace {

// Blanks group digits by three in many hands' spreadsheets: "1 204" is a number, "3 4" is none, and stays as it is.
std::string withoutGroups(std::string_view text) {
  std::string plain;
  for (std::size_t i = 0; i < text.size();) {
    const std::string_view rest = text.substr(i);
    // Blank, no-break space, narrow no-break space, thin space.
    std::size_t blank = 0;
    for (const std::string_view space : {" ", "\xC2\xA0", "\xE2\x80\xAF", "\xE2\x80\x89"}) {
      if (rest.starts_with(space)) blank = space.size();
    }
    plain += blank > 0 ? ' ' : rest[0];
    i += std::max<std::size_t>(blank, 1);
  }
  const std::size_t begin = plain.find_first_not_of(' ');
  if (begin == std::string::npos) return plain;
  plain = plain.substr(begin, plain.find_last_not_of(' ') - begin + 1);
  const auto isDigit = [&](std::size_t at) { return at < plain.size() && plain[at] >= '0' && plain[at] <= '9'; };
  std::string out;
  for (std::size_t i = 0; i < plain.size(); ++i) {
    if (plain[i] != ' ') {
      out += plain[i];
      continue;
    }
    const bool group = i > 0 && isDigit(i - 1) && isDigit(i + 1) && isDigit(i + 2) && isDigit(i + 3) && !isDigit(i + 4);
    const bool behindPoint = out.find('.') != std::string::npos;
    // The group before it has at most three digits.
    std::size_t before = 0;
    while (before < i && isDigit(i - 1 - before)) ++before;
    if (!group || behindPoint || before > 3) return plain;
  }
  return out;
}

std::optional<bool> yesOrNo(std::string_view text) {
  const std::string word = smallLetters(text);
  if (word == "yes" || word == "true") return true;
  if (word == "no" || word == "false") return false;
  return std::nullopt;
}

}  // namespace

Result<Value> typedValue(const Column& column, std::string_view text) {
  if (text.empty() && column.type != TypeClass::Text && column.type != TypeClass::Any) {
    return storedForm(column, Value());
  }
  if (column.type == TypeClass::Boolean) {
    if (const auto yes = yesOrNo(text)) return storedForm(column, Value::integer(*yes ? 1 : 0));
  }
  if (column.type == TypeClass::Any) {
    // Where any type may lie, digits are taken for a number, as a spreadsheet does; the card can force text.
    if (auto number = numberOfText(text)) return storedForm(column, *number);
  }
  if (column.type == TypeClass::Date || column.type == TypeClass::Timestamp) {
    return storedForm(column, Value::text(withWholeDate(std::string(text))));
  }
  if (isNumeric(column.type) && !plainWhole(text)) return storedForm(column, Value::text(withoutGroups(text)));
  return storedForm(column, Value::text(text));
}

bool isOffType(const Column& column, const Value& value) {
  if (value.isNull() || value.kind() == Kind::PendingKey) return false;
  const auto stored = storedForm(column, value);
  return !stored || !(*stored == value);
}

}  // namespace iterandum
