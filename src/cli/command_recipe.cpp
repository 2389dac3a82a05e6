// recipe: acts that were kept under a name.
#include <algorithm>
#include <map>

#include "cli/changes_output.h"
#include "cli/files.h"
#include "cli/scope_call.h"
#include "core/store/store.h"

namespace iterandum::cli {
namespace {

Result<Recipe> keptRecipe(const std::string& name, const std::string& address) {
  ITERANDUM_ASSIGN(const std::string path, Store::defaultPath());
  ITERANDUM_ASSIGN(const std::unique_ptr<Store> store, Store::open(path));
  ITERANDUM_ASSIGN(std::vector<Recipe> recipes, store->recipes(address));
  std::string known;
  for (Recipe& recipe : recipes) {
    if (recipe.name == name) return std::move(recipe);
    known += (known.empty() ? "" : ", ") + recipe.name;
  }
  return fail(ErrorKind::NotFound, "no recipe '" + name + "' is kept for this database; " +
                                       (known.empty() ? "there is none" : "there are " + known));
}

Result<Recipe> recipeFile(const std::string& path) {
  ITERANDUM_ASSIGN(const std::string document, readWhole(path));
  auto recipe = recipeFromJson(document);
  if (!recipe) {
    recipe.error().place = path + ", " + recipe.error().place;
    return fail(std::move(recipe.error()));
  }
  return recipe;
}

// The records that the call means; where it does not say, those that the recipe is for.
Result<Scope> scopeFor(const Arguments& a, const Recipe& recipe, const std::string& address) {
  ITERANDUM_ASSIGN(Scope scope, calledScope(a, address));
  const bool said = !a.scope.empty() || !a.scopeFile.empty();
  if (said && scope.table != recipe.table) {
    return fail(ErrorKind::InvalidInput,
                "the recipe '" + recipe.name + "' is for " + recipe.table + ", the scope for " + scope.table);
  }
  if (!said && recipe.scope) {
    std::vector<ScopeFilter> filters = recipe.scope->filters;
    filters.insert(filters.end(), scope.filters.begin(), scope.filters.end());
    scope.filters = std::move(filters);
    if (scope.order.empty()) scope.order = recipe.scope->order;
  }
  scope.table = recipe.table;
  return scope;
}

// What the recipe speaks of is not there: the recipe is off, not the call.
Error offRecipe(const Recipe& recipe, Error error) {
  error.place = "recipe '" + recipe.name + "'" + (error.place.empty() ? "" : ", " + error.place);
  if (error.kind == ErrorKind::InvalidInput || error.kind == ErrorKind::NotFound) error.kind = ErrorKind::InvalidFile;
  return error;
}

Result<Exit> useRecipe(const Arguments& a) {
  ITERANDUM_TRY(refuseTargets({a.output}, {a.file, a.scopeFile}, a.database));
  Recipe recipe;
  if (!a.file.empty()) {
    ITERANDUM_ASSIGN(recipe, recipeFile(a.file));
  }
  ITERANDUM_ASSIGN(const auto session, openDatabase(a, true));
  Progress progress;
  ITERANDUM_ASSIGN(const Catalogue catalogue, catalogueWithStated(*session, progress));
  const std::string& address = session->info().address;
  if (a.file.empty()) {
    ITERANDUM_ASSIGN(recipe, keptRecipe(a.recipe, address));
  }
  std::map<std::string, std::string> answers;
  for (const auto& [name, answer] : a.asked) {
    if (answers.emplace(name, answer).second) continue;
    return fail(ErrorKind::InvalidInput, "--ask '" + name + "' is said twice");
  }
  ITERANDUM_ASSIGN(AnsweredRecipe ready, answered(recipe, answers));
  const auto name = parseTableName(recipe.table);
  if (!name || catalogue.find(*name) == nullptr) {
    return fail(offRecipe(recipe, {ErrorKind::InvalidFile, "there is no table " + recipe.table}));
  }
  ITERANDUM_ASSIGN(const Scope scope, scopeFor(a, recipe, address));
  ITERANDUM_ASSIGN(const ReadScope read, readTable(scope, catalogue));
  ITERANDUM_TRY(takeNames(ready.acts, *read.table, catalogue, *session));
  const auto acts =
      RecordActs::make(*read.table, ready.acts, ready.context(expressionContextNow(contextNow(catalogue))));
  if (!acts) return fail(offRecipe(recipe, acts.error()));
  return stageActs(a, *session, read, *acts, recipe.name);
}

}  // namespace

Exit runRecipe(const Arguments& arguments) {
  const auto result = useRecipe(arguments);
  return result ? *result : report(result.error());
}

}  // namespace iterandum::cli
