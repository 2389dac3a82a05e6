#include <CLI/CLI.hpp>

#include "cli/act_options.h"
#include "cli/command_line.h"
#include "core/files/record_writer.h"

namespace iterandum::cli {
namespace {

void addDatabase(CLI::App* command, Arguments& a) {
  command->add_option("DATABASE", a.database, "path or sqlite:PATH")->required();
}

void addFormat(CLI::App* command, Arguments& a, const std::vector<std::string>& formats) {
  command->add_option("--format", a.format, "how to print it")->check(CLI::IsMember(formats));
}

void addLockTimeout(CLI::App* command, Arguments& a) {
  command->add_option("--lock-timeout", a.lockTimeout, "seconds to wait for a lock (10)")
      ->check(CLI::Range(0.0, 86400.0));
}

void addScope(CLI::App* command, Arguments& a) {
  auto* scope = command->add_option("--scope", a.scope, "a scope that was saved for this database, by its name");
  command->add_option("--scope-file", a.scopeFile, "a scope that was exported to this file")->excludes(scope);
  command->add_option("--where", a.where, "COLUMN CONDITION; given twice, both must hold")->expected(1)->take_all();
  command
      ->add_option("--sort", a.sort,
                   "COLUMN, COLUMN:desc, COLUMN:natural (numbers in text by size); given twice, the second breaks ties")
      ->expected(1)
      ->take_all();
}

void addOutput(CLI::App* command, Arguments& a) {
  command->add_option("-o,--output", a.output, "where to write the change file, or - for standard output")->required();
}

// Corrections from a file: what comes out is a change file.
void describeStage(CLI::App& app, Arguments& a) {
  CLI::App* stage = app.add_subcommand("stage", "stage what a file says differently");
  addDatabase(stage, a);
  stage->add_option("TABLE", a.table, "name or schema.name")->required();
  stage->add_option("--from", a.file, "CSV, TSV, JSON, XLSX or ODS, or - for standard input")->required();
  stage->add_option("--match", a.match, "A,B,…: the columns that say which record a line means (the key)");
  stage->add_flag("--match-loosely", a.looseMatch,
                  "capitals, and blanks at the ends or doubled, do not tell records apart");
  stage->add_flag("--through-lenses", a.throughLenses, "values are as the lenses kept for this database show them");
  stage->add_flag("--add-missing", a.addMissing, "lines without a record become new ones");
  stage->add_flag("--remove-missing", a.removeMissing, "records that no line names are removed");
  stage->add_flag("--leave-out-failed", a.leaveOutFailed, "go on without the lines that cannot be staged");
  stage->add_option("--sheet", a.sheet, "which sheet of a spreadsheet");
  stage->add_option("--delimiter", a.delimiter,
                    "what parts the fields of a CSV: a sign, or comma, semicolon, tab, bar");
  stage->add_option("--encoding", a.encoding,
                    "how the letters of a text are written, as ICU calls it: windows-1250, …");
  stage->add_option("--null", a.null, "in a CSV, what stands for no value besides an empty field");
  stage->add_option("--blank", a.blank, "what no value in the file means")->check(CLI::IsMember({"leave", "none"}));
  stage->add_option("--decimal", a.decimal, "the sign before decimals")->check(CLI::IsMember({"comma", "point"}));
  stage->add_option("--dates", a.dates, "the order of a date's parts")->check(CLI::IsMember({"ymd", "dmy", "mdy"}));
  stage->add_option("--report", a.report, "write the lines with what becomes of each to this file, CSV or XLSX");
  addOutput(stage, a);
}

// Working copies: a spreadsheet goes out, and what was changed in it comes back.
void describeCopies(CLI::App& app, Arguments& a) {
  CLI::App* out = app.add_subcommand("hand-out", "write records as a spreadsheet for others to correct");
  addDatabase(out, a);
  out->add_option("TABLE", a.table, "name or schema.name; may be left out with --scope");
  addScope(out, a);
  out->add_option("--columns", a.columns, "A,B,REFERENCE.C,…: these columns, in this order");
  out->add_option("--open", a.open, "A,B,…: those that may be changed (all that can be)");
  out->add_option("-o,--output", a.output, "the spreadsheet to write, XLSX")->required();

  CLI::App* back = app.add_subcommand("bring-back", "stage what was changed in working copies");
  addDatabase(back, a);
  back->add_option("COPY", a.copies, "a spreadsheet that was handed out; several are brought together")->required();
  back->add_option("--prefer", a.prefer, "the copy whose word counts where they disagree");
  back->add_flag("--leave-out-failed", a.leaveOutFailed, "go on without rows that fail and cells where they disagree");
  addOutput(back, a);
}

// Read by readTexts().
void addTexts(CLI::App* command, const char* name, const char* what) {
  command->add_option(name, CLI::callback_t([](const CLI::results_t&) { return true; }), what)->expected(1)->take_all();
}

void addRules(CLI::App* command, Arguments& a, bool required) {
  command->add_option("--rules", a.rulesFile, "house rules in this file, or - for standard input")->required(required);
}

void describeDoubles(CLI::App& app, Arguments& a) {
  CLI::App* doubles =
      app.add_subcommand("doubles", "records that are alike; with -o, the changes that leave one of each");
  addDatabase(doubles, a);
  doubles->add_option("TABLE", a.table, "name or schema.name; may be left out with --scope");
  addScope(doubles, a);
  doubles->add_option("--alike", a.alike, "A,B,…: the columns in which they are alike")->required();
  doubles
      ->add_option("--compare", a.compare,
                   "exactly (as it is); loosely: any case, blanks aside; nearly: and signs, accents, one letter")
      ->check(CLI::IsMember({"exactly", "loosely", "nearly"}));
  doubles->add_option("--keep", a.keep, "which one of each stays: first (as it is), last, fullest; by --sort")
      ->check(CLI::IsMember({"first", "last", "fullest"}));
  auto* merge = doubles->add_flag("--merge", a.merge, "what points at the others points at the one that stays");
  doubles->add_flag("--drop-doubles", a.dropDoubles, "remove records that would be there twice once they point at it")
      ->needs(merge);
  auto* output =
      doubles->add_option("-o,--output", a.output, "where to write the change file, or - for standard output");
  merge->needs(output);
  addFormat(doubles, a, {"text", "json"});
}

// Acts over many records: what comes out is a change file.
void describeMany(CLI::App& app, Arguments& a) {
  CLI::App* set = app.add_subcommand("set", "stage acts over all records that are meant");
  addDatabase(set, a);
  set->add_option("TABLE", a.table, "name or schema.name; may be left out with --scope");
  addScope(set, a);
  addActOptions(set);
  set->add_flag("--leave-out-failed", a.leaveOutFailed, "go on without the records for which an act fails");
  addOutput(set, a);

  CLI::App* merge = app.add_subcommand("merge", "make one record of several that are the same thing");
  addDatabase(merge, a);
  merge->add_option("TABLE", a.table, "name or schema.name")->required();
  merge->add_option("--keep", a.keep, "the key of the record that stays, as JSON: '{\"tree_id\": 4}'")->required();
  merge->add_option("--drop", a.drop, "the key of one that goes; may be given several times")
      ->expected(1)
      ->take_all()
      ->required();
  addTexts(merge, "--take", "COLUMN=KEY: the record whose value the column gets");
  merge->add_flag("--drop-doubles", a.dropDoubles,
                  "remove records that would be there twice once they point at the one that stays");
  addOutput(merge, a);

  describeDoubles(app, a);

  CLI::App* recipe = app.add_subcommand("recipe", "stage what a recipe says");
  addDatabase(recipe, a);
  recipe->add_option("NAME", a.recipe, "a recipe that was kept for this database");
  recipe->add_option("--file", a.file, "a recipe that was exported to this file, or - for standard input");
  addTexts(recipe, "--ask", "NAME=VALUE: what the recipe asks for");
  addScope(recipe, a);
  recipe->add_flag("--leave-out-failed", a.leaveOutFailed, "go on without the records for which an act fails");
  addOutput(recipe, a);
}

// What the library hands over as texts.
Status readTexts(const CLI::App& command, Arguments& a) {
  if (a.command == "set") return readActs(command, a);
  const auto pairs = [&](const char* option, std::vector<std::pair<std::string, std::string>>& into) -> Status {
    for (const std::string& text : command.get_option(option)->results()) {
      ITERANDUM_ASSIGN(auto split, splitAtEquals(text, option));
      into.push_back(std::move(split));
    }
    return {};
  };
  if (a.command == "merge") return pairs("--take", a.take);
  if (a.command != "recipe") return {};
  if (a.recipe.empty() == a.file.empty()) {
    return fail(ErrorKind::InvalidInput, "a recipe is named, or its file with --file; one of the two");
  }
  return pairs("--ask", a.asked);
}

void describe(CLI::App& app, Arguments& a) {
  app.require_subcommand(1, 1);
  app.set_version_flag("--version", std::string("iterandum-cli ") + ITERANDUM_VERSION);

  CLI::App* tables = app.add_subcommand("tables", "list the tables of a database");
  addDatabase(tables, a);
  addFormat(tables, a, {"table", "json"});

  CLI::App* show = app.add_subcommand("show", "show records of a table");
  addDatabase(show, a);
  show->add_option("TABLE", a.table, "name or schema.name; may be left out with --scope");
  addScope(show, a);
  show->add_option("--columns", a.columns, "A,B,REFERENCE.C,…: these columns, in this order");
  show->add_option("--limit", a.limit, "at most this many records");
  show->add_option("--null", a.null, "in CSV, what stands for no value (an empty field)");
  show->add_option("-o,--output", a.output, "write to this file: whole or not at all");
  show->add_flag("--as-shown", a.asShown, "references by name, and values through the lenses kept for this database");
  if (std::string_view(kProgram) == "iterandum-print") {
    show->add_option("--form", a.file, "how it is to lie on the pages: a print form that was exported to this file");
    show->add_option("--title", a.title, "what stands above (which records these are, in words)");
  }
  std::vector<std::string> formats = recordFormats();
  formats.insert(formats.begin(), "table");
  addFormat(show, a, formats);

  CLI::App* review = app.add_subcommand("review", "say what a change file would do, and what stands in its way");
  addDatabase(review, a);
  review->add_option("CHANGES", a.file, "change file, or - for standard input")->required();
  review->add_flag("--no-rehearsal", a.noRehearsal, "check by reading alone");
  addRules(review, a, false);
  addFormat(review, a, {"text", "sql", "json", "html"});
  addLockTimeout(review, a);

  CLI::App* apply = app.add_subcommand("apply", "apply a change file: all of it or nothing");
  addDatabase(apply, a);
  apply->add_option("CHANGES", a.file, "change file, or - for standard input")->required();
  apply->add_option("--on-conflict", a.onConflict, "what to do with cells that somebody else changed")
      ->check(CLI::IsMember({"stop", "mine", "theirs"}));
  addRules(apply, a, false);
  apply->add_option("--receipt", a.receipt, "also write the receipt to this file");
  apply->add_option("--copy-first", a.copyFirst, "before, copy the whole database (SQLite) to this new file");
  addFormat(apply, a, {"text", "json"});
  addLockTimeout(apply, a);

  CLI::App* check = app.add_subcommand("check", "which records break house rules now");
  addDatabase(check, a);
  addRules(check, a, true);
  check->add_option("--limit", a.limit, "name at most this many records of each rule (100)");
  addFormat(check, a, {"text", "json"});

  CLI::App* probe = app.add_subcommand("probe", "whether a database holds what Iterandum counts on");
  addDatabase(probe, a);
  probe->add_flag("--by-reading", a.readOnly, "make no table of its own to try it in");
  addFormat(probe, a, {"text", "json"});

  CLI::App* sign = app.add_subcommand("sign", "put a name under a change file that is ready to be applied");
  addDatabase(sign, a);
  sign->add_option("CHANGES", a.file,
                   "change file, or - for standard input; left out, what the database asks for is said");
  sign->add_option("--as", a.signAs, "who signs (the name of the user)");
  auto* key = sign->add_option("--key", a.signingKey, "the OpenPGP key to sign with, by its name or fingerprint");
  key->excludes("--as");
  sign->add_option("--words", a.words, "what the signature says");
  addRules(sign, a, false);
  sign->add_option("-o,--output", a.output, "where to write the signed change file, or - for standard output");
  sign->add_option("--rule", a.signingRule, "who may apply to this database from here: kept in the store")
      ->check(CLI::IsMember({"anyone", "signed", "by-key"}));

  CLI::App* comment = app.add_subcommand("comment", "say something of a change file, or read what was said of it");
  comment->add_option("CHANGES", a.file, "change file, or - for standard input")->required();
  comment->add_option("--words", a.words, "what is said; left out, what was said is written out");
  auto* ofChange = comment->add_option("--change", a.changeNumber, "of this change, by its place in the file from 0");
  auto* ofTable = comment->add_option("--table", a.table, "of what is done to this table")->excludes(ofChange);
  comment->add_option("--column", a.column, "of what is done to this column")->needs(ofTable);
  comment->add_option("--as", a.signAs, "who says it (the name of the user)");
  comment->add_option("-o,--output", a.output, "where to write the change file, or - for standard output");

  CLI::App* history = app.add_subcommand("history", "what was applied to a database, or to one of its records");
  addDatabase(history, a);
  history->add_option("TABLE", a.table, "name or schema.name");
  history->add_option("KEY", a.key, "of one record, as JSON: '{\"tree_id\": 4}'");
  history->add_flag("--verify", a.verify, "say instead whether all receipts kept here, of any database, are unaltered");
  auto* exported = history->add_option("--export", a.exportTo, "write all receipts of the database to this file");
  history->add_option("--import", a.importFrom, "take in the receipts of such a file")->excludes(exported);
  addFormat(history, a, {"text", "json"});

  CLI::App* revert = app.add_subcommand("revert", "make the change file that takes a receipt back");
  revert->add_option("RECEIPT", a.file, "receipt, or - for standard input; with --receipt, the database")->required();
  revert->add_option("--receipt", a.receiptNumber, "the number that history gives a receipt of this database");
  addOutput(revert, a);
  describeMany(app, a);
  describeStage(app, a);
  describeCopies(app, a);
}

}  // namespace

std::optional<Arguments> readArguments(int argc, char** argv, int& exit) {
  Arguments a;
  CLI::App app("Review and apply corrections to database records.", "iterandum-cli");
  describe(app, a);
  try {
    app.parse(argc, argv);
  } catch (const CLI::ParseError& error) {
    const bool answered = error.get_exit_code() == 0;
    (void)app.exit(error);
    exit = answered ? 0 : static_cast<int>(Exit::Usage);
    return std::nullopt;
  }
  const CLI::App& command = *app.get_subcommands().front();
  a.command = command.get_name();
  if (const Status read = readTexts(command, a); !read) {
    exit = static_cast<int>(report(read.error()));
    return std::nullopt;
  }
  return a;
}

}  // namespace iterandum::cli
