#include "core/catalogue/database_code.h"

#include <algorithm>

namespace iterandum {
namespace {

char small(char c) { return static_cast<char>(c >= 'A' && c <= 'Z' ? c + 32 : c); }

bool isWordPart(char c) {
  return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') || c == '_' ||
         static_cast<unsigned char>(c) >= 0x80;
}

}  // namespace

bool mentionsName(std::string_view text, std::string_view name) {
  if (name.empty()) return false;
  const auto same = [](char a, char b) { return small(a) == small(b); };
  auto at = text.begin();
  while ((at = std::search(at, text.end(), name.begin(), name.end(), same)) != text.end()) {
    const auto end = at + static_cast<std::ptrdiff_t>(name.size());
    const bool starts = at == text.begin() || !isWordPart(*(at - 1)) || !isWordPart(name.front());
    const bool ends = end == text.end() || !isWordPart(*end) || !isWordPart(name.back());
    if (starts && ends) return true;
    ++at;
  }
  return false;
}

std::string Routines::withCalled(const std::string& text) const {
  std::string all = text;
  std::vector<bool> taken(routines_.size(), false);
  for (bool news = true; news;) {
    news = false;
    for (std::size_t i = 0; i < routines_.size(); ++i) {
      if (taken[i] || !mentionsName(all, routines_[i].first)) continue;
      if (routines_[i].second.empty()) return {};
      taken[i] = true;
      news = true;
      all += "\n" + routines_[i].second;
    }
  }
  return all;
}

}  // namespace iterandum
