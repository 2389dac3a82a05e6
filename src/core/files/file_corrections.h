// What a file says differently: its lines held against the records of a table. Only cells that differ become changes,
// with what the records held; nothing is written.
#pragma once

#include "core/changes/change_list.h"
#include "core/engines/session.h"
#include "core/files/called_records.h"
#include "core/files/cell_values.h"
#include "core/files/days_found.h"
#include "core/files/file_header.h"
#include "core/files/line_outcomes.h"
#include "core/lenses/lens.h"

namespace iterandum {

struct CorrectionOptions {
  bool addMissing = false;     // a line without a record becomes a new one
  bool removeMissing = false;  // records that no line names are removed
  bool blankLeaves = false;    // no value in the file: the cell is left alone
  bool looseMatch = false;     // capitals, and blanks at the ends or doubled, do not tell records apart
  WrittenForms forms;
  // With it, references may be said by name, as records are called by. Not owned.
  const Catalogue* catalogue = nullptr;
  CalledBy calledBy;
  std::vector<Lens> lenses;  // what the file says of their columns is read through them
  // The lines once more: with them the order of days is found where `forms` does not say it (days_found.h).
  LinesAgain again;
  SourceFile file;  // what the changes are said to come from; without a digest: none
};

struct CorrectionCounts {
  std::uint64_t lines = 0;
  std::uint64_t changing = 0;
  std::uint64_t cells = 0;
  std::uint64_t already = 0;
  std::uint64_t added = 0;
  std::uint64_t removed = 0;
  std::uint64_t failed = 0;
};

struct FileCorrections {
  ChangeList changes;
  LineOutcomes lines;  // that are not so already
  CorrectionCounts counts;
  std::vector<ColumnDays> days;  // where the order had to be known and `forms` did not say it
  // Why records that are missing in the file cannot be told, though they were asked for; empty: they could.
  std::string cannotRemove;
};

// `source` stands behind the header. Memory: what differs, and the keys of the lines (line_keys.h). Errors: InvalidFile
// with the line; the session's.
[[nodiscard]] Result<FileCorrections> correctionsFrom(TableSource& source, const FileHeader& header, Session& session,
                                                      const Table& table, const CorrectionOptions& options,
                                                      Progress& progress);

// For messages and reports. `lineWord`: what a line is called.
[[nodiscard]] std::string inWords(const CorrectionCounts& counts, const char* lineWord);

}  // namespace iterandum
