#include "cli/files.h"

#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <cstdio>
#include <cstring>
#include <filesystem>

#include "core/value/visible_text.h"

namespace iterandum::cli {
namespace {

constexpr std::size_t kPiece = 1U << 16U;

tl::unexpected<Error> fileError(const std::string& doing, const std::string& path) {
  return fail(ErrorKind::InvalidFile, doing + ": " + strerror(errno), path);
}

Status writeAll(int descriptor, std::string_view content, const std::string& path) {
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

void say(const std::string& text) { std::fprintf(stderr, "%s\n", visibleText(text).c_str()); }

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

namespace {

bool sameFile(const std::string& a, const std::string& b) {
  std::error_code ignored;
  return std::filesystem::equivalent(a, b, ignored);
}

// What SQLite keeps beside a database.
constexpr const char* kBeside[] = {"", "-journal", "-wal", "-shm"};

}  // namespace

Status refuseTargets(const std::vector<std::string>& written, const std::vector<std::string>& read,
                     const std::string& database) {
  const std::string file = database.starts_with("sqlite:") ? database.substr(7) : database;
  for (std::size_t i = 0; i < written.size(); ++i) {
    const std::string& target = written[i];
    if (target.empty() || target == "-") continue;
    for (const char* ending : kBeside) {
      std::error_code ignored;
      const std::string beside = file + ending;
      const bool samePath =
          std::filesystem::weakly_canonical(target, ignored) == std::filesystem::weakly_canonical(beside, ignored);
      if (!file.empty() && (samePath || sameFile(target, beside)))
        return fail(ErrorKind::InvalidFile, "this is the database, or belongs to it; name another file", target);
    }
    for (const std::string& other : read) {
      if (!other.empty() && other != "-" && sameFile(target, other))
        return fail(ErrorKind::InvalidFile, "this file is read by the same call; name another one to write to", target);
    }
    for (std::size_t j = 0; j < i; ++j) {
      std::error_code ignored;
      const bool samePath =
          std::filesystem::weakly_canonical(target, ignored) == std::filesystem::weakly_canonical(written[j], ignored);
      if (samePath || sameFile(target, written[j]))
        return fail(ErrorKind::InvalidFile, "two things would be written to this file", target);
    }
  }
  return {};
}

Result<std::unique_ptr<PendingFile>> PendingFile::open(const std::string& path) {
  std::unique_ptr<PendingFile> file(new PendingFile());
  file->path_ = path;
  if (path == "-") {
    file->descriptor_ = dup(STDOUT_FILENO);
    return file;
  }
  std::error_code ignored;
  const auto target = std::filesystem::weakly_canonical(path, ignored);
  if (!target.empty()) file->path_ = target.string();
  struct stat info {};
  const bool there = stat(path.c_str(), &info) == 0;
  if (there && S_ISDIR(info.st_mode)) {
    errno = EISDIR;
    return fileError("cannot be written", path);
  }
  if (there && !S_ISREG(info.st_mode)) {
    file->descriptor_ = ::open(path.c_str(), O_WRONLY | O_CLOEXEC);
  } else if (there && access(path.c_str(), W_OK) != 0) {
    return fileError("cannot be written", path);
  } else {
    // Without a name until it is put in place: a killed run leaves nothing behind.
    std::string folder = std::filesystem::path(file->path_).parent_path().string();
    if (folder.empty()) folder = ".";
    file->beside_ = true;
    file->descriptor_ = ::open(folder.c_str(), O_TMPFILE | O_RDWR | O_CLOEXEC, 0600);
  }
  if (file->descriptor_ < 0) return fileError("cannot be written", path);
  return file;
}

PendingFile::~PendingFile() {
  if (descriptor_ >= 0) close(descriptor_);
}

Status PendingFile::write(const std::string& content) {
  if (canBeRewritten() && (lseek(descriptor_, 0, SEEK_SET) != 0 || ftruncate(descriptor_, 0) != 0)) {
    return fileError("cannot be written", path_);
  }
  ITERANDUM_TRY(writeAll(descriptor_, content, path_));
  return finish();
}

Status PendingFile::append(std::string_view piece) {
  waiting_ += piece;
  return waiting_.size() < kPiece ? Status() : writeWaiting();
}

Status PendingFile::writeWaiting() {
  const std::string piece = std::exchange(waiting_, {});
  return writeAll(descriptor_, piece, path_);
}

Status PendingFile::finish() {
  ITERANDUM_TRY(writeWaiting());
  // Devices and pipes have nothing to flush.
  if (fsync(descriptor_) != 0 && errno != EINVAL && errno != EROFS && errno != ENOTSUP) {
    return fileError("cannot be written", path_);
  }
  return {};
}

Status PendingFile::putInPlace() {
  if (!beside_) return {};
  struct stat info {};
  if (stat(path_.c_str(), &info) == 0) {
    (void)!fchown(descriptor_, info.st_uid, info.st_gid);
    if (fchmod(descriptor_, info.st_mode & 07777) != 0) return fileError("cannot be put in place", path_);
  } else {
    const mode_t mask = umask(0);
    umask(mask);
    if (fchmod(descriptor_, 0666 & ~mask) != 0) return fileError("cannot be put in place", path_);
  }
  // A file without a name can be given one, but not another one's: it takes that by a rename.
  const std::string own = "/proc/self/fd/" + std::to_string(descriptor_);
  if (linkat(AT_FDCWD, own.c_str(), AT_FDCWD, path_.c_str(), AT_SYMLINK_FOLLOW) == 0) return {};
  if (errno != EEXIST) return fileError("cannot be put in place", path_);
  const std::string passing = path_ + ".part-" + std::to_string(getpid());
  unlink(passing.c_str());
  if (linkat(AT_FDCWD, own.c_str(), AT_FDCWD, passing.c_str(), AT_SYMLINK_FOLLOW) != 0 ||
      rename(passing.c_str(), path_.c_str()) != 0) {
    const int reason = errno;
    unlink(passing.c_str());
    errno = reason;
    return fileError("cannot be put in place", path_);
  }
  return {};
}

Status writeOut(std::string_view content) {
  if (std::fwrite(content.data(), 1, content.size(), stdout) != content.size() || std::fflush(stdout) != 0) {
    if (errno == EPIPE) return fail(ErrorKind::ReaderGone, "who read it went away", "standard output");
    return fileError("cannot be written", "standard output");
  }
  return {};
}

}  // namespace iterandum::cli
