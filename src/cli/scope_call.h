// Which records a call means: its table, its conditions, its order, a saved scope.
#pragma once

#include "cli/command_line.h"
#include "core/files/shown_records.h"
#include "core/scope/scope.h"

namespace iterandum::cli {

// A list of names with commas between, which may be quoted as in SQL. `option`: where it stands, for errors.
[[nodiscard]] Result<std::vector<std::string>> splitColumns(const std::string& list, const std::string& option);

// That a table is named, or a scope that names one.
[[nodiscard]] Status wantTable(const Arguments& arguments);
// What the call asks for: a saved scope, if any, with what its words add.
[[nodiscard]] Result<Scope> calledScope(const Arguments& arguments, const std::string& address);
// The scope held against the database. Errors: the words of the call, or the part of the scope, that cannot be read.
[[nodiscard]] Result<ReadScope> readTable(const Scope& scope, const Catalogue& catalogue);
// Both.
[[nodiscard]] Result<ReadScope> readCalledScope(const Arguments& arguments, const std::string& address,
                                                const Catalogue& catalogue);
// The records that the words of `show` mean, ready to be written; the catalogue and the scope that they stand on come
// along.
struct CalledRecords {
  Catalogue catalogue;
  ReadScope scope;
  ShownRecords shown;
};
[[nodiscard]] Result<std::unique_ptr<CalledRecords>> readCalledRecords(const Arguments& arguments, Session& session,
                                                                       Progress& progress);
// The table that is named, whose records can be told apart. Errors: NotFound, with the closest name; InvalidInput.
[[nodiscard]] Result<const Table*> tableToChange(const Catalogue& catalogue, const std::string& called);
// What the database holds, with the references that somebody stated for it.
[[nodiscard]] Result<Catalogue> catalogueWithStated(Session& session, Progress& progress);

}  // namespace iterandum::cli
