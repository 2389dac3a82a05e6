// Reads what an SQLite database holds. Internal to engines/sqlite.
#pragma once

#include "core/catalogue/catalogue.h"
#include "core/engines/sqlite/sqlite_handle.h"

namespace iterandum {

// A table that cannot be read (a module that is missing, a view over something gone) is in the catalogue all the same,
// with the reason; only a file that cannot be read at all is an error.
[[nodiscard]] Result<Catalogue> readSqliteCatalogue(SqliteHandle& handle);

}  // namespace iterandum
