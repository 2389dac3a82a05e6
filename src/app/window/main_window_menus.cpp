// MainWindow: menus, each made of the commands that fit the place.
#include <QCursor>
#include <QMenu>
#include <QPushButton>
#include <QStackedWidget>

#include "app/history/history_page.h"
#include "app/review/review_page.h"
#include "app/sheet/sheet_page.h"
#include "app/window/commands.h"
#include "app/window/main_window.h"
#include "app/window/messages.h"

namespace iterandum {

// A menu that is gone when it closes.
QMenu* MainWindow::newMenu(const char* name) {
  auto* menu = new QMenu(this);
  menu->setObjectName(QLatin1String(name));
  menu->setAttribute(Qt::WA_DeleteOnClose);
  return menu;
}

void MainWindow::openMenuOfAll() {
  QMenu* menu = newMenu("menuOfAll");
  commands_->fillWithAll(*menu);
  menu->popup(title_->mapToGlobal(QPoint(0, title_->height())));
}

void MainWindow::openSheetMenu(SheetPage::Place place, const QPoint& where) {
  QMenu* menu = nullptr;
  Commands& c = *commands_;
  switch (place) {
    case SheetPage::Place::Cells:
      menu = newMenu("cellMenu");
      c.fill(*menu, {"cell.edit", "cell.cut", "cell.copy", "cell.paste"});
      c.fillBelow(*menu, tr("Copy otherwise"), {"cell.copy-heads", "cell.copy-stored"});
      c.fill(*menu, {"", "filter.only", "filter.not", "", "many.change"});
      c.fillBelow(*menu, tr("Fill and clear"),
                  {"cell.no-value", "cell.fill-down", "cell.fill-right", "cell.fill-series"});
      c.fill(*menu, {"", "reference.follow", "record.remove"});
      c.fillBelow(*menu, tr("More about this record"),
                  {"record.remove-with", "record.merge", "record.put-back", "review.part", "record.add",
                   "record.duplicate", "record.duplicate-with", "", "file.export-selected",
                   "file.export-selected-shown", "", "cell.whole", "record.history", "card.go", "card.alone"});
      break;
    case SheetPage::Place::Margin:
      menu = newMenu("marginMenu");
      c.fill(*menu, {"record.remove",
                     "record.remove-with",
                     "record.merge",
                     "record.doubles",
                     "record.put-back",
                     "review.part",
                     "record.add",
                     "record.duplicate",
                     "record.duplicate-with",
                     "",
                     "cell.copy",
                     "file.export-selected",
                     "file.export-selected-shown",
                     "",
                     "record.history",
                     "card.go",
                     "card.alone",
                     "",
                     "mark.next",
                     "mark.previous",
                     "filter.staged",
                     "select.all"});
      break;
    case SheetPage::Place::Head:
      menu = newMenu("columnMenu");
      c.fill(*menu, {"column.values", "filter.column", "find.column", "select.column", "", "sort", "sort.also", "",
                     "many.change", "many.replace", "record.doubles", "column.borrow", "column.lens", "", "column.hide",
                     "column.show-all"});
      c.fillBelow(*menu, tr("How it lies"),
                  {"column.fit", "column.wider", "column.narrower", "column.left", "column.right", "column.freeze",
                   "column.show", "reference.readable", "sort.any"});
      break;
    case SheetPage::Place::Sentence:
      menu = newMenu("sentenceMenu");
      c.fill(*menu, {"sentence.add", "sentence.change", "filter.staged", "filter.finding", "filter.clear", "",
                     "sort.any", "sheet.read", "", "scope.save", "scope.open"});
      c.fillBelow(*menu, tr("Files and house rules"),
                  {"file.stage", "file.clipboard", "file.hand-out", "file.export", "file.export-shown", "print", "",
                   "rule.state", "rule.warn", "rule.show"});
      c.fillBelow(*menu, tr("More about this sheet"),
                  {"scope.export", "scope.import", "scope.forget", "", "sheet.another", "sheet.stop", "sheet.close"});
      break;
    case SheetPage::Place::Card:
      menu = newMenu("cardMenu");
      c.fill(*menu, {"cell.copy", "cell.no-value", "", "reference.follow", "record.history", "column.lens", ""});
      c.fillBelow(*menu, tr("How the card is laid out"),
                  {"form.up", "form.down", "form.label", "form.hint", "form.heading", "form.leave-out", "",
                   "form.show-all", "form.plain", "", "form.export", "form.import"});
      c.fill(*menu, {"", "record.add", "record.remove", "card.alone"});
      break;
  }
  menu->popup(where);
}

void MainWindow::openReviewMenu(const QPoint& where) {
  QMenu* menu = newMenu("groupMenu");
  commands_->fill(*menu, {"review.go", "review.records", "review.statements", "review.effects", "", "review.part",
                          "review.put-group-back", "mark.next", "", "review.title", "review.comment", "review.sign",
                          "rehearse", "apply", "save-change-file", "open-change-file", "print", "put-all-back"});
  menu->popup(where);
}

void MainWindow::openReceiptMenu(const QPoint& where) {
  QMenu* menu = newMenu("receiptMenu");
  commands_->fill(*menu, {"receipt.take-back", "print", "", "receipt.check", "receipt.write-all", "receipt.take-in", "",
                          "review", "catalogue"});
  menu->popup(where);
}

// What was said, to be read again.
void MainWindow::showMessages() {
  std::vector<CommandPalette::Entry> entries;
  for (const Messages::Said& said : messages_->soFar()) {
    entries.push_back({said.text, said.at.toString(QStringLiteral("HH:mm:ss")), true,
                       [this, said] { messages_->say(said.text, said.good); }});
  }
  if (entries.empty()) return say(tr("Nothing was said so far."), true);
  palette_->open(std::move(entries), tr("Messages so far"));
}

}  // namespace iterandum
