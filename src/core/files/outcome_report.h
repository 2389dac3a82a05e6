// What became of each line of a file: the same lines again, with a column behind them that says it.
#pragma once

#include <functional>
#include <map>

#include "core/files/file_corrections.h"
#include "core/files/record_writer.h"

namespace iterandum {

// A line that was applied once, as receipts tell.
struct AppliedLine {
  std::string at;      // RFC 3339, UTC
  bool wasSo = false;  // nothing had to be written
};
using AppliedLines = std::map<std::uint64_t, AppliedLine>;  // by the line

// "applied 2026-11-28 14:03"; "applied …; condition differs again"; what it says today where it never was applied.
// `moment`: how moments are written.
using MomentWords = std::function<std::string(const std::string& utc)>;
[[nodiscard]] std::string outcomeInWords(const LineOutcome& outcome, const AppliedLine* applied, const char* lineWord,
                                         const MomentWords& moment);

struct OutcomeReport {
  const FileHeader& header;
  const FileCorrections& corrections;
  const AppliedLines& applied;
  MomentWords moment;
};

// `format`: of makeRecordWriter(). `source` stands behind the header once more. Errors: the source's; the sink's.
[[nodiscard]] Status writeOutcomes(const OutcomeReport& report, TableSource& source, const std::string& format,
                                   const RecordWriter::Sink& sink);

// "xlsx" where the file's name ends so, else "csv".
[[nodiscard]] std::string reportFormat(std::string_view path);

}  // namespace iterandum
