#include "core/scope/alike.h"

#include <utf8proc.h>

#include <algorithm>
#include <cstdlib>
#include <map>
#include <numeric>
#include <string_view>
#include <unordered_map>

namespace iterandum {
namespace {

// One letter more or less says little of short words, and much of what nobody would call a word.
constexpr std::size_t kShortest = 5;
constexpr std::size_t kLongest = 200;

using Letters = std::u32string;

Letters lettersOf(std::string_view text) {
  Letters out;
  while (!text.empty()) {
    utf8proc_int32_t letter = 0;
    const utf8proc_ssize_t read = utf8proc_iterate(reinterpret_cast<const utf8proc_uint8_t*>(text.data()),
                                                   static_cast<utf8proc_ssize_t>(text.size()), &letter);
    out += read > 0 ? static_cast<char32_t>(letter) : static_cast<char32_t>(static_cast<unsigned char>(text[0]));
    text.remove_prefix(static_cast<std::size_t>(std::max<utf8proc_ssize_t>(1, read)));
  }
  return out;
}

bool isDigit(char32_t c) { return c >= U'0' && c <= U'9'; }

Letters digitsOf(const Letters& text) {
  Letters out;
  std::copy_if(text.begin(), text.end(), std::back_inserter(out), isDigit);
  return out;
}

// Whether one letter more, less or other makes `a` of `b`.
bool isOneEdit(const Letters& a, const Letters& b) {
  const Letters& longer = a.size() >= b.size() ? a : b;
  const Letters& shorter = a.size() >= b.size() ? b : a;
  if (longer.size() - shorter.size() > 1) return false;
  std::size_t same = 0;
  while (same < shorter.size() && longer[same] == shorter[same]) ++same;
  const std::size_t skip = longer.size() == shorter.size() ? 1 : 0;
  return std::equal(longer.begin() + static_cast<std::ptrdiff_t>(std::min(same + 1, longer.size())), longer.end(),
                    shorter.begin() + static_cast<std::ptrdiff_t>(std::min(same + skip, shorter.size())),
                    shorter.end());
}

// Sets of positions that grow together.
class Sets {
 public:
  explicit Sets(std::size_t count) : parent_(count) { std::iota(parent_.begin(), parent_.end(), std::size_t{0}); }
  std::size_t find(std::size_t i) {
    while (parent_[i] != i) i = parent_[i] = parent_[parent_[i]];
    return i;
  }
  // The smaller position stands for the set.
  void join(std::size_t a, std::size_t b) {
    a = find(a);
    b = find(b);
    parent_[std::max(a, b)] = std::min(a, b);
  }

 private:
  std::vector<std::size_t> parent_;
};

void joinNeighbours(const std::vector<Letters>& keys, Sets& sets) {
  std::unordered_map<Letters, std::vector<std::size_t>> byVariant;
  for (std::size_t i = 0; i < keys.size(); ++i) {
    const Letters& key = keys[i];
    if (key.size() < kShortest || key.size() > kLongest) continue;
    const auto visit = [&](const Letters& variant) {
      std::vector<std::size_t>& others = byVariant[variant];
      for (const std::size_t other : others) {
        if (sets.find(other) == sets.find(i)) continue;
        if (digitsOf(keys[other]) == digitsOf(key) && isOneEdit(keys[other], key)) sets.join(other, i);
      }
      if (others.empty() || others.back() != i) others.push_back(i);
    };
    visit(key);
    for (std::size_t at = 0; at < key.size(); ++at) {
      if (at > 0 && key[at] == key[at - 1]) continue;  // the same variant again
      Letters variant = key;
      variant.erase(at, 1);
      visit(variant);
    }
  }
}

}  // namespace

std::string plainSpelling(const std::string& text) {
  utf8proc_uint8_t* mapped = nullptr;
  const auto options = static_cast<utf8proc_option_t>(UTF8PROC_COMPAT | UTF8PROC_DECOMPOSE | UTF8PROC_STRIPMARK |
                                                      UTF8PROC_CASEFOLD | UTF8PROC_STABLE);
  const utf8proc_ssize_t size = utf8proc_map(reinterpret_cast<const utf8proc_uint8_t*>(text.data()),
                                             static_cast<utf8proc_ssize_t>(text.size()), &mapped, options);
  if (size < 0) return text;  // no UTF-8
  const Letters letters = lettersOf({reinterpret_cast<const char*>(mapped), static_cast<std::size_t>(size)});
  free(mapped);
  std::string out;
  for (const char32_t c : letters) {
    const utf8proc_category_t category = utf8proc_category(static_cast<utf8proc_int32_t>(c));
    const bool counts = (category >= UTF8PROC_CATEGORY_LU && category <= UTF8PROC_CATEGORY_LO) ||
                        (category >= UTF8PROC_CATEGORY_ND && category <= UTF8PROC_CATEGORY_NO);
    if (!counts) continue;
    utf8proc_uint8_t bytes[4];
    const utf8proc_ssize_t written = utf8proc_encode_char(static_cast<utf8proc_int32_t>(c), bytes);
    out.append(reinterpret_cast<const char*>(bytes), static_cast<std::size_t>(written));
  }
  // Signs alone are told apart by themselves.
  return out.empty() ? text : out;
}

std::vector<std::vector<std::size_t>> alikeGroups(std::span<const std::string> texts) {
  std::map<std::string, std::size_t> keyAt;
  std::vector<Letters> keys;
  std::vector<std::size_t> keyOf;
  for (const std::string& text : texts) {
    std::string key = plainSpelling(text);
    const auto [at, isNew] = keyAt.try_emplace(key, keys.size());
    if (isNew) keys.push_back(lettersOf(key));
    keyOf.push_back(at->second);
  }
  Sets sets(keys.size());
  joinNeighbours(keys, sets);
  std::map<std::size_t, std::vector<std::size_t>> groups;
  for (std::size_t i = 0; i < texts.size(); ++i) groups[sets.find(keyOf[i])].push_back(i);
  std::vector<std::vector<std::size_t>> out;
  for (auto& [unused, members] : groups) {
    if (members.size() > 1) out.push_back(std::move(members));
  }
  return out;
}

}  // namespace iterandum
