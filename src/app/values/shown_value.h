// How values read on screen and where they are typed: the same everywhere in the window.
#pragma once

#include <QString>
#include <string_view>

#include "core/catalogue/catalogue.h"
#include "core/value/value.h"

namespace iterandum {

// Text between the core and the interface.
[[nodiscard]] inline QString toQ(std::string_view s) {
  return QString::fromUtf8(s.data(), static_cast<qsizetype>(s.size()));
}

// A value as people read it on one line: "no value", "empty text", bytes by their number. What would act instead of
// being read (line ends, control characters, a turn of direction) is shown by signs; a long text is cut off.
[[nodiscard]] QString shownValue(const Column& column, const Value& value);
// The text that an editor starts with.
[[nodiscard]] QString editText(const Value& value);

}  // namespace iterandum
