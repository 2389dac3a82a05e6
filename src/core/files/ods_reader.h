// Reading ODS. Behind spreadsheet.h, which is what others take.
#pragma once

#include "core/files/package.h"
#include "core/files/spreadsheet.h"

namespace iterandum {

// Errors: InvalidFile.
[[nodiscard]] Result<std::unique_ptr<Spreadsheet>> openOds(std::unique_ptr<Package> package);

}  // namespace iterandum
