#include "core/acts/merge_records.h"

#include <algorithm>
#include <deque>
#include <map>
#include <numeric>
#include <set>
#include <span>
#include <unordered_map>

#include "core/base/names.h"
#include "core/catalogue/column_rules.h"

namespace iterandum {
namespace {

// What records of a table look like: told once, for many of them.
struct Shape {
  explicit Shape(const Table& of) : table(&of), names(of.recordColumns()), keyNames(of.writeKeyColumns()) {
    for (const std::string& key : keyNames) {
      keyAt.push_back(static_cast<std::size_t>(std::find(names.begin(), names.end(), key) - names.begin()));
    }
  }
  const Table* table;
  std::vector<std::string> names;     // recordColumns(); the table's own columns come first
  std::vector<std::string> keyNames;  // writeKeyColumns()
  std::vector<std::size_t> keyAt;     // where they lie
};

// A record on its way: what the database holds of it, and what it is to be.
struct MovedRecord {
  const Table* table = nullptr;
  const Shape* shape = nullptr;
  ValueTuple key;
  ValueTuple before;  // by recordColumns()
  ValueTuple after;
  bool removed = false;
  bool repointed = false;
  // What points at it holds on to the key that it had: it has to be there under both for a while.
  bool replaced = false;
  std::vector<std::string> byDatabase;  // columns that the database changes along, by a cascade
};

// In a record by recordColumns(), in which the table's own columns come first.
std::size_t positionOf(const Table& table, const std::string& column) {
  const auto own = table.columnIndex(column);
  if (own) return *own;
  const std::vector<std::string> names = table.recordColumns();
  return static_cast<std::size_t>(std::find(names.begin(), names.end(), column) - names.begin());
}

ValueTuple partOf(const Table& table, const ValueTuple& record, const std::vector<std::string>& columns) {
  ValueTuple out;
  for (const std::string& column : columns) out.push_back(record[positionOf(table, column)]);
  return out;
}

std::string named(const Table& table, const ValueTuple& key) {
  const std::vector<std::string> names = table.writeKeyColumns();
  std::string out = displayName(table.name);
  for (std::size_t k = 0; k < key.size(); ++k) out += (k > 0 ? ", " : " ") + names[k] + "=" + canonicalText(key[k]);
  return out;
}

class Merging {
 public:
  Merging(Session& session, const Catalogue& catalogue, std::span<const MergeWish> wishes, Progress& progress)
      : session_(session), catalogue_(catalogue), wishes_(wishes), progress_(progress) {
    dropDoubles_ = std::any_of(wishes.begin(), wishes.end(), [](const MergeWish& wish) { return wish.dropDoubles; });
  }

  Result<MergePlan> run() {
    for (const MergeWish& wish : wishes_) ITERANDUM_TRY(begin(wish));
    moveAll();
    while (true) {
      ITERANDUM_TRY(followAll());
      const std::size_t before = plan_.doubles.size();
      ITERANDUM_TRY(findDoubles());
      if (plan_.doubles.size() == before || !dropDoubles_) break;
    }
    write();
    return std::move(plan_);
  }

 private:
  // Everything that points at the record as it was points at it as it is, or at another one.
  struct Move {
    MovedRecord* from = nullptr;
    MovedRecord* to = nullptr;
  };

  // --- records -------------------------------------------------------------------------------------------------------

  MovedRecord& recordOf(const Table& table, ValueTuple&& values) {
    const Shape& shape = shapes_.try_emplace(&table, table).first->second;
    ValueTuple key;
    for (const std::size_t at : shape.keyAt) key.push_back(values[at]);
    auto& known = records_[&table];
    const auto found = known.find(key);
    if (found != known.end()) return *found->second;
    MovedRecord& record = all_.emplace_back();
    record.table = &table;
    record.shape = &shape;
    record.key = key;
    record.before = values;
    record.after = std::move(values);
    known.emplace(std::move(key), &record);
    return record;
  }

