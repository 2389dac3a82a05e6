#include "core/scope/condition_operators.h"

#include <algorithm>

#include "core/scope/condition_tokens.h"
#include "core/value/small_letters.h"

namespace iterandum {
namespace {

using Op = Condition::Op;

ConditionOperator emptyText(bool negated) {
  ConditionOperator out{{}, Op::Equal, negated};
  out.emptyText = true;
  return out;
}

ConditionOperator with(std::vector<std::string_view> words, ConditionOperator how) {
  how.words = std::move(words);
  return how;
}

ConditionOperator inNumbersAndDays(std::vector<std::string_view> words, Op op, bool negated = false) {
  ConditionOperator out{std::move(words), op, negated};
  out.notInTexts = true;
  return out;
}

std::vector<ConditionOperator> allOperators() {
  std::vector<ConditionOperator> out{{{"has", "no", "finding"}, Op::Among, true, KnownOf::Finding},
                                     {{"has", "a", "finding"}, Op::Among, false, KnownOf::Finding},
                                     {{"was", "not", "just", "applied"}, Op::Among, true, KnownOf::Applied},
                                     {{"was", "just", "applied"}, Op::Among, false, KnownOf::Applied},
                                     {{"is", "not", "staged"}, Op::Among, true},
                                     {{"is", "staged"}, Op::Among},
                                     {{"is", "not", "no", "value"}, Op::HasValue},
                                     {{"is", "not", "null"}, Op::HasValue},
                                     {{"has", "a", "value"}, Op::HasValue},
                                     {{"has", "value"}, Op::HasValue},
                                     {{"has", "no", "value"}, Op::NoValue},
                                     {{"is", "no", "value"}, Op::NoValue},
                                     {{"is", "null"}, Op::NoValue},
                                     {{"no", "value"}, Op::NoValue},
                                     with({"is", "not", "empty", "text"}, emptyText(true)),
                                     with({"is", "empty", "text"}, emptyText(false)),
                                     with({"empty", "text"}, emptyText(false)),
                                     {{"is", "not", "one", "of"}, Op::OneOf, true},
                                     {{"is", "one", "of"}, Op::OneOf},
                                     {{"is", "not", "in"}, Op::OneOf, true},
                                     {{"is", "in"}, Op::OneOf},
                                     {{"not", "in"}, Op::OneOf, true},
                                     {{"one", "of"}, Op::OneOf},
                                     {{"in"}, Op::OneOf},
                                     {{"does", "not", "contain"}, Op::Contains, true},
                                     {{"contains"}, Op::Contains},
                                     {{"does", "not", "start", "with"}, Op::StartsWith, true},
                                     {{"starts", "with"}, Op::StartsWith},
                                     {{"starts"}, Op::StartsWith},
                                     {{"does", "not", "end", "with"}, Op::EndsWith, true},
                                     {{"ends", "with"}, Op::EndsWith},
                                     {{"ends"}, Op::EndsWith},
                                     {{"is", "not", "like"}, Op::Like, true},
                                     {{"is", "like"}, Op::Like},
                                     {{"not", "like"}, Op::Like, true},
                                     {{"like"}, Op::Like},
                                     {{"is", "not", "between"}, Op::Between, true},
                                     {{"is", "between"}, Op::Between},
                                     {{"not", "between"}, Op::Between, true},
                                     {{"between"}, Op::Between},
                                     {{"does", "not", "come", "before"}, Op::Less, true},
                                     {{"does", "not", "come", "after"}, Op::Greater, true},
                                     {{"comes", "not", "before"}, Op::GreaterOrEqual},
                                     {{"comes", "not", "after"}, Op::LessOrEqual},
                                     {{"comes", "before"}, Op::Less},
                                     {{"comes", "after"}, Op::Greater}};
  for (const std::string_view word : {"below", "before", "above", "after"}) {
    const Op op = word == "below" || word == "before" ? Op::Less : Op::Greater;
    out.push_back(inNumbersAndDays({"is", "not", word}, op, true));
    out.push_back(inNumbersAndDays({"is", word}, op));
    out.push_back(inNumbersAndDays({word}, op));
  }
  out.push_back({{"is", "not"}, Op::NotEqual});
  out.push_back({{"is"}, Op::Equal});
  return out;
}

// Words that begin an operator, or another form of the language.
bool beginsSomething(std::string_view word) {
  constexpr std::string_view kForms[] = {"not",   "and",    "or",      "any",   "count", "number",
                                         "where", "record", "exactly", "empty", "null"};
  const auto& operators = conditionOperators();
  return std::any_of(std::begin(kForms), std::end(kForms), [&](std::string_view w) { return w == word; }) ||
         std::any_of(operators.begin(), operators.end(),
                     [&](const ConditionOperator& o) { return o.words.front() == word; });
}

std::string between(std::string_view text, char quote) {
  std::string out(1, quote);
  for (const char c : text) out.append(c == quote ? 2 : 1, c);
  return out + quote;
}

}  // namespace

const std::vector<ConditionOperator>& conditionOperators() {
  static const std::vector<ConditionOperator> kOperators = allOperators();
  return kOperators;
}

bool holdsTexts(const Column& column) {
  return column.type == TypeClass::Text || column.type == TypeClass::Other || column.type == TypeClass::Any;
}

std::string nameInCondition(std::string_view name) {
  std::string out = quotedIfOdd(name);
  return out.front() != '"' && beginsSomething(smallLetters(name)) ? between(name, '"') : out;
}

std::string textInCondition(std::string_view text, bool inList) {
  constexpr std::string_view kActs = "()<>=!\"[]\\";
  bool plain = !text.empty() && text.find_first_of(kActs) == std::string_view::npos &&
               text.find("..") == std::string_view::npos && text.find("  ") == std::string_view::npos &&
               text.find(" '") == std::string_view::npos && text.front() != ' ' && text.front() != '\'' &&
               text.back() != ' ' && (!inList || text.find(',') == std::string_view::npos) &&
               std::none_of(text.begin(), text.end(), [](char c) { return static_cast<unsigned char>(c) < ' '; });
  if (plain) {
    const auto words = conditionTokens(text);
    plain = words.has_value() && !beginsSomething(smallLetters(words->front().text)) &&
            std::none_of(words->begin(), words->end(),
                         [](const ConditionToken& w) { return isWord(w, "and") || isWord(w, "or"); });
  }
  return plain ? std::string(text) : between(text, '\'');
}

std::string saidOfKnown(KnownOf known, bool negated) {
  switch (known) {
    case KnownOf::Staged:
      return negated ? "is not staged" : "is staged";
    case KnownOf::Finding:
      return negated ? "has no finding" : "has a finding";
    case KnownOf::Applied:
      return negated ? "was not just applied" : "was just applied";
  }
  return {};
}

}  // namespace iterandum
