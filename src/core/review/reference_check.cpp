#include "core/review/reference_check.h"

#include <algorithm>
#include <numeric>
#include <set>

namespace iterandum {
namespace {

bool holdsNull(const ValueTuple& tuple) {
  return std::any_of(tuple.begin(), tuple.end(), [](const Value& v) { return v.isNull(); });
}

std::string tupleWords(const ValueTuple& tuple) {
  std::string out;
  for (const Value& v : tuple) out += (out.empty() ? "" : ", ") + valueInWords(v);
  return out;
}

// From this many records on, one pass over a table without a fitting index is cheaper than one pass for each.
constexpr std::size_t kScanFrom = 4;

}  // namespace

Status ReferenceCheck::run() {
  std::set<const Table*> tables;
  for (const ExaminedBlock& block : examination_.blocks_) {
    if (block.table != nullptr) tables.insert(block.table);
  }
  for (const Table* table : tables) {
    for (const Reference& reference : table->references) {
      if (!reference.stated) ITERANDUM_TRY(checkParents(*table, reference));
    }
  }
  std::vector<const Table*> toFollow(tables.begin(), tables.end());
  for (const Table* table : toFollow) ITERANDUM_TRY(checkChildren(*table));
  // Cascades reach further tables, and those further ones, until nothing new leaves.
  while (!cascadeRemoved_.empty()) {
    const auto removed = std::move(*cascadeRemoved_.begin());
    cascadeRemoved_.erase(cascadeRemoved_.begin());
    const Table& parent = *removed.first;
    for (const IncomingReference& in : examination_.catalogue_.referencesTo(parent.name)) {
      const Table& child = examination_.catalogue_.tables()[in.table];
      const Reference& reference = child.references[in.reference];
      // The database holds nobody to what was only stated.
      if (reference.targetMissing || reference.stated) continue;
      const std::vector<std::string> names = parent.recordColumns();
      std::vector<Leaving> leaving;
      for (const auto& [place, record] : removed.second) {
        Leaving one{place, true, false, {}, {}};
        for (const std::string& c : reference.targetColumns) {
          const auto at = std::find(names.begin(), names.end(), c) - names.begin();
          one.tuple.push_back(record[static_cast<std::size_t>(at)]);
        }
        if (!holdsNull(one.tuple)) leaving.push_back(std::move(one));
      }
      ITERANDUM_TRY(followReference(child, reference, leaving));
    }
  }
  reportLeftBehind();
  return {};
}

// --- upwards ---------------------------------------------------------------------------------------------------------

void ReferenceCheck::refuseMissingTarget(const Table& table, const Reference& reference) {
  for (std::uint32_t b = 0; b < examination_.blocks_.size(); ++b) {
    const ExaminedBlock& block = examination_.blocks_[b];
    if (block.table != &table) continue;
    for (std::uint32_t r = 0; r < block.changes.rows(); ++r) {
      if (block.changes.action == Action::Edit && !examination_.writesAny(block, r, reference.columns)) continue;
      if (block.states[r] != ChangeState::Open) continue;
      examination_.note(
          {b, r}, examination_.findingFor({b, r}, FindingKind::StructureChanged,
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
  for (std::uint32_t b = 0; b < examination_.blocks_.size(); ++b) {
    const ExaminedBlock& block = examination_.blocks_[b];
    if (block.table != &table || block.changes.action == Action::Remove) continue;
    for (std::uint32_t r = 0; r < block.changes.rows(); ++r) {
      const ChangeState state = block.states[r];
      if (state == ChangeState::AlreadySo || state == ChangeState::Skipped || state == ChangeState::Unresolvable)
        continue;
      const bool edit = block.changes.action == Action::Edit;
      if (edit && (block.found.empty() || block.found[r] == 0)) continue;
      if (edit && !examination_.writesAny(block, r, reference.columns)) continue;
      auto tuple = examination_.finalTuple({b, r}, reference.columns);
      if (!tuple || holdsNull(*tuple)) continue;
      places.push_back({b, r});
      tuples.push_back(std::move(*tuple));
    }
  }
  if (places.empty()) return {};
  const Table& target = *examination_.catalogue_.find(reference.target);
  const std::vector<std::size_t> targetColumns = target.columnIndexes(reference.targetColumns);
  std::vector<std::uint8_t> there(places.size(), 0);
  ITERANDUM_TRY(
      findRecords(target, targetColumns, tuples, target.writeKeyColumns(), [&](std::size_t i, ValueTuple&& identity) {
        const RowPlace* change = examination_.touching(target, identity);
        if (change == nullptr) {
          there[i] = 1;
          return;
        }
        const ExaminedBlock& block = examination_.blocks_[change->block];
        if (block.changes.action == Action::Remove) return;
        if (!examination_.writesAny(block, change->row, targetColumns)) {
          there[i] = 1;
          return;
        }
        const auto after = examination_.finalTuple(*change, targetColumns);
        if (after && sameTuple(*after, tuples[i])) there[i] = 1;
      }));
  for (std::size_t i = 0; i < places.size(); ++i) {
    if (there[i] != 0 || providedByChangeSet(target, targetColumns, tuples[i])) continue;
    Finding finding = examination_.findingFor(places[i], FindingKind::ParentMissing,
                                              displayName(target.name) + " has no record " + tupleWords(tuples[i]) +
                                                  " to point at; choose one that is there, or add it");
    finding.column = table.columns[reference.columns[0]].name;
    const auto& block = examination_.blocks_[places[i].block];
    if (const auto cell = block.cellOf(finding.column)) finding.to = block.changes.cells[*cell].to.at(places[i].row);
    examination_.note(places[i], std::move(finding));
  }
  return {};
}

bool ReferenceCheck::providedByChangeSet(const Table& target, const std::vector<std::size_t>& columns,
                                         const ValueTuple& tuple) {
  auto [it, isNew] = provided_.try_emplace({&target, columns});
  if (isNew) {
    for (std::uint32_t b = 0; b < examination_.blocks_.size(); ++b) {
      const ExaminedBlock& block = examination_.blocks_[b];
      if (block.table != &target || block.changes.action == Action::Remove) continue;
      for (std::uint32_t r = 0; r < block.changes.rows(); ++r) {
        if (block.changes.action == Action::Edit && !examination_.writesAny(block, r, columns)) continue;
        if (auto provided = examination_.finalTuple({b, r}, columns)) it->second.try_emplace(*provided, RowPlace{b, r});
      }
    }
  }
  return it->second.contains(tuple);
}

// --- downwards -------------------------------------------------------------------------------------------------------

std::vector<ReferenceCheck::Leaving> ReferenceCheck::leavingRecords(const Table& parent,
                                                                    const std::vector<std::size_t>& columns) const {
  std::vector<Leaving> out;
  for (std::uint32_t b = 0; b < examination_.blocks_.size(); ++b) {
    const ExaminedBlock& block = examination_.blocks_[b];
    if (block.table != &parent || block.changes.action == Action::Add || block.found.empty()) continue;
    const bool removal = block.changes.action == Action::Remove;
    for (std::uint32_t r = 0; r < block.changes.rows(); ++r) {
      if (block.found[r] == 0 || block.states[r] == ChangeState::Skipped || block.states[r] == ChangeState::AlreadySo)
        continue;
      Leaving one{{b, r}, false, !removal, block.beforeTuple(columns, r), {}};
      if (holdsNull(one.tuple)) continue;
      if (!removal) {
        if (!examination_.writesAny(block, r, columns)) continue;
        auto after = examination_.finalTuple({b, r}, columns);
        if (!after || sameTuple(*after, one.tuple)) continue;
        one.newTuple = std::move(*after);
      }
      out.push_back(std::move(one));
    }
  }
  return out;
}

Status ReferenceCheck::checkChildren(const Table& parent) {
  for (const IncomingReference& in : examination_.catalogue_.referencesTo(parent.name)) {
    const Table& child = examination_.catalogue_.tables()[in.table];
    const Reference& reference = child.references[in.reference];
    if (reference.targetMissing || reference.stated) continue;
    const auto leaving = leavingRecords(parent, parent.columnIndexes(reference.targetColumns));
    ITERANDUM_TRY(followReference(child, reference, leaving));
  }
  return {};
}

Status ReferenceCheck::followReference(const Table& child, const Reference& reference,
                                       const std::vector<Leaving>& leaving) {
  if (leaving.empty()) return {};
  std::vector<ValueTuple> tuples;
  tuples.reserve(leaving.size());
  for (const Leaving& l : leaving) tuples.push_back(l.tuple);
  const std::vector<std::string> wanted = child.recordColumns();
  return findRecords(child, reference.columns, tuples, wanted, [&](std::size_t i, ValueTuple&& record) {
    judgeChild(child, reference, leaving[i], std::move(record), wanted);
  });
}

void ReferenceCheck::judgeChild(const Table& child, const Reference& reference, const Leaving& leaving,
                                ValueTuple&& record, const std::vector<std::string>& recordColumns) {
  ValueTuple identity;
  for (const std::string& c : child.writeKeyColumns()) {
    const auto at = std::find(recordColumns.begin(), recordColumns.end(), c) - recordColumns.begin();
    identity.push_back(record[static_cast<std::size_t>(at)]);
  }
  if (const RowPlace* change = examination_.touching(child, identity)) {
    const ExaminedBlock& block = examination_.blocks_[change->block];
    const bool goesToo = block.changes.action == Action::Remove;
    const bool written = !goesToo && examination_.writesAny(block, change->row, reference.columns);
    const auto after = written ? examination_.finalTuple(*change, reference.columns) : std::nullopt;
    if (goesToo || (written && (!after || !sameTuple(*after, leaving.tuple)))) {
      // The record that points here is dealt with by the change set itself, and has to be so first.
      if (!(*change == leaving.place) && !leaving.rekeyed) {
        examination_.dependencies_.push_back({*change, leaving.place, nullptr});
      }
      return;
    }
  }
  const ReferenceAction action = leaving.rekeyed ? reference.onUpdate : reference.onDelete;
  if (action == ReferenceAction::NoAction || action == ReferenceAction::Restrict) {
    const Table& parent = *examination_.catalogue_.find(reference.target);
    const bool replaced = action == ReferenceAction::NoAction &&
                          providedByChangeSet(parent, parent.columnIndexes(reference.targetColumns), leaving.tuple);
    if (!replaced) ++leftBehind_[{leaving.place, &child, leaving.rekeyed}];
    return;
  }
  const ExaminedBlock& cause = examination_.blocks_[leaving.place.block];
  Consequence consequence;
  consequence.change = cause.changes.changeIndex[leaving.place.row];
  consequence.table = &child;
  consequence.recordColumns = recordColumns;
  consequence.identity = identity;
  if (action == ReferenceAction::Cascade && !leaving.rekeyed) {
    if (!alreadyCascaded_[&child].try_emplace(identity, leaving.place).second) return;
    cascadeRemoved_[&child].emplace_back(leaving.place, record);
  } else {
    consequence.kind = Consequence::Kind::Set;
    consequence.columns = reference.columns;
  }
  consequence.before = std::move(record);
  examination_.consequences_.push_back(std::move(consequence));
}

void ReferenceCheck::reportLeftBehind() {
  for (const auto& [where, rows] : leftBehind_) {
    const std::string records =
        std::to_string(rows) + (rows == 1 ? " record of " : " records of ") + displayName(where.child->name);
    Finding finding = examination_.findingFor(where.place, FindingKind::StillReferenced,
                                              records + (rows == 1 ? " still points" : " still point") +
                                                  (where.rekeyed ? " at the key that is changed" : " at it") +
                                                  "; remove or repoint " + (rows == 1 ? "it" : "them") +
                                                  " first, in the same change set if you like");
    finding.rows = rows;
    finding.fromTable = where.child->name;
    examination_.note(where.place, std::move(finding));
  }
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
    return examination_.session_.select(
        all,
        [&](ValueTuple&& row) {
          const ValueTuple tuple(row.begin() + static_cast<std::ptrdiff_t>(wanted.size()), row.end());
          const auto hit = byTuple.find(tuple);
          if (hit == byTuple.end()) return true;
          row.resize(wanted.size());
          for (const std::size_t i : hit->second) sink(i, ValueTuple(row));
          return true;
        },
        examination_.progress_);
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
  return examination_.session_.readByKeys(
      read,
      [&](std::size_t row, ValueTuple&& record) {
        const std::vector<std::size_t>& all = askers[row];
        for (std::size_t i = 1; i < all.size(); ++i) sink(all[i], ValueTuple(record));
        sink(all.front(), std::move(record));
      },
      examination_.progress_);
}

}  // namespace iterandum
