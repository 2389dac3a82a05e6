#include "core/changes/comment.h"

#include <algorithm>
#include <tuple>

#include "core/catalogue/record_words.h"
#include "core/value/json.h"

namespace iterandum {
namespace {

bool sameTo(const std::optional<Value>& a, const std::optional<Value>& b) {
  return a.has_value() == b.has_value() && (!a || sameValue(*a, *b));
}

bool sameKey(const CommentPlace& a, const CommentPlace& b) {
  return a.keyColumns == b.keyColumns && a.key.size() == b.key.size() &&
         std::equal(a.key.begin(), a.key.end(), b.key.begin(),
                    [](const Value& x, const Value& y) { return sameValue(x, y); });
}

void writePlace(JsonWriter& out, const CommentPlace& place) {
  if (place.kind == CommentPlace::Kind::All) return;
  out.name("about").beginObject().name("table").string(displayName(place.table));
  if (place.kind == CommentPlace::Kind::Group) {
    out.name("action").string(actionName(place.action));
    if (!place.column.empty()) out.name("column").string(place.column);
    if (place.to) out.name("to").value(*place.to, true);
  } else if (place.kind == CommentPlace::Kind::Record) {
    out.name("key").beginObject();
    for (std::size_t k = 0; k < place.key.size(); ++k) out.name(place.keyColumns[k]).value(place.key[k], true);
    out.endObject();
  } else {
    out.name("label").string(place.label);
  }
  out.endObject();
}

Status readText(const JsonNode& node, const std::string& name, const std::string& place, std::string& text) {
  const JsonNode* member = node.find(name);
  const std::string at = pointerTo(place, name);
  if (member == nullptr) return badDocument(at, "is missing");
  if (member->type != JsonNode::Type::String || member->text.empty()) {
    return badDocument(at, "a string is wanted here that is not empty");
  }
  text = member->text;
  return {};
}

Status readGroup(const JsonNode& node, const std::string& at, CommentPlace& place) {
  place.kind = CommentPlace::Kind::Group;
  ITERANDUM_TRY(onlyKnownNames(node, at, {"table", "action", "column", "to"}));
  std::string action;
  ITERANDUM_TRY(readText(node, "action", at, action));
  constexpr Action kActions[] = {Action::Edit, Action::Add, Action::Remove};
  const auto* const known =
      std::find_if(std::begin(kActions), std::end(kActions), [&](Action a) { return action == actionName(a); });
  if (known == std::end(kActions)) {
    return badDocument(at + "/action", "'" + action + "' is no action; edit, add or remove is wanted");
  }
  place.action = *known;
  if (node.find("column") != nullptr) ITERANDUM_TRY(readText(node, "column", at, place.column));
  if (const JsonNode* to = node.find("to")) {
    if (place.column.empty()) return badDocument(at + "/to", "of which column it is the value, is not said");
    ITERANDUM_ASSIGN(place.to, valueFromJson(*to, at + "/to"));
  }
  return {};
}

Status readKey(const JsonNode& node, const std::string& at, CommentPlace& place) {
  place.kind = CommentPlace::Kind::Record;
  ITERANDUM_TRY(onlyKnownNames(node, at, {"table", "key"}));
  const JsonNode* key = node.find("key");
  if (key->type != JsonNode::Type::Object || key->members.empty()) {
    return badDocument(at + "/key", "an object that names at least one column is wanted here");
  }
  for (const auto& [column, value] : key->members) {
    ITERANDUM_ASSIGN(Value part, valueFromJson(value, pointerTo(at + "/key", column)));
    place.keyColumns.push_back(column);
    place.key.push_back(std::move(part));
  }
  return {};
}

Status readPlace(const JsonNode& node, const std::string& at, CommentPlace& place) {
  std::string table;
  if (node.type != JsonNode::Type::Object) return badDocument(at, "an object is wanted here");
  ITERANDUM_TRY(readText(node, "table", at, table));
  auto name = parseTableName(table);
  if (!name) return badDocument(at + "/table", name.error().message);
  place.table = std::move(*name);
  if (node.find("key") != nullptr) return readKey(node, at, place);
  if (node.find("label") == nullptr) return readGroup(node, at, place);
  place.kind = CommentPlace::Kind::NewRecord;
  ITERANDUM_TRY(onlyKnownNames(node, at, {"table", "label"}));
  return readText(node, "label", at, place.label);
}

}  // namespace

bool operator==(const CommentPlace& a, const CommentPlace& b) {
  return std::tie(a.kind, a.table, a.action, a.column, a.label) ==
             std::tie(b.kind, b.table, b.action, b.column, b.label) &&
         sameTo(a.to, b.to) && sameKey(a, b);
}

bool operator==(const Comment& a, const Comment& b) {
  return std::tie(a.by, a.at, a.words, a.about) == std::tie(b.by, b.at, b.words, b.about);
}

void putIn(const std::vector<Comment>& more, std::vector<Comment>& comments) {
  for (const Comment& one : more) {
    if (std::find(comments.begin(), comments.end(), one) == comments.end()) comments.push_back(one);
  }
  std::stable_sort(comments.begin(), comments.end(), [](const Comment& a, const Comment& b) { return a.at < b.at; });
}

std::string inWords(const CommentPlace& place) {
  const std::string table = displayName(place.table);
  switch (place.kind) {
    case CommentPlace::Kind::All:
      return {};
    case CommentPlace::Kind::Record:
      return table + " " + tupleInWords(place.key);
    case CommentPlace::Kind::NewRecord:
      return "the new record " + place.label + " in " + table;
    case CommentPlace::Kind::Group:
      break;
  }
  if (place.action == Action::Add) return "the new records in " + table;
  if (place.action == Action::Remove) return "the records of " + table + " that are removed";
  if (place.column.empty()) return "what changes in " + table;
  if (!place.to) return place.column + " in " + table;
  return place.column + " to " + (place.to->isNull() ? "no value" : canonicalText(*place.to)) + " in " + table;
}

void writeComments(JsonWriter& out, const std::vector<Comment>& comments) {
  if (comments.empty()) return;
  out.name("comments").beginArray();
  for (const Comment& comment : comments) {
    out.compactNext().beginObject().name("by").string(comment.by).name("at").string(comment.at);
    out.name("words").string(comment.words);
    writePlace(out, comment.about);
    out.endObject();
  }
  out.endArray();
}

Result<std::vector<Comment>> readComments(const JsonNode& node, const std::string& place) {
  if (node.type != JsonNode::Type::Array) return badDocument(place, "an array is wanted here");
  if (node.items.size() > kMostComments) return badDocument(place, "there are more than 10 000 comments");
  std::vector<Comment> out;
  for (std::size_t i = 0; i < node.items.size(); ++i) {
    const JsonNode& item = node.items[i];
    const std::string at = pointerTo(place, std::to_string(i));
    ITERANDUM_TRY(onlyKnownNames(item, at, {"by", "at", "words", "about"}));
    Comment comment;
    ITERANDUM_TRY(readText(item, "by", at, comment.by));
    ITERANDUM_TRY(readText(item, "at", at, comment.at));
    ITERANDUM_TRY(readText(item, "words", at, comment.words));
    if (comment.words.size() > kLongestComment) return badDocument(at + "/words", "this is longer than a comment is");
    if (const JsonNode* about = item.find("about")) ITERANDUM_TRY(readPlace(*about, at + "/about", comment.about));
    out.push_back(std::move(comment));
  }
  return out;
}

std::string packComments(const std::vector<Comment>& comments) {
  JsonWriter out;
  out.beginObject();
  writeComments(out, comments);
  out.endObject();
  return out.take();
}

Result<std::vector<Comment>> unpackComments(std::string_view text) {
  if (text.empty()) return std::vector<Comment>();
  ITERANDUM_ASSIGN(const JsonNode root, parseJson(text));
  ITERANDUM_TRY(onlyKnownNames(root, "", {"comments"}));
  const JsonNode* list = root.find("comments");
  return list == nullptr ? std::vector<Comment>() : readComments(*list, "/comments");
}

}  // namespace iterandum
