// hand-out and bring-back: records as a spreadsheet for people who do not get at the database, and what they changed in
// it as a change file.
#include <algorithm>

#include "cli/changes_output.h"
#include "cli/files.h"
#include "cli/scope_call.h"
#include "core/files/returned_copy.h"
#include "core/files/working_copy.h"
#include "core/scope/column_path.h"
#include "core/store/store.h"

namespace iterandum::cli {
namespace {

// What the window keeps for the database: how records are called, how codes are labelled.
Result<WorkingCopyOptions> keptOptions(const std::string& address) {
  ITERANDUM_ASSIGN(const std::string path, Store::defaultPath());
  ITERANDUM_ASSIGN(const std::unique_ptr<Store> store, Store::open(path));
  WorkingCopyOptions out;
  ITERANDUM_ASSIGN(out.calledBy, store->readableChoices(address));
  ITERANDUM_ASSIGN(out.lenses, store->lenses(address));
  out.at = nowUtc();
  return out;
}

Status handOut(const Arguments& a) {
  ITERANDUM_TRY(wantTable(a));
  ITERANDUM_TRY(refuseTargets({a.output}, {a.scopeFile}, a.database));
  ITERANDUM_ASSIGN(const auto session, openDatabase(a, true));
  Progress progress(terminalProgress());
  ITERANDUM_ASSIGN(const Catalogue catalogue, catalogueWithStated(*session, progress));
  ITERANDUM_ASSIGN(const ReadScope scope, readCalledScope(a, session->info().address, catalogue));
  ITERANDUM_ASSIGN(WorkingCopyOptions options, keptOptions(session->info().address));
  if (!a.open.empty()) {
    ITERANDUM_ASSIGN(const std::vector<std::string> named, splitColumns(a.open, "--open"));
    for (const std::string& name : named) {
      const Column* column = columnCalled(*scope.table, name);
      options.open.push_back(column == nullptr ? name : column->name);
    }
  }
  ITERANDUM_ASSIGN(const auto file, PendingFile::open(a.output));
  ITERANDUM_ASSIGN(
      const std::uint64_t count,
      writeWorkingCopy(
          *session, catalogue, scope, options, [&](std::string_view piece) { return file->append(piece); }, progress));
  ITERANDUM_TRY(file->finish());
  ITERANDUM_TRY(file->putInPlace());
  say(std::to_string(count) + (count == 1 ? " record" : " records") + " handed out");
  return {};
}

std::string nameOf(const std::string& path) { return path.substr(path.rfind('/') + 1); }

void sayWhatIsOff(const ReturnedCopy& copy, const std::string& address) {
  const auto note = [&](const std::string& text) { say("note: " + copy.name + ": " + text); };
  if (copy.head.database != address) note("it was handed out from " + copy.head.database + ", not from this database");
  for (const std::string& name : copy.leftAlone) note("the column '" + name + "' was not handed out: it is left alone");
  for (const std::string& name : copy.missing) note("the column '" + name + "' is not in it any more");
  if (copy.rows.size() < copy.handedOut) {
    note(std::to_string(copy.handedOut - copy.rows.size()) + " of the records that were handed out are not in it");
  }
  std::uint64_t named = 0;
  for (const LineOutcome& row : copy.rows) {
    if (!row.failed() || ++named > kMostNamed) continue;
    say(copy.name + ", row " + std::to_string(row.line) + ": " + inWords(row, "row"));
  }
  if (named > kMostNamed) say(copy.name + ": and " + std::to_string(named - kMostNamed) + " more rows");
}

Result<Exit> bringBack(const Arguments& a) {
  ITERANDUM_TRY(refuseTargets({a.output}, a.copies, a.database));
  std::optional<std::size_t> preferred;
  if (!a.prefer.empty()) {
    const auto found = std::find(a.copies.begin(), a.copies.end(), a.prefer);
    if (found == a.copies.end()) {
      return fail(ErrorKind::InvalidInput, "'" + a.prefer + "' is none of the working copies", "--prefer");
    }
    preferred = static_cast<std::size_t>(found - a.copies.begin());
  }
  ITERANDUM_ASSIGN(const auto session, openDatabase(a, true));
  Progress progress(terminalProgress());
  ITERANDUM_ASSIGN(const Catalogue catalogue, catalogueWithStated(*session, progress));
  std::vector<ReturnedCopy> copies;
  for (const std::string& path : a.copies) {
    ITERANDUM_ASSIGN(const std::string content, readWhole(path));
    ITERANDUM_ASSIGN(ReturnedCopy copy, readWorkingCopy(content, path, catalogue, progress));
    sayWhatIsOff(copy, session->info().address);
    copies.push_back(std::move(copy));
  }
  BroughtTogether all = bringTogether(copies, preferred);
  for (const Disagreement& split : all.disagreements) say("they disagree: " + inWords(split, copies));
  say(inWords(all));
  const bool settled = std::all_of(all.disagreements.begin(), all.disagreements.end(),
                                   [](const Disagreement& split) { return split.settled; });
  if ((all.counts.failed > 0 || !settled) && !a.leaveOutFailed) {
    say("nothing is written; --leave-out-failed goes on without these" +
        std::string(settled ? "" : ", and --prefer COPY says whose word counts where they disagree"));
    return Exit::Blocked;
  }
  all.changes.title = "Corrections from " + (copies.size() == 1 ? nameOf(copies.front().name)
                                                                : std::to_string(copies.size()) + " working copies");
  ITERANDUM_TRY(writeChanges(a, all.changes));
  return Exit::Done;
}

}  // namespace

Exit runHandOut(const Arguments& arguments) {
  const Status status = handOut(arguments);
  return status ? Exit::Done : report(status.error());
}

Exit runBringBack(const Arguments& arguments) {
  const auto result = bringBack(arguments);
  return result ? *result : report(result.error());
}

}  // namespace iterandum::cli
