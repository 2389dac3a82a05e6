// A list of old and new values, as acts take it.
#pragma once

#include <string_view>
#include <utility>
#include <vector>

#include "core/acts/act.h"
#include "core/base/result.h"

namespace iterandum {

// Lines of two fields (RFC 4180), without a header. A field that is empty stands for no value, "" for empty text.
// Errors: InvalidFile with the line.
[[nodiscard]] Result<std::vector<std::pair<TypedOrNone, TypedOrNone>>> readMap(std::string_view csv);

}  // namespace iterandum
