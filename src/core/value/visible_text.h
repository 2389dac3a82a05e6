// The one gate for texts of a database or a file on their way to a terminal or into a message.
#pragma once

#include <string>
#include <string_view>

namespace iterandum {

// The text with everything shown that would act instead: control characters (ends of lines among them) and bytes that
// are no UTF-8 as escapes (\n, \x1b), characters that turn the direction of what follows by their number (<U+202E>). So
// no record can write over the screen, end a line, or look like another one.
[[nodiscard]] std::string visibleText(std::string_view text);

}  // namespace iterandum
