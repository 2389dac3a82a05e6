// What a sheet shows, as a file: written behind the scenes, whole or not at all.
#pragma once

#include <QString>
#include <functional>
#include <optional>
#include <string>
#include <unordered_set>

#include "core/engines/session.h"
#include "core/files/called_records.h"
#include "core/files/record_writer.h"
#include "core/lenses/lens.h"
#include "core/scope/scope.h"

namespace iterandum {

// A file that appears when all of it is written. Errors: InvalidFile with the system's words; what `write` says.
[[nodiscard]] Result<std::uint64_t> writeWhole(
    const QString& path, const std::function<Result<std::uint64_t>(const RecordWriter::Sink&)>& write);

// What makes values of an export what the sheet shows: references by name, what lenses show.
struct ExportWords {
  const Catalogue* catalogue = nullptr;  // not owned
  CalledBy calledBy;
  std::vector<Lens> lenses;
};

// How many records were written. `only`: the keys of those that go out, as recordBytes() has them; nothing: all.
// `words`: none, values as they are stored. Errors: the session's; InvalidInput, what the format has no place for;
// InvalidFile.
[[nodiscard]] Result<std::uint64_t> exportRecords(Session& session, const ReadScope& read, const QString& path,
                                                  const std::string& format, const std::optional<ExportWords>& words,
                                                  std::optional<std::unordered_set<std::string>> only,
                                                  Progress& progress);

}  // namespace iterandum
