// What is done to all that is selected: filling, clearing, removing, copying, pasting.
#include <QApplication>
#include <QClipboard>
#include <QMimeData>
#include <algorithm>
#include <functional>
#include <map>
#include <memory>
#include <set>

#include "app/grid/sheet_view.h"
#include "app/values/typed_text.h"

namespace iterandum {
namespace {

// A field of tab-separated text as spreadsheets write and read it: quoted where it holds what would end it.
QString tabField(const QString& text) {
  const bool odd = text.contains('\t') || text.contains('\n') || text.contains('\r') || text.startsWith('"');
  if (!odd) return text;
  return QLatin1Char('"') + QString(text).replace(QLatin1Char('"'), QStringLiteral("\"\"")) + QLatin1Char('"');
}

// Lines of fields; a quoted field may have tabs and line ends in it.
std::vector<QStringList> tabLines(QString text) {
  text.replace(QStringLiteral("\r\n"), QStringLiteral("\n")).replace(QLatin1Char('\r'), QLatin1Char('\n'));
  if (text.endsWith(QLatin1Char('\n'))) text.chop(1);
  std::vector<QStringList> out(1);
  QString field;
  bool quoted = false;
  bool begins = true;
  for (qsizetype i = 0; i < text.size(); ++i) {
    const QChar c = text[i];
    const bool quote = c == QLatin1Char('"');
    const bool ends = !quoted && (c == QLatin1Char('\t') || c == QLatin1Char('\n'));
    if (quoted && quote && i + 1 < text.size() && text[i + 1] == QLatin1Char('"')) {
      field += text[i++];
    } else if (quote && (quoted || begins)) {
      quoted = !quoted;
    } else if (!ends) {
      field += c;
    }
    if (ends) {
      out.back() << field;
      field.clear();
      if (c == QLatin1Char('\n')) out.emplace_back();
    }
    begins = ends;
  }
  out.back() << field;
  return out;
}

}  // namespace

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
  for (const int column : commonColumns(selectedBlocks())) {
    auto value =
        chosen && column == currentIndex().column() ? Result<Value>(*chosen) : typedInCell(model_.column(column), text);
    if (!value) return editor_->showReason(toQ(value.error().message));
    values.emplace_back(column, std::move(*value));
    names << model_.columnName(column);
  }
  if (values.empty()) return;
  editor_->finishAs(CellEditor::Leave::Stay);
  setAll(selectedRows(), values, tr("%1 to %2").arg(names.join(QStringLiteral(", ")), text));
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
  if (row >= 0) goTo(row, edgeColumn(true));
}

void SheetView::removeSelected() {
  if (const QString reason = model_.cannotRemove(); !reason.isEmpty()) return emit said(reason);
  many_.take(selectedRows(), [this](ManyRecords::Records&& records) { many_.remove(records); });
}

// Only what is staged is put back: nothing has to be read.
void SheetView::putBackSelected() {
  std::vector<int> rows;
  for (const RowRange& range : selectedRows()) {
    for (int row = range.first; row <= range.last;) {
      const auto marked = model_.markedIn(row, range.last, false);
      if (!marked) break;
      rows.push_back(*marked);
      row = *marked + 1;
    }
  }
  if (rows.empty()) rows = {currentIndex().row()};
  model_.putBack(rows);
}

// --- the clipboard
// ----------------------------------------------------------------------------------------------------

