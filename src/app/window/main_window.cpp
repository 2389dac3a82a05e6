#include "app/window/main_window.h"
#include "app/window/kept_commands.h"
#include "app/window/messages.h"

#include <QApplication>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QStackedWidget>
#include <QTabBar>
#include <QUrl>
#include <QVBoxLayout>

#include "app/catalogue/catalogue_page.h"
#include "app/connect/mark_bar.h"
#include "app/grid/sheet_accessible.h"
#include "app/history/history_page.h"
#include "app/review/review_page.h"
#include "app/sheet/sheet_page.h"
#include "app/style/moments.h"
#include "app/style/plain_texts.h"
#include "app/style/roles.h"
#include "app/style/usual_keys.h"
#include "app/window/command_palette.h"
#include "app/window/commands.h"
#include "app/window/rail.h"

namespace iterandum {

MainWindow::MainWindow(std::string storePath, std::unique_ptr<SecretStore> secrets, QWidget* parent)
    : QMainWindow(parent),
      secrets_(secrets ? std::move(secrets) : desktopSecrets()),
      storeThread_(std::make_shared<StoreThread>(std::move(storePath))),
      trialThread_(std::make_shared<TaskThread>()) {
  PlainTexts::install();
  UsualKeys::install();
  installSheetAccessibility();
  setObjectName("window");
  setWindowTitle(QStringLiteral("Iterandum"));
  resize(1280, 800);
  auto* centre = new QWidget(this);
  centre->setObjectName("bench");
  centre->setAttribute(Qt::WA_StyledBackground);
  setCentralWidget(centre);
  auto* layout = new QVBoxLayout(centre);
  layout->setContentsMargins(0, 0, 0, 0);
  layout->setSpacing(0);
  buildTop();
  pages_ = new QStackedWidget(centre);
  // No page pushes the window larger than a small screen.
  pages_->setMinimumSize(320, 200);
  layout->addWidget(pages_, 1);
  messages_ = new Messages(centre);
  layout->addWidget(messages_);
  markBar_ = new MarkBar(centre);
  layout->addWidget(markBar_);
  connect(markBar_, &MarkBar::kept, this, [this](const DatabaseMark& mark) { desk_->kept().setMark(mark); });
  rail_ = new Rail(centre);
  layout->addWidget(rail_);
  palette_ = new CommandPalette(centre);
  start_ = new StartPage(this);
  pages_->addWidget(start_);
  connect(start_, &StartPage::openAsked, this, qOverload<const OpenWish&>(&MainWindow::open));
  connect(start_, &StartPage::trialAsked, this, &MainWindow::tryOut);
  connect(start_, &StartPage::stopAsked, this, &MainWindow::stopOpening);
  connect(rail_, &Rail::undoAsked, this, &MainWindow::undo);
  connect(rail_, &Rail::putAllBackAsked, this, [this] { desk_->staged().putAllBack(); });
  connect(rail_, &Rail::reviewAsked, this, &MainWindow::showReview);
  connect(rail_, &Rail::rehearseAsked, this, [this] { review_->rehearse(); });
  connect(rail_, &Rail::saveAsked, this, &MainWindow::saveChangeFile);
  connect(rail_, &Rail::applyAsked, this, [this] { review_->apply(); });
  connect(rail_, &Rail::stopAsked, this, [this] { review_->stop(); });
  buildCommands();
  showStart();
}

MainWindow::~MainWindow() {
  // Pages speak of the desk until they are gone.
  if (desk_) {
    keepLayouts();
    keepSheets();
  }
  dropPages();
}

void MainWindow::buildTop() {
  auto* top = new QWidget(centralWidget());
  top->setObjectName("bench");
  top->setFixedHeight(44);
  auto* layout = new QHBoxLayout(top);
  layout->setContentsMargins(10, 4, 14, 0);
  layout->setSpacing(6);
  title_ = new QPushButton(top);
  title_->setObjectName("title");
  title_->setFont(serif(1.3));
  title_->setAccessibleName(tr("Menu of everything"));
  connect(title_, &QPushButton::clicked, this, &MainWindow::openMenuOfAll);
  layout->addWidget(title_);
  tabs_ = new QTabBar(top);
  tabs_->setObjectName("tabs");
  tabs_->setDrawBase(false);
  tabs_->setExpanding(false);
  tabs_->setElideMode(Qt::ElideRight);
  tabs_->setAccessibleName(tr("Pages"));
  connect(tabs_, &QTabBar::currentChanged, this, [this](int index) {
    auto* page = index < 0 ? nullptr : tabs_->tabData(index).value<QWidget*>();
    if (page != nullptr && pages_->currentWidget() != page) showPage(page);
  });
  layout->addWidget(tabs_, 1, Qt::AlignBottom);
  find_ = new QPushButton(tr("Find a table or a command      Ctrl+K"), top);
  find_->setObjectName("find");
  find_->setToolTip(tr("Find a table or a command (Ctrl+K)"));
  find_->setAccessibleName(tr("Find a table or a command"));
  find_->setFocusPolicy(Qt::NoFocus);
  connect(find_, &QPushButton::clicked, this, &MainWindow::openPalette);
  layout->addWidget(find_);
  static_cast<QVBoxLayout*>(centralWidget()->layout())->addWidget(top);
}

// --- pages
// ---------------------------------------------------------------------------------------------------------------

void MainWindow::dropPages() {
  for (QWidget* page : std::initializer_list<QWidget*>{catalogue_, review_, history_}) delete page;
  for (SheetPage* sheet : sheets_) delete sheet;
  sheets_.clear();
  catalogue_ = nullptr;
  review_ = nullptr;
  history_ = nullptr;
}

void MainWindow::buildPages() {
  catalogue_ = new CataloguePage(*desk_);
  review_ = new ReviewPage(*desk_);
  history_ = new HistoryPage(*desk_);
  for (QWidget* page : std::initializer_list<QWidget*>{catalogue_, review_, history_}) pages_->addWidget(page);
  connect(catalogue_, &CataloguePage::openAsked, this, &MainWindow::openTable);
  connect(catalogue_, &CataloguePage::scopeAsked, this, [this](const QString& name) {
    for (const SavedScope& saved : desk_->kept().scopes()) {
      if (toQ(saved.name) == name) openScope(saved.scope, name);
    }
  });
  connect(catalogue_, &CataloguePage::tipsSeen, this, &MainWindow::forgetTips);
  connect(review_, &ReviewPage::stateChanged, this, &MainWindow::updateRail);
  connect(review_, &ReviewPage::recordAsked, this, &MainWindow::goToReviewed);
  connect(review_, &ReviewPage::findingsAsked, this, [this](const TableName& table) {
    Scope scope;
    scope.table = displayName(table);
    scope.filters.push_back({{}, "record has a finding"});
    openScope(scope);
    say(tr("F8 goes from one to the next; Ctrl+R leads back to the review."), true);
  });
  connect(review_, &ReviewPage::recordsAsked, this, &MainWindow::showRecordsOf);
  connect(review_, &ReviewPage::mergeAsked, this, &MainWindow::mergeReviewed);
  connect(review_, &ReviewPage::menuAsked, this, &MainWindow::openReviewMenu);
  connect(history_, &HistoryPage::menuAsked, this, &MainWindow::openReceiptMenu);
  connect(review_, &ReviewPage::said, this, [this](const QString& m) { say(m); });
  connect(review_, &ReviewPage::told, this, [this](const QString& m) { say(m, true); });
  connect(review_, &ReviewPage::applied, this, [this](const QString& m) {
    refreshSheets();
    catalogue_->countTables();
    if (pages_->currentWidget() == review_) {
      showPage(lastSheet_ != nullptr ? static_cast<QWidget*>(lastSheet_) : catalogue_);
    }
    say(m, true);
    updateAside();
  });
  connect(history_, &HistoryPage::said, this, [this](const QString& m) { say(m, true); });
  connect(history_, &HistoryPage::alarmed, this, [this](const QString& m) { say(m); });
  connect(history_, &HistoryPage::told, this, [this](const QString& m) { say(m, true); });
  connect(history_, &HistoryPage::takenBack, this, &MainWindow::showReview);
}

// --- pages
// -------------------------------------------------------------------------------------------------------------------

SheetPage* MainWindow::currentSheet() const { return qobject_cast<SheetPage*>(pages_->currentWidget()); }

void MainWindow::showPage(QWidget* page) {
  messages_->acted();
  pages_->setCurrentWidget(page);
  updateTabs();
  if (auto* sheet = qobject_cast<SheetPage*>(page)) {
    lastSheet_ = sheet;
    sheet->view().setFocus();
  } else {
    page->setFocus();
  }
  if (page == review_) review_->rehearse();
  if (page == history_) history_->reload();
  updateRail();
}

void MainWindow::updateTabs() {
  const QSignalBlocker blocker(tabs_);
  while (tabs_->count() > 0) tabs_->removeTab(0);
  if (!desk_) {
    title_->setText(QStringLiteral("Iterandum ▾"));
    return;
  }
  const auto add = [&](const QString& text, QWidget* page) {
    const int index = tabs_->addTab(text);
    tabs_->setTabData(index, QVariant::fromValue(page));
    if (pages_->currentWidget() == page) tabs_->setCurrentIndex(index);
  };
  add(tr("Catalogue"), catalogue_);
  for (SheetPage* sheet : sheets_) add(sheet->title(), sheet);
  add(tr("Review"), review_);
  add(tr("History"), history_);
}

void MainWindow::updateRail() {
  RailState state;
  if (desk_ && pages_->currentWidget() != start_) {
    state.counts = desk_->changes().counts();
    state.canUndo = desk_->changes().canUndo();
    if (state.canUndo) state.last = toQ(desk_->changes().lastGesture().title);
    state.readOnly = toQ(desk_->info().readOnly);
    state.markName = toQ(desk_->kept().mark().name);
    state.markColour = toQ(desk_->kept().mark().colour);
    state.onReview = pages_->currentWidget() == review_;
    state.busy = review_->busy();
    state.ready = review_->ready();
    state.reviewState = review_->stateInWords();
    state.partRecords = review_->partRecords();
    state.needLook = state.counts.any() ? review_->blockingCount() : 0;
  }
  rail_->show(state);
}

void MainWindow::showCatalogue() {
  showPage(catalogue_);
  catalogue_->focusSeek();
}

void MainWindow::showReview() {
  if (typingTaken(commands_->text("review"))) showPage(review_);
}

void MainWindow::reviewPart() {
  if (currentSheet() == nullptr) return review_->reviewPart();
  const std::vector<RecordRef> records = currentSheet()->viewWithKeys().stagedInSelection();
  if (records.empty()) return say(tr("Nothing is staged in the selected records."));
  showReview();
  if (pages_->currentWidget() == review_) review_->reviewPartOf(records);
}

void MainWindow::showHistory() { showPage(history_); }

void MainWindow::saveChangeFile() {
  const QString path = QFileDialog::getSaveFileName(this, tr("Save as change file"), QStringLiteral("changes.json"),
                                                    tr("Change files (*.json)"));
  if (!path.isEmpty()) review_->saveChangeFile(path);
}

void MainWindow::say(const QString& message, bool good) { messages_->say(message, good); }

// Colours go into many widgets when they are made, so the pages are made anew, each as it was.
void MainWindow::setScheme(bool dark) {
  applyScheme(dark ? Scheme::Dark : Scheme::Light);
  const bool atStart = pages_->currentWidget() == start_;
  delete start_;
  start_ = new StartPage(this);
  pages_->addWidget(start_);
  connect(start_, &StartPage::openAsked, this, qOverload<const OpenWish&>(&MainWindow::open));
  connect(start_, &StartPage::trialAsked, this, &MainWindow::tryOut);
  connect(start_, &StartPage::stopAsked, this, &MainWindow::stopOpening);
  if (!desk_) return showStart();
  rebuildPages(atStart);
}

void MainWindow::rebuildPages(bool atStart) {
  const SheetPage* current = currentSheet();
  const bool onReview = pages_->currentWidget() == review_;
  const bool onHistory = pages_->currentWidget() == history_;
  struct Open {
    TableName table;
    SheetLook look;
    QString name;
    Scope saved;
  };
  std::vector<Open> open;
  int currentAt = -1;
  for (const SheetPage* sheet : sheets_) {
    if (sheet == current) currentAt = static_cast<int>(open.size());
    open.push_back({sheet->table().name, sheet->look(), sheet->scopeName(), sheet->savedScope()});
  }
  dropPages();
  buildPages();
  for (const Open& sheet : open) {
    const Table* table = desk_->catalogue().find(sheet.table);
    if (table != nullptr) addSheet(*table, sheet.look)->setScopeName(sheet.name, sheet.saved);
  }
  updateAside();
  if (atStart) return showStart();
  if (onReview) return showReview();
  if (onHistory) return showHistory();
  if (currentAt < 0 || currentAt >= static_cast<int>(sheets_.size())) return showCatalogue();
  showPage(sheets_[static_cast<std::size_t>(currentAt)]);
}

void MainWindow::resizeEvent(QResizeEvent* event) {
  QMainWindow::resizeEvent(event);
  constexpr int kRoomForWords = 1000;
  find_->setText(width() >= kRoomForWords ? tr("Find a table or a command      Ctrl+K") : tr("Find   Ctrl+K"));
  if (palette_ != nullptr) palette_->hide();
}

}  // namespace iterandum
