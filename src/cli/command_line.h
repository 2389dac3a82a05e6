// The command line: what was asked for, and the commands. Internal to iterandum-cli.
#pragma once

#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "core/acts/act.h"
#include "core/apply/apply.h"
#include "core/engines/session.h"

namespace iterandum::cli {

// The exit statuses of docs/command-line.md.
enum class Exit { Done = 0, Failure = 1, Usage = 2, Blocked = 3, File = 4, Database = 5, Unknown = 6, AppliedBut = 7 };

struct Arguments {
  std::string command;
  std::string database;
  std::string table;
  std::string file;  // change file or receipt
  std::vector<std::string> where;
  std::vector<std::string> sort;
  std::string columns;
  std::string scope;
  std::string scopeFile;
  std::optional<std::uint64_t> limit;
  std::string format;
  std::string null;
  bool noRehearsal = false;
  bool verify = false;
  std::string exportTo;
  std::string importFrom;
  bool readOnly = false;
  std::string onConflict = "stop";
  std::string receipt;
  std::string copyFirst;
  std::optional<double> lockTimeout;
  std::string output;
  // Many at once.
  std::vector<Act> acts;              // in the order of the call; a Map's list is still to be read
  std::vector<std::string> mapFiles;  // one for each act; empty: it is no Map
  bool leaveOutFailed = false;
  std::string keep;  // keys, as JSON; of doubles which one, in a word
  std::vector<std::string> drop;
  std::vector<std::pair<std::string, std::string>> take;  // a column, and the key of the record whose value it gets
  bool dropDoubles = false;
  std::string alike;  // columns
  std::string compare;
  bool merge = false;
  // Corrections from a file.
  std::string match;
  bool looseMatch = false;
  bool throughLenses = false;
  bool asShown = false;
  bool addMissing = false;
  bool removeMissing = false;
  std::string sheet;
  std::string delimiter;
  std::string encoding;
  std::string blank = "none";
  std::string decimal;
  std::string dates;
  std::string report;
  std::string title;
  // Working copies.
  std::string open;
  std::vector<std::string> copies;
  std::string prefer;
  // Signing, and what is said.
  std::string signAs;
  std::string words;
  std::string column;
  std::optional<std::uint64_t> changeNumber;
  std::string signingKey;
  std::string signingRule;
  std::string rulesFile;
  std::string key;  // of one record, as JSON
  std::optional<std::int64_t> receiptNumber;
  std::string recipe;
  std::vector<std::pair<std::string, std::string>> asked;
};

// Reads the words of the call. Nothing when it was answered already (help, a mistake): then `exit` is set.
[[nodiscard]] std::optional<Arguments> readArguments(int argc, char** argv, int& exit);

[[nodiscard]] Exit runTables(const Arguments& arguments);
[[nodiscard]] Exit runShow(const Arguments& arguments);
[[nodiscard]] Exit runReview(const Arguments& arguments);
[[nodiscard]] Exit runApply(const Arguments& arguments);
[[nodiscard]] Exit runRevert(const Arguments& arguments);
[[nodiscard]] Exit runSet(const Arguments& arguments);
[[nodiscard]] Exit runMerge(const Arguments& arguments);
[[nodiscard]] Exit runDoubles(const Arguments& arguments);
[[nodiscard]] Exit runStage(const Arguments& arguments);
[[nodiscard]] Exit runHandOut(const Arguments& arguments);
[[nodiscard]] Exit runBringBack(const Arguments& arguments);
[[nodiscard]] Exit runProbe(const Arguments& arguments);
[[nodiscard]] Exit runHistory(const Arguments& arguments);
[[nodiscard]] Exit runCheck(const Arguments& arguments);
[[nodiscard]] Exit runComment(const Arguments& arguments);
[[nodiscard]] Exit runSign(const Arguments& arguments);
[[nodiscard]] Exit runRecipe(const Arguments& arguments);

// The program that this is part of, as it calls itself; each defines its own.
extern const char* const kProgram;

// Prints the error to standard error and gives the status that stands for its kind.
[[nodiscard]] Exit report(const Error& error);
// How the call wants a database opened. A password in the address is warned of.
[[nodiscard]] OpenOptions openOptions(const Arguments& arguments, bool readOnly);
// Opens the database, without its password in any message of ours.
[[nodiscard]] Result<std::unique_ptr<Session>> openDatabase(const Arguments& arguments, bool readOnly);
// A Progress that shows itself on standard error while that is a terminal.
[[nodiscard]] Progress::Listener terminalProgress();

}  // namespace iterandum::cli
