#include "app/sheet/sheet_scope.h"

#include <algorithm>

#include "core/scope/column_path.h"
#include "core/scope/condition_text.h"

namespace iterandum {

SheetScope::SheetScope(SheetModel& model, FilterHeader& head, QObject* parent)
    : QObject(parent), model_(model), head_(head) {}

std::string SheetScope::pathOf(int column) const { return columnPathText(model_.path(column)); }

Scope SheetScope::scope() const {
  Scope out;
  out.table = displayName(model_.table().name);
  for (int c = 0; c < model_.columnCount(); ++c) {
    const QString text = head_.filter(c);
    if (!text.trimmed().isEmpty()) out.filters.push_back({pathOf(c), text.toStdString()});
  }
  for (const QString& text : conditions_) out.filters.push_back({{}, text.toStdString()});
  out.order = order_;
  for (int v = 0; v < head_.count(); ++v) {
    const int column = head_.logicalIndex(v);
    if (!head_.isSectionHidden(column)) out.columns.push_back(pathOf(column));
  }
  return out;
}

void SheetScope::take(const Scope& scope) {
  const Table& table = model_.table();
  const Catalogue& catalogue = model_.desk().catalogue();
  takeColumns(scope, table);
  for (int c = 0; c < model_.columnCount(); ++c) head_.setFilter(c, {});
  conditions_.clear();
  for (const ScopeFilter& filter : scope.filters) {
    const auto path = readColumnPath(table, filter.column, &catalogue);
    if (filter.column.empty() || !path || !cannotBorrow(*path).empty()) {
      // A condition on what cannot be a column here is still a condition; if it cannot be read, it says so.
      const std::string prefix = filter.column.empty() ? "" : quotedIfOdd(filter.column) + " ";
      conditions_ << toQ(prefix + filter.condition);
      continue;
    }
    head_.setFilter(model_.borrow(*path), toQ(filter.condition));
  }
  order_ = scope.order;
  head_.setOrder(order_);
}

// The columns that are named, in their order; the others are hidden.
void SheetScope::takeColumns(const Scope& scope, const Table& table) {
  for (int c = model_.columnCount() - 1; c >= model_.ownColumns(); --c) model_.giveBack(c);
  if (scope.columns.empty()) return;
  std::vector<int> shown;
  for (const std::string& text : scope.columns) {
    const auto path = readColumnPath(table, text, &model_.desk().catalogue());
    if (path && cannotBorrow(*path).empty()) shown.push_back(model_.borrow(*path));
  }
  if (shown.empty()) return;
  for (int c = 0; c < model_.columnCount(); ++c) {
    head_.setSectionHidden(c, std::find(shown.begin(), shown.end(), c) == shown.end());
  }
  for (std::size_t i = 0; i < shown.size(); ++i) head_.moveSection(head_.visualIndex(shown[i]), static_cast<int>(i));
}

QString SheetScope::cannotRead(const ScopeFilter& filter) const {
  Scope one;
  one.table = displayName(model_.table().name);
  one.filters.push_back(filter);
  std::vector<ScopeProblem> problems;
  const auto read = readScope(one, model_.desk().conditions(), problems);
  if (!read) return toQ(read.error().message);
  return problems.empty() ? QString() : toQ(problems.front().error.text());
}

// Phrases of a scope that could not be read yet, so that they can be put right or taken out.
std::vector<ScopePhrase> SheetScope::unread(const Scope& scope) const {
  std::vector<ScopePhrase> out;
  for (int c = 0; c < model_.columnCount(); ++c) {
    const QString text = head_.filter(c);
    if (!text.isEmpty()) out.push_back({ScopePhrase::Kind::Filter, c, model_.columnName(c) + ' ' + text, {}});
  }
  for (int i = 0; i < conditions_.size(); ++i) {
    out.push_back({ScopePhrase::Kind::Condition, i, conditions_[i], {}});
  }
  for (std::size_t i = 0; i < scope.order.size(); ++i) {
    out.push_back({ScopePhrase::Kind::Order, static_cast<int>(i), toQ(scope.order[i].column), {}});
  }
  return out;
}

QString SheetScope::problemInWords(const Scope& scope, const ScopeProblem& problem) {
  QString message = toQ(problem.error.message);
  if (!problem.filter) return message;
  const ScopeFilter& filter = scope.filters[*problem.filter];
  const QString place = toQ(problem.error.place);
  return filter.column.empty()
             ? tr("The condition “%1” cannot be read (%2): %3.").arg(toQ(filter.condition), place, message)
             : tr("The filter of %1 cannot be read (%2): %3.").arg(toQ(filter.column), place, message);
}

void SheetScope::read() {
  const Scope scope = this->scope();
  std::vector<ScopeProblem> problems;
  const auto read = readScope(scope, model_.desk().conditions(), problems);
  if (!read) return emit problem(toQ(read.error().text()));
  for (int c = 0; c < model_.columnCount(); ++c) head_.markWrong(c, {});
  for (const ScopeProblem& p : problems) {
    if (!p.filter || scope.filters[*p.filter].column.empty()) continue;
    const auto path = readColumnPath(model_.table(), scope.filters[*p.filter].column, &model_.desk().catalogue());
    const auto column = path ? model_.columnOf(*path) : std::nullopt;
    if (column) head_.markWrong(*column, toQ(p.error.message));
  }
  if (!problems.empty()) {
    if (!model_.source().everRead()) {
      phrases_ = unread(scope);
      emit changed();
    }
    return emit problem(problemInWords(scope, problems.front()));
  }
  phrases_.clear();
  const auto filters = static_cast<int>(scope.filters.size()) - static_cast<int>(conditions_.size());
  for (const auto& [position, condition] : read->phrases) {
    ScopePhrase phrase;
    phrase.condition = condition;
    phrase.words = toQ(conditionInWords(condition));
    const auto at = static_cast<int>(position);
    phrase.kind = at < filters ? ScopePhrase::Kind::Filter : ScopePhrase::Kind::Condition;
    phrase.at = at - filters;
    if (at < filters) {
      const auto path = readColumnPath(model_.table(), scope.filters[position].column, &model_.desk().catalogue());
      phrase.at = model_.columnOf(*path).value_or(0);
    }
    phrases_.push_back(std::move(phrase));
  }
  for (std::size_t i = 0; i < order_.size(); ++i) {
    QString words = toQ(order_[i].column);
    if (order_[i].natural) words += tr(" (numbers by size)");
    if (order_[i].descending) words += tr(" last first");
    phrases_.push_back({ScopePhrase::Kind::Order, static_cast<int>(i), words, {}});
  }
  model_.source().read(read->where(), read->order);
  emit changed();
}

Condition SheetScope::whereWithout(int column) const {
  Condition out;
  for (const ScopePhrase& phrase : phrases_) {
    if (phrase.kind == ScopePhrase::Kind::Order) continue;
    if (phrase.kind == ScopePhrase::Kind::Filter && phrase.at == column) continue;
    out = bothHold(std::move(out), phrase.condition);
  }
  return out;
}

// --- changing it
// --------------------------------------------------------------------------------------------------------

void SheetScope::setFilter(int column, const QString& text) {
  head_.setFilter(column, text);
  read();
}

QString SheetScope::text(const ScopePhrase& phrase) const {
  if (phrase.kind == ScopePhrase::Kind::Filter) return head_.filter(phrase.at);
  return phrase.kind == ScopePhrase::Kind::Condition ? conditions_.value(phrase.at) : QString();
}

QString SheetScope::setText(const ScopePhrase& phrase, const QString& text) {
  const bool filter = phrase.kind == ScopePhrase::Kind::Filter;
  if (!text.trimmed().isEmpty()) {
    QString wrong = cannotRead({filter ? pathOf(phrase.at) : std::string(), text.toStdString()});
    if (!wrong.isEmpty()) return wrong;
  }
  if (filter) {
    head_.setFilter(phrase.at, text.trimmed());
  } else if (phrase.kind == ScopePhrase::Kind::Condition && phrase.at < conditions_.size()) {
    conditions_[phrase.at] = text.trimmed();
    conditions_.removeAll(QString());
  }
  read();
  return {};
}

QString SheetScope::addCondition(const QString& text) {
  QString wrong = cannotRead({{}, text.toStdString()});
  if (!wrong.isEmpty()) return wrong;
  conditions_ << text.trimmed();
  read();
  return {};
}

void SheetScope::clearFilters() {
  for (int c = 0; c < model_.columnCount(); ++c) head_.setFilter(c, {});
  conditions_.clear();
  read();
}

void SheetScope::setOrder(std::vector<ScopeOrder> order) {
  order_ = std::move(order);
  head_.setOrder(order_);
  read();
}

void SheetScope::sort(int column, bool also) {
  if (column < 0) return;
  const std::string name = pathOf(column);
  std::vector<ScopeOrder> order = order_;
  const auto key = std::find_if(order.begin(), order.end(), [&](const ScopeOrder& k) { return k.column == name; });
  const bool wasThere = key != order.end();
  const bool wasDescending = wasThere && key->descending;
  if (!also) {
    const bool alone = order.size() == 1;
    order.clear();
    if (!wasThere || !alone) order.push_back({name, false});
    if (wasThere && alone && !wasDescending) order.push_back({name, true});
  } else if (!wasThere) {
    order.push_back({name, false});
  } else if (!wasDescending) {
    key->descending = true;
  } else {
    order.erase(key);
  }
  setOrder(std::move(order));
}

}  // namespace iterandum
