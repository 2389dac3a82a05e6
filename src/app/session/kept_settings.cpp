#include "app/session/kept_settings.h"

#include <algorithm>

#include "app/values/shown_value.h"

namespace iterandum {
namespace {
constexpr const char* kCopyFirst = "copy before applying";
constexpr const char* kComments = "comments";

bool sameThing(const HouseRule& a, const HouseRule& b) { return a.name == b.name; }
bool sameThing(const Lens& a, const Lens& b) { return a.table == b.table && a.column == b.column; }
bool sameThing(const Form& a, const Form& b) { return a.table == b.table; }

void sortByName(std::vector<HouseRule>& rules) {
  std::sort(rules.begin(), rules.end(), [](const HouseRule& a, const HouseRule& b) { return a.name < b.name; });
}

// Each takes the place of the one that is the same thing.
template <typename Item>
void replaceIn(std::vector<Item>& all, const std::vector<Item>& items) {
  for (const Item& item : items) {
    std::erase_if(all, [&](const Item& one) { return sameThing(one, item); });
    all.push_back(item);
  }
}

// In what is kept by now: another window may have kept others meanwhile.
template <typename Item, typename Kept, typename Keep>
std::function<Status(Store&)> replaceKept(std::string address, std::vector<Item> items, Kept kept, Keep keep) {
  return [=](Store& s) -> Status {
    ITERANDUM_ASSIGN(std::vector<Item> all, (s.*kept)(address));
    replaceIn(all, items);
    return (s.*keep)(address, all);
  };
}
template <typename Item, typename Kept, typename Keep>
std::function<Status(Store&)> forgetKept(std::string address, Item item, Kept kept, Keep keep) {
  return [=](Store& s) -> Status {
    ITERANDUM_ASSIGN(std::vector<Item> all, (s.*kept)(address));
    std::erase_if(all, [&](const Item& one) { return sameThing(one, item); });
    return (s.*keep)(address, all);
  };
}

}  // namespace

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

void KeptSettings::take(Restored&& restored) {
  all_ = std::move(restored);
  sortByName(all_.houseRules);
}

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
  replaceIn(all_.houseRules, rules);
  sortByName(all_.houseRules);
  keep(replaceKept(address_, rules, &Store::houseRules, &Store::keepHouseRules));
  emit houseRulesChanged();
}

void KeptSettings::forgetHouseRule(const std::string& name) {
  HouseRule rule;
  rule.name = name;
  std::erase_if(all_.houseRules, [&](const HouseRule& r) { return sameThing(r, rule); });
  keep(forgetKept(address_, rule, &Store::houseRules, &Store::keepHouseRules));
  emit houseRulesChanged();
}

void KeptSettings::useLenses(std::vector<Lens> lenses) { lenses_.take(std::move(lenses), *catalogue_); }

void KeptSettings::saveLenses(const std::vector<Lens>& lenses) {
  std::vector<Lens> all = lenses_.all();
  replaceIn(all, lenses);
  keep(replaceKept(address_, lenses, &Store::lenses, &Store::keepLenses));
  useLenses(std::move(all));
}

void KeptSettings::forgetLens(const std::string& table, const std::string& column) {
  Lens lens;
  lens.table = table;
  lens.column = column;
  std::vector<Lens> all = lenses_.all();
  std::erase_if(all, [&](const Lens& l) { return sameThing(l, lens); });
  keep(forgetKept(address_, lens, &Store::lenses, &Store::keepLenses));
  useLenses(std::move(all));
}

Form KeptSettings::form(const Table& table) const {
  const auto is = [&](const Form& form) { return form.table == displayName(table.name); };
  const auto kept = std::find_if(all_.forms.begin(), all_.forms.end(), is);
  return kept == all_.forms.end() ? plainForm(table) : fitted(*kept, table);
}

void KeptSettings::saveForms(const std::vector<Form>& forms) {
  replaceIn(all_.forms, forms);
  keep(replaceKept(address_, forms, &Store::forms, &Store::keepForms));
  emit formsChanged();
}

