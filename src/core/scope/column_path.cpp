#include "core/scope/column_path.h"

#include <algorithm>

namespace iterandum {
namespace {

ReferenceStep stepBy(const Table& table, const Reference& reference, const Table& target, std::string_view said) {
  ReferenceStep out;
  out.target = &target;
  out.said = said;
  for (std::size_t i = 0; i < reference.columns.size(); ++i) {
    out.join.emplace_back(table.columns[reference.columns[i]].name, reference.targetColumns[i]);
  }
  return out;
}

// Its own column says best which reference is meant.
bool isNamedFirst(const Table& table, const Reference& r, std::string_view name) {
  return r.name == name || (r.columns.size() == 1 && table.columns[r.columns[0]].name == name);
}

Result<ReferenceStep> readStep(const Table& table, std::string_view name, const Catalogue* catalogue) {
  const Reference* found = nullptr;
  int count = 0;
  for (const Reference& r : table.references) {
    if (isNamedFirst(table, r, name)) {
      found = &r;
      count = 1;
      break;
    }
    if (r.target.name != name) continue;
    found = &r;
    ++count;
  }
  const Table* target = count == 1 && catalogue != nullptr ? catalogue->find(found->target) : nullptr;
  if (target != nullptr && !found->targetMissing) return stepBy(table, *found, *target, name);
  std::string problem = "'" + std::string(name) + "' is no reference of " + displayName(table.name);
  if (count > 1) problem += " alone: several point there; name it by its column";
  std::string known;
  for (const Reference& r : table.references) known += (known.empty() ? "" : ", ") + r.target.name;
  if (count == 0 && !known.empty()) problem += "; it points at " + known;
  return fail(ErrorKind::InvalidInput, problem);
}

}  // namespace

std::string columnNames(const Table& table) {
  std::string out;
  for (const Column& c : table.columns) out += (out.empty() ? "" : ", ") + quotedIfOdd(c.name);
  return out;
}

Result<ColumnPath> readColumnPath(const Table& table, std::string_view text, const Catalogue* catalogue) {
  ColumnPath path;
  const Table* here = &table;
  std::string_view rest = text;
  if (table.column(rest) == nullptr) {
    for (std::size_t dot = rest.find('.'); dot != std::string_view::npos; dot = rest.find('.')) {
      ITERANDUM_ASSIGN(ReferenceStep step, readStep(*here, rest.substr(0, dot), catalogue));
      here = step.target;
      path.steps.push_back(std::move(step));
      rest.remove_prefix(dot + 1);
      if (here->column(rest) != nullptr) break;  // a column may have a dot in its name
    }
  }
  if (here->column(rest) == nullptr) {
    return fail(ErrorKind::InvalidInput, "'" + std::string(rest) + "' is no column of " + displayName(here->name) +
                                             "; it has " + columnNames(*here));
  }
  path.column = rest;
  return path;
}

std::string columnPathText(const ColumnPath& path) {
  std::string out;
  for (const ReferenceStep& step : path.steps) out += step.said + ".";
  return out + path.column;
}

std::string cannotBorrow(const ColumnPath& path) {
  for (const ReferenceStep& step : path.steps) {
    std::vector<std::string> there;
    for (const auto& pair : step.join) there.push_back(pair.second);
    const bool single = std::any_of(step.target->keys.begin(), step.target->keys.end(), [&](const UniqueKey& key) {
      return std::all_of(key.columns.begin(), key.columns.end(), [&](std::size_t c) {
        return std::find(there.begin(), there.end(), step.target->columns[c].name) != there.end();
      });
    });
    if (!single) return "several records of " + displayName(step.target->name) + " may be meant";
  }
  return {};
}

std::vector<ReferenceStep> lendingSteps(const Table& table, const Catalogue& catalogue) {
  std::vector<ReferenceStep> out;
  for (const Reference& r : table.references) {
    const Table* target = catalogue.find(r.target);
    if (target == nullptr || r.targetMissing || !target->unusable.empty()) continue;
    // The table's name reads best, where it is enough.
    const bool alone = std::count_if(table.references.begin(), table.references.end(),
                                     [&](const Reference& other) { return other.target == r.target; }) == 1;
    const bool taken = std::any_of(table.references.begin(), table.references.end(), [&](const Reference& other) {
      return &other != &r && isNamedFirst(table, other, r.target.name);
    });
    std::string said = alone && !taken ? r.target.name : table.columns[r.columns[0]].name;
    if (!alone && r.columns.size() > 1) {
      if (r.name.empty()) continue;
      said = r.name;
    }
    ReferenceStep step = stepBy(table, r, *target, said);
    if (cannotBorrow({{step}, {}}).empty()) out.push_back(std::move(step));
  }
  return out;
}

}  // namespace iterandum
