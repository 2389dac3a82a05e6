// libFuzzer target: whatever the bytes, the change file reader gives a change list or an error with its place, and what
// it accepts it writes and reads again the same.
#include <cstdint>
#include <cstdlib>
#include <string>

#include "core/changes/change_file.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const auto changes = iterandum::readChangeFile({reinterpret_cast<const char*>(data), size});
  if (!changes) {
    if (changes.error().place.empty() || changes.error().message.empty()) std::abort();
    return 0;
  }
  const std::string written = iterandum::writeChangeFile(*changes);
  const auto again = iterandum::readChangeFile(written);
  if (!again || iterandum::writeChangeFile(*again) != written) std::abort();
  return 0;
}
