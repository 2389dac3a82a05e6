// MainWindow: every command with its shortcut, and the palette that lists them.
#include <QStackedWidget>
#include <QTabBar>

#include "app/catalogue/catalogue_page.h"
#include "app/history/history_page.h"
#include "app/review/review_page.h"
#include "app/sheet/sheet_page.h"
#include "app/window/command_palette.h"
#include "app/window/commands.h"
#include "app/window/kept_commands.h"
#include "app/window/main_window.h"
#include "app/window/messages.h"

namespace iterandum {

// Runs something of the sheet that is shown, or of its view.
template <typename Method>
static std::function<void()> onSheet(MainWindow* window, Method method) {
  return [window, method] { (window->currentSheet()->*method)(); };
}
template <typename Method>
static std::function<void()> onView(MainWindow* window, Method method) {
  return [window, method] { (window->currentSheet()->viewWithKeys().*method)(); };
}

void MainWindow::buildCommands() {
  commands_ = std::make_unique<Commands>(*this);
  kept_ = std::make_unique<KeptCommands>(*this, *palette_);
  buildDatabaseCommands();
  buildStagedCommands();
  buildCellCommands();
  buildRecordCommands();
  kept_->addForms(*commands_);
  buildFindCommands();
  buildColumnCommands();
  buildScopeCommands();
  kept_->addRecipes(*commands_);
  kept_->addRules(*commands_);
  buildDeskCommands();
  commands_->setGuard([this](const QString& command) { return typingTaken(command); });
  for (const char* id : {"palette", "menu", "cell.menu", "message.close", "message.list"}) commands_->always(id);
  for (const auto& [id, mark] : std::initializer_list<std::pair<const char*, Mark>>{{"cell.edit", Mark::Changed},
                                                                                    {"record.add", Mark::Added},
                                                                                    {"record.remove", Mark::Removed},
                                                                                    {"mark.next", Mark::Query},
                                                                                    {"apply", Mark::Applied}}) {
    commands_->setMark(id, mark);
  }
}

void MainWindow::buildDatabaseCommands() {
  const auto open = [this] { return desk_ != nullptr; };
  Commands& c = *commands_;
  c.under(tr("Database"));
  c.add("palette", tr("Find a table or a command"), keys(tr("Ctrl+K")), [this] { openPalette(); });
  c.add("database.open", tr("Open another database"), {QKeySequence::Open}, [this] { showStart(); });
  c.add("database.file", tr("Choose a database file"), keys(tr("Ctrl+Shift+O")), [this] { start_->choose(); });
  const auto starting = [this] { return pages_->currentWidget() == start_; };
  const auto tryOutTyped = [this] { start_->tryOut(); };
  c.add("database.try", tr("Try the typed address without opening it"), keys(tr("Ctrl+Shift+T")), tryOutTyped,
        starting);
  const auto mark = [this] { openMark(); };
  c.add("database.mark", tr("Mark this database: name, colour, may it be changed"), keys(tr("Ctrl+Shift+M")), mark,
        open);
  c.add(
      "catalogue", tr("Catalogue of tables"), keys(tr("Ctrl+T")), [this] { showCatalogue(); }, open);
  const auto turnTo = [this](int step) {
    const int count = std::max(1, tabs_->count());
    tabs_->setCurrentIndex((tabs_->currentIndex() + count + step) % count);
  };
  c.add(
      "page.next", tr("Next page"), keys(tr("Ctrl+PgDown"), tr("Ctrl+Tab")), [turnTo] { turnTo(1); }, open);
  c.add(
      "page.previous", tr("Previous page"), keys(tr("Ctrl+PgUp"), tr("Ctrl+Shift+Tab")), [turnTo] { turnTo(-1); },
      open);
  const auto printable = [this] {
    const QWidget* page = pages_->currentWidget();
    return currentSheet() != nullptr ||
           (desk_ && ((page == review_ && review_->review()) || (page == history_ && history_->canTakeBack())));
  };
  c.add(
      "print", tr("Print: these records, what would change, or what was changed"), {QKeySequence::Print},
      [this] { print(); }, printable);
  c.add("quit", tr("Quit"), keys(tr("Ctrl+Q")), [this] { close(); });
}

void MainWindow::buildStagedCommands() {
  const auto open = [this] { return desk_ != nullptr; };
  const auto staged = [this] { return desk_ != nullptr && !desk_->changes().empty(); };
  const auto reviewing = [this] { return desk_ != nullptr && pages_->currentWidget() == review_; };
  Commands& c = *commands_;
  c.under(tr("What is staged"));
  c.add(
      "review", tr("Review what is staged"), keys(tr("Ctrl+R")), [this] { showReview(); }, open);
  c.add(
      "undo", tr("Undo"), {QKeySequence::Undo}, [this] { undo(); },
      [this] { return desk_ != nullptr && desk_->changes().canUndo(); });
  c.add(
      "redo", tr("Redo"), keys(tr("Ctrl+Y"), tr("Ctrl+Shift+Z")), [this] { redo(); },
      [this] { return desk_ != nullptr && desk_->changes().canRedo(); });
  c.add(
      "put-all-back", tr("Put all back"), keys(tr("Ctrl+Shift+Backspace")), [this] { desk_->staged().putAllBack(); },
      staged);
  const auto rehearse = [this] { pages_->currentWidget() == review_ ? review_->rehearse() : showReview(); };
  c.add("rehearse", tr("Rehearse again"), keys(tr("Ctrl+Shift+R")), rehearse, staged);
  c.add(
      "apply", tr("Apply what was reviewed"), keys(tr("Ctrl+Shift+Return"), tr("Ctrl+Shift+Enter")),
      [this] { review_->apply(); }, [this, reviewing] { return reviewing() && review_->ready(); });
  c.add(
      "review.title", tr("Say why: the title of this change set"), keys(tr("Ctrl+E")),
      [this] { review_->focusTitle(); }, reviewing);
  const auto show = [this](int view) { return [this, view] { review_->showView(view); }; };
  c.add("review.records", tr("Review: records"), keys(tr("Ctrl+1")), show(0), reviewing);
  c.add("review.statements", tr("Review: statements"), keys(tr("Ctrl+2")), show(1), reviewing);
  c.add("review.effects", tr("Review: what the database will do"), keys(tr("Ctrl+3")), show(2), reviewing);
  c.add(
      "review.put-group-back", tr("Put the chosen group back"), keys(tr("Ctrl+Shift+G")),
      [this] { review_->putGroupBack(); }, [this, reviewing] { return reviewing() && review_->hasGroup(); });
  c.add(
      "review.part", tr("Review and apply only the chosen groups, or the selected records; again: all"),
      keys(tr("Ctrl+Shift+A")), [this] { reviewPart(); },
      [this, reviewing] {
        return (reviewing() && review_->hasGroup()) || (currentSheet() != nullptr && !desk_->changes().empty());
      });
  c.add(
      "review.go", tr("Go to the first record of this group in its sheet"), keys(tr("Ctrl+Return"), tr("Ctrl+Enter")),
      [this] { review_->goToFirst(); }, [this, reviewing] { return reviewing() && review_->hasGroup(); });
  c.add(
      "review.sign", tr("Sign what is reviewed, or say who may apply"), keys(tr("Ctrl+Shift+Q")),
      [this] { review_->openSigning(); }, [this, reviewing] { return reviewing() && review_->changeCount() > 0; });
  c.add(
      "review.comment", tr("Comment on what is reviewed"), keys(tr("Ctrl+Shift+W")), [this] { review_->openComment(); },
      [this, reviewing] { return reviewing() && review_->changeCount() > 0; });
  c.add(
      "save-change-file", tr("Save as change file"), {QKeySequence::Save}, [this] { saveChangeFile(); }, staged);
  c.add(
      "open-change-file", tr("Open a change file"), keys(tr("Ctrl+Alt+Q")), [this] { openChangeFile(); },
      [this] { return desk_ != nullptr && desk_->info().readOnly.empty(); });
  c.add(
      "history", tr("History of what was applied"), keys(tr("Ctrl+H")), [this] { showHistory(); }, open);
  c.add(
      "receipt.take-back", tr("Take the chosen receipt back"), keys(tr("Ctrl+Shift+B")),
      [this] { history_->takeBack(); },
      [this] { return desk_ != nullptr && pages_->currentWidget() == history_ && history_->canTakeBack(); });
  c.add(
      "receipt.check", tr("Check that all receipts are as they were kept"), keys(tr("Ctrl+Alt+Z")),
      [this] { history_->checkReceipts(); }, open);
  c.add(
      "receipt.write-all", tr("Write all receipts of this database to a file"), {}, [this] { exchangeReceipts(true); },
      open);
  c.add(
      "receipt.take-in", tr("Take in receipts that were kept elsewhere"), {}, [this] { exchangeReceipts(false); },
      open);
}

void MainWindow::buildCellCommands() {
  const auto sheet = [this] { return currentSheet() != nullptr; };
  const auto view = [this](auto method) { return onView(this, method); };
  Commands& c = *commands_;
  c.under(tr("Cells"));
  c.addTold(
      "cell.edit", tr("Edit the cell"), tr("F2"), [this] { currentSheet()->viewWithKeys().editCurrent(); }, sheet);
  const auto told = [](QKeySequence::StandardKey key) { return QKeySequence(key).toString(QKeySequence::NativeText); };
  c.addTold("cell.cut", tr("Cut"), told(QKeySequence::Cut), view(&SheetView::cutSelection), sheet);
  const auto copy = [this](bool heads, bool stored) {
    return [this, heads, stored] { currentSheet()->viewWithKeys().copySelection(heads, stored); };
  };
  c.addTold("cell.copy", tr("Copy"), told(QKeySequence::Copy), copy(false, false), sheet);
  c.add("cell.copy-heads", tr("Copy with the columns' names"), keys(tr("Ctrl+Shift+C")), copy(true, false), sheet);
  c.add("cell.copy-stored", tr("Copy as stored: keys, not names"), keys(tr("Ctrl+Alt+C")), copy(false, true), sheet);
  c.addTold("cell.paste", tr("Paste"), told(QKeySequence::Paste), view(&SheetView::pasteClipboard), sheet);
  c.add("cell.no-value", tr("Set to no value"), keys(tr("Ctrl+Shift+N")), view(&SheetView::setNoValue), sheet);
  c.add("cell.fill-down", tr("Fill down from the first selected record"), keys(tr("Ctrl+D")),
        view(&SheetView::fillDown), sheet);
  c.add("cell.fill-right", tr("Fill to the right from the first selected column"), keys(tr("Ctrl+Alt+R")),
        view(&SheetView::fillRight), sheet);
  c.add("cell.fill-series", tr("Fill on as a series (1, 2, 3; days; T-01, T-02)"), keys(tr("Ctrl+Shift+E")),
        view(&SheetView::fillSeries), sheet);
  c.add("cell.whole", tr("Show the whole cell"), keys(tr("Shift+F2")), onSheet(this, &SheetPage::showWhole), sheet);
  c.addTold("select.all", tr("Select all"), tr("Ctrl+A"), view(&SheetView::selectAllCells), sheet);
  c.addTold("select.column", tr("Select the whole column"), tr("Ctrl+Space"), view(&SheetView::selectColumns), sheet);
  c.addTold("select.record", tr("Select the whole record"), tr("Shift+Space"), view(&SheetView::selectRecords), sheet);
}

void MainWindow::buildRecordCommands() {
  const auto sheet = [this] { return currentSheet() != nullptr; };
  Commands& c = *commands_;
  c.under(tr("Records"));
  c.add("record.add", tr("Add a record"), keys(tr("Ctrl+N")), onSheet(this, &SheetPage::addRecord), sheet);
  c.add("many.change", tr("Change many at once: set, compute, replace, tidy"), keys(tr("Ctrl+M")),
        onSheet(this, &SheetPage::changeMany), sheet);
  c.add("many.replace", tr("Replace in the texts of this column"), keys(tr("Ctrl+Shift+L")),
        onSheet(this, &SheetPage::replaceInMany), sheet);
  c.add(
      "file.stage", tr("Corrections from a file; working copies that come back"), keys(tr("Ctrl+Alt+I")),
      [this] { stageFromFile(); }, sheet);
  c.add("file.clipboard", tr("Corrections from a table on the clipboard"), keys(tr("Ctrl+Shift+V")),
        onSheet(this, &SheetPage::stageFromClipboard), sheet);
  c.add("file.hand-out", tr("Hand out a working copy of these records"), keys(tr("Ctrl+Alt+A")),
        onSheet(this, &SheetPage::handOut), sheet);
  c.add(
      "file.export", tr("Export what the sheet shows"), keys(tr("Ctrl+Alt+E")), [this] { exportRecords(false); },
      sheet);
  c.add(
      "file.export-shown", tr("Export it with names, and through the lenses"), {}, [this] { exportRecords(true); },
      sheet);
  c.add(
      "file.export-selected", tr("Export only the selected records"), {}, [this] { exportRecords(false, true); },
      sheet);
  c.add(
      "file.export-selected-shown", tr("Export only the selected records, with names and through the lenses"), {},
      [this] { exportRecords(true, true); }, sheet);
  c.add("record.merge", tr("Merge the selected records into one"), keys(tr("Ctrl+Shift+Y")),
        onSheet(this, &SheetPage::mergeRecords), sheet);
  c.add("record.doubles", tr("Look for doubles: records that are alike"), keys(tr("F12")),
        onSheet(this, &SheetPage::findDoubles), sheet);
  c.add("record.duplicate", tr("Duplicate the selected records"), keys(tr("Ctrl+U")),
        onView(this, &SheetView::duplicateSelected), sheet);
  c.add("record.duplicate-with", tr("Duplicate them with all that points at them"), keys(tr("Ctrl+Alt+T")),
        onView(this, &SheetView::duplicateWithHanging), sheet);
  c.add("record.remove", tr("Remove the selected records"), keys(tr("Ctrl+Delete"), tr("Ctrl+-")),
        onView(this, &SheetView::removeSelected), sheet);
  c.add("record.remove-with", tr("Remove with all that could not stay without them"), keys(tr("Ctrl+Shift+Delete")),
        onView(this, &SheetView::removeWithHanging), sheet);
  c.add("record.put-back", tr("Put the selected records back"), keys(tr("Ctrl+Backspace")),
        onView(this, &SheetView::putBackSelected), sheet);
  c.add(
      "reference.follow", tr("Open the record this points at"), keys(tr("F7")), [this] { followReference(); }, sheet);
  c.add(
      "reference.back", tr("Come back to where it was opened from"), keys(tr("Shift+F7")), [this] { comeBack(); },
      [this] { return desk_ != nullptr && !way_.empty(); });
  c.add(
      "record.history", tr("Who changed this record, and when"), keys(tr("Ctrl+Alt+H")),
      [this] { showRecordHistory(); }, sheet);
  const auto marked = [this] { return currentSheet() != nullptr || (desk_ && pages_->currentWidget() == review_); };
  const auto next = [this](bool backwards) {
    if (currentSheet() != nullptr) return currentSheet()->nextMarked(backwards);
    review_->nextMarked(backwards);
  };
  c.add(
      "mark.next", tr("Next that needs a look, else next change"), keys(tr("F8")), [next] { next(false); }, marked);
  c.add(
      "mark.previous", tr("Previous that needs a look, else previous change"), keys(tr("Shift+F8")),
      [next] { next(true); }, marked);
  c.add("card.alone", tr("The card alone, as a form: type a key, change or add"), keys(tr("F4")),
        onSheet(this, &SheetPage::toggleAlone), sheet);
  c.addTold("card.keep", tr("Keep this field's value for the next new record"), tr("Ctrl+P"),
            onSheet(this, &SheetPage::keepField), sheet);
  c.add("record.without", tr("Next record without a value here"), keys(tr("Ctrl+Alt+PgDown")),
        onSheet(this, &SheetPage::nextWithoutValue), sheet);
  c.add("card.go", tr("To the card"), keys(tr("F6")), onSheet(this, &SheetPage::focusCard), sheet);
  c.add("card.toggle", tr("Show or hide the card"), keys(tr("Ctrl+Shift+K")), onSheet(this, &SheetPage::toggleCard),
        sheet);
}

void MainWindow::buildFindCommands() {
  const auto sheet = [this] { return currentSheet() != nullptr; };
  Commands& c = *commands_;
  c.under(tr("Find, filter, sort"));
  const auto find = [this](FindBar::By by) { return [this, by] { currentSheet()->find(by); }; };
  c.add(
      "find.column", tr("Find in this column; in the history: receipts"), {QKeySequence::Find},
      [this, inColumn = find(FindBar::By::Column)] {
        currentSheet() != nullptr ? inColumn() : history_->focusSearch();
      },
      [this] { return currentSheet() != nullptr || (desk_ != nullptr && pages_->currentWidget() == history_); });
  c.add("find.all", tr("Find in all columns shown"), keys(tr("Ctrl+Alt+F")), find(FindBar::By::All), sheet);
  c.add("find.key", tr("Find a record by its key"), keys(tr("Ctrl+Alt+G")), find(FindBar::By::Key), sheet);
  c.add("find.number", tr("Go to a record by its number"), keys(tr("Ctrl+G")), find(FindBar::By::Position), sheet);
  c.add(
      "find.next", tr("Find the next one"), keys(tr("F3")), [this] { currentSheet()->findNext(false); }, sheet);
  c.add(
      "find.previous", tr("Find the previous one"), keys(tr("Shift+F3")), [this] { currentSheet()->findNext(true); },
      sheet);
  c.add("filter.column", tr("Filter this column"), keys(tr("Ctrl+L")), onSheet(this, &SheetPage::focusFilter), sheet);
  const auto only = [this](bool others) { return [this, others] { currentSheet()->keepValue(others); }; };
  c.add("filter.only", tr("Only this value"), keys(tr("Ctrl+Alt+V")), only(false), sheet);
  c.add("filter.not", tr("Not this value"), keys(tr("Ctrl+Alt+W")), only(true), sheet);
  const auto condition = [this](const char* text) {
    return [this, text] { currentSheet()->scope().addCondition(QLatin1String(text)); };
  };
  c.add("filter.staged", tr("Only records with something staged"), {}, condition("record is staged"), sheet);
  c.add("filter.finding", tr("Only records with a finding"), {}, condition("record has a finding"), sheet);
  c.add("filter.clear", tr("Clear all filters"), keys(tr("Ctrl+Shift+F")), onSheet(this, &SheetPage::clearFilters),
        sheet);
  c.add("sentence.change", tr("Change the sentence"), keys(tr("Ctrl+J")), onSheet(this, &SheetPage::focusSentence),
        sheet);
  c.add("sentence.add", tr("Add a condition to the sentence"), keys(tr("Ctrl+Shift+J")),
        onSheet(this, &SheetPage::addCondition), sheet);
  c.add("sort", tr("Sort by this column"), keys(tr("Ctrl+Shift+S")), onSheet(this, &SheetPage::sortByCurrent), sheet);
  c.add("sort.also", tr("Sort by this column as well"), keys(tr("Ctrl+Alt+S")),
        onSheet(this, &SheetPage::sortAlsoByCurrent), sheet);
  c.add(
      "sort.any", tr("Sort by any column, shown or not"), keys(tr("Ctrl+Alt+Y")), [this] { sortByAny(); }, sheet);
}

void MainWindow::buildColumnCommands() {
  const auto sheet = [this] { return currentSheet() != nullptr; };
  const auto on = [this](auto method) { return onSheet(this, method); };
  Commands& c = *commands_;
  c.under(tr("Columns"));
  c.add("column.values", tr("Values of this column"), keys(tr("Ctrl+Shift+D")), on(&SheetPage::toggleValues), sheet);
  c.add(
      "column.borrow", tr("Borrow a column from the records pointed at"), keys(tr("Ctrl+B")),
      [this] { borrowColumn(); }, sheet);
  c.add("column.hide", tr("Hide this column"), keys(tr("Ctrl+Shift+H")), on(&SheetPage::hideCurrentColumn), sheet);
  c.add(
      "column.show", tr("Show a hidden column"), keys(tr("Ctrl+Alt+U")), [this] { showHiddenColumn(); }, sheet);
  c.add("column.show-all", tr("Show all columns"), keys(tr("Ctrl+Shift+U")), on(&SheetPage::showAllColumns), sheet);
  c.add("column.freeze", tr("Freeze the columns up to this one"), keys(tr("Ctrl+Alt+P")),
        on(&SheetPage::freezeToCurrent), sheet);
  c.add("column.left", tr("Move this column to the left"), keys(tr("Ctrl+Alt+Left")), on(&SheetPage::moveColumnLeft),
        sheet);
  c.add("column.right", tr("Move this column to the right"), keys(tr("Ctrl+Alt+Right")),
        on(&SheetPage::moveColumnRight), sheet);
  c.add("column.wider", tr("Make this column wider"), keys(tr("Ctrl+Alt+Up")), on(&SheetPage::widenColumn), sheet);
  c.add("column.narrower", tr("Make this column narrower"), keys(tr("Ctrl+Alt+Down")), on(&SheetPage::narrowColumn),
        sheet);
  c.add("column.lens", tr("Lens: how this column is shown and typed"), keys(tr("F9")), on(&SheetPage::toggleLens),
        sheet);
  kept_->addLenses(c);
  c.add("column.fit", tr("Fit this column to what is in it"), keys(tr("Ctrl+Alt+J")), on(&SheetPage::fitColumn), sheet);
  c.add(
      "reference.readable", tr("Choose by what the records pointed at are called"), keys(tr("Ctrl+Alt+B")),
      [this] { chooseReadable(); }, sheet);
  c.add(
      "reference.state", tr("State what this column points at"), {}, [this] { stateReference(); }, sheet);
  c.add(
      "reference.forget", tr("Forget what was stated about references"), {}, [this] { forgetReference(); },
      [this] { return desk_ != nullptr && !desk_->kept().statedReferences().empty(); });
}

void MainWindow::buildScopeCommands() {
  const auto sheet = [this] { return currentSheet() != nullptr; };
  const auto open = [this] { return desk_ != nullptr; };
  const auto saved = [this] { return desk_ != nullptr && !desk_->kept().scopes().empty(); };
  Commands& c = *commands_;
  c.under(tr("Sheets and scopes"));
  c.add("sheet.read", tr("Read again"), keys(tr("F5")), onSheet(this, &SheetPage::refresh), sheet);
  c.add("sheet.stop", tr("Stop reading and counting"), keys(tr("Ctrl+Alt+X")), onSheet(this, &SheetPage::stopCounting),
        sheet);
  c.add(
      "sheet.another", tr("Open this table in another sheet"), keys(tr("Ctrl+Alt+N")),
      [this] { showPage(addSheet(currentSheet()->table(), {})); }, sheet);
  c.add(
      "sheet.close", tr("Close this sheet"), keys(tr("Ctrl+W")), [this] { closeSheet(); }, sheet);
  c.add(
      "scope.save", tr("Save this scope under a name"), keys(tr("Ctrl+Alt+K")), [this] { saveScope(); }, sheet);
  const auto openSaved = [this] {
    palette_->open(scopeEntries([this](const SavedScope& s) { openScope(s.scope, toQ(s.name)); }),
                   tr("Open which saved scope?"));
  };
  c.add("scope.open", tr("Open a saved scope"), keys(tr("Ctrl+Alt+O")), openSaved, saved);
  const auto forget = [this] {
    palette_->open(scopeEntries([this](const SavedScope& s) { desk_->kept().forgetScope(s.name); }),
                   tr("Forget which saved scope?"));
  };
  c.add("scope.forget", tr("Forget a saved scope"), {}, forget, saved);
  c.add(
      "scope.export", tr("Export this scope as a file"), {}, [this] { exportScope(); }, sheet);
  c.add(
      "scope.import", tr("Import a scope from a file"), {}, [this] { importScope(); }, open);
}

void MainWindow::buildDeskCommands() {
  const auto sheet = [this] { return currentSheet() != nullptr; };
  Commands& c = *commands_;
  c.under(tr("Desk"));
  c.add("menu", tr("Menu of everything"), keys(tr("F10")), [this] { openMenuOfAll(); });
  c.addTold(
      "cell.menu", tr("Menu of what is selected"), tr("Shift+F10"),
      [this] { currentSheet()->viewWithKeys().openMenuByKey(); }, sheet);
  c.add("message.close", tr("Close the message"), keys(tr("Ctrl+.")), [this] { messages_->hide(); });
  c.add(
      "message.act", tr("Do what the message offers"), keys(tr("Ctrl+Alt+Return"), tr("Ctrl+Alt+Enter")),
      [this] { messages_->act(); }, [this] { return messages_->offering(); });
  c.add("message.list", tr("Messages so far"), keys(tr("Ctrl+Alt+M")), [this] { showMessages(); });
  c.add("desk.dark", tr("Dark desk"), keys(tr("Ctrl+Alt+D")), [this] { setScheme(true); });
  c.add("desk.light", tr("Light desk"), keys(tr("Ctrl+Alt+L")), [this] { setScheme(false); });
  const auto rows = [this](int height) { return [this, height] { currentSheet()->view().setDensity(height); }; };
  c.add("rows.close", tr("Rows: close"), keys(tr("Ctrl+Alt+1")), rows(24), sheet);
  c.add("rows.usual", tr("Rows: usual"), keys(tr("Ctrl+Alt+2")), rows(29), sheet);
  c.add("rows.wide", tr("Rows: wide"), keys(tr("Ctrl+Alt+3")), rows(36), sheet);
}

void MainWindow::openPalette() {
  std::vector<CommandPalette::Entry> entries;
  if (desk_) {
    for (const Table& table : desk_->catalogue().tables()) {
      if (table.kind == TableKind::Internal) continue;
      entries.push_back(
          {toQ(displayName(table.name)), tr("table"), true, [this, name = table.name] { openTable(name); }});
    }
    for (CommandPalette::Entry& entry :
         scopeEntries([this](const SavedScope& saved) { openScope(saved.scope, toQ(saved.name)); })) {
      entries.push_back(std::move(entry));
    }
  }
  for (CommandPalette::Entry& entry : commands_->paletteEntries()) entries.push_back(std::move(entry));
  palette_->open(std::move(entries));
}

}  // namespace iterandum
