// Base64 (RFC 4648, section 4), strict: padding is required, other characters are refused.
#pragma once

#include <optional>
#include <string>
#include <string_view>

namespace iterandum {

[[nodiscard]] std::string encodeBase64(std::string_view bytes);
[[nodiscard]] std::optional<std::string> decodeBase64(std::string_view text);

}  // namespace iterandum
