// Records as a table for people: control characters as escapes, long values shortened, no more than a screenful held.
#pragma once

#include <memory>
#include <string>
#include <vector>

#include "core/files/record_writer.h"

namespace iterandum::cli {

[[nodiscard]] std::unique_ptr<RecordWriter> makeTableWriter(std::vector<Column> columns, RecordWriter::Sink sink);

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