  // For each of the tuples all records whose columns hold its values, as the database compares them.
  Result<std::vector<std::vector<ValueTuple>>> recordsWith(const Table& table, const std::vector<std::string>& columns,
                                                           const std::vector<ValueTuple>& wanted, bool exact) {
    std::vector<ValueColumn> keys(columns.size());
    for (std::size_t c = 0; c < columns.size(); ++c) {
      const Column* column = table.column(columns[c]);
      for (const ValueTuple& values : wanted) {
        keys[c].push(column != nullptr ? comparableForm(*column, values[c]) : values[c]);
      }
    }
    std::vector<std::uint32_t> rows(wanted.size());
    std::iota(rows.begin(), rows.end(), 0U);
    KeyRead read{&table, columns, &keys, rows, table.recordColumns(), UINT64_MAX};
    read.exact = exact;
    std::vector<std::vector<ValueTuple>> out(wanted.size());
    ITERANDUM_TRY(session_.readByKeys(
        read, [&](std::size_t row, ValueTuple&& record) { out[row].push_back(std::move(record)); }, progress_));
    return out;
  }

  Status begin(const MergeWish& wish) {
    const Table& table = *wish.table;
    const std::string& why = !table.notEditable.empty() ? table.notEditable : table.cannotRemove;
    if (!why.empty()) return fail(ErrorKind::InvalidInput, displayName(table.name) + " cannot be changed: " + why);
    std::vector<ValueTuple> wanted{wish.keep};
    wanted.insert(wanted.end(), wish.drop.begin(), wish.drop.end());
    ITERANDUM_ASSIGN(std::vector<std::vector<ValueTuple>> found,
                     recordsWith(table, table.writeKeyColumns(), wanted, true));
    MovedRecord* kept = nullptr;
    for (std::size_t i = 0; i < found.size(); ++i) {
      if (found[i].size() != 1) return fail(ErrorKind::NotFound, "there is no record " + named(table, wanted[i]));
      MovedRecord* const record = &recordOf(table, std::move(found[i].front()));
      if (record == kept) return fail(ErrorKind::InvalidInput, "the record that stays cannot go as well");
      if (record->removed || kept_.contains(record)) {
        return fail(ErrorKind::InvalidInput, named(table, wanted[i]) + " is named twice");
      }
      if (kept == nullptr) {
        kept = record;
        kept_.insert(record);
        continue;
      }
      record->removed = true;
      moves_.push_back({record, kept});
    }
    for (const auto& [column, key] : wish.take) ITERANDUM_TRY(takeValue(table, *kept, column, key));
    return {};
  }

  // What is to have values of others moves as well, behind all that go: a dropped record that it pointed at is no more.
  void moveAll() {
    for (MovedRecord& record : all_) {
      if (kept_.contains(&record) && !sameTuple(record.before, record.after)) moves_.push_back({&record, &record});
    }
  }

  Status takeValue(const Table& table, MovedRecord& kept, const std::string& column, const ValueTuple& key) {
    const Column* described = table.column(column);
    if (described == nullptr) return fail(ErrorKind::InvalidInput, "'" + column + "' is no column of its own");
    if (!described->notEditable.empty()) {
      return fail(ErrorKind::InvalidInput, column + " cannot be edited: " + described->notEditable);
    }
    if (contains(table.writeKeyColumns(), column)) {
      return fail(ErrorKind::InvalidInput, column + " is the key of the record that stays; it stays as well");
    }
    const auto source = records_[&table].find(key);
    if (source == records_[&table].end()) {
      return fail(ErrorKind::InvalidInput, named(table, key) + " is none of the records that are merged");
    }
    const std::size_t at = positionOf(table, column);
    kept.after[at] = source->second->before[at];
    return {};
  }

  // --- what points at them -------------------------------------------------------------------------------------------

  Status followAll() {
    while (!moves_.empty()) {
      std::map<const Table*, std::vector<Move>> byTable;
      for (const Move& move : moves_) byTable[move.from->table].push_back(move);
      moves_.clear();
      for (const auto& [table, moves] : byTable) {
        if (!progress_.step("what points at them", all_.size(), 0)) return fail(ErrorKind::Cancelled, "stopped");
        for (const IncomingReference& in : catalogue_.referencesTo(table->name)) {
          const Table& child = catalogue_.tables()[in.table];
          const Reference& reference = child.references[in.reference];
          if (!reference.targetMissing) ITERANDUM_TRY(follow(moves, child, reference));
        }
      }
    }
    return {};
  }

