#include "core/changes/change_file.h"

#include <algorithm>
#include <set>

#include "core/changes/change_text.h"

namespace iterandum {
namespace {

constexpr std::string_view kFormat = "iterandum-changes";
constexpr std::string_view kVersion = "1";

Status wantType(const JsonNode* node, JsonNode::Type type, const std::string& place) {
  if (node == nullptr) return badDocument(place, std::string("is missing; ") + jsonTypeName(type) + " is wanted");
  if (node->type == type) return {};
  return badDocument(place, std::string(jsonTypeName(type)) + " is wanted here, not " + jsonTypeName(node->type));
}

class ChangeReader {
 public:
  Result<ChangeDocument> read(std::string_view document) {
    auto root = parseJson(document, "changes",
                          [this](JsonNode&& element, std::size_t index) { return element_(element, index); });
    if (!root) {
      if (root.error().place.empty()) root.error().place = "/";
      return fail(root.error());
    }
    ITERANDUM_TRY(checkHead(*root));
    ITERANDUM_TRY(checkReferences());
    return ChangeDocument{std::move(list_), std::move(signatures_), std::move(comments_)};
  }

 private:
  struct UsedReference {
    std::string label;
    std::string place;
  };

  Status checkHead(const JsonNode& root) {
    if (root.type != JsonNode::Type::Object) return badDocument("", "a change file is an object");
    const JsonNode* format = root.find("format");
    ITERANDUM_TRY(wantType(format, JsonNode::Type::String, "/format"));
    if (format->text != kFormat) {
      return badDocument("/format",
                         "this is '" + format->text + "', not a change file ('" + std::string(kFormat) + "')");
    }
    const JsonNode* version = root.find("version");
    ITERANDUM_TRY(wantType(version, JsonNode::Type::Number, "/version"));
    if (version->text != kVersion) {
      return badDocument("/version", "version " + version->text + " is not known; this program reads version 1");
    }
    ITERANDUM_TRY(onlyKnownNames(root, "", {"format", "version", "title", "signatures", "comments", "changes"}));
    if (const JsonNode* title = root.find("title")) {
      ITERANDUM_TRY(wantType(title, JsonNode::Type::String, "/title"));
      list_.title = title->text;
    }
    if (const JsonNode* signatures = root.find("signatures")) {
      ITERANDUM_ASSIGN(signatures_, readSignatures(*signatures, "/signatures"));
    }
    if (const JsonNode* comments = root.find("comments")) {
      ITERANDUM_ASSIGN(comments_, readComments(*comments, "/comments"));
    }
    return wantType(root.find("changes"), JsonNode::Type::Array, "/changes");
  }

  Status checkReferences() const {
    for (const UsedReference& used : references_) {
      if (!labels_.contains(used.label)) {
        return badDocument(used.place, "no addition in this file carries the label '" + used.label + "'");
      }
    }
    return {};
  }

  Status element_(const JsonNode& node, std::size_t index) {
    const std::string place = pointerTo("/changes", std::to_string(index));
    ITERANDUM_TRY(wantType(&node, JsonNode::Type::Object, place));
    Change change;
    ITERANDUM_TRY(readAction(node, place, change));
    ITERANDUM_TRY(onlyKnownNames(node, place, {"action", "table", "key", "label", "cells"}));
    const JsonNode* table = node.find("table");
    ITERANDUM_TRY(wantType(table, JsonNode::Type::String, place + "/table"));
    auto name = parseTableName(table->text);
    if (!name) return badDocument(place + "/table", name.error().message);
    change.table = *name;
    if (change.action == Action::Add) {
      ITERANDUM_TRY(readLabel(node, place, change));
    } else {
      ITERANDUM_TRY(readKey(node, place, change));
    }
    ITERANDUM_TRY(readCells(node, place, change));
    list_.addAt(change, static_cast<std::uint32_t>(index));
    return {};
  }

  static Status readAction(const JsonNode& node, const std::string& place, Change& change) {
    const JsonNode* action = node.find("action");
    ITERANDUM_TRY(wantType(action, JsonNode::Type::String, place + "/action"));
    for (const Action a : {Action::Edit, Action::Add, Action::Remove}) {
      if (action->text == actionName(a)) {
        change.action = a;
        return {};
      }
    }
    return badDocument(place + "/action", "'" + action->text + "' is no action; edit, add or remove is wanted");
  }

  Status readLabel(const JsonNode& node, const std::string& place, Change& change) {
    if (node.find("key") != nullptr) return badDocument(place + "/key", "an addition has no key; it may have a label");
    const JsonNode* label = node.find("label");
    if (label == nullptr) return {};
    ITERANDUM_TRY(wantType(label, JsonNode::Type::String, place + "/label"));
    if (label->text.empty()) return badDocument(place + "/label", "a label cannot be empty");
    if (!labels_.insert(label->text).second) {
      return badDocument(place + "/label", "the label '" + label->text + "' is used by another addition too");
    }
    change.label = label->text;
    return {};
  }

