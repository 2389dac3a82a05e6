// What a sheet shows, as a file: written behind the scenes, whole or not at all.
#pragma once

#include <QString>
#include <functional>
#include <string>

#include "core/engines/session.h"
#include "core/files/record_writer.h"
#include "core/scope/scope.h"

namespace iterandum {

// A file that appears when all of it is written. Errors: InvalidFile with the system's words; what `write` says.
[[nodiscard]] Result<std::uint64_t> writeWhole(
    const QString& path, const std::function<Result<std::uint64_t>(const RecordWriter::Sink&)>& write);

// How many records were written. Errors: the session's; InvalidInput, what the format has no place for; InvalidFile.
[[nodiscard]] Result<std::uint64_t> exportRecords(Session& session, const ReadScope& read, const QString& path,
                                                  const std::string& format, Progress& progress);

}  // namespace iterandum
