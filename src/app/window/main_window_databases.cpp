// MainWindow: opening, trying out and marking databases.
#include <QPointer>
#include <QPushButton>
#include <QStackedWidget>
#include <QTabBar>

#include "app/catalogue/catalogue_page.h"
#include "app/connect/mark_bar.h"
#include "app/window/main_window.h"
#include "app/window/messages.h"
#include "core/engines/common/address.h"

namespace iterandum {

void MainWindow::showStart() {
  pages_->setCurrentWidget(start_);
  start_->setFocus();
  updateTabs();
  updateRail();
  storeThread_->post(
      this, [](Store& store) { return store.recentDatabases(); },
      [this](Result<std::vector<RecentDatabase>>&& recent) {
        if (recent) {
          start_->setRecent(*recent);
        } else {
          start_->showProblem(toQ(recent.error().text()));
        }
      });
}

void MainWindow::open(const QString& address) {
  const std::string typed = address.toStdString();
  open(OpenWish{toQ(withoutPassword(typed)), toQ(passwordIn(typed)), false});
}

void MainWindow::open(const OpenWish& wish) {
  start_->showProblem({});
  if (!wish.password.isEmpty() || !isServerAddress(wish.address.toStdString())) return openNow(wish);
  // The desktop may ask somebody first; the window may be gone by then.
  secrets_->read(wish.address, [guard = QPointer(this), wish](const std::optional<QString>& password) {
    if (!guard) return;
    OpenWish known = wish;
    known.password = password.value_or(QString());
    guard->openNow(known);
  });
}

void MainWindow::openNow(const OpenWish& wish) {
  wish_ = wish;
  abandonOpening();
  opening_ = std::make_unique<Desk>(storeThread_);
  if (desk_) opening_->staged().takePlaceOf(desk_->staged().owner());
  connect(opening_.get(), &Desk::opened, this, &MainWindow::databaseOpened);
  connect(opening_.get(), &Desk::openFailed, this, &MainWindow::databaseFailed);
  OpenOptions options;
  options.password = wish.password.toStdString();
  start_->showWaiting(tr("Opening %1…  Esc stops it.").arg(wish.address));
  opening_->open(wish.address.toStdString(), options);
}

void MainWindow::stopOpening() {
  trialThread_->cancelAll();
  if (!opening_) return;
  abandonOpening();
  start_->showProblem(tr("It was stopped; nothing was opened."));
}

// Looking up a host's name cannot be cut short, and nobody waits for that: what was being opened goes when its own try
// has ended.
void MainWindow::abandonOpening() {
  start_->showWaiting({});
  if (!opening_) return;
  opening_->front().cancelAll();
  Desk* old = opening_.release();
  disconnect(old, nullptr, this, nullptr);
  connect(old, &Desk::opened, old, &QObject::deleteLater);
  connect(old, &Desk::openFailed, old, &QObject::deleteLater);
}

void MainWindow::databaseFailed(const QString& message, const QString& step) {
  opening_.release()->deleteLater();
  start_->showWaiting({});
  if (desk_ == nullptr || pages_->currentWidget() != start_) showStart();
  start_->showProblem(tr("It could not be opened: %1").arg(message), wish_.address, step);
}

void MainWindow::tryOut(const OpenWish& wish) {
  trialThread_->cancelAll();
  trialThread_->post(
      this,
      [wish](Progress& progress) -> Result<std::vector<TrialStep>> {
        OpenOptions options;
        options.password = wish.password.toStdString();
        auto steps = tryConnection(wish.address.toStdString(), options, progress);
        if (progress.cancelled()) return fail(ErrorKind::Cancelled, "it was stopped");
        return steps;
      },
      [this](Result<std::vector<TrialStep>>&& steps) {
        if (steps) start_->showTrial(*steps);
      });
}

void MainWindow::openMark() { markBar_->open(desk_->kept().mark()); }

void MainWindow::showTitle() {
  const QString title = toQ(desk_->info().title);
  const QString mark = toQ(desk_->kept().mark().name);
  title_->setText(title + QStringLiteral(" ▾"));
  title_->setToolTip(tr("%1\nEverything that can be done (F10)").arg(toQ(desk_->info().address)));
  setWindowTitle(mark.isEmpty() ? tr("%1 – Iterandum").arg(title) : tr("%1 (%2) – Iterandum").arg(title, mark));
}

void MainWindow::databaseOpened() {
  if (!opening_) return;
  start_->showWaiting({});
  if (desk_) {
    keepLayouts();
    keepSheets();
  }
  dropPages();
  desk_ = std::move(opening_);
  buildPages();
  connect(&desk_->staged(), &StagedWork::changed, this, &MainWindow::updateRail);
  connect(&desk_->staged(), &StagedWork::changed, messages_, &Messages::acted);
  connect(&desk_->staged(), &StagedWork::appliedElsewhere, this, [this] {
    refreshSheets();
    say(tr("Another window applied what was staged: it is in the history (Ctrl+H), and staged no more."), true);
  });
  connect(desk_.get(), &Desk::storeFailed, this, [this](const QString& m) { say(m); });
  connect(desk_.get(), &Desk::said, this, [this](const QString& m) { say(m); });
  connect(&desk_->kept(), &KeptSettings::markChanged, this, [this] {
    updateRail();
    showTitle();
  });
  connect(&desk_->kept(), &KeptSettings::scopesChanged, this, &MainWindow::updateAside);
  connect(desk_.get(), &Desk::catalogueChanged, this, [this] { rebuildPages(false); });
  showTitle();
  messages_->hide();
  if (wish_.remember) {
    secrets_->keep(wish_.address, wish_.password, [guard = QPointer(this)](const QString& problem) {
      if (!guard || problem.isEmpty()) return;
      guard->say(tr("The password was not kept, and will be asked for again: %1").arg(problem));
    });
  }
  wish_ = {};
  // The mark that is being written and the password that was typed belong to what was open or asked for before.
  markBar_->hide();
  start_->forgetPassword();
  showCatalogue();
  openKeptSheets();
  updateAside();
  if (!desk_->changes().empty()) {
    say(tr("What you had staged here before is back: %n record(s), nothing of it written yet.", "",
           static_cast<int>(desk_->changes().counts().records())),
        true);
  }
}

}  // namespace iterandum
