#include "core/changes/part_of_changes.h"

#include <algorithm>
#include <map>
#include <optional>
#include <set>
#include <unordered_map>

namespace iterandum {
namespace {

struct HashValue {
  std::size_t operator()(const Value& v) const { return static_cast<std::size_t>(hashValue(v)); }
};
struct SameValue {
  bool operator()(const Value& a, const Value& b) const { return sameValue(a, b); }
};
// The changes that have a value in a column, before or after.
using ByValue = std::unordered_map<Value, std::vector<std::uint32_t>, HashValue, SameValue>;
using ByColumn = std::map<std::pair<TableName, std::string>, ByValue>;
using Tuple = std::vector<std::optional<Value>>;  // nothing: it is not known

const CellChange* cellOf(const Change& change, const std::string& column) {
  const auto at =
      std::find_if(change.cells.begin(), change.cells.end(), [&](const CellChange& c) { return c.column == column; });
  return at == change.cells.end() ? nullptr : &*at;
}

std::optional<Value> before(const Change& change, const std::string& column) {
  if (change.action == Action::Add) return std::nullopt;
  if (const CellChange* cell = cellOf(change, column); cell != nullptr && cell->hasFrom) return cell->from;
  const auto key = std::find(change.keyColumns.begin(), change.keyColumns.end(), column);
  if (key == change.keyColumns.end()) return std::nullopt;
  return change.key[static_cast<std::size_t>(key - change.keyColumns.begin())];
}

std::optional<Value> after(const Change& change, const std::string& column) {
  if (change.action == Action::Remove) return std::nullopt;
  if (const CellChange* cell = cellOf(change, column)) return cell->to;
  return before(change, column);
}

bool mayBeSame(const Tuple& a, const Tuple& b) {
  for (std::size_t i = 0; i < a.size(); ++i) {
    if (a[i] && b[i] && !sameValue(*a[i], *b[i])) return false;
  }
  return true;
}

class Splitter {
 public:
  Splitter(const Catalogue& catalogue, const ChangeSet& changes) : catalogue_(catalogue) {
    const ChangeList list = changes.toChangeList("");
    origins_ = list.origins;
    for (auto& [index, change] : list.inOrder()) {
      indexes_.push_back(index);
      changes_.push_back(std::move(change));
    }
    std::map<TableName, std::vector<std::uint64_t>> added;
    for (const TableChanges* table : changes.tables()) {
      for (const auto& [id, record] : table->added()) added[table->name()].push_back(id);
    }
    std::map<TableName, std::size_t> next;
    ids_.resize(changes_.size());
    for (std::uint32_t i = 0; i < changes_.size(); ++i) {
      const Change& change = changes_[i];
      place_[indexes_[i]] = i;
      // Additions come in the order of their ids, as the change set lists them.
      if (change.action == Action::Add) ids_[i] = added[change.table][next[change.table]++];
      if (!change.label.empty()) labels_[change.label] = i;
      for (const CellChange& cell : change.cells) note(i, cell.column);
      for (const std::string& column : change.keyColumns) {
        if (cellOf(change, column) == nullptr) note(i, column);
      }
    }
  }

  SplitChanges run(const std::vector<PickedChange>& picked) {
    for (const PickedChange& pick : picked) {
      const auto at = place_.find(pick.change);
      if (at != place_.end()) choose(at->second, pick.column);
    }
    const std::set<PickedChange> own = chosen_;
    while (!open_.empty()) {
      const PickedChange next = open_.back();
      open_.pop_back();
      follow(next.change, next.column);
    }
    SplitChanges out;
    for (const PickedChange& cell : chosen_) {
      if (!own.contains(cell)) out.along.push_back({indexes_[cell.change], cell.column});
    }
    write(out);
    return out;
  }

 private:
  void note(std::uint32_t i, const std::string& column) {
    const std::pair<TableName, std::string> where(changes_[i].table, column);
    if (const auto was = before(changes_[i], column)) before_[where][*was].push_back(i);
    if (const auto is = after(changes_[i], column)) after_[where][*is].push_back(i);
  }

