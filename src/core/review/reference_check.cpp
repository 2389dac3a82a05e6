#include "core/review/reference_check.h"

#include <algorithm>
#include <numeric>
#include <set>

namespace iterandum {
namespace {

// From this many records on, one pass over a table without a fitting index is cheaper than one pass for each.
constexpr std::size_t kScanFrom = 4;

}  // namespace

Status ReferenceCheck::checkParents() {
  std::set<const Table*> tables;
  for (const ExaminedBlock& block : facts_.blocks()) {
    if (block.table != nullptr) tables.insert(block.table);
  }
  for (const Table* table : tables) {
    for (const Reference& reference : table->references) {
      if (!reference.stated) ITERANDUM_TRY(checkParents(*table, reference));
    }
  }
  return {};
}

// --- upwards ---------------------------------------------------------------------------------------------------------

void ReferenceCheck::refuseMissingTarget(const Table& table, const Reference& reference) {
  for (std::uint32_t b = 0; b < facts_.blocks().size(); ++b) {
    const ExaminedBlock& block = facts_.blocks()[b];
    if (block.table != &table) continue;
    for (std::uint32_t r = 0; r < block.changes.rows(); ++r) {
      if (block.changes.action == Action::Edit && !Facts::promisesAny(block, r, reference.columns)) continue;
      if (!verdicts_.isOpen({b, r})) continue;
      verdicts_.note({b, r},
                     verdicts_.findingFor({b, r}, FindingKind::StructureChanged,
                                          displayName(table.name) + " points at " + displayName(reference.target) +
                                              ", which is not there as the reference says; the database "
                                              "refuses such a write"));
    }
  }
}

Status ReferenceCheck::checkParents(const Table& table, const Reference& reference) {
  if (reference.targetMissing) {
    refuseMissingTarget(table, reference);
    return {};
  }
  std::vector<RowPlace> places;
  std::vector<ValueTuple> tuples;
  for (std::uint32_t b = 0; b < facts_.blocks().size(); ++b) {
    const ExaminedBlock& block = facts_.blocks()[b];
    if (block.table != &table || block.changes.action == Action::Remove) continue;
    for (std::uint32_t r = 0; r < block.changes.rows(); ++r) {
      const ChangeState state = verdicts_.of({b, r});
      if (state == ChangeState::AlreadySo || state == ChangeState::Skipped || state == ChangeState::Unresolvable)
        continue;
      const bool edit = block.changes.action == Action::Edit;
      if (edit && (block.found.empty() || block.found[r] == 0)) continue;
      if (edit && !Facts::promisesAny(block, r, reference.columns)) continue;
      auto tuple = facts_.finalTuple({b, r}, reference.columns);
      if (!tuple || holdsNull(*tuple)) continue;
      places.push_back({b, r});
      tuples.push_back(std::move(*tuple));
    }
  }
  if (places.empty()) return {};
  const Table& target = *facts_.catalogue().find(reference.target);
  const std::vector<std::size_t> targetColumns = target.columnIndexes(reference.targetColumns);
  std::vector<std::uint8_t> there(places.size(), 0);
  ITERANDUM_TRY(
      findRecords(target, targetColumns, tuples, target.writeKeyColumns(), [&](std::size_t i, ValueTuple&& identity) {
        if (staysWith(target, targetColumns, identity, tuples[i])) there[i] = 1;
      }));
  for (std::size_t i = 0; i < places.size(); ++i) {
    const RowPlace* provider = there[i] != 0 ? nullptr : providedByChangeSet(target, targetColumns, tuples[i]);
    // What a cascade brings along is written by nobody.
    if (provider != nullptr && !(*provider == places[i]) && writesItself(places[i], reference))
      facts_.addDependency({Dependency::Kind::Provides, *provider, places[i], nullptr, &reference, std::nullopt});
    if (there[i] != 0 || provider != nullptr) continue;
    refuseMissingParent(places[i], table, reference, tuples[i]);
  }
  return {};
}

bool ReferenceCheck::writesItself(const RowPlace& place, const Reference& reference) const {
  const ExaminedBlock& block = facts_.blocks()[place.block];
  return std::any_of(reference.columns.begin(), reference.columns.end(),
                     [&](std::size_t c) { return block.cellAt[c] && block.writesCell(*block.cellAt[c], place.row); });
}

void ReferenceCheck::refuseMissingParent(const RowPlace& place, const Table& table, const Reference& reference,
                                         const ValueTuple& tuple) {
  Finding finding = verdicts_.findingFor(place, FindingKind::ParentMissing,
                                         displayName(reference.target) + " has no record " + tupleInWords(tuple) +
                                             " to point at; choose one that is there, or add it");
  finding.column = table.columns[reference.columns[0]].name;
  const auto& block = facts_.blocks()[place.block];
  if (const auto cell = block.cellOf(finding.column)) finding.to = block.changes.cells[*cell].to.at(place.row);
  verdicts_.reopen(place);
  verdicts_.note(place, std::move(finding));
}

// Whether a record that holds the tuple now still does so afterwards.
bool ReferenceCheck::staysWith(const Table& table, const std::vector<std::size_t>& columns, const ValueTuple& identity,
                               const ValueTuple& tuple) const {
  if (const RowPlace* change = verdicts_.touching(table, identity)) {
    const ExaminedBlock& block = facts_.blocks()[change->block];
    if (block.changes.action == Action::Remove) return false;
    if (Facts::promisesAny(block, change->row, columns)) {
      const auto after = facts_.finalTuple(*change, columns);
      return after && sameTuple(*after, tuple);
    }
  }
  const Consequence* by = facts_.consequenceFor(table, identity);
  if (by == nullptr) return true;
  if (by->kind == Consequence::Kind::Remove) return false;
  return std::none_of(columns.begin(), columns.end(), [&](std::size_t c) { return by->valueOf(c) != nullptr; }) ||
         sameTuple(tupleAfter(*by, columns), tuple);
}

// What the columns of a record hold after the consequence; a value that is not known here counts as none.
ValueTuple ReferenceCheck::tupleAfter(const Consequence& consequence, const std::vector<std::size_t>& columns) {
  ValueTuple out;
  for (const std::size_t c : columns) {
    const std::optional<Value>* value = consequence.valueOf(c);
    out.push_back(value == nullptr ? consequence.before[c] : value->value_or(Value()));
  }
  return out;
}

const RowPlace* ReferenceCheck::providedByChangeSet(const Table& target, const std::vector<std::size_t>& columns,
                                                    const ValueTuple& tuple) {
  auto [it, isNew] = provided_.try_emplace({&target, columns});
  if (isNew) {
    for (std::uint32_t b = 0; b < facts_.blocks().size(); ++b) {
      const ExaminedBlock& block = facts_.blocks()[b];
      if (block.table != &target || block.changes.action == Action::Remove) continue;
      for (std::uint32_t r = 0; r < block.changes.rows(); ++r) {
        const ChangeState state = verdicts_.of({b, r});
        if (state == ChangeState::Skipped || state == ChangeState::Unresolvable) continue;
        if (block.changes.action == Action::Edit && !Facts::promisesAny(block, r, columns)) continue;
        if (auto provided = facts_.finalTuple({b, r}, columns)) it->second.try_emplace(*provided, RowPlace{b, r});
      }
    }
    for (const Consequence& c : facts_.consequences()) {
      if (c.table != &target || c.kind != Consequence::Kind::Set) continue;
      if (std::any_of(columns.begin(), columns.end(), [&](std::size_t col) { return c.valueOf(col) != nullptr; }))
        it->second.try_emplace(tupleAfter(c, columns), c.place);
    }
  }
  const auto at = it->second.find(tuple);
  return at == it->second.end() ? nullptr : &at->second;
}

// --- looking up ------------------------------------------------------------------------------------------------------

Status ReferenceCheck::findRecords(const Table& table, const std::vector<std::size_t>& columns,
                                   const std::vector<ValueTuple>& tuples, const std::vector<std::string>& wanted,
                                   const KeyedRowSink& sink) {
  if (!table.canFindBy(columns) && tuples.size() >= kScanFrom) {
    std::unordered_map<ValueTuple, std::vector<std::size_t>, TupleHash, TupleSame> byTuple;
    for (std::size_t i = 0; i < tuples.size(); ++i) byTuple[tuples[i]].push_back(i);
    Query all;
    all.table = &table;
    all.columns = wanted;
    for (const std::size_t c : columns) all.columns.push_back(table.columns[c].name);
    return session_.select(
        all,
        [&](ValueTuple&& row) {
          const ValueTuple tuple(row.begin() + static_cast<std::ptrdiff_t>(wanted.size()), row.end());
          const auto hit = byTuple.find(tuple);
          if (hit == byTuple.end()) return true;
          row.resize(wanted.size());
          for (const std::size_t i : hit->second) sink(i, ValueTuple(row));
          return true;
        },
        progress_);
  }
  // Many records may point at the same one: it is asked for once.
  std::unordered_map<ValueTuple, std::uint32_t, TupleHash, TupleSame> rowOf;
  std::vector<std::vector<std::size_t>> askers;
  std::vector<ValueColumn> keys(columns.size());
  for (std::size_t i = 0; i < tuples.size(); ++i) {
    const auto [at, isNew] = rowOf.try_emplace(tuples[i], static_cast<std::uint32_t>(askers.size()));
    if (isNew) {
      askers.emplace_back();
      for (std::size_t k = 0; k < keys.size(); ++k) keys[k].push(tuples[i][k]);
    }
    askers[at->second].push_back(i);
  }
  std::vector<std::uint32_t> rows(askers.size());
  std::iota(rows.begin(), rows.end(), 0U);
  KeyRead read;
  read.table = &table;
  for (const std::size_t c : columns) read.keyColumns.push_back(table.columns[c].name);
  read.keys = &keys;
  read.rows = rows;
  read.columns = wanted;
  read.mostPerKey = UINT64_MAX;
  read.exact = false;  // a reference holds for all that the database takes for equal
  return session_.readByKeys(
      read,
      [&](std::size_t row, ValueTuple&& record) {
        const std::vector<std::size_t>& all = askers[row];
        for (std::size_t i = 1; i < all.size(); ++i) sink(all[i], ValueTuple(record));
        sink(all.front(), std::move(record));
      },
      progress_);
}

}  // namespace iterandum
