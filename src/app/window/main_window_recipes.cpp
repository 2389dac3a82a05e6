// MainWindow: recipes: used, exported, imported.
#include "app/sheet/sheet_page.h"
#include "app/window/document_files.h"
#include "app/window/main_window.h"
#include "app/window/messages.h"

namespace iterandum {

std::vector<CommandPalette::Entry> MainWindow::recipeEntries(const std::function<void(const Recipe&)>& run) const {
  std::vector<CommandPalette::Entry> out;
  for (const Recipe& recipe : desk_->kept().recipes()) {
    QStringList acts;
    for (const Act& act : recipe.acts) acts << toQ(actInWords(act));
    out.push_back({toQ(recipe.name), toQ(recipe.table) + QStringLiteral(": ") + acts.join(QStringLiteral(", ")), true,
                   [run, recipe] { run(recipe); }});
  }
  return out;
}

void MainWindow::useRecipe(const Recipe& recipe) {
  const auto name = parseTableName(recipe.table);
  const Table* table = name ? desk_->catalogue().find(*name) : nullptr;
  if (table == nullptr) {
    return say(
        tr("The recipe “%1” is for %2, which this database does not have.").arg(toQ(recipe.name), toQ(recipe.table)));
  }
  SheetPage* sheet = currentSheet();
  if (sheet == nullptr || &sheet->table() != table) {
    Scope scope;
    scope.table = recipe.table;
    sheet = openScope(recipe.scope.value_or(scope));
  }
  if (sheet != nullptr) sheet->useRecipe(toQ(recipe.name));
}

void MainWindow::exportRecipe(const Recipe& recipe) {
  const auto path = exportDocument(this, {tr("Export a recipe as a file"), tr("Recipes (*.json)")},
                                   toQ(recipe.name) + QStringLiteral(".recipe.json"), recipeToJson(recipe));
  if (!path) return say(tr("The recipe could not be written: %1").arg(toQ(path.error().message)));
  if (*path) say(tr("Written to %1.").arg(**path), true);
}

void MainWindow::importRecipe() {
  constexpr std::int64_t kMostBytes = 4 << 20;
  const auto file = importDocument(this, {tr("Import a recipe from a file"), tr("Recipes (*.json)")}, kMostBytes);
  const auto refuse = [this](const QString& path, const std::string& why) {
    say(tr("%1 cannot be read as a recipe: %2").arg(path, toQ(why)));
  };
  if (!file) return refuse(toQ(file.error().place), file.error().message);
  if (!*file) return;
  const auto recipe = recipeFromJson((*file)->text);
  if (!recipe) return refuse((*file)->path, recipe.error().text());
  desk_->kept().saveRecipe(*recipe);
  say(tr("Kept as the recipe “%1”.").arg(toQ(recipe->name)), true);
}

}  // namespace iterandum