  // A cell of an edit; of other changes, and where no column is named, all of it.
  void choose(std::uint32_t i, const std::string& column) {
    const Change& change = changes_[i];
    if (change.action != Action::Edit) {
      if (chosen_.insert({i, {}}).second) open_.push_back({i, {}});
      return;
    }
    for (const CellChange& cell : change.cells) {
      if (!column.empty() && cell.column != column) continue;
      if (chosen_.insert({i, cell.column}).second) open_.push_back({i, cell.column});
    }
  }
  void chooseColumns(std::uint32_t i, const std::vector<std::string>& columns) {
    if (changes_[i].action != Action::Edit) return choose(i, {});
    for (const std::string& column : columns) {
      if (cellOf(changes_[i], column) != nullptr) choose(i, column);
    }
  }

  Tuple tupleOf(const Change& change, const std::vector<std::string>& columns, bool then) const {
    Tuple out;
    for (const std::string& column : columns) out.push_back(then ? after(change, column) : before(change, column));
    return out;
  }

  // Calls `each` with the changes of a table whose tuple, before or after, may be this one.
  template <typename Each>
  void eachLike(const TableName& table, const std::vector<std::string>& columns, const Tuple& tuple, bool then,
                const Each& each) const {
    for (std::size_t c = 0; c < columns.size(); ++c) {
      if (!tuple[c]) continue;
      const ByColumn& by = then ? after_ : before_;
      const auto values = by.find({table, columns[c]});
      if (values == by.end()) return;
      const auto like = values->second.find(*tuple[c]);
      if (like == values->second.end()) return;
      for (const std::uint32_t i : like->second) {
        if (mayBeSame(tuple, tupleOf(changes_[i], columns, then))) each(i);
      }
      return;
    }
  }

  void follow(std::uint32_t i, const std::string& column) {
    const Change& change = changes_[i];
    const Table* table = catalogue_.find(change.table);
    const auto concerns = [&](const std::vector<std::string>& columns) {
      return change.action != Action::Edit || std::find(columns.begin(), columns.end(), column) != columns.end();
    };
    for (const CellChange& cell : change.cells) {
      const bool mine = change.action == Action::Add || cell.column == column;
      if (!mine || change.action == Action::Remove || cell.to.kind() != Value::Kind::PendingKey) continue;
      if (const auto at = labels_.find(cell.to.asString()); at != labels_.end()) choose(at->second, {});
    }
    if (table == nullptr) return;
    for (const Reference& reference : table->references) {
      const std::vector<std::string> columns = table->columnNames(reference.columns);
      if (!concerns(columns)) continue;
      chooseColumns(i, columns);
      if (change.action != Action::Remove) followReference(i, reference, columns);
    }
    for (const UniqueKey& key : table->keys) {
      const std::vector<std::string> columns = table->columnNames(key.columns);
      if (concerns(columns)) followUnique(i, columns);
    }
    if (change.action != Action::Add) followIncoming(i, *table, concerns);
  }

  // What makes the record that is pointed at.
  void followReference(std::uint32_t i, const Reference& reference, const std::vector<std::string>& columns) {
    eachLike(reference.target, reference.targetColumns, tupleOf(changes_[i], columns, true), true,
             [&](std::uint32_t other) {
               if (other != i) chooseColumns(other, reference.targetColumns);
             });
  }

  // What gives up the value that is taken; of a removal, what takes its key at once.
  void followUnique(std::uint32_t i, const std::vector<std::string>& columns) {
    chooseColumns(i, columns);
    const bool removed = changes_[i].action == Action::Remove;
    eachLike(changes_[i].table, columns, tupleOf(changes_[i], columns, !removed), removed, [&](std::uint32_t other) {
      if (other == i) return;
      // A removal and an addition with its key are one replacement; else who removes owes nobody anything.
      if (removed && changes_[other].action != Action::Add) return;
      if (removed && columns != changes_[i].keyColumns) return;
      chooseColumns(other, columns);
    });
  }

  // What points at a record that is removed or gets another key: what takes it away from there, and what is named by
  // it.
  template <typename Concerns>
  void followIncoming(std::uint32_t i, const Table& table, const Concerns& concerns) {
    for (const IncomingReference& in : catalogue_.referencesTo(table.name)) {
      const Table& child = catalogue_.tables()[in.table];
      const Reference& reference = child.references[in.reference];
      if (!concerns(reference.targetColumns)) continue;
      const std::vector<std::string> columns = child.columnNames(reference.columns);
      eachLike(child.name, columns, tupleOf(changes_[i], reference.targetColumns, false), false,
               [&](std::uint32_t other) {
                 if (other == i) return;
                 const std::vector<std::string>& key = changes_[other].keyColumns;
                 const bool named = std::any_of(columns.begin(), columns.end(), [&](const std::string& c) {
                   return std::find(key.begin(), key.end(), c) != key.end();
                 });
                 named ? choose(other, {}) : chooseColumns(other, columns);
               });
    }
  }

