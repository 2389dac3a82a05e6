// How what one window did and what others did to the same log meanwhile come together.
#pragma once

#include <functional>

#include "core/store/staged_log.h"

namespace iterandum {

// A three-way merge by the gestures' identity: what the window took out since it last knew the log goes, what it did
// goes behind everything, what others did stays. What was undone stays undone only where one side alone moved.
// `fixed`: the first so many of `there` are not to be taken out, since they are being applied. `gone`: whether a
// gesture was taken out for having been applied; it does not come again, whoever had not heard of it.
[[nodiscard]] StagedOrder mergedOrder(const StagedOrder& there, const std::vector<GestureId>& known,
                                      const StagedOrder& wanted, std::size_t fixed,
                                      const std::function<bool(GestureId)>& gone);

}  // namespace iterandum
