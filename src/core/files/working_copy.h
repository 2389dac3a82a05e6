// A working copy: records handed out as a spreadsheet to people who do not get at the database, and brought back
// corrected. The first sheet is what they see: what says which record it is is protected, what may be changed is not,
// and where a value can be chosen it is chosen by name. Two more, out of sight, hold what each cell held, exactly, and
// what the names stand for. docs/formats.md, "Working copies".
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "core/engines/session.h"
#include "core/files/called_records.h"
#include "core/files/record_writer.h"
#include "core/lenses/lens.h"
#include "core/scope/scope.h"

namespace iterandum {

struct WorkingCopyOptions {
  // The columns that may be changed; empty: all that are shown and can be. What a lens masks is left out unless it is
  // named here.
  std::vector<std::string> open;
  CalledBy calledBy;
  std::vector<Lens> lenses;  // those that label codes are looked through
  std::string at;            // when it is handed out, RFC 3339
};

// A cell that can take no more than what stands in a list: how each is called, and what is stored for it.
struct CopyList {
  struct Entry {
    std::string called;
    Value stored;
  };
  std::vector<Entry> entries;
  bool named = false;  // the cell holds what it is called, not what is stored
  bool only = true;    // another value is refused, not warned of
};

struct CopyColumn {
  enum class Role { Key, Open, Shown };
  Role role = Role::Shown;
  std::string heading;
  std::string column;  // of the table; Shown: as it is spoken of
};

// What a working copy says of itself.
struct CopyHead {
  TableName table;
  std::string database;  // never a password
  std::string at;
  std::string title;  // which records these are, in words
  std::string sheet;  // the one that is seen
  std::vector<CopyColumn> columns;
};

// How many records were written. Errors: InvalidInput, a table whose records have no key of their own, a column that
// cannot be changed; the session's and the sink's.
[[nodiscard]] Result<std::uint64_t> writeWorkingCopy(Session& session, const Catalogue& catalogue,
                                                     const ReadScope& scope, const WorkingCopyOptions& options,
                                                     const RecordWriter::Sink& sink, Progress& progress);

// Whether a file is a working copy (of any table, whole or not).
[[nodiscard]] bool isWorkingCopy(std::string_view content);

// The names of its two sheets out of sight.
inline constexpr const char* kCopySheet = "iterandum";
inline constexpr const char* kCopyLists = "iterandum lists";
// More records to choose from than these are not listed: the key is typed.
inline constexpr std::size_t kMostChoices = 10000;

}  // namespace iterandum
