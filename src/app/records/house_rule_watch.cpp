#include "app/records/house_rule_watch.h"

#include <QObject>
#include <algorithm>

namespace iterandum {
namespace {

// Where they lie in the table; nothing: some lie elsewhere.
std::optional<std::vector<std::size_t>> placesOf(const Table& table, const std::vector<ColumnPath>& paths) {
  std::vector<std::size_t> out;
  for (const ColumnPath& path : paths) {
    const auto at = path.steps.empty() ? table.columnIndex(path.column) : std::nullopt;
    if (!at) return std::nullopt;
    out.push_back(*at);
  }
  return out;
}

}  // namespace

bool HouseRuleWatch::Broken::speaksOf(std::size_t column) const {
  return std::find(columns.begin(), columns.end(), column) != columns.end();
}

void HouseRuleWatch::readAgain() {
  rules_.clear();
  for (const HouseRule& rule : desk_.kept().houseRules()) {
    // One that cannot be read is said by the review.
    auto read = readRule(rule, contextNow(desk_.catalogue()));
    if (!read || read->table->name != table_.name) continue;
    RecordNeeds needs;
    auto check = ConditionCheck::make(table_, read->holds, needs);
    const auto columns = placesOf(table_, needs.columns);
    const auto before = placesOf(table_, needs.before);
    if (!check || !columns || !before || !needs.facts.empty()) continue;
    rules_.push_back({std::move(*read), std::move(needs), std::move(*check), *columns, *before});
  }
  std::stable_sort(rules_.begin(), rules_.end(),
                   [](const Rule& a, const Rule& b) { return a.read.stops > b.read.stops; });
}

// `now`: as it would be; else as it was, which was the same before.
bool HouseRuleWatch::holds(const Rule& rule, const std::vector<Cell>& record, bool now, bool isNew) {
  ValueTuple columns;
  ValueTuple before;
  for (const std::size_t c : rule.columns) columns.push_back(now ? record[c].after : record[c].before);
  for (const std::size_t c : rule.before) before.push_back(isNew ? Value() : record[c].before);
  return rule.check.holds({columns, {}, 0, before});
}

std::optional<HouseRuleWatch::Broken> HouseRuleWatch::brokenBy(const std::vector<Cell>& record, bool isNew) const {
  for (const Rule& rule : rules_) {
    const auto isUnknown = [&](std::size_t c) { return !record[c].known; };
    if (std::any_of(rule.columns.begin(), rule.columns.end(), isUnknown) || holds(rule, record, true, isNew)) continue;
    const bool same = !isNew && std::all_of(rule.columns.begin(), rule.columns.end(), [&](std::size_t c) {
      return sameValue(record[c].after, record[c].before);
    });
    if (same && !holds(rule, record, false, isNew)) continue;
    const QString name = toQ(rule.read.name);
    const QString message = toQ(rule.read.message);
    return Broken{rule.read.stops ? QObject::tr("It would break the house rule “%1”: %2").arg(name, message)
                                  : QObject::tr("The house rule “%1” warns: %2").arg(name, message),
                  rule.read.stops, rule.columns};
  }
  return std::nullopt;
}

}  // namespace iterandum
