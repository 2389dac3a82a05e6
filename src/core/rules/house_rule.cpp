#include "core/rules/house_rule.h"

#include <algorithm>
#include <set>

#include "core/value/json.h"

namespace iterandum {
namespace {

constexpr std::string_view kRulesFormat = "iterandum-rules";

Status readText(const JsonNode& object, const std::string& place, std::string_view name, bool required,
                std::string& into) {
  const JsonNode* node = object.find(name);
  if (node == nullptr) return required ? Status(badDocument(pointerTo(place, name), "is missing")) : Status();
  if (node->type != JsonNode::Type::String) return badDocument(pointerTo(place, name), "a string is wanted here");
  if (required && node->text.empty()) return badDocument(pointerTo(place, name), "it is empty");
  into = node->text;
  return {};
}

Result<HouseRule> readOne(const JsonNode& node, const std::string& place) {
  if (node.type != JsonNode::Type::Object) return badDocument(place, "a rule is an object");
  ITERANDUM_TRY(onlyKnownNames(node, place, {"name", "table", "stops", "holds", "message"}));
  HouseRule rule;
  ITERANDUM_TRY(readText(node, place, "name", true, rule.name));
  ITERANDUM_TRY(readText(node, place, "table", true, rule.table));
  ITERANDUM_TRY(readText(node, place, "holds", true, rule.holds));
  ITERANDUM_TRY(readText(node, place, "message", false, rule.message));
  if (const JsonNode* stops = node.find("stops")) {
    if (stops->type != JsonNode::Type::Boolean)
      return badDocument(pointerTo(place, "stops"), "true or false is wanted here");
    rule.stops = stops->boolean;
  }
  return rule;
}

}  // namespace

std::string rulesToJson(const std::vector<HouseRule>& rules) {
  JsonWriter out(true);
  out.beginObject().name("format").string(kRulesFormat).name("version").number(1);
  out.name("rules").beginArray();
  for (const HouseRule& rule : rules) {
    out.compactNext().beginObject().name("name").string(rule.name).name("table").string(rule.table);
    out.name("stops").boolean(rule.stops).name("holds").string(rule.holds);
    if (!rule.message.empty()) out.name("message").string(rule.message);
    out.endObject();
  }
  out.endArray().endObject();
  return out.take() + "\n";
}

Result<std::vector<HouseRule>> rulesFromJson(std::string_view document) {
  ITERANDUM_ASSIGN(const auto items, documentItems(document, kRulesFormat, "rules"));
  std::vector<HouseRule> out;
  std::set<std::string> names;
  for (std::size_t i = 0; i < items.size(); ++i) {
    const std::string place = pointerTo("/rules", std::to_string(i));
    ITERANDUM_ASSIGN(HouseRule rule, readOne(items[i], place));
    if (!names.insert(rule.name).second) return badDocument(place + "/name", "'" + rule.name + "' is there twice");
    out.push_back(std::move(rule));
  }
  return out;
}

Result<ReadRule> readRule(const HouseRule& rule, const ConditionContext& context) {
  const auto wrong = [&](Error error, const std::string& what) {
    error.place = "house rule '" + rule.name + "'" + what + (error.place.empty() ? "" : ", " + error.place);
    return fail(std::move(error));
  };
  auto name = parseTableName(rule.table);
  if (!name) return wrong(std::move(name.error()), ", table");
  const Table* table = context.catalogue->find(*name);
  if (table == nullptr) {
    const std::string close = context.catalogue->closestName(name->name);
    return wrong(Error(ErrorKind::NotFound, "this database has no table " + displayName(*name) +
                                                (close.empty() ? "" : "; the closest name is " + close)),
                 "");
  }
  if (!table->unusable.empty()) {
    return wrong(Error(ErrorKind::NotFound, displayName(table->name) + " cannot be read: " + table->unusable), "");
  }
  ConditionContext known = context;
  known.knowsBefore = true;
  auto condition = parseCondition(*table, rule.holds, known);
  if (!condition) return wrong(std::move(condition.error()), ", holds");
  ReadRule out;
  out.name = rule.name;
  out.stops = rule.stops;
  out.message = rule.message.empty() ? "it must hold that " + conditionInWords(*table, *condition) : rule.message;
  out.table = table;
  out.holds = std::move(*condition);
  return out;
}

Result<std::vector<ReadRule>> readRules(const std::vector<HouseRule>& rules, const ConditionContext& context) {
  std::vector<ReadRule> out;
  for (const HouseRule& rule : rules) {
    auto read = readRule(rule, context);
    if (!read) {
      read.error().kind = ErrorKind::InvalidFile;
      return fail(std::move(read.error()));
    }
    out.push_back(std::move(*read));
  }
  return out;
}

std::vector<ReadRule> readableRules(const std::vector<HouseRule>& rules, const ConditionContext& context,
                                    std::vector<std::string>& unread) {
  std::vector<ReadRule> out;
  for (const HouseRule& rule : rules) {
    auto read = readRule(rule, context);
    if (read) {
      out.push_back(std::move(*read));
    } else {
      unread.push_back(read.error().text());
    }
  }
  return out;
}

bool asksBefore(const Condition& condition) {
  return condition.before || condition.otherBefore ||
         std::any_of(condition.parts.begin(), condition.parts.end(), asksBefore);
}

Condition breaks(const ReadRule& rule) {
  if (rule.holds.op == Condition::Op::Not) return rule.holds.parts.front();
  Condition out;
  out.op = Condition::Op::Not;
  out.parts.push_back(rule.holds);
  return out;
}

}  // namespace iterandum
