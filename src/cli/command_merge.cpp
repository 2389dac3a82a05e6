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
  if (!sayMerge(plan, a.dropDoubles)) return Exit::Blocked;
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
