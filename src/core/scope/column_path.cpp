#include "core/scope/column_path.h"

#include <algorithm>

#include "core/value/small_letters.h"

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

bool sameInAnyCase(std::string_view a, std::string_view b) { return smallLetters(a) == smallLetters(b); }

// How a name has to fit: as it is, or in any case.
using SameName = bool (*)(std::string_view, std::string_view);
bool sameExactly(std::string_view a, std::string_view b) { return a == b; }
constexpr SameName kFits[] = {sameExactly, sameInAnyCase};

// Its own column says best which reference is meant; where that has several, its own name.
bool isNamedFirst(const Table& table, const Reference& r, std::string_view name, SameName same) {
  return same(r.name, name) || (r.columns.size() == 1 && same(table.columns[r.columns[0]].name, name));
}

// The references that are called so.
std::vector<const Reference*> referencesCalled(const Table& table, std::string_view name) {
  for (const SameName same : kFits) {
    std::vector<const Reference*> out;
    for (const Reference& r : table.references) {
      if (isNamedFirst(table, r, name, same)) out.push_back(&r);
    }
    if (!out.empty()) return {out.front()};
    for (const Reference& r : table.references) {
      if (same(r.target.name, name)) out.push_back(&r);
    }
    if (!out.empty()) return out;
  }
  return {};
}

Result<ReferenceStep> readStep(const Table& table, std::string_view name, const Catalogue* catalogue) {
  const std::vector<const Reference*> found = referencesCalled(table, name);
  const Table* target = found.size() == 1 && catalogue != nullptr ? catalogue->find(found[0]->target) : nullptr;
  if (target != nullptr && !found[0]->targetMissing) return stepBy(table, *found[0], *target, name);
  std::string problem = "'" + std::string(name) + "' is no reference of " + displayName(table.name);
  if (found.size() > 1) problem += " alone: several point there; name it by its column";
  std::string known;
  for (const Reference& r : table.references) known += (known.empty() ? "" : ", ") + r.target.name;
  if (found.empty() && !known.empty()) problem += "; it points at " + known;
  return fail(ErrorKind::InvalidInput, problem);
}

tl::unexpected<Error> noColumn(const Table& table, std::string_view name) {
  return fail(ErrorKind::InvalidInput, "'" + std::string(name) + "' is no column of " + displayName(table.name) +
                                           "; it has " + columnNames(table));
}

}  // namespace

const Column* columnCalled(const Table& table, std::string_view name) {
  if (const Column* column = table.column(name)) return column;
  const Column* found = nullptr;
  const std::string small = smallLetters(name);
  for (const Column& column : table.columns) {
    if (smallLetters(column.name) != small) continue;
    if (found != nullptr) return nullptr;  // which of them, nobody can tell
    found = &column;
  }
  return found;
}

// A reference by its name stands for its own column, where it has one.
const Column* columnOfReference(const Table& table, std::string_view name) {
  const std::vector<const Reference*> found = referencesCalled(table, name);
  if (found.size() != 1 || found[0]->columns.size() != 1) return nullptr;
  return &table.columns[found[0]->columns[0]];
}

ReferenceStep stepAlong(const Table& table, const Reference& reference, const Table& target) {
  return stepBy(table, reference, target, table.columns[reference.columns[0]].name);
}

std::string columnNames(const Table& table) {
  std::string out;
  for (const Column& c : table.columns) out += (out.empty() ? "" : ", ") + quotedIfOdd(c.name);
  return out;
}

Result<ColumnPath> readColumnPath(const Table& table, std::string_view text, const Catalogue* catalogue) {
  ColumnPath path;
  const Table* here = &table;
  std::string_view rest = text;
  const Column* found = columnCalled(table, rest);
  for (std::size_t dot = rest.find('.'); found == nullptr && dot != std::string_view::npos; dot = rest.find('.')) {
    ITERANDUM_ASSIGN(ReferenceStep step, readStep(*here, rest.substr(0, dot), catalogue));
    here = step.target;
    path.steps.push_back(std::move(step));
    rest.remove_prefix(dot + 1);
    found = columnCalled(*here, rest);  // a column may have a dot in its name
  }
  if (found == nullptr) found = columnOfReference(*here, rest);
  if (found == nullptr) return noColumn(*here, rest);
  path.column = found->name;
  return path;
}

Result<ColumnPath> readColumnPath(const Table& table, const std::vector<std::string>& names,
                                  const Catalogue* catalogue) {
  ColumnPath path;
  const Table* here = &table;
  for (std::size_t i = 0; i + 1 < names.size(); ++i) {
    ITERANDUM_ASSIGN(ReferenceStep step, readStep(*here, names[i], catalogue));
    here = step.target;
    path.steps.push_back(std::move(step));
  }
  const Column* found = columnCalled(*here, names.back());
  if (found == nullptr) return noColumn(*here, names.back());
  path.column = found->name;
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
      return &other != &r && isNamedFirst(table, other, r.target.name, sameInAnyCase);
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

std::vector<std::size_t> askForColumns(const std::vector<ColumnPath>& paths, Query& query) {
  const auto own = static_cast<std::size_t>(
      std::count_if(paths.begin(), paths.end(), [](const ColumnPath& path) { return !path.isBorrowed(); }));
  const std::size_t borrowedFrom = query.columns.size() + own;
  std::vector<std::size_t> out;
  for (const ColumnPath& path : paths) {
    if (path.isBorrowed()) {
      out.push_back(borrowedFrom + query.borrowed.size());
      query.borrowed.push_back(path);
    } else {
      out.push_back(query.columns.size());
      query.columns.push_back(path.column);
    }
  }
  return out;
}

}  // namespace iterandum
