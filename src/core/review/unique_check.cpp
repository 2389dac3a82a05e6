#include "core/review/unique_check.h"

#include <algorithm>
#include <numeric>
#include <set>

namespace iterandum {
namespace {

// The form in which a key's collation takes two texts for the same.
Value collated(const Value& v, const std::string& collation) {
  if (v.kind() != Value::Kind::Text) return v;
  std::string text(v.asString());
  if (collation == "NOCASE") {
    for (char& c : text) c = static_cast<char>(c >= 'A' && c <= 'Z' ? c + 32 : c);
  } else if (collation == "RTRIM") {
    text.erase(text.find_last_not_of(' ') + 1);
  }
  return Value::text(text);
}

ValueTuple collatedTuple(const ValueTuple& tuple, const UniqueKey& key) {
  ValueTuple out;
  for (std::size_t i = 0; i < tuple.size(); ++i) out.push_back(collated(tuple[i], key.collations[i]));
  return out;
}

std::string columnNames(const Table& table, const UniqueKey& key) {
  std::string out;
  for (const std::size_t c : key.columns) out += (out.empty() ? "" : ", ") + table.columns[c].name;
  return out;
}

}  // namespace

Status UniqueCheck::run() {
  std::set<const Table*> tables;
  for (const ExaminedBlock& block : facts_.blocks()) {
    if (block.table != nullptr && block.changes.action != Action::Remove) tables.insert(block.table);
  }
  for (const Table* table : tables) {
    for (const UniqueKey& key : table->keys) {
      const std::vector<Taker> all = takers(*table, key);
      if (all.empty()) continue;
      findDoublesInside(*table, key, all);
      ITERANDUM_TRY(findTaken(*table, key, all));
    }
  }
  return {};
}

std::vector<UniqueCheck::Taker> UniqueCheck::takers(const Table& table, const UniqueKey& key) const {
  std::vector<Taker> out;
  for (std::uint32_t b = 0; b < facts_.blocks().size(); ++b) {
    const ExaminedBlock& block = facts_.blocks()[b];
    if (block.table != &table || block.changes.action == Action::Remove) continue;
    const bool edit = block.changes.action == Action::Edit;
    for (std::uint32_t r = 0; r < block.changes.rows(); ++r) {
      const ChangeState state = verdicts_.of({b, r});
      if (state == ChangeState::AlreadySo || state == ChangeState::Skipped || state == ChangeState::Unresolvable)
        continue;
      if (edit && (block.found.empty() || block.found[r] == 0 || !Facts::promisesAny(block, r, key.columns))) continue;
      auto tuple = facts_.finalTuple({b, r}, key.columns);
      if (tuple && !holdsNull(*tuple)) out.push_back({{b, r}, std::move(*tuple)});
    }
  }
  return out;
}

void UniqueCheck::report(const RowPlace& place, const Table& table, const UniqueKey& key, const ValueTuple& tuple,
                         const std::string& by) {
  Finding finding = verdicts_.findingFor(
      place, FindingKind::Duplicate,
      columnNames(table, key) + " " + tupleInWords(tuple) + " is taken by " + by + "; it must be unique");
  finding.column = table.columns[key.columns[0]].name;
  for (const std::size_t c : key.columns) {
    // The column that this change sets is the one to point at.
    const auto cell = facts_.blocks()[place.block].cellOf(table.columns[c].name);
    if (!cell) continue;
    finding.column = table.columns[c].name;
    finding.to = facts_.blocks()[place.block].changes.cells[*cell].to.at(place.row);
    break;
  }
  verdicts_.note(place, std::move(finding));
}

void UniqueCheck::findDoublesInside(const Table& table, const UniqueKey& key, const std::vector<Taker>& all) {
  TupleIndex seen;
  for (const Taker& taker : all) {
    const auto [it, isNew] = seen.try_emplace(collatedTuple(taker.tuple, key), taker.place);
    if (isNew) continue;
    const RowPlace& other = it->second;
    const std::uint32_t index = facts_.changeIndex(other);
    report(taker.place, table, key, taker.tuple, "change " + std::to_string(index) + " of the same change set");
  }
}

Status UniqueCheck::findTaken(const Table& table, const UniqueKey& key, const std::vector<Taker>& all) {
  std::vector<ValueColumn> keys(key.columns.size());
  std::vector<std::uint32_t> rows(all.size());
  std::iota(rows.begin(), rows.end(), 0U);
  for (const Taker& taker : all) {
    for (std::size_t k = 0; k < keys.size(); ++k) keys[k].push(taker.tuple[k]);
  }
  KeyRead read;
  read.table = &table;
  for (const std::size_t c : key.columns) read.keyColumns.push_back(table.columns[c].name);
  read.keys = &keys;
  read.rows = rows;
  read.columns = table.writeKeyColumns();
  read.exact = false;  // what the key's collation takes for equal is taken
  return session_.readByKeys(
      read,
      [&](std::size_t row, ValueTuple&& identity) {
        const Taker& taker = all[row];
        const RowPlace* holder = verdicts_.touching(table, identity);
        if (holder != nullptr && *holder == taker.place) return;
        if (holder != nullptr) {
          const ExaminedBlock& block = facts_.blocks()[holder->block];
          const bool removed = block.changes.action == Action::Remove;
          if (removed || Facts::promisesAny(block, holder->row, key.columns)) {
            const auto after = removed ? std::nullopt : facts_.finalTuple(*holder, key.columns);
            if (after && sameTuple(collatedTuple(*after, key), collatedTuple(taker.tuple, key))) {
              return;  // both set it to the same: found as a double inside the change set
            }
            facts_.addDependency({Dependency::Kind::GivesUp, *holder, taker.place, &key, nullptr, std::nullopt});
            return;
          }
        }
        const Consequence* by = facts_.consequenceFor(table, identity);
        const bool freed = by != nullptr && (by->kind == Consequence::Kind::Remove ||
                                             std::any_of(key.columns.begin(), key.columns.end(),
                                                         [&](std::size_t c) { return by->valueOf(c) != nullptr; }));
        if (freed && !(by->place == taker.place)) {
          // It goes, or takes another value, because of that change: the database says whether that is enough.
          facts_.addDependency({Dependency::Kind::Before, by->place, taker.place, nullptr, nullptr, std::nullopt});
          return;
        }
        if (freed) return;
        report(taker.place, table, key, taker.tuple, recordInWords(table.name, identity));
      },
      progress_);
}

}  // namespace iterandum
