// Texts inside an HTML document, where nothing of them is taken for markup.
#pragma once

#include <string>
#include <string_view>

namespace iterandum {

[[nodiscard]] std::string htmlText(std::string_view text);

}  // namespace iterandum
