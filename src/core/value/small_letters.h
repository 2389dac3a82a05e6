// Small letters, as conditions, names and orders take them: letter by letter, the same on every engine.
#pragma once

#include <string>
#include <string_view>

namespace iterandum {

// Each letter by its simple mapping of Unicode: Ä is ä, ß is not ss; ς at the end of a word is σ like everywhere else.
// What is no UTF-8 is left as it is.
[[nodiscard]] std::string smallLetters(std::string_view text);

}  // namespace iterandum
