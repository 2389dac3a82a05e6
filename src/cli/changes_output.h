// Change files as commands write them.
#pragma once

#include "cli/command_line.h"
#include "core/acts/act_run.h"
#include "core/acts/merge_records.h"
#include "core/scope/scope.h"

namespace iterandum::cli {

// Writes the file that the call names, whole or not at all.
[[nodiscard]] Status writeChanges(const Arguments& arguments, const ChangeList& changes);

// "tree tree_id=4": a record, for messages.
[[nodiscard]] std::string namedRecord(const Table& table, const ValueTuple& key);

// Says on standard error what a merge comes to. False: records would be there twice, and are not to go; so nothing is
// to be written.
[[nodiscard]] bool sayMerge(const MergePlan& plan, bool dropDoubles);

// Does the acts over what the scope means, says on standard error what becomes of the records, and writes the changes:
// nothing where records fail, unless they are to be left out. `title`: of the change file, without the count.
[[nodiscard]] Result<Exit> stageActs(const Arguments& arguments, Session& session, const ReadScope& scope,
                                     const RecordActs& acts, const std::string& title);

// References are said by name in what acts type: as the window calls the records that they point at. What stands for no
// record is said on standard error.
[[nodiscard]] Status takeNames(std::vector<Act>& acts, const Table& table, const Catalogue& catalogue,
                               Session& session);

}  // namespace iterandum::cli
