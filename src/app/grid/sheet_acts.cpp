// What is done to all cells that are selected: filling, counting on, clearing.
#include <algorithm>
#include <map>
#include <memory>
#include <set>

#include "app/grid/sheet_view.h"
#include "app/values/typed_text.h"
#include "core/value/series.h"

namespace iterandum {

// --- what is selected ------------------------------------------------------------------------------------------------

std::vector<SheetView::Block> SheetView::selectedBlocks() const {
  std::map<std::pair<int, int>, std::set<int>> byRows;  // columns by where they lie on screen
  for (const QItemSelectionRange& range : selectionModel()->selection()) {
    for (int c = range.left(); c <= range.right(); ++c) {
      if (!isColumnHidden(c)) byRows[{range.top(), range.bottom()}].insert(head().visualIndex(c));
    }
  }
  if (byRows.empty() && currentIndex().isValid()) {
    byRows[{currentIndex().row(), currentIndex().row()}].insert(head().visualIndex(currentIndex().column()));
  }
  std::vector<Block> out;
  for (const auto& [rows, visuals] : byRows) {
    Block block{{rows.first, rows.second}, {}};
    for (const int visual : visuals) block.columns.push_back(head().logicalIndex(visual));
    out.push_back(std::move(block));
  }
  return out;
}

std::vector<RowRange> SheetView::selectedRows() const {
  std::vector<RowRange> out;
  for (const Block& block : selectedBlocks()) {
    if (!out.empty() && block.rows.first <= out.back().last + 1) {
      out.back().last = std::max(out.back().last, block.rows.last);
    } else {
      out.push_back(block.rows);
    }
  }
  return out;
}

qint64 SheetView::selectedCellCount() const {
  qint64 cells = 0;
  for (const Block& block : selectedBlocks()) {
    cells += static_cast<qint64>(block.rows.size()) * static_cast<qint64>(block.columns.size());
  }
  return cells;
}

std::vector<int> SheetView::commonColumns(const std::vector<Block>& blocks) {
  if (blocks.empty()) return {};
  const bool same =
      std::all_of(blocks.begin(), blocks.end(), [&](const Block& b) { return b.columns == blocks.front().columns; });
  if (same) return blocks.front().columns;
  emit said(tr("Nothing was done: the selected records do not have the same columns selected."));
  return {};
}

void SheetView::refuse(const Result<void>& staged, std::size_t records) {
  if (staged) return;
  const QString reason = toQ(staged.error().message);
  emit said(records == 1 ? reason : tr("Nothing was done: %1").arg(reason));
}

// --- one value for all -----------------------------------------------------------------------------------------------

void SheetView::setAll(const std::vector<RowRange>& rows, const std::vector<std::pair<int, Value>>& values,
                       const QString& what) {
  many_.take(rows, [this, values, what](ManyRecords::Records&& records) {
    refuse(many_.stage(records, values, what), records.size());
    model_.forgetWrong(currentIndex());
  });
}

void SheetView::setNoValue() {
  std::vector<std::pair<int, Value>> values;
  QStringList names;
  for (const int column : commonColumns(selectedBlocks())) {
    values.emplace_back(column, Value());
    names << model_.columnName(column);
  }
  if (!values.empty()) setAll(selectedRows(), values, tr("%1 to no value").arg(names.join(QStringLiteral(", "))));
}

void SheetView::fillWithTyped(const QString& text, const std::optional<Value>& chosen) {
  if (editor_ == nullptr) return;
  std::vector<std::pair<int, Value>> values;
  QStringList names;
  QString said = text;
  for (const int column : commonColumns(selectedBlocks())) {
    auto value = chosen && column == currentIndex().column() ? Result<Value>(*chosen) : model_.typed(column, text);
    if (!value) return editor_->showReason(toQ(value.error().message));
    if (model_.isHidden(column)) said = model_.shown(column, *value);
    values.emplace_back(column, std::move(*value));
    names << model_.columnName(column);
  }
  if (values.empty()) return;
  editor_->finishAs(CellEditor::Leave::Stay);
  setAll(selectedRows(), values, tr("%1 to %2").arg(names.join(QStringLiteral(", ")), said));
}

void SheetView::fillDown() {
  std::vector<RowRange> rows = selectedRows();
  const std::vector<int> columns = commonColumns(selectedBlocks());
  if (rows.empty() || columns.empty()) return;
  const bool alone = rows.size() == 1 && rows.front().size() == 1;
  if (alone && rows.front().first == 0) return emit said(tr("There is no record above this one."));
  if (alone) --rows.front().first;
  many_.take(rows, [this, columns](ManyRecords::Records&& records) {
    const ManyRecords::One first = std::move(records.front());
    records.erase(records.begin());
    std::vector<std::pair<int, Value>> values;
    QStringList names;
    for (const int column : columns) {
      if (model_.isBorrowed(column)) {
        return emit said(tr("Nothing was done: %1 is borrowed.").arg(model_.columnName(column)));
      }
      values.emplace_back(column, many_.effective(first, column));
      names << tr("%1 to %2").arg(model_.columnName(column), model_.shown(column, values.back().second));
    }
    refuse(many_.stage(records, values, names.join(QStringLiteral(", "))), records.size());
  });
}

// Each record from its own first selected column on.
void SheetView::fillRight() {
  std::vector<int> columns = commonColumns(selectedBlocks());
  if (columns.empty()) return;
  if (columns.size() == 1) {
    const int before = nextVisible(columns.front(), -1);
    if (before < 0) return emit said(tr("There is no column before this one."));
    columns.insert(columns.begin(), before);
  }
  many_.take(selectedRows(), [this, columns](ManyRecords::Records&& records) {
    refuse(many_.stageFromFirst(records, columns), records.size());
  });
}

// --- records
// ----------------------------------------------------------------------------------------------------------

void SheetView::addRecord() {
  const int row = model_.addRecord();
  if (row < 0) return;
  // What the database sets by itself nobody has to pass by.
  int column = edgeColumn(true);
  const auto isSet = [this](int c) {
    return !model_.isBorrowed(c) && (model_.column(c).generatedKey || model_.column(c).computed);
  };
  for (int next = column; next >= 0 && isSet(column); next = nextVisible(column, 1)) column = next;
  goTo(row, column);
}

// --- counting on -----------------------------------------------------------------------------------------------------

void SheetView::fillSeries() {
  const std::vector<RowRange> rows = selectedRows();
  const std::vector<int> columns = commonColumns(selectedBlocks());
  if (rows.empty() || columns.empty()) return;
  if (rows.size() == 1 && rows.front().size() == 1) {
    return emit said(tr("Select the cells that are to be counted through, from the first one down."));
  }
  countOn(columns, rows, 1);
}

// Dragged by the corner: one value goes on as it is, with Ctrl it counts on; several count on where they do so already,
// else they come again and again.
void SheetView::fillAsked(const QItemSelection& from, RowRange rows, bool counting) {
  const std::vector<int> columns = commonColumns(selectedBlocks());
  if (columns.empty() || from.isEmpty()) return;
  const int top = from.front().top();
  const auto pattern = static_cast<std::size_t>(rows.first - top);
  // All of it is selected afterwards, as what was meant.
  const QModelIndex end = model_.index(rows.last, columns.back());
  setCurrentIndex(model_.index(top, columns.front()));
  extendTo(end);
  if (counting && pattern == 1) return countOn(columns, {{top, rows.last}}, 1);
  many_.take({{top, rows.last}}, [this, columns, pattern, counting](ManyRecords::Records&& records) {
    std::vector<ManyRecords::CellWish> cells;
    for (const int column : columns) {
      std::vector<Value> values;
      for (std::size_t r = 0; r < pattern; ++r) values.push_back(many_.effective(records[r], column));
      std::optional<Series> series;
      if (pattern > 1 && !counting) series = Series::from(values[0], values[1]);
      for (std::size_t r = 2; series && r < pattern; ++r) {
        if (!sameValue(series->at(static_cast<std::int64_t>(r)), values[r])) series.reset();
      }
      for (std::size_t r = pattern; r < records.size(); ++r) {
        cells.push_back({r, column, series ? series->at(static_cast<std::int64_t>(r)) : values[r % pattern]});
      }
    }
    stageFilled(records, cells, tr("Fill on"), records.size() - pattern);
  });
}

void SheetView::countOn(const std::vector<int>& columns, const std::vector<RowRange>& rows, std::size_t pattern) {
  many_.take(rows, [this, columns, pattern](ManyRecords::Records&& records) {
    std::vector<ManyRecords::CellWish> cells;
    QStringList words;
    for (const int column : columns) {
      const Value first = many_.effective(records.front(), column);
      // What was typed into the second one says the step.
      std::optional<Value> second;
      if (many_.isStaged(records[1], column)) second = many_.effective(records[1], column);
      auto series = Series::from(first, second);
      if (!series && second) series = Series::from(first);
      if (!series || model_.reference(column) != nullptr) {
        return emit said(tr("Nothing was done: there is no counting on from %1 in %2.")
                             .arg(model_.shown(column, first), model_.columnName(column)));
      }
      words << tr("%1 from %2 by %3").arg(model_.columnName(column), model_.shown(column, first), toQ(series->step()));
      for (std::size_t r = pattern; r < records.size(); ++r) {
        cells.push_back({r, column, series->at(static_cast<std::int64_t>(r))});
      }
    }
    stageFilled(records, cells, words.join(QStringLiteral(", ")), records.size() - pattern);
  });
}

// All or nothing.
void SheetView::stageFilled(const ManyRecords::Records& records, const std::vector<ManyRecords::CellWish>& cells,
                            const QString& what, std::size_t filled) {
  const auto refused = many_.stageCells(
      records, cells, tr("%1 in %n record(s)", "", static_cast<int>(filled)).arg(what), ManyRecords::Partly::Never);
  if (!refused.empty()) {
    emit said(tr("Nothing was done: %1: %2").arg(model_.columnName(refused.front().column), refused.front().reason));
  }
}

}  // namespace iterandum
