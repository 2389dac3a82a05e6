#include "core/files/file_header.h"

#include <algorithm>

#include "core/scope/column_path.h"
#include "core/value/text_forms.h"

namespace iterandum {
namespace {

// Titles and remarks above a list are not longer than this.
constexpr int kMostLinesAbove = 200;

std::string placeOf(const TableSource& source, const FileLine& line) {
  return line.number == 0 ? std::string() : std::string(source.lineWord()) + " " + std::to_string(line.number);
}

Result<FileHeader> headerOf(const TableSource& source, const FileLine& line, const Table& table) {
  FileHeader out;
  out.line = line.number;
  std::vector<std::string> unknown;
  for (const FileCell& cell : line.cells) {
    const std::string name = trimmed(cellText(cell));
    const Column* column = name.empty() ? nullptr : columnCalled(table, name);
    if (column != nullptr && std::find(out.columns.begin(), out.columns.end(), column) != out.columns.end()) {
      return fail(ErrorKind::InvalidFile, "the column " + column->name + " is there twice", placeOf(source, line));
    }
    out.names.push_back(name);
    out.columns.push_back(column);
    if (column == nullptr && !name.empty()) unknown.push_back(name);
  }
  for (const std::string& name : unknown) {
    const std::string close = closestColumn(table, name);
    const Column* meant = close.empty() ? nullptr : table.column(close);
    // What has a column of its own in the file is not what was meant.
    if (meant != nullptr && std::find(out.columns.begin(), out.columns.end(), meant) == out.columns.end()) {
      return fail(ErrorKind::InvalidFile,
                  displayName(table.name) + " has no column '" + name + "'; if " + meant->name +
                      " is meant, call it so, else give it a name that is less like it",
                  placeOf(source, line));
    }
    out.leftAlone.push_back(name);
  }
  return out;
}

}  // namespace

Result<std::vector<const Column*>> matchColumns(const Table& table, const std::vector<std::string>& asked) {
  std::vector<const Column*> out;
  const std::vector<std::string> names = asked.empty() ? table.identity.columns : asked;
  for (const std::string& name : names) {
    const Column* column = columnCalled(table, name);
    if (column == nullptr && asked.empty()) {
      return fail(ErrorKind::InvalidInput, "records of " + displayName(table.name) +
                                               " have no key of their own; say with --match which columns name them");
    }
    if (column == nullptr) {
      return fail(ErrorKind::InvalidInput,
                  "'" + name + "' is no column of " + displayName(table.name) + "; it has " + columnNames(table));
    }
    if (std::find(out.begin(), out.end(), column) == out.end()) out.push_back(column);
  }
  if (out.empty()) {
    return fail(ErrorKind::InvalidInput,
                "nothing names a record of " + displayName(table.name) + "; say with --match which columns do");
  }
  return out;
}

Result<FileHeader> findHeader(TableSource& source, const Table& table, const std::vector<const Column*>& match) {
  FileLine line;
  for (int i = 0; i < kMostLinesAbove; ++i) {
    ITERANDUM_ASSIGN(const bool more, source.next(line));
    if (!more) break;
    const auto isNamed = [&](const Column* column) {
      return std::any_of(line.cells.begin(), line.cells.end(),
                         [&](const FileCell& cell) { return columnCalled(table, trimmed(cellText(cell))) == column; });
    };
    if (!std::all_of(match.begin(), match.end(), isNamed)) continue;
    ITERANDUM_ASSIGN(FileHeader out, headerOf(source, line, table));
    for (const Column* column : match) {
      out.match.push_back(
          static_cast<std::size_t>(std::find(out.columns.begin(), out.columns.end(), column) - out.columns.begin()));
    }
    return out;
  }
  std::string wanted;
  for (const Column* column : match) wanted += (wanted.empty() ? "" : ", ") + column->name;
  return fail(ErrorKind::NotFound, "no line of it names the columns of " + displayName(table.name) +
                                       " that say which record is meant: " + wanted);
}

}  // namespace iterandum
