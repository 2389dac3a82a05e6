#include "core/value/visible_text.h"

#include "core/value/value.h"

namespace iterandum {
namespace {

// U+200E, U+200F, U+202A to U+202E, U+2066 to U+2069, and U+061C.
bool isDirection(std::string_view c) {
  if (c == "\xD8\x9C") return true;
  if (c.size() != 3 || c[0] != '\xE2') return false;
  const auto second = static_cast<unsigned char>(c[1]);
  const auto third = static_cast<unsigned char>(c[2]);
  return (second == 0x80 && (third == 0x8E || third == 0x8F || (third >= 0xAA && third <= 0xAE))) ||
         (second == 0x81 && third >= 0xA6 && third <= 0xA9);
}

std::string directionWords(std::string_view c) {
  static constexpr char kDigits[] = "0123456789ABCDEF";
  unsigned code =
      c.size() == 2 ? (static_cast<unsigned char>(c[0]) & 0x1FU) : (static_cast<unsigned char>(c[0]) & 0x0FU);
  for (const char part : c.substr(1)) code = code << 6U | (static_cast<unsigned char>(part) & 0x3FU);
  std::string out = "<U+";
  for (int shift = 12; shift >= 0; shift -= 4) out += kDigits[(code >> static_cast<unsigned>(shift)) & 15U];
  return out + ">";
}

}  // namespace

std::string visibleText(std::string_view text) {
  static constexpr char kDigits[] = "0123456789abcdef";
  std::string out;
  for (std::size_t i = 0; i < text.size();) {
    const auto byte = static_cast<unsigned char>(text[i]);
    std::size_t length = 1;
    while (byte >= 0x80 && length < 4 && i + length < text.size() && !isValidUtf8(text.substr(i, length))) ++length;
    const std::string_view character = text.substr(i, length);
    if (isDirection(character)) {
      out += directionWords(character);
      i += length;
      continue;
    }
    const bool c1 = length == 2 && byte == 0xC2 && static_cast<unsigned char>(text[i + 1]) < 0xA0;
    if (byte == '\n') {
      out += "\\n";
    } else if (byte == '\t') {
      out += "\\t";
    } else if (byte == '\r') {
      out += "\\r";
    } else if (byte >= 0x20 && byte != 0x7F && !c1 && isValidUtf8(character)) {
      out += character;
    } else {
      length = c1 ? 2 : 1;
      for (const char c : text.substr(i, length)) {
        out += std::string("\\x") + kDigits[static_cast<unsigned char>(c) >> 4] +
               kDigits[static_cast<unsigned char>(c) & 15];
      }
    }
    i += length;
  }
  return out;
}

}  // namespace iterandum
