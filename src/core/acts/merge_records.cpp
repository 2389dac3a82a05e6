#include "core/acts/merge_records.h"

#include <algorithm>
#include <deque>
#include <map>
#include <numeric>
#include <unordered_map>

#include "core/base/names.h"
#include "core/catalogue/column_rules.h"

namespace iterandum {
namespace {

// A record on its way: what the database holds of it, and what it is to be.
struct MovedRecord {
  const Table* table = nullptr;
  ValueTuple key;
  ValueTuple before;  // by recordColumns()
  ValueTuple after;
  bool removed = false;
  bool repointed = false;
  // What points at it holds on to the key that it had: it has to be there under both for a while.
  bool replaced = false;
  std::vector<std::string> byDatabase;  // columns that the database changes along, by a cascade
};

std::size_t positionOf(const Table& table, const std::string& column) {
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
  Merging(Session& session, const Catalogue& catalogue, const MergeWish& wish, Progress& progress)
      : session_(session), catalogue_(catalogue), wish_(wish), progress_(progress) {}

  Result<MergePlan> run() {
    ITERANDUM_TRY(begin());
    while (true) {
      ITERANDUM_TRY(followAll());
      const std::size_t before = plan_.doubles.size();
      ITERANDUM_TRY(findDoubles());
      if (plan_.doubles.size() == before || !wish_.dropDoubles) break;
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
    ValueTuple key = partOf(table, values, table.writeKeyColumns());
    auto& known = records_[&table];
    const auto found = known.find(key);
    if (found != known.end()) return *found->second;
    MovedRecord& record = all_.emplace_back();
    record.table = &table;
    record.key = key;
    record.before = values;
    record.after = std::move(values);
    known.emplace(std::move(key), &record);
    return record;
  }

  // All records whose columns hold these values, as the database compares them.
  Result<std::vector<ValueTuple>> recordsWith(const Table& table, const std::vector<std::string>& columns,
                                              const ValueTuple& values, bool exact) {
    std::vector<ValueColumn> keys(columns.size());
    for (std::size_t c = 0; c < columns.size(); ++c) {
      const Column* column = table.column(columns[c]);
      keys[c].push(column != nullptr ? comparableForm(*column, values[c]) : values[c]);
    }
    const std::vector<std::uint32_t> rows{0};
    KeyRead read{&table, columns, &keys, rows, table.recordColumns(), UINT64_MAX};
    read.exact = exact;
    std::vector<ValueTuple> out;
    ITERANDUM_TRY(session_.readByKeys(
        read, [&](std::size_t, ValueTuple&& record) { out.push_back(std::move(record)); }, progress_));
    return out;
  }

  Result<MovedRecord*> ownRecord(const ValueTuple& key) {
    ITERANDUM_ASSIGN(std::vector<ValueTuple> found,
                     recordsWith(*wish_.table, wish_.table->writeKeyColumns(), key, true));
    if (found.size() != 1) return fail(ErrorKind::NotFound, "there is no record " + named(*wish_.table, key));
    return &recordOf(*wish_.table, std::move(found.front()));
  }

  Status begin() {
    const Table& table = *wish_.table;
    const std::string& why = !table.notEditable.empty() ? table.notEditable : table.cannotRemove;
    if (!why.empty()) return fail(ErrorKind::InvalidInput, displayName(table.name) + " cannot be changed: " + why);
    ITERANDUM_ASSIGN(kept_, ownRecord(wish_.keep));
    for (const ValueTuple& key : wish_.drop) {
      ITERANDUM_ASSIGN(MovedRecord* const dropped, ownRecord(key));
      if (dropped == kept_) return fail(ErrorKind::InvalidInput, "the record that stays cannot go as well");
      if (dropped->removed) return fail(ErrorKind::InvalidInput, named(table, key) + " is named twice");
      dropped->removed = true;
    }
    for (const auto& [column, key] : wish_.take) ITERANDUM_TRY(takeValue(column, key));
    // A dropped record that it pointed at is no more.
    for (MovedRecord& record : all_) {
      if (record.removed) moves_.push_back({&record, kept_});
    }
    if (!sameTuple(kept_->before, kept_->after)) moves_.push_back({kept_, kept_});
    return {};
  }

  Status takeValue(const std::string& column, const ValueTuple& key) {
    const Table& table = *wish_.table;
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
    kept_->after[at] = source->second->before[at];
    return {};
  }

  // --- what points at them -------------------------------------------------------------------------------------------

  Status followAll() {
    while (!moves_.empty()) {
      const Move move = moves_.front();
      moves_.pop_front();
      if (!progress_.step("what points at them", all_.size(), 0)) return fail(ErrorKind::Cancelled, "stopped");
      const Table& table = *move.from->table;
      for (const IncomingReference& in : catalogue_.referencesTo(table.name)) {
        const Table& child = catalogue_.tables()[in.table];
        const Reference& reference = child.references[in.reference];
        if (!reference.targetMissing) ITERANDUM_TRY(follow(move, child, reference));
      }
    }
    return {};
  }

  Status follow(const Move& move, const Table& child, const Reference& reference) {
    const Table& table = *move.from->table;
    const ValueTuple were = partOf(table, move.from->before, reference.targetColumns);
    const ValueTuple are = partOf(table, move.to->after, reference.targetColumns);
    if (holdsNull(were) || sameTuple(were, are)) return {};
    const std::vector<std::string> columns = child.columnNames(reference.columns);
    ITERANDUM_ASSIGN(std::vector<ValueTuple> found, recordsWith(child, columns, were, false));
    if (found.empty()) return {};
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
    if (move.from == move.to && move.to != kept_ && !cascades && !reference.stated && holdsOn) move.to->replaced = true;
    for (ValueTuple& values : found) {
      MovedRecord& record = recordOf(child, std::move(values));
      if (!record.removed) ITERANDUM_TRY(repoint(record, reference, are, move, cascades));
    }
    return {};
  }

  Status repoint(MovedRecord& record, const Reference& reference, const ValueTuple& are, const Move& move,
                 bool cascades) {
    const ValueTuple before = record.after;
    // What would point at itself pointed at its own double.
    if (&record == move.to && move.from->removed) {
      ITERANDUM_TRY(pointNowhere(record, reference));
    } else {
      for (std::size_t i = 0; i < reference.columns.size(); ++i) {
        const Column& column = record.table->columns[reference.columns[i]];
        if (!column.notEditable.empty() && !cascades) {
          return fail(ErrorKind::InvalidInput, named(*record.table, record.key) + " points at what goes, and " +
                                                   column.name + " cannot be edited: " + column.notEditable);
        }
        record.after[positionOf(*record.table, column.name)] = comparableForm(column, are[i]);
        if (cascades && !contains(record.byDatabase, column.name)) record.byDatabase.push_back(column.name);
      }
      record.repointed = record.repointed || !cascades;
    }
    // What points at it by a column that changes has to come along.
    if (!sameTuple(before, record.after)) moves_.push_back({&record, &record});
    return {};
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

  Status findDoubles() {
    // New ones are found on the way where the database has to be asked: those are no candidates.
    std::vector<MovedRecord*> candidates;
    for (MovedRecord& record : all_) {
      if (record.repointed && !record.removed) candidates.push_back(&record);
    }
    std::map<std::pair<const Table*, const UniqueKey*>,
             std::unordered_map<ValueTuple, MovedRecord*, TupleHash, TupleSame>>
        taken;
    for (MovedRecord* record : candidates) {
      for (const UniqueKey& key : record->table->keys) {
        const std::vector<std::string> names = record->table->columnNames(key.columns);
        const ValueTuple is = partOf(*record->table, record->after, names);
        if (holdsNull(is) || sameTuple(is, partOf(*record->table, record->before, names))) continue;
        MovedRecord* other = nullptr;
        const auto [first, isFirst] = taken[{record->table, &key}].emplace(is, record);
        if (!isFirst && !first->second->removed) other = first->second;
        if (other == nullptr) {
          ITERANDUM_ASSIGN(other, holderOf(*record, names, is));
        }
        if (other == nullptr) continue;
        plan_.doubles.push_back({record->table, record->key, other->key, names});
        if (!wish_.dropDoubles) break;
        record->removed = true;
        moves_.push_back({record, other});
        break;
      }
    }
    return {};
  }

  // Another record that holds these values and goes on holding them; null: there is none.
  Result<MovedRecord*> holderOf(const MovedRecord& record, const std::vector<std::string>& names,
                                const ValueTuple& values) {
    ITERANDUM_ASSIGN(std::vector<ValueTuple> found, recordsWith(*record.table, names, values, false));
    for (ValueTuple& one : found) {
      MovedRecord& other = recordOf(*record.table, std::move(one));
      if (&other == &record || other.removed) continue;
      if (sameTuple(partOf(*other.table, other.after, names), partOf(*other.table, other.before, names))) return &other;
    }
    return nullptr;
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
    change.keyColumns = record.table->writeKeyColumns();
    change.key = record.key;
    return change;
  }

  void writeEdit(const MovedRecord& record) {
    Change change = changeOf(record, Action::Edit);
    const std::vector<std::string> names = record.table->recordColumns();
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
    const std::vector<std::string> names = record.table->recordColumns();
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
  const MergeWish& wish_;
  Progress& progress_;
  std::deque<MovedRecord> all_;  // they stay where they are
  std::map<const Table*, std::unordered_map<ValueTuple, MovedRecord*, TupleHash, TupleSame>> records_;
  std::deque<Move> moves_;
  MovedRecord* kept_ = nullptr;
  MergePlan plan_;
};

}  // namespace

Result<MergePlan> planMerge(Session& session, const Catalogue& catalogue, const MergeWish& wish, Progress& progress) {
  return Merging(session, catalogue, wish, progress).run();
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
