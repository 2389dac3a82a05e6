// What the store keeps for a database besides staged work and receipts: saved scopes, stated references, how things are
// called and laid out.
#include "core/store/store.h"
#include "core/value/json.h"

namespace iterandum {
namespace {

constexpr std::string_view kScope = "scope";
constexpr std::string_view kRecipe = "recipe";
constexpr std::string_view kRules = "rules";
constexpr std::string_view kLenses = "lenses";
constexpr std::string_view kForms = "forms";
constexpr std::string_view kReference = "reference";
constexpr std::string_view kReadable = "readable";
constexpr std::string_view kLayout = "layout";
constexpr std::string_view kToldCode = "told";
constexpr std::string_view kOpenSheets = "sheets";
constexpr std::string_view kChoice = "choice";
constexpr std::string_view kSeen = "seen";

std::string textList(const std::vector<std::string>& items) {
  JsonWriter out;
  out.beginArray();
  for (const std::string& item : items) out.string(item);
  return out.endArray().take();
}

// Nothing when it is no list of texts.
std::vector<std::string> readTextList(const std::string& text) {
  std::vector<std::string> out;
  const auto node = parseJson(text);
  if (!node || node->type != JsonNode::Type::Array) return out;
  for (const JsonNode& item : node->items) out.push_back(item.text);
  return out;
}

std::string referenceName(const StatedReference& r) {
  return textList({r.table.schema, r.table.name, r.column, r.target.schema, r.target.name, r.targetColumn});
}

}  // namespace

Status Store::keepText(const std::string& address, std::string_view kind, const std::string& name,
                       const std::string& text) {
  ITERANDUM_ASSIGN(SqliteStatement s, handle_->prepare("INSERT OR REPLACE INTO kept VALUES (?1, ?2, ?3, ?4)"));
  s.bind(1, std::string_view(address));
  s.bind(2, kind);
  s.bind(3, std::string_view(name));
  s.bind(4, std::string_view(text));
  return execute(s, "cannot keep this for the database");
}

Status Store::forgetText(const std::string& address, std::string_view kind, const std::string& name) {
  ITERANDUM_ASSIGN(SqliteStatement s,
                   handle_->prepare("DELETE FROM kept WHERE address = ?1 AND kind = ?2 AND name = ?3"));
  s.bind(1, std::string_view(address));
  s.bind(2, kind);
  s.bind(3, std::string_view(name));
  return execute(s, "cannot forget this");
}

Result<std::vector<std::pair<std::string, std::string>>> Store::texts(const std::string& address,
                                                                      std::string_view kind) {
  ITERANDUM_ASSIGN(SqliteStatement s,
                   handle_->prepare("SELECT name, text FROM kept WHERE address = ?1 AND kind = ?2 ORDER BY name"));
  s.bind(1, std::string_view(address));
  s.bind(2, kind);
  std::vector<std::pair<std::string, std::string>> out;
  ITERANDUM_TRY(eachRow(s, "cannot read what is kept for the database",
                        [&](const SqliteStatement& row) { out.emplace_back(row.text(0), row.text(1)); }));
  return out;
}

Result<std::vector<SavedScope>> Store::scopes(const std::string& address) {
  ITERANDUM_ASSIGN(const auto kept, texts(address, kScope));
  std::vector<SavedScope> out;
  for (const auto& [name, text] : kept) {
    auto scope = scopeFromJson(text);
    if (scope) out.push_back({name, std::move(scope->second)});
  }
  return out;
}

Status Store::saveScope(const std::string& address, const SavedScope& scope) {
  return keepText(address, kScope, scope.name, scopeToJson(scope.name, scope.scope));
}

Status Store::forgetScope(const std::string& address, const std::string& name) {
  return forgetText(address, kScope, name);
}

Result<std::vector<Recipe>> Store::recipes(const std::string& address) {
  ITERANDUM_ASSIGN(const auto kept, texts(address, kRecipe));
  std::vector<Recipe> out;
  for (const auto& [name, text] : kept) {
    auto recipe = recipeFromJson(text);
    if (recipe) out.push_back(std::move(*recipe));
  }
  return out;
}

Status Store::saveRecipe(const std::string& address, const Recipe& recipe) {
  return keepText(address, kRecipe, recipe.name, recipeToJson(recipe));
}

Status Store::forgetRecipe(const std::string& address, const std::string& name) {
  return forgetText(address, kRecipe, name);
}

Result<std::vector<HouseRule>> Store::houseRules(const std::string& address) {
  ITERANDUM_ASSIGN(const auto kept, texts(address, kRules));
  if (kept.empty()) return std::vector<HouseRule>();
  return rulesFromJson(kept.front().second).value_or(std::vector<HouseRule>());
}

Status Store::keepHouseRules(const std::string& address, const std::vector<HouseRule>& rules) {
  return rules.empty() ? forgetText(address, kRules, {}) : keepText(address, kRules, {}, rulesToJson(rules));
}

Result<std::vector<Lens>> Store::lenses(const std::string& address) {
  ITERANDUM_ASSIGN(const auto kept, texts(address, kLenses));
  if (kept.empty()) return std::vector<Lens>();
  return lensesFromJson(kept.front().second).value_or(std::vector<Lens>());
}

Status Store::keepLenses(const std::string& address, const std::vector<Lens>& lenses) {
  return lenses.empty() ? forgetText(address, kLenses, {}) : keepText(address, kLenses, {}, lensesToJson(lenses));
}

Result<std::vector<Form>> Store::forms(const std::string& address) {
  ITERANDUM_ASSIGN(const auto kept, texts(address, kForms));
  if (kept.empty()) return std::vector<Form>();
  return formsFromJson(kept.front().second).value_or(std::vector<Form>());
}

Status Store::keepForms(const std::string& address, const std::vector<Form>& forms) {
  return forms.empty() ? forgetText(address, kForms, {}) : keepText(address, kForms, {}, formsToJson(forms));
}

Result<std::vector<StatedReference>> Store::statedReferences(const std::string& address) {
  ITERANDUM_ASSIGN(const auto kept, texts(address, kReference));
  std::vector<StatedReference> out;
  for (const auto& [name, text] : kept) {
    const std::vector<std::string> parts = readTextList(name);
    if (parts.size() == 6) out.push_back({{parts[0], parts[1]}, parts[2], {parts[3], parts[4]}, parts[5]});
  }
  return out;
}

Status Store::stateReference(const std::string& address, const StatedReference& reference) {
  return keepText(address, kReference, referenceName(reference), {});
}

Status Store::forgetReference(const std::string& address, const StatedReference& reference) {
  return forgetText(address, kReference, referenceName(reference));
}

Result<std::map<std::string, std::vector<std::string>>> Store::readableChoices(const std::string& address) {
  ITERANDUM_ASSIGN(const auto kept, texts(address, kReadable));
  std::map<std::string, std::vector<std::string>> out;
  for (const auto& [name, text] : kept) out[name] = readTextList(text);
  return out;
}

Status Store::chooseReadable(const std::string& address, const std::string& table,
                             const std::vector<std::string>& columns) {
  return columns.empty() ? forgetText(address, kReadable, table)
                         : keepText(address, kReadable, table, textList(columns));
}

Result<std::set<std::string>> Store::toldCode(const std::string& address) {
  ITERANDUM_ASSIGN(const auto kept, texts(address, kToldCode));
  std::set<std::string> out;
  for (const auto& [name, text] : kept) out.insert(name);
  return out;
}

Status Store::rememberToldCode(const std::string& address, const std::vector<std::string>& code) {
  for (const std::string& name : code) ITERANDUM_TRY(keepText(address, kToldCode, name, {}));
  return {};
}

Status Store::keepLayout(const std::string& address, const std::string& table, const std::string& layout) {
  return keepText(address, kLayout, table, layout);
}

Status Store::rememberSeen(const std::string& name) { return keepText({}, kSeen, name, {}); }

Result<bool> Store::wasSeen(const std::string& name) {
  ITERANDUM_ASSIGN(const auto kept, texts({}, kSeen));
  return std::any_of(kept.begin(), kept.end(), [&](const auto& one) { return one.first == name; });
}

Status Store::keepOpenSheets(const std::string& address, const std::string& sheets) {
  return keepText(address, kOpenSheets, {}, sheets);
}

Result<std::string> Store::openSheets(const std::string& address) {
  ITERANDUM_ASSIGN(const auto kept, texts(address, kOpenSheets));
  return kept.empty() ? std::string() : kept.front().second;
}

Result<std::map<std::string, std::string>> Store::layouts(const std::string& address) {
  ITERANDUM_ASSIGN(const auto kept, texts(address, kLayout));
  return std::map<std::string, std::string>(kept.begin(), kept.end());
}

Status Store::keepChoice(const std::string& address, const std::string& name, const std::string& chosen) {
  return keepText(address, kChoice, name, chosen);
}

Result<std::string> Store::amendChoice(const std::string& address, const std::string& name,
                                       const std::function<std::string(const std::string& kept)>& amend) {
  return inTransaction([&]() -> Result<std::string> {
    ITERANDUM_ASSIGN(const auto all, choices(address));
    const auto kept = all.find(name);
    std::string amended = amend(kept == all.end() ? std::string() : kept->second);
    ITERANDUM_TRY(keepChoice(address, name, amended));
    return amended;
  });
}

Result<std::map<std::string, std::string>> Store::choices(const std::string& address) {
  ITERANDUM_ASSIGN(auto kept, texts(address, kChoice));
  return std::map<std::string, std::string>(std::make_move_iterator(kept.begin()), std::make_move_iterator(kept.end()));
}

}  // namespace iterandum
