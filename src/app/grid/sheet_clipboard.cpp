// What is selected and the clipboard: copying, cutting, pasting.
#include <QApplication>
#include <QClipboard>
#include <algorithm>
#include <map>
#include <memory>

#include "app/grid/sheet_view.h"
#include "app/values/clipboard_table.h"
#include "app/values/typed_text.h"

namespace iterandum {
namespace {

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

static ClipboardCopy::Wish copyWish(const std::vector<SheetView::Block>& blocks) {
  ClipboardCopy::Wish wish;
  for (const SheetView::Block& block : blocks) wish.parts.push_back({block.rows, block.columns});
  return wish;
}

void SheetView::copySelection(bool heads, bool stored) {
  ClipboardCopy::Wish wish = copyWish(selectedBlocks());
  wish.heads = heads;
  wish.stored = stored;
  copy_.start(std::move(wish), [this](const ManyRecords::Records& records) {
    if (records.size() > 1) emit said(tr("Copied %n record(s).", "", static_cast<int>(records.size())));
  });
}

void SheetView::cutSelection() {
  std::vector<std::pair<int, Value>> values;
  for (const int column : commonColumns(selectedBlocks())) values.emplace_back(column, Value());
  if (values.empty()) return;
  copy_.start(copyWish(selectedBlocks()), [this, values](const ManyRecords::Records& records) {
    refuse(many_.stage(records, values, tr("Cut")), records.size());
  });
}

// One value goes into the whole selection; a block goes down and right from the selection's top left. One gesture
// either way.
void SheetView::pasteClipboard() {
  const std::vector<QStringList> lines = tabLines(clipboardTable());
  if (!currentIndex().isValid() || (lines.size() == 1 && lines[0].size() == 1 && lines[0][0].isEmpty())) return;
  const std::vector<Block> blocks = selectedBlocks();
  if (lines.size() == 1 && lines[0].size() == 1) {
    if (selectedCellCount() > 1) return pasteOne(lines[0][0]);
  }
  pasteBlock(lines, blocks.front().rows.first, blocks.front().columns.front());
}

// What lies beyond the last column that is shown is left out, and said.
void SheetView::pasteBlock(const std::vector<QStringList>& lines, int top, int first) {
  std::vector<int> columns;
  qsizetype widest = 0;
  for (const QStringList& line : lines) widest = std::max(widest, line.size());
  for (int column = first; column >= 0 && static_cast<qsizetype>(columns.size()) < widest;
       column = nextVisible(column, 1)) {
    columns.push_back(column);
  }
  if (static_cast<qsizetype>(columns.size()) < widest) {
    return emit said(tr("Nothing was pasted: the clipboard has %1 columns, and there are %2 from here to the last one.")
                         .arg(widest)
                         .arg(columns.size()));
  }
  std::map<int, QStringList> wanted;
  for (const QStringList& line : lines) {
    for (qsizetype p = 0; p < line.size(); ++p) {
      const int column = columns[static_cast<std::size_t>(p)];
      if (lookup_.mayBeName(column, line[p])) wanted[column] << line[p];
    }
  }
  // What the places are called is looked up by record: the sheet may be another one when the names are there.
  const auto generation = model_.source().generation();
  lookup_.find(wanted, [this, lines, top, columns, generation](Result<NameLookup::Names>&& names) {
    if (!names) return emit said(tr("Nothing was pasted: %1").arg(toQ(names.error().text())));
    if (generation != model_.source().generation()) {
      return emit said(tr("Nothing was pasted: the sheet was read again meanwhile. Paste again."));
    }
    const int room = std::min(static_cast<int>(lines.size()), model_.rowCount() - top);
    const auto known = std::make_shared<NameLookup::Names>(std::move(*names));
    many_.take({{top, top + room - 1}}, [this, lines, top, columns, known](ManyRecords::Records&& records) {
      pasteLines(lines, top, columns, records, *known);
    });
  });
}

// What fits is staged as one gesture; what does not stays in its cell with the reason, to be put right there.
void SheetView::pasteLines(const std::vector<QStringList>& lines, int top, const std::vector<int>& columns,
                           const ManyRecords::Records& records, const NameLookup::Names& names) {
  std::vector<ManyRecords::CellWish> cells;
  std::vector<ManyRecords::Refusal> refused;
  std::size_t all = 0;
  for (std::size_t l = 0; l < records.size(); ++l) {
    for (std::size_t p = 0; p < static_cast<std::size_t>(lines[l].size()); ++p, ++all) {
      const auto value = pasted(columns[p], lines[l][static_cast<qsizetype>(p)], names);
      if (value) {
        cells.push_back({l, columns[p], *value});
      } else {
        refused.push_back({l, columns[p], toQ(value.error().message), true});
      }
    }
  }
  const auto notTaken =
      many_.stageCells(records, cells, tr("Paste into %n cell(s)", "", static_cast<int>(cells.size())),
                       ManyRecords::Partly::WhereItFits);
  refused.insert(refused.end(), notTaken.begin(), notTaken.end());
  std::stable_sort(refused.begin(), refused.end(), [](const auto& a, const auto& b) { return a.record < b.record; });
  for (const ManyRecords::Refusal& r : refused) {
    const auto at = static_cast<qsizetype>(std::find(columns.begin(), columns.end(), r.column) - columns.begin());
    if (r.valueAmiss) {
      model_.keepWrong(model_.index(top + static_cast<int>(r.record), r.column), lines[r.record][at], r.reason);
    }
  }
  if (!refused.empty()) tellRefused(refused, all, top);
  if (lines.size() <= records.size()) return;
  const std::vector<QStringList> rest(lines.begin() + static_cast<std::ptrdiff_t>(records.size()), lines.end());
  // Whoever pastes into a new record means new ones.
  if (!records.empty() && records.front().ref.isAdded()) return addPasted(rest, columns, names);
  offerRest(rest, columns, names);
}

void SheetView::tellRefused(const std::vector<ManyRecords::Refusal>& refused, std::size_t cells, int top) {
  const ManyRecords::Refusal& first = refused.front();
  const int row = top + static_cast<int>(first.record);
  goTo(row, first.column);
  const QString marked = first.valueAmiss ? tr(" What does not fit is marked; F8 steps through it.") : QString();
  if (refused.size() == cells) return emit said(tr("Nothing was pasted: %1").arg(first.reason) + marked);
  emit said(tr("%1 of %2 cells were pasted. %n could not be, the first of them %3 of %4: %5", "",
               static_cast<int>(refused.size()))
                .arg(cells - refused.size())
                .arg(cells)
                .arg(model_.columnName(first.column), model_.recordTitle(row), first.reason) +
            marked);
}

// Lines beyond the last record are no new records before somebody says so.
void SheetView::offerRest(std::vector<QStringList> rest, const std::vector<int>& columns,
                          const NameLookup::Names& names) {
  const int count = static_cast<int>(rest.size());
  const QString what = tr("%n line(s) of the clipboard lie beyond the last record.", "", count);
  if (const QString reason = model_.cannotAdd(); !reason.isEmpty()) return emit said(what + QLatin1Char(' ') + reason);
  emit offered(what, tr("Add them as %n new record(s)", "", count),
               [this, rest = std::move(rest), columns, names] { addPasted(rest, columns, names); });
}

void SheetView::addPasted(const std::vector<QStringList>& lines, const std::vector<int>& columns,
                          const NameLookup::Names& names) {
  std::vector<std::vector<std::pair<std::string, Value>>> records;
  std::vector<std::tuple<std::size_t, int, QString, QString>> amiss;
  for (const QStringList& line : lines) {
    auto& cells = records.emplace_back();
    for (qsizetype p = 0; p < line.size(); ++p) {
      const int column = columns[static_cast<std::size_t>(p)];
      if (model_.isBorrowed(column) || !model_.columnNotEditable(column).isEmpty()) continue;
      const auto value = pasted(column, line[p], names);
      if (value) {
        if (!value->isNull()) cells.emplace_back(model_.column(column).name, *value);
      } else {
        amiss.emplace_back(records.size() - 1, column, line[p], toQ(value.error().message));
      }
    }
  }
  for (auto& cells : records) {
    for (const auto& held : model_.heldByAll()) {
      const bool given =
          std::any_of(cells.begin(), cells.end(), [&](const auto& cell) { return cell.first == held.first; });
      if (!given) cells.push_back(held);
    }
  }
  const int first = model_.rowCount();
  model_.desk().staged().stageAdditions(model_.table(), records);
  for (const auto& [record, column, text, reason] : amiss) {
    model_.keepWrong(model_.index(first + static_cast<int>(record), column), text, reason);
  }
  goTo(first, columns.front());
  if (!amiss.empty()) {
    emit said(tr("%n cell(s) of the new records (do) not fit and (are) marked; F8 steps through them.", "",
                 static_cast<int>(amiss.size())));
  }
}

Result<Value> SheetView::pasted(int column, const QString& text, const NameLookup::Names& names) const {
  const auto name = names.find({column, text});
  return name == names.end() ? model_.typed(column, text) : name->second;
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

}  // namespace iterandum
