#include "app/window/open_sheets.h"

#include "core/value/base64.h"
#include "core/value/codec.h"
#include "core/value/json.h"

namespace iterandum {

std::string openSheetsText(const std::vector<OpenSheet>& sheets) {
  JsonWriter out;
  out.beginArray();
  for (const OpenSheet& sheet : sheets) {
    out.beginObject().name("scope").string(scopeToJson(sheet.name, sheet.look.scope));
    out.name("layout").string(layoutText(sheet.look)).name("column").number(sheet.look.column);
    out.name("current").number(sheet.current ? 1 : 0);
    if (sheet.look.record) {
      ByteWriter key;
      key.tuple(*sheet.look.record);
      out.name("record").string(encodeBase64(key.bytes()));
    }
    out.endObject();
  }
  return out.endArray().take();
}

std::vector<OpenSheet> openSheetsFrom(const std::string& text) {
  std::vector<OpenSheet> out;
  const auto root = parseJson(text);
  if (!root || root->type != JsonNode::Type::Array) return out;
  for (const JsonNode& item : root->items) {
    const JsonNode* scopeText = item.find("scope");
    const auto scope = scopeText == nullptr ? Result<std::pair<std::string, Scope>>(fail(ErrorKind::InvalidFile, ""))
                                            : scopeFromJson(scopeText->text);
    if (!scope) continue;
    OpenSheet sheet;
    sheet.name = scope->first;
    if (const JsonNode* layout = item.find("layout")) sheet.look = layoutFrom(scope->second.table, layout->text);
    sheet.look.scope = scope->second;
    sheet.look.readWhenSeen = true;
    if (const JsonNode* column = item.find("column")) sheet.look.column = std::atoi(column->text.c_str());
    if (const JsonNode* current = item.find("current")) sheet.current = current->text == "1";
    if (const JsonNode* record = item.find("record")) {
      const auto bytes = decodeBase64(record->text);
      ByteReader reader(bytes ? std::string_view(*bytes) : std::string_view());
      ValueTuple key = reader.tuple();
      if (bytes && reader.ok()) sheet.look.record = std::move(key);
    }
    out.push_back(std::move(sheet));
  }
  return out;
}

}  // namespace iterandum
