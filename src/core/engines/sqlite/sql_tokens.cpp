#include "core/engines/sqlite/sql_tokens.h"

#include <strings.h>

#include <algorithm>
#include <cctype>

#include "core/value/decimal.h"

namespace iterandum {
namespace {

bool isWordStart(char c) {
  const auto u = static_cast<unsigned char>(c);
  return u >= 0x80 || std::isalpha(u) || c == '_';
}
bool isWordPart(char c) { return isWordStart(c) || std::isdigit(static_cast<unsigned char>(c)) || c == '$'; }

std::size_t skipBlank(std::string_view s, std::size_t at) {
  while (at < s.size()) {
    if (std::isspace(static_cast<unsigned char>(s[at]))) {
      ++at;
    } else if (s.substr(at, 2) == "--") {
      at = std::min(s.find('\n', at), s.size());
    } else if (s.substr(at, 2) == "/*") {
      const std::size_t close = s.find("*/", at + 2);
      at = close == std::string_view::npos ? s.size() : close + 2;
    } else {
      break;
    }
  }
  return at;
}

std::string readQuoted(std::string_view s, std::size_t& at) {
  const char open = s[at];
  const char close = open == '[' ? ']' : open;
  std::string out;
  for (++at; at < s.size(); ++at) {
    if (s[at] == close) {
      if (close != ']' && at + 1 < s.size() && s[at + 1] == close) {
        ++at;
      } else {
        ++at;
        break;
      }
    }
    out += s[at];
  }
  return out;
}

bool isWord(const SqlToken& token, const char* word) {
  return token.kind == SqlToken::Kind::Word && strcasecmp(token.text.c_str(), word) == 0;
}
bool isSymbol(const SqlToken& token, const char* symbol) {
  return token.kind == SqlToken::Kind::Symbol && token.text == symbol;
}
bool isName(const SqlToken& token) {
  return token.kind == SqlToken::Kind::Word || token.kind == SqlToken::Kind::Quoted;
}

// The position of the bracket that closes the one at `open`, or the end.
std::size_t closing(const std::vector<SqlToken>& tokens, std::size_t open, std::size_t end) {
  int depth = 0;
  for (std::size_t i = open; i < end; ++i) {
    if (isSymbol(tokens[i], "(")) ++depth;
    if (isSymbol(tokens[i], ")") && --depth == 0) return i;
  }
  return end;
}

// --- learning from rules -------------------------------------------------------------------------------------------

class RuleReader {
 public:
  RuleReader(std::vector<SqlToken> tokens, std::vector<Column>& columns)
      : tokens_(std::move(tokens)), columns_(columns) {}

  // True when every part of the rule was learnt.
  bool read(std::size_t begin, std::size_t end) {
    while (end - begin >= 2 && isSymbol(tokens_[begin], "(") && closing(tokens_, begin, end) == end - 1) {
      ++begin;
      --end;
    }
    // column IS NULL OR rule: NULL passes every rule anyway.
    if (end - begin > 4 && isName(tokens_[begin]) && isWord(tokens_[begin + 1], "is") &&
        isWord(tokens_[begin + 2], "null") && isWord(tokens_[begin + 3], "or")) {
      return !hasTop(begin + 4, end, "or") && read(begin + 4, end);
    }
    if (hasTop(begin, end, "or")) return false;
    bool all = true;
    std::size_t from = begin;
    int depth = 0;
    bool between = false;
    for (std::size_t i = begin; i < end; ++i) {
      if (isSymbol(tokens_[i], "(")) ++depth;
      if (isSymbol(tokens_[i], ")")) --depth;
      if (depth != 0) continue;
      if (isWord(tokens_[i], "between")) between = true;
      if (!isWord(tokens_[i], "and")) continue;
      if (between) {
        between = false;
        continue;
      }
      all = term(from, i) && all;
      from = i + 1;
    }
    return term(from, end) && all;
  }

 private:
  [[nodiscard]] bool hasTop(std::size_t begin, std::size_t end, const char* word) const {
    int depth = 0;
    for (std::size_t i = begin; i < end; ++i) {
      if (isSymbol(tokens_[i], "(")) ++depth;
      if (isSymbol(tokens_[i], ")")) --depth;
      if (depth == 0 && isWord(tokens_[i], word)) return true;
    }
    return false;
  }

  Column* columnNamed(const SqlToken& token) {
    if (!isName(token)) return nullptr;
    for (Column& c : columns_) {
      if (strcasecmp(c.name.c_str(), token.text.c_str()) == 0) return &c;
    }
    return nullptr;
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
    if (isWord(tokens_[begin], "length")) return lengthTerm(begin, end);
    Column* column = columnNamed(tokens_[begin]);
    if (column == nullptr) return false;
    const SqlToken& op = tokens_[begin + 1];
    std::size_t at = begin + 2;
    if (isWord(op, "in") && isSymbol(tokens_[at], "(")) return listTerm(*column, at + 1, end - 1);
    Value low;
    if (isWord(op, "between")) {
      Value high;
      if (!literal(at, end, low) || at >= end || !isWord(tokens_[at], "and")) return false;
      if (!literal(++at, end, high) || at != end || !low.isNumber() || !high.isNumber()) return false;
      column->minimum = low;
      column->maximum = high;
      return true;
    }
    return literal(at, end, low) && at == end && low.isNumber() && bound(*column, op.text, low);
  }

