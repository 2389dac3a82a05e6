#include <csignal>
#include <cstdio>
#include <exception>

#include "cli/command_line.h"

namespace iterandum::cli {

const char* const kProgram = "iterandum-cli";

namespace {

Exit run(const Arguments& arguments) {
  if (arguments.command == "tables") return runTables(arguments);
  if (arguments.command == "show") return runShow(arguments);
  if (arguments.command == "review") return runReview(arguments);
  if (arguments.command == "apply") return runApply(arguments);
  if (arguments.command == "stage") return runStage(arguments);
  if (arguments.command == "hand-out") return runHandOut(arguments);
  if (arguments.command == "bring-back") return runBringBack(arguments);
  if (arguments.command == "probe") return runProbe(arguments);
  if (arguments.command == "history") return runHistory(arguments);
  if (arguments.command == "check") return runCheck(arguments);
  if (arguments.command == "set") return runSet(arguments);
  if (arguments.command == "merge") return runMerge(arguments);
  if (arguments.command == "doubles") return runDoubles(arguments);
  if (arguments.command == "comment") return runComment(arguments);
  if (arguments.command == "sign") return runSign(arguments);
  if (arguments.command == "recipe") return runRecipe(arguments);
  return runRevert(arguments);
}

}  // namespace
}  // namespace iterandum::cli

int main(int argc, char** argv) {
  // A reader that goes away is an error of writing, not the end of the program in the middle of its work.
  std::signal(SIGPIPE, SIG_IGN);
  try {
    int exit = 0;
    const auto arguments = iterandum::cli::readArguments(argc, argv, exit);
    return arguments ? static_cast<int>(iterandum::cli::run(*arguments)) : exit;
  } catch (const std::exception& e) {
    std::fprintf(stderr, "iterandum-cli: unexpected failure: %s\n", e.what());
    return static_cast<int>(iterandum::cli::Exit::Failure);
  }
}
