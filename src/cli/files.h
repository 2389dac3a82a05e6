// Files named on the command line; "-" is standard input or output.
#pragma once

#include <cstdint>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/result.h"

namespace iterandum::cli {

[[nodiscard]] Result<std::string> readWhole(const std::string& path);

// Refuses a call in which a file to be written is the database, something that lies beside it for its sake, or a file
// that is read: by whatever path or link it is named. "-" and empty names are no files. Errors: InvalidFile.
[[nodiscard]] Status refuseTargets(const std::vector<std::string>& written, const std::vector<std::string>& read,
                                   const std::string& database);

// A file that appears whole or not at all: written where nobody else sees it, flushed to the disk, then put in its
// place. A link is followed, an existing file keeps its mode and owner. A target that is no regular file (a device, a
// pipe) is written to directly.
class PendingFile {
 public:
  [[nodiscard]] static Result<std::unique_ptr<PendingFile>> open(const std::string& path);
  PendingFile(const PendingFile&) = delete;
  PendingFile& operator=(const PendingFile&) = delete;
  ~PendingFile();  // leaves nothing of what was not put in place

  // Flushed to the disk when it returns. Again: in place of what was written before, where that can be.
  [[nodiscard]] Status write(const std::string& content);
  // Piece by piece instead; finish() flushes.
  [[nodiscard]] Status append(std::string_view piece);
  [[nodiscard]] Status finish();
  [[nodiscard]] bool canBeRewritten() const { return beside_; }
  [[nodiscard]] Status putInPlace();

 private:
  PendingFile() = default;
  [[nodiscard]] Status writeWaiting();
  std::string path_;     // where it belongs, links followed
  bool beside_ = false;  // else it is written directly
  int descriptor_ = -1;
  std::string waiting_;  // appended, not written yet
};

// A line on standard error, with whatever stands in it made visible.
void say(const std::string& text);

// How many records, lines or other places are named there one by one, at most.
inline constexpr std::uint64_t kMostNamed = 1000;

// Writes to standard output. Errors: InvalidFile (a full disk); ReaderGone.
[[nodiscard]] Status writeOut(std::string_view content);

}  // namespace iterandum::cli
