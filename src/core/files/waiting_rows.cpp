#include "core/files/waiting_rows.h"

namespace iterandum {

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
  line = std::move(rows_.front());
  rows_.pop_front();
  return true;
}

}  // namespace iterandum
