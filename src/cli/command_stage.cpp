// stage: what a file says differently, as a change file.
#include "cli/changes_output.h"
#include "cli/files.h"
#include "cli/scope_call.h"
#include "core/base/names.h"
#include "core/files/file_corrections.h"
#include "core/files/outcome_report.h"
#include "core/files/table_file.h"
#include "core/store/store.h"

namespace iterandum::cli {
namespace {

// References may be said by name: as the window calls the records that they point at.
Result<CorrectionOptions> optionsOf(const Arguments& a, const std::string& address, const Catalogue& catalogue) {
  CorrectionOptions out;
  ITERANDUM_ASSIGN(const std::string path, Store::defaultPath());
  ITERANDUM_ASSIGN(const std::unique_ptr<Store> store, Store::open(path));
  ITERANDUM_ASSIGN(out.calledBy, store->readableChoices(address));
  if (a.throughLenses) {
    ITERANDUM_ASSIGN(out.lenses, store->lenses(address));
  }
  out.catalogue = &catalogue;
  out.looseMatch = a.looseMatch;
  out.addMissing = a.addMissing;
  out.removeMissing = a.removeMissing;
  out.blankLeaves = a.blank == "leave";
  if (!a.decimal.empty()) {
    out.forms.decimal = a.decimal == "comma" ? WrittenForms::Decimal::Comma : WrittenForms::Decimal::Point;
  }
  if (!a.dates.empty()) {
    out.forms.days = a.dates == "dmy"   ? WrittenForms::Days::DayFirst
                     : a.dates == "mdy" ? WrittenForms::Days::MonthFirst
                                        : WrittenForms::Days::YearFirst;
  }
  return out;
}

// The same lines, with what becomes of each behind them.
Status writeReport(const Arguments& a, TableSource& source, const FileHeader& header,
                   const FileCorrections& corrections) {
  ITERANDUM_ASSIGN(const auto file, PendingFile::open(a.report));
  ITERANDUM_TRY(writeOutcomes({header, corrections, {}, {}}, source, reportFormat(a.report),
                              [&](std::string_view piece) { return file->append(piece); }));
  ITERANDUM_TRY(file->finish());
  return file->putInPlace();
}

void sayFailed(const FileCorrections& corrections, const char* lineWord) {
  std::uint64_t named = 0;
  for (const LineOutcome& line : corrections.lines) {
    if (!line.failed() || ++named > kMostNamed) continue;
    say(std::string(lineWord) + " " + std::to_string(line.line) + ": " + inWords(line, lineWord));
  }
  if (named > kMostNamed) say("and " + std::to_string(named - kMostNamed) + " more");
}

void sayLeftAlone(const std::vector<std::string>& names, const Table& table) {
  constexpr std::size_t kNamed = 10;  // a spreadsheet may have sixteen thousand
  for (std::size_t i = 0; i < names.size() && i < kNamed; ++i)
    say("note: " + displayName(table.name) + " has no column '" + names[i] + "': it is left alone");
  if (names.size() > kNamed)
    say("note: nor the other " + several(names.size() - kNamed, "column", "columns") + " of it that are left alone");
}

Result<Exit> staged(const Arguments& a, Session& session, const Catalogue& catalogue, const Table& table,
                    TableFile& file) {
  Progress progress(terminalProgress());
  ITERANDUM_ASSIGN(const std::vector<std::string> asked,
                   a.match.empty() ? Result<std::vector<std::string>>(std::vector<std::string>())
                                   : splitColumns(a.match, "--match"));
  ITERANDUM_ASSIGN(const std::vector<const Column*> match, matchColumns(table, asked));
  FileHeader header;
  ITERANDUM_ASSIGN(const std::unique_ptr<TableSource> source, file.linesBehindHeader(table, match, header));
  ITERANDUM_ASSIGN(CorrectionOptions options, optionsOf(a, session.info().address, catalogue));
  options.again = [&]() -> Result<std::unique_ptr<TableSource>> {
    FileHeader again;
    return file.linesBehindHeader(table, match, again);
  };
  ITERANDUM_ASSIGN(FileCorrections corrections, correctionsFrom(*source, header, session, table, options, progress));
  const char* lineWord = source->lineWord();
  sayLeftAlone(header.leftAlone, table);
  for (const ColumnDays& days : corrections.days) {
    const bool open = days.order == WrittenForms::Days::AsTyped;
    say("note: " + inWords(days, lineWord) + (open ? ": --dates dmy or --dates mdy" : ""));
  }
  sayFailed(corrections, lineWord);
  say(inWords(corrections.counts, lineWord));
  if (!a.report.empty()) {
    FileHeader again;
    ITERANDUM_ASSIGN(const std::unique_ptr<TableSource> lines, file.linesBehindHeader(table, match, again));
    ITERANDUM_TRY(writeReport(a, *lines, again, corrections));
  }
  if (!corrections.cannotRemove.empty()) {
    say(corrections.cannotRemove + "; nothing is written");
    return Exit::Blocked;
  }
  if (corrections.counts.failed > 0 && !a.leaveOutFailed) {
    say(std::string("nothing is written; --leave-out-failed goes on without these ") + lineWord + "s");
    return Exit::Blocked;
  }
  corrections.changes.title = "Corrections of " + displayName(table.name) + " from " +
                              (a.file == "-" ? "a list" : a.file.substr(a.file.rfind('/') + 1));
  ITERANDUM_TRY(writeChanges(a, corrections.changes));
  return Exit::Done;
}

Result<Exit> stage(const Arguments& a) {
  ITERANDUM_TRY(refuseTargets({a.output, a.report}, {a.file}, a.database));
  ITERANDUM_ASSIGN(std::string content, readWhole(a.file));
  ITERANDUM_ASSIGN(const auto session, openDatabase(a, true));
  Progress progress(terminalProgress());
  ITERANDUM_ASSIGN(const Catalogue catalogue, catalogueWithStated(*session, progress));
  ITERANDUM_ASSIGN(const Table* table, tableToChange(catalogue, a.table));
  // What is wrong with the file names the file.
  const auto placed = [&](Error error) {
    const std::string named = a.file == "-" ? "standard input" : a.file;
    if (error.kind == ErrorKind::InvalidFile) error.place = named + (error.place.empty() ? "" : ", " + error.place);
    return fail(std::move(error));
  };
  auto file = TableFile::open({a.file, a.sheet, a.delimiter, a.null, a.encoding}, *table, std::move(content));
  if (!file) return placed(std::move(file.error()));
  if (!(*file)->note().empty()) say("note: " + (*file)->note());
  auto done = staged(a, *session, catalogue, *table, **file);
  if (!done) {
    // No header is a fault of the file.
    if (done.error().kind == ErrorKind::NotFound) done.error().kind = ErrorKind::InvalidFile;
    return placed(std::move(done.error()));
  }
  return done;
}

}  // namespace

Exit runStage(const Arguments& arguments) {
  const auto result = stage(arguments);
  return result ? *result : report(result.error());
}

}  // namespace iterandum::cli
