#include "core/files/waiting_rows.h"

namespace iterandum {
namespace {

// As many as a piece of XML gives at once, about.
constexpr std::size_t kMostRoom = 1024;

}  // namespace

std::vector<FileCell> WaitingRows::room() {
  if (room_.empty()) return {};
  std::vector<FileCell> out = std::move(room_.back());
  room_.pop_back();
  return out;
}

void WaitingRows::addRow(std::uint64_t number, std::vector<FileCell>&& cells) {
  FileLine line{number, std::move(cells)};
  if (!line.isBlank()) rows_.push_back(std::move(line));
}

Result<bool> WaitingRows::next(FileLine& line) {
  while (rows_.empty() && !done_ && wrong_.empty()) {
    ITERANDUM_ASSIGN(const bool more, part_->readOn());
    done_ = !more;
  }
  if (rows_.empty() && !wrong_.empty()) return fail(ErrorKind::InvalidFile, wrong_);
  if (rows_.empty()) return false;
  std::swap(line, rows_.front());
  if (room_.size() < kMostRoom) room_.push_back(std::move(rows_.front().cells));
  rows_.pop_front();
  return true;
}

}  // namespace iterandum
