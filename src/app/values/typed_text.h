// What is typed into a cell, as people write it.
#pragma once

#include <QString>

#include "core/base/result.h"
#include "core/catalogue/catalogue.h"
#include "core/lenses/lens.h"

namespace iterandum {

// The value that the text stands for. In a column of days, besides the database's own form: today, yesterday, tomorrow;
// 5 days ago, in 2 weeks; 3.4.25, 3.4.2025 and 3.4. (of this year), day first; and the desktop's short form.
// Errors: Constraint, with what is wanted instead.
// Through a lens, where one is given: what it shows, and for moments the same days.
[[nodiscard]] Result<Value> typedInCell(const Column& column, const QString& text, const Lens* lens = nullptr);

}  // namespace iterandum
