#include "core/store/log_owner.h"

#include <unistd.h>

#include <atomic>
#include <fstream>
#include <iterator>
#include <sstream>

namespace iterandum {
namespace {

std::string firstLine(const std::string& path) {
  std::ifstream file(path);
  std::string line;
  std::getline(file, line);
  return line;
}

// When the process started, in ticks since boot (proc(5), /proc/PID/stat, field 22): a number of a process is given
// again, with its start it is not. Empty when there is no such process, or one that has ended and that nobody has asked
// after yet (field 3).
std::string startOf(const std::string& pid) {
  const std::string line = firstLine("/proc/" + pid + "/stat");
  const std::size_t afterName = line.rfind(')');
  if (afterName == std::string::npos) return {};
  std::istringstream fields(line.substr(afterName + 1));
  const std::istream_iterator<std::string> end;
  constexpr int kStartBehindName = 19;
  std::istream_iterator<std::string> field(fields);
  if (field == end || *field == "Z" || *field == "X") return {};
  for (int i = 0; i < kStartBehindName && field != end; ++i) ++field;
  return field == end ? std::string() : *field;
}

std::string boot() { return firstLine("/proc/sys/kernel/random/boot_id"); }

}  // namespace

std::string newLogOwner() {
  static std::atomic<unsigned> number{0};
  const std::string pid = std::to_string(getpid());
  return boot() + " " + pid + " " + startOf(pid) + " " + std::to_string(++number);
}

bool logOwnerRuns(const std::string& owner) {
  std::istringstream parts(owner);
  std::string bootId;
  std::string pid;
  std::string start;
  parts >> bootId >> pid >> start;
  return !start.empty() && bootId == boot() && startOf(pid) == start;
}

}  // namespace iterandum
