#include "core/scope/condition_tokens.h"

#include <algorithm>
#include <array>
#include <cctype>
#include <optional>

namespace iterandum {
namespace {

using Kind = ConditionToken::Kind;

constexpr std::array<std::string_view, 8> kComparisons{"<=", ">=", "<>", "!=", "==", "=", "<", ">"};

bool isBlank(char c) { return std::isspace(static_cast<unsigned char>(c)) != 0; }

std::size_t dotsAt(std::string_view text) { return std::min(text.find_first_not_of('.'), text.size()); }

std::string_view signAt(std::string_view text) {
  for (const std::string_view sign : kComparisons) {
    if (text.starts_with(sign)) return text.substr(0, sign.size());
  }
  if (!text.empty() && (text[0] == '(' || text[0] == ')' || text[0] == ',')) return text.substr(0, 1);
  if (dotsAt(text) == 2) return text.substr(0, 2);
  return {};
}

// A name of a path: up to the next dot, blank or sign, or what a quote encloses.
std::optional<std::string> pathName(std::string_view text, std::size_t& at) {
  if (at < text.size() && text[at] == '"') {
    auto name = enclosedText(text, at, '"', "quote");
    return name ? std::optional(std::move(*name)) : std::nullopt;
  }
  std::string out;
  while (at < text.size() && text[at] != '.' && text[at] != '"' && !isBlank(text[at]) &&
         signAt(text.substr(at)).empty()) {
    out += text[at++];
  }
  return out.empty() ? std::nullopt : std::optional(std::move(out));
}

// Names with dots between, one of which at least is quoted. Nothing, and `at` stays: there are none here.
std::vector<std::string> pathAt(std::string_view text, std::size_t& at) {
  std::vector<std::string> names;
  bool quoted = false;
  std::size_t here = at;
  while (true) {
    quoted = quoted || (here < text.size() && text[here] == '"');
    auto name = pathName(text, here);
    if (!name) return {};
    names.push_back(std::move(*name));
    if (here == text.size() || text[here] != '.' || dotsAt(text.substr(here)) > 1) break;
    ++here;
  }
  if (!quoted || names.size() < 2) return {};
  at = here;
  return names;
}

}  // namespace

Result<std::string> enclosedText(std::string_view text, std::size_t& at, char close, const char* what) {
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

Result<std::vector<ConditionToken>> conditionTokens(std::string_view text, std::size_t from, std::string_view stop) {
  std::vector<ConditionToken> out;
  std::size_t at = from;
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
    if (std::vector<std::string> path = pathAt(text, at); !path.empty()) {
      token.kind = Kind::Word;
      token.text = text.substr(token.begin, at - token.begin);
      token.path = std::move(path);
    } else if (c == '\'' || c == '"') {
      token.kind = Kind::Quoted;
      token.quote = c;
      ITERANDUM_ASSIGN(token.text, enclosedText(text, at, c, "quote"));
    } else if (c == '[') {
      token.kind = Kind::Column;
      ITERANDUM_ASSIGN(token.text, enclosedText(text, at, ']', "bracket"));
    } else if (const std::string_view sign = signAt(text.substr(at)); !sign.empty()) {
      token.kind = Kind::Sign;
      token.text = sign;
      at += sign.size();
    } else {
      token.kind = Kind::Word;
      while (at < text.size() && !isBlank(text[at]) && signAt(text.substr(at)).empty()) {
        // Dots are taken together: the last two of three are no sign.
        const std::size_t dots = std::max<std::size_t>(dotsAt(text.substr(at)), 1);
        token.text += text.substr(at, dots);
        at += dots;
      }
    }
    token.end = at;
    if (!stop.empty() && isWord(token, stop)) {
      token = {ConditionToken::Kind::End, {}, 0, {}, token.begin, token.begin};
      out.push_back(std::move(token));
      return out;
    }
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
