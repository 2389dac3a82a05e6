// Records of a scope on pages, as a print form says.
#pragma once

#include <optional>

#include "core/files/called_records.h"
#include "core/files/print_form.h"
#include "core/lenses/lens.h"
#include "core/scope/scope.h"
#include "pages/page_target.h"

namespace iterandum {

struct PrintedRecords {
  const Catalogue* catalogue = nullptr;  // not owned
  ReadScope scope;
  std::optional<std::uint64_t> limit;
  CalledBy calledBy;  // with the lenses, unless the form wants values as stored
  std::vector<Lens> lenses;
};

struct PrintedCount {
  std::uint64_t records = 0;  // whole or begun
  std::uint64_t cut = 0;      // labels on which not all found room
};

// What was drawn. A target that wants no more pages ends it well. A QGuiApplication has to
// be there; on any thread. Errors: InvalidInput, a group by what is no column; the session's.
[[nodiscard]] Result<PrintedCount> printRecords(Session& session, PrintedRecords printed, const PrintForm& form,
                                                PageTarget& target, Progress& progress);

}  // namespace iterandum
