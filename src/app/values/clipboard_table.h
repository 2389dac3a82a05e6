// What the clipboard holds as a table: lines of fields parted by tabs, quoted where they have to be.
#pragma once

#include <QString>

namespace iterandum {

// The text as it was copied; where that has no columns but a web page's or a mail's table lies beside it, that one.
[[nodiscard]] QString clipboardTable();

// The first table in a piece of HTML that has more than one column, in that form; empty: there is none.
[[nodiscard]] QString tableInHtml(const QString& html);

}  // namespace iterandum
