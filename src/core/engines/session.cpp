#include "core/engines/session.h"

#include <algorithm>

namespace iterandum {
namespace {

// Whether the database finds no other record by these columns than the core would.
bool findsExactly(const Table& table, const std::vector<std::string>& keyColumns) {
  return std::all_of(keyColumns.begin(), keyColumns.end(), [&](const std::string& name) {
    const Column* column = table.column(name);
    return column == nullptr || column->foundExactly;
  });
}

}  // namespace

Status Session::readByKeys(const KeyRead& read, const KeyedRowSink& sink, Progress& progress) {
  if (!read.exact) return findByKeys(read, sink, progress);
  // Neighbours that only look alike to the database are passed over, and do not count.
  KeyRead wide = read;
  if (!findsExactly(*read.table, read.keyColumns)) wide.mostPerKey = UINT64_MAX;
  std::vector<std::size_t> keyAt;
  for (const std::string& name : read.keyColumns) {
    const auto at = std::find(wide.columns.begin(), wide.columns.end(), name);
    keyAt.push_back(static_cast<std::size_t>(at - wide.columns.begin()));
    if (at == wide.columns.end()) wide.columns.push_back(name);
  }
  std::vector<std::uint64_t> found;
  return findByKeys(
      wide,
      [&](std::size_t row, ValueTuple&& record) {
        for (std::size_t k = 0; k < keyAt.size(); ++k) {
          if (!sameValue(record[keyAt[k]], (*read.keys)[k].at(row))) return;
        }
        if (row >= found.size()) found.resize(row + 1, 0);
        if (++found[row] > read.mostPerKey) return;
        record.resize(read.columns.size());
        sink(row, std::move(record));
      },
      progress);
}

}  // namespace iterandum
