// MainWindow: corrections from files, and records as files.
#include <QFileDialog>
#include <QFileInfo>
#include <QSaveFile>

#include "app/sheet/sheet_page.h"
#include "app/window/main_window.h"
#include "app/window/messages.h"
#include "core/files/record_writer.h"

namespace iterandum {
namespace {

// By what the file is called.
std::string formatOf(const QString& path) {
  const QString ending = QFileInfo(path).suffix().toLower();
  if (ending == QLatin1String("md")) return "markdown";
  if (ending == QLatin1String("htm")) return "html";
  const std::string format = ending.toStdString();
  const auto& known = recordFormats();
  return std::find(known.begin(), known.end(), format) != known.end() ? format : std::string();
}

}  // namespace

void MainWindow::stageFromFile() {
  SheetPage* sheet = currentSheet();
  const QStringList paths =
      QFileDialog::getOpenFileNames(this, tr("Corrections from a file, or working copies that come back"), QString(),
                                    tr("Lists (*.csv *.tsv *.txt *.json *.jsonl *.xlsx *.ods);;All files (*)"));
  if (!paths.isEmpty()) sheet->stageFromFiles(paths);
}

void MainWindow::writeWorkingCopy() {
  SheetPage* sheet = currentSheet();
  QString path = QFileDialog::getSaveFileName(this, tr("Hand out a working copy"),
                                              tr("%1, working copy.xlsx").arg(toQ(sheet->table().name.name)),
                                              tr("Spreadsheet (*.xlsx)"));
  if (path.isEmpty()) return;
  if (!path.endsWith(QLatin1String(".xlsx"), Qt::CaseInsensitive)) path += QStringLiteral(".xlsx");
  sheet->writeWorkingCopy(path);
}

void MainWindow::exportRecords() {
  SheetPage* sheet = currentSheet();
  const QString path = QFileDialog::getSaveFileName(
      this, tr("Export what the sheet shows"), sheet->title().remove(QStringLiteral(" …")) + QStringLiteral(".xlsx"),
      tr("Spreadsheet (*.xlsx);;CSV (*.csv);;TSV (*.tsv);;JSON (*.json);;JSON lines (*.jsonl);;Markdown (*.md);;HTML "
         "(*.html);;SQL (*.sql)"));
  if (path.isEmpty()) return;
  const std::string format = formatOf(path);
  if (format.empty()) {
    return say(tr("%1: nothing is written. The ending says which form it is to have: .xlsx, .csv, .tsv, .json, .jsonl, "
                  ".md, .html or .sql.")
                   .arg(QFileInfo(path).fileName()));
  }
  sheet->exportRecords(path, format);
}

}  // namespace iterandum
