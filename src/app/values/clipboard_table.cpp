#include "app/values/clipboard_table.h"

#include <QClipboard>
#include <QGuiApplication>
#include <QMimeData>
#include <QTextDocument>
#include <QTextTable>

#include "app/values/shown_value.h"
#include "core/files/record_writer.h"

namespace iterandum {
namespace {

QString cellWords(const QTextTableCell& cell) {
  QStringList lines;
  for (auto at = cell.begin(); at != cell.end(); ++at) {
    if (at.currentBlock().isValid()) lines << at.currentBlock().text();
  }
  // A web page parts what is not to be parted by blanks of its own, and its lines likewise.
  return lines.join(QLatin1Char('\n'))
      .replace(QChar::Nbsp, QLatin1Char(' '))
      .replace(QChar::LineSeparator, '\n')
      .trimmed();
}

QString tableWords(const QTextTable& table) {
  QString out;
  for (int row = 0; row < table.rows(); ++row) {
    for (int column = 0; column < table.columns(); ++column) {
      const QTextTableCell cell = table.cellAt(row, column);
      // What goes over several places stands at the first.
      const bool begins = cell.row() == row && cell.column() == column;
      const QString words = begins ? cellWords(cell) : QString();
      if (column > 0) out += QLatin1Char('\t');
      if (!words.isEmpty()) out += toQ(delimitedField(words.toStdString(), '\t', {}));
    }
    out += QLatin1Char('\n');
  }
  return out;
}

// Outer tables may only lay out a page.
const QTextTable* firstTable(const QTextFrame& frame) {
  for (const QTextFrame* child : frame.childFrames()) {
    if (const QTextTable* inner = firstTable(*child)) return inner;
    const auto* table = qobject_cast<const QTextTable*>(child);
    if (table != nullptr && table->columns() > 1) return table;
  }
  return nullptr;
}

}  // namespace

QString tableInHtml(const QString& html) {
  QTextDocument document;
  document.setHtml(html);
  const QTextTable* table = firstTable(*document.rootFrame());
  return table == nullptr ? QString() : tableWords(*table);
}

QString clipboardTable() {
  const QMimeData* held = QGuiApplication::clipboard()->mimeData();
  if (held == nullptr) return {};
  QString text = held->text();
  if (text.contains(QLatin1Char('\t')) || !held->hasHtml()) return text;
  const QString table = tableInHtml(held->html());
  return table.isEmpty() ? text : table;
}

}  // namespace iterandum
