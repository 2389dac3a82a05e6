#include "core/engines/mariadb/maria_batch.h"

#include <rapidjson/stringbuffer.h>
#include <rapidjson/writer.h>

#include <algorithm>

namespace iterandum {

bool MariaBatch::isImpossible(std::size_t row) const {
  return std::any_of(parts_.begin(), parts_.end(), [&](const Part& part) {
    return std::binary_search(part.impossible.begin(), part.impossible.end(), row);
  });
}

std::string MariaBatch::source(const MariaHandle& handle) const {
  rapidjson::StringBuffer buffer;
  rapidjson::Writer<rapidjson::StringBuffer> json(buffer);
  const bool anyImpossible =
      std::any_of(parts_.begin(), parts_.end(), [](const Part& part) { return !part.impossible.empty(); });
  json.StartArray();
  for (std::size_t r = 0; r < rows_; ++r) {
    if (anyImpossible && isImpossible(r)) continue;
    json.StartArray();
    json.Uint64(r + 1);
    for (const Part& part : parts_) {
      const Cell& cell = part.texts[r];
      if (cell.null) {
        json.Null();
      } else {
        json.String(cell.text.data(), static_cast<rapidjson::SizeType>(cell.text.size()));
      }
    }
    json.EndArray();
  }
  json.EndArray();
  std::string columns = "ord BIGINT PATH '$[0]'";
  for (std::size_t p = 0; p < parts_.size(); ++p) {
    columns +=
        ", " + parts_[p].name + " " + parts_[p].transport.definition + " PATH '$[" + std::to_string(p + 1) + "]'";
  }
  return "JSON_TABLE(" + handle.quoted({buffer.GetString(), buffer.GetSize()}) + ", '$[*]' COLUMNS (" + columns +
         ")) AS u";
}

std::string mariaKeyCondition(const Table& table, const std::vector<std::string>& keyColumns, const MariaBatch& batch,
                              std::size_t firstPart) {
  std::string out;
  const bool whole = table.identity.kind == Identity::Kind::WholeRecord && keyColumns == table.identity.columns;
  for (std::size_t k = 0; k < keyColumns.size(); ++k) {
    const Column* column = table.column(keyColumns[k]);
    const std::string own = "t." + mariaIdentifier(keyColumns[k]);
    const std::string& key = batch.expression(firstPart + k);
    const char* const equals = whole || batch.anyNull(firstPart + k) ? " <=> " : " = ";
    out += (k > 0 ? " AND " : "") + own + equals + key;
    // The whole record has to be this one byte for byte, whatever the collation takes for equal.
    if (whole && column != nullptr && isMariaText(*column)) {
      out += " AND BINARY CONVERT(" + own + " USING utf8mb4) <=> BINARY CONVERT(" + key + " USING utf8mb4)";
    }
  }
  return out;
}

}  // namespace iterandum
