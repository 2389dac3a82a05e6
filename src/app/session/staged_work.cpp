#include "app/session/staged_work.h"

#include <algorithm>
#include <map>
#include <tuple>

#include "app/values/shown_value.h"
#include "core/changes/gesture_from_list.h"

namespace iterandum {

StagedWork::StagedWork(std::shared_ptr<StoreThread> storeThread, std::function<bool()> applying)
    : applying_(std::move(applying)), log_(std::move(storeThread), changes_) {
  connectLog();
}

void StagedWork::connectLog() {
  connect(&log_, &SharedLog::touched, this, &StagedWork::touched);
  connect(&log_, &SharedLog::changed, this, &StagedWork::changed);
  connect(&log_, &SharedLog::notKept, this, [this](const QString& why) {
    emit storeFailed(tr("What you staged is not on disk: %1. It is tried again with what you do next.").arg(why));
  });
  connect(&log_, &SharedLog::undoRefused, this, [this] {
    emit said(
        tr("Another window is applying what you undid just now, so it stays. Afterwards the history takes it "
           "back."));
  });
  connect(&log_, &SharedLog::holderLeft, this, &StagedWork::holderLeft);
  connect(&log_, &SharedLog::appliedElsewhere, this, &StagedWork::appliedElsewhere);
  connect(&log_, &SharedLog::written, this, [this](const std::vector<WrittenStaged>& written) {
    if (applying_()) return;
    if (const QString words = forgetWritten(written); !words.isEmpty()) emit said(words);
  });
}

QString StagedWork::take(StagedLog&& log) {
  QStringList words{whatWasLeft(log)};
  log_.begin(log);
  words << forgetWritten(log.written);
  words.removeAll(QString());
  return words.join(QLatin1Char('\n'));
}

// The receipt says what became of new records; which of them are meant is found as it was when they were applied.
QString StagedWork::forgetWritten(const std::vector<WrittenStaged>& written) {
  QStringList titles;
  for (const WrittenStaged& one : written) {
    const std::size_t gestures = std::min(one.staged.gestures, changes_.position());
    ChangeSet applied;
    std::optional<SplitChanges> part;
    if (one.staged.partAndRest) {
      part = SplitChanges{one.staged.partAndRest->first, one.staged.partAndRest->second, {}};
      applied.apply(part->part);
    } else {
      const std::vector<Gesture>& all = changes_.gestures();
      applied.restore({all.begin(), all.begin() + static_cast<std::ptrdiff_t>(gestures)}, gestures);
    }
    const auto byChange = additionsByChange(applied, applied.toChangeList(one.receipt.title));
    log_.forgetApplied(gestures, appliedAdditions(one.receipt, byChange), part);
    titles << (one.receipt.title.empty() ? tr("(no title)") : toQ(one.receipt.title));
  }
  if (titles.isEmpty()) return {};
  log_.sendForgotten();
  emit changed();
  return tr("What was applied as “%1” had been written, though nobody was there to be told: it is in the history "
            "(Ctrl+H), "
            "and staged no more.")
      .arg(titles.join(tr("”, “")));
}

QString StagedWork::whatWasLeft(const StagedLog& log) const {
  if (log.setAside > 0) {
    return tr("%n thing(s) that you staged before could not be read and (were) set aside; the rest is here.", "",
              static_cast<int>(log.setAside));
  }
  if (log.left > 0) {
    return tr(
        "More was staged for this database in other windows before. It comes when what is staged here has been "
        "applied or put back and the database is opened again.");
  }
  if (std::any_of(log.others.begin(), log.others.end(), [this](const auto& other) { return other != insteadOf_; })) {
    return tr("This database is open in another window too. What is staged in one of them is staged in both.");
  }
  return {};
}

std::shared_ptr<const KeyList> StagedWork::stagedKeys(const Table& table, const std::string& column) const {
  auto list = std::make_shared<KeyList>();
  list->keys.resize(table.writeKeyColumns().size());
  const TableChanges* changes = changes_.table(table.name);
  for (std::uint32_t r = 0; changes != nullptr && r < changes->records(); ++r) {
    const bool removed = changes->isRemoved(r);
    const bool edited = column.empty() ? changes->isEdited(r) : changes->cell(r, column).has_value();
    if (!removed && !edited) continue;
    const ValueTuple key = changes->key(r);
    for (std::size_t k = 0; k < list->keys.size() && k < key.size(); ++k) list->keys[k].push(key[k]);
  }
  return list;
}

void StagedWork::stage(Gesture gesture) {
  if (!readOnly_.empty()) {
    emit said(tr("Nothing can be staged: %1.").arg(toQ(readOnly_)));
    return;
  }
  emit touched(gesture);
  changes_.apply(std::move(gesture));
  log_.appended();
  emit changed();
}

GesturePart StagedWork::partFor(GesturePart::Kind kind, const Table& table) { return iterandum::partFor(kind, table); }

// What is so already, staged or stored: no gesture, which Undo would take back without anything to be seen.
bool StagedWork::isSoAlready(const CellEdit& edit) const {
  const TableChanges* changes = changes_.table(edit.record.table);
  if (edit.record.isAdded()) {
    if (changes == nullptr || !changes->added().contains(edit.record.addedId)) return false;
    const auto& cells = changes->added().at(edit.record.addedId).cells;
    const auto cell = cells.find(edit.column);
    return cell != cells.end() && sameValue(cell->second, edit.to);
  }
  const auto number = changes == nullptr ? std::nullopt : changes->find(edit.record.key);
  const auto staged = number ? changes->cell(*number, edit.column) : std::nullopt;
  return staged ? sameValue(staged->from, edit.from) && sameValue(staged->to, edit.to) : sameValue(edit.from, edit.to);
}

std::vector<GesturePart> StagedWork::editParts(const std::vector<CellEdit>& edits) const {
  // One part for each table and column, of existing and of new records.
  std::map<std::tuple<TableName, std::string, bool>, GesturePart> parts;
  for (const CellEdit& e : edits) {
    const Table* table = catalogue_->find(e.record.table);
    if (table == nullptr || isSoAlready(e)) continue;
    const bool added = e.record.isAdded();
    auto [it, isNew] = parts.try_emplace({e.record.table, e.column, added});
    GesturePart& part = it->second;
    if (isNew) {
      part = partFor(added ? GesturePart::Kind::EditAdded : GesturePart::Kind::Edit, *table);
      part.column = e.column;
    }
    if (added) {
      part.addedIds.push_back(e.record.addedId);
    } else {
      for (std::size_t k = 0; k < part.keys.size(); ++k) part.keys[k].push(e.record.key[k]);
      part.from.push(e.from);
    }
    part.to.push(e.to);
  }
  std::vector<GesturePart> out;
  for (auto& [key, part] : parts) out.push_back(std::move(part));
  return out;
}

void StagedWork::stageEdits(const QString& title, const std::vector<CellEdit>& edits) {
  Gesture gesture{title.toStdString(), editParts(edits)};
  if (!gesture.parts.empty()) stage(std::move(gesture));
}

void StagedWork::stageOver(const QString& title, const std::vector<CellEdit>& edits) {
  Gesture gesture{title.toStdString(), decidedParts(GesturePart::Kind::KeepMine, edits)};
  for (GesturePart& part : editParts(edits)) gesture.parts.push_back(std::move(part));
  if (!gesture.parts.empty()) stage(std::move(gesture));
}

void StagedWork::stageColumn(const QString& title, const Table& table, const std::string& column,
                             std::vector<ValueColumn> keys, ValueColumn from, ValueColumn to) {
  std::vector<ColumnEdits> edits(1);
  edits[0] = {column, std::move(keys), std::move(from), std::move(to)};
  stageColumns(title, table, std::move(edits));
}

void StagedWork::stageColumns(const QString& title, const Table& table, std::vector<ColumnEdits> edits) {
  Gesture gesture;
  gesture.title = title.toStdString();
  for (ColumnEdits& edit : edits) {
    GesturePart part = partFor(GesturePart::Kind::Edit, table);
    part.column = edit.column;
    part.keys = std::move(edit.keys);
    part.from = std::move(edit.from);
    part.to = std::move(edit.to);
    gesture.parts.push_back(std::move(part));
  }
  stage(std::move(gesture));
}

std::uint64_t StagedWork::stageAddition(const Table& table, const std::vector<std::pair<std::string, Value>>& cells) {
  const std::uint64_t id = changes_.nextAddedId();
  stageAdditions(table, {cells});
  return id;
}

std::vector<GesturePart> StagedWork::additionParts(
    const Table& table, const std::vector<std::vector<std::pair<std::string, Value>>>& records) const {
  std::uint64_t id = changes_.nextAddedId();
  GesturePart add = partFor(GesturePart::Kind::Add, table);
  std::map<std::string, GesturePart> edits;
  for (const auto& cells : records) {
    add.addedIds.push_back(id);
    for (const auto& [column, value] : cells) {
      GesturePart& edit = edits.try_emplace(column, partFor(GesturePart::Kind::EditAdded, table)).first->second;
      edit.column = column;
      edit.addedIds.push_back(id);
      edit.to.push(value);
    }
    ++id;
  }
  std::vector<GesturePart> out{std::move(add)};
  for (auto& [column, edit] : edits) out.push_back(std::move(edit));
  return out;
}

void StagedWork::stageAdditions(const Table& table,
                                const std::vector<std::vector<std::pair<std::string, Value>>>& records) {
  if (records.empty()) return;
  const QString title =
      records.size() == 1
          ? tr("New record in %1").arg(toQ(table.name.name))
          : tr("%n new record(s) in %1", "", static_cast<int>(records.size())).arg(toQ(table.name.name));
  stage({title.toStdString(), additionParts(table, records)});
}

void StagedWork::addAgain(const QString& title, const Table& table, const std::vector<RecordRef>& gone,
                          const std::vector<std::vector<std::pair<std::string, Value>>>& records) {
  GesturePart back = partFor(GesturePart::Kind::PutBack, table);
  for (const RecordRef& ref : gone) {
    for (std::size_t k = 0; k < back.keys.size(); ++k) back.keys[k].push(ref.key[k]);
  }
  Gesture gesture{title.toStdString(), {std::move(back)}};
  for (GesturePart& part : additionParts(table, records)) gesture.parts.push_back(std::move(part));
  stage(std::move(gesture));
}

void StagedWork::stageRemovals(const Table& table, const std::vector<RecordRef>& refs,
                               const std::vector<ValueTuple>& records) {
  const QString title = tr("Remove %n record(s) of %1", "", static_cast<int>(refs.size())).arg(toQ(table.name.name));
  stageRemovals(title, {{&table, refs, records}});
}

void StagedWork::stageRemovals(const QString& title, const std::vector<Removal>& removals) {
  Gesture gesture;
  gesture.title = title.toStdString();
  for (const Removal& removal : removals) {
    GesturePart remove = partFor(GesturePart::Kind::Remove, *removal.table);
    // A row id names the record; it is no cell of it.
    for (const Column& column : removal.table->columns) remove.recordColumns.push_back(column.name);
    remove.records.resize(remove.recordColumns.size());
    GesturePart drop = partFor(GesturePart::Kind::DropAdded, *removal.table);
    for (std::size_t i = 0; i < removal.refs.size(); ++i) {
      if (removal.refs[i].isAdded()) {
        drop.addedIds.push_back(removal.refs[i].addedId);
        continue;
      }
      for (std::size_t k = 0; k < remove.keys.size(); ++k) remove.keys[k].push(removal.refs[i].key[k]);
      for (std::size_t c = 0; c < remove.records.size(); ++c) remove.records[c].push(removal.records[i][c]);
    }
    if (remove.rows() > 0) gesture.parts.push_back(std::move(remove));
    if (!drop.addedIds.empty()) gesture.parts.push_back(std::move(drop));
  }
  if (!gesture.parts.empty()) stage(std::move(gesture));
}

void StagedWork::putBack(const QString& title, const std::vector<RecordRef>& records) {
  std::map<std::pair<TableName, bool>, GesturePart> parts;
  for (const RecordRef& ref : records) {
    const Table* table = catalogue_->find(ref.table);
    if (table == nullptr) continue;
    auto [it, isNew] = parts.try_emplace({ref.table, ref.isAdded()});
    if (isNew) it->second = partFor(ref.isAdded() ? GesturePart::Kind::DropAdded : GesturePart::Kind::PutBack, *table);
    if (ref.isAdded()) {
      it->second.addedIds.push_back(ref.addedId);
    } else {
      for (std::size_t k = 0; k < it->second.keys.size(); ++k) it->second.keys[k].push(ref.key[k]);
    }
  }
  Gesture gesture;
  gesture.title = title.toStdString();
  for (auto& [key, part] : parts) gesture.parts.push_back(std::move(part));
  if (!gesture.parts.empty()) stage(std::move(gesture));
}

void StagedWork::putBackCells(const QString& title, const std::vector<CellEdit>& cells) {
  stageDecided(GesturePart::Kind::PutBackCells, title, cells);
}

void StagedWork::keepMine(const QString& title, const std::vector<CellEdit>& cells) {
  stageDecided(GesturePart::Kind::KeepMine, title, cells);
}

void StagedWork::stageDecided(GesturePart::Kind kind, const QString& title, const std::vector<CellEdit>& cells) {
  Gesture gesture{title.toStdString(), decidedParts(kind, cells)};
  if (!gesture.parts.empty()) stage(std::move(gesture));
}

// The cells of a column are one part, however many they are.
std::vector<GesturePart> StagedWork::decidedParts(GesturePart::Kind kind, const std::vector<CellEdit>& cells) const {
  std::map<std::pair<TableName, std::string>, GesturePart> parts;
  for (const CellEdit& cell : cells) {
    const Table* table = catalogue_->find(cell.record.table);
    if (table == nullptr || cell.record.isAdded()) continue;
    const auto [at, isNew] = parts.try_emplace({cell.record.table, cell.column});
    GesturePart& part = at->second;
    if (isNew) {
      part = partFor(kind, *table);
      part.column = cell.column;
    }
    for (std::size_t k = 0; k < part.keys.size(); ++k) part.keys[k].push(cell.record.key[k]);
    if (kind == GesturePart::Kind::KeepMine) part.from.push(cell.from);
  }
  std::vector<GesturePart> out;
  for (auto& [column, part] : parts) out.push_back(std::move(part));
  return out;
}

void StagedWork::putAllBack() {
  std::vector<RecordRef> all;
  for (const TableChanges* table : changes_.tables()) {
    for (std::uint32_t r = 0; r < table->records(); ++r) {
      if (table->isEdited(r) || table->isRemoved(r)) all.push_back({table->name(), table->key(r), 0});
    }
    for (const auto& [id, record] : table->added()) all.push_back({table->name(), {}, id});
  }
  putBack(tr("Put all back"), all);
}

bool StagedWork::stageChanges(const QString& title, const ChangeList& list) {
  Result<ListedGesture> listed = gestureFrom(*catalogue_, list, changes_.nextAddedId());
  if (!listed) {
    emit said(tr("It cannot be staged here: %1.").arg(toQ(listed.error().text())));
    return false;
  }
  stageGesture(title, std::move(listed->gesture));
  return true;
}

void StagedWork::stageGesture(const QString& title, Gesture gesture) {
  gesture.title = title.toStdString();
  if (!gesture.parts.empty()) stage(std::move(gesture));
}

// What is being applied cannot be undone by Undo: by its receipt it can, when it is there.
bool StagedWork::heldByApplying() {
  if (applying_()) {
    emit said(tr("What is staged is being applied; wait a moment. Afterwards the history takes it back."));
    return true;
  }
  if (!log_.heldElsewhere()) return false;
  emit said(
      tr("What is staged is being applied in another window; wait a moment. Afterwards the history takes it "
         "back."));
  return true;
}

void StagedWork::undo() {
  if (heldByApplying() || !changes_.canUndo()) return;
  emit touched(changes_.lastGesture());
  changes_.undo();
  log_.moved();
  emit changed();
}

void StagedWork::redo() {
  if (heldByApplying() || !changes_.canRedo()) return;
  emit touched(changes_.nextGesture());
  changes_.redo();
  log_.moved();
  emit changed();
}

void StagedWork::forgetApplied(std::size_t gestures, const AppliedAdditions& added,
                               const std::optional<SplitChanges>& part) {
  log_.forgetApplied(gestures, added, part);
  log_.sendForgotten();
  emit changed();
}

}  // namespace iterandum
