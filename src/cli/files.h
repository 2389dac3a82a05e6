// Files named on the command line; "-" is standard input or output.
#pragma once

#include <memory>
#include <string>

#include "core/base/result.h"

namespace iterandum::cli {

[[nodiscard]] Result<std::string> readWhole(const std::string& path);

// A file that appears whole or not at all: written beside its place, flushed to the disk, then renamed.
// A target that is no regular file (a device, a pipe) is written to directly.
class PendingFile {
 public:
  [[nodiscard]] static Result<std::unique_ptr<PendingFile>> open(const std::string& path);
  PendingFile(const PendingFile&) = delete;
  PendingFile& operator=(const PendingFile&) = delete;
  ~PendingFile();  // removes what was not put in place

  // Flushed to the disk when it returns. Again: in place of what was written before, where that can be.
  [[nodiscard]] Status write(const std::string& content);
  [[nodiscard]] bool canBeRewritten() const { return !temporary_.empty(); }
  [[nodiscard]] Status putInPlace();

 private:
  PendingFile() = default;
  std::string path_;
  std::string temporary_;  // empty: written directly
  int descriptor_ = -1;
};

// Writes to standard output; an error (a full disk, a reader that went away) is an error of ours.
[[nodiscard]] Status writeOut(const std::string& content);

}  // namespace iterandum::cli
