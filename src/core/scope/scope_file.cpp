// A scope as a JSON document, for the store and for files.
#include "core/scope/scope.h"
#include "core/value/json.h"

namespace iterandum {
namespace {

constexpr std::string_view kFormat = "iterandum-scope";
constexpr std::string_view kVersion = "1";

Status readText(const JsonNode& object, const std::string& place, std::string_view name, std::string& into) {
  const JsonNode* node = object.find(name);
  if (node == nullptr) return {};
  if (node->type != JsonNode::Type::String) return badDocument(pointerTo(place, name), "a string is wanted here");
  into = node->text;
  return {};
}

Status readFlag(const JsonNode& object, const std::string& place, std::string_view name, bool& into) {
  const JsonNode* node = object.find(name);
  if (node == nullptr) return {};
  if (node->type != JsonNode::Type::Boolean) return badDocument(pointerTo(place, name), "true or false is wanted here");
  into = node->boolean;
  return {};
}

// Calls `each` for the elements of an array that may be missing.
template <typename Each>
Status readArray(const JsonNode& root, std::string_view name, const Each& each) {
  const JsonNode* node = root.find(name);
  if (node == nullptr) return {};
  const std::string place = pointerTo("", name);
  if (node->type != JsonNode::Type::Array) return badDocument(place, "an array is wanted here");
  for (std::size_t i = 0; i < node->items.size(); ++i) {
    ITERANDUM_TRY(each(node->items[i], pointerTo(place, std::to_string(i))));
  }
  return {};
}

Status readFilter(const JsonNode& node, const std::string& place, ScopeFilter& into) {
  ITERANDUM_TRY(onlyKnownNames(node, place, {"column", "condition"}));
  ITERANDUM_TRY(readText(node, place, "column", into.column));
  return readText(node, place, "condition", into.condition);
}

Status readOrder(const JsonNode& node, const std::string& place, ScopeOrder& into) {
  ITERANDUM_TRY(onlyKnownNames(node, place, {"column", "descending", "natural", "by_name"}));
  ITERANDUM_TRY(readText(node, place, "column", into.column));
  ITERANDUM_TRY(readFlag(node, place, "descending", into.descending));
  ITERANDUM_TRY(readFlag(node, place, "natural", into.natural));
  return readFlag(node, place, "by_name", into.byName);
}

Status checkHead(const JsonNode& root) {
  ITERANDUM_TRY(onlyKnownNames(root, "", {"format", "version", "name", "table", "where", "sort", "columns"}));
  std::string format;
  ITERANDUM_TRY(readText(root, "", "format", format));
  if (format != kFormat) return badDocument("/format", "this is no saved scope ('" + std::string(kFormat) + "')");
  const JsonNode* version = root.find("version");
  if (version == nullptr || version->type != JsonNode::Type::Number || version->text != kVersion) {
    return badDocument("/version", "this program reads version " + std::string(kVersion));
  }
  return {};
}

Result<std::pair<std::string, Scope>> scopeOf(const JsonNode& root) {
  ITERANDUM_TRY(checkHead(root));
  std::string name;
  Scope scope;
  ITERANDUM_TRY(readText(root, "", "name", name));
  ITERANDUM_TRY(readText(root, "", "table", scope.table));
  if (scope.table.empty()) return badDocument("/table", "the table is missing");
  ITERANDUM_TRY(readArray(root, "where", [&](const JsonNode& node, const std::string& place) {
    return readFilter(node, place, scope.filters.emplace_back());
  }));
  ITERANDUM_TRY(readArray(root, "sort", [&](const JsonNode& node, const std::string& place) {
    return readOrder(node, place, scope.order.emplace_back());
  }));
  ITERANDUM_TRY(readArray(root, "columns", [&](const JsonNode& node, const std::string& place) {
    scope.columns.push_back(node.text);
    return node.type == JsonNode::Type::String ? Status()
                                               : Status(badDocument(place, "the name of a column is wanted here"));
  }));
  return std::pair(std::move(name), std::move(scope));
}

}  // namespace

std::string scopeToJson(const std::string& name, const Scope& scope) {
  JsonWriter out(true);
  out.beginObject().name("format").string(kFormat).name("version").number(1).name("name").string(name);
  out.name("table").string(scope.table).name("where").beginArray();
  for (const ScopeFilter& f : scope.filters) {
    out.compactNext().beginObject();
    if (!f.column.empty()) out.name("column").string(f.column);
    out.name("condition").string(f.condition).endObject();
  }
  out.endArray().name("sort").beginArray();
  for (const ScopeOrder& o : scope.order) {
    out.compactNext().beginObject().name("column").string(o.column);
    if (o.descending) out.name("descending").boolean(true);
    if (o.natural) out.name("natural").boolean(true);
    if (o.byName) out.name("by_name").boolean(true);
    out.endObject();
  }
  out.endArray().name("columns").compactNext().beginArray();
  for (const std::string& column : scope.columns) out.string(column);
  out.endArray().endObject();
  return out.take() + "\n";
}

Result<std::pair<std::string, Scope>> scopeFromJson(std::string_view document) {
  ITERANDUM_ASSIGN(const JsonNode root, parseJson(document));
  return scopeOf(root);
}

Result<std::pair<std::string, Scope>> scopeFromJson(const JsonNode& node, const std::string& place) {
  auto out = scopeOf(node);
  if (!out) out.error().place = place + out.error().place;
  return out;
}

}  // namespace iterandum
