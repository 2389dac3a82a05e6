// Act: one thing that is done to a column of many records at once: set, cleared, computed, replaced in, mapped,
// exchanged with another column. Plain
// data, as people say it and recipes keep it; record_acts.h holds it against a table and does it.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "core/base/result.h"

namespace iterandum {

// A value in a list as it is typed; nothing stands for no value.
using TypedOrNone = std::optional<std::string>;

struct Act {
  enum class Kind { To, Clear, Compute, Replace, Map, Swap };
  enum class Where { Inside, Whole, Start, End, Pattern };

  Kind kind = Kind::To;
  std::string column;  // as columnCalled() takes it
  std::string text;    // To: as it is typed into a cell; Compute: the expression; Replace: what is looked for
  std::string with;    // Replace; with groups of the pattern as $1. Swap: the other column
  Where where = Where::Inside;
  bool exactCase = false;                                // Replace
  std::vector<std::pair<TypedOrNone, TypedOrNone>> map;  // Map: old, new

  friend bool operator==(const Act&, const Act&) = default;
};

// "condition_code to 5", "Steps → Stairs in name": for titles.
[[nodiscard]] std::string actInWords(const Act& act);

}  // namespace iterandum
