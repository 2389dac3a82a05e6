#include "core/store/key_filter.h"

#include <xxhash.h>

#include <algorithm>

namespace iterandum {
namespace {

constexpr std::size_t kBitsPerKey = 16;
constexpr std::uint64_t kProbes = 8;

// Calls `each` with every bit that stands for the hash, until it says false.
template <typename Each>
void eachBit(std::uint64_t hash, std::uint64_t bits, const Each& each) {
  const std::uint64_t step = (hash >> 32U) | 1U;
  std::uint64_t at = hash & 0xFFFFFFFFU;
  for (std::uint64_t i = 0; i < kProbes; ++i, at += step) {
    if (!each(at % bits)) return;
  }
}

}  // namespace

std::uint64_t keyHash(const ValueTuple& key) {
  std::string bytes;
  for (const Value& part : key) appendSameBytes(part, bytes);
  return XXH3_64bits(bytes.data(), bytes.size());
}

std::string makeKeyFilter(const std::vector<std::uint64_t>& hashes) {
  // A few keys more than there are: the smallest ones would say of too many that they may be there.
  std::string out(std::max<std::size_t>(8, hashes.size() * kBitsPerKey / 8), '\0');
  for (const std::uint64_t hash : hashes) {
    eachBit(hash, out.size() * 8, [&out](std::uint64_t bit) {
      out[bit / 8] = static_cast<char>(static_cast<unsigned char>(out[bit / 8]) | (1U << (bit % 8)));
      return true;
    });
  }
  return out;
}

bool mayHold(std::string_view filter, std::uint64_t hash) {
  if (filter.empty()) return true;
  bool all = true;
  eachBit(hash, filter.size() * 8, [&](std::uint64_t bit) {
    all = (static_cast<unsigned char>(filter[bit / 8]) & (1U << (bit % 8))) != 0;
    return all;
  });
  return all;
}

}  // namespace iterandum
