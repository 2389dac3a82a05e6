// One change as JSON: in change files, and in what is signed.
#pragma once

#include "core/changes/change_list.h"
#include "core/value/json.h"

namespace iterandum {

void writeChange(JsonWriter& out, const Change& change);

}  // namespace iterandum
