#include "core/files/table_source.h"

#include <algorithm>

namespace iterandum {

bool FileLine::isBlank() const {
  return std::all_of(cells.begin(), cells.end(), [](const FileCell& cell) {
    return cell.kind == FileCell::Kind::Absent || cell.kind == FileCell::Kind::None;
  });
}

std::string cellText(const FileCell& cell) {
  return cell.kind == FileCell::Kind::Exact ? canonicalText(cell.value) : cell.text;
}

}  // namespace iterandum