// As it is shown: references by name, yes and no; a text whole, with its line ends.
void SheetView::copyRecords(const std::vector<Block>& blocks, const ManyRecords::Records& records) {
  QString plain;
  QString html = QStringLiteral("<meta charset=\"utf-8\"><table>");
  std::size_t at = 0;
  for (const Block& block : blocks) {
    for (int row = block.rows.first; row <= block.rows.last; ++row, ++at) {
      html += QLatin1String("<tr>");
      for (std::size_t c = 0; c < block.columns.size(); ++c) {
        const int column = block.columns[c];
        const Value value =
            model_.isBorrowed(column) ? model_.cell(row, column).effective() : many_.effective(records[at], column);
        const bool text = value.isString() && !value.isNumber() && model_.reference(column) == nullptr;
        const QString shown = value.isNull() ? QString() : (text ? editText(value) : model_.shown(column, value));
        plain += (c > 0 ? QStringLiteral("\t") : QString()) + tabField(shown);
        html += QStringLiteral("<td>%1</td>").arg(shown.toHtmlEscaped().replace('\n', QLatin1String("<br>")));
      }
      html += QLatin1String("</tr>");
      plain += QLatin1Char('\n');
    }
  }
  plain.chop(1);
  auto* copied = new QMimeData;
  copied->setText(plain);
  copied->setHtml(html + QLatin1String("</table>"));
  QApplication::clipboard()->setMimeData(copied);
}

// Asks for the names that are not known yet; false: all are.
bool SheetView::wantNames(const std::vector<Block>& blocks, const ManyRecords::Records& records) const {
  ReferenceNames& names = model_.desk().names();
  std::set<int> columns;
  for (const Block& block : blocks) columns.insert(block.columns.begin(), block.columns.end());
  for (const int column : columns) {
    if (model_.reference(column) == nullptr || model_.isBorrowed(column)) continue;
    std::vector<Value> values;
    for (const ManyRecords::One& record : records) values.push_back(many_.effective(record, column));
    names.want(model_.table(), static_cast<std::size_t>(column), values);
  }
  return names.asking();
}

bool SheetView::canCopy(const std::vector<Block>& blocks) {
  for (const Block& block : blocks) {
    for (const int column : block.columns) {
      if (!model_.isBorrowed(column)) continue;
      for (int row = block.rows.first; row <= block.rows.last; ++row) {
        if (model_.cell(row, column).loaded) continue;
        emit said(
            tr("Nothing was copied: %1 is borrowed, and not read for all of these records. Leave it out, or select "
               "what is on screen.")
                .arg(model_.columnName(column)));
        return false;
      }
    }
  }
  return true;
}

// `then` follows when the copy is on the clipboard.
void SheetView::copyThen(std::function<void(const ManyRecords::Records&)> then) {
  const std::vector<Block> blocks = selectedBlocks();
  if (!canCopy(blocks)) return;
  std::vector<RowRange> rows;
  for (const Block& block : blocks) rows.push_back(block.rows);
  many_.take(rows, [this, blocks, then = std::move(then)](ManyRecords::Records&& taken) {
    const auto records = std::make_shared<ManyRecords::Records>(std::move(taken));
    const auto copy = [this, blocks, records, then] {
      copyRecords(blocks, *records);
      then(*records);
    };
    if (!wantNames(blocks, *records)) return copy();
    // Others ask for names as well: all of them have to be there.
    auto* waiting = new QObject(this);
    connect(&model_.desk().names(), &ReferenceNames::named, waiting, [this, waiting, copy] {
      if (model_.desk().names().asking()) return;
      waiting->deleteLater();
      waiting->disconnect();
      model_.desk().names().disconnect(waiting);
      copy();
    });
  });
}

void SheetView::copySelection() {
  copyThen([this](const ManyRecords::Records& records) {
    if (records.size() > 1) emit said(tr("Copied %n record(s).", "", static_cast<int>(records.size())));
  });
}

void SheetView::cutSelection() {
  std::vector<std::pair<int, Value>> values;
  for (const int column : commonColumns(selectedBlocks())) values.emplace_back(column, Value());
  if (values.empty()) return;
  copyThen([this, values](const ManyRecords::Records& records) {
    refuse(many_.stage(records, values, tr("Cut")), records.size());
  });
}

