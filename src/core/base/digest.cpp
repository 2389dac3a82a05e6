#include "core/base/digest.h"

#include <openssl/evp.h>

namespace iterandum {

std::string sha256(std::string_view content) {
  std::string out(EVP_MAX_MD_SIZE, '\0');
  unsigned length = 0;
  if (EVP_Digest(content.data(), content.size(), reinterpret_cast<unsigned char*>(out.data()), &length, EVP_sha256(),
                 nullptr) != 1)
    return {};
  out.resize(length);
  return out;
}

std::string sha256Hex(std::string_view content) { return hexDigits(sha256(content)); }

std::string hexDigits(std::string_view bytes) {
  constexpr const char* kDigits = "0123456789abcdef";
  std::string out;
  for (const char c : bytes) {
    out += kDigits[static_cast<unsigned char>(c) >> 4U];
    out += kDigits[static_cast<unsigned char>(c) & 15U];
  }
  return out;
}

}  // namespace iterandum
