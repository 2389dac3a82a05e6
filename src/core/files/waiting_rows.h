// Rows that a part of a spreadsheet has given and nobody has taken yet: reading goes on a piece of XML at a time, to
// the very end of the part: what is damaged in it shows there at the latest.
#pragma once

#include <deque>

#include "core/files/package.h"
#include "core/files/table_source.h"

namespace iterandum {

class WaitingRows : public TableSource {
 public:
  [[nodiscard]] Result<bool> next(FileLine& line) override;
  [[nodiscard]] const char* lineWord() const override { return "row"; }

 protected:
  // Reads what the rows are made from; set by who derives from this.
  void readFrom(std::unique_ptr<PackagePart> part) { part_ = std::move(part); }
  // The cells of a row that was taken, to be filled anew: so that their room is used again.
  [[nodiscard]] std::vector<FileCell> room();
  // A row that is complete. Blank ones are dropped.
  void addRow(std::uint64_t number, std::vector<FileCell>&& cells);
  // A formula that nobody has computed says nothing, which is not that there is no value; but for the one by which
  // sheets hold an empty text.
  static void withoutResult(FileCell& cell, std::string_view formula) {
    if (formula == "\"\"" || formula.ends_with("=\"\"")) {
      cell.kind = FileCell::Kind::Text;
      return;
    }
    cell.kind = FileCell::Kind::Error;
    cell.text = "of a formula that is not computed; open and save the file in a spreadsheet program";
  }
  // What is wrong with what was read; the next one who asks is told.
  void refuse(std::string message) { wrong_ = std::move(message); }

 private:
  std::unique_ptr<PackagePart> part_;
  std::deque<FileLine> rows_;
  std::vector<std::vector<FileCell>> room_;
  std::string wrong_;
  bool done_ = false;
};

}  // namespace iterandum
