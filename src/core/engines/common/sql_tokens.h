// A tokenizer for SQL that an engine gave out itself (CREATE statements, CHECK expressions): the engine parsed these
// texts before, this only has to find its way in them. Sources: the lexical rules of SQLite, PostgreSQL and MariaDB.
#pragma once

#include <cstddef>
#include <string>
#include <string_view>
#include <vector>

namespace iterandum {

struct SqlToken {
  enum class Kind { Word, Quoted, String, Number, Blob, Symbol };
  Kind kind = Kind::Symbol;
  std::string text;       // unquoted for Quoted and String
  std::size_t begin = 0;  // bytes in the source
  std::size_t end = 0;
};

// What the engines' texts differ in.
struct SqlDialect {
  bool bracketsQuote = false;     // [name] is a quoted name, as in SQLite; else brackets are symbols
  bool backslashEscapes = false;  // in strings, as in MariaDB
};

[[nodiscard]] std::vector<SqlToken> sqlTokens(std::string_view sql, SqlDialect dialect);

[[nodiscard]] bool isWord(const SqlToken& token, const char* word);  // whatever the case
[[nodiscard]] bool isSymbol(const SqlToken& token, const char* symbol);
[[nodiscard]] bool isName(const SqlToken& token);
// The position of the bracket that closes the one at `open`, or `end`.
[[nodiscard]] std::size_t closing(const std::vector<SqlToken>& tokens, std::size_t open, std::size_t end);

}  // namespace iterandum