  Status follow(const std::vector<Move>& moves, const Table& child, const Reference& reference) {
    std::vector<const Move*> followed;
    std::vector<ValueTuple> wanted;
    for (const Move& move : moves) {
      ValueTuple were = partOf(*move.from->table, move.from->before, reference.targetColumns);
      const ValueTuple are = partOf(*move.from->table, move.to->after, reference.targetColumns);
      if (holdsNull(were) || sameTuple(were, are)) continue;
      followed.push_back(&move);
      wanted.push_back(std::move(were));
    }
    if (wanted.empty()) return {};
    ITERANDUM_ASSIGN(std::vector<std::vector<ValueTuple>> found,
                     recordsWith(child, child.columnNames(reference.columns), wanted, false));
    for (std::size_t i = 0; i < found.size(); ++i) {
      if (!found[i].empty()) ITERANDUM_TRY(follow(*followed[i], child, reference, std::move(found[i])));
    }
    return {};
  }

  Status follow(const Move& move, const Table& child, const Reference& reference, std::vector<ValueTuple>&& found) {
    const ValueTuple are = partOf(*move.from->table, move.to->after, reference.targetColumns);
    if (child.writeKeyColumns().empty() || !child.notEditable.empty() || !child.cannotEdit.empty()) {
      const std::string why = child.notEditable.empty() ? child.cannotEdit : child.notEditable;
      return fail(ErrorKind::InvalidInput, std::to_string(found.size()) + " records of " + displayName(child.name) +
                                               " point at what goes, and cannot be changed" +
                                               (why.empty() ? "" : ": " + why));
    }
    // No such column can be empty in between.
    const bool holdsOn = std::none_of(reference.columns.begin(), reference.columns.end(),
                                      [&](std::size_t c) { return child.columns[c].nullable; });
    const bool cascades = !move.from->removed && reference.onUpdate == ReferenceAction::Cascade && !reference.stated;
    if (move.from == move.to && !kept_.contains(move.to) && !cascades && !reference.stated && holdsOn)
      move.to->replaced = true;
    for (ValueTuple& values : found) {
      MovedRecord& record = recordOf(child, std::move(values));
      if (!record.removed) ITERANDUM_TRY(repoint(record, reference, are, move, cascades));
    }
    return {};
  }

  Status repoint(MovedRecord& record, const Reference& reference, const ValueTuple& are, const Move& move,
                 bool cascades) {
    bool changed = false;
    // What would point at itself pointed at its own double.
    if (&record == move.to && move.from->removed) {
      ITERANDUM_TRY(pointNowhere(record, reference));
      changed = true;
    } else {
      for (std::size_t i = 0; i < reference.columns.size(); ++i) {
        const Column& column = record.table->columns[reference.columns[i]];
        if (!column.notEditable.empty() && !cascades) {
          return fail(ErrorKind::InvalidInput, named(*record.table, record.key) + " points at what goes, and " +
                                                   column.name + " cannot be edited: " + column.notEditable);
        }
        Value& value = record.after[reference.columns[i]];
        Value is = comparableForm(column, are[i]);
        changed = changed || !sameValue(value, is);
        value = std::move(is);
        if (cascades && !contains(record.byDatabase, column.name)) record.byDatabase.push_back(column.name);
      }
      record.repointed = record.repointed || !cascades;
    }
    // What points at it by a column that changes has to come along.
    if (changed && isPointedAtBy(*record.table, reference)) moves_.push_back({&record, &record});
    return {};
  }

  // Whether some reference leads to one of the columns that this reference has here.
  [[nodiscard]] bool isPointedAtBy(const Table& table, const Reference& reference) const {
    const std::vector<std::string> columns = table.columnNames(reference.columns);
    const std::vector<IncomingReference> incoming = catalogue_.referencesTo(table.name);
    return std::any_of(incoming.begin(), incoming.end(), [&](const IncomingReference& in) {
      const Reference& other = catalogue_.tables()[in.table].references[in.reference];
      return std::any_of(other.targetColumns.begin(), other.targetColumns.end(),
                         [&](const std::string& c) { return contains(columns, c); });
    });
  }

