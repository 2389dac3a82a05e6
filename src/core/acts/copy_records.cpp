#include "core/acts/copy_records.h"

#include <algorithm>
#include <deque>
#include <set>
#include <unordered_map>

namespace iterandum {
namespace {

class Copying {
 public:
  Copying(const Catalogue& catalogue, const std::vector<HangingRecords>& found, const ChangeSet& staged)
      : catalogue_(catalogue), found_(found) {
    for (const HangingRecords& records : found) {
      const TableChanges* changes = staged.table(records.table->name);
      auto& kept = kept_.emplace_back(records.records.size());
      values_.push_back(records.records);
      labels_.emplace_back(records.records.size());
      for (std::size_t i = 0; i < records.keys.size(); ++i) {
        const auto number = changes != nullptr ? changes->find(records.keys[i]) : std::nullopt;
        kept[i] = !number || !changes->isRemoved(*number);
        for (std::size_t c = 0; number && kept[i] && c < records.table->columns.size(); ++c) {
          if (auto cell = changes->cell(*number, records.table->columns[c].name)) values_.back()[i][c] = cell->to;
        }
      }
    }
  }

  Result<CopiedRecords> run(std::size_t roots) {
    for (std::size_t i = 0; !found_.empty() && i < roots && i < found_[0].records.size(); ++i) take({0, i});
    while (!waiting_.empty()) {
      const Place next = waiting_.front();
      waiting_.pop_front();
      takeThoseAt(next);
    }
    CopiedRecords out;
    for (std::size_t t = 0; t < found_.size(); ++t) {
      const Table& table = *found_[t].table;
      std::size_t count = 0;
      for (std::size_t i = 0; i < labels_[t].size(); ++i) {
        if (labels_[t][i].empty()) continue;
        ++count;
        ITERANDUM_ASSIGN(Change change, copyOf({t, i}));
        out.changes.add(change);
      }
      if (count == 0) continue;
      if (const std::string& why = !table.notEditable.empty() ? table.notEditable : table.cannotAdd; !why.empty()) {
        return fail(ErrorKind::Unsupported, "records cannot be added to " + displayName(table.name) + ": " + why);
      }
      out.counts.emplace_back(&table, count);
      for (std::size_t c = 0; c < table.columns.size(); ++c) {
        if (openColumns_.contains({t, c})) out.leftOpen.emplace_back(&table, table.columns[c].name);
      }
    }
    return out;
  }

 private:
  struct Place {
    std::size_t table = 0;   // among those that were found
    std::size_t record = 0;  // and in it
  };
  // What the records hold in some columns, and where they are.
  using Index = std::unordered_map<ValueTuple, std::vector<std::size_t>, TupleHash, TupleSame>;

  void take(Place at) {
    std::string& label = labels_[at.table][at.record];
    if (!kept_[at.table][at.record] || !label.empty()) return;
    label = "copy " + std::to_string(++taken_);
    waiting_.push_back(at);
  }

  // All records that point at this one.
  void takeThoseAt(Place parent) {
    const Table& table = *found_[parent.table].table;
    for (const IncomingReference& in : catalogue_.referencesTo(table.name)) {
      const Table& child = catalogue_.tables()[in.table];
      const Reference& reference = child.references[in.reference];
      const auto t = tableAt(child);
      const ValueTuple key = heldIn(parent, positionsOf(table, reference.targetColumns));
      if (reference.targetMissing || !t || key.empty() || holdsNull(key)) continue;
      const Index& index = indexOf(*t, reference.columns);
      if (const auto those = index.find(key); those != index.end()) {
        for (const std::size_t record : those->second) take({*t, record});
      }
    }
  }

  [[nodiscard]] std::optional<std::size_t> tableAt(const Table& table) const {
    for (std::size_t t = 0; t < found_.size(); ++t) {
      if (found_[t].table->name == table.name) return t;
    }
    return std::nullopt;
  }
  // Empty where one of them is not there.
  static std::vector<std::size_t> positionsOf(const Table& table, const std::vector<std::string>& columns) {
    std::vector<std::size_t> out;
    for (const std::string& name : columns) {
      const auto at = table.columnIndex(name);
      if (!at) return {};
      out.push_back(*at);
    }
    return out;
  }
  [[nodiscard]] ValueTuple heldIn(Place at, const std::vector<std::size_t>& columns) const {
    ValueTuple out;
    for (const std::size_t c : columns) out.push_back(values_[at.table][at.record][c]);
    return out;
  }
  const Index& indexOf(std::size_t t, const std::vector<std::size_t>& columns) {
    const auto [at, isNew] = indexes_.try_emplace({t, columns});
    for (std::size_t i = 0; isNew && i < values_[t].size(); ++i) at->second[heldIn({t, i}, columns)].push_back(i);
    return at->second;
  }

