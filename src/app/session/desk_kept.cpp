// What a desk keeps for its database besides what is staged: saved scopes, stated references, how records are called;
// and what conditions may ask about the desk itself.
#include <algorithm>

#include "app/session/desk.h"

namespace iterandum {

Result<Desk::Restored> Desk::readKept(Store& store, const std::string& address, const std::string& owner) {
  Restored out;
  ITERANDUM_ASSIGN(out.mark, store.mark(address));
  ITERANDUM_ASSIGN(out.scopes, store.scopes(address));
  ITERANDUM_ASSIGN(out.recipes, store.recipes(address));
  ITERANDUM_ASSIGN(out.houseRules, store.houseRules(address));
  ITERANDUM_ASSIGN(out.lenses, store.lenses(address));
  ITERANDUM_ASSIGN(out.references, store.statedReferences(address));
  ITERANDUM_ASSIGN(out.readable, store.readableChoices(address));
  ITERANDUM_ASSIGN(out.layouts, store.layouts(address));
  ITERANDUM_ASSIGN(out.toldCode, store.toldCode(address));
  ITERANDUM_ASSIGN(out.openSheets, store.openSheets(address));
  ITERANDUM_ASSIGN(out.log, store.claimStaged(address, owner));
  return out;
}

void Desk::takeKept(Restored&& restored) {
  sayWhatWasLeft(restored.log);
  changes_.restore(std::move(restored.log.gestures), restored.log.position);
  takeMark(restored.mark);
  scopes_ = std::move(restored.scopes);
  recipes_ = std::move(restored.recipes);
  houseRules_ = std::move(restored.houseRules);
  stated_ = std::move(restored.references);
  readable_ = std::move(restored.readable);
  layouts_ = std::move(restored.layouts);
  toldCode_ = std::move(restored.toldCode);
  openSheets_ = std::move(restored.openSheets);
  useCatalogue();
  lenses_->take(std::move(restored.lenses), *catalogue_);
}

void Desk::sayWhatWasLeft(const StagedLog& log) {
  if (log.setAside > 0) {
    emit storeFailed(tr("%n thing(s) that you staged before could not be read and were set aside; the rest is here.",
                        "", static_cast<int>(log.setAside)));
  } else if (log.left > 0) {
    emit said(tr("Another window left staged work for this database; a further window will show it."));
  } else if (log.openElsewhere > 0) {
    emit said(tr("This database is open in another window too; each has its own staged work."));
  }
}

void Desk::useCatalogue() {
  catalogue_ = stated_.empty() ? declared_ : std::make_shared<const Catalogue>(declared_->withReferences(stated_));
  for (DatabaseSession* session : {&front_, &behind_, &indexing_}) session->useCatalogue(catalogue_);
  names_ = std::make_unique<ReferenceNames>(front_, catalogue_);
  names_->chooseReadable(readable_);
  lent_ = std::make_unique<LentRecords>(front_, catalogue_);
}

void Desk::forgetReferences() {
  names_->forget();
  lent_->forget();
}

// --- conditions about what is staged ---------------------------------------------------------------------------------

ConditionContext Desk::conditions() const {
  ConditionContext context = contextNow(*catalogue_);
  context.staged = [this](const Table& table, const std::string& column, KnownOf what) {
    if (what == KnownOf::Applied) return appliedKeys(table);
    return what == KnownOf::Finding ? foundKeys(table, column) : stagedKeys(table, column);
  };
  context.names = [this](const Table& table) { return names_->shownBy(table); };
  return context;
}

std::shared_ptr<const KeyList> Desk::stagedKeys(const Table& table, const std::string& column) const {
  auto list = std::make_shared<KeyList>();
  list->keys.resize(table.writeKeyColumns().size());
  const TableChanges* changes = changes_.table(table.name);
  for (std::uint32_t r = 0; changes != nullptr && r < changes->records(); ++r) {
    const bool removed = changes->isRemoved(r);
    const bool edited = column.empty() ? changes->isEdited(r) : changes->cell(r, column).has_value();
    if (!removed && !edited) continue;
    const ValueTuple key = changes->key(r);
    for (std::size_t k = 0; k < list->keys.size() && k < key.size(); ++k) list->keys[k].push(key[k]);
  }
  return list;
}

std::shared_ptr<const KeyList> Desk::foundKeys(const Table& table, const std::string& column) const {
  auto list = std::make_shared<KeyList>();
  list->keys.resize(table.writeKeyColumns().size());
  for (const FoundCell& found : findings_) {
    if (found.table != table.name || found.key.size() != list->keys.size()) continue;
    if (!column.empty() && found.column != column) continue;
    for (std::size_t k = 0; k < list->keys.size(); ++k) list->keys[k].push(found.key[k]);
  }
  return list;
}

std::shared_ptr<const KeyList> Desk::appliedKeys(const Table& table) const {
  auto list = std::make_shared<KeyList>();
  list->keys.resize(table.writeKeyColumns().size());
  const auto applied = applied_.find(table.name);
  if (applied == applied_.end()) return list;
  for (const auto& [key, known] : applied->second) {
    for (std::size_t k = 0; k < list->keys.size() && k < key.size(); ++k) list->keys[k].push(key[k]);
  }
  return list;
}

// --- what the last review found --------------------------------------------------------------------------------------

void Desk::setFindings(std::vector<FoundCell> findings) {
  findings_ = std::move(findings);
  foundAt_.clear();
  for (const FoundCell& found : findings_) foundAt_[found.table][found.key].insert(found.column);
}

bool Desk::hasFinding(const TableName& table, const ValueTuple& key, const std::string& column) const {
  const auto records = foundAt_.find(table);
  if (records == foundAt_.end()) return false;
  const auto found = records->second.find(key);
  return found != records->second.end() && (column.empty() || found->second.contains(column));
}

void Desk::forgetFindings(const Gesture& gesture) {
  if (foundAt_.empty()) return;
  for (const GesturePart& part : gesture.parts) {
    const auto records = foundAt_.find(part.table);
    if (records == foundAt_.end() || part.keys.empty()) continue;
    for (std::size_t r = 0; r < part.keys[0].size() && !records->second.empty(); ++r) {
      ValueTuple key;
      for (const ValueColumn& k : part.keys) key.push_back(k.at(r));
      records->second.erase(key);
    }
    if (records->second.empty()) foundAt_.erase(records);
  }
}

// --- kept ------------------------------------------------------------------------------------------------------------

void Desk::saveScope(const SavedScope& scope) {
  std::erase_if(scopes_, [&](const SavedScope& s) { return s.name == scope.name; });
  const auto after =
      std::find_if(scopes_.begin(), scopes_.end(), [&](const SavedScope& s) { return s.name > scope.name; });
  scopes_.insert(after, scope);
  keep([address = info_.address, scope](Store& s) { return s.saveScope(address, scope); });
  emit scopesChanged();
}

void Desk::forgetScope(const std::string& name) {
  std::erase_if(scopes_, [&](const SavedScope& s) { return s.name == name; });
  keep([address = info_.address, name](Store& s) { return s.forgetScope(address, name); });
  emit scopesChanged();
}

void Desk::saveRecipe(const Recipe& recipe) {
  std::erase_if(recipes_, [&](const Recipe& r) { return r.name == recipe.name; });
  const auto after =
      std::find_if(recipes_.begin(), recipes_.end(), [&](const Recipe& r) { return r.name > recipe.name; });
  recipes_.insert(after, recipe);
  keep([address = info_.address, recipe](Store& s) { return s.saveRecipe(address, recipe); });
  emit recipesChanged();
}

void Desk::forgetRecipe(const std::string& name) {
  std::erase_if(recipes_, [&](const Recipe& r) { return r.name == name; });
  keep([address = info_.address, name](Store& s) { return s.forgetRecipe(address, name); });
  emit recipesChanged();
}

void Desk::saveHouseRules(const std::vector<HouseRule>& rules) {
  for (const HouseRule& rule : rules) {
    std::erase_if(houseRules_, [&](const HouseRule& r) { return r.name == rule.name; });
    houseRules_.push_back(rule);
  }
  std::sort(houseRules_.begin(), houseRules_.end(),
            [](const HouseRule& a, const HouseRule& b) { return a.name < b.name; });
  keep([address = info_.address, all = houseRules_](Store& s) { return s.keepHouseRules(address, all); });
  emit houseRulesChanged();
}

void Desk::forgetHouseRule(const std::string& name) {
  std::erase_if(houseRules_, [&](const HouseRule& r) { return r.name == name; });
  keep([address = info_.address, all = houseRules_](Store& s) { return s.keepHouseRules(address, all); });
  emit houseRulesChanged();
}

void Desk::useLenses(std::vector<Lens> lenses) {
  keep([address = info_.address, lenses](Store& s) { return s.keepLenses(address, lenses); });
  lenses_->take(std::move(lenses), *catalogue_);
}

void Desk::saveLenses(const std::vector<Lens>& lenses) {
  std::vector<Lens> all = lenses_->all();
  for (const Lens& lens : lenses) {
    std::erase_if(all, [&](const Lens& l) { return l.table == lens.table && l.column == lens.column; });
    all.push_back(lens);
  }
  useLenses(std::move(all));
}

void Desk::forgetLens(const std::string& table, const std::string& column) {
  std::vector<Lens> all = lenses_->all();
  std::erase_if(all, [&](const Lens& l) { return l.table == table && l.column == column; });
  useLenses(std::move(all));
}

void Desk::chooseReadable(const Table& table, const std::vector<std::string>& columns) {
  const std::string name = displayName(table.name);
  if (columns.empty()) {
    readable_.erase(name);
  } else {
    readable_[name] = columns;
  }
  names_->chooseReadable(readable_);
  keep([address = info_.address, name, columns](Store& s) { return s.chooseReadable(address, name, columns); });
  emit names_->named();
}

void Desk::keepOpenSheets(const std::string& sheets) {
  if (openSheets_ == sheets) return;
  openSheets_ = sheets;
  keep([address = info_.address, sheets](Store& s) { return s.keepOpenSheets(address, sheets); });
}

std::string Desk::layout(const Table& table) const {
  const auto known = layouts_.find(displayName(table.name));
  return known == layouts_.end() ? std::string() : known->second;
}

void Desk::keepLayout(const Table& table, const std::string& layout) {
  std::string& known = layouts_[displayName(table.name)];
  if (known == layout) return;
  known = layout;
  keep([address = info_.address, name = displayName(table.name), layout](Store& s) {
    return s.keepLayout(address, name, layout);
  });
}

std::vector<std::string> Desk::tellOnce(const std::vector<std::string>& code) {
  std::vector<std::string> news;
  for (const std::string& name : code) {
    if (toldCode_.insert(name).second) news.push_back(name);
  }
  if (!news.empty()) keep([address = info_.address, news](Store& s) { return s.rememberToldCode(address, news); });
  return news;
}

void Desk::stateReference(const StatedReference& reference) {
  const auto before = catalogue_;  // pages speak of its tables until they are made anew
  stated_.push_back(reference);
  keep([address = info_.address, reference](Store& s) { return s.stateReference(address, reference); });
  useCatalogue();
  emit catalogueChanged();
}

void Desk::forgetReference(const StatedReference& reference) {
  const auto before = catalogue_;
  std::erase(stated_, reference);
  keep([address = info_.address, reference](Store& s) { return s.forgetReference(address, reference); });
  useCatalogue();
  emit catalogueChanged();
}

}  // namespace iterandum
