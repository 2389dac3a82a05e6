#include "core/files/file_header.h"

#include <algorithm>

#include "core/scope/column_path.h"
#include "core/value/text_forms.h"

namespace iterandum {
namespace {

std::string placeOf(const TableSource& source, const FileLine& line) {
  return line.number == 0 ? std::string() : std::string(source.lineWord()) + " " + std::to_string(line.number);
}

// The column that a name stands for; null: none.
const Column* columnMeant(const Table& table, const std::string& name, const HeaderOptions& options) {
  if (name.empty()) return nullptr;
  const auto said = options.meant.find(name);
  return said != options.meant.end() ? table.column(said->second) : columnCalled(table, name);
}

bool isTaken(const FileHeader& header, const Column* column) {
  return std::find(header.columns.begin(), header.columns.end(), column) != header.columns.end();
}

// How people head a column of references: "Species" over species_id.
std::string columnPointingAt(const Table& table, const std::string& name) {
  const Column* column = columnOfReference(table, name);
  return column == nullptr ? std::string() : column->name;
}

// What is nearly a column's name, which has none of its own in the file, is no name to be passed over in silence.
Status takeUnknown(FileHeader& out, const std::vector<std::string>& unknown, const Table& table,
                   const HeaderOptions& options, const std::string& place) {
  for (const std::string& name : unknown) {
    out.leftAlone.push_back(name);
    if (options.meant.contains(name)) continue;
    std::string close = closestColumn(table, name);
    if (close.empty() && options.offerNear) close = columnPointingAt(table, name);
    const Column* meant = close.empty() ? nullptr : table.column(close);
    if (meant == nullptr || isTaken(out, meant)) continue;
    if (!options.offerNear) {
      return fail(ErrorKind::InvalidFile,
                  displayName(table.name) + " has no column '" + name + "'; if " + meant->name +
                      " is meant, call it so, else give it a name that is less like it",
                  place);
    }
    out.near[name] = meant->name;
  }
  return {};
}

Result<FileHeader> headerOf(const TableSource& source, const FileLine& line, const Table& table,
                            const HeaderOptions& options) {
  FileHeader out;
  out.line = line.number;
  std::vector<std::string> unknown;
  for (const FileCell& cell : line.cells) {
    const std::string name = trimmed(cellText(cell));
    const Column* column = columnMeant(table, name, options);
    if (column != nullptr && isTaken(out, column))
      return fail(ErrorKind::InvalidFile, "the column " + column->name + " is there twice", placeOf(source, line));
    out.names.push_back(name);
    out.columns.push_back(column);
    if (column == nullptr && !name.empty()) unknown.push_back(name);
  }
  ITERANDUM_TRY(takeUnknown(out, unknown, table, options, placeOf(source, line)));
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

Result<FileHeader> findHeader(TableSource& source, const Table& table, const std::vector<const Column*>& match,
                              const HeaderOptions& options) {
  FileLine line;
  for (int i = 0; i < kMostLinesAbove; ++i) {
    ITERANDUM_ASSIGN(const bool more, source.next(line));
    if (!more) break;
    const auto isNamed = [&](const Column* column) {
      return std::any_of(line.cells.begin(), line.cells.end(), [&](const FileCell& cell) {
        return columnMeant(table, trimmed(cellText(cell)), options) == column;
      });
    };
    if (!std::all_of(match.begin(), match.end(), isNamed)) continue;
    ITERANDUM_ASSIGN(FileHeader out, headerOf(source, line, table, options));
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

Result<FileHeader> likelyHeader(TableSource& source, const Table& table, const HeaderOptions& options) {
  FileLine line;
  for (int i = 0; i < kMostLinesAbove; ++i) {
    ITERANDUM_ASSIGN(const bool more, source.next(line));
    if (!more) break;
    const auto texts = std::count_if(line.cells.begin(), line.cells.end(), [](const FileCell& cell) {
      return cell.kind == FileCell::Kind::Text && !trimmed(cell.text).empty();
    });
    // A title stands alone.
    if (texts >= 2) return headerOf(source, line, table, options);
  }
  return fail(ErrorKind::NotFound, "no line of it names columns");
}

}  // namespace iterandum
