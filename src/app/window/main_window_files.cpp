// MainWindow: corrections from files, and records as files.
#include <QFileDialog>
#include <QFileInfo>
#include <QPrintDialog>
#include <QPrinter>
#include <QSaveFile>
#include <QStackedWidget>

#include "app/history/history_page.h"
#include "app/review/review_page.h"
#include "app/sheet/listed_changes.h"
#include "app/sheet/sheet_page.h"
#include "app/window/main_window.h"
#include "app/window/messages.h"
#include "core/acts/adopt_changes.h"
#include "core/changes/change_file.h"
#include "core/files/record_writer.h"
#include "core/review/placed_comments.h"

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

// A change file in the form in which changes are staged here, with those who signed it and what was said of it.
struct OpenedChanges {
  AdoptedChanges adopted;
  std::vector<Signature> signatures;
  std::vector<Comment> comments;
  bool stagedAlready = false;  // all that it holds, and nothing else, is staged here
};

}  // namespace

void MainWindow::openChangeFile() {
  const QString path = QFileDialog::getOpenFileName(this, tr("Open a change file"), QString(),
                                                    tr("Change files (*.json);;All files (*)"));
  if (path.isEmpty()) return;
  say(tr("Reading %1…").arg(QFileInfo(path).fileName()), true);
  desk_->behind().post(
      this,
      [path, catalogue = desk_->sharedCatalogue(), staged = desk_->changes().toChangeList({})](
          Session& session, Progress& progress) -> Result<OpenedChanges> {
        ITERANDUM_ASSIGN(const std::string content, contentOf(path));
        ITERANDUM_ASSIGN(ChangeDocument document, readChangeDocument(content));
        OpenedChanges out;
        ITERANDUM_ASSIGN(out.adopted, adoptChanges(session, *catalogue, document.changes, progress));
        out.signatures = std::move(document.signatures);
        out.comments = std::move(document.comments);
        moveComments(out.comments, document.changes, out.adopted.changes, *catalogue);
        const bool more = !out.signatures.empty() || !out.comments.empty();
        out.stagedAlready = more && !staged.empty() && changesDigest(out.adopted.changes) == changesDigest(staged);
        return out;
      },
      [this, name = QFileInfo(path).fileName()](Result<OpenedChanges>&& opened) {
        if (!opened) return say(tr("Nothing of %1 was staged: %2").arg(name, toQ(opened.error().text())));
        desk_->kept().addSignatures(opened->signatures);
        // What somebody sent away to be looked at, and has back.
        if (opened->stagedAlready) {
          desk_->kept().addComments(opened->comments);
          showReview();
          review_->rehearse();
          const QString signatures = tr("%n signature(s)", "", static_cast<int>(opened->signatures.size()));
          const QString comments = tr("%n comment(s)", "", static_cast<int>(opened->comments.size()));
          return say(
              tr("What %1 holds is staged here already; taken in of it: %2, %3.").arg(name, signatures, comments),
              true);
        }
        takeChangeFile(name, opened->adopted, std::move(opened->comments));
      });
}

void MainWindow::exchangeReceipts(bool out) {
  const QString kinds = tr("Receipts (*.jsonl);;All files (*)");
  const QString path =
      out ? QFileDialog::getSaveFileName(this, tr("All receipts of this database"), tr("receipts.jsonl"), kinds)
          : QFileDialog::getOpenFileName(this, tr("Receipts that were kept elsewhere"), QString(), kinds);
  if (path.isEmpty()) return;
  showHistory();
  out ? history_->writeAllReceipts(path) : history_->takeInReceipts(path);
}

void MainWindow::takeChangeFile(const QString& name, const AdoptedChanges& adopted, std::vector<Comment> comments) {
  std::uint64_t count = 0;
  for (const ChangeBlock& block : adopted.changes.blocks()) count += block.rows();
  const std::uint64_t firstId = desk_->changes().nextAddedId();
  if (count > 0 && !desk_->staged().stageChanges(tr("Changes from %1").arg(name), adopted.changes)) return;
  takeComments(std::move(comments), adopted.changes, firstId);
  QStringList words{
      count == 0
          ? tr("Nothing of %1 was staged.").arg(name)
          : tr("%n change(s) of %1 (are) staged; nothing is written yet.", "", static_cast<int>(count)).arg(name)};
  if (!adopted.leftOut.empty()) {
    words << tr("Left out, as it does not fit here: %n change(s), first %1.", "",
                static_cast<int>(adopted.leftOut.size()))
                 .arg(toQ(adopted.leftOut.front()));
  }
  if (adopted.guarded > 0) {
    words << tr("%n value(s) came without what was seen there: what is there now is taken for it.", "",
                static_cast<int>(adopted.guarded));
  }
  if (count > 0) {
    review_->proposeTitle(toQ(adopted.changes.title));
    showReview();
  }
  say(words.join(QLatin1Char(' ')), adopted.leftOut.empty());
}

