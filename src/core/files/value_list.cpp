#include "core/files/value_list.h"

#include "core/files/delimited_text.h"

namespace iterandum {

Result<std::vector<std::pair<TypedOrNone, TypedOrNone>>> readMap(std::string_view csv) {
  if (csv.starts_with("\xEF\xBB\xBF")) csv.remove_prefix(3);
  const auto field = [](FileCell& cell) {
    return cell.kind == FileCell::Kind::None ? TypedOrNone() : TypedOrNone(std::move(cell.text));
  };
  std::vector<std::pair<TypedOrNone, TypedOrNone>> out;
  DelimitedText lines(csv, {});
  FileLine line;
  while (true) {
    ITERANDUM_ASSIGN(const bool more, lines.next(line));
    if (!more) return out;
    if (line.cells.size() == 1 && line.isBlank()) continue;
    if (line.cells.size() != 2) {
      return fail(ErrorKind::InvalidFile,
                  "two fields are wanted, old and new, not " + std::to_string(line.cells.size()),
                  "line " + std::to_string(line.number));
    }
    TypedOrNone from = field(line.cells[0]);
    out.emplace_back(std::move(from), field(line.cells[1]));
  }
}

}  // namespace iterandum
