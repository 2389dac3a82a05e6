// The chain of receipts: each one that is confirmed gets a digest over what it says and over the digest before it, so
// that one which was altered afterwards, or is missing, is noticed. It guards against mistakes and against hands that
// do not know of it; who may write the store can make all of it anew.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/result.h"

namespace iterandum {

// SHA-256 of the parts, each with its length before it; 32 bytes.
[[nodiscard]] std::string digestOf(const std::vector<std::string_view>& parts);

struct ChainCheck {
  std::uint64_t receipts = 0;       // that hang together
  std::vector<std::string> broken;  // what does not, in words, the oldest first
  std::string since;                // when the first of them was applied; empty: there are none
};
// "212 receipts, each as it was kept, since 2026-05-04T10:11:12Z"
[[nodiscard]] std::string inWords(const ChainCheck& check);

}  // namespace iterandum
