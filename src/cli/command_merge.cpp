// merge: one record of several that are the same thing.
#include "cli/called_key.h"
#include "cli/changes_output.h"
#include "cli/files.h"
#include "cli/scope_call.h"
#include "core/acts/merge_records.h"
#include "core/scope/column_path.h"

namespace iterandum::cli {
namespace {

Result<ValueTuple> readKey(Session& session, const Table& table, const std::string& json, const std::string& option,
                           Progress& progress) {
  ITERANDUM_ASSIGN(const CalledKey called, readCalledKey(&table, json, option));
  auto key = keyOfRecord(session, table, called.columns, called.values, progress);
  if (!key) key.error().place = option;
  return key;
}

void sayDoubles(const MergePlan& plan, bool go) {
  for (const MergeDouble& d : plan.doubles) {
    std::string by;
    for (const std::string& name : d.names) by += (by.empty() ? "" : ", ") + name;
    say(namedRecord(*d.table, d.key) + (go ? " is removed: it" : "") + " would be the same as " +
        namedRecord(*d.table, d.other) + " in " + by);
  }
}

Result<MergeWish> readWish(const Arguments& a, Session& session, const Catalogue& catalogue, Progress& progress) {
  MergeWish wish;
  ITERANDUM_ASSIGN(wish.table, tableToChange(catalogue, a.table));
  ITERANDUM_ASSIGN(wish.keep, readKey(session, *wish.table, a.keep, "--keep", progress));
  for (const std::string& key : a.drop) {
    ITERANDUM_ASSIGN(ValueTuple dropped, readKey(session, *wish.table, key, "--drop", progress));
    wish.drop.push_back(std::move(dropped));
  }
  for (const auto& [column, key] : a.take) {
    const Column* found = columnCalled(*wish.table, column);
    ITERANDUM_ASSIGN(ValueTuple from, readKey(session, *wish.table, key, "--take", progress));
    wish.take.emplace_back(found != nullptr ? found->name : column, std::move(from));
  }
  wish.dropDoubles = a.dropDoubles;
  return wish;
}

Result<Exit> merge(const Arguments& a) {
  ITERANDUM_TRY(refuseTargets({a.output}, {}, a.database));
  ITERANDUM_ASSIGN(const auto session, openDatabase(a, true));
  Progress progress(terminalProgress());
  ITERANDUM_ASSIGN(const Catalogue catalogue, catalogueWithStated(*session, progress));
  ITERANDUM_ASSIGN(const MergeWish wish, readWish(a, *session, catalogue, progress));
  ITERANDUM_ASSIGN(MergePlan plan, planMerge(*session, catalogue, wish, progress));
  sayDoubles(plan, a.dropDoubles);
  if (!plan.doubles.empty() && !a.dropDoubles) {
    say("nothing is written; --drop-doubles removes those that would be there twice");
    return Exit::Blocked;
  }
  say(std::to_string(plan.repointed) + (plan.repointed == 1 ? " record points" : " records point") + " at it now, " +
      std::to_string(plan.removed) + (plan.removed == 1 ? " goes" : " go"));
  plan.changes.title = "Merge " + std::to_string(wish.drop.size() + 1) + " records of " + displayName(wish.table->name);
  ITERANDUM_TRY(writeChanges(a, plan.changes));
  return Exit::Done;
}

}  // namespace

Exit runMerge(const Arguments& arguments) {
  const auto result = merge(arguments);
  return result ? *result : report(result.error());
}

}  // namespace iterandum::cli