// One value goes into the whole selection; a block goes down and right from the selection's top left. One gesture
// either way.
void SheetView::pasteClipboard() {
  const std::vector<QStringList> lines = tabLines(QApplication::clipboard()->text());
  if (!currentIndex().isValid() || (lines.size() == 1 && lines[0].size() == 1 && lines[0][0].isEmpty())) return;
  const std::vector<Block> blocks = selectedBlocks();
  if (lines.size() == 1 && lines[0].size() == 1) {
    if (selectedCellCount() > 1) return pasteOne(lines[0][0]);
  }
  const int top = blocks.front().rows.first;
  const int first = blocks.front().columns.front();
  const int left = model_.rowCount() - top;
  if (static_cast<int>(lines.size()) > left) {
    emit said(tr("Nothing was pasted: there are %1 lines on the clipboard, and %n record(s) from here to the end of "
                 "the sheet.",
                 "", left)
                  .arg(lines.size()));
    return;
  }
  pasteBlock(lines, top, first);
}

void SheetView::pasteBlock(const std::vector<QStringList>& lines, int top, int first) {
  std::map<int, QStringList> wanted;
  for (const QStringList& line : lines) {
    int column = first;
    for (const QString& piece : line) {
      if (column < 0) break;
      if (lookup_.mayBeName(column, piece)) wanted[column] << piece;
      column = nextVisible(column, 1);
    }
  }
  // What the places are called is looked up by record: the sheet may be another one when the names are there.
  const auto generation = model_.source().generation();
  lookup_.find(wanted, [this, lines, top, first, generation](Result<NameLookup::Names>&& names) {
    if (!names) return emit said(tr("Nothing was pasted: %1").arg(toQ(names.error().text())));
    if (generation != model_.source().generation()) {
      return emit said(tr("Nothing was pasted: the sheet was read again meanwhile. Paste again."));
    }
    std::vector<CellEdit> edits;
    for (std::size_t l = 0; l < lines.size(); ++l) {
      int column = first;
      for (const QString& piece : lines[l]) {
        if (column < 0) break;
        if (!pasteInto(edits, model_.index(top + static_cast<int>(l), column), piece, *names)) return;
        column = nextVisible(column, 1);
      }
    }
    model_.desk().stageEdits(tr("Paste into %n cell(s)", "", static_cast<int>(edits.size())), edits);
  });
}

Result<Value> SheetView::pasted(int column, const QString& text, const NameLookup::Names& names) const {
  const auto name = names.find({column, text});
  return name == names.end() ? typedInCell(model_.column(column), text) : name->second;
}

void SheetView::pasteOne(const QString& text) {
  const std::vector<int> columns = commonColumns(selectedBlocks());
  const std::vector<RowRange> rows = selectedRows();
  std::map<int, QStringList> wanted;
  for (const int column : columns) {
    if (lookup_.mayBeName(column, text)) wanted[column] << text;
  }
  lookup_.find(wanted, [this, text, columns, rows](Result<NameLookup::Names>&& names) {
    if (!names) return emit said(tr("Nothing was pasted: %1").arg(toQ(names.error().text())));
    std::vector<std::pair<int, Value>> values;
    for (const int column : columns) {
      auto value = pasted(column, text, *names);
      if (!value) return emit said(tr("Nothing was pasted: %1").arg(toQ(value.error().message)));
      values.emplace_back(column, std::move(*value));
    }
    if (!values.empty()) setAll(rows, values, tr("Paste “%1”").arg(text.left(40)));
  });
}

bool SheetView::pasteInto(std::vector<CellEdit>& edits, const QModelIndex& cell, const QString& piece,
                          const NameLookup::Names& names) {
  const QString reason = model_.notEditable(cell.row(), cell.column());
  const auto value = pasted(cell.column(), piece, names);
  if (!reason.isEmpty() || !value) {
    goTo(cell.row(), cell.column());
    emit said(tr("Nothing was pasted: %1").arg(reason.isEmpty() ? toQ(value.error().message) : reason));
    return false;
  }
  if (model_.isBorrowed(cell.column())) {
    emit said(tr("Nothing was pasted: %1 is borrowed; open it by itself (F2).").arg(model_.columnName(cell.column())));
    return false;
  }
  const CellState state = model_.cell(cell.row(), cell.column());
  edits.push_back({model_.ref(cell.row()), model_.column(cell.column()).name,
                   state.staged ? state.staged->from : state.stored, *value});
  return true;
}

}  // namespace iterandum
