// KeptCommands: lenses as files, and what is masked.
#include "app/sheet/sheet_page.h"
#include "app/window/commands.h"
#include "app/window/document_files.h"
#include "app/window/kept_commands.h"
#include "app/window/main_window.h"

namespace iterandum {

void KeptCommands::addLenses(Commands& c) {
  c.add(
      "lens.unmask", tr("Show what is masked, or mask it again"), {}, [this] { toggleMasked(); },
      [this] { return window_.desk() != nullptr && window_.desk()->lenses().anyMasked(); });
  const auto anyLens = [this] { return window_.desk() != nullptr && !window_.desk()->lenses().all().empty(); };
  c.add(
      "lens.export", tr("Export the lenses as a file"), {}, [this] { exportLenses(); }, anyLens);
  c.add(
      "lens.import", tr("Import lenses from a file"), {}, [this] { importLenses(); },
      [this] { return window_.desk() != nullptr; });
}

void KeptCommands::exportLenses() {
  const auto path = exportDocument(&window_, {tr("Export the lenses as a file"), tr("Lenses (*.json)")},
                                   QStringLiteral("lenses.json"), lensesToJson(window_.desk()->lenses().all()));
  if (!path) return window_.say(tr("The lenses could not be written: %1").arg(toQ(path.error().message)));
  if (*path) window_.say(tr("Written to %1.").arg(**path), true);
}

void KeptCommands::importLenses() {
  constexpr std::int64_t kMostBytes = 4 << 20;
  const auto file = importDocument(&window_, {tr("Import lenses from a file"), tr("Lenses (*.json)")}, kMostBytes);
  const auto refuse = [this](const QString& path, const std::string& why) {
    window_.say(tr("%1 cannot be read as lenses: %2").arg(path, toQ(why)));
  };
  if (!file) return refuse(toQ(file.error().place), file.error().message);
  if (!*file) return;
  const auto lenses = lensesFromJson((*file)->text);
  if (!lenses) return refuse((*file)->path, lenses.error().text());
  window_.desk()->kept().saveLenses(*lenses);
  const std::vector<std::string>& unfit = window_.desk()->lenses().unfit();
  if (!unfit.empty()) return window_.say(tr("Kept, but nothing is seen through it: %1").arg(toQ(unfit.front())));
  window_.say(tr("%n lens(es) taken over.", "", static_cast<int>(lenses->size())), true);
}

void KeptCommands::toggleMasked() {
  Lenses& lenses = window_.desk()->lenses();
  lenses.setUnmasked(!lenses.unmasked());
  window_.say(lenses.unmasked() ? tr("What is masked is shown, until this is chosen again or the window closes.")
                                : tr("What is masked is shown as dots again."),
              true);
}

}  // namespace iterandum
