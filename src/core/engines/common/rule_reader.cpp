#include "core/engines/common/rule_reader.h"

#include <strings.h>

#include <algorithm>

#include "core/value/decimal.h"

namespace iterandum {
namespace {

// Servers give a rule out with casts and brackets that nobody typed: ((grade)::text = ANY (ARRAY['a'::text])). The
// reader below wants it as a person would have written it.
class Simplified {
 public:
  explicit Simplified(std::vector<SqlToken> tokens) : tokens_(std::move(tokens)) {}

  std::vector<SqlToken> take() {
    for (std::size_t i = 0; i < tokens_.size();) {
      if (isSymbol(tokens_[i], "::")) {
        dropCast(i);
      } else if (loneInBrackets(i)) {
        tokens_.erase(tokens_.begin() + static_cast<std::ptrdiff_t>(i));
        tokens_.erase(tokens_.begin() + static_cast<std::ptrdiff_t>(i) + 1);
        i = i > 0 ? i - 1 : 0;
      } else if (charsetMark(i)) {
        tokens_.erase(tokens_.begin() + static_cast<std::ptrdiff_t>(i));
      } else if (negativeNumber(i)) {
        tokens_[i + 1].text.insert(0, "-");
        tokens_.erase(tokens_.begin() + static_cast<std::ptrdiff_t>(i));
        i = i > 0 ? i - 1 : 0;  // brackets around it may now hold it alone
      } else {
        ++i;
      }
    }
    return std::move(tokens_);
  }

 private:
  [[nodiscard]] bool wordOfType(std::size_t i) const {
    static constexpr const char* kNotTypes[] = {"and", "or", "is", "in", "not", "between", "like", "any", "null"};
    if (i >= tokens_.size() || !isName(tokens_[i])) return false;
    return std::none_of(std::begin(kNotTypes), std::end(kNotTypes),
                        [&](const char* word) { return isWord(tokens_[i], word); });
  }

  // Removes `:: character varying (20) []` at i; a text that was cast to a number becomes that number.
  void dropCast(std::size_t& i) {
    std::size_t end = i + 1;
    bool text = false;
    while (wordOfType(end)) {
      text =
          text || isWord(tokens_[end], "text") || isWord(tokens_[end], "character") || isWord(tokens_[end], "bpchar");
      ++end;
    }
    if (end < tokens_.size() && isSymbol(tokens_[end], "(")) end = closing(tokens_, end, tokens_.size() - 1) + 1;
    while (end + 1 < tokens_.size() && isSymbol(tokens_[end], "[") && isSymbol(tokens_[end + 1], "]")) end += 2;
    if (i > 0 && !text && tokens_[i - 1].kind == SqlToken::Kind::String && plainDecimal(tokens_[i - 1].text)) {
      tokens_[i - 1].kind = SqlToken::Kind::Number;
    }
    tokens_.erase(tokens_.begin() + static_cast<std::ptrdiff_t>(i), tokens_.begin() + static_cast<std::ptrdiff_t>(end));
    i = i > 2 ? i - 3 : 0;  // brackets around what was cast may now hold it alone
  }

  // ( x ) that is no argument list.
  [[nodiscard]] bool loneInBrackets(std::size_t i) const {
    if (i + 2 >= tokens_.size() || !isSymbol(tokens_[i], "(") || !isSymbol(tokens_[i + 2], ")")) return false;
    if (tokens_[i + 1].kind == SqlToken::Kind::Symbol) return false;
    return i == 0 || !isName(tokens_[i - 1]) || isWord(tokens_[i - 1], "and") || isWord(tokens_[i - 1], "or") ||
           isWord(tokens_[i - 1], "not") || isWord(tokens_[i - 1], "between");
  }

  // _utf8mb4'text'
  [[nodiscard]] bool charsetMark(std::size_t i) const {
    return tokens_[i].kind == SqlToken::Kind::Word && tokens_[i].text[0] == '_' && i + 1 < tokens_.size() &&
           tokens_[i + 1].kind == SqlToken::Kind::String && tokens_[i].end == tokens_[i + 1].begin;
  }

  // - 5 that is no subtraction.
  [[nodiscard]] bool negativeNumber(std::size_t i) const {
    return i > 0 && i + 1 < tokens_.size() && isSymbol(tokens_[i], "-") &&
           tokens_[i - 1].kind == SqlToken::Kind::Symbol && !isSymbol(tokens_[i - 1], ")") &&
           tokens_[i + 1].kind == SqlToken::Kind::Number && tokens_[i + 1].text[0] != '-';
  }

