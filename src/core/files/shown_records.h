// The records of a scope on their way out: what is read of them, and writing them.
#pragma once

#include "core/files/record_writer.h"
#include "core/files/shown_values.h"
#include "core/scope/scope.h"

namespace iterandum {

struct ShownRecords {
  // Values go out as people read them. REQUIRES: read for the same scope.
  void showAs(ShownValues values);

  Query query;
  std::vector<std::size_t> from;  // where each column lies in the query's rows
  RecordForm form;
  std::optional<ShownValues> values;  // none: as they are stored
};

// `read` and `session` outlive it. `format`: as makeRecordWriter() takes it, or another one that holds anything.
// Errors: InvalidInput, a format that cannot hold what is asked for.
[[nodiscard]] Result<ShownRecords> shownRecords(const ReadScope& read, const Session& session,
                                                const std::string& format);
// How many were written. Errors: the session's and the writer's.
[[nodiscard]] Result<std::uint64_t> writeRecords(Session& session, const ShownRecords& shown, RecordWriter& writer,
                                                 Progress& progress);

}  // namespace iterandum
