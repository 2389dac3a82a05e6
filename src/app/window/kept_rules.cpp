// KeptCommands: house rules: stated from a sheet, shown, exported, imported.
#include "app/sheet/sheet_page.h"
#include "app/window/commands.h"
#include "app/window/document_files.h"
#include "app/window/kept_commands.h"
#include "app/window/main_window.h"

namespace iterandum {

void KeptCommands::addRules(Commands& c) {
  const auto open = [this] { return window_.desk() != nullptr; };
  const auto sheet = [this] { return window_.currentSheet() != nullptr; };
  const auto any = [this] { return window_.desk() != nullptr && !window_.desk()->kept().houseRules().empty(); };
  c.under(tr("House rules"));
  c.add(
      "rule.state", tr("House rule: no record may be like these"), keys(tr("Ctrl+Shift+X")),
      [this] { stateRule(true); }, sheet);
  c.add(
      "rule.warn", tr("House rule: warn of records like these"), {}, [this] { stateRule(false); }, sheet);
  const auto choose = [this](const QString& prompt, const std::function<void(const HouseRule&)>& run) {
    return [this, prompt, run] { palette_.open(ruleEntries(run), prompt); };
  };
  c.add("rule.show", tr("Records that break a house rule"), keys(tr("Ctrl+Shift+P")),
        choose(tr("That break which rule?"), [this](const HouseRule& r) { showBreaking(r); }), any);
  c.add(
      "rule.forget", tr("Forget a house rule"), {},
      choose(tr("Forget which rule?"), [this](const HouseRule& r) { window_.desk()->kept().forgetHouseRule(r.name); }),
      any);
  c.add(
      "rule.export", tr("Export the house rules as a file"), {}, [this] { exportRules(); }, any);
  c.add(
      "rule.import", tr("Import house rules from a file"), {}, [this] { importRules(); }, open);
}

std::vector<CommandPalette::Entry> KeptCommands::ruleEntries(const std::function<void(const HouseRule&)>& run) const {
  std::vector<CommandPalette::Entry> out;
  for (const HouseRule& rule : window_.desk()->kept().houseRules()) {
    const QString level = rule.stops ? tr("stops") : tr("warns");
    const QString aside = tr("%1, %2: %3").arg(toQ(rule.table), level, toQ(rule.holds));
    out.push_back({toQ(rule.name), aside, true, [run, rule] { run(rule); }});
  }
  return out;
}

void KeptCommands::stateRule(bool stops) {
  SheetPage* sheet = window_.currentSheet();
  const Scope scope = sheet->scope().scope();
  std::vector<ScopeProblem> problems;
  const auto read = readScope(scope, window_.desk()->conditions(), problems);
  if (!read || !problems.empty()) return window_.say(tr("The sentence cannot be read; mend it first."));
  const Condition where = read->where();
  if (where.op == Condition::Op::All) {
    return window_.say(
        tr("This shows all records. Leave those that must not be, by a filter or the sentence; then state the rule."));
  }
  HouseRule rule;
  rule.table = displayName(sheet->table().name);
  rule.stops = stops;
  rule.holds = "not (" + conditionInWords(sheet->table(), where) + ")";
  // What only the desk knows (staged, applied just now) is nothing that a record could hold.
  if (const auto held = readRule(rule, contextNow(window_.desk()->catalogue())); !held) {
    return window_.say(tr("This cannot be a house rule: %1").arg(toQ(held.error().message)));
  }
  const auto keep = [this, rule](const QString& name) {
    HouseRule named = rule;
    named.name = name.toStdString();
    window_.desk()->kept().saveHouseRules({named});
    window_.say(tr("“%1” is a house rule now: the review holds to it. %2 shows what breaks it.")
                    .arg(name, QKeySequence(tr("Ctrl+Shift+P")).toString(QKeySequence::NativeText)),
                true);
  };
  std::vector<CommandPalette::Entry> there = ruleEntries([keep](const HouseRule& r) { keep(toQ(r.name)); });
  for (CommandPalette::Entry& entry : there) entry.aside = tr("there already; Down and Enter replaces it");
  palette_.ask(tr("What is the rule called?"), toQ("not " + conditionInWords(sheet->table(), where)), std::move(there),
               keep);
}

void KeptCommands::showBreaking(const HouseRule& rule) {
  const auto read = readRule(rule, contextNow(window_.desk()->catalogue()));
  if (!read) return window_.say(tr("It is not held to: %1").arg(toQ(read.error().text())));
  if (asksBefore(read->holds)) {
    return window_.say(
        tr("“%1” speaks of what a record held before a change: only a review can tell.").arg(toQ(rule.name)));
  }
  Scope scope;
  scope.table = rule.table;
  scope.filters.push_back({{}, conditionInWords(*read->table, breaks(*read))});
  window_.openScope(scope);
}

void KeptCommands::exportRules() {
  const auto path =
      exportDocument(&window_, {tr("Export the house rules as a file"), tr("House rules (*.json)")},
                     QStringLiteral("house.rules.json"), rulesToJson(window_.desk()->kept().houseRules()));
  if (!path) return window_.say(tr("The house rules could not be written: %1").arg(toQ(path.error().message)));
  if (*path) window_.say(tr("Written to %1.").arg(**path), true);
}

void KeptCommands::importRules() {
  constexpr std::int64_t kMostBytes = 4 << 20;
  const auto file =
      importDocument(&window_, {tr("Import house rules from a file"), tr("House rules (*.json)")}, kMostBytes);
  const auto refuse = [this](const QString& path, const std::string& why) {
    window_.say(tr("%1 cannot be read as house rules: %2").arg(path, toQ(why)));
  };
  if (!file) return refuse(toQ(file.error().place), file.error().message);
  if (!*file) return;
  const auto rules = rulesFromJson((*file)->text);
  if (!rules) return refuse((*file)->path, rules.error().text());
  window_.desk()->kept().saveHouseRules(*rules);
  // Those that this database has no place for are kept, and said.
  std::vector<std::string> unread;
  (void)readableRules(*rules, contextNow(window_.desk()->catalogue()), unread);
  if (!unread.empty()) return window_.say(tr("Kept, but not held to: %1").arg(toQ(unread.front())));
  window_.say(tr("%n house rule(s) kept; the review holds to them.", "", static_cast<int>(rules->size())), true);
}

}  // namespace iterandum
