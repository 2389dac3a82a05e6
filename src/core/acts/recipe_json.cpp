// A recipe as a JSON document, for the store and for files.
#include <array>

#include "core/acts/recipe.h"
#include "core/value/json.h"

namespace iterandum {
namespace {

constexpr std::string_view kRecipeFormat = "iterandum-recipe";
constexpr std::array<std::string_view, 6> kKinds{"to", "clear", "compute", "replace", "map", "swap"};
constexpr std::array<std::string_view, 5> kWhere{"inside", "whole", "start", "end", "pattern"};
constexpr std::array<std::string_view, 3> kQuestionKinds{"text", "number", "day"};

Status wantString(const JsonNode& object, const std::string& place, std::string_view name, std::string& into,
                  bool required) {
  const JsonNode* node = object.find(name);
  if (node == nullptr && !required) return {};
  if (node == nullptr) return badDocument(pointerTo(place, name), "is missing");
  if (node->type != JsonNode::Type::String) return badDocument(pointerTo(place, name), "a string is wanted here");
  into = node->text;
  return {};
}

// One of the words; its number.
template <std::size_t count>
Status wantWord(const JsonNode& object, const std::string& place, std::string_view name,
                const std::array<std::string_view, count>& words, std::size_t& into, bool required) {
  std::string word(words[into]);
  ITERANDUM_TRY(wantString(object, place, name, word, required));
  std::string known;
  for (std::size_t i = 0; i < count; ++i) {
    if (words[i] == word) {
      into = i;
      return {};
    }
    known += (known.empty() ? "" : ", ") + std::string(words[i]);
  }
  return badDocument(pointerTo(place, name), "'" + word + "' is none of " + known);
}

Status readField(const JsonNode& node, const std::string& place, TypedOrNone& into) {
  if (node.type == JsonNode::Type::Null) return {};
  if (node.type != JsonNode::Type::String) return badDocument(place, "a string or null is wanted here");
  into = node.text;
  return {};
}

Status readList(const JsonNode& object, const std::string& place, Act& act) {
  const JsonNode* list = object.find("map");
  if (list == nullptr || list->type != JsonNode::Type::Array) {
    return badDocument(pointerTo(place, "map"), "an array of old and new values is wanted here");
  }
  for (std::size_t i = 0; i < list->items.size(); ++i) {
    const JsonNode& pair = list->items[i];
    const std::string at = pointerTo(pointerTo(place, "map"), std::to_string(i));
    if (pair.type != JsonNode::Type::Array || pair.items.size() != 2)
      return badDocument(at, "[old, new] is wanted here");
    auto& [from, to] = act.map.emplace_back();
    ITERANDUM_TRY(readField(pair.items[0], at + "/0", from));
    ITERANDUM_TRY(readField(pair.items[1], at + "/1", to));
  }
  return {};
}

Status readAct(const JsonNode& node, const std::string& place, Act& act) {
  if (node.type != JsonNode::Type::Object) return badDocument(place, "an act is an object");
  std::size_t kind = 0;
  ITERANDUM_TRY(wantWord(node, place, "act", kKinds, kind, true));
  ITERANDUM_TRY(wantString(node, place, "column", act.column, true));
  act.kind = static_cast<Act::Kind>(kind);
  switch (act.kind) {
    case Act::Kind::To:
      ITERANDUM_TRY(onlyKnownNames(node, place, {"act", "column", "value"}));
      return wantString(node, place, "value", act.text, true);
    case Act::Kind::Clear:
      return onlyKnownNames(node, place, {"act", "column"});
    case Act::Kind::Compute:
      ITERANDUM_TRY(onlyKnownNames(node, place, {"act", "column", "expression"}));
      return wantString(node, place, "expression", act.text, true);
    case Act::Kind::Map:
      ITERANDUM_TRY(onlyKnownNames(node, place, {"act", "column", "map"}));
      return readList(node, place, act);
    case Act::Kind::Swap:
      ITERANDUM_TRY(onlyKnownNames(node, place, {"act", "column", "with"}));
      return wantString(node, place, "with", act.with, true);
    case Act::Kind::Replace:
      break;
  }
  ITERANDUM_TRY(onlyKnownNames(node, place, {"act", "column", "find", "with", "where", "exact"}));
  ITERANDUM_TRY(wantString(node, place, "find", act.text, true));
  ITERANDUM_TRY(wantString(node, place, "with", act.with, true));
  std::size_t where = 0;
  ITERANDUM_TRY(wantWord(node, place, "where", kWhere, where, false));
  act.where = static_cast<Act::Where>(where);
  const JsonNode* exact = node.find("exact");
  if (exact != nullptr && exact->type != JsonNode::Type::Boolean) {
    return badDocument(pointerTo(place, "exact"), "true or false is wanted here");
  }
  act.exactCase = exact != nullptr && exact->boolean;
  return {};
}

Status readQuestion(const JsonNode& node, const std::string& place, RecipeQuestion& question) {
  if (node.type != JsonNode::Type::Object) return badDocument(place, "a question is an object");
  ITERANDUM_TRY(onlyKnownNames(node, place, {"name", "says", "kind", "usual"}));
  ITERANDUM_TRY(wantString(node, place, "name", question.name, true));
  ITERANDUM_TRY(wantString(node, place, "says", question.says, false));
  std::size_t kind = 0;
  ITERANDUM_TRY(wantWord(node, place, "kind", kQuestionKinds, kind, false));
  question.kind = static_cast<RecipeQuestion::Kind>(kind);
  if (node.find("usual") == nullptr) return {};
  return wantString(node, place, "usual", question.usual.emplace(), true);
}

// Calls `each` for the elements of an array.
template <typename Item, typename Each>
Status readAll(const JsonNode& root, std::string_view name, bool required, std::vector<Item>& into, const Each& each) {
  const JsonNode* list = root.find(name);
  if (list == nullptr && !required) return {};
  const std::string place = pointerTo("", name);
  if (list == nullptr || list->type != JsonNode::Type::Array) return badDocument(place, "an array is wanted here");
  for (std::size_t i = 0; i < list->items.size(); ++i) {
    ITERANDUM_TRY(each(list->items[i], pointerTo(place, std::to_string(i)), into.emplace_back()));
  }
  return {};
}

void writeField(JsonWriter& out, const TypedOrNone& field) { field ? out.string(*field) : out.null(); }

void writeAct(JsonWriter& out, const Act& act) {
  out.compactNext().beginObject().name("act").string(kKinds[static_cast<std::size_t>(act.kind)]);
  out.name("column").string(act.column);
  if (act.kind == Act::Kind::To) out.name("value").string(act.text);
  if (act.kind == Act::Kind::Compute) out.name("expression").string(act.text);
  if (act.kind == Act::Kind::Replace) {
    out.name("find").string(act.text).name("with").string(act.with);
    if (act.where != Act::Where::Inside) out.name("where").string(kWhere[static_cast<std::size_t>(act.where)]);
    if (act.exactCase) out.name("exact").boolean(true);
  }
  if (act.kind == Act::Kind::Swap) out.name("with").string(act.with);
  if (act.kind == Act::Kind::Map) {
    out.name("map").beginArray();
    for (const auto& [from, to] : act.map) {
      out.beginArray();
      writeField(out, from);
      writeField(out, to);
      out.endArray();
    }
    out.endArray();
  }
  out.endObject();
}

}  // namespace

std::string recipeToJson(const Recipe& recipe) {
  JsonWriter out(true);
  out.beginObject().name("format").string(kRecipeFormat).name("version").number(1).name("name").string(recipe.name);
  out.name("table").string(recipe.table);
  if (recipe.scope) {
    std::string scope = scopeToJson(recipe.name, *recipe.scope);
    scope.pop_back();
    out.name("scope").raw(scope);
  }
  if (!recipe.questions.empty()) {
    out.name("asks").beginArray();
    for (const RecipeQuestion& q : recipe.questions) {
      out.compactNext().beginObject().name("name").string(q.name);
      if (!q.says.empty()) out.name("says").string(q.says);
      if (q.kind != RecipeQuestion::Kind::Text) {
        out.name("kind").string(kQuestionKinds[static_cast<std::size_t>(q.kind)]);
      }
      if (q.usual) out.name("usual").string(*q.usual);
      out.endObject();
    }
    out.endArray();
  }
  out.name("acts").beginArray();
  for (const Act& act : recipe.acts) writeAct(out, act);
  out.endArray().endObject();
  return out.take() + "\n";
}

Result<Recipe> recipeFromJson(std::string_view document) {
  ITERANDUM_ASSIGN(const JsonNode root, parseJson(document));
  if (root.type != JsonNode::Type::Object) return badDocument("", "a recipe is an object");
  std::string format;
  ITERANDUM_TRY(wantString(root, "", "format", format, true));
  if (format != kRecipeFormat) {
    return badDocument("/format", "this is no recipe ('" + std::string(kRecipeFormat) + "')");
  }
  const JsonNode* version = root.find("version");
  if (version == nullptr || version->type != JsonNode::Type::Number || version->text != "1") {
    return badDocument("/version", "this program reads version 1");
  }
  ITERANDUM_TRY(onlyKnownNames(root, "", {"format", "version", "name", "table", "scope", "asks", "acts"}));
  Recipe out;
  ITERANDUM_TRY(wantString(root, "", "name", out.name, true));
  ITERANDUM_TRY(wantString(root, "", "table", out.table, true));
  if (const JsonNode* scope = root.find("scope")) {
    ITERANDUM_ASSIGN(auto read, scopeFromJson(*scope, "/scope"));
    out.scope = std::move(read.second);
  }
  ITERANDUM_TRY(readAll(root, "asks", false, out.questions, readQuestion));
  ITERANDUM_TRY(readAll(root, "acts", true, out.acts, readAct));
  if (out.acts.empty()) return badDocument("/acts", "a recipe has one act or more");
  return out;
}

}  // namespace iterandum