  std::vector<SqlToken> tokens_;
};

class RuleReader {
 public:
  RuleReader(std::vector<SqlToken> tokens, std::vector<Column>& columns, const RuleLanguage& language)
      : tokens_(std::move(tokens)), columns_(columns), language_(language) {}

  // True when every part of the rule was learnt.
  bool read(std::size_t begin, std::size_t end) {
    stripBrackets(begin, end);
    const std::vector<std::size_t> either = topLevel(begin, end, "or");
    if (either.size() == 1) {
      // column IS NULL OR rule: NULL passes every rule anyway.
      return isNullTest(begin, either[0]) && read(either[0] + 1, end);
    }
    if (!either.empty()) return false;
    bool all = true;
    bool between = false;
    std::size_t from = begin;
    for (const std::size_t at : topLevel(begin, end, "and")) {
      const bool opens = !topLevel(from, at, "between").empty() && !between;
      between = opens;
      if (opens) continue;
      all = term(from, at) && all;
      from = at + 1;
    }
    return term(from, end) && all;
  }

 private:
  void stripBrackets(std::size_t& begin, std::size_t& end) const {
    while (end - begin >= 2 && isSymbol(tokens_[begin], "(") && closing(tokens_, begin, end) == end - 1) {
      ++begin;
      --end;
    }
  }

  // Where the word stands outside of all brackets.
  [[nodiscard]] std::vector<std::size_t> topLevel(std::size_t begin, std::size_t end, const char* word) const {
    std::vector<std::size_t> out;
    int depth = 0;
    for (std::size_t i = begin; i < end; ++i) {
      if (isSymbol(tokens_[i], "(")) ++depth;
      if (isSymbol(tokens_[i], ")")) --depth;
      if (depth == 0 && isWord(tokens_[i], word)) out.push_back(i);
    }
    return out;
  }

  [[nodiscard]] bool isNullTest(std::size_t begin, std::size_t end) const {
    stripBrackets(begin, end);
    return end - begin == 3 && isName(tokens_[begin]) && isWord(tokens_[begin + 1], "is") &&
           isWord(tokens_[begin + 2], "null");
  }

  Column* columnNamed(const SqlToken& token) {
    if (!isName(token)) return nullptr;
    const auto same = [&](const Column& c) { return c.name == token.text; };
    const auto alike = [&](const Column& c) { return strcasecmp(c.name.c_str(), token.text.c_str()) == 0; };
    auto at = std::find_if(columns_.begin(), columns_.end(), same);
    if (at == columns_.end()) at = std::find_if(columns_.begin(), columns_.end(), alike);
    return at == columns_.end() ? nullptr : &*at;
  }

  // One literal at `at`; moves behind it.
  bool literal(std::size_t& at, std::size_t end, Value& out) const {
    bool negative = false;
    if (at < end && (isSymbol(tokens_[at], "-") || isSymbol(tokens_[at], "+"))) negative = tokens_[at++].text == "-";
    if (at >= end) return false;
    const SqlToken& token = tokens_[at];
    if (token.kind == SqlToken::Kind::String && !negative) {
      out = Value::text(token.text);
    } else if (token.kind == SqlToken::Kind::Number) {
      const auto plain = plainDecimal((negative ? "-" : "") + token.text);
      if (!plain) return false;
      out = Value::decimal(normalDecimal(*plain));
      if (plain->find('.') == std::string::npos && plain->size() < 18) out = Value::integer(std::stoll(*plain));
    } else {
      return false;
    }
    ++at;
    return true;
  }

  bool term(std::size_t begin, std::size_t end) {
    if (end - begin >= 2 && isSymbol(tokens_[begin], "(") && closing(tokens_, begin, end) == end - 1) {
      return read(begin + 1, end - 1);
    }
    if (end - begin < 3) return false;
    if (measuresLength(tokens_[begin]) && isSymbol(tokens_[begin + 1], "(")) return lengthTerm(begin, end);
    Column* column = columnNamed(tokens_[begin]);
    if (column == nullptr) return false;
    const SqlToken& op = tokens_[begin + 1];
    std::size_t at = begin + 2;
    if (isWord(op, "in") && isSymbol(tokens_[at], "(")) return listTerm(*column, at + 1, end - 1);
    if (op.text == "=" && isWord(tokens_[at], "any")) return arrayTerm(*column, at + 1, end);
    Value low;
    if (isWord(op, "between")) {
      Value high;
      if (!literal(at, end, low) || at >= end || !isWord(tokens_[at], "and")) return false;
      if (!literal(++at, end, high) || at != end || !low.isNumber() || !high.isNumber()) return false;
      atLeast(*column, low);
      atMost(*column, high);
      return true;
    }
    return literal(at, end, low) && at == end && low.isNumber() && bound(*column, op.text, low);
  }

