#include "core/changes/change_set.h"

#include "core/changes/after_apply.h"

#include <algorithm>
#include <functional>
#include <set>

namespace iterandum {

std::string addedLabel(std::uint64_t id) { return "new-" + std::to_string(id); }

TableChanges::TableChanges(TableName name, std::vector<std::string> keyColumns)
    : name_(std::move(name)), keyColumns_(std::move(keyColumns)), keys_(keyColumns_.size()) {}

// --- finding records
// ---------------------------------------------------------------------------------------------------

template <typename Same>
std::size_t TableChanges::slotOf(std::size_t hash, const Same& isSame) const {
  const std::size_t mask = slots_.size() - 1;
  std::size_t slot = hash & mask;
  while (slots_[slot] != 0 && !isSame(slots_[slot] - 1)) slot = (slot + 1) & mask;
  return slot;
}

template <typename CompareTo>
std::uint32_t TableChanges::lowerBound(const CompareTo& compareTo) const {
  std::uint32_t low = 0;
  std::uint32_t high = records();
  while (low < high) {
    const std::uint32_t middle = low + (high - low) / 2;
    if (compareTo(middle) < 0) {
      low = middle + 1;
    } else {
      high = middle;
    }
  }
  return low;
}

std::optional<std::uint32_t> TableChanges::find(const ValueTuple& wanted) const {
  if (wanted.size() != keyColumns_.size()) return std::nullopt;
  const auto order = [&](std::uint32_t record) {
    for (std::size_t k = 0; k < keys_.size(); ++k) {
      if (const int o = compareValues(keys_[k].at(record), wanted[k]); o != 0) return o;
    }
    return 0;
  };
  if (ascending_) {
    const std::uint32_t record = lowerBound(order);
    return record < records() && order(record) == 0 ? std::optional(record) : std::nullopt;
  }
  const std::uint32_t entry =
      slots_[slotOf(TupleHash{}(wanted), [&](std::uint32_t record) { return order(record) == 0; })];
  return entry == 0 ? std::nullopt : std::optional(entry - 1);
}

ValueTuple TableChanges::key(std::uint32_t record) const {
  ValueTuple out;
  out.reserve(keys_.size());
  for (const ValueColumn& column : keys_) out.push_back(column.at(record));
  return out;
}

void TableChanges::reserve(std::size_t more) {
  if (ascending_) return;
  // Three quarters full is where linear probing starts to cost.
  std::size_t size = std::max<std::size_t>(slots_.size(), 16);
  while ((removed_.size() + more) * 4 > size * 3) size *= 2;
  if (size == slots_.size()) return;
  slots_.assign(size, 0);
  for (std::uint32_t record = 0; record < records(); ++record) {
    slots_[slotOf(hashRow(keys_, record), [](std::uint32_t) { return false; })] = record + 1;
  }
}

void TableChanges::leaveAscending() {
  ascending_ = false;
  reserve(1024);
}

std::uint32_t TableChanges::append(const std::vector<ValueColumn>& keys, std::size_t row) {
  for (std::size_t k = 0; k < keys_.size(); ++k) keys_[k].push(keys[k].at(row));
  edited_.push_back(0);
  removed_.push_back(0);
  return records() - 1;
}

bool TableChanges::appendAll(const std::vector<ValueColumn>& keys) {
  if (!ascending_ || keys_.size() != 1) return false;
  const std::span<const std::int64_t> more = keys[0].integers();
  if (more.empty() || std::adjacent_find(more.begin(), more.end(), std::greater_equal<>()) != more.end()) return false;
  if (records() > 0 && compareRows(keys_, records() - 1, keys, 0) >= 0) return false;
  keys_[0].append(keys[0]);
  edited_.resize(edited_.size() + more.size(), 0);
  removed_.resize(removed_.size() + more.size(), 0);
  return true;
}

std::uint32_t TableChanges::findOrAdd(const std::vector<ValueColumn>& keys, std::size_t row) {
  if (ascending_) {
    if (records() == 0 || compareRows(keys_, records() - 1, keys, row) < 0) return append(keys, row);
    const auto order = [&](std::uint32_t record) { return compareRows(keys_, record, keys, row); };
    const std::uint32_t record = lowerBound(order);
    if (order(record) == 0) return record;
    leaveAscending();
  }
  // One at a time here: a gesture's first records may have been in order.
  if ((removed_.size() + 1) * 4 > slots_.size() * 3) reserve(removed_.size());
  const std::size_t slot =
      slotOf(hashRow(keys, row), [&](std::uint32_t record) { return compareRows(keys_, record, keys, row) == 0; });
  if (slots_[slot] != 0) return slots_[slot] - 1;
  const std::uint32_t record = append(keys, row);
  slots_[slot] = record + 1;
  return record;
}

// --- cells
// -------------------------------------------------------------------------------------------------------------

std::optional<StagedCell> TableChanges::cell(std::uint32_t record, const std::string& column) const {
  const auto cells = cells_.find(column);
  if (cells == cells_.end() || record / kPage >= cells->second.size()) return std::nullopt;
  const Page* page = cells->second[record / kPage].get();
  if (page == nullptr || page->used[record % kPage] == 0) return std::nullopt;
  return StagedCell{page->from.at(record % kPage), page->to.at(record % kPage)};
}

void TableChanges::setCell(Cells& cells, std::uint32_t record, const Value& from, const Value& to) {
  if (record / kPage >= cells.size()) cells.resize(record / kPage + 1);
  auto& page = cells[record / kPage];
  if (!page) {
    // Filled with the first values, so that a page of like values stays one value, and one of integers integers.
    page = std::make_unique<Page>();
    page->from = ValueColumn(kPage, from);
    page->to = ValueColumn(kPage, to);
  }
  const std::uint32_t at = record % kPage;
  if (page->used[at] == 0) {
    if (from == to) return;
    page->used[at] = 1;
    page->from.set(at, from);
    ++counts_.cells;
    if (edited_[record]++ == 0) ++counts_.edited;
  } else if (page->from.at(at) == to) {
    eraseCell(cells, record);
    return;
  }
  page->to.set(at, to);
}

void TableChanges::eraseCell(Cells& cells, std::uint32_t record) {
  if (record / kPage >= cells.size()) return;
  Page* page = cells[record / kPage].get();
  if (page == nullptr || page->used[record % kPage] == 0) return;
  page->used[record % kPage] = 0;
  --counts_.cells;
  if (--edited_[record] != 0) return;
  --counts_.edited;
  if (record < origins_.size()) origins_[record] = {};
}

void TableChanges::rebase(std::uint32_t record, const std::string& column, const Value& from) {
  const auto staged = cell(record, column);
  if (!staged) return;
  if (staged->to == from) return eraseCell(cells_[column], record);
  cells_[column][record / kPage]->from.set(record % kPage, from);
}

std::vector<std::string> TableChanges::editedColumns(std::uint32_t record) const {
  std::vector<std::string> out;
  for (const auto& [column, cells] : cells_) {
    if (cell(record, column)) out.push_back(column);
  }
  return out;
}

namespace {

// The file's number in a change set; what was there before is changed by hand where no file says so.
LineOrigin originNow(const LineOrigin& before, const GesturePart& part, std::size_t row,
                     const std::vector<std::uint32_t>& files) {
  LineOrigin out = part.origins.empty() ? LineOrigin() : part.origins[row];
  if (out.file != 0) {
    out.file = files[out.file - 1];
    return out;
  }
  out = before;
  out.alsoByHand = before.file != 0;
  return out;
}

}  // namespace

void TableChanges::noteOrigin(std::uint32_t record, const GesturePart& part, std::size_t row,
                              const std::vector<std::uint32_t>& files) {
  const bool known = record < origins_.size();
  if ((!known && part.origins.empty()) || edited_[record] == 0) return;
  if (!known) origins_.resize(record + std::size_t{1});
  origins_[record] = originNow(origins_[record], part, row, files);
}

void TableChanges::applyAdded(const GesturePart& part, const std::vector<std::uint32_t>& files) {
  using Kind = GesturePart::Kind;
  for (std::size_t i = 0; i < part.addedIds.size(); ++i) {
    const std::uint64_t id = part.addedIds[i];
    if (part.kind == Kind::DropAdded) {
      added_.erase(id);
      continue;
    }
    if (part.kind == Kind::Add) added_[id].id = id;
    const auto at = added_.find(id);
    if (at == added_.end()) continue;
    if (part.kind == Kind::EditAdded) at->second.cells[part.column] = part.to.at(i);
    at->second.origin = originNow(at->second.origin, part, i, files);
  }
}

void TableChanges::apply(const GesturePart& part, const std::vector<std::uint32_t>& files) {
  using Kind = GesturePart::Kind;
  if (part.kind == Kind::Add || part.kind == Kind::EditAdded || part.kind == Kind::DropAdded) {
    return applyAdded(part, files);
  }
  if (part.kind == Kind::Remove) removedBatches_.push_back({part.recordColumns, part.records});
  reserve(part.rows());
  Cells& cells = cells_[part.column];
  const std::uint32_t first = records();
  const bool allNew = appendAll(part.keys);
  for (std::size_t i = 0; i < part.rows(); ++i) {
    const std::uint32_t record = allNew ? first + static_cast<std::uint32_t>(i) : findOrAdd(part.keys, i);
    switch (part.kind) {
      case Kind::Edit:
        setCell(cells, record, part.from.at(i), part.to.at(i));
        noteOrigin(record, part, i, files);
        break;
      case Kind::KeepMine:
        rebase(record, part.column, part.from.at(i));
        break;
      case Kind::PutBackCells:
        eraseCell(cells, record);
        break;
      case Kind::Remove: {
        counts_.removed += removed_[record] == 0 ? 1 : 0;
        removed_[record] = 1;
        if (removedPlaces_.size() <= record) removedPlaces_.resize(removed_.size());
        removedPlaces_[record] = {static_cast<std::uint32_t>(removedBatches_.size() - 1),
                                  static_cast<std::uint32_t>(i)};
        break;
      }
      default:
        for (const std::string& column : editedColumns(record)) eraseCell(cells_[column], record);
        counts_.removed -= removed_[record];
        removed_[record] = 0;
    }
  }
}

std::size_t TableChanges::memoryBytes() const {
  std::size_t bytes = slots_.capacity() * sizeof(std::uint32_t) + edited_.capacity() * sizeof(std::uint16_t) +
                      removed_.capacity() + origins_.capacity() * sizeof(LineOrigin);
  for (const ValueColumn& c : keys_) bytes += c.memoryBytes();
  bytes += removedPlaces_.capacity() * sizeof(RemovedPlace);
  for (const RemovedBatch& batch : removedBatches_) {
    for (const ValueColumn& c : batch.records) bytes += c.memoryBytes();
  }
  for (const auto& [column, cells] : cells_) {
    for (const auto& page : cells) {
      if (page) bytes += sizeof(Page) + page->from.memoryBytes() + page->to.memoryBytes();
    }
  }
  return bytes;
}

// --- the whole
// ---------------------------------------------------------------------------------------------------------

void ChangeSet::fold(const Gesture& gesture) {
  std::vector<std::uint32_t> files;  // their numbers here
  for (const SourceFile& file : gesture.files) {
    const auto at = std::find(files_.begin(), files_.end(), file);
    files.push_back(static_cast<std::uint32_t>(at - files_.begin()) + 1);
    if (at == files_.end()) files_.push_back(file);
  }
  for (const GesturePart& part : gesture.parts) {
    const auto [it, isNew] = tables_.try_emplace(part.table, part.table, part.keyColumns);
    TableChanges& table = it->second;
    // The first part of a table may have been about new records, which have no key.
    if (table.keyColumns_.empty() && !part.keyColumns.empty()) {
      table.keyColumns_ = part.keyColumns;
      table.keys_.resize(part.keyColumns.size());
    }
    // Records of one table are named in one way only; what names them otherwise cannot be told apart and is left out.
    if (!part.keys.empty() && part.keyColumns != table.keyColumns_) continue;
    table.apply(part, files);
    for (const std::uint64_t id : part.addedIds) noteAddedId(id);
  }
}

void ChangeSet::noteAddedId(std::uint64_t id) {
  if (id >= firstId_ && id - firstId_ < kAddedIds) nextId_ = std::max(nextId_, id + 1);
}

void ChangeSet::takeAddedIdsFrom(std::uint64_t first) {
  firstId_ = nextId_ = first;
  for (const Gesture& gesture : gestures_) {
    for (const GesturePart& part : gesture.parts) {
      for (const std::uint64_t id : part.addedIds) noteAddedId(id);
    }
  }
}

void ChangeSet::setUndone(std::vector<Gesture> gestures) {
  gestures_.resize(position_);
  for (Gesture& gesture : gestures) {
    for (const GesturePart& part : gesture.parts) {
      for (const std::uint64_t id : part.addedIds) noteAddedId(id);
    }
    gestures_.push_back(std::move(gesture));
  }
}

void ChangeSet::apply(Gesture gesture) {
  gestures_.resize(position_);
  fold(gesture);
  gestures_.push_back(std::move(gesture));
  ++position_;
}

void ChangeSet::rebuild() {
  tables_.clear();
  for (std::size_t i = 0; i < position_; ++i) fold(gestures_[i]);
}

bool ChangeSet::undo() {
  if (!canUndo()) return false;
  --position_;
  rebuild();
  return true;
}

bool ChangeSet::redo() {
  if (!canRedo()) return false;
  fold(gestures_[position_++]);
  return true;
}

void ChangeSet::restore(std::vector<Gesture> gestures, std::size_t position) {
  gestures_ = std::move(gestures);
  position_ = std::min(position, gestures_.size());
  for (const Gesture& g : gestures_) {
    for (const GesturePart& part : g.parts) {
      for (const std::uint64_t id : part.addedIds) noteAddedId(id);
    }
  }
  rebuild();
}

void ChangeSet::clear() {
  gestures_.clear();
  position_ = 0;
  tables_.clear();
}

void ChangeSet::replaceAll(std::vector<Gesture> gestures) {
  const std::uint64_t nextId = nextId_;
  const std::size_t count = gestures.size();
  restore(std::move(gestures), count);
  nextId_ = std::max(nextId_, nextId);
}

void ChangeSet::forgetApplied(std::size_t count, const AppliedAdditions& added) {
  count = std::min(count, gestures_.size());
  ChangeSet applied;
  applied.restore({gestures_.begin(), gestures_.begin() + static_cast<std::ptrdiff_t>(count)}, count);
  std::vector<Gesture> rest;
  for (std::size_t i = count; i < gestures_.size(); ++i) rest.push_back(afterApply(applied, added, gestures_[i]));
  const std::uint64_t nextId = nextId_;
  restore(std::move(rest), position_ > count ? position_ - count : 0);
  nextId_ = std::max(nextId_, nextId);
}

const TableChanges* ChangeSet::table(const TableName& name) const {
  const auto it = tables_.find(name);
  return it == tables_.end() ? nullptr : &it->second;
}

std::vector<const TableChanges*> ChangeSet::tables() const {
  std::vector<const TableChanges*> out;
  for (const auto& [name, table] : tables_) out.push_back(&table);
  return out;
}

StagedCounts ChangeSet::counts() const {
  StagedCounts out;
  for (const auto& [name, table] : tables_) {
    out.removed += table.counts_.removed;
    out.added += table.added_.size();
    if (table.counts_.removed == 0) {
      out.cells += table.counts_.cells;
      out.edited += table.counts_.edited;
      continue;
    }
    // Edits of a record that is removed after all do not count.
    out.cells += table.counts_.cells;
    out.edited += table.counts_.edited;
    for (std::uint32_t record = 0; record < table.removedPlaces_.size(); ++record) {
      if (table.removed_[record] == 0) continue;
      out.cells -= table.edited_[record];
      out.edited -= table.edited_[record] > 0 ? 1 : 0;
    }
  }
  return out;
}

std::size_t ChangeSet::memoryBytes() const {
  std::size_t bytes = 0;
  for (const auto& [name, table] : tables_) bytes += table.memoryBytes();
  for (const Gesture& g : gestures_) {
    for (const GesturePart& p : g.parts) {
      bytes += p.from.memoryBytes() + p.to.memoryBytes();
      for (const ValueColumn& k : p.keys) bytes += k.memoryBytes();
      for (const ValueColumn& r : p.records) bytes += r.memoryBytes();
    }
  }
  return bytes;
}

std::set<std::string> ChangeSet::usedLabels() const {
  std::set<std::string> out;
  const auto note = [&](const Value& v) {
    if (v.kind() == Value::Kind::PendingKey) out.emplace(v.asString());
  };
  const bool anyAdded =
      std::any_of(tables_.begin(), tables_.end(), [](const auto& t) { return !t.second.added().empty(); });
  if (!anyAdded) return out;
  for (const auto& [name, table] : tables_) {
    for (const auto& [id, record] : table.added()) {
      for (const auto& [column, value] : record.cells) note(value);
    }
    for (std::uint32_t r = 0; r < table.records(); ++r) {
      if (!table.isEdited(r)) continue;
      for (const std::string& column : table.editedColumns(r)) note(table.cell(r, column)->to);
    }
  }
  return out;
}

ChangeList ChangeSet::toChangeList(const std::string& title, const std::set<std::string>& spokenOf) const {
  ChangeList out;
  out.title = title;
  out.origins.files = files_;
  std::set<std::string> labels = usedLabels();
  labels.insert(spokenOf.begin(), spokenOf.end());
  for (const auto& [name, table] : tables_) {
    for (std::uint32_t r = 0; r < table.records(); ++r) {
      Change change;
      change.table = name;
      change.keyColumns = table.keyColumns();
      if (table.isRemoved(r)) {
        change.action = Action::Remove;
        const TableChanges::RemovedPlace place = table.removedPlaces_[r];
        const TableChanges::RemovedBatch& whole = table.removedBatches_[place.batch];
        for (std::size_t c = 0; c < whole.columns.size(); ++c)
          change.cells.push_back({whole.columns[c], true, whole.records[c].at(place.row), {}});
      } else if (table.isEdited(r)) {
        for (const std::string& column : table.editedColumns(r)) {
          const auto cell = table.cell(r, column);
          change.cells.push_back({column, true, cell->from, cell->to});
        }
      } else {
        continue;
      }
      change.key = table.key(r);
      if (change.action == Action::Edit && r < table.origins_.size()) out.origins.note(out.count(), table.origins_[r]);
      out.add(change);
    }
    for (const auto& [id, record] : table.added()) {
      Change change;
      change.action = Action::Add;
      change.table = name;
      if (labels.contains(addedLabel(id))) change.label = addedLabel(id);
      for (const auto& [column, value] : record.cells) change.cells.push_back({column, false, {}, value});
      out.origins.note(out.count(), record.origin);
      out.add(change);
    }
  }
  return out;
}

}  // namespace iterandum
