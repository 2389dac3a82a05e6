#include "core/store/staged_merge.h"

#include <algorithm>
#include <random>
#include <unordered_set>

namespace iterandum {

GestureId newGestureId() {
  static thread_local std::mt19937_64 random([] {
    std::random_device device;
    std::seed_seq seed{device(), device(), device(), device()};
    return std::mt19937_64(seed);
  }());
  // SQLite's whole numbers are signed.
  GestureId id = 0;
  while (id == 0) id = random() >> 1U;
  return id;
}

StagedOrder mergedOrder(const StagedOrder& there, const std::vector<GestureId>& known, const StagedOrder& wanted,
                        std::size_t fixed, const std::function<bool(GestureId)>& gone) {
  using Ids = std::unordered_set<GestureId>;
  const Ids knew(known.begin(), known.end());
  const Ids wants(wanted.done.begin(), wanted.done.end());
  const Ids has(there.done.begin(), there.done.end());
  StagedOrder out;
  for (std::size_t i = 0; i < there.done.size(); ++i) {
    const GestureId id = there.done[i];
    if (i < fixed || wants.contains(id) || !knew.contains(id)) out.done.push_back(id);
  }
  for (const GestureId id : wanted.done) {
    if (!knew.contains(id) && !has.contains(id) && !gone(id)) out.done.push_back(id);
  }
  if (out.done == wanted.done) {
    out.undone = wanted.undone;
  } else if (out.done == there.done) {
    out.undone = there.undone;
  }
  return out;
}

}  // namespace iterandum
