// The sheets that are open over a database, as text: so that they are there again at the next start.
#pragma once

#include <string>
#include <vector>

#include "app/sheet/sheet_page.h"

namespace iterandum {

struct OpenSheet {
  std::string name;  // under which its scope was saved; empty: none
  SheetLook look;
  bool current = false;  // it was the one that is seen
};

[[nodiscard]] std::string openSheetsText(const std::vector<OpenSheet>& sheets);
// What cannot be read of it is left out.
[[nodiscard]] std::vector<OpenSheet> openSheetsFrom(const std::string& text);

}  // namespace iterandum
