#include "app/records/sheet_model.h"

#include "app/values/typed_text.h"

#include <algorithm>

#include "core/catalogue/column_rules.h"

namespace iterandum {

SheetModel::SheetModel(Desk& desk, const Table& table, QObject* parent)
    : QAbstractTableModel(parent),
      desk_(desk),
      table_(table),
      source_(desk, table),
      rules_(desk, table),
      houseRules_(desk, table) {
  for (const Column& c : table.columns) {
    paths_.push_back({{}, c.name});
    described_.push_back(&c);
  }
  connect(&desk_.lent(), &LentRecords::arrived, this, [this] {
    if (columnCount() == ownColumns()) return;
    wantBorrowedNames();
    showAgain(0, rowCount() - 1);
  });
  connect(&source_, &RecordSource::restarted, this, [this] {
    beginResetModel();
    endResetModel();
  });
  // New records stand behind the existing ones, so growing inserts before them.
  connect(&source_, &RecordSource::rowsAboutToGrow, this,
          [this](int first, int last) { beginInsertRows({}, first, last); });
  connect(&source_, &RecordSource::rowsGrew, this, [this] { endInsertRows(); });
  connect(&source_, &RecordSource::loaded, this, [this](int first, int last) {
    showAgain(first, last);
    askRules();
  });
  connect(&rules_, &RuleWatch::answered, this, [this] { showAgain(0, rowCount() - 1); });
  connect(&desk_.kept(), &KeptSettings::houseRulesChanged, this, [this] {
    houseRules_.readAgain();
    showAgain(0, rowCount() - 1);
  });
  connect(&rules_, &RuleWatch::said, this, &SheetModel::said);
  connect(&desk_.staged(), &StagedWork::changed, this, &SheetModel::stagedChanged);
  connect(&desk_.lenses(), &Lenses::changed, this, [this] {
    showAgain(0, rowCount() - 1);
    emit headerDataChanged(Qt::Horizontal, 0, columnCount() - 1);
  });
  connect(&desk_.names(), &ReferenceNames::named, this, [this] {
    if (rowCount() > 0) emit dataChanged(index(0, 0), index(rowCount() - 1, columnCount() - 1));
  });
  addedIds_ = addedHere();
}

std::vector<std::uint64_t> SheetModel::addedHere() const {
  std::vector<std::uint64_t> out;
  const TableChanges* changes = desk_.changes().table(table_.name);
  if (changes == nullptr) return out;
  for (const auto& [id, record] : changes->added()) {
    const bool here = std::all_of(heldByAll_.begin(), heldByAll_.end(), [&cells = record.cells](const auto& held) {
      const auto cell = cells.find(held.first);
      return cell != cells.end() && sameValue(cell->second, held.second);
    });
    if (here) out.push_back(id);
  }
  return out;
}

void SheetModel::setHeldByAll(HeldByAll values) {
  heldByAll_ = std::move(values);
  stagedChanged();
}

void SheetModel::stagedChanged() {
  const std::vector<std::uint64_t> now = addedHere();
  if (now != addedIds_) {
    const int base = source_.rows();
    if (now.size() > addedIds_.size() && std::equal(addedIds_.begin(), addedIds_.end(), now.begin())) {
      beginInsertRows({}, base + static_cast<int>(addedIds_.size()), base + static_cast<int>(now.size()) - 1);
      addedIds_ = now;
      endInsertRows();
    } else {
      if (!addedIds_.empty()) {
        beginRemoveRows({}, base, base + static_cast<int>(addedIds_.size()) - 1);
        addedIds_.clear();
        endRemoveRows();
      }
      if (!now.empty()) {
        beginInsertRows({}, base, base + static_cast<int>(now.size()) - 1);
        addedIds_ = now;
        endInsertRows();
      }
    }
  }
  showAgain(0, rowCount() - 1);
  askRules();
}

void SheetModel::showAgain(int first, int last) {
  houseBroken_.clear();
  last = std::min(last, rowCount() - 1);
  if (last < first) return;
  emit dataChanged(index(first, 0), index(last, columnCount() - 1));
  emit headerDataChanged(Qt::Vertical, first, last);
}

int SheetModel::rowCount(const QModelIndex& parent) const {
  return parent.isValid() ? 0 : source_.rows() + static_cast<int>(addedIds_.size());
}

int SheetModel::columnCount(const QModelIndex& parent) const {
  return parent.isValid() ? 0 : static_cast<int>(paths_.size());
}

RecordRef SheetModel::ref(int row) const {
  RecordRef out;
  out.table = table_.name;
  if (isAddedRow(row)) {
    const auto at = static_cast<std::size_t>(row - source_.rows());
    out.addedId = at < addedIds_.size() ? addedIds_[at] : 0;
  } else {
    out.key = source_.key(row);
  }
  return out;
}

QString SheetModel::wrongKey(const RecordRef& ref, const std::string& column) {
  return toQ(column) + QLatin1Char('\n') + recordText(ref);
}

SheetModel::Held SheetModel::heldOf(int row) const {
  Held held{&table_, ref(row), nullptr, false};
  if (held.ref.isAdded()) return held;
  held.stored = source_.record(row);
  held.gone = source_.isGone(row);
  return held;
}

// What a cell holds, and what is staged in it. REQUIRES: `out` is as it was made.
void SheetModel::takeCell(const Held& held, std::size_t column, CellState& out) const {
  const Column& described = held.table->columns[column];
  const TableChanges* changes = desk_.changes().table(held.table->name);
  if (held.ref.isAdded()) {
    out.loaded = true;
    out.addedRecord = true;
    const auto added = changes == nullptr ? std::map<std::uint64_t, AddedRecord>::const_iterator()
                                          : changes->added().find(held.ref.addedId);
    if (changes == nullptr || added == changes->added().end()) return;
    const auto it = added->second.cells.find(described.name);
    if (it != added->second.cells.end()) {
      out.stored = it->second;
    } else {
      out.setByDatabase = described.hasDefault || described.generatedKey || described.computed;
    }
    return;
  }
  out.loaded = held.stored != nullptr || held.gone;
  if (held.stored != nullptr) out.stored = (*held.stored)[column];
  const auto number = changes == nullptr ? std::nullopt : changes->find(held.ref.key);
  if (!number) return;
  out.removedRecord = changes->isRemoved(*number);
  if (out.removedRecord) return;
  out.staged = changes->cell(*number, described.name);
  if (out.staged && held.stored != nullptr) {
    out.somebodyElse = !sameValue(out.stored, out.staged->from) && !sameValue(out.stored, out.staged->to);
  }
  out.found = out.staged && desk_.marks().hasFinding(held.table->name, held.ref.key, described.name);
}

CellState SheetModel::cell(int row, int column) const {
  CellState out;
  const RecordRef record = ref(row);
  if (!wrong_.isEmpty()) {
    const auto wrong = wrong_.constFind(wrongKey(record, columnName(column).toStdString()));
    if (wrong != wrong_.constEnd()) {
      out.typedWrong = wrong->first;
      out.wrongBecause = wrong->second;
    }
  }
  if (!isBorrowed(column)) {
    const RuleWatch::Broken* broken = rules_.broken(record);
    if (broken != nullptr && broken->speaksOf(static_cast<std::size_t>(column))) out.ruleBroken = broken->words;
    takeCell(heldOf(row), static_cast<std::size_t>(column), out);
    const HouseRuleWatch::Broken* house = out.ruleBroken.isEmpty() ? houseBroken(row) : nullptr;
    if (house != nullptr && house->stops && house->speaksOf(static_cast<std::size_t>(column)))
      out.ruleBroken = house->words;
    return out;
  }
  const auto [way, held] = lender(row, path(column));
  out.loaded = way != Way::NotYet;
  out.noLender = way == Way::Nowhere;
  if (way == Way::There) takeCell(held, *held.table->columnIndex(path(column).column), out);
  return out;
}

Mark SheetModel::mark(int row) const {
  const RecordRef record = ref(row);
  if (rules_.broken(record) != nullptr) return Mark::Query;
  if (const auto* house = houseBroken(row); house != nullptr && house->stops) return Mark::Query;
  if (isAddedRow(row)) return Mark::Added;
  const TableChanges* changes = desk_.changes().table(table_.name);
  const auto number = changes == nullptr ? std::nullopt : changes->find(record.key);
  if (number && (changes->isRemoved(*number) || changes->isEdited(*number)) &&
      desk_.marks().hasFinding(table_.name, record.key, {})) {
    return Mark::Query;
  }
  if (number && changes->isRemoved(*number)) return source_.isGone(row) ? Mark::Query : Mark::Removed;
  if (number && changes->isEdited(*number)) {
    if (source_.isGone(row)) return Mark::Query;
    for (const std::string& name : changes->editedColumns(*number)) {
      const auto column = table_.columnIndex(name);
      if (column && cell(row, static_cast<int>(*column)).somebodyElse) return Mark::Query;
    }
    return Mark::Changed;
  }
  if (!wrong_.isEmpty()) {
    for (int c = 0; c < columnCount(); ++c) {
      if (wrong_.contains(wrongKey(record, columnName(c).toStdString()))) return Mark::Query;
    }
  }
  return desk_.marks().wasApplied(table_.name, record.key) ? Mark::Applied : Mark::None;
}

QVariant SheetModel::data(const QModelIndex& index, int role) const {
  if (!index.isValid() || index.row() >= rowCount()) return {};
  if (role == Qt::DisplayRole) {
    const CellState state = cell(index.row(), index.column());
    if (!state.loaded) return QStringLiteral("…");
    if (state.setByDatabase) return tr("set by the database");
    if (state.noLender) return tr("points at nothing");
    return shown(index.column(), state.effective());
  }
  if (role == Qt::EditRole) return editText(index.column(), cell(index.row(), index.column()).effective());
  if (role == Qt::ToolTipRole) {
    const CellState state = cell(index.row(), index.column());
    if (!state.typedWrong.isEmpty()) return state.wrongBecause;
    if (!state.ruleBroken.isEmpty()) return state.ruleBroken;
    if (state.noLender)
      return tr("This record points at none that %1 could come from.").arg(columnName(index.column()));
    if (state.somebodyElse)
      return tr("Somebody else changed this meanwhile; it now holds %1.").arg(shown(index.column(), state.stored));
    return {};
  }
  if (role == Qt::AccessibleTextRole) {
    const CellState state = cell(index.row(), index.column());
    if (!state.staged) return data(index, Qt::DisplayRole);
    return tr("%1, was %2").arg(shown(index.column(), state.staged->to), shown(index.column(), state.staged->from));
  }
  return {};
}

QVariant SheetModel::headerData(int section, Qt::Orientation orientation, int role) const {
  if (orientation == Qt::Horizontal && role == Qt::DisplayRole) return columnName(section);
  if (orientation == Qt::Horizontal && role == Qt::ToolTipRole) {
    const Column& c = column(section);
    const QString words = toQ(c.comment.empty() ? c.declaredType : c.comment + "\n" + c.declaredType);
    return lens(section) == nullptr ? words : words + QLatin1Char('\n') + tr("looked at through a lens");
  }
  if (orientation == Qt::Vertical && role == Qt::AccessibleTextRole) return markName(mark(section));
  return {};
}

Qt::ItemFlags SheetModel::flags(const QModelIndex&) const { return Qt::ItemIsEnabled | Qt::ItemIsSelectable; }

QString SheetModel::columnNotEditable(int c) const {
  if (!desk_.info().readOnly.empty()) return tr("Nothing here can be changed: %1.").arg(toQ(desk_.info().readOnly));
  const Table& table = ownerTable(c);
  if (!table.notEditable.empty()) {
    return tr("%1 cannot be changed: %2.")
        .arg(isBorrowed(c) ? toQ(displayName(table.name)) : tr("This table"), toQ(table.notEditable));
  }
  if (!column(c).notEditable.empty()) return tr("%1 cannot be set: %2.").arg(columnName(c), toQ(column(c).notEditable));
  return {};
}

QString SheetModel::notEditable(int row, int c) const {
  if (QString reason = columnNotEditable(c); !reason.isEmpty()) return reason;
  const Table& table = ownerTable(c);
  if (!isBorrowed(c) && isAddedRow(row)) return {};
  if (!table.cannotEdit.empty()) return tr("Records here cannot be edited: %1.").arg(toQ(table.cannotEdit));
  const CellState state = cell(row, c);
  if (state.noLender) return tr("This record points at none whose %1 could be changed.").arg(toQ(column(c).name));
  if (state.removedRecord) return tr("This record is to be removed; put it back first (%1).").arg(tr("Ctrl+Backspace"));
  if (!isBorrowed(c) && source_.isGone(row)) return tr("This record is no longer in the database.");
  if (!state.loaded) return tr("This record is still being read.");
  if (state.stored.kind() == Value::Kind::Text && !isValidUtf8(state.stored.asString())) {
    return tr("This text is not valid UTF-8 and could not be shown or typed without harm.");
  }
  return {};
}

Result<void> SheetModel::stage(const QModelIndexList& cells, const Value& value, const QString& what,
                               const QString& othersSaid) {
  std::vector<CellEdit> edits;
  bool overOthers = false;
  for (const QModelIndex& i : cells) {
    QString reason = notEditable(i.row(), i.column());
    const auto record = owner(i.row(), i.column());
    if (reason.isEmpty() && isBorrowed(i.column()) && (cells.size() > 1 || othersSaid.isEmpty())) {
      reason =
          tr("%1 is borrowed: it changes in every record that shares it. Open it by itself (F2), which says how many "
             "those are.")
              .arg(columnName(i.column()));
    }
    if (!reason.isEmpty() || !record) return fail(ErrorKind::InvalidInput, reason.toStdString());
    ITERANDUM_ASSIGN(Value stored, storedForm(column(i.column()), value));
    const CellState state = cell(i.row(), i.column());
    if (sameValue(state.effective(), stored) && !state.setByDatabase && state.typedWrong.isEmpty()) continue;
    const bool over = writesOverOthers_ && state.somebodyElse;
    overOthers = overOthers || over;
    edits.push_back({*record, column(i.column()).name, state.staged && !over ? state.staged->from : state.stored,
                     std::move(stored)});
    forgetWrong(i);
  }
  if (edits.empty()) return {};
  QString where = tr("%n record(s)", "", static_cast<int>(edits.size()));
  if (edits.size() == 1) where = ownerTitle(cells.front().row(), cells.front().column());
  if (!othersSaid.isEmpty()) where += tr(" (%1)").arg(othersSaid);
  // Titles go on receipts and papers: what is masked is not to stand there.
  const int first = cells.front().column();
  const QString words = isHidden(first) ? shown(first, value) : what;
  const QString title = tr("%1 to %2 in %3").arg(toQ(column(first).name), words, where);
  if (overOthers) {
    desk_.staged().stageOver(title, edits);
  } else {
    desk_.staged().stageEdits(title, edits);
  }
  if (edits.size() == 1) {
    if (const auto* house = houseBroken(cells.front().row()); house != nullptr) emit said(house->words);
  }
  if (cells.size() == 1 && reference(cells.front().column()) != nullptr) {
    const int c = cells.front().column();
    desk_.names().want(ownerTable(c), *ownerTable(c).columnIndex(column(c).name), {value});
  }
  return {};
}

bool SheetModel::stageText(const QModelIndex& i, const QString& text, const QString& othersSaid) {
  const CellState state = cell(i.row(), i.column());
  if (text == editText(i.column(), state.effective()) && state.typedWrong.isEmpty() &&
      !(state.effective().isNull() && !state.setByDatabase))
    return true;
  const auto value = typed(i.column(), text);
  if (!value) {
    QString reason = toQ(value.error().message);
    if (reference(i.column()) != nullptr) {
      reason = tr("“%1” is no key of %2, and of what is called so none was chosen")
                   .arg(text, toQ(reference(i.column())->target.name));
    }
    keepWrong(i, text, reason);
    return false;
  }
  // An untouched empty field of a cell without a value leaves it without one.
  if (text.isEmpty() && state.effective().isNull()) return true;
  const auto staged = stage({i}, *value, shown(i.column(), *value), othersSaid);
  if (!staged) {
    keepWrong(i, text, toQ(staged.error().message));
    return false;
  }
  return true;
}

void SheetModel::keepWrong(const QModelIndex& i, const QString& text, const QString& because) {
  wrong_.insert(wrongKey(ref(i.row()), columnName(i.column()).toStdString()), {text, because});
  emit dataChanged(i, i);
  emit headerDataChanged(Qt::Vertical, i.row(), i.row());
}

void SheetModel::forgetWrong(const QModelIndex& i) {
  if (wrong_.remove(wrongKey(ref(i.row()), columnName(i.column()).toStdString())) == 0) return;
  emit dataChanged(i, i);
  emit headerDataChanged(Qt::Vertical, i.row(), i.row());
}

QString SheetModel::cannotAdd() const {
  QString reason;
  if (!desk_.info().readOnly.empty()) reason = toQ(desk_.info().readOnly);
  if (!table_.notEditable.empty()) reason = toQ(table_.notEditable);
  if (!table_.cannotAdd.empty()) reason = toQ(table_.cannotAdd);
  return reason.isEmpty() ? reason : tr("No record can be added here: %1.").arg(reason);
}

int SheetModel::addRecord() {
  if (const QString reason = cannotAdd(); !reason.isEmpty()) {
    emit said(reason);
    return -1;
  }
  desk_.staged().stageAddition(table_, heldByAll_);
  return rowCount() - 1;
}

std::optional<int> SheetModel::rowOfAdded(std::uint64_t id) const {
  const auto at = std::find(addedIds_.begin(), addedIds_.end(), id);
  if (at == addedIds_.end()) return std::nullopt;
  return source_.rows() + static_cast<int>(at - addedIds_.begin());
}

QString SheetModel::cannotRemove() const {
  if (!desk_.info().readOnly.empty()) return tr("Nothing here can be changed: %1.").arg(toQ(desk_.info().readOnly));
  const std::string& reason = !table_.notEditable.empty() ? table_.notEditable : table_.cannotRemove;
  return reason.empty() ? QString() : tr("No record can be removed here: %1.").arg(toQ(reason));
}

void SheetModel::putBack(const std::vector<int>& rows) {
  std::vector<RecordRef> refs;
  for (const int row : rows) {
    const Mark m = mark(row);
    if (m != Mark::None && m != Mark::Applied) refs.push_back(ref(row));
    for (int c = 0; c < columnCount(); ++c) wrong_.remove(wrongKey(ref(row), columnName(c).toStdString()));
  }
  if (!refs.empty()) desk_.staged().putBack(tr("Put back %n record(s)", "", static_cast<int>(refs.size())), refs);
}

QString SheetModel::titleOf(const Held& held) const {
  if (held.ref.isAdded()) {
    for (const std::string& name : desk_.names().readable(*held.table)) {
      CellState state;
      const auto c = held.table->columnIndex(name);
      if (c) takeCell(held, *c, state);
      const Column* column = held.table->column(name);
      const bool isText = column != nullptr && column->type == TypeClass::Text && state.stored.isString();
      if (isText && !state.stored.asString().empty())
        return tr("the new record %1").arg(toQ(canonicalText(state.stored)).simplified().left(60));
    }
    return tr("a new record");
  }
  for (const std::string& name : desk_.names().readable(*held.table)) {
    const auto c = held.table->columnIndex(name);
    const Lens* lens = desk_.lenses().of(held.table->name, name);
    if (lens != nullptr && lens->kind == LensKind::Masked) continue;
    if (held.stored != nullptr && c && !(*held.stored)[*c].isNull()) {
      const QString text = toQ(canonicalText((*held.stored)[*c])).simplified();
      if (!text.isEmpty()) return text.left(60);
    }
  }
  return toQ(recordInWords(held.table->name, held.ref.key));
}

QString SheetModel::recordTitle(int row) const { return titleOf(heldOf(row)); }

bool SheetModel::anyMayNeedALook() const {
  if (!wrong_.isEmpty() || rules_.any() || desk_.marks().hasFindings(table_.name)) return true;
  // What somebody else changed is known of the records that are loaded.
  const QList<int> loaded = source_.loadedRows();
  return std::any_of(loaded.begin(), loaded.end(), [this](int row) { return mark(row) == Mark::Query; });
}

std::optional<int> SheetModel::markedIn(int first, int last, bool backwards, Marked marked) const {
  const TableChanges* changes = desk_.changes().table(table_.name);
  const auto mayHaveOne = [&](int row) {
    if (isAddedRow(row) || !wrong_.isEmpty()) return true;
    return changes != nullptr && changes->find(source_.key(row));
  };
  const auto isSo = [&](int row) {
    const Mark m = mark(row);
    if (marked == Marked::Query) return m == Mark::Query;
    return m != Mark::None && m != Mark::Applied;
  };
  for (int i = 0; i <= last - first; ++i) {
    const int row = backwards ? last - i : first + i;
    if (mayHaveOne(row) && isSo(row)) return row;
  }
  return std::nullopt;
}

}  // namespace iterandum
