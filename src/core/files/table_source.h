// What lines of a file hold before anything is known of a table: the common form of CSV, JSON and spreadsheets.
#pragma once

#include <cstdint>
#include <memory>
#include <string>
#include <vector>

#include "core/base/result.h"
#include "core/value/value.h"

namespace iterandum {

struct FileCell {
  enum class Kind : std::uint8_t {
    Absent,   // the line says nothing about the column
    None,     // no value: an unquoted empty field, an empty cell, null
    Text,     // as it was typed
    Number,   // of a spreadsheet, in plain notation
    Boolean,  // "1" or "0"
    Moment,   // of a spreadsheet: a day, a time of day or both, in ISO's form
    Error,    // of a spreadsheet: #N/A and the like, as its text
    Exact     // `value`, of a JSON document
  };
  Kind kind = Kind::Absent;
  bool quoted = false;  // Text: it stood in quotes
  std::string text;
  Value value;
};

struct FileLine {
  std::uint64_t number = 0;  // as people count in the file, from 1
  std::vector<FileCell> cells;

  [[nodiscard]] bool isBlank() const;
};

// The lines of one table in a file, from the first. Single pass, on one thread; what it was made from outlives it.
class TableSource {
 public:
  TableSource() = default;
  TableSource(const TableSource&) = delete;
  TableSource& operator=(const TableSource&) = delete;
  virtual ~TableSource() = default;

  // The next line; false at the end. `line` is used again, so that its room is. Errors: InvalidFile with the place.
  [[nodiscard]] virtual Result<bool> next(FileLine& line) = 0;
  // "line", "row", "record": what its lines are called.
  [[nodiscard]] virtual const char* lineWord() const = 0;
};

// What a cell says, for messages and reports.
[[nodiscard]] std::string cellText(const FileCell& cell);

}  // namespace iterandum
