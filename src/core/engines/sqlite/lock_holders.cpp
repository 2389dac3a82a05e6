#include <sys/stat.h>
#include <sys/sysmacros.h>
#include <unistd.h>

#include <fstream>
#include <set>
#include <sstream>
#include <vector>

#include "core/engines/sqlite/sqlite_handle.h"

namespace iterandum {
namespace {

// "major:minor:inode" with hexadecimal device numbers: how /proc/locks names a file (proc(5)).
std::string lockName(const std::string& path) {
  struct stat info {};
  if (stat(path.c_str(), &info) != 0) return {};
  char buffer[64];
  snprintf(buffer, sizeof buffer, "%02x:%02x:%lu", major(info.st_dev), minor(info.st_dev),
           static_cast<unsigned long>(info.st_ino));
  return buffer;
}

std::string programName(long process) {
  std::ifstream comm("/proc/" + std::to_string(process) + "/comm");
  std::string name;
  std::getline(comm, name);
  return name;
}

}  // namespace

std::string lockHolders(const std::string& path) {
  std::set<std::string> files;
  // With a write-ahead log the locks lie on its index, beside the database.
  for (const std::string& file : {path, path + "-shm"}) {
    if (const std::string name = lockName(file); !name.empty()) files.insert(name);
  }
  std::set<long> holders;
  std::ifstream locks("/proc/locks");
  std::string line;
  while (std::getline(locks, line)) {
    std::istringstream words(line);
    std::string number;
    std::string type;
    std::string mode;
    std::string access;
    long process = 0;
    std::string file;
    // A line with "->" is somebody who waits, like us.
    if (!(words >> number >> type) || type == "->") continue;
    if (!(words >> mode >> access >> process >> file)) continue;
    if (files.contains(file) && process > 0 && process != getpid()) holders.insert(process);
  }
  std::string out;
  for (const long process : holders) {
    const std::string name = programName(process);
    if (!out.empty()) out += ", ";
    out += (name.empty() ? "a program" : name) + " (process " + std::to_string(process) + ")";
  }
  return out;
}

}  // namespace iterandum