  static bool bound(Column& column, const std::string& op, const Value& value) {
    const bool whole = column.type == TypeClass::Integer && value.kind() == Value::Kind::Integer;
    // "above 0" for whole numbers is "1 or more"; for others the database itself has to say it.
    if (op == ">=") {
      atLeast(column, value);
    } else if (op == "<=") {
      atMost(column, value);
    } else if (op == ">" && whole) {
      atLeast(column, Value::integer(value.asInteger() + 1));
    } else if (op == "<" && whole) {
      atMost(column, Value::integer(value.asInteger() - 1));
    } else {
      return false;
    }
    return true;
  }

  static void atLeast(Column& column, const Value& value) {
    if (!column.minimum || compareValues(*column.minimum, value) < 0) column.minimum = value;
  }
  static void atMost(Column& column, const Value& value) {
    if (!column.maximum || compareValues(*column.maximum, value) > 0) column.maximum = value;
  }

  [[nodiscard]] bool measuresLength(const SqlToken& token) const {
    return std::any_of(language_.lengthFunctions.begin(), language_.lengthFunctions.end(),
                       [&](const char* name) { return isWord(token, name); });
  }

  bool lengthTerm(std::size_t begin, std::size_t end) {
    if (end - begin != 6 || !isSymbol(tokens_[begin + 1], "(") || !isSymbol(tokens_[begin + 3], ")")) return false;
    Column* column = columnNamed(tokens_[begin + 2]);
    std::size_t at = begin + 5;
    Value n;
    if (column == nullptr || column->type != TypeClass::Text || !literal(at, end, n) ||
        n.kind() != Value::Kind::Integer) {
      return false;
    }
    const std::string& op = tokens_[begin + 4].text;
    if (op != "<=" && op != "<") return false;
    const std::int64_t most = n.asInteger() - (op == "<" ? 1 : 0);
    column->maxLength = std::min(column->maxLength.value_or(most), most);
    return true;
  }

  bool listTerm(Column& column, std::size_t at, std::size_t end) {
    std::vector<Value> values;
    while (at < end) {
      Value v;
      if (!literal(at, end, v)) return false;
      values.push_back(std::move(v));
      if (at < end && !isSymbol(tokens_[at++], ",")) return false;
    }
    if (column.type == TypeClass::Text && language_.comparesLoosely(column)) {
      if (!column.allowed.empty()) return false;
      column.allowed = std::move(values);
      column.allowedIsAdvice = true;
      return false;
    }
    if (column.allowed.empty()) {
      column.allowed = std::move(values);
    } else {
      // The type lists its values too: only those in both may stand there.
      std::erase_if(column.allowed,
                    [&](const Value& v) { return std::find(values.begin(), values.end(), v) == values.end(); });
    }
    return true;
  }

  // ANY (ARRAY['a', 'b']), in any number of brackets.
  bool arrayTerm(Column& column, std::size_t begin, std::size_t end) {
    stripBrackets(begin, end);
    if (end - begin < 3 || !isWord(tokens_[begin], "array") || !isSymbol(tokens_[begin + 1], "[") ||
        !isSymbol(tokens_[end - 1], "]")) {
      return false;
    }
    return listTerm(column, begin + 2, end - 1);
  }

  std::vector<SqlToken> tokens_;
  std::vector<Column>& columns_;
  const RuleLanguage& language_;
};

}  // namespace

void learnFromRule(CheckRule& rule, std::vector<Column>& columns, const RuleLanguage& language) {
  std::vector<SqlToken> tokens = sqlTokens(rule.expression, language.dialect);
  const std::size_t count = tokens.size();
  const bool told = !rule.columns.empty();
  for (std::size_t c = 0; c < columns.size() && !told; ++c) {
    const bool spokenOf = std::any_of(tokens.begin(), tokens.end(), [&](const SqlToken& t) {
      return isName(t) && strcasecmp(t.text.c_str(), columns[c].name.c_str()) == 0;
    });
    if (spokenOf) rule.columns.push_back(c);
  }
  if (count == 0 || count > 2000) return;
  tokens = Simplified(std::move(tokens)).take();
  const std::size_t simple = tokens.size();
  rule.understood = RuleReader(std::move(tokens), columns, language).read(0, simple);
}

}  // namespace iterandum
