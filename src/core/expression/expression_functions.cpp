// The functions of expressions.
#include <algorithm>
#include <array>

#include "core/catalogue/column_rules.h"
#include "core/expression/expression_node.h"
#include "core/value/decimal.h"
#include "core/value/small_letters.h"
#include "core/value/text_forms.h"

namespace iterandum {
namespace {

using Kind = Computed::Kind;
using Arguments = std::vector<Computed>;

tl::unexpected<Error> unfit(const std::string& wanted, const Computed& given) {
  return fail(ErrorKind::InvalidInput, wanted + " is wanted, not " + inWords(given));
}

Result<ExactNumber> numberIn(const Computed& a) {
  if (a.kind == Kind::Number) return a.number;
  return unfit("a number", a);
}

// A number of characters or places.
Result<std::int64_t> countIn(const Computed& a, std::int64_t least) {
  constexpr std::int64_t kMost = 100'000;
  const auto n = a.kind == Kind::Number ? a.number.whole() : std::nullopt;
  if (n && *n >= least && *n <= kMost) return *n;
  return unfit("a whole number from " + std::to_string(least) + " to " + std::to_string(kMost), a);
}

// Numbers and days are taken as their text.
Result<std::string> textIn(const Computed& a) {
  if (a.kind == Kind::Stretch || a.kind == Kind::Other) return unfit("a text", a);
  return textOf(a);
}

std::optional<Computed> dayOf(const Computed& a) {
  if (a.kind == Kind::Day) return a;
  if (a.kind == Kind::Moment) return Computed::ofDay(a.day);
  if (a.kind != Kind::Text) return std::nullopt;
  const std::string text = trimmed(a.text);
  auto said = calendarOf(text);
  if (!said) {
    // As it would be typed: noughts may be left out of a whole date.
    Column ofDays;
    ofDays.type = TypeClass::Date;
    const auto typed = typedValue(ofDays, text);
    said = typed && typed->isString() ? calendarOf(typed->asString()) : std::nullopt;
  }
  if (!said || said->kind == Kind::Time) return std::nullopt;
  return Computed::ofDay(said->day);
}

Result<std::chrono::sys_days> dayIn(const Computed& a) {
  if (const auto day = dayOf(a)) return day->day;
  return unfit("a day", a);
}

Result<Computed> roundedTo(const Arguments& a) {
  ITERANDUM_ASSIGN(const ExactNumber number, numberIn(a[0]));
  constexpr std::int64_t kMost = 10'000;
  const auto places = a[1].kind == Kind::Number ? a[1].number.whole() : std::nullopt;
  if (!places || std::abs(*places) > kMost) return unfit("a whole number of places", a[1]);
  return Computed::ofNumber(number.rounded(*places));
}

template <ExactNumber (ExactNumber::*step)() const>
Result<Computed> ofOneNumber(const Arguments& a) {
  ITERANDUM_ASSIGN(const ExactNumber number, numberIn(a[0]));
  return Computed::ofNumber((number.*step)());
}

template <std::string (*form)(std::string_view)>
Result<Computed> ofOneText(const Arguments& a) {
  ITERANDUM_ASSIGN(const std::string text, textIn(a[0]));
  return Computed::ofText(form(text));
}

// Numbers by size, days and moments by time, texts as conditions put them in order.
Result<int> compared(const Computed& a, const Computed& b) {
  const auto ofTime = [](const Computed& c) { return c.kind == Kind::Day || c.kind == Kind::Moment; };
  if (a.kind == Kind::Number && b.kind == Kind::Number) return a.number.compare(b.number);
  if (ofTime(a) && ofTime(b)) {
    const auto when = [](const Computed& c) { return std::pair(c.day, c.nanoseconds); };
    return when(a) < when(b) ? -1 : (when(b) < when(a) ? 1 : 0);
  }
  if (a.kind == Kind::Time && b.kind == Kind::Time)
    return a.nanoseconds < b.nanoseconds ? -1 : (a.nanoseconds > b.nanoseconds ? 1 : 0);
  if (a.kind == Kind::Text && b.kind == Kind::Text) return smallLetters(a.text).compare(smallLetters(b.text));
  return fail(ErrorKind::InvalidInput, inWords(a) + " and " + inWords(b) + " have no order");
}

template <int wanted>
Result<Computed> outermost(const Arguments& a) {
  const Computed* best = &a[0];
  if (a.size() == 1) {
    ITERANDUM_TRY(compared(a[0], a[0]));
  }
  for (std::size_t i = 1; i < a.size(); ++i) {
    ITERANDUM_ASSIGN(const int order, compared(a[i], *best));
    if (order * wanted > 0) best = &a[i];
  }
  // It was computed which of them it is: a number is written as computed numbers are.
  return best->kind == Kind::Number ? Computed::ofNumber(best->number) : *best;
}

Result<Computed> firstOf(const Arguments& a) {
  const auto found = std::find_if(a.begin(), a.end(), [](const Computed& c) { return c.kind != Kind::None; });
  return found == a.end() ? Computed() : *found;
}

Result<Computed> lengthOf(const Arguments& a) {
  ITERANDUM_ASSIGN(const std::string text, textIn(a[0]));
  return Computed::ofNumber(ExactNumber(static_cast<std::int64_t>(characterCount(text))));
}

Result<Computed> leftOf(const Arguments& a) {
  ITERANDUM_ASSIGN(std::string text, textIn(a[0]));
  ITERANDUM_ASSIGN(const std::int64_t count, countIn(a[1], 0));
  text.resize(characterOffset(text, static_cast<std::uint64_t>(count)));
  return Computed::ofText(std::move(text));
}

Result<Computed> rightOf(const Arguments& a) {
  ITERANDUM_ASSIGN(const std::string text, textIn(a[0]));
  ITERANDUM_ASSIGN(const std::int64_t count, countIn(a[1], 0));
  const auto all = static_cast<std::int64_t>(characterCount(text));
  return Computed::ofText(
      text.substr(characterOffset(text, static_cast<std::uint64_t>(std::max<std::int64_t>(0, all - count)))));
}

Result<Computed> partOf(const Arguments& a) {
  ITERANDUM_ASSIGN(const std::string text, textIn(a[0]));
  ITERANDUM_ASSIGN(const std::int64_t from, countIn(a[1], 1));
  ITERANDUM_ASSIGN(const std::int64_t count, countIn(a[2], 0));
  const std::string rest = text.substr(characterOffset(text, static_cast<std::uint64_t>(from - 1)));
  return Computed::ofText(rest.substr(0, characterOffset(rest, static_cast<std::uint64_t>(count))));
}

Result<Computed> replacedIn(const Arguments& a) {
  ITERANDUM_ASSIGN(const std::string text, textIn(a[0]));
  ITERANDUM_ASSIGN(const std::string part, textIn(a[1]));
  ITERANDUM_ASSIGN(const std::string other, textIn(a[2]));
  constexpr std::size_t kMost = std::size_t{64} << 20;
  std::string out = withReplaced(text, part, other);
  if (out.size() > kMost) return fail(ErrorKind::InvalidInput, "the text becomes too long");
  return Computed::ofText(std::move(out));
}

// Noughts in front; behind the sign of a number.
Result<Computed> padded(const Arguments& a) {
  ITERANDUM_ASSIGN(std::string text, textIn(a[0]));
  ITERANDUM_ASSIGN(const std::int64_t wanted, countIn(a[1], 0));
  const auto count = static_cast<std::int64_t>(characterCount(text));
  if (count >= wanted) return Computed::ofText(std::move(text));
  const bool isSigned = text.starts_with('-') && plainDecimal(text);
  text.insert(isSigned ? 1 : 0, static_cast<std::size_t>(wanted - count), '0');
  return Computed::ofText(std::move(text));
}

Result<Computed> asNumber(const Arguments& a) {
  if (a[0].kind == Kind::Number) return a[0];
  if (a[0].kind != Kind::Text) return unfit("a text that is a number", a[0]);
  Column numbers;
  numbers.type = TypeClass::Decimal;
  const std::string text = trimmed(a[0].text);
  const auto typed = text.empty() ? Result<Value>(Value()) : typedValue(numbers, text);
  auto number = typed && typed->isNumber() ? ExactNumber::read(canonicalText(*typed)) : std::nullopt;
  if (!number) return unfit("a text that is a number", a[0]);
  return Computed::ofNumber(std::move(*number));
}

Result<Computed> asText(const Arguments& a) {
  ITERANDUM_ASSIGN(std::string text, textIn(a[0]));
  return Computed::ofText(std::move(text));
}

Result<Computed> asDay(const Arguments& a) {
  ITERANDUM_ASSIGN(const std::chrono::sys_days day, dayIn(a[0]));
  return Computed::ofDay(day);
}

enum class DayPart { Year, Month, Day };
template <DayPart part>
Result<Computed> partOfDay(const Arguments& a) {
  ITERANDUM_ASSIGN(const std::chrono::sys_days day, dayIn(a[0]));
  const std::chrono::year_month_day date(day);
  const std::int64_t n = part == DayPart::Year    ? static_cast<int>(date.year())
                         : part == DayPart::Month ? static_cast<std::int64_t>(static_cast<unsigned>(date.month()))
                                                  : static_cast<std::int64_t>(static_cast<unsigned>(date.day()));
  return Computed::ofNumber(ExactNumber(n));
}

Result<Computed> daysBetween(const Arguments& a) {
  ITERANDUM_ASSIGN(const std::chrono::sys_days from, dayIn(a[0]));
  ITERANDUM_ASSIGN(const std::chrono::sys_days to, dayIn(a[1]));
  return Computed::ofNumber(ExactNumber((to - from).count()));
}

constexpr std::size_t kAny = SIZE_MAX;
constexpr std::array<ExpressionFunction, 29> kFunctions{{
    {"round", 2, 2, false, roundedTo},
    {"floor", 1, 1, false, ofOneNumber<&ExactNumber::floor>},
    {"ceil", 1, 1, false, ofOneNumber<&ExactNumber::ceil>},
    {"abs", 1, 1, false, ofOneNumber<&ExactNumber::absolute>},
    {"min", 1, kAny, false, outermost<-1>},
    {"max", 1, kAny, false, outermost<1>},
    {"coalesce", 1, kAny, true, firstOf},
    {"length", 1, 1, false, lengthOf},
    {"lower", 1, 1, false, ofOneText<lowerCase>},
    {"upper", 1, 1, false, ofOneText<upperCase>},
    {"capitals", 1, 1, false, ofOneText<capitalised>},
    {"sentence", 1, 1, false, ofOneText<sentenceCase>},
    {"compose", 1, 1, false, ofOneText<composed>},
    {"plain", 1, 1, false, ofOneText<plainMarks>},
    {"unpad", 1, 1, false, ofOneText<withoutNoughts>},
    {"trim", 1, 1, false, ofOneText<trimmed>},
    {"tidy", 1, 1, false, ofOneText<tidied>},
    {"left", 2, 2, false, leftOf},
    {"right", 2, 2, false, rightOf},
    {"part", 3, 3, false, partOf},
    {"replace", 3, 3, false, replacedIn},
    {"pad", 2, 2, false, padded},
    {"number", 1, 1, false, asNumber},
    {"text", 1, 1, false, asText},
    {"date", 1, 1, false, asDay},
    {"year", 1, 1, false, partOfDay<DayPart::Year>},
    {"month", 1, 1, false, partOfDay<DayPart::Month>},
    {"day", 1, 1, false, partOfDay<DayPart::Day>},
    {"days", 2, 2, false, daysBetween},
}};

}  // namespace

const ExpressionFunction* expressionFunction(std::string_view name) {
  const auto found =
      std::find_if(kFunctions.begin(), kFunctions.end(), [&](const ExpressionFunction& f) { return f.name == name; });
  return found == kFunctions.end() ? nullptr : &*found;
}

std::string expressionFunctionNames() {
  std::string out;
  for (const ExpressionFunction& f : kFunctions) out += std::string(f.name) + ", ";
  return out + "row";
}

}  // namespace iterandum
