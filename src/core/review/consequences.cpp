// ReferenceCheck, downwards: who points at what is removed or renamed, and what the database will do about them.
#include <algorithm>
#include <set>

#include "core/review/reference_check.h"

namespace iterandum {
namespace {

ValueTuple partOf(const ValueTuple& record, const std::vector<std::size_t>& columns) {
  ValueTuple out;
  out.reserve(columns.size());
  for (const std::size_t c : columns) out.push_back(record[c]);
  return out;
}

}  // namespace

Status ReferenceCheck::followConsequences() {
  std::set<const Table*> tables;
  for (const ExaminedBlock& block : facts_.blocks()) {
    if (block.table != nullptr) tables.insert(block.table);
  }
  for (const Table* table : tables) ITERANDUM_TRY(checkChildren(*table));
  // Cascades reach further tables, and those further ones, until nothing new happens.
  while (!reached_.empty()) {
    const auto next = std::move(*reached_.begin());
    reached_.erase(reached_.begin());
    ITERANDUM_TRY(followReached(*next.first, next.second));
  }
  reportLeftBehind();
  return {};
}

std::vector<ReferenceCheck::Leaving> ReferenceCheck::leavingRecords(const Table& parent,
                                                                    const std::vector<std::size_t>& columns) const {
  std::vector<Leaving> out;
  for (std::uint32_t b = 0; b < facts_.blocks().size(); ++b) {
    const ExaminedBlock& block = facts_.blocks()[b];
    if (block.table != &parent || block.changes.action == Action::Add || block.found.empty()) continue;
    const bool removal = block.changes.action == Action::Remove;
    for (std::uint32_t r = 0; r < block.changes.rows(); ++r) {
      const ChangeState state = verdicts_.of({b, r});
      if (block.found[r] == 0 || state == ChangeState::Skipped || state == ChangeState::AlreadySo) continue;
      if (!removal && !Facts::promisesAny(block, r, columns)) continue;
      Leaving one{{b, r}, !removal, block.beforeTuple(columns, r), {}};
      if (holdsNull(one.tuple)) continue;
      if (!removal) {
        one.newTuple = facts_.finalTuple({b, r}, columns);
        if (one.newTuple && sameTuple(*one.newTuple, one.tuple)) continue;
      }
      out.push_back(std::move(one));
    }
  }
  return out;
}

Status ReferenceCheck::checkChildren(const Table& parent) {
  for (const IncomingReference& in : facts_.catalogue().referencesTo(parent.name)) {
    const Table& child = facts_.catalogue().tables()[in.table];
    const Reference& reference = child.references[in.reference];
    // The database holds nobody to what was only stated.
    if (reference.targetMissing || reference.stated) continue;
    const auto leaving = leavingRecords(parent, parent.columnIndexes(reference.targetColumns));
    ITERANDUM_TRY(followReference(child, reference, leaving));
  }
  return {};
}

Status ReferenceCheck::followReached(const Table& parent, const std::vector<Reached>& reached) {
  for (const IncomingReference& in : facts_.catalogue().referencesTo(parent.name)) {
    const Table& child = facts_.catalogue().tables()[in.table];
    const Reference& reference = child.references[in.reference];
    if (reference.targetMissing || reference.stated) continue;
    const std::vector<std::size_t> columns = parent.columnIndexes(reference.targetColumns);
    std::vector<Leaving> leaving;
    for (const Reached& r : reached) {
      Leaving one{r.place, r.after.has_value(), partOf(r.before, columns), {}};
      if (holdsNull(one.tuple)) continue;
      if (r.after) {
        const bool known = std::all_of(columns.begin(), columns.end(), [&](std::size_t c) { return r.known[c]; });
        if (known) one.newTuple = partOf(*r.after, columns);
        if (known && sameTuple(*one.newTuple, one.tuple)) continue;
      }
      leaving.push_back(std::move(one));
    }
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
  std::vector<std::size_t> identityAt;
  for (const std::string& c : child.writeKeyColumns()) {
    identityAt.push_back(static_cast<std::size_t>(std::find(wanted.begin(), wanted.end(), c) - wanted.begin()));
  }
  return findRecords(child, reference.columns, tuples, wanted, [&](std::size_t i, ValueTuple&& record) {
    ValueTuple identity = partOf(record, identityAt);
    judgeChild({child, reference, std::move(record), std::move(identity)}, leaving[i]);
  });
}

bool ReferenceCheck::namesRecord(const Table& table, const std::vector<std::size_t>& columns) {
  const std::vector<std::string> key = table.writeKeyColumns();
  return std::any_of(columns.begin(), columns.end(), [&](std::size_t c) {
    return std::find(key.begin(), key.end(), table.columns[c].name) != key.end();
  });
}

void ReferenceCheck::judgeChild(Child&& child, const Leaving& leaving) {
  const RowPlace* change = verdicts_.touching(child.table, child.identity);
  if (change != nullptr && dealtWith(child, *change, leaving)) return;
  const ReferenceAction action = leaving.rekeyed ? child.reference.onUpdate : child.reference.onDelete;
  if (action == ReferenceAction::NoAction || action == ReferenceAction::Restrict) {
    const Table& parent = *facts_.catalogue().find(child.reference.target);
    // Only a removal and an addition of the same key replace a record; a key that moves on to another record would
    // leave this one pointing at a stranger.
    const RowPlace* provider =
        leaving.rekeyed || action == ReferenceAction::Restrict
            ? nullptr
            : providedByChangeSet(parent, parent.columnIndexes(child.reference.targetColumns), leaving.tuple);
    const bool replaced = provider != nullptr && facts_.blocks()[provider->block].changes.action == Action::Add;
    if (!replaced) leaveBehind(child, leaving, action);
    return;
  }
  if (action == ReferenceAction::Cascade && !leaving.rekeyed) {
    removeAlong(std::move(child), change, leaving);
  } else {
    setAlong(std::move(child), change, leaving, action);
  }
}

bool ReferenceCheck::dealtWith(const Child& child, const RowPlace& change, const Leaving& leaving) {
  const ExaminedBlock& block = facts_.blocks()[change.block];
  const std::vector<std::size_t>& columns = child.reference.columns;
  const auto depends = [&](Dependency::Kind kind) {
    if (!(change == leaving.place)) facts_.addDependency({kind, change, leaving.place, nullptr, &child.reference, {}});
  };
  if (block.changes.action == Action::Remove) {
    // What a cascade renames is found by its old name as long as it is removed before. One that points at itself waits
    // for nothing, but may have to let go of itself first.
    facts_.addDependency({Dependency::Kind::Leaves, change, leaving.place, nullptr, &child.reference, {}});
    return true;
  }
  const bool asked =
      std::any_of(columns.begin(), columns.end(), [&](std::size_t c) { return block.cellAt[c].has_value(); });
  const bool written = Facts::promisesAny(block, change.row, columns);
  const auto after = facts_.finalTuple(change, columns);
  if (written && (!after || !sameTuple(*after, leaving.tuple))) {
    const ReferenceAction action = leaving.rekeyed ? child.reference.onUpdate : child.reference.onDelete;
    const bool follows = leaving.rekeyed && after && leaving.newTuple && sameTuple(*after, *leaving.newTuple);
    if (follows && action == ReferenceAction::Cascade) {
      comesByCascade(child, change, leaving);
    } else if (!follows || (action != ReferenceAction::SetNull && action != ReferenceAction::SetDefault)) {
      // The record points elsewhere before its parent leaves.
      depends(Dependency::Kind::Leaves);
    }
    return true;
  }
  if (!asked || !after || !sameTuple(*after, leaving.tuple)) return false;
  if (verdicts_.of(change) == ChangeState::Skipped) return false;
  keepsPointing(child, change, leaving);
  return true;
}

// The file asks for the value that the cascade brings: nothing is left to write for it.
void ReferenceCheck::comesByCascade(const Child& child, const RowPlace& change, const Leaving& leaving) {
  ExaminedBlock& block = facts_.blocks()[change.block];
  for (const std::size_t c : child.reference.columns) {
    if (block.cellAt[c]) block.setFate(*block.cellAt[c], change.row, CellFate::ByCascade);
  }
  if (namesRecord(child.table, child.reference.columns) && !(change == leaving.place)) {
    facts_.addDependency({Dependency::Kind::Before, change, leaving.place, nullptr, nullptr, {}});
  }
}

// The file asks in so many words that the record points at this value, which its parent gives up.
void ReferenceCheck::keepsPointing(const Child& child, const RowPlace& change, const Leaving& leaving) {
  ExaminedBlock& block = facts_.blocks()[change.block];
  const Table& parent = *facts_.catalogue().find(child.reference.target);
  const RowPlace* provider =
      providedByChangeSet(parent, parent.columnIndexes(child.reference.targetColumns), leaving.tuple);
  const bool all = std::all_of(child.reference.columns.begin(), child.reference.columns.end(),
                               [&](std::size_t c) { return block.cellAt[c].has_value(); });
  if (provider == nullptr || !all) {
    refuseMissingParent(change, child.table, child.reference, leaving.tuple);
    return;
  }
  const ReferenceAction action = leaving.rekeyed ? child.reference.onUpdate : child.reference.onDelete;
  if (!leaving.rekeyed && action == ReferenceAction::Cascade) {
    const std::uint32_t index = facts_.changeIndex(leaving.place);
    Finding finding = verdicts_.findingFor(change, FindingKind::RecordGone,
                                           "change " + std::to_string(index) +
                                               " of the same change set removes what it points at, and this record "
                                               "goes along; keep it, or add it again");
    verdicts_.reopen(change);
    verdicts_.note(change, std::move(finding));
    return;
  }
  if (leaving.rekeyed && action == ReferenceAction::Cascade && namesRecord(child.table, child.reference.columns)) {
    // Between the two writes it would go by the name of another record.
    Finding finding = verdicts_.findingFor(change, FindingKind::StillReferenced,
                                           "the key that it points at moves on to another record, and its own key "
                                           "with it; keeping it where it is takes two "
                                           "change sets");
    verdicts_.note(change, std::move(finding));
    return;
  }
  // It is written even where it is so already: afterwards it would not be so any more.
  for (std::size_t i = 0; i < child.reference.columns.size(); ++i) {
    const std::size_t cell = *block.cellAt[child.reference.columns[i]];
    block.setFate(cell, change.row, CellFate::Written);
    const bool moves = action == ReferenceAction::Cascade && leaving.newTuple;
    if (moves || action == ReferenceAction::SetNull)
      block.between[{cell, change.row}] = moves ? (*leaving.newTuple)[i] : Value();
  }
  verdicts_.reopen(change);
  const bool mustLeave = action == ReferenceAction::NoAction || action == ReferenceAction::Restrict;
  if (mustLeave) {
    facts_.addDependency({Dependency::Kind::Leaves, change, leaving.place, nullptr, &child.reference, {}});
  } else {
    facts_.addDependency({Dependency::Kind::Before, leaving.place, change, nullptr, nullptr, {}});
  }
}

void ReferenceCheck::removeAlong(Child&& child, const RowPlace* change, const Leaving& leaving) {
  const std::uint32_t index = facts_.changeIndex(leaving.place);
  Consequence& consequence = facts_.addConsequence(child.table, child.identity, child.record, leaving.place);
  if (consequence.kind == Consequence::Kind::Remove) return;
  consequence.kind = Consequence::Kind::Remove;
  consequence.causes = {{index, {}}};
  consequence.columns.clear();
  consequence.values.clear();
  if (change != nullptr && facts_.blocks()[change->block].changes.action == Action::Edit) {
    Finding finding = verdicts_.findingFor(*change, FindingKind::RecordGone,
                                           "change " + std::to_string(index) +
                                               " of the same change set removes what it points at, and this record "
                                               "goes along; it cannot be changed as well");
    verdicts_.note(*change, std::move(finding));
  }
  reached_[&child.table].push_back({leaving.place, std::move(child.record), std::nullopt, {}});
}

void ReferenceCheck::setAlong(Child&& child, const RowPlace* change, const Leaving& leaving, ReferenceAction action) {
  Consequence& consequence = facts_.addConsequence(child.table, child.identity, child.record, leaving.place);
  if (consequence.kind == Consequence::Kind::Remove) return;
  const std::vector<std::size_t>& columns = child.reference.columns;
  bool news = false;
  consequence.causes.push_back({facts_.changeIndex(leaving.place), columns});
  for (std::size_t i = 0; i < columns.size(); ++i) {
    std::optional<Value> value;
    if (action == ReferenceAction::SetNull) value = Value();
    if (action == ReferenceAction::Cascade && leaving.newTuple) value = (*leaving.newTuple)[i];
    if (const auto* known = consequence.valueOf(columns[i])) {
      if (known->has_value() == value.has_value() && (!value || sameValue(**known, *value))) continue;
      consequence.values[static_cast<std::size_t>(known - consequence.values.data())] = std::move(value);
    } else {
      consequence.columns.push_back(columns[i]);
      consequence.values.push_back(std::move(value));
    }
    news = true;
  }
  if (!news) return;  // records that point at each other in a circle
  if (change != nullptr && namesRecord(child.table, columns) && !(*change == leaving.place)) {
    // Afterwards the record goes by another name.
    facts_.addDependency({Dependency::Kind::Before, *change, leaving.place, nullptr, nullptr, {}});
  }
  Reached reached{leaving.place, child.record, child.record, std::vector<bool>(child.record.size(), true)};
  for (std::size_t i = 0; i < consequence.columns.size(); ++i) {
    reached.known[consequence.columns[i]] = consequence.values[i].has_value();
    (*reached.after)[consequence.columns[i]] = consequence.values[i].value_or(Value());
  }
  reached_[&child.table].push_back(std::move(reached));
}

void ReferenceCheck::leaveBehind(const Child& child, const Leaving& leaving, ReferenceAction action) {
  LeftBehindRecords& records = leftBehind_[{leaving.place, &child.table, leaving.rekeyed}];
  ++records.count;
  // A record that goes along by another reference is not left behind; that is known at the end.
  const bool mayGoAlong = action == ReferenceAction::NoAction &&
                          std::any_of(child.table.references.begin(), child.table.references.end(), [](const auto& r) {
                            return r.onDelete == ReferenceAction::Cascade && !r.stated;
                          });
  if (mayGoAlong) records.mayGoAlong.push_back(child.identity);
}

void ReferenceCheck::reportLeftBehind() {
  for (const auto& [where, left] : leftBehind_) {
    std::uint64_t rows = left.count;
    for (const ValueTuple& identity : left.mayGoAlong) {
      const Consequence* own = facts_.consequenceFor(*where.child, identity);
      if (own != nullptr && own->kind == Consequence::Kind::Remove) --rows;
    }
    if (rows == 0) continue;
    const std::string records =
        std::to_string(rows) + (rows == 1 ? " record of " : " records of ") + displayName(where.child->name);
    Finding finding =
        verdicts_.findingFor(where.place, FindingKind::StillReferenced,
                             records + (rows == 1 ? " still points" : " still point") +
                                 (where.rekeyed ? " at the key that is changed" : " at it") + "; remove or repoint " +
                                 (rows == 1 ? "it" : "them") + " first, in the same change set if you like");
    finding.rows = rows;
    finding.fromTable = where.child->name;
    verdicts_.note(where.place, std::move(finding));
  }
}

}  // namespace iterandum
