// MainWindow: sheets, the scopes they show, and the way along references from one to the other.
#include <QStackedWidget>

#include "app/catalogue/catalogue_page.h"
#include "app/records/column_values.h"
#include "app/review/review_page.h"
#include "app/window/commands.h"
#include "app/window/document_files.h"
#include "app/window/main_window.h"
#include "app/window/messages.h"
#include "app/window/open_sheets.h"
#include "core/scope/column_path.h"

namespace iterandum {

void MainWindow::openTable(const TableName& name) {
  const Table* table = desk_->catalogue().find(name);
  if (table == nullptr) return;
  if (!table->unusable.empty()) {
    say(tr("%1 cannot be read: %2").arg(toQ(displayName(name)), toQ(table->unusable)));
    return;
  }
  for (SheetPage* sheet : sheets_) {
    if (sheet->table().name == name && sheet->scopeName().isEmpty()) return showPage(sheet);
  }
  showPage(addSheet(*table, layoutFrom(displayName(name), desk_->kept().layout(*table))));
}

// How somebody laid the columns of a table is kept from its plain sheet; what is saved under a name keeps its own.
void MainWindow::keepLayouts() {
  for (const SheetPage* sheet : sheets_) {
    if (sheet->scopeName().isEmpty()) desk_->kept().keepLayout(sheet->table(), layoutText(sheet->look()));
  }
}

// What was only a step on the way, as records that were just applied, is not kept.
void MainWindow::keepSheets() {
  std::vector<OpenSheet> open;
  for (const SheetPage* sheet : sheets_) {
    SheetLook look = sheet->look();
    const auto isOfNow = [](const ScopeFilter& f) { return f.condition.find("was just applied") != std::string::npos; };
    if (std::any_of(look.scope.filters.begin(), look.scope.filters.end(), isOfNow)) continue;
    open.push_back({sheet->scopeName().toStdString(), std::move(look), sheet == lastSheet_});
  }
  desk_->kept().keepOpenSheets(openSheetsText(open));
}

void MainWindow::openKeptSheets() {
  constexpr std::size_t kMost = 12;
  SheetPage* current = nullptr;
  std::vector<OpenSheet> kept = openSheetsFrom(desk_->kept().openSheets());
  if (kept.size() > kMost) kept.resize(kMost);
  for (const OpenSheet& sheet : kept) {
    const Table* table = nullptr;
    for (const Table& one : desk_->catalogue().tables()) {
      if (displayName(one.name) == sheet.look.scope.table) table = &one;
    }
    if (table == nullptr || !table->unusable.empty()) continue;
    SheetPage* page = addSheet(*table, sheet.look);
    for (const SavedScope& saved : desk_->kept().scopes()) {
      if (saved.name == sheet.name) page->setScopeName(toQ(saved.name), saved.scope);
    }
    if (sheet.current) current = page;
  }
  if (current != nullptr) {
    showPage(current);
  } else {
    updateTabs();
  }
}

SheetPage* MainWindow::openScope(const Scope& scope, const QString& name) {
  std::vector<ScopeProblem> problems;
  const auto read = readScope(scope, desk_->conditions(), problems);
  if (!read) {
    say(tr("This scope cannot be opened: %1").arg(toQ(read.error().text())));
    return nullptr;
  }
  if (!read->table->unusable.empty()) {
    say(tr("%1 cannot be read: %2").arg(toQ(displayName(read->table->name)), toQ(read->table->unusable)));
    return nullptr;
  }
  for (SheetPage* sheet : sheets_) {
    if (&sheet->table() != read->table || sheet->scopeName() != name) continue;
    Scope shown = sheet->scope().scope();
    if (scope.columns.empty()) shown.columns.clear();
    if (shown == scope) {
      showPage(sheet);
      return sheet;
    }
  }
  SheetLook look;
  if (scope.columns.empty()) look = layoutFrom(scope.table, desk_->kept().layout(*read->table));
  std::vector<std::string> columns = scope.columns.empty() ? look.scope.columns : scope.columns;
  look.scope = scope;
  look.scope.columns = std::move(columns);
  SheetPage* sheet = addSheet(*read->table, look);
  sheet->setScopeName(name, scope);
  showPage(sheet);
  // What cannot be read of it is left out of the sheet, but not in silence; the sheet says what its filters lack.
  for (const ScopeProblem& problem : problems) {
    if (!problem.filter) say(tr("A part of this scope is left out: %1").arg(toQ(problem.error.text())));
  }
  return sheet;
}

SheetPage* MainWindow::addSheet(const Table& table, const SheetLook& look) {
  auto* sheet = new SheetPage(*desk_, table, look);
  connect(sheet, &SheetPage::said, this, [this](const QString& m) { say(m); });
  connect(sheet, &SheetPage::told, this, [this](const QString& m) { say(m, true); });
  connect(sheet, &SheetPage::menuAsked, this, &MainWindow::openSheetMenu);
  connect(sheet, &SheetPage::copyFileAsked, this, &MainWindow::writeWorkingCopy);
  connect(sheet, &SheetPage::printFileAsked, this, &MainWindow::writePages);
  connect(sheet, &SheetPage::printerAsked, this, &MainWindow::printPages);
  connect(sheet, &SheetPage::commandAsked, this, [this](const char* command) { commands_->run(command); });
  connect(sheet, &SheetPage::offered, this,
          [this](const QString& m, const QString& action, const std::function<void()>& act) {
            messages_->offer(m, action, act);
          });
  connect(&sheet->model().source(), &RecordSource::aboutToRestart, messages_, &Messages::acted);
  connect(sheet, &SheetPage::titleChanged, this, &MainWindow::updateTabs);
  connect(sheet, &SheetPage::openAsked, this, [this, sheet](const Scope& scope) {
    const SheetLook from = sheet->look();
    SheetPage* opened = openScope(scope);
    if (opened != nullptr && from.record) way_.push_back({sheet, *from.record, from.column, opened, scope});
  });
  pages_->addWidget(sheet);
  sheets_.push_back(sheet);
  return sheet;
}

void MainWindow::closeSheet() {
  SheetPage* sheet = currentSheet();
  dropSheet(sheet);
  showPage(sheets_.empty() ? static_cast<QWidget*>(catalogue_) : sheets_.back());
  updateTabs();
}

void MainWindow::dropSheet(SheetPage* sheet) {
  keepLayouts();
  sheets_.erase(std::find(sheets_.begin(), sheets_.end(), sheet));
  sheet->deleteLater();
}

void MainWindow::refreshSheets() {
  for (SheetPage* sheet : sheets_) sheet->readAgain();
  desk_->forgetReferences();
}

// --- scopes ----------------------------------------------------------------------------------------------------------

std::vector<CommandPalette::Entry> MainWindow::scopeEntries(const std::function<void(const SavedScope&)>& run) const {
  std::vector<CommandPalette::Entry> out;
  for (const SavedScope& saved : desk_->kept().scopes()) {
    out.push_back(
        {toQ(saved.name), tr("saved scope of %1").arg(toQ(saved.scope.table)), true, [run, saved] { run(saved); }});
  }
  return out;
}

void MainWindow::saveScope() {
  SheetPage* sheet = currentSheet();
  const auto save = [this, sheet](const QString& name) {
    const Scope scope = sheet->scope().scope();
    desk_->kept().saveScope({name.toStdString(), scope});
    sheet->setScopeName(name, scope);
    say(tr("Saved as “%1”. It is on the catalogue page, and opens from there or by its name (Ctrl+K).").arg(name),
        true);
  };
  std::vector<CommandPalette::Entry> there = scopeEntries([save](const SavedScope& saved) { save(toQ(saved.name)); });
  for (CommandPalette::Entry& entry : there) entry.aside = tr("saved already; Down and Enter replaces it");
  palette_->ask(tr("Under which name?"), sheet->scopeName(), std::move(there), save);
}

void MainWindow::exportScope() {
  SheetPage* sheet = currentSheet();
  const QString name = sheet->title().remove(QStringLiteral(" …"));
  const auto path =
      exportDocument(this, {tr("Export this scope as a file"), tr("Scopes (*.json)")},
                     name + QStringLiteral(".scope.json"), scopeToJson(name.toStdString(), sheet->scope().scope()));
  if (!path) return say(tr("The scope could not be written: %1").arg(toQ(path.error().message)));
  if (*path) say(tr("Written to %1.").arg(**path), true);
}

void MainWindow::importScope() {
  constexpr std::int64_t kMostBytes = 1 << 20;
  const auto file = importDocument(this, {tr("Import a scope from a file"), tr("Scopes (*.json)")}, kMostBytes);
  const auto refuse = [this](const QString& path, const std::string& why) {
    say(tr("%1 cannot be read as a scope: %2").arg(path, toQ(why)));
  };
  if (!file) return refuse(toQ(file.error().place), file.error().message);
  if (!*file) return;
  const auto scope = scopeFromJson((*file)->text);
  if (!scope) return refuse((*file)->path, scope.error().text());
  // Kept first, so that it is not lost where the database has no such table just now.
  const std::string name = scope->first.empty() ? scope->second.table : scope->first;
  desk_->kept().saveScope({name, scope->second});
  openScope(scope->second, toQ(name));
}

// --- columns of others
// ------------------------------------------------------------------------------------------------

void MainWindow::eachLent(const Table& table, const std::function<void(const ColumnPath&, const Column&)>& each) const {
  constexpr std::size_t kMostSteps = 3;
  const Catalogue& catalogue = desk_->catalogue();
  // The nearest first.
  std::vector<std::vector<ReferenceStep>> ways{{}};
  for (std::size_t w = 0; w < ways.size(); ++w) {
    const std::vector<ReferenceStep> way = ways[w];
    const Table& here = way.empty() ? table : *way.back().target;
    if (way.size() == kMostSteps) continue;
    for (const ReferenceStep& step : lendingSteps(here, catalogue)) {
      std::vector<ReferenceStep> further = way;
      further.push_back(step);
      for (const Column& c : step.target->columns) each({further, c.name}, c);
      ways.push_back(std::move(further));
    }
  }
}

void MainWindow::borrowColumn() {
  SheetPage* sheet = currentSheet();
  std::vector<CommandPalette::Entry> entries;
  eachLent(sheet->table(), [&](const ColumnPath& path, const Column& c) {
    entries.push_back({toQ(columnPathText(path)), c.comment.empty() ? kindInWords(c) : toQ(c.comment), true,
                       [sheet = QPointer(sheet), path] {
                         if (sheet) sheet->borrow(path);
                       }});
  });
  if (entries.empty()) {
    return say(tr("Records of %1 point at nothing that a column could be borrowed from. What a column points at can be "
                  "stated (Ctrl+K, “State what this column points at”).")
                   .arg(toQ(sheet->table().name.name)));
  }
  palette_->open(std::move(entries), tr("Borrow which column?"));
}

// By a column whether it is shown or not, besides what decides already.
void MainWindow::sortByAny() {
  SheetPage* sheet = currentSheet();
  std::vector<CommandPalette::Entry> entries;
  const auto add = [&](const ColumnPath& path) {
    const std::string name = columnPathText(path);
    entries.push_back({toQ(name), {}, true, [sheet = QPointer(sheet), name] {
                         if (!sheet) return;
                         std::vector<ScopeOrder> order = sheet->scope().order();
                         std::erase_if(order, [&](const ScopeOrder& o) { return o.column == name; });
                         order.push_back({name});
                         sheet->scope().setOrder(std::move(order));
                       }});
  };
  for (const Column& c : sheet->table().columns) add({{}, c.name});
  eachLent(sheet->table(), [&](const ColumnPath& path, const Column&) { add(path); });
  palette_->open(std::move(entries), tr("Then sort by which column?"));
}

void MainWindow::showHiddenColumn() {
  SheetPage* sheet = currentSheet();
  std::vector<CommandPalette::Entry> entries;
  for (int c = 0; c < sheet->model().columnCount(); ++c) {
    const bool hidden = sheet->view().isColumnHidden(c);
    entries.push_back({sheet->model().columnName(c), hidden ? tr("hidden") : tr("shown: goes there"), true,
                       [sheet = QPointer(sheet), c] {
                         if (sheet) sheet->showColumn(c);
                       }});
  }
  palette_->open(std::move(entries), tr("Show or go to which column?"));
}

void MainWindow::chooseReadable() {
  SheetPage* sheet = currentSheet();
  SheetModel& model = sheet->model();
  const int column = sheet->view().currentIndex().column();
  const Reference* reference = column < 0 ? nullptr : model.reference(column);
  const Table* target = reference == nullptr ? nullptr : desk_->catalogue().find(reference->target);
  if (target == nullptr) return say(tr("This column points at nothing."));
  std::vector<CommandPalette::Entry> entries;
  const std::vector<std::string> now = desk_->names().readable(*target);
  for (const Column& c : target->columns) {
    const bool used = std::find(now.begin(), now.end(), c.name) != now.end();
    entries.push_back({toQ(c.name), used ? tr("used now") : QString(), true,
                       [this, target, name = c.name] { desk_->kept().chooseReadable(*target, {name}); }});
    if (!used && !now.empty()) {
      entries.push_back(
          {toQ(now.front() + " · " + c.name), tr("both"), true, [this, target, first = now.front(), name = c.name] {
             desk_->kept().chooseReadable(*target, {first, name});
           }});
    }
  }
  entries.push_back({tr("As it was at first"), tr("chosen by itself"), true,
                     [this, target] { desk_->kept().chooseReadable(*target, {}); }});
  palette_->open(std::move(entries), tr("Call records of %1 by what?").arg(toQ(target->name.name)));
}

void MainWindow::stateReference() {
  SheetPage* sheet = currentSheet();
  const int column = sheet->view().currentIndex().column();
  if (column < 0 || sheet->model().isBorrowed(column)) return say(tr("Go to a column of the table itself first."));
  std::vector<CommandPalette::Entry> entries;
  const std::string own = sheet->model().column(column).name;
  for (const Table& target : desk_->catalogue().tables()) {
    for (const Column& c : target.columns) {
      const StatedReference reference{sheet->table().name, own, target.name, c.name};
      if (!desk_->catalogue().cannotState(reference).empty()) continue;
      entries.push_back({toQ(displayName(target.name) + "." + c.name), tr("one record each"), true,
                         [this, reference] { desk_->kept().stateReference(reference); }});
    }
  }
  if (entries.empty()) return say(tr("%1 points at something already, or there is no key to point at.").arg(toQ(own)));
  palette_->open(std::move(entries), tr("What does %1 point at?").arg(toQ(own)));
}

void MainWindow::forgetReference() {
  std::vector<CommandPalette::Entry> entries;
  for (const StatedReference& r : desk_->kept().statedReferences()) {
    entries.push_back({toQ(displayName(r.table) + "." + r.column),
                       toQ("→ " + displayName(r.target) + "." + r.targetColumn), true,
                       [this, r] { desk_->kept().forgetReference(r); }});
  }
  palette_->open(std::move(entries), tr("Forget which?"));
}

}  // namespace iterandum
