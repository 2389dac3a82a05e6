// What is done to whole records that are selected: duplicated, removed with what hangs on them, put back.
#include <QLocale>
#include <algorithm>
#include <functional>

#include "app/grid/sheet_view.h"
#include "core/acts/copy_records.h"

namespace iterandum {
namespace {

constexpr std::size_t kMostHanging = 20000;

// These records with what points at them, read in the background; what was seen of them on the sheet is what is meant,
// whatever somebody wrote since. `then`: also told how many of them are in the database.
using HangingThen = std::function<void(Result<std::vector<HangingRecords>>&& found, std::size_t roots)>;
void readHanging(SheetView& view, ManyRecords::Records&& records, Hanging which, HangingThen then) {
  SheetModel& model = view.sheetModel();
  std::vector<ValueTuple> keys;
  for (const ManyRecords::One& one : records) {
    if (!one.ref.isAdded()) keys.push_back(one.ref.key);
  }
  const std::size_t roots = keys.size();
  model.desk().behind().post(
      &view,
      [table = &model.table(), catalogue = model.desk().sharedCatalogue(), keys = std::move(keys), which](
          Session& session, Progress& progress) {
        return withHangingRecords(session, *catalogue, *table, keys, which, kMostHanging, progress);
      },
      [&model, roots, records = std::move(records),
       then = std::move(then)](Result<std::vector<HangingRecords>>&& found) {
        for (std::size_t h = 0; found && h < found->size(); ++h) {
          HangingRecords& hanging = (*found)[h];
          for (std::size_t i = 0; hanging.table == &model.table() && i < hanging.keys.size(); ++i) {
            const auto seen = std::find_if(records.begin(), records.end(), [&](const ManyRecords::One& one) {
              return !one.ref.isAdded() && sameTuple(one.ref.key, hanging.keys[i]);
            });
            if (seen != records.end()) hanging.records[i] = seen->stored;
          }
        }
        then(std::move(found), roots);
      });
}

}  // namespace

void SheetView::duplicateSelected() {
  if (const QString reason = model_.cannotAdd(); !reason.isEmpty()) return emit said(reason);
  std::vector<int> copied;
  QStringList left;
  for (int c = 0; c < model_.ownColumns(); ++c) {
    const Column& column = model_.column(c);
    if (column.computed || column.generatedKey || !column.notEditable.empty()) continue;
    isUniqueAlone(model_.table(), static_cast<std::size_t>(c)) ? left.append(toQ(column.name)) : copied.push_back(c);
  }
  many_.take(selectedRows(), [this, copied, left](ManyRecords::Records&& records) {
    std::vector<std::vector<std::pair<std::string, Value>>> copies;
    for (const ManyRecords::One& one : records) {
      auto& cells = copies.emplace_back();
      for (const int c : copied) {
        Value value = many_.effective(one, c);
        // What the database would put there by itself is not what the record holds.
        if (!value.isNull() || model_.column(c).hasDefault) cells.emplace_back(model_.column(c).name, std::move(value));
      }
    }
    const int first = model_.rowCount();
    model_.desk().staged().stageAdditions(model_.table(), copies);
    const int column = left.isEmpty() ? currentIndex().column()
                                      : static_cast<int>(*model_.table().columnIndex(left.front().toStdString()));
    goTo(first, isColumnHidden(column) ? edgeColumn(true) : column);
    if (!left.isEmpty()) {
      emit said(
          tr("%n record(s) added with the same values; left to be filled in: %1.", "", static_cast<int>(records.size()))
              .arg(left.join(QStringLiteral(", "))));
    }
  });
}

void SheetView::duplicateWithHanging() {
  if (const QString reason = model_.cannotAdd(); !reason.isEmpty()) return emit said(reason);
  many_.take(selectedRows(), [this](ManyRecords::Records&& records) {
    const bool allNew = std::all_of(records.begin(), records.end(), [](const auto& one) { return one.ref.isAdded(); });
    if (allNew) return emit said(tr("Nothing in the database points at a record that is new itself."));
    readHanging(*this, std::move(records), Hanging::AllThatPoint, [this](auto&& found, std::size_t roots) {
      if (!found) return emit said(tr("Nothing was added: %1.").arg(toQ(found.error().text())));
      stageCopies(*found, roots);
    });
  });
}

void SheetView::stageCopies(const std::vector<HangingRecords>& found, std::size_t roots) {
  const auto copies = copiesOf(model_.desk().catalogue(), found, roots, model_.desk().changes());
  if (!copies) return emit said(tr("Nothing was added: %1.").arg(toQ(copies.error().text())));
  QStringList words;
  for (const auto& [table, count] : copies->counts)
    words << tr("%1 of %2").arg(QLocale().toString(static_cast<qulonglong>(count)), toQ(table->name.name));
  if (words.isEmpty()) return emit said(tr("Nothing was added: these records are to be removed, or are gone."));
  const int first = model_.rowCount();
  if (!model_.desk().staged().stageChanges(tr("Duplicate %1").arg(words.join(QStringLiteral(", "))), copies->changes))
    return;
  int column = currentIndex().column();
  QString message = tr("Added once more: %1. The review lists them all.").arg(words.join(QStringLiteral(", ")));
  QStringList open;
  for (auto one = copies->leftOpen.rbegin(); one != copies->leftOpen.rend(); ++one) {
    open.prepend(tr("%1 of %2").arg(toQ(one->second), toQ(one->first->name.name)));
    if (one->first->name == model_.table().name) column = static_cast<int>(*model_.table().columnIndex(one->second));
  }
  goTo(first, isColumnHidden(column) ? edgeColumn(true) : column);
  if (!open.isEmpty()) message += tr(" Left to be filled in: %1.").arg(open.join(QStringLiteral(", ")));
  emit said(message);
}

void SheetView::removeSelected() {
  if (const QString reason = model_.cannotRemove(); !reason.isEmpty()) return emit said(reason);
  many_.take(selectedRows(), [this](ManyRecords::Records&& records) { many_.remove(records); });
}

void SheetView::removeWithHanging() {
  if (const QString reason = model_.cannotRemove(); !reason.isEmpty()) return emit said(reason);
  many_.take(selectedRows(), [this](ManyRecords::Records&& records) {
    readHanging(*this, std::move(records), Hanging::CouldNotStay, [this](auto&& found, std::size_t /*roots*/) {
      if (!found) return emit said(tr("Nothing was removed: %1").arg(toQ(found.error().text())));
      stageHanging(*found);
    });
  });
}

void SheetView::stageHanging(const std::vector<HangingRecords>& found) {
  const HangingRemovals all = removalsOf(found);
  if (!all.cannot.isEmpty()) return emit said(tr("Nothing was removed: %1.").arg(all.cannot));
  if (all.removals.empty()) return;
  model_.desk().staged().stageRemovals(tr("Remove %1").arg(all.words), all.removals);
  emit said(tr("To be removed: %1. The review lists them all.").arg(all.words));
}

// Only what is staged is put back: nothing has to be read.
std::vector<int> SheetView::stagedRows() const {
  std::vector<int> rows;
  for (const RowRange& range : selectedRows()) {
    for (int row = range.first; row <= range.last;) {
      const auto marked = model_.markedIn(row, range.last, false, SheetModel::Marked::Staged);
      if (!marked) break;
      rows.push_back(*marked);
      row = *marked + 1;
    }
  }
  return rows;
}

void SheetView::putBackSelected() {
  std::vector<int> rows = stagedRows();
  if (rows.empty()) rows = {currentIndex().row()};
  model_.putBack(rows);
}

std::vector<RecordRef> SheetView::stagedInSelection() const {
  std::vector<RecordRef> out;
  for (const int row : stagedRows()) out.push_back(model_.ref(row));
  return out;
}

}  // namespace iterandum
