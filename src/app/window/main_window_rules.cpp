// MainWindow: house rules: stated from a sheet, shown, exported, imported.
#include "app/sheet/sheet_page.h"
#include "app/window/document_files.h"
#include "app/window/main_window.h"
#include "app/window/messages.h"

namespace iterandum {

std::vector<CommandPalette::Entry> MainWindow::ruleEntries(const std::function<void(const HouseRule&)>& run) const {
  std::vector<CommandPalette::Entry> out;
  for (const HouseRule& rule : desk_->kept().houseRules()) {
    const QString level = rule.stops ? tr("stops") : tr("warns");
    const QString aside = tr("%1, %2: %3").arg(toQ(rule.table), level, toQ(rule.holds));
    out.push_back({toQ(rule.name), aside, true, [run, rule] { run(rule); }});
  }
  return out;
}

void MainWindow::stateRule(bool stops) {
  SheetPage* sheet = currentSheet();
  const Scope scope = sheet->scope().scope();
  std::vector<ScopeProblem> problems;
  const auto read = readScope(scope, desk_->conditions(), problems);
  if (!read || !problems.empty()) return say(tr("The sentence cannot be read; mend it first."));
  const Condition where = read->where();
  if (where.op == Condition::Op::All) {
    return say(
        tr("This shows all records. Leave those that must not be, by a filter or the sentence; then state the rule."));
  }
  HouseRule rule;
  rule.table = displayName(sheet->table().name);
  rule.stops = stops;
  rule.holds = "not (" + conditionInWords(sheet->table(), where) + ")";
  // What only the desk knows (staged, applied just now) is nothing that a record could hold.
  if (const auto held = readRule(rule, contextNow(desk_->catalogue())); !held) {
    return say(tr("This cannot be a house rule: %1").arg(toQ(held.error().message)));
  }
  const auto keep = [this, rule](const QString& name) {
    HouseRule named = rule;
    named.name = name.toStdString();
    desk_->kept().saveHouseRules({named});
    say(tr("“%1” is a house rule now: the review holds to it. %2 shows what breaks it.")
            .arg(name, QKeySequence(tr("Ctrl+Shift+P")).toString(QKeySequence::NativeText)),
        true);
  };
  std::vector<CommandPalette::Entry> there = ruleEntries([keep](const HouseRule& r) { keep(toQ(r.name)); });
  for (CommandPalette::Entry& entry : there) entry.aside = tr("there already; Down and Enter replaces it");
  palette_->ask(tr("What is the rule called?"), toQ("not " + conditionInWords(sheet->table(), where)), std::move(there),
                keep);
}

void MainWindow::showBreaking(const HouseRule& rule) {
  const auto read = readRule(rule, contextNow(desk_->catalogue()));
  if (!read) return say(tr("It is not held to: %1").arg(toQ(read.error().text())));
  if (asksBefore(read->holds)) {
    return say(tr("“%1” speaks of what a record held before a change: only a review can tell.").arg(toQ(rule.name)));
  }
  Scope scope;
  scope.table = rule.table;
  scope.filters.push_back({{}, conditionInWords(*read->table, breaks(*read))});
  openScope(scope);
}

void MainWindow::exportRules() {
  const auto path = exportDocument(this, {tr("Export the house rules as a file"), tr("House rules (*.json)")},
                                   QStringLiteral("house.rules.json"), rulesToJson(desk_->kept().houseRules()));
  if (!path) return say(tr("The house rules could not be written: %1").arg(toQ(path.error().message)));
  if (*path) say(tr("Written to %1.").arg(**path), true);
}

void MainWindow::importRules() {
  constexpr std::int64_t kMostBytes = 4 << 20;
  const auto file =
      importDocument(this, {tr("Import house rules from a file"), tr("House rules (*.json)")}, kMostBytes);
  const auto refuse = [this](const QString& path, const std::string& why) {
    say(tr("%1 cannot be read as house rules: %2").arg(path, toQ(why)));
  };
  if (!file) return refuse(toQ(file.error().place), file.error().message);
  if (!*file) return;
  const auto rules = rulesFromJson((*file)->text);
  if (!rules) return refuse((*file)->path, rules.error().text());
  desk_->kept().saveHouseRules(*rules);
  // Those that this database has no place for are kept, and said.
  std::vector<std::string> unread;
  (void)readableRules(*rules, contextNow(desk_->catalogue()), unread);
  if (!unread.empty()) return say(tr("Kept, but not held to: %1").arg(toQ(unread.front())));
  say(tr("%n house rule(s) kept; the review holds to them.", "", static_cast<int>(rules->size())), true);
}

}  // namespace iterandum
