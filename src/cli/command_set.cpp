// set: acts over all records that are meant.
#include "cli/changes_output.h"
#include "cli/files.h"
#include "cli/scope_call.h"
#include "core/files/value_list.h"

namespace iterandum::cli {
namespace {

// Reads the lists that acts go by.
Status readMaps(Arguments& a) {
  for (std::size_t i = 0; i < a.acts.size(); ++i) {
    if (a.acts[i].kind != Act::Kind::Map) continue;
    ITERANDUM_ASSIGN(const std::string csv, readWhole(a.mapFiles[i]));
    auto map = readMap(csv);
    if (!map) {
      map.error().place = a.mapFiles[i] + ", " + map.error().place;
      return fail(std::move(map.error()));
    }
    a.acts[i].map = std::move(*map);
  }
  return {};
}

Result<Exit> set(Arguments a) {
  ITERANDUM_TRY(wantTable(a));
  std::vector<std::string> read = a.mapFiles;
  read.push_back(a.scopeFile);
  ITERANDUM_TRY(refuseTargets({a.output}, read, a.database));
  ITERANDUM_TRY(readMaps(a));
  ITERANDUM_ASSIGN(const auto session, openDatabase(a, true));
  Progress progress;
  ITERANDUM_ASSIGN(const Catalogue catalogue, catalogueWithStated(*session, progress));
  ITERANDUM_ASSIGN(const ReadScope scope, readCalledScope(a, session->info().address, catalogue));
  std::string title;
  for (const Act& act : a.acts) title += (title.empty() ? "" : ", ") + actInWords(act);
  ITERANDUM_TRY(takeNames(a.acts, *scope.table, catalogue, *session));
  ITERANDUM_ASSIGN(const RecordActs acts,
                   RecordActs::make(*scope.table, a.acts, expressionContextNow(contextNow(catalogue))));
  return stageActs(a, *session, scope, acts, title);
}

}  // namespace

Exit runSet(const Arguments& arguments) {
  const auto result = set(arguments);
  return result ? *result : report(result.error());
}

}  // namespace iterandum::cli
