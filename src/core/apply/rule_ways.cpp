#include "core/apply/rule_ways.h"

#include <algorithm>
#include <numeric>

#include "core/acts/act_run.h"

namespace iterandum {
namespace {

std::vector<std::size_t> positions(const Table& table, const std::vector<std::string>& columns) {
  std::vector<std::size_t> out;
  for (const std::string& name : columns) {
    if (const auto at = table.columnIndex(name)) out.push_back(*at);
  }
  return out;
}

bool hasNone(const ValueTuple& values) {
  return std::any_of(values.begin(), values.end(), [](const Value& v) { return v.isNull(); });
}

}  // namespace

bool RuleWays::isDropped(const RowPlace& place) const { return verdicts_.of(place) == ChangeState::Skipped; }

void RuleWays::add(Found& found, ValueTuple values, const RowPlace& place) const {
  if (values.empty() || hasNone(values)) return;
  const auto [at, isNew] = found.try_emplace(std::move(values), place);
  if (!isNew && isEarlier(place, at->second)) at->second = place;
}

void RuleWays::touchOwn(const RuleRead& own, TouchedRecords& out) const {
  for (std::uint32_t b = 0; b < facts_.blocks().size(); ++b) {
    const ExaminedBlock& block = facts_.blocks()[b];
    const Action action = block.changes.action;
    if (block.table != own.table || action == Action::Remove) continue;
    if (action == Action::Add && execution_ == nullptr) continue;
    for (std::uint32_t r = 0; r < block.changes.rows(); ++r) {
      const RowPlace place{b, r};
      const bool found = action == Action::Add || (r < block.found.size() && block.found[r] != 0);
      if (!found || isDropped(place)) continue;
      const bool written = execution_ != nullptr && verdicts_.isOpen(place);
      ValueTuple key =
          written ? execution_->identityAfter(place) : (action == Action::Add ? ValueTuple() : block.writeKey(r));
      if (!key.empty()) out.try_emplace(std::move(key), RuleTouch{place, true, false});
    }
  }
  for (const Consequence& by : facts_.consequences()) {
    if (by.table != own.table || by.kind != Consequence::Kind::Set) continue;
    out.try_emplace(execution_ != nullptr ? by.identityAfter() : by.identity, RuleTouch{by.place, false, false});
  }
}

RuleWays::Found RuleWays::changedIn(const RuleRead& read) const {
  const std::vector<std::size_t> columns =
      positions(*read.table, std::vector<std::string>(read.columns.begin(), read.columns.end()));
  const bool after = execution_ != nullptr;
  Found out;
  for (std::uint32_t b = 0; b < facts_.blocks().size(); ++b) {
    const ExaminedBlock& block = facts_.blocks()[b];
    const Action action = block.changes.action;
    if (block.table != read.table || action == (after ? Action::Remove : Action::Add)) continue;
    for (std::uint32_t r = 0; r < block.changes.rows(); ++r) {
      const RowPlace place{b, r};
      if (!verdicts_.isOpen(place)) continue;
      if (action == Action::Edit && !Facts::promisesAny(block, r, columns)) continue;
      add(out, after ? execution_->identityAfter(place) : block.writeKey(r), place);
    }
  }
  for (const Consequence& by : facts_.consequences()) {
    if (by.table != read.table) continue;
    const bool goes = by.kind == Consequence::Kind::Remove;
    const bool isRead =
        std::any_of(columns.begin(), columns.end(), [&](std::size_t column) { return by.valueOf(column) != nullptr; });
    if (goes ? !after : isRead) add(out, after ? by.identityAfter() : by.identity, by.place);
  }
  return out;
}

void RuleWays::addPromised(const RuleRead& read, Found& out) const {
  const std::vector<std::size_t> columns = positions(*read.table, read.hops.back().there);
  for (std::uint32_t b = 0; b < facts_.blocks().size(); ++b) {
    const ExaminedBlock& block = facts_.blocks()[b];
    if (block.table != read.table || block.changes.action == Action::Remove) continue;
    for (std::uint32_t r = 0; r < block.changes.rows(); ++r) {
      const RowPlace place{b, r};
      auto values = verdicts_.isOpen(place) ? facts_.finalTuple(place, columns) : std::nullopt;
      if (values) add(out, std::move(*values), place);
    }
  }
}

// Of the records that count only when they are like something, those that are.
Status RuleWays::keepFitting(const RuleRead& read, Found& changed) {
  if (read.fits.op == Condition::Op::All || changed.empty()) return {};
  Query query;
  query.table = read.table;
  query.columns = read.table->writeKeyColumns();
  query.where.op = Condition::Op::Among;
  auto keys = std::make_shared<KeyList>();
  keys->keys.resize(query.columns.size());
  for (const auto& [key, place] : changed) {
    for (std::size_t k = 0; k < key.size(); ++k) keys->keys[k].push(key[k]);
  }
  query.where.keys = std::move(keys);
  RecordNeeds needs;
  needs.facts.push_back(read.fits);
  ITERANDUM_ASSIGN(const std::vector<KeySet> fitting, factsOf(session_, query, needs, progress_));
  std::erase_if(changed, [&](const auto& one) { return !fitting.front().contains(one.first); });
  return {};
}

Result<RuleWays::Found> RuleWays::readWhere(const Table& table, const std::vector<std::string>& by, const Found& values,
                                            const std::vector<std::string>& columns) {
  std::vector<ValueColumn> keys(by.size());
  std::vector<RowPlace> places;
  for (const auto& [tuple, place] : values) {
    for (std::size_t k = 0; k < by.size(); ++k) keys[k].push(tuple[k]);
    places.push_back(place);
  }
  std::vector<std::uint32_t> rows(places.size());
  std::iota(rows.begin(), rows.end(), 0U);
  KeyRead read{&table, by, &keys, rows, columns, UINT64_MAX};
  read.exact = false;  // references go by what the database takes for equal
  Found out;
  ITERANDUM_TRY(session_.readByKeys(
      read, [&](std::size_t row, ValueTuple&& record) { add(out, std::move(record), places[row]); }, progress_));
  return out;
}

Status RuleWays::goBack(const RuleRead& read, Found values, bool facts, TouchedRecords& out) {
  for (std::size_t level = read.hops.size(); level-- > 0 && !values.empty();) {
    const RuleHop& hop = read.hops[level];
    const bool isOwn = level == 0;
    const std::vector<std::string> wanted = isOwn ? hop.from->writeKeyColumns() : read.hops[level - 1].there;
    ITERANDUM_ASSIGN(values, readWhere(*hop.from, hop.here, values, wanted));
  }
  for (const auto& [key, place] : values) {
    const auto [at, isNew] = out.try_emplace(key, RuleTouch{place, false, facts});
    if (isNew) continue;
    at->second.facts = at->second.facts || facts;
    if (!at->second.itself && isEarlier(place, at->second.place)) at->second.place = place;
  }
  return {};
}

Status RuleWays::follow(const RuleRead& read, TouchedRecords& out) {
  Found changed = changedIn(read);
  ITERANDUM_TRY(keepFitting(read, changed));
  if (!changed.empty()) {
    ITERANDUM_ASSIGN(Found values,
                     readWhere(*read.table, read.table->writeKeyColumns(), changed, read.hops.back().there));
    ITERANDUM_TRY(goBack(read, std::move(values), read.isFact, out));
  }
  if (execution_ != nullptr) return {};
  // Where they are going to belong is only known to be touched: whether they count there is told afterwards.
  Found promised;
  addPromised(read, promised);
  return goBack(read, std::move(promised), false, out);
}

Result<TouchedRecords> RuleWays::touched(const std::vector<RuleRead>& reads) {
  TouchedRecords out;
  touchOwn(reads.front(), out);
  for (std::size_t i = 1; i < reads.size(); ++i) ITERANDUM_TRY(follow(reads[i], out));
  return out;
}

}  // namespace iterandum