void KeptSettings::forgetForm(const Table& table) {
  Form form;
  form.table = displayName(table.name);
  std::erase_if(all_.forms, [&](const Form& f) { return sameThing(f, form); });
  keep(forgetKept(address_, form, &Store::forms, &Store::keepForms));
  emit formsChanged();
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

std::string KeptSettings::choice(const std::string& name) const {
  const auto chosen = all_.choices.find(name);
  return chosen == all_.choices.end() ? std::string() : chosen->second;
}

void KeptSettings::keepChoice(const std::string& name, const std::string& chosen) {
  if (choice(name) == chosen) return;
  all_.choices[name] = chosen;
  keep([address = address_, name, chosen](Store& s) { return s.keepChoice(address, name, chosen); });
}

std::map<std::string, std::string> KeptSettings::choicesUnder(const std::string& beginning) const {
  std::map<std::string, std::string> out;
  for (auto at = all_.choices.lower_bound(beginning); at != all_.choices.end(); ++at) {
    if (!at->first.starts_with(beginning)) break;
    out.emplace(at->first.substr(beginning.size()), at->second);
  }
  return out;
}

// A word that is not known is a newer version's: nothing is less strict then.
SigningRule KeptSettings::signingRule() const {
  return signingRuleNamed(choice(kSigningRuleChoice)).value_or(SigningRule::ByKey);
}

std::vector<Signature> KeptSettings::signatures() const {
  return unpackSignatures(choice(kSignaturesChoice)).value_or(std::vector<Signature>());
}

void KeptSettings::amend(const char* name, const std::function<std::string(const std::string& kept)>& amend) {
  all_.choices[name] = amend(choice(name));
  const std::uint64_t mine = ++said_;
  storeThread_->post(
      this, [address = address_, name, amend](Store& s) { return s.amendChoice(address, name, amend); },
      [this, name, mine](Result<std::string>&& kept) {
        if (!kept) return emit storeFailed(tr("It is not kept for next time: %1").arg(toQ(kept.error().text())));
        if (mine != said_ || all_.choices[name] == *kept) return;
        all_.choices[name] = *kept;
        emit commentsChanged();
      });
}

void KeptSettings::addSignatures(const std::vector<Signature>& signatures) {
  if (signatures.empty()) return;
  amend(kSignaturesChoice, [signatures](const std::string& kept) {
    std::vector<Signature> all = unpackSignatures(kept).value_or(std::vector<Signature>());
    for (const Signature& one : signatures) putIn(one, all);
    return packSignatures(all);
  });
}

std::vector<Comment> KeptSettings::comments() const {
  return unpackComments(choice(kComments)).value_or(std::vector<Comment>());
}

void KeptSettings::addComments(const std::vector<Comment>& comments) {
  if (comments.empty()) return;
  amend(kComments, [comments](const std::string& kept) {
    std::vector<Comment> all = unpackComments(kept).value_or(std::vector<Comment>());
    putIn(comments, all);
    return packComments(all);
  });
  emit commentsChanged();
}

void KeptSettings::takeBackComment(const Comment& comment) {
  amend(kComments, [comment](const std::string& kept) {
    std::vector<Comment> all = unpackComments(kept).value_or(std::vector<Comment>());
    std::erase(all, comment);
    return packComments(all);
  });
  emit commentsChanged();
}

void KeptSettings::forgetSaid(const std::vector<Comment>& left) {
  if (!signatures().empty()) amend(kSignaturesChoice, [](const std::string&) { return std::string(); });
  const std::vector<Comment> before = comments();
  if (before.empty()) return;
  // What somebody says meanwhile, elsewhere, is not forgotten.
  amend(kComments, [before, left](const std::string& kept) {
    std::vector<Comment> all = unpackComments(kept).value_or(std::vector<Comment>());
    std::erase_if(all, [&](const Comment& one) {
      return std::find(before.begin(), before.end(), one) != before.end() &&
             std::find(left.begin(), left.end(), one) == left.end();
    });
    return packComments(all);
  });
  emit commentsChanged();
}

Result<KeptSettings::Said> KeptSettings::readSaid(Store& store, const std::string& address) {
  Said out;
  ITERANDUM_ASSIGN(const auto choices, store.choices(address));
  for (const char* name : {kSignaturesChoice, kSigningRuleChoice, kComments}) {
    const auto kept = choices.find(name);
    out.choices[name] = kept == choices.end() ? std::string() : kept->second;
  }
  out.signatures = unpackSignatures(out.choices[kSignaturesChoice]).value_or(std::vector<Signature>());
  return out;
}

void KeptSettings::takeSaid(const Said& said, std::uint64_t asOf) {
  if (asOf != said_) return;
  for (const auto& [name, kept] : said.choices) all_.choices[name] = kept;
}

bool KeptSettings::copiesFirst() const { return choice(kCopyFirst) == "yes"; }

void KeptSettings::setCopiesFirst(bool copies) {
  if (copies != copiesFirst()) keepChoice(kCopyFirst, copies ? "yes" : "no");
}

}  // namespace iterandum
