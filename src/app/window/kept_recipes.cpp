// KeptCommands: recipes: used, exported, imported.
#include "app/sheet/sheet_page.h"
#include "app/window/commands.h"
#include "app/window/document_files.h"
#include "app/window/kept_commands.h"
#include "app/window/main_window.h"

namespace iterandum {

void KeptCommands::addRecipes(Commands& c) {
  const auto open = [this] { return window_.desk() != nullptr; };
  const auto any = [this] { return window_.desk() != nullptr && !window_.desk()->kept().recipes().empty(); };
  c.under(tr("Recipes"));
  c.add(
      "recipe.use", tr("Use a recipe"), keys(tr("Ctrl+Shift+I")),
      [this] { palette_.open(recipeEntries([this](const Recipe& r) { useRecipe(r); }), tr("Use which recipe?")); },
      any);
  c.add(
      "recipe.export", tr("Export a recipe as a file"), {},
      [this] {
        palette_.open(recipeEntries([this](const Recipe& r) { exportRecipe(r); }), tr("Export which recipe?"));
      },
      any);
  c.add(
      "recipe.import", tr("Import a recipe from a file"), {}, [this] { importRecipe(); }, open);
  c.add(
      "recipe.forget", tr("Forget a recipe"), {},
      [this] {
        palette_.open(recipeEntries([this](const Recipe& r) { window_.desk()->kept().forgetRecipe(r.name); }),
                      tr("Forget which recipe?"));
      },
      any);
}

std::vector<CommandPalette::Entry> KeptCommands::recipeEntries(const std::function<void(const Recipe&)>& run) const {
  std::vector<CommandPalette::Entry> out;
  for (const Recipe& recipe : window_.desk()->kept().recipes()) {
    QStringList acts;
    for (const Act& act : recipe.acts) acts << toQ(actInWords(act));
    out.push_back({toQ(recipe.name), toQ(recipe.table) + QStringLiteral(": ") + acts.join(QStringLiteral(", ")), true,
                   [run, recipe] { run(recipe); }});
  }
  return out;
}

void KeptCommands::useRecipe(const Recipe& recipe) {
  const auto name = parseTableName(recipe.table);
  const Table* table = name ? window_.desk()->catalogue().find(*name) : nullptr;
  if (table == nullptr) {
    return window_.say(
        tr("The recipe “%1” is for %2, which this database does not have.").arg(toQ(recipe.name), toQ(recipe.table)));
  }
  SheetPage* sheet = window_.currentSheet();
  if (sheet == nullptr || &sheet->table() != table) {
    Scope scope;
    scope.table = recipe.table;
    sheet = window_.openScope(recipe.scope.value_or(scope));
  }
  if (sheet != nullptr) sheet->useRecipe(toQ(recipe.name));
}

void KeptCommands::exportRecipe(const Recipe& recipe) {
  const auto path = exportDocument(&window_, {tr("Export a recipe as a file"), tr("Recipes (*.json)")},
                                   toQ(recipe.name) + QStringLiteral(".recipe.json"), recipeToJson(recipe));
  if (!path) return window_.say(tr("The recipe could not be written: %1").arg(toQ(path.error().message)));
  if (*path) window_.say(tr("Written to %1.").arg(**path), true);
}

void KeptCommands::importRecipe() {
  constexpr std::int64_t kMostBytes = 4 << 20;
  const auto file = importDocument(&window_, {tr("Import a recipe from a file"), tr("Recipes (*.json)")}, kMostBytes);
  const auto refuse = [this](const QString& path, const std::string& why) {
    window_.say(tr("%1 cannot be read as a recipe: %2").arg(path, toQ(why)));
  };
  if (!file) return refuse(toQ(file.error().place), file.error().message);
  if (!*file) return;
  const auto recipe = recipeFromJson((*file)->text);
  if (!recipe) return refuse((*file)->path, recipe.error().text());
  window_.desk()->kept().saveRecipe(*recipe);
  window_.say(tr("Kept as the recipe “%1”.").arg(toQ(recipe->name)), true);
}

}  // namespace iterandum
