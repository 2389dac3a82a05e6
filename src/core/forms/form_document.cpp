// Forms as a document.
#include <set>

#include "core/forms/form.h"
#include "core/value/json.h"

namespace iterandum {
namespace {

constexpr std::string_view kFormsFormat = "iterandum-forms";

Status readText(const JsonNode& node, const std::string& place, std::string_view name, bool required,
                std::string& into) {
  const JsonNode* member = node.find(name);
  if (member == nullptr) return required ? Status(badDocument(pointerTo(place, name), "is missing")) : Status();
  if (member->type != JsonNode::Type::String) return badDocument(pointerTo(place, name), "a string is wanted here");
  if (required && member->text.empty()) return badDocument(pointerTo(place, name), "it is empty");
  into = member->text;
  return {};
}

Result<const std::vector<JsonNode>*> listOf(const JsonNode& node, const std::string& place, std::string_view name) {
  static const std::vector<JsonNode> kNone;
  const JsonNode* member = node.find(name);
  if (member == nullptr) return &kNone;
  if (member->type != JsonNode::Type::Array) return badDocument(pointerTo(place, name), "a list is wanted here");
  return &member->items;
}

class FormReader {
 public:
  FormReader(const JsonNode& node, std::string place) : node_(node), place_(std::move(place)) {}

  Result<Form> read() {
    if (node_.type != JsonNode::Type::Object) return badDocument(place_, "a form is an object");
    ITERANDUM_TRY(onlyKnownNames(node_, place_, {"table", "groups", "left_out"}));
    ITERANDUM_TRY(readText(node_, place_, "table", true, form_.table));
    ITERANDUM_ASSIGN(const auto* groups, listOf(node_, place_, "groups"));
    for (std::size_t i = 0; i < groups->size(); ++i) {
      ITERANDUM_TRY(group((*groups)[i], pointerTo(pointerTo(place_, "groups"), std::to_string(i))));
    }
    ITERANDUM_ASSIGN(const auto* leftOut, listOf(node_, place_, "left_out"));
    for (std::size_t i = 0; i < leftOut->size(); ++i) {
      const std::string place = pointerTo(pointerTo(place_, "left_out"), std::to_string(i));
      if ((*leftOut)[i].type != JsonNode::Type::String) return badDocument(place, "a column's name is wanted here");
      ITERANDUM_TRY(once((*leftOut)[i].text, place));
      form_.leftOut.push_back((*leftOut)[i].text);
    }
    return std::move(form_);
  }

 private:
  Status group(const JsonNode& node, const std::string& place) {
    if (node.type != JsonNode::Type::Object) return badDocument(place, "a group is an object");
    ITERANDUM_TRY(onlyKnownNames(node, place, {"heading", "fields"}));
    FormGroup out;
    ITERANDUM_TRY(readText(node, place, "heading", false, out.heading));
    ITERANDUM_ASSIGN(const auto* fields, listOf(node, place, "fields"));
    for (std::size_t i = 0; i < fields->size(); ++i) {
      const JsonNode& field = (*fields)[i];
      const std::string where = pointerTo(pointerTo(place, "fields"), std::to_string(i));
      if (field.type != JsonNode::Type::Object) return badDocument(where, "a field is an object");
      ITERANDUM_TRY(onlyKnownNames(field, where, {"column", "label", "hint"}));
      FormField one;
      ITERANDUM_TRY(readText(field, where, "column", true, one.column));
      ITERANDUM_TRY(readText(field, where, "label", false, one.label));
      ITERANDUM_TRY(readText(field, where, "hint", false, one.hint));
      ITERANDUM_TRY(once(one.column, where));
      out.fields.push_back(std::move(one));
    }
    form_.groups.push_back(std::move(out));
    return {};
  }
  Status once(const std::string& column, const std::string& place) {
    if (seen_.insert(column).second) return {};
    return badDocument(place, "the column " + column + " is there twice");
  }

  const JsonNode& node_;
  std::string place_;
  Form form_;
  std::set<std::string> seen_;
};

void write(JsonWriter& out, const Form& form) {
  out.beginObject().name("table").string(form.table).name("groups").beginArray();
  for (const FormGroup& group : form.groups) {
    out.beginObject();
    if (!group.heading.empty()) out.name("heading").string(group.heading);
    out.name("fields").beginArray();
    for (const FormField& field : group.fields) {
      out.beginObject().name("column").string(field.column);
      if (!field.label.empty()) out.name("label").string(field.label);
      if (!field.hint.empty()) out.name("hint").string(field.hint);
      out.endObject();
    }
    out.endArray().endObject();
  }
  out.endArray();
  if (!form.leftOut.empty()) {
    out.name("left_out").beginArray();
    for (const std::string& column : form.leftOut) out.string(column);
    out.endArray();
  }
  out.endObject();
}

}  // namespace

std::string formsToJson(const std::vector<Form>& forms) {
  JsonWriter out(true);
  out.beginObject().name("format").string(kFormsFormat).name("version").number(1).name("forms").beginArray();
  for (const Form& form : forms) write(out, form);
  out.endArray().endObject();
  return out.take() + "\n";
}

Result<std::vector<Form>> formsFromJson(std::string_view document) {
  ITERANDUM_ASSIGN(const auto items, documentItems(document, kFormsFormat, "forms"));
  std::vector<Form> out;
  std::set<std::string> seen;
  for (std::size_t i = 0; i < items.size(); ++i) {
    const std::string place = pointerTo("/forms", std::to_string(i));
    ITERANDUM_ASSIGN(Form form, FormReader(items[i], place).read());
    if (!seen.insert(form.table).second) return badDocument(place, "there is a form for " + form.table + " already");
    out.push_back(std::move(form));
  }
  return out;
}

}  // namespace iterandum