  static bool bound(Column& column, const std::string& op, const Value& value) {
    const bool whole = column.type == TypeClass::Integer && value.kind() == Value::Kind::Integer;
    // "above 0" for whole numbers is "1 or more"; for others the database itself has to say it.
    if (op == ">=") {
      column.minimum = value;
    } else if (op == "<=") {
      column.maximum = value;
    } else if (op == ">" && whole) {
      column.minimum = Value::integer(value.asInteger() + 1);
    } else if (op == "<" && whole) {
      column.maximum = Value::integer(value.asInteger() - 1);
    } else {
      return false;
    }
    return true;
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
    column->maxLength = n.asInteger() - (op == "<" ? 1 : 0);
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
    column.allowed = std::move(values);
    return true;
  }

  std::vector<SqlToken> tokens_;
  std::vector<Column>& columns_;
};

}  // namespace

std::vector<SqlToken> sqlTokens(std::string_view sql) {
  std::vector<SqlToken> out;
  for (std::size_t at = skipBlank(sql, 0); at < sql.size(); at = skipBlank(sql, at)) {
    SqlToken token;
    token.begin = at;
    const char c = sql[at];
    if (c == '\'' || c == '"' || c == '`' || c == '[') {
      token.kind = c == '\'' ? SqlToken::Kind::String : SqlToken::Kind::Quoted;
      token.text = readQuoted(sql, at);
    } else if ((c == 'x' || c == 'X') && at + 1 < sql.size() && sql[at + 1] == '\'') {
      token.kind = SqlToken::Kind::Blob;
      token.text = readQuoted(sql, ++at);
    } else if (isWordStart(c)) {
      token.kind = SqlToken::Kind::Word;
      while (at < sql.size() && isWordPart(sql[at])) token.text += sql[at++];
    } else if (std::isdigit(static_cast<unsigned char>(c))) {
      token.kind = SqlToken::Kind::Number;
      while (at < sql.size() && (isWordPart(sql[at]) || sql[at] == '.')) token.text += sql[at++];
    } else {
      token.text = c;
      ++at;
      if (at < sql.size() && (sql[at] == '=' || (c == '<' && sql[at] == '>') || (c == '|' && sql[at] == '|'))) {
        token.text += sql[at++];
      }
    }
    token.end = at;
    out.push_back(std::move(token));
  }
  return out;
}

std::vector<CheckRule> checkRulesOf(std::string_view createTable) {
  const std::vector<SqlToken> tokens = sqlTokens(createTable);
  std::vector<CheckRule> out;
  int depth = 0;
  for (std::size_t i = 0; i < tokens.size(); ++i) {
    if (isSymbol(tokens[i], "(")) ++depth;
    if (isSymbol(tokens[i], ")")) --depth;
    if (depth != 1 || !isWord(tokens[i], "check") || i + 1 >= tokens.size() || !isSymbol(tokens[i + 1], "(")) continue;
    const std::size_t close = closing(tokens, i + 1, tokens.size());
    if (close == tokens.size()) break;
    CheckRule rule;
    rule.expression = createTable.substr(tokens[i + 1].end, tokens[close].begin - tokens[i + 1].end);
    if (i >= 2 && isWord(tokens[i - 2], "constraint")) rule.name = tokens[i - 1].text;
    out.push_back(std::move(rule));
    i = close;
  }
  return out;
}

void learnFromRule(CheckRule& rule, std::vector<Column>& columns) {
  std::vector<SqlToken> tokens = sqlTokens(rule.expression);
  const std::size_t count = tokens.size();
  for (std::size_t c = 0; c < columns.size(); ++c) {
    const bool spokenOf = std::any_of(tokens.begin(), tokens.end(), [&](const SqlToken& t) {
      return isName(t) && strcasecmp(t.text.c_str(), columns[c].name.c_str()) == 0;
    });
    if (spokenOf) rule.columns.push_back(c);
  }
  if (count == 0 || count > 500) return;
  rule.understood = RuleReader(std::move(tokens), columns).read(0, count);
}

InsteadOfTrigger insteadOfTrigger(std::string_view createTrigger) {
  const std::vector<SqlToken> tokens = sqlTokens(createTrigger);
  InsteadOfTrigger out;
  for (std::size_t i = 0; i + 2 < tokens.size(); ++i) {
    if (!isWord(tokens[i], "instead") || !isWord(tokens[i + 1], "of")) continue;
    if (isWord(tokens[i + 2], "insert")) out.event = InsteadOfTrigger::Event::Insert;
    if (isWord(tokens[i + 2], "delete")) out.event = InsteadOfTrigger::Event::Delete;
    if (!isWord(tokens[i + 2], "update")) return out;
    out.event = InsteadOfTrigger::Event::Update;
    if (i + 3 < tokens.size() && isWord(tokens[i + 3], "of")) {
      for (std::size_t c = i + 4; c < tokens.size() && !isWord(tokens[c], "on"); ++c) {
        if (isName(tokens[c])) out.updateOf.push_back(tokens[c].text);
      }
    }
    return out;
  }
  return out;
}

}  // namespace iterandum
