// KeptCommands: what is kept for a database as commands of the window: recipes, house rules, lenses and forms, used or
// stated from the sheet in front, chosen from a list, exported and imported as files.
#pragma once

#include <QCoreApplication>
#include <functional>
#include <string>
#include <vector>

#include "app/window/command_palette.h"
#include "core/acts/recipe.h"
#include "core/forms/form.h"
#include "core/rules/house_rule.h"

namespace iterandum {

class Commands;
class MainWindow;

class KeptCommands {
  Q_DECLARE_TR_FUNCTIONS(KeptCommands)
 public:
  // Both outlive it.
  KeptCommands(MainWindow& window, CommandPalette& palette) : window_(window), palette_(palette) {}

  // Each adds its commands to those of the window.
  void addForms(Commands& c);
  void addLenses(Commands& c);
  void addRecipes(Commands& c);
  void addRules(Commands& c);

 private:
  [[nodiscard]] std::vector<CommandPalette::Entry> recipeEntries(const std::function<void(const Recipe&)>& run) const;
  // On the sheet in front where it is of the recipe's table, else on one that is opened.
  void useRecipe(const Recipe& recipe);
  void exportRecipe(const Recipe& recipe);
  void importRecipe();
  [[nodiscard]] std::vector<CommandPalette::Entry> ruleEntries(const std::function<void(const HouseRule&)>& run) const;
  // No record of the table may be like those that the sheet in front shows.
  void stateRule(bool stops);
  void showBreaking(const HouseRule& rule);
  void exportRules();
  void importRules();
  void exportLenses();
  void importLenses();
  // Shows what lenses mask, or masks it again.
  void toggleMasked();
  // How the card's fields lie.
  void arrangeField(const std::function<void(Form&, const std::string& column)>& how);
  void askFieldLabel();
  void askFieldHint();
  void askFieldHeading();
  void exportForms();
  void importForms();

  MainWindow& window_;
  CommandPalette& palette_;
};

}  // namespace iterandum
