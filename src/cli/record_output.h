// Writers for records: a table for people, CSV, JSON. They hold no more than a screenful, whatever the number of
// records.
#pragma once

#include <functional>
#include <memory>
#include <string>
#include <vector>

#include "core/catalogue/catalogue.h"
#include "core/value/value_column.h"

namespace iterandum::cli {

class RecordWriter {
 public:
  using Sink = std::function<bool(const std::string&)>;  // false: nothing more can be written
  RecordWriter() = default;
  RecordWriter(const RecordWriter&) = delete;
  RecordWriter& operator=(const RecordWriter&) = delete;
  virtual ~RecordWriter() = default;
  [[nodiscard]] virtual bool begin() = 0;
  [[nodiscard]] virtual bool record(const ValueTuple& values) = 0;
  [[nodiscard]] virtual bool end() = 0;
};

// `columns` describes what each value is; a row id is described by an integer column of that name.
[[nodiscard]] std::unique_ptr<RecordWriter> makeRecordWriter(const std::string& format, std::vector<Column> columns,
                                                             const std::string& nullMark, RecordWriter::Sink sink);

// Lines of cells in columns, numbers to the right.
class TextTable {
 public:
  explicit TextTable(std::vector<std::string> heads, std::vector<bool> right)
      : heads_(std::move(heads)), right_(std::move(right)) {}
  void add(std::vector<std::string> cells) { rows_.push_back(std::move(cells)); }
  [[nodiscard]] std::string text();
  // Widths that are settled by what has been added so far; text() settles them too.
  void settle();
  [[nodiscard]] std::string line(const std::vector<std::string>& cells) const;
  [[nodiscard]] std::size_t rows() const { return rows_.size(); }

 private:
  std::vector<std::string> heads_;
  std::vector<bool> right_;
  std::vector<std::vector<std::string>> rows_;
  std::vector<std::size_t> widths_;
};

}  // namespace iterandum::cli
