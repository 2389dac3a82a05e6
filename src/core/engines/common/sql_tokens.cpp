#include "core/engines/common/sql_tokens.h"

#include <strings.h>

#include <algorithm>
#include <cctype>

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

std::string readQuoted(std::string_view s, std::size_t& at, bool escapes) {
  const char open = s[at];
  const char close = open == '[' ? ']' : open;
  std::string out;
  for (++at; at < s.size(); ++at) {
    if (escapes && s[at] == '\\' && at + 1 < s.size()) {
      ++at;
    } else if (s[at] == close) {
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

}  // namespace

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

std::vector<SqlToken> sqlTokens(std::string_view sql, SqlDialect dialect) {
  std::vector<SqlToken> out;
  for (std::size_t at = skipBlank(sql, 0); at < sql.size(); at = skipBlank(sql, at)) {
    SqlToken token;
    token.begin = at;
    const char c = sql[at];
    if (c == '\'' || c == '"' || c == '`' || (c == '[' && dialect.bracketsQuote)) {
      token.kind = c == '\'' ? SqlToken::Kind::String : SqlToken::Kind::Quoted;
      token.text = readQuoted(sql, at, dialect.backslashEscapes && c == '\'');
    } else if ((c == 'x' || c == 'X') && at + 1 < sql.size() && sql[at + 1] == '\'') {
      token.kind = SqlToken::Kind::Blob;
      token.text = readQuoted(sql, ++at, false);
    } else if (isWordStart(c)) {
      token.kind = SqlToken::Kind::Word;
      while (at < sql.size() && isWordPart(sql[at])) token.text += sql[at++];
    } else if (std::isdigit(static_cast<unsigned char>(c))) {
      token.kind = SqlToken::Kind::Number;
      while (at < sql.size() && (isWordPart(sql[at]) || sql[at] == '.')) token.text += sql[at++];
    } else {
      token.text = c;
      ++at;
      if (at < sql.size() &&
          (sql[at] == '=' || (c == '<' && sql[at] == '>') || ((c == '|' || c == ':') && sql[at] == c))) {
        token.text += sql[at++];
      }
    }
    token.end = at;
    out.push_back(std::move(token));
  }
  return out;
}

}  // namespace iterandum
