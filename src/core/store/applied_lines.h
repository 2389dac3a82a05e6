// Which lines of a file were applied to a database, as the receipts of the store tell.
#pragma once

#include "core/files/outcome_report.h"
#include "core/store/store.h"

namespace iterandum {

// Of several receipts that speak of a line, the latest that wrote it counts. Errors: the store's.
[[nodiscard]] Result<AppliedLines> appliedLines(Store& store, const std::string& address, const std::string& digest);

}  // namespace iterandum
