#include "cli/called_key.h"

#include "core/catalogue/column_rules.h"
#include "core/scope/column_path.h"
#include "core/value/json.h"

namespace iterandum::cli {

Result<CalledKey> readCalledKey(const Table* table, const std::string& json, const std::string& place) {
  const auto wrong = [&](const std::string& message) {
    return fail(ErrorKind::InvalidInput, message, place + " '" + json + "'");
  };
  const auto node = parseJson(json);
  if (!node || node->type != JsonNode::Type::Object || node->members.empty()) {
    const std::vector<std::string> key = table != nullptr ? table->writeKeyColumns() : std::vector<std::string>();
    return wrong("a key is wanted as JSON, like {" + quoteJson(key.empty() ? "id" : key.front()) + ": 4}");
  }
  CalledKey out;
  for (const JsonMember& member : node->members) {
    const Column* column = table != nullptr ? columnCalled(*table, member.name) : nullptr;
    out.columns.push_back(column != nullptr ? column->name : member.name);
    auto value = valueFromJson(member.value, "");
    if (!value) return wrong(value.error().message);
    out.values.push_back(column != nullptr ? comparableForm(*column, *value) : std::move(*value));
  }
  return out;
}

}  // namespace iterandum::cli
