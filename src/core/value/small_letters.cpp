#include "core/value/small_letters.h"

#include <utf8proc.h>

namespace iterandum {

std::string smallLetters(std::string_view s) {
  constexpr utf8proc_int32_t kSigma = 0x3C3;
  constexpr utf8proc_int32_t kFinalSigma = 0x3C2;
  std::string out;
  out.reserve(s.size());
  while (!s.empty()) {
    const char c = s.front();
    if (static_cast<unsigned char>(c) < 0x80) {
      out += static_cast<char>(c >= 'A' && c <= 'Z' ? c + 32 : c);
      s.remove_prefix(1);
      continue;
    }
    utf8proc_int32_t letter = 0;
    utf8proc_uint8_t small[4];
    const utf8proc_ssize_t read = utf8proc_iterate(reinterpret_cast<const utf8proc_uint8_t*>(s.data()),
                                                   static_cast<utf8proc_ssize_t>(s.size()), &letter);
    if (read <= 0) {
      out += c;
      s.remove_prefix(1);
      continue;
    }
    const utf8proc_int32_t lower = utf8proc_tolower(letter);
    const utf8proc_ssize_t written = utf8proc_encode_char(lower == kFinalSigma ? kSigma : lower, small);
    out.append(reinterpret_cast<const char*>(small), static_cast<std::size_t>(written));
    s.remove_prefix(static_cast<std::size_t>(read));
  }
  return out;
}

}  // namespace iterandum
