#include "cli/files.h"

#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <cstdio>
#include <cstring>

namespace iterandum::cli {
namespace {

tl::unexpected<Error> fileError(const std::string& doing, const std::string& path) {
  return fail(ErrorKind::InvalidFile, doing + ": " + strerror(errno), path);
}

Status writeAll(int descriptor, const std::string& content, const std::string& path) {
  std::size_t done = 0;
  while (done < content.size()) {
    const ssize_t n = write(descriptor, content.data() + done, content.size() - done);
    if (n < 0 && errno == EINTR) continue;
    if (n < 0) return fileError("cannot be written", path);
    done += static_cast<std::size_t>(n);
  }
  return {};
}

}  // namespace

Result<std::string> readWhole(const std::string& path) {
  const int descriptor = path == "-" ? STDIN_FILENO : open(path.c_str(), O_RDONLY | O_CLOEXEC);
  if (descriptor < 0) return fileError("cannot be read", path);
  std::string content;
  std::string buffer(1 << 16, '\0');
  ssize_t n = 0;
  while ((n = read(descriptor, buffer.data(), buffer.size())) != 0) {
    if (n < 0 && errno == EINTR) continue;
    if (n < 0) break;
    content.append(buffer, 0, static_cast<std::size_t>(n));
  }
  const int error = errno;
  if (descriptor != STDIN_FILENO) close(descriptor);
  errno = error;
  if (n < 0) return fileError("cannot be read", path);
  return content;
}

Result<std::unique_ptr<PendingFile>> PendingFile::open(const std::string& path) {
  std::unique_ptr<PendingFile> file(new PendingFile());
  file->path_ = path;
  if (path == "-") {
    file->descriptor_ = dup(STDOUT_FILENO);
    return file;
  }
  struct stat info {};
  if (stat(path.c_str(), &info) == 0 && !S_ISREG(info.st_mode)) {
    file->descriptor_ = ::open(path.c_str(), O_WRONLY | O_CLOEXEC);
  } else if (stat(path.c_str(), &info) == 0 && access(path.c_str(), W_OK) != 0) {
    return fileError("cannot be written", path);
  } else {
    file->temporary_ = path + ".part-XXXXXX";
    file->descriptor_ = mkostemp(file->temporary_.data(), O_CLOEXEC);
    if (file->descriptor_ < 0) file->temporary_.clear();
    const mode_t mask = umask(0);
    umask(mask);
    if (file->descriptor_ >= 0) fchmod(file->descriptor_, 0666 & ~mask);
  }
  if (file->descriptor_ < 0) return fileError("cannot be written", path);
  return file;
}

PendingFile::~PendingFile() {
  if (descriptor_ >= 0) close(descriptor_);
  if (!temporary_.empty()) unlink(temporary_.c_str());
}

Status PendingFile::write(const std::string& content) {
  if (canBeRewritten() && (lseek(descriptor_, 0, SEEK_SET) != 0 || ftruncate(descriptor_, 0) != 0)) {
    return fileError("cannot be written", path_);
  }
  ITERANDUM_TRY(writeAll(descriptor_, content, path_));
  // Devices and pipes have nothing to flush.
  if (fsync(descriptor_) != 0 && errno != EINVAL && errno != EROFS && errno != ENOTSUP) {
    return fileError("cannot be written", path_);
  }
  return {};
}

Status PendingFile::putInPlace() {
  if (temporary_.empty()) return {};
  if (rename(temporary_.c_str(), path_.c_str()) != 0) return fileError("cannot be put in place", path_);
  temporary_.clear();
  return {};
}

Status writeOut(const std::string& content) {
  if (std::fwrite(content.data(), 1, content.size(), stdout) != content.size() || std::fflush(stdout) != 0) {
    return fileError("cannot be written", "standard output");
  }
  return {};
}

}  // namespace iterandum::cli