  static Status pointNowhere(MovedRecord& record, const Reference& reference) {
    bool any = false;
    for (const std::size_t at : reference.columns) {
      const Column& column = record.table->columns[at];
      if (!column.nullable || !column.notEditable.empty()) continue;
      record.after[positionOf(*record.table, column.name)] = Value();
      any = true;
    }
    if (any) return {};
    return fail(ErrorKind::InvalidInput, named(*record.table, record.key) + " points at a record that goes, and " +
                                             record.table->columns[reference.columns[0]].name + " must have a value");
  }

  // --- doubles -------------------------------------------------------------------------------------------------------

  // Records that are to hold other values in a unique key.
  struct Claim {
    MovedRecord* record;
    ValueTuple values;
  };

  Status findDoubles() {
    std::map<std::pair<const Table*, const UniqueKey*>, std::vector<Claim>> claims;
    for (MovedRecord& record : all_) {
      if (!record.repointed || record.removed) continue;
      for (const UniqueKey& key : record.table->keys) {
        const bool moved = std::any_of(key.columns.begin(), key.columns.end(),
                                       [&](std::size_t c) { return !sameValue(record.before[c], record.after[c]); });
        if (!moved) continue;
        ValueTuple is;
        for (const std::size_t c : key.columns) is.push_back(record.after[c]);
        if (!holdsNull(is)) claims[{record.table, &key}].push_back({&record, std::move(is)});
      }
    }
    for (auto& [which, all] : claims) {
      const std::vector<std::string> names = which.first->columnNames(which.second->columns);
      ITERANDUM_ASSIGN(const auto holders, holdersOf(*which.first, names, all));
      std::unordered_map<ValueTuple, MovedRecord*, TupleHash, TupleSame> taken;
      for (std::size_t i = 0; i < all.size(); ++i) {
        MovedRecord* const record = all[i].record;
        if (record->removed) continue;
        const auto [first, isFirst] = taken.emplace(all[i].values, record);
        MovedRecord* other = !isFirst && !first->second->removed ? first->second : nullptr;
        for (std::size_t h = 0; other == nullptr && h < holders[i].size(); ++h) {
          if (staysDouble(*record, *holders[i][h], which.second->columns)) other = holders[i][h];
        }
        if (other == nullptr) continue;
        plan_.doubles.push_back({record->table, record->key, other->key, names});
        if (!dropDoubles_) continue;
        record->removed = true;
        moves_.push_back({record, other});
      }
    }
    return {};
  }

  // Whether the other one goes on holding what this one is to hold.
  static bool staysDouble(const MovedRecord& record, const MovedRecord& other,
                          const std::vector<std::size_t>& columns) {
    if (&other == &record || other.removed) return false;
    return std::all_of(columns.begin(), columns.end(),
                       [&](std::size_t c) { return sameValue(other.before[c], other.after[c]); });
  }

  // For each claim the records that hold its values in the database.
  Result<std::vector<std::vector<MovedRecord*>>> holdersOf(const Table& table, const std::vector<std::string>& names,
                                                           const std::vector<Claim>& claims) {
    std::vector<ValueColumn> keys(names.size());
    for (const Claim& claim : claims) {
      for (std::size_t c = 0; c < keys.size(); ++c) keys[c].push(claim.values[c]);
    }
    std::vector<std::uint32_t> rows(claims.size());
    std::iota(rows.begin(), rows.end(), 0U);
    KeyRead read{&table, names, &keys, rows, table.recordColumns(), UINT64_MAX};
    read.exact = false;
    std::vector<std::pair<std::size_t, ValueTuple>> found;
    ITERANDUM_TRY(session_.readByKeys(
        read, [&](std::size_t row, ValueTuple&& record) { found.emplace_back(row, std::move(record)); }, progress_));
    std::vector<std::vector<MovedRecord*>> out(claims.size());
    for (auto& [row, record] : found) out[row].push_back(&recordOf(table, std::move(record)));
    return out;
  }

  // --- changes -------------------------------------------------------------------------------------------------------

