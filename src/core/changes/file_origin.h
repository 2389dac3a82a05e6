// Which lines of which files changes come from: kept with what is staged and with receipts, so that each correction can
// be held against the list that asked for it. Of a record it is the line that spoke of it last.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "core/value/codec.h"

namespace iterandum {

struct SourceFile {
  std::string name;      // without its folder
  std::string digest;    // of its content, in hexadecimal: another month's file may have the same name
  std::string lineWord;  // what its lines are called: "line", "row", "record"
  friend bool operator==(const SourceFile&, const SourceFile&) = default;
};

struct LineOrigin {
  std::uint32_t file = 0;   // from 1, among the files that it is kept with; 0: it comes from none
  std::uint32_t line = 0;   // as people count in the file
  bool alsoByHand = false;  // the record was changed besides
  friend bool operator==(const LineOrigin&, const LineOrigin&) = default;
};

// Of changes, by their index.
class FileOrigins {
 public:
  std::vector<SourceFile> files;

  void note(std::uint32_t change, const LineOrigin& origin);
  [[nodiscard]] bool any() const { return !origins_.empty(); }
  // None where the change comes from no file.
  [[nodiscard]] LineOrigin of(std::uint32_t change) const {
    return change < origins_.size() ? origins_[change] : LineOrigin();
  }
  // "line 17 of list.csv"; empty where it comes from none.
  [[nodiscard]] std::string inWords(std::uint32_t change) const;
  // One more than the highest index of which anything is known.
  [[nodiscard]] std::uint32_t end() const { return static_cast<std::uint32_t>(origins_.size()); }

 private:
  std::vector<LineOrigin> origins_;
};

// "line 17 of list.csv, and by hand".
[[nodiscard]] std::string inWords(const SourceFile& file, const LineOrigin& origin);

void writeFiles(ByteWriter& out, const std::vector<SourceFile>& files);
[[nodiscard]] std::vector<SourceFile> readFiles(ByteReader& in);
void writeOrigins(ByteWriter& out, const std::vector<LineOrigin>& origins);
// What names a file that is not there is damaged: `files` of them are.
[[nodiscard]] std::optional<std::vector<LineOrigin>> readOrigins(ByteReader& in, std::size_t files);

}  // namespace iterandum
