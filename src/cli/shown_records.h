// The records that a call of `show` means, and writing them.
#pragma once

#include "cli/command_line.h"
#include "core/files/record_writer.h"
#include "core/scope/scope.h"

namespace iterandum::cli {

// The columns as they are asked for, and where each lies in the query's rows, which hold the borrowed ones last.
struct ShownColumns {
  std::vector<Column> described;
  std::vector<std::size_t> from;
};

// The columns and the records of one call, with what their output needs to know.
struct Shown {
  Query query;
  ShownColumns columns;
  RecordForm form;
};

// Errors: InvalidInput, a format that cannot hold what is asked for.
[[nodiscard]] Result<Shown> readShown(const Arguments& arguments, const Session& session, const ReadScope& read);
// Errors: the session's and the writer's.
[[nodiscard]] Status writeRecords(Session& session, const Shown& shown, RecordWriter& writer, Progress& progress);

}  // namespace iterandum::cli
