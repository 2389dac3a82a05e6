#include <CLI/CLI.hpp>

#include "cli/command_line.h"

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

void describe(CLI::App& app, Arguments& a) {
  app.require_subcommand(1, 1);
  app.set_version_flag("--version", std::string("iterandum-cli ") + ITERANDUM_VERSION);

  CLI::App* tables = app.add_subcommand("tables", "list the tables of a database");
  addDatabase(tables, a);
  addFormat(tables, a, {"table", "json"});

  CLI::App* show = app.add_subcommand("show", "show records of a table");
  addDatabase(show, a);
  show->add_option("TABLE", a.table, "name or schema.name; may be left out with --scope");
  auto* scope = show->add_option("--scope", a.scope, "a scope that was saved for this database, by its name");
  show->add_option("--scope-file", a.scopeFile, "a scope that was exported to this file")->excludes(scope);
  show->add_option("--where", a.where, "COLUMN CONDITION; given twice, both must hold")->expected(1)->take_all();
  show->add_option("--sort", a.sort,
                   "COLUMN, COLUMN:desc, COLUMN:natural (numbers in text by size); given twice, the second breaks ties")
      ->expected(1)
      ->take_all();
  show->add_option("--columns", a.columns, "A,B,REFERENCE.C,…: these columns, in this order");
  show->add_option("--limit", a.limit, "at most this many records");
  show->add_option("--null", a.null, "in CSV, what stands for no value (an empty field)");
  addFormat(show, a, {"table", "csv", "json"});

  CLI::App* review = app.add_subcommand("review", "say what a change file would do, and what stands in its way");
  addDatabase(review, a);
  review->add_option("CHANGES", a.file, "change file, or - for standard input")->required();
  review->add_flag("--no-rehearsal", a.noRehearsal, "check by reading alone");
  addFormat(review, a, {"text", "sql", "json"});
  addLockTimeout(review, a);

  CLI::App* apply = app.add_subcommand("apply", "apply a change file: all of it or nothing");
  addDatabase(apply, a);
  apply->add_option("CHANGES", a.file, "change file, or - for standard input")->required();
  apply->add_option("--on-conflict", a.onConflict, "what to do with cells that somebody else changed")
      ->check(CLI::IsMember({"stop", "mine", "theirs"}));
  apply->add_option("--receipt", a.receipt, "also write the receipt to this file");
  addFormat(apply, a, {"text", "json"});
  addLockTimeout(apply, a);

  CLI::App* revert = app.add_subcommand("revert", "make the change file that takes a receipt back");
  revert->add_option("RECEIPT", a.file, "receipt, or - for standard input")->required();
  revert->add_option("-o,--output", a.output, "where to write the change file, or - for standard output")->required();
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
  a.command = app.get_subcommands().front()->get_name();
  return a;
}

}  // namespace iterandum::cli
