#include "app/sheet/sheet_scope.h"

#include <algorithm>

#include "core/scope/column_path.h"
#include "core/scope/condition_text.h"
#include "core/scope/reference_naming.h"

namespace iterandum {

SheetScope::SheetScope(SheetModel& model, FilterHeader& head, QObject* parent)
    : QObject(parent), model_(model), head_(head) {
  // Names that were not known when the sentence was said.
  connect(&model_.desk().names(), &ReferenceNames::named, this, &SheetScope::sayAgain);
  // The records stay the same; how they are said does not.
  connect(&model_.desk().lenses(), &Lenses::aboutToChange, this, [this] { whileChanging_ = scope(); });
  connect(&model_.desk().lenses(), &Lenses::changed, this, [this] {
    if (!whileChanging_) return;
    takeFilters(*std::exchange(whileChanging_, std::nullopt));
    sayAgain();
  });
}

std::string SheetScope::pathOf(int column) const { return columnPathText(model_.path(column)); }

ConditionContext SheetScope::typedConditions() const {
  return model_.desk().lenses().typed(model_.desk().conditions());
}

QString SheetScope::asTyped(const Condition& condition) const {
  return toQ(conditionInWords(model_.table(), condition, model_.desk().lenses().worded({})));
}

// A bracket that is not closed: what stands behind one that can be read cannot.
static constexpr std::string_view kUnread = "( ";

std::optional<Condition> SheetScope::readAs(const ScopeFilter& filter, const ConditionContext& context) const {
  Scope one;
  one.table = displayName(model_.table().name);
  one.filters.push_back(filter);
  std::vector<ScopeProblem> problems;
  const auto read = readScope(one, context, problems);
  return read && problems.empty() ? std::optional(read->where()) : std::nullopt;
}

// What cannot be read through the lens, but could be as it is stored, would mean something else there: it is kept so
// that nobody reads it, and comes back as it was typed.
ScopeFilter SheetScope::unreadAs(Said said, const ScopeFilter& filter) const {
  const ConditionContext stored = model_.desk().conditions();
  if (said == Said::Stored)
    return readAs(filter, stored) ? ScopeFilter{filter.column, std::string(kUnread) + filter.condition} : filter;
  if (!filter.condition.starts_with(kUnread)) return filter;
  ScopeFilter typed{filter.column, filter.condition.substr(kUnread.size())};
  return readAs(typed, stored) ? typed : filter;
}

ScopeFilter SheetScope::saidAs(Said said, const ScopeFilter& filter) const {
  bool used = false;
  ConditionContext context = model_.desk().conditions();
  if (said == Said::Stored) {
    context = typedConditions();
    const auto through = std::exchange(context.typed, {});
    if (!through) return filter;
    context.typed = [&used, through](const Table& table, const Column& column, const std::string& text) {
      auto stored = through(table, column, text);
      used = used || (stored && *stored);
      return stored;
    };
  }
  const auto read = readAs(filter, context);
  if (!read) return unreadAs(said, filter);
  const Condition& where = *read;
  std::string words = said == Said::Stored
                          ? conditionInWords(model_.table(), where)
                          : conditionInWords(model_.table(), where, model_.desk().lenses().worded({}, &used));
  if (!used) return filter;
  // In a filter cell, what names no column is about its own.
  const std::string own = filter.column + " ";
  if (!filter.column.empty() && words.starts_with(own) && where.op != Condition::Op::Through)
    words.erase(0, own.size());
  return {filter.column, words};
}

Scope SheetScope::scope() const {
  Scope out = typedScope();
  for (ScopeFilter& filter : out.filters) filter = saidAs(Said::Stored, filter);
  return out;
}

Scope SheetScope::typedScope() const {
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
  takeColumns(scope, table);
  takeFilters(scope);
  order_ = scope.order;
  head_.setOrder(order_);
}

void SheetScope::takeFilters(const Scope& scope) {
  const Table& table = model_.table();
  const Catalogue& catalogue = model_.desk().catalogue();
  for (int c = 0; c < model_.columnCount(); ++c) head_.setFilter(c, {});
  conditions_.clear();
  for (const ScopeFilter& stored : scope.filters) {
    const ScopeFilter filter = saidAs(Said::Typed, stored);
    const auto path = readColumnPath(table, filter.column, &catalogue);
    if (filter.column.empty() || !path || !cannotBorrow(*path).empty()) {
      // A condition on what cannot be a column here is still a condition; if it cannot be read, it says so.
      const std::string prefix = filter.column.empty() ? "" : quotedIfOdd(filter.column) + " ";
      conditions_ << toQ(prefix + filter.condition);
      continue;
    }
    head_.setFilter(model_.borrow(*path), toQ(filter.condition));
  }
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

QString SheetScope::cannotRead(const ScopeFilter& filter, Condition* meant) const {
  Scope one;
  one.table = displayName(model_.table().name);
  one.filters.push_back(filter);
  std::vector<ScopeProblem> problems;
  const auto read = readScope(one, typedConditions(), problems);
  if (!read) return toQ(read.error().message);
  if (!problems.empty()) return toQ(problems.front().error.text());
  if (meant != nullptr) *meant = read->where();
  return {};
}

// Phrases of a scope that could not be read yet, so that they can be put right or taken out.
std::vector<ScopePhrase> SheetScope::unread(const Scope& scope) const {
  std::vector<ScopePhrase> out;
  for (int c = 0; c < model_.columnCount(); ++c) {
    const QString text = head_.filter(c);
    if (!text.isEmpty()) out.push_back({ScopePhrase::Kind::Filter, c, -1, model_.columnName(c) + ' ' + text, {}});
  }
  for (int i = 0; i < conditions_.size(); ++i) {
    out.push_back({ScopePhrase::Kind::Condition, i, -1, conditions_[i], {}});
  }
  for (std::size_t i = 0; i < scope.order.size(); ++i) {
    out.push_back({ScopePhrase::Kind::Order, static_cast<int>(i), -1, toQ(scope.order[i].column), {}});
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
  const Scope scope = typedScope();
  std::vector<ScopeProblem> problems;
  const auto read = readScope(scope, typedConditions(), problems);
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
    const auto at = static_cast<int>(position);
    if (at >= filters) {
      addPhrases(ScopePhrase::Kind::Condition, at - filters, condition);
      continue;
    }
    const auto path = readColumnPath(model_.table(), scope.filters[position].column, &model_.desk().catalogue());
    addPhrases(ScopePhrase::Kind::Filter, model_.columnOf(*path).value_or(0), condition);
  }
  for (std::size_t i = 0; i < order_.size(); ++i) {
    phrases_.push_back({ScopePhrase::Kind::Order, static_cast<int>(i), -1, orderInWords(order_[i]), {}});
  }
  model_.source().read(read->where(), read->order);
  emit changed();
}

// What is joined by "and" is said, and can be changed, one by one.
void SheetScope::addPhrases(ScopePhrase::Kind kind, int at, const Condition& condition) {
  const ConditionWording wording = this->wording();
  const auto add = [&](int part, const Condition& c) {
    phrases_.push_back({kind, at, part, toQ(conditionInWords(model_.table(), c, wording)), c});
  };
  if (condition.op != Condition::Op::And) return add(-1, condition);
  for (std::size_t p = 0; p < condition.parts.size(); ++p) add(static_cast<int>(p), condition.parts[p]);
}

void SheetScope::sayAgain() {
  const ConditionWording wording = this->wording();
  bool differs = false;
  for (ScopePhrase& phrase : phrases_) {
    // What could not be read has no condition, and stays as it was typed.
    if (phrase.kind == ScopePhrase::Kind::Order || phrase.condition.op == Condition::Op::All) continue;
    QString words = toQ(conditionInWords(model_.table(), phrase.condition, wording));
    differs = differs || words != phrase.words;
    phrase.words = std::move(words);
  }
  if (differs) emit changed();
}

ConditionWording SheetScope::wording() const {
  constexpr std::size_t kMostListed = 6;
  ConditionWording out;
  out.called = [this](const Table& table, const Column& column, const Value& key) {
    return called(table, column, key);
  };
  out.spokenOf = [this](const Table& table, const Column& column) { return spokenOf(table, column); };
  out.mostListed = kMostListed;
  return model_.desk().lenses().worded(std::move(out));
}

std::optional<std::string> SheetScope::called(const Table& table, const Column& column, const Value& key) const {
  ReferenceNames& names = model_.desk().names();
  const auto at = table.columnIndex(column.name);
  const Reference* reference = at ? names.reference(table, *at) : nullptr;
  if (reference == nullptr || key.isNull()) return std::nullopt;
  const QString name = names.name(table, *at, key);
  if (name.isEmpty()) {
    names.want(table, *at, {key});
    return std::nullopt;
  }
  const Table* target = model_.desk().catalogue().find(reference->target);
  const std::vector<std::string> by = target == nullptr ? std::vector<std::string>() : names.shownBy(*target);
  const bool sure = std::any_of(by.begin(), by.end(), [&](const std::string& one) {
    return std::any_of(target->keys.begin(), target->keys.end(), [&](const UniqueKey& unique) {
      return unique.columns.size() == 1 && target->columns[unique.columns[0]].name == one;
    });
  });
  // Another record may be called the same, and is not meant.
  const QString words = sure ? name : QStringLiteral("%1 (%2)").arg(name, toQ(canonicalText(key)));
  return words.toStdString();
}

// A reference is spoken of by what it points at.
std::string SheetScope::spokenOf(const Table& table, const Column& column) const {
  const ConditionContext context = model_.desk().conditions();
  if (!referenceNaming(table, column, context)) return {};
  for (const ReferenceStep& step : lendingSteps(table, *context.catalogue)) {
    if (step.join.size() == 1 && step.join[0].first == column.name) return step.said;
  }
  return {};
}

QString SheetScope::orderInWords(const ScopeOrder& order) const {
  QString words = toQ(order.column);
  const auto path = readColumnPath(model_.table(), order.column, &model_.desk().catalogue());
  const Column* column = path ? path->owner(model_.table()).column(path->column) : nullptr;
  if (column != nullptr && path->steps.empty()) {
    const std::string spoken = spokenOf(model_.table(), *column);
    if (!spoken.empty()) words = order.byName ? toQ(spoken) : tr("the key of %1").arg(toQ(spoken));
  }
  if (order.natural) words += tr(" (numbers by size)");
  if (order.descending) words += tr(" last first");
  return words;
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
  head_.setFilter(column, toQ(saidAs(Said::Typed, {pathOf(column), text.toStdString()}).condition));
  read();
}

QString SheetScope::filter(int column) const {
  return toQ(saidAs(Said::Stored, {pathOf(column), head_.filter(column).toStdString()}).condition);
}

QString SheetScope::whole(const ScopePhrase& phrase) const {
  if (phrase.kind == ScopePhrase::Kind::Filter) return head_.filter(phrase.at);
  return phrase.kind == ScopePhrase::Kind::Condition ? conditions_.value(phrase.at) : QString();
}

// A part is said as it can be typed: what it was typed as may lean on the parts before it.
QString SheetScope::text(const ScopePhrase& phrase) const {
  if (phrase.part < 0) return whole(phrase);
  QString words = asTyped(phrase.condition);
  return isAboutOwnColumn(phrase) ? words.mid(ownColumn(phrase).size()) : words;
}

QString SheetScope::ownColumn(const ScopePhrase& phrase) const { return toQ(pathOf(phrase.at)) + QLatin1Char(' '); }

bool SheetScope::isAboutOwnColumn(const ScopePhrase& phrase) const {
  if (phrase.kind != ScopePhrase::Kind::Filter) return false;
  if (phrase.part < 0) return true;
  return phrase.condition.op != Condition::Op::Or &&
         toQ(conditionInWords(model_.table(), phrase.condition)).startsWith(ownColumn(phrase));
}

// All parts of the filter or condition, this one with another condition: each with its column named, for what has none
// is about the one before.
QString SheetScope::withPart(const ScopePhrase& phrase, const Condition& condition) const {
  QStringList out;
  for (const ScopePhrase& other : phrases_) {
    if (other.kind != phrase.kind || other.at != phrase.at) continue;
    const Condition& meant = other.part == phrase.part ? condition : other.condition;
    const QString words = asTyped(meant);
    if (!words.isEmpty()) out << (meant.op == Condition::Op::Or ? QStringLiteral("(%1)").arg(words) : words);
  }
  return out.join(QStringLiteral(" and "));
}

QString SheetScope::setText(const ScopePhrase& phrase, const QString& given, Said said) {
  const bool filter = phrase.kind == ScopePhrase::Kind::Filter;
  QString text = given;
  if (said == Said::Stored) {
    const std::string column = filter ? pathOf(phrase.at) : std::string();
    text = toQ(saidAs(Said::Typed, {column, given.toStdString()}).condition);
  }
  Condition meant;
  if (!text.trimmed().isEmpty()) {
    QString wrong = cannotRead({filter ? pathOf(phrase.at) : std::string(), text.toStdString()}, &meant);
    if (!wrong.isEmpty()) return wrong;
  }
  const QString all = phrase.part < 0 ? text.trimmed() : withPart(phrase, meant);
  if (filter) {
    head_.setFilter(phrase.at, all);
  } else if (phrase.kind == ScopePhrase::Kind::Condition && phrase.at < conditions_.size()) {
    conditions_[phrase.at] = all;
    conditions_.removeAll(QString());
  }
  read();
  return {};
}

QString SheetScope::addCondition(const QString& given, Said said) {
  const QString text = said == Said::Typed ? given : toQ(saidAs(Said::Typed, {{}, given.toStdString()}).condition);
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
  // References go by the name that is shown, until somebody asks for the key.
  ScopeOrder first{name};
  first.byName =
      referenceNaming(model_.ownerTable(column), model_.column(column), model_.desk().conditions()).has_value();
  std::vector<ScopeOrder> order = order_;
  const auto key = std::find_if(order.begin(), order.end(), [&](const ScopeOrder& k) { return k.column == name; });
  const bool wasThere = key != order.end();
  const bool wasDescending = wasThere && key->descending;
  if (!also) {
    const bool alone = order.size() == 1;
    const ScopeOrder before = wasThere ? *key : ScopeOrder{};
    order.clear();
    if (!wasThere || !alone) order.push_back(first);
    if (wasThere && alone && !wasDescending) {
      order.push_back(before);
      order.back().descending = true;
    }
  } else if (!wasThere) {
    order.push_back(first);
  } else if (!wasDescending) {
    key->descending = true;
  } else {
    order.erase(key);
  }
  setOrder(std::move(order));
}

}  // namespace iterandum