  // The copied record that a reference of this one leads to.
  std::optional<Place> target(Place at, const Reference& reference) {
    const Table* there = catalogue_.find(reference.target);
    const auto t = there != nullptr && !reference.targetMissing ? tableAt(*there) : std::nullopt;
    if (!t) return std::nullopt;
    const ValueTuple key = heldIn(at, reference.columns);
    const std::vector<std::size_t> columns = positionsOf(*there, reference.targetColumns);
    if (columns.empty() || holdsNull(key)) return std::nullopt;
    const Index& index = indexOf(*t, columns);
    const auto found = index.find(key);
    if (found == index.end() || labels_[*t][found->second.front()].empty()) return std::nullopt;
    return Place{*t, found->second.front()};
  }

  // What the copy of a record holds in a column. Nothing: it is left to the database, or to whoever fills it in.
  Result<std::optional<Value>> valueIn(Place at, std::size_t column, int depth) {
    const Table& table = *found_[at.table].table;
    const Column& of = table.columns[column];
    if (of.computed || !of.notEditable.empty()) return std::optional<Value>();
    for (const Reference& reference : table.references) {
      const auto k = std::find(reference.columns.begin(), reference.columns.end(), column);
      const auto there = k == reference.columns.end() ? std::nullopt : target(at, reference);
      if (there) {
        return pointedAt(*there, reference.targetColumns[static_cast<std::size_t>(k - reference.columns.begin())],
                         table, depth);
      }
    }
    // A key may be given by the database and lead elsewhere at once: then it was settled above.
    if (of.generatedKey) return std::optional<Value>();
    const Value& held = values_[at.table][at.record][column];
    // What the database would put there by itself is not what the record holds.
    if (held.isNull()) return of.hasDefault ? std::optional(Value()) : std::nullopt;
    if (isUniqueAlone(table, column)) {
      openColumns_.insert({at.table, column});
      return std::optional<Value>();
    }
    return std::optional(held);
  }

  // What the copy of a record has in a column by which it is pointed at.
  Result<std::optional<Value>> pointedAt(Place there, const std::string& column, const Table& from, int depth) {
    constexpr int kDeepest = 32;
    const Table& table = *found_[there.table].table;
    const std::size_t at = *table.columnIndex(column);
    ITERANDUM_ASSIGN(auto value, depth < kDeepest ? valueIn(there, at, depth + 1)
                                                  : Result<std::optional<Value>>(std::optional<Value>()));
    if (value) return value;
    if (table.columns[at].generatedKey) return std::optional(Value::pendingKey(labels_[there.table][there.record]));
    return fail(ErrorKind::Unsupported, "records of " + displayName(from.name) + " point at " + column + " of " +
                                            displayName(table.name) + ", which its copy would have to get first");
  }

  Result<Change> copyOf(Place at) {
    Change change;
    change.action = Action::Add;
    change.table = found_[at.table].table->name;
    change.label = labels_[at.table][at.record];
    for (std::size_t c = 0; c < found_[at.table].table->columns.size(); ++c) {
      ITERANDUM_ASSIGN(auto value, valueIn(at, c, 0));
      if (value) change.cells.push_back({found_[at.table].table->columns[c].name, false, Value(), std::move(*value)});
    }
    return change;
  }

  const Catalogue& catalogue_;
  const std::vector<HangingRecords>& found_;
  std::vector<std::vector<ValueTuple>> values_;   // as they would be
  std::vector<std::vector<char>> kept_;           // not to be removed
  std::vector<std::vector<std::string>> labels_;  // of the copies; empty: there is none
  std::map<std::pair<std::size_t, std::vector<std::size_t>>, Index> indexes_;
  std::set<std::pair<std::size_t, std::size_t>> openColumns_;
  std::deque<Place> waiting_;
  std::size_t taken_ = 0;
};

}  // namespace

bool isUniqueAlone(const Table& table, std::size_t column) {
  return std::any_of(table.keys.begin(), table.keys.end(),
                     [&](const UniqueKey& key) { return key.columns.size() == 1 && key.columns[0] == column; });
}

Result<CopiedRecords> copiesOf(const Catalogue& catalogue, const std::vector<HangingRecords>& found, std::size_t roots,
                               const ChangeSet& staged) {
  return Copying(catalogue, found, staged).run(roots);
}

}  // namespace iterandum
