// MainWindow: recipes: used, exported, imported.
#include <QFile>
#include <QFileDialog>
#include <QSaveFile>

#include "app/sheet/sheet_page.h"
#include "app/window/main_window.h"
#include "app/window/messages.h"

namespace iterandum {

std::vector<CommandPalette::Entry> MainWindow::recipeEntries(const std::function<void(const Recipe&)>& run) const {
  std::vector<CommandPalette::Entry> out;
  for (const Recipe& recipe : desk_->recipes()) {
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
  const QString path = QFileDialog::getSaveFileName(
      this, tr("Export a recipe as a file"), toQ(recipe.name) + QStringLiteral(".recipe.json"), tr("Recipes (*.json)"));
  if (path.isEmpty()) return;
  QSaveFile file(path);
  const std::string text = recipeToJson(recipe);
  if (!file.open(QIODevice::WriteOnly) || file.write(text.data(), static_cast<qint64>(text.size())) < 0 ||
      !file.commit()) {
    return say(tr("The recipe could not be written: %1").arg(file.errorString()));
  }
  say(tr("Written to %1.").arg(path), true);
}

void MainWindow::importRecipe() {
  const QString path =
      QFileDialog::getOpenFileName(this, tr("Import a recipe from a file"), QString(), tr("Recipes (*.json)"));
  if (path.isEmpty()) return;
  constexpr qint64 kMostBytes = 4 << 20;
  QFile file(path);
  if (!file.open(QIODevice::ReadOnly) || file.size() > kMostBytes) {
    return say(tr("%1 cannot be read as a recipe: %2")
                   .arg(path, file.isOpen() ? tr("it is too large for one") : file.errorString()));
  }
  const auto recipe = recipeFromJson(file.readAll().toStdString());
  if (!recipe) return say(tr("%1 cannot be read as a recipe: %2").arg(path, toQ(recipe.error().text())));
  desk_->saveRecipe(*recipe);
  say(tr("Kept as the recipe “%1”.").arg(toQ(recipe->name)), true);
}

}  // namespace iterandum
