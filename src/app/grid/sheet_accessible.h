// The sheet as a table to assistive tools: rows, columns, heads, what is selected, what was changed from what to what.
//
// Cells come into being when somebody asks for them and only the last few thousand are kept, so that ten million
// records cost nothing. Rows are the sheet's; columns are those that can be seen, as they lie. Lives on the interface
// thread.
#pragma once

namespace iterandum {

class SheetGrid;

// From now on every SheetGrid is told to assistive tools as a table. Calling it again does nothing.
void installSheetAccessibility();
// The current cell has become another one, or another value.
void tellCurrentCell(SheetGrid& grid, bool moved);

}  // namespace iterandum