  static Status readKey(const JsonNode& node, const std::string& place, Change& change) {
    if (node.find("label") != nullptr) return badDocument(place + "/label", "only an addition has a label");
    const JsonNode* key = node.find("key");
    ITERANDUM_TRY(wantType(key, JsonNode::Type::Object, place + "/key"));
    if (key->members.empty()) return badDocument(place + "/key", "a key names at least one column");
    for (const auto& [column, value] : key->members) {
      const std::string at = pointerTo(place + "/key", column);
      ITERANDUM_ASSIGN(Value v, valueFromJson(value, at));
      if (v.kind() == Value::Kind::PendingKey) return badDocument(at, "a key cannot be a reference to an addition");
      change.keyColumns.push_back(column);
      change.key.push_back(std::move(v));
    }
    return {};
  }

  Status readCells(const JsonNode& node, const std::string& place, Change& change) {
    const JsonNode* cells = node.find("cells");
    if (cells == nullptr && change.action != Action::Edit) return {};
    ITERANDUM_TRY(wantType(cells, JsonNode::Type::Object, place + "/cells"));
    if (cells->members.empty() && change.action == Action::Edit) {
      return badDocument(place + "/cells", "an edit changes at least one cell");
    }
    for (const auto& [column, content] : cells->members) {
      CellChange cell;
      cell.column = column;
      ITERANDUM_TRY(readCell(content, pointerTo(place + "/cells", column), change.action, cell));
      change.cells.push_back(std::move(cell));
    }
    return {};
  }

  Status readCell(const JsonNode& node, const std::string& place, Action action, CellChange& cell) {
    ITERANDUM_TRY(wantType(&node, JsonNode::Type::Object, place));
    const JsonNode* from = node.find("from");
    const JsonNode* to = node.find("to");
    ITERANDUM_TRY(onlyKnownNames(node, place, {"from", "to"}));
    if (action == Action::Add && from != nullptr) return badDocument(place + "/from", "an addition has no 'from'");
    if (action == Action::Remove && to != nullptr) return badDocument(place + "/to", "a removal has no 'to'");
    if (action != Action::Remove && to == nullptr) return badDocument(place + "/to", "is missing");
    if (action == Action::Remove && from == nullptr) return badDocument(place + "/from", "is missing");
    if (from != nullptr) {
      cell.hasFrom = true;
      ITERANDUM_ASSIGN(cell.from, valueFromJson(*from, place + "/from"));
      if (cell.from.kind() == Value::Kind::PendingKey)
        return badDocument(place + "/from", "only 'to' can be a reference");
    }
    if (to != nullptr) {
      ITERANDUM_ASSIGN(cell.to, valueFromJson(*to, place + "/to"));
      if (cell.to.kind() == Value::Kind::PendingKey) {
        references_.push_back({std::string(cell.to.asString()), place + "/to/ref"});
      }
    }
    return {};
  }

  ChangeList list_;
  std::vector<Signature> signatures_;
  std::vector<Comment> comments_;
  std::set<std::string> labels_;
  std::vector<UsedReference> references_;
};

}  // namespace

void writeChange(JsonWriter& out, const Change& change) {
  out.compactNext().beginObject();
  out.name("action").string(actionName(change.action)).name("table").string(displayName(change.table));
  if (!change.label.empty()) out.name("label").string(change.label);
  if (change.action != Action::Add) {
    out.name("key").beginObject();
    for (std::size_t k = 0; k < change.key.size(); ++k) out.name(change.keyColumns[k]).value(change.key[k], true);
    out.endObject();
  }
  if (!change.cells.empty() || change.action == Action::Edit) {
    out.name("cells").beginObject();
    for (const CellChange& cell : change.cells) {
      out.name(cell.column).beginObject();
      if (cell.hasFrom) out.name("from").value(cell.from, true);
      if (change.action != Action::Remove) out.name("to").value(cell.to, true);
      out.endObject();
    }
    out.endObject();
  }
  out.endObject();
}

Result<ChangeDocument> readChangeDocument(std::string_view document) { return ChangeReader().read(document); }

Result<ChangeList> readChangeFile(std::string_view document) {
  ITERANDUM_ASSIGN(ChangeDocument read, readChangeDocument(document));
  return std::move(read.changes);
}

std::string writeChangeFile(const ChangeDocument& document) {
  return writeChangeFile(document.changes, document.signatures, document.comments);
}

std::string writeChangeFile(const ChangeList& changes, const std::vector<Signature>& signatures,
                            const std::vector<Comment>& comments) {
  JsonWriter out(true);
  out.beginObject().name("format").string(kFormat).name("version").number(1);
  if (!changes.title.empty()) out.name("title").string(changes.title);
  writeSignatures(out, signatures);
  writeComments(out, comments);
  out.name("changes").beginArray();
  for (const auto& [index, change] : changes.inOrder()) writeChange(out, change);
  out.endArray().endObject();
  return out.take() + "\n";
}

}  // namespace iterandum
