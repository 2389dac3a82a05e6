// MainWindow: how the fields of a card lie: words asked for, forms as files.
#include "app/card/card_panel.h"
#include "app/sheet/sheet_page.h"
#include "app/window/document_files.h"
#include "app/window/main_window.h"
#include "app/window/messages.h"

namespace iterandum {

void MainWindow::arrangeField(const std::function<void(Form&, const std::string& column)>& how) {
  CardPanel& card = currentSheet()->card();
  const auto column = card.arrangedColumn();
  if (!column) return;
  const std::string name = currentSheet()->model().column(*column).name;
  card.arrange([&](Form& form) { how(form, name); });
}

void MainWindow::askFieldLabel() {
  const FormField field = currentSheet()->card().arrangedField();
  const auto set = [this](const QString& text) {
    arrangeField([&](Form& form, const std::string& column) { labelField(form, column, text.toStdString()); });
  };
  palette_->askOrNone(tr("What is %1 called on the card? (empty: as the column)").arg(toQ(field.column)),
                      toQ(field.label), set);
}

void MainWindow::askFieldHint() {
  const FormField field = currentSheet()->card().arrangedField();
  const auto set = [this](const QString& text) {
    arrangeField([&](Form& form, const std::string& column) { hintField(form, column, text.toStdString()); });
  };
  palette_->askOrNone(tr("What is to be known when %1 is filled in? (empty: no hint)").arg(toQ(field.column)),
                      toQ(field.hint), set);
}

void MainWindow::askFieldHeading() {
  const CardPanel& card = currentSheet()->card();
  const auto set = [this](const QString& text) {
    arrangeField([&](Form& form, const std::string& column) { headField(form, column, text.toStdString()); });
  };
  palette_->askOrNone(tr("The heading above %1 and what follows (empty: none)").arg(toQ(card.arrangedField().column)),
                      card.arrangedHeading(), set);
}

void MainWindow::exportForms() {
  const auto path = exportDocument(this, {tr("Export the forms as a file"), tr("Forms (*.json)")},
                                   QStringLiteral("forms.json"), formsToJson(desk_->kept().forms()));
  if (!path) return say(tr("The forms could not be written: %1").arg(toQ(path.error().message)));
  if (*path) say(tr("Written to %1.").arg(**path), true);
}

void MainWindow::importForms() {
  constexpr std::int64_t kMostBytes = 4 << 20;
  const auto file = importDocument(this, {tr("Import forms from a file"), tr("Forms (*.json)")}, kMostBytes);
  const auto refuse = [this](const QString& path, const std::string& why) {
    say(tr("%1 cannot be read as forms: %2").arg(path, toQ(why)));
  };
  if (!file) return refuse(toQ(file.error().place), file.error().message);
  if (!*file) return;
  const auto forms = formsFromJson((*file)->text);
  if (!forms) return refuse((*file)->path, forms.error().text());
  desk_->kept().saveForms(*forms);
  for (const Form& form : *forms) {
    const auto name = parseTableName(form.table);
    const Table* table = name ? desk_->catalogue().find(*name) : nullptr;
    if (table == nullptr) return say(tr("Kept, but there is no table %1 here.").arg(toQ(form.table)));
    const std::vector<std::string> gone = goneFrom(form, *table);
    if (!gone.empty())
      return say(tr("Kept; %1 has no column %2, which is passed over.").arg(toQ(form.table), toQ(gone.front())));
  }
  say(tr("%n form(s) taken over.", "", static_cast<int>(forms->size())), true);
}

}  // namespace iterandum
