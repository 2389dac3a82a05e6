// How values read on screen and where they are typed: the same everywhere in the window.
#pragma once

#include <QString>
#include <string_view>

#include "core/catalogue/catalogue.h"
#include "core/lenses/lens.h"
#include "core/value/value.h"

namespace iterandum {

// Text between the core and the interface.
[[nodiscard]] inline QString toQ(std::string_view s) {
  return QString::fromUtf8(s.data(), static_cast<qsizetype>(s.size()));
}

// A value as people read it on one line: "no value", "empty text", bytes by their number. What would act instead of
// being read (line ends, control characters, a turn of direction) is shown by signs; a long text is cut off.
// `lens`: through which the column is looked at; null: none. What cannot be seen through it is shown as stored, and
// says so.
[[nodiscard]] QString shownValue(const Column& column, const Value& value, const Lens* lens = nullptr);
// The text that an editor starts with: typing it means the value.
[[nodiscard]] QString editText(const Column& column, const Value& value, const Lens* lens = nullptr);

}  // namespace iterandum
