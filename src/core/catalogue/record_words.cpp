#include "core/catalogue/record_words.h"

#include "core/value/visible_text.h"

namespace iterandum {

std::string valueInWords(const Value& value, std::size_t most) {
  if (value.isNull()) return "no value";
  if (value.kind() == Value::Kind::PendingKey) return "the new record '" + std::string(value.asString()) + "'";
  if (value.kind() == Value::Kind::Bytes) return std::to_string(value.asString().size()) + " bytes";
  if (!value.isString() || value.kind() == Value::Kind::Decimal) return canonicalText(value);
  if (value.asString().empty()) return "empty text";
  std::string text(value.asString().substr(0, most));
  while (!text.empty() && !isValidUtf8(text)) text.pop_back();
  const bool cut = text.size() < value.asString().size();
  return "'" + visibleText(text) + (cut ? "…'" : "'");
}

std::string tupleInWords(const ValueTuple& tuple) {
  std::string out;
  for (const Value& v : tuple) out += (out.empty() ? "" : ", ") + valueInWords(v);
  return out;
}

std::string recordInWords(const TableName& table, const ValueTuple& key) {
  if (key.empty()) return "a new record of " + displayName(table);
  std::string out = displayName(table) + " ";
  if (key.size() == 1) return out + visibleText(canonicalText(key[0]));
  for (std::size_t k = 0; k < key.size(); ++k) out += (k ? ", " : "(") + visibleText(canonicalText(key[k]));
  return out + ")";
}

}  // namespace iterandum
