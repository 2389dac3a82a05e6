// Digests, through OpenSSL.
#pragma once

#include <string>
#include <string_view>

namespace iterandum {

// SHA-256, 32 bytes; empty where the library refuses.
[[nodiscard]] std::string sha256(std::string_view content);
// The same in hexadecimal; empty where the library refuses.
[[nodiscard]] std::string sha256Hex(std::string_view content);

// Bytes as hexadecimal digits.
[[nodiscard]] std::string hexDigits(std::string_view bytes);

}  // namespace iterandum
