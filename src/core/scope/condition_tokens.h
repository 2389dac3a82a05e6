// The words and signs of a condition, each with its place in the text.
#pragma once

#include <cstddef>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/result.h"

namespace iterandum {

struct ConditionToken {
  enum class Kind { Word, Quoted, Sign, Column, End };
  Kind kind = Kind::End;
  std::string text;               // Word: as it is; Quoted, Column: what is inside
  char quote = 0;                 // Quoted: by which
  std::vector<std::string> path;  // names with dots between, one of which is quoted: species."odd name"
  std::size_t begin = 0;          // in the text, in bytes
  std::size_t end = 0;
};

// The last token is End. Signs: ( ) , .. and the signs of comparison. A quote counts at the beginning of a word only,
// and behind a dot. Three dots and more are part of a word.
// They begin at `from`, and end before the word `stop` where one is given; places are those in the whole text.
// Errors: InvalidInput, a quote or bracket that is not closed.
[[nodiscard]] Result<std::vector<ConditionToken>> conditionTokens(std::string_view text, std::size_t from = 0,
                                                                  std::string_view stop = {});

// What stands between the sign at `at` and the next `close`, which doubled stands for itself; moves `at` behind it.
// Errors: InvalidInput; `what` is what is not closed then.
[[nodiscard]] Result<std::string> enclosedText(std::string_view text, std::size_t& at, char close, const char* what);

// Whether the token is this word, in whatever case.
[[nodiscard]] bool isWord(const ConditionToken& token, std::string_view word);

}  // namespace iterandum