// New records are called by the labels that they have here: they got ids from `firstId` on, as gestureFrom() gives
// them.
void MainWindow::takeComments(std::vector<Comment> comments, const ChangeList& staged, std::uint64_t firstId) {
  std::map<std::string, std::string> labels;
  for (const ChangeBlock& block : staged.blocks()) {
    if (block.action != Action::Add) continue;
    for (const std::string& label : block.labels) labels.emplace(label, addedLabel(firstId++));
  }
  for (Comment& comment : comments) {
    const auto label = labels.find(comment.about.label);
    if (comment.about.kind == CommentPlace::Kind::NewRecord && label != labels.end())
      comment.about.label = label->second;
  }
  desk_->kept().addComments(comments);
}

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

void MainWindow::print() {
  if (SheetPage* sheet = currentSheet()) return sheet->printRecords();
  const bool reviewing = pages_->currentWidget() == review_;
  QString kinds = tr("PDF (*.pdf);;HTML page (*.html)");
  if (!reviewing) kinds += tr(";;Receipt, to be taken back elsewhere (*.json)");
  const QString path = QFileDialog::getSaveFileName(
      this, reviewing ? tr("What would change, on paper") : tr("What was changed, on paper"),
      reviewing ? tr("what would change.pdf") : tr("what was changed.pdf"), kinds);
  if (path.isEmpty()) return;
  const QString ending = QFileInfo(path).suffix().toLower();
  const bool known = ending == QLatin1String("pdf") || ending == QLatin1String("html") ||
                     ending == QLatin1String("htm") || (!reviewing && ending == QLatin1String("json"));
  if (!known) {
    return say(tr("%1: nothing is written. The ending says which form it is to have: .pdf or .html.")
                   .arg(QFileInfo(path).fileName()));
  }
  reviewing ? review_->savePaper(path) : history_->saveReceipt(path);
}

void MainWindow::writePages() {
  SheetPage* sheet = currentSheet();
  QString path = QFileDialog::getSaveFileName(this, tr("Write these pages"),
                                              sheet->title().remove(QStringLiteral(" …")) + QStringLiteral(".pdf"),
                                              tr("PDF (*.pdf)"));
  if (path.isEmpty()) return;
  if (!path.endsWith(QLatin1String(".pdf"), Qt::CaseInsensitive)) path += QStringLiteral(".pdf");
  sheet->writePages(path);
}

void MainWindow::printPages() {
  SheetPage* sheet = currentSheet();
  auto printer = std::make_shared<QPrinter>();
  QPrintDialog dialog(printer.get(), this);
  if (dialog.exec() == QDialog::Accepted) sheet->printPages(printer);
}

void MainWindow::exportRecords(bool asShown, bool onlySelected) {
  SheetPage* sheet = currentSheet();
  const QString path = QFileDialog::getSaveFileName(
      this, asShown ? tr("Export with names, and through the lenses") : tr("Export as the database has it"),
      sheet->title().remove(QStringLiteral(" …")) + QStringLiteral(".xlsx"),
      tr("Spreadsheet (*.xlsx);;CSV (*.csv);;TSV (*.tsv);;JSON (*.json);;JSON lines (*.jsonl);;Markdown (*.md);;HTML "
         "(*.html);;SQL (*.sql)"));
  if (path.isEmpty()) return;
  const std::string format = formatOf(path);
  if (format.empty()) {
    return say(tr("%1: nothing is written. The ending says which form it is to have: .xlsx, .csv, .tsv, .json, .jsonl, "
                  ".md, .html or .sql.")
                   .arg(QFileInfo(path).fileName()));
  }
  onlySelected ? sheet->exportSelected(path, format, asShown) : sheet->exportRecords(path, format, asShown);
}

}  // namespace iterandum