  void write() {
    for (const MovedRecord& record : all_) {
      if (record.removed) continue;
      record.replaced ? writeAddition(record) : writeEdit(record);
    }
    for (const MovedRecord& record : all_) {
      if (record.removed || record.replaced) writeRemoval(record);
      plan_.removed += record.removed ? 1 : 0;
    }
  }

  static Change changeOf(const MovedRecord& record, Action action) {
    Change change;
    change.action = action;
    change.table = record.table->name;
    change.keyColumns = record.shape->keyNames;
    change.key = record.key;
    return change;
  }

  void writeEdit(const MovedRecord& record) {
    Change change = changeOf(record, Action::Edit);
    const std::vector<std::string>& names = record.shape->names;
    for (std::size_t c = 0; c < names.size(); ++c) {
      if (sameValue(record.before[c], record.after[c]) || contains(record.byDatabase, names[c])) continue;
      change.cells.push_back({names[c], true, record.before[c], record.after[c]});
    }
    if (change.cells.empty()) return;
    plan_.changes.add(change);
    plan_.repointed += record.repointed ? 1 : 0;
  }

  void writeRemoval(const MovedRecord& record) {
    Change change = changeOf(record, Action::Remove);
    const std::vector<std::string>& names = record.shape->names;
    for (std::size_t c = 0; c < names.size(); ++c) change.cells.push_back({names[c], true, record.before[c], {}});
    plan_.changes.add(change);
  }

  // The same record under its new key.
  void writeAddition(const MovedRecord& record) {
    Change change = changeOf(record, Action::Add);
    change.keyColumns.clear();
    change.key.clear();
    for (const Column& column : record.table->columns) {
      if (column.computed) continue;
      change.cells.push_back({column.name, false, {}, record.after[positionOf(*record.table, column.name)]});
    }
    plan_.changes.add(change);
    ++plan_.repointed;
  }

  Session& session_;
  const Catalogue& catalogue_;
  const std::span<const MergeWish> wishes_;
  bool dropDoubles_ = false;
  Progress& progress_;
  std::map<const Table*, Shape> shapes_;
  std::deque<MovedRecord> all_;  // they stay where they are
  std::map<const Table*, std::unordered_map<ValueTuple, MovedRecord*, TupleHash, TupleSame>> records_;
  std::deque<Move> moves_;
  std::set<const MovedRecord*> kept_;
  MergePlan plan_;
};

}  // namespace

Result<MergePlan> planMerge(Session& session, const Catalogue& catalogue, const MergeWish& wish, Progress& progress) {
  return Merging(session, catalogue, {&wish, 1}, progress).run();
}

Result<MergePlan> planMerges(Session& session, const Catalogue& catalogue, const std::vector<MergeWish>& wishes,
                             Progress& progress) {
  return Merging(session, catalogue, wishes, progress).run();
}

Result<ValueTuple> keyOfRecord(Session& session, const Table& table, const std::vector<std::string>& columns,
                               const ValueTuple& values, Progress& progress) {
  std::vector<ValueColumn> keys(columns.size());
  for (std::size_t c = 0; c < columns.size(); ++c) {
    const Column* column = table.column(columns[c]);
    if (column == nullptr && columns[c] != table.rowIdName) {
      return fail(ErrorKind::InvalidInput, "'" + columns[c] + "' is no column of " + displayName(table.name));
    }
    keys[c].push(column != nullptr ? comparableForm(*column, values[c]) : values[c]);
  }
  const std::vector<std::uint32_t> rows{0};
  const KeyRead read{&table, columns, &keys, rows, table.writeKeyColumns()};
  std::vector<ValueTuple> found;
  ITERANDUM_TRY(session.readByKeys(
      read, [&](std::size_t, ValueTuple&& key) { found.push_back(std::move(key)); }, progress));
  if (found.size() == 1) return std::move(found.front());
  std::string said;
  for (std::size_t c = 0; c < columns.size(); ++c) {
    said += (c > 0 ? ", " : " ") + columns[c] + "=" + canonicalText(values[c]);
  }
  return fail(ErrorKind::NotFound,
              (found.empty() ? "there is no record " : "there are several records ") + displayName(table.name) + said);
}

}  // namespace iterandum