  // --- the two gestures ----------------------------------------------------------------------------------------------

  using Parts = std::map<std::tuple<TableName, int, std::string>, GesturePart>;

  GesturePart& partFor(Parts& parts, GesturePart::Kind kind, const Change& change, const std::string& which) {
    const auto [at, isNew] = parts.try_emplace({change.table, static_cast<int>(kind), which});
    GesturePart& part = at->second;
    if (isNew) {
      part.kind = kind;
      part.table = change.table;
      const bool existing = kind == GesturePart::Kind::Edit || kind == GesturePart::Kind::Remove;
      if (existing) part.keyColumns = change.keyColumns;
      part.keys.resize(part.keyColumns.size());
    }
    return part;
  }

  void writeOne(Parts& parts, std::uint32_t i, const CellChange* cell) {
    const Change& change = changes_[i];
    const auto pushOrigin = [&](GesturePart& part) {
      if (origins_.any()) part.origins.push_back(origins_.of(indexes_[i]));
    };
    const auto pushKey = [&](GesturePart& part) {
      for (std::size_t k = 0; k < change.key.size(); ++k) part.keys[k].push(change.key[k]);
    };
    if (change.action == Action::Edit) {
      GesturePart& part = partFor(parts, GesturePart::Kind::Edit, change, cell->column);
      part.column = cell->column;
      pushKey(part);
      pushOrigin(part);
      part.from.push(cell->from);
      part.to.push(cell->to);
    } else if (change.action == Action::Remove) {
      std::string shape;
      for (const CellChange& c : change.cells) shape += c.column + '\0';
      GesturePart& part = partFor(parts, GesturePart::Kind::Remove, change, shape);
      if (part.recordColumns.empty()) {
        for (const CellChange& c : change.cells) part.recordColumns.push_back(c.column);
        part.records.resize(part.recordColumns.size());
      }
      pushKey(part);
      for (std::size_t c = 0; c < change.cells.size(); ++c) part.records[c].push(change.cells[c].from);
    } else {
      GesturePart& added = partFor(parts, GesturePart::Kind::Add, change, {});
      added.addedIds.push_back(ids_[i]);
      pushOrigin(added);
      for (const CellChange& c : change.cells) {
        GesturePart& part = partFor(parts, GesturePart::Kind::EditAdded, change, c.column);
        part.column = c.column;
        part.addedIds.push_back(ids_[i]);
        pushOrigin(part);
        part.to.push(c.to);
      }
    }
  }

  void write(SplitChanges& out) {
    Parts part;
    Parts rest;
    for (std::uint32_t i = 0; i < changes_.size(); ++i) {
      if (changes_[i].action != Action::Edit) {
        writeOne(chosen_.contains({i, {}}) ? part : rest, i, nullptr);
        continue;
      }
      for (const CellChange& cell : changes_[i].cells)
        writeOne(chosen_.contains({i, cell.column}) ? part : rest, i, &cell);
    }
    // New records come before what is said of them.
    const auto take = [](Parts& parts, Gesture& gesture) {
      for (const bool adds : {true, false}) {
        for (auto& [where, one] : parts) {
          if ((one.kind == GesturePart::Kind::Add) == adds) gesture.parts.push_back(std::move(one));
        }
      }
    };
    take(part, out.part);
    take(rest, out.rest);
    if (!origins_.any()) return;
    out.part.files = origins_.files;
    out.rest.files = origins_.files;
  }

  const Catalogue& catalogue_;
  std::vector<std::uint32_t> indexes_;  // of the changes, in the list
  std::vector<Change> changes_;
  FileOrigins origins_;
  std::vector<std::uint64_t> ids_;  // of additions
  std::unordered_map<std::uint32_t, std::uint32_t> place_;
  std::map<std::string, std::uint32_t, std::less<>> labels_;
  ByColumn before_;
  ByColumn after_;
  std::set<PickedChange> chosen_;
  std::vector<PickedChange> open_;
};

}  // namespace

SplitChanges splitChanges(const Catalogue& catalogue, const ChangeSet& changes,
                          const std::vector<PickedChange>& picked) {
  return Splitter(catalogue, changes).run(picked);
}

}  // namespace iterandum
