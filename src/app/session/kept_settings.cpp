#include "app/session/kept_settings.h"

#include <algorithm>

#include "app/values/shown_value.h"

namespace iterandum {
namespace {
constexpr const char* kCopyFirst = "copy before applying";
}

Result<KeptSettings::Restored> KeptSettings::read(Store& store, const std::string& address) {
  Restored out;
  ITERANDUM_ASSIGN(out.mark, store.mark(address));
  ITERANDUM_ASSIGN(out.scopes, store.scopes(address));
  ITERANDUM_ASSIGN(out.recipes, store.recipes(address));
  ITERANDUM_ASSIGN(out.houseRules, store.houseRules(address));
  ITERANDUM_ASSIGN(out.lenses, store.lenses(address));
  ITERANDUM_ASSIGN(out.forms, store.forms(address));
  ITERANDUM_ASSIGN(out.references, store.statedReferences(address));
  ITERANDUM_ASSIGN(out.readable, store.readableChoices(address));
  ITERANDUM_ASSIGN(out.layouts, store.layouts(address));
  ITERANDUM_ASSIGN(out.toldCode, store.toldCode(address));
  ITERANDUM_ASSIGN(out.openSheets, store.openSheets(address));
  ITERANDUM_ASSIGN(out.choices, store.choices(address));
  return out;
}

void KeptSettings::take(Restored&& restored) { all_ = std::move(restored); }

void KeptSettings::useCatalogue(std::shared_ptr<const Catalogue> catalogue) {
  catalogue_ = std::move(catalogue);
  if (!all_.lenses.empty()) lenses_.take(std::exchange(all_.lenses, {}), *catalogue_);
}

void KeptSettings::keep(std::function<Status(Store&)> work) {
  storeThread_->post(this, std::move(work), [this](Status&& status) {
    if (!status) emit storeFailed(tr("It is not kept for next time: %1").arg(toQ(status.error().text())));
  });
}

void KeptSettings::setMark(const DatabaseMark& mark) {
  all_.mark = mark;
  keep([address = address_, mark](Store& s) { return s.setMark(address, mark); });
  emit markChanged();
}

void KeptSettings::saveScope(const SavedScope& scope) {
  std::erase_if(all_.scopes, [&](const SavedScope& s) { return s.name == scope.name; });
  const auto after =
      std::find_if(all_.scopes.begin(), all_.scopes.end(), [&](const SavedScope& s) { return s.name > scope.name; });
  all_.scopes.insert(after, scope);
  keep([address = address_, scope](Store& s) { return s.saveScope(address, scope); });
  emit scopesChanged();
}

void KeptSettings::forgetScope(const std::string& name) {
  std::erase_if(all_.scopes, [&](const SavedScope& s) { return s.name == name; });
  keep([address = address_, name](Store& s) { return s.forgetScope(address, name); });
  emit scopesChanged();
}

void KeptSettings::saveRecipe(const Recipe& recipe) {
  std::erase_if(all_.recipes, [&](const Recipe& r) { return r.name == recipe.name; });
  const auto after =
      std::find_if(all_.recipes.begin(), all_.recipes.end(), [&](const Recipe& r) { return r.name > recipe.name; });
  all_.recipes.insert(after, recipe);
  keep([address = address_, recipe](Store& s) { return s.saveRecipe(address, recipe); });
  emit recipesChanged();
}

void KeptSettings::forgetRecipe(const std::string& name) {
  std::erase_if(all_.recipes, [&](const Recipe& r) { return r.name == name; });
  keep([address = address_, name](Store& s) { return s.forgetRecipe(address, name); });
  emit recipesChanged();
}

void KeptSettings::saveHouseRules(const std::vector<HouseRule>& rules) {
  for (const HouseRule& rule : rules) {
    std::erase_if(all_.houseRules, [&](const HouseRule& r) { return r.name == rule.name; });
    all_.houseRules.push_back(rule);
  }
  std::sort(all_.houseRules.begin(), all_.houseRules.end(),
            [](const HouseRule& a, const HouseRule& b) { return a.name < b.name; });
  keep([address = address_, all = all_.houseRules](Store& s) { return s.keepHouseRules(address, all); });
  emit houseRulesChanged();
}

void KeptSettings::forgetHouseRule(const std::string& name) {
  std::erase_if(all_.houseRules, [&](const HouseRule& r) { return r.name == name; });
  keep([address = address_, all = all_.houseRules](Store& s) { return s.keepHouseRules(address, all); });
  emit houseRulesChanged();
}

void KeptSettings::useLenses(std::vector<Lens> lenses) {
  keep([address = address_, lenses](Store& s) { return s.keepLenses(address, lenses); });
  lenses_.take(std::move(lenses), *catalogue_);
}

void KeptSettings::saveLenses(const std::vector<Lens>& lenses) {
  std::vector<Lens> all = lenses_.all();
  for (const Lens& lens : lenses) {
    std::erase_if(all, [&](const Lens& l) { return l.table == lens.table && l.column == lens.column; });
    all.push_back(lens);
  }
  useLenses(std::move(all));
}

void KeptSettings::forgetLens(const std::string& table, const std::string& column) {
  std::vector<Lens> all = lenses_.all();
  std::erase_if(all, [&](const Lens& l) { return l.table == table && l.column == column; });
  useLenses(std::move(all));
}

Form KeptSettings::form(const Table& table) const {
  const auto is = [&](const Form& form) { return form.table == displayName(table.name); };
  const auto kept = std::find_if(all_.forms.begin(), all_.forms.end(), is);
  return kept == all_.forms.end() ? plainForm(table) : fitted(*kept, table);
}

void KeptSettings::saveForms(const std::vector<Form>& forms) {
  for (const Form& form : forms) {
    std::erase_if(all_.forms, [&](const Form& f) { return f.table == form.table; });
    all_.forms.push_back(form);
  }
  keep([address = address_, all = all_.forms](Store& s) { return s.keepForms(address, all); });
  emit formsChanged();
}

void KeptSettings::forgetForm(const Table& table) {
  std::erase_if(all_.forms, [&](const Form& f) { return f.table == displayName(table.name); });
  saveForms({});
}

std::string KeptSettings::layout(const Table& table) const {
  const auto known = all_.layouts.find(displayName(table.name));
  return known == all_.layouts.end() ? std::string() : known->second;
}

void KeptSettings::keepLayout(const Table& table, const std::string& layout) {
  std::string& known = all_.layouts[displayName(table.name)];
  if (known == layout) return;
  known = layout;
  keep([address = address_, name = displayName(table.name), layout](Store& s) {
    return s.keepLayout(address, name, layout);
  });
}

void KeptSettings::keepOpenSheets(const std::string& sheets) {
  if (all_.openSheets == sheets) return;
  all_.openSheets = sheets;
  keep([address = address_, sheets](Store& s) { return s.keepOpenSheets(address, sheets); });
}

void KeptSettings::chooseReadable(const Table& table, const std::vector<std::string>& columns) {
  const std::string name = displayName(table.name);
  if (columns.empty()) {
    all_.readable.erase(name);
  } else {
    all_.readable[name] = columns;
  }
  keep([address = address_, name, columns](Store& s) { return s.chooseReadable(address, name, columns); });
  emit readableChanged();
}

std::vector<std::string> KeptSettings::tellOnce(const std::vector<std::string>& code) {
  std::vector<std::string> news;
  for (const std::string& name : code) {
    if (all_.toldCode.insert(name).second) news.push_back(name);
  }
  if (!news.empty()) keep([address = address_, news](Store& s) { return s.rememberToldCode(address, news); });
  return news;
}

void KeptSettings::stateReference(const StatedReference& reference) {
  all_.references.push_back(reference);
  keep([address = address_, reference](Store& s) { return s.stateReference(address, reference); });
  emit referencesChanged();
}

void KeptSettings::forgetReference(const StatedReference& reference) {
  std::erase(all_.references, reference);
  keep([address = address_, reference](Store& s) { return s.forgetReference(address, reference); });
  emit referencesChanged();
}

bool KeptSettings::copiesFirst() const {
  const auto chosen = all_.choices.find(kCopyFirst);
  return chosen != all_.choices.end() && chosen->second == "yes";
}

void KeptSettings::setCopiesFirst(bool copies) {
  if (copies == copiesFirst()) return;
  const std::string chosen = copies ? "yes" : "no";
  all_.choices[kCopyFirst] = chosen;
  keep([address = address_, chosen](Store& s) { return s.keepChoice(address, kCopyFirst, chosen); });
}

}  // namespace iterandum
