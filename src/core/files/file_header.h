// Which columns of a table a file speaks of: by its header, the first line that names what says which record is meant.
#pragma once

#include <map>

#include "core/catalogue/catalogue.h"
#include "core/files/table_source.h"

namespace iterandum {

// Titles and remarks above a list are not longer than this.
inline constexpr int kMostLinesAbove = 200;

struct FileHeader {
  std::uint64_t line = 0;              // 0: of a document that has none of its own
  std::vector<std::string> names;      // as they stand there
  std::vector<const Column*> columns;  // for each; null: it is left alone
  std::vector<std::size_t> match;      // positions of those that say which record is meant, in the order asked for
  std::vector<std::string> leftAlone;  // names that the table has no column for, or that are to be left alone
  std::map<std::string, std::string>
      near;  // of these, those that are nearly a column's name, or a reference's, with the column

  [[nodiscard]] const Column* column(std::size_t at) const { return at < columns.size() ? columns[at] : nullptr; }
};

// By which columns records are named: `asked`, or the table's key. Errors: InvalidInput, a column that is not there, a
// table whose records nothing names.
[[nodiscard]] Result<std::vector<const Column*>> matchColumns(const Table& table,
                                                              const std::vector<std::string>& asked);

struct HeaderOptions {
  // What names stand for that no column has: a column; empty: the name is left alone.
  std::map<std::string, std::string> meant;
  bool offerNear = false;  // a name that is nearly a column's is no error: it is left alone, and offered
};

// Reads up to the header and leaves the source behind it. Errors: NotFound where no line is one; InvalidFile where one
// names a column twice, or nearly one that the table has.
[[nodiscard]] Result<FileHeader> findHeader(TableSource& source, const Table& table,
                                            const std::vector<const Column*>& match, const HeaderOptions& options = {});

// The first line that looks like one, though it names nothing that says which record is meant: for somebody to say what
// its names stand for. Errors: NotFound where none does.
[[nodiscard]] Result<FileHeader> likelyHeader(TableSource& source, const Table& table, const HeaderOptions& options);

}  // namespace iterandum
