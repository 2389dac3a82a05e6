// SheetPage: what it shows, on paper.
#include <QPdfWriter>
#include <QPrinter>
#include <QSaveFile>

#include "app/sheet/sheet_page.h"

namespace iterandum {
namespace {

Result<std::uint64_t> writePdf(const QString& path, const PrintedRecords& records, const PrintForm& form,
                               Session& session, Progress& progress) {
  QSaveFile file(path);
  const auto failed = [&] {
    return fail(ErrorKind::InvalidFile, file.errorString().toStdString(), path.toStdString());
  };
  if (!file.open(QIODevice::WriteOnly)) return failed();
  std::uint64_t count = 0;
  {
    QPdfWriter pdf(&file);
    pdf.setResolution(kDots);
    pdf.setTitle(toQ(form.title.empty() ? displayName(records.scope.table->name) : form.title));
    pdf.setCreator(QStringLiteral("Iterandum"));
    PagedTarget target(pdf);
    ITERANDUM_ASSIGN(const PrintedCount drawn, iterandum::printRecords(session, records, form, target, progress));
    count = drawn.records;
  }
  if (!file.commit()) return failed();
  return count;
}

}  // namespace

void SheetPage::printRecords() {
  if (print_->isVisible()) return leavePanel();
  auto read = shownScope();
  if (!read) return;
  showBeside(print_);
  makeRoom();
  print_->open(std::move(*read));
  print_->focusFirst();
}

void SheetPage::writePages(const QString& path) {
  print_->keepForm();
  emit told(tr("Writing the pages to %1…").arg(path));
  desk_.behind().post(
      this,
      [held = desk_.sharedCatalogue(), records = print_->records(), form = print_->form(), path](
          Session& session, Progress& progress) { return writePdf(path, records, form, session, progress); },
      [this, path](Result<std::uint64_t>&& count) {
        if (!count) return emit said(tr("Nothing was written to %1: %2").arg(path, toQ(count.error().text())));
        leavePanel();
        const bool staged = !desk_.changes().empty();
        emit told(tr("%n record(s) on the pages of %1", "", static_cast<int>(*count)).arg(path) +
                  (staged ? tr(", as the database has them: what is staged is not in it.") : QStringLiteral(".")));
      });
}

void SheetPage::printPages(const std::shared_ptr<QPrinter>& printer) {
  print_->keepForm();
  emit told(tr("Printing…"));
  printer->setResolution(kDots);
  desk_.behind().post(
      this,
      [held = desk_.sharedCatalogue(), records = print_->records(), form = print_->form(), printer](
          Session& session, Progress& progress) {
        PagedTarget target(*printer);
        return iterandum::printRecords(session, records, form, target, progress);
      },
      [this](Result<PrintedCount>&& count) {
        if (!count) return emit said(tr("It could not be printed: %1").arg(toQ(count.error().text())));
        leavePanel();
        emit told(tr("%n record(s) printed.", "", static_cast<int>(count->records)));
      });
}

}  // namespace iterandum
