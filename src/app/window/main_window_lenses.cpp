// MainWindow: lenses as files, and what is masked.
#include "app/sheet/sheet_page.h"
#include "app/window/document_files.h"
#include "app/window/main_window.h"
#include "app/window/messages.h"

namespace iterandum {

void MainWindow::exportLenses() {
  const auto path = exportDocument(this, {tr("Export the lenses as a file"), tr("Lenses (*.json)")},
                                   QStringLiteral("lenses.json"), lensesToJson(desk_->lenses().all()));
  if (!path) return say(tr("The lenses could not be written: %1").arg(toQ(path.error().message)));
  if (*path) say(tr("Written to %1.").arg(**path), true);
}

void MainWindow::importLenses() {
  constexpr std::int64_t kMostBytes = 4 << 20;
  const auto file = importDocument(this, {tr("Import lenses from a file"), tr("Lenses (*.json)")}, kMostBytes);
  const auto refuse = [this](const QString& path, const std::string& why) {
    say(tr("%1 cannot be read as lenses: %2").arg(path, toQ(why)));
  };
  if (!file) return refuse(toQ(file.error().place), file.error().message);
  if (!*file) return;
  const auto lenses = lensesFromJson((*file)->text);
  if (!lenses) return refuse((*file)->path, lenses.error().text());
  desk_->kept().saveLenses(*lenses);
  const std::vector<std::string>& unfit = desk_->lenses().unfit();
  if (!unfit.empty()) return say(tr("Kept, but nothing is seen through it: %1").arg(toQ(unfit.front())));
  say(tr("%n lens(es) taken over.", "", static_cast<int>(lenses->size())), true);
}

void MainWindow::toggleMasked() {
  Lenses& lenses = desk_->lenses();
  lenses.setUnmasked(!lenses.unmasked());
  say(lenses.unmasked() ? tr("What is masked is shown, until this is chosen again or the window closes.")
                        : tr("What is masked is shown as dots again."),
      true);
}

}  // namespace iterandum
