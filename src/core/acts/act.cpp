#include "core/acts/act.h"

namespace iterandum {
namespace {

constexpr std::size_t kShown = 40;

std::string shortened(const std::string& text) {
  if (text.size() <= kShown) return text;
  std::size_t end = kShown;
  while (end > 0 && (static_cast<unsigned char>(text[end]) & 0xC0) == 0x80) --end;
  return text.substr(0, end) + "…";
}

}  // namespace

std::string actInWords(const Act& act) {
  switch (act.kind) {
    case Act::Kind::To:
      return act.column + " to " + (act.text.empty() ? "empty text" : shortened(act.text));
    case Act::Kind::Clear:
      return act.column + " to no value";
    case Act::Kind::Compute:
      return act.column + " = " + shortened(act.text);
    case Act::Kind::Replace:
      return shortened(act.text) + " → " + (act.with.empty() ? "nothing" : shortened(act.with)) + " in " + act.column;
    case Act::Kind::Swap:
      return act.column + " and " + act.with + " exchanged";
    case Act::Kind::Map:
      break;
  }
  return act.column + " by a list of " + std::to_string(act.map.size());
}

}  // namespace iterandum
