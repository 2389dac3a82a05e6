#include "core/scope/condition_tokens.h"

#include <array>
#include <cctype>

namespace iterandum {
namespace {

using Kind = ConditionToken::Kind;

constexpr std::array<std::string_view, 8> kComparisons{"<=", ">=", "<>", "!=", "==", "=", "<", ">"};

bool isBlank(char c) { return std::isspace(static_cast<unsigned char>(c)) != 0; }

std::string_view signAt(std::string_view text) {
  for (const std::string_view sign : kComparisons) {
    if (text.starts_with(sign)) return text.substr(0, sign.size());
  }
  if (!text.empty() && (text[0] == '(' || text[0] == ')' || text[0] == ',')) return text.substr(0, 1);
  return {};
}

// What stands between `open` and `close`; a doubled `close` stands for itself. Moves `at` behind it.
Result<std::string> enclosed(std::string_view text, std::size_t& at, char close, const char* what) {
  const std::size_t begin = at;
  std::string out;
  for (++at; at < text.size(); ++at) {
    if (text[at] != close) {
      out += text[at];
    } else if (at + 1 < text.size() && text[at + 1] == close) {
      out += text[at++];
    } else {
      ++at;
      return out;
    }
  }
  return fail(ErrorKind::InvalidInput, std::string("the ") + what + " that opens here is not closed",
              "position " + std::to_string(begin + 1));
}

}  // namespace

Result<std::vector<ConditionToken>> conditionTokens(std::string_view text) {
  std::vector<ConditionToken> out;
  std::size_t at = 0;
  while (true) {
    while (at < text.size() && isBlank(text[at])) ++at;
    ConditionToken token;
    token.begin = at;
    if (at == text.size()) {
      token.end = at;
      out.push_back(std::move(token));
      return out;
    }
    const char c = text[at];
    if (c == '\'' || c == '"') {
      token.kind = Kind::Quoted;
      token.quote = c;
      ITERANDUM_ASSIGN(token.text, enclosed(text, at, c, "quote"));
    } else if (c == '[') {
      token.kind = Kind::Column;
      ITERANDUM_ASSIGN(token.text, enclosed(text, at, ']', "bracket"));
    } else if (const std::string_view sign = signAt(text.substr(at)); !sign.empty()) {
      token.kind = Kind::Sign;
      token.text = sign;
      at += sign.size();
    } else {
      token.kind = Kind::Word;
      while (at < text.size() && !isBlank(text[at]) && signAt(text.substr(at)).empty()) token.text += text[at++];
    }
    token.end = at;
    out.push_back(std::move(token));
  }
}

bool isWord(const ConditionToken& token, std::string_view word) {
  if (token.kind != Kind::Word || token.text.size() != word.size()) return false;
  for (std::size_t i = 0; i < word.size(); ++i) {
    if (std::tolower(static_cast<unsigned char>(token.text[i])) != word[i]) return false;
  }
  return true;
}

}  // namespace iterandum
