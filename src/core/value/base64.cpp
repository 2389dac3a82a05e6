#include "core/value/base64.h"

#include <algorithm>
#include <boost/archive/iterators/base64_from_binary.hpp>
#include <boost/archive/iterators/binary_from_base64.hpp>
#include <boost/archive/iterators/transform_width.hpp>

namespace iterandum {
namespace {
namespace it = boost::archive::iterators;
using Encoder = it::base64_from_binary<it::transform_width<std::string_view::const_iterator, 6, 8>>;
using Decoder = it::transform_width<it::binary_from_base64<std::string_view::const_iterator>, 8, 6>;

bool isAlphabet(char c) {
  return (c >= 'A' && c <= 'Z') || (c >= 'a' && c <= 'z') || (c >= '0' && c <= '9') || c == '+' || c == '/';
}
}  // namespace

std::string encodeBase64(std::string_view bytes) {
  // The iterators read past the end unless whole groups of three bytes are given to them.
  const std::size_t whole = bytes.size() / 3 * 3;
  const std::string_view head = bytes.substr(0, whole);
  std::string out(Encoder(head.begin()), Encoder(head.end()));
  if (whole < bytes.size()) {
    std::string tail(bytes.substr(whole));
    const std::size_t padding = 3 - tail.size();
    tail.resize(3, '\0');
    const std::string_view view = tail;
    std::string last(Encoder(view.begin()), Encoder(view.end()));
    std::fill(last.end() - static_cast<std::ptrdiff_t>(padding), last.end(), '=');
    out += last;
  }
  return out;
}

std::optional<std::string> decodeBase64(std::string_view text) {
  if (text.size() % 4 != 0) return std::nullopt;
  if (text.empty()) return std::string();
  std::size_t padding = 0;
  while (padding < 2 && text[text.size() - 1 - padding] == '=') ++padding;
  const std::string_view body = text.substr(0, text.size() - padding);
  if (!std::all_of(body.begin(), body.end(), isAlphabet)) return std::nullopt;
  std::string filled(body);
  filled.append(padding, 'A');
  const std::string_view view = filled;
  std::string out(Decoder(view.begin()), Decoder(view.end()));
  out.resize(text.size() / 4 * 3 - padding);
  return out;
}

}  // namespace iterandum
