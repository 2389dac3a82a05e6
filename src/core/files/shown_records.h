// The records of a scope on their way out: what is read of them, and writing them.
#pragma once

#include <optional>
#include <string>
#include <unordered_set>
#include <vector>

#include "core/files/record_writer.h"
#include "core/files/shown_values.h"
#include "core/scope/scope.h"

namespace iterandum {

struct ShownRecords {
  // Values go out as people read them. REQUIRES: read for the same scope.
  void showAs(ShownValues values);

  // Only those with one of these keys, as recordBytes() has them, go out, in the order of the scope.
  void onlyThose(std::unordered_set<std::string> keys);

  Query query;
  std::vector<std::size_t> from;  // where each column lies in the query's rows
  RecordForm form;
  std::optional<ShownValues> values;  // none: as they are stored
  std::optional<std::unordered_set<std::string>> only;
  std::vector<std::size_t> keyFrom;  // where the key lies in the query's rows; only with `only`
};

// A key as bytes that are equal for equal keys.
[[nodiscard]] std::string recordBytes(const ValueTuple& key);

// `read` and `session` outlive it. `format`: as makeRecordWriter() takes it, or another one that holds anything.
// Errors: InvalidInput, a format that cannot hold what is asked for.
[[nodiscard]] Result<ShownRecords> shownRecords(const ReadScope& read, const Session& session,
                                                const std::string& format);
// How many were written. Errors: the session's and the writer's.
[[nodiscard]] Result<std::uint64_t> writeRecords(Session& session, const ShownRecords& shown, RecordWriter& writer,
                                                 Progress& progress);

}  // namespace iterandum
