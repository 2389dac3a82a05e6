// MainWindow: every command with its shortcut, and the palette that lists them.
#include <QStackedWidget>
#include <QTabBar>

#include "app/catalogue/catalogue_page.h"
#include "app/history/history_page.h"
#include "app/review/review_page.h"
#include "app/sheet/sheet_page.h"
#include "app/window/command_palette.h"
#include "app/window/main_window.h"

namespace iterandum {

void MainWindow::addCommand(const QString& text, const QList<QKeySequence>& shortcuts, std::function<void()> run,
                            std::function<bool()> enabled) {
  auto* action = new QAction(text, this);
  action->setShortcuts(shortcuts);
  action->setShortcutContext(Qt::WindowShortcut);
  connect(action, &QAction::triggered, this, [run = std::move(run), enabled] {
    if (!enabled || enabled()) run();
  });
  addAction(action);
  commands_.push_back({action, std::move(enabled)});
}

void MainWindow::buildCommands() {
  const auto open = [this] { return desk_ != nullptr; };
  const auto staged = [this] { return desk_ != nullptr && !desk_->changes().empty(); };
  addCommand(tr("Find a table or a command"), {QKeySequence(tr("Ctrl+K"))}, [this] { openPalette(); });
  addCommand(tr("Open another database"), {QKeySequence::Open}, [this] { showStart(); });
  addCommand(tr("Choose a database file"), {QKeySequence(tr("Ctrl+Shift+O"))}, [this] { start_->choose(); });
  addCommand(
      tr("Try the typed address without opening it"), {QKeySequence(tr("Ctrl+Shift+T"))}, [this] { start_->tryOut(); },
      [this] { return pages_->currentWidget() == start_; });
  addCommand(
      tr("Mark this database: name, colour, may it be changed"), {QKeySequence(tr("Ctrl+Shift+M"))},
      [this] { openMark(); }, open);
  addCommand(
      tr("Catalogue of tables"), {QKeySequence(tr("Ctrl+T"))}, [this] { showCatalogue(); }, open);
  addCommand(
      tr("Review what is staged"), {QKeySequence(tr("Ctrl+R"))}, [this] { showReview(); }, open);
  addCommand(
      tr("History of what was applied"), {QKeySequence(tr("Ctrl+H"))}, [this] { showHistory(); }, open);
  addCommand(
      tr("Undo"), {QKeySequence::Undo}, [this] { desk_->undo(); },
      [this] { return desk_ != nullptr && desk_->changes().canUndo(); });
  addCommand(
      tr("Redo"), {QKeySequence(tr("Ctrl+Y")), QKeySequence(tr("Ctrl+Shift+Z"))}, [this] { desk_->redo(); },
      [this] { return desk_ != nullptr && desk_->changes().canRedo(); });
  addCommand(
      tr("Put all back"), {QKeySequence(tr("Ctrl+Shift+Backspace"))}, [this] { desk_->putAllBack(); }, staged);
  addCommand(
      tr("Rehearse again"), {QKeySequence(tr("Ctrl+Shift+R"))},
      [this] {
        if (pages_->currentWidget() == review_) {
          review_->rehearse();
        } else {
          showReview();
        }
      },
      staged);
  addCommand(
      tr("Apply what was reviewed"), {QKeySequence(tr("Ctrl+Shift+Return")), QKeySequence(tr("Ctrl+Shift+Enter"))},
      [this] { review_->apply(); },
      [this] { return desk_ != nullptr && pages_->currentWidget() == review_ && review_->ready(); });
  const auto reviewing = [this] { return desk_ != nullptr && pages_->currentWidget() == review_; };
  addCommand(
      tr("Say why: the title of this change set"), {QKeySequence(tr("Ctrl+E"))}, [this] { review_->focusTitle(); },
      reviewing);
  const QString views[] = {tr("Review: records"), tr("Review: statements"), tr("Review: what the database will do")};
  for (int v = 0; v < 3; ++v) {
    addCommand(
        views[v], {QKeySequence(tr("Ctrl+%1").arg(v + 1))}, [this, v] { review_->showView(v); }, reviewing);
  }
  addCommand(
      tr("Put the chosen group back"), {QKeySequence(tr("Ctrl+Shift+G"))}, [this] { review_->putGroupBack(); },
      [this] { return desk_ != nullptr && pages_->currentWidget() == review_; });
  addCommand(
      tr("Save as change file"), {QKeySequence::Save}, [this] { saveChangeFile(); }, staged);
  addCommand(
      tr("Take the chosen receipt back"), {QKeySequence(tr("Ctrl+Shift+B"))}, [this] { history_->takeBack(); },
      [this] { return desk_ != nullptr && pages_->currentWidget() == history_; });
  addCommand(
      tr("Next page"), {QKeySequence(tr("Ctrl+PgDown")), QKeySequence(tr("Ctrl+Tab"))},
      [this] { tabs_->setCurrentIndex((tabs_->currentIndex() + 1) % std::max(1, tabs_->count())); }, open);
  addCommand(
      tr("Previous page"), {QKeySequence(tr("Ctrl+PgUp")), QKeySequence(tr("Ctrl+Shift+Tab"))},
      [this] { tabs_->setCurrentIndex((tabs_->currentIndex() + tabs_->count() - 1) % std::max(1, tabs_->count())); },
      open);
  addCommand(tr("Close the message"), {QKeySequence(tr("Ctrl+."))}, [this] { message_->hide(); });
  addCommand(tr("Dark desk"), {QKeySequence(tr("Ctrl+Alt+D"))}, [this] { setScheme(true); });
  addCommand(tr("Light desk"), {QKeySequence(tr("Ctrl+Alt+L"))}, [this] { setScheme(false); });
  addCommand(tr("Quit"), {QKeySequence(tr("Ctrl+Q"))}, [this] { close(); });
}

void MainWindow::buildSheetCommands() {
  const auto sheet = [this] { return currentSheet() != nullptr; };
  const auto on = [this](auto method) { return [this, method] { (currentSheet()->*method)(); }; };
  const auto view = [this](auto method) { return [this, method] { (currentSheet()->view().*method)(); }; };
  addCommand(
      tr("Edit the cell"), {}, [this] { currentSheet()->view().editCurrent(); }, sheet);
  commands_.back().action->setProperty("aside", QStringLiteral("F2"));
  addCommand(tr("Set to no value"), {QKeySequence(tr("Ctrl+Shift+N"))}, view(&SheetView::setNoValue), sheet);
  addCommand(tr("Fill down from the first selected record"), {QKeySequence(tr("Ctrl+D"))}, view(&SheetView::fillDown),
             sheet);
  addCommand(tr("Fill to the right from the first selected column"), {QKeySequence(tr("Ctrl+Alt+R"))},
             view(&SheetView::fillRight), sheet);
  addCommand(tr("Add a record"), {QKeySequence(tr("Ctrl+N"))}, view(&SheetView::addRecord), sheet);
  addCommand(tr("Remove the selected records"), {QKeySequence(tr("Ctrl+Delete")), QKeySequence(tr("Ctrl+-"))},
             view(&SheetView::removeSelected), sheet);
  addCommand(tr("Put the selected records back"), {QKeySequence(tr("Ctrl+Backspace"))},
             view(&SheetView::putBackSelected), sheet);
  addCommand(tr("Filter this column"), {QKeySequence(tr("Ctrl+L"))}, on(&SheetPage::focusFilter), sheet);
  addCommand(tr("Change the sentence"), {QKeySequence(tr("Ctrl+J"))}, on(&SheetPage::focusSentence), sheet);
  addCommand(tr("Add a condition to the sentence"), {QKeySequence(tr("Ctrl+Shift+J"))}, on(&SheetPage::addCondition),
             sheet);
  addCommand(tr("Clear all filters"), {QKeySequence(tr("Ctrl+Shift+F"))}, on(&SheetPage::clearFilters), sheet);
  addCommand(tr("Sort by this column"), {QKeySequence(tr("Ctrl+Shift+S"))}, on(&SheetPage::sortByCurrent), sheet);
  addCommand(tr("Sort by this column as well"), {QKeySequence(tr("Ctrl+Alt+S"))}, on(&SheetPage::sortAlsoByCurrent),
             sheet);
  addCommand(tr("Move this column to the left"), {QKeySequence(tr("Ctrl+Alt+Left"))}, on(&SheetPage::moveColumnLeft),
             sheet);
  addCommand(tr("Move this column to the right"), {QKeySequence(tr("Ctrl+Alt+Right"))}, on(&SheetPage::moveColumnRight),
             sheet);
  addCommand(tr("Make this column wider"), {QKeySequence(tr("Ctrl+Alt+Up"))}, on(&SheetPage::widenColumn), sheet);
  addCommand(tr("Make this column narrower"), {QKeySequence(tr("Ctrl+Alt+Down"))}, on(&SheetPage::narrowColumn), sheet);
  addCommand(tr("Values of this column"), {QKeySequence(tr("Ctrl+Shift+D"))}, on(&SheetPage::toggleValues), sheet);
  addCommand(tr("Hide this column"), {QKeySequence(tr("Ctrl+Shift+H"))}, on(&SheetPage::hideCurrentColumn), sheet);
  addCommand(tr("Freeze the columns up to this one"), {QKeySequence(tr("Ctrl+Alt+P"))}, on(&SheetPage::freezeToCurrent),
             sheet);
  addCommand(tr("Show the whole cell"), {QKeySequence(tr("Shift+F2"))}, on(&SheetPage::showWhole), sheet);
  addCommand(tr("Stop reading and counting"), {QKeySequence(tr("Ctrl+Alt+X"))}, on(&SheetPage::stopCounting), sheet);
  addCommand(tr("Show all columns"), {QKeySequence(tr("Ctrl+Shift+U"))}, on(&SheetPage::showAllColumns), sheet);
  const auto find = [this](FindBar::By by) { return [this, by] { currentSheet()->find(by); }; };
  addCommand(tr("Find in this column"), {QKeySequence::Find}, find(FindBar::By::Column), sheet);
  addCommand(tr("Find in all columns shown"), {QKeySequence(tr("Ctrl+Alt+F"))}, find(FindBar::By::All), sheet);
  addCommand(tr("Find a record by its key"), {QKeySequence(tr("Ctrl+Alt+G"))}, find(FindBar::By::Key), sheet);
  addCommand(tr("Go to a record by its number"), {QKeySequence(tr("Ctrl+G"))}, find(FindBar::By::Position), sheet);
  addCommand(
      tr("Find the next one"), {QKeySequence(tr("F3"))}, [this] { currentSheet()->findNext(false); }, sheet);
  addCommand(
      tr("Find the previous one"), {QKeySequence(tr("Shift+F3"))}, [this] { currentSheet()->findNext(true); }, sheet);
  const auto marked = [this] { return currentSheet() != nullptr || (desk_ && pages_->currentWidget() == review_); };
  const auto next = [this](bool backwards) {
    if (currentSheet() != nullptr) return currentSheet()->nextMarked(backwards);
    review_->nextMarked(backwards);
  };
  addCommand(
      tr("Next with a mark"), {QKeySequence(tr("F8"))}, [next] { next(false); }, marked);
  addCommand(
      tr("Previous with a mark"), {QKeySequence(tr("Shift+F8"))}, [next] { next(true); }, marked);
  addCommand(tr("To the card"), {QKeySequence(tr("F6"))}, on(&SheetPage::focusCard), sheet);
  addCommand(tr("Show or hide the card"), {QKeySequence(tr("Ctrl+Shift+K"))}, on(&SheetPage::toggleCard), sheet);
  addCommand(tr("Read again"), {QKeySequence(tr("F5"))}, on(&SheetPage::refresh), sheet);
  addCommand(
      tr("Close this sheet"), {QKeySequence(tr("Ctrl+W"))}, [this] { closeSheet(); }, sheet);
  const std::pair<const char*, int> densities[] = {
      {QT_TR_NOOP("Rows: close"), 24}, {QT_TR_NOOP("Rows: usual"), 29}, {QT_TR_NOOP("Rows: wide"), 36}};
  int number = 1;
  for (const auto& [name, height] : densities) {
    addCommand(
        tr(name), {QKeySequence(tr("Ctrl+Alt+%1").arg(number++))},
        [this, height = height] { currentSheet()->view().setDensity(height); }, sheet);
  }
}

void MainWindow::openPalette() {
  std::vector<CommandPalette::Entry> entries;
  if (desk_) {
    for (const Table& table : desk_->catalogue().tables()) {
      if (table.kind == TableKind::Internal) continue;
      entries.push_back(
          {toQ(displayName(table.name)), tr("table"), true, [this, name = table.name] { openTable(name); }});
    }
  }
  if (desk_) {
    for (CommandPalette::Entry& entry :
         scopeEntries([this](const SavedScope& saved) { openScope(saved.scope, toQ(saved.name)); })) {
      entries.push_back(std::move(entry));
    }
  }
  for (const Command& command : commands_) {
    const QString aside = command.action->property("aside").isValid()
                              ? command.action->property("aside").toString()
                              : command.action->shortcut().toString(QKeySequence::NativeText);
    entries.push_back({command.action->text(), aside, !command.enabled || command.enabled(),
                       [action = command.action] { action->trigger(); }});
  }
  palette_->open(std::move(entries));
}

}  // namespace iterandum
