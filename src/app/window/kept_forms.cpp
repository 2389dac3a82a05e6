// KeptCommands: how the fields of a card lie: words asked for, forms as files.
#include "app/card/card_panel.h"
#include "app/sheet/sheet_page.h"
#include "app/window/commands.h"
#include "app/window/document_files.h"
#include "app/window/kept_commands.h"
#include "app/window/main_window.h"

namespace iterandum {

// How the card's fields lie.
void KeptCommands::addForms(Commands& c) {
  const auto card = [this] { return window_.currentSheet() != nullptr && window_.currentSheet()->card().isVisible(); };
  const auto field = [this, card] { return card() && window_.currentSheet()->card().arrangedColumn().has_value(); };
  const auto move = [this](int step) {
    return [this, step] {
      arrangeField([step](Form& form, const std::string& column) { moveField(form, column, step); });
    };
  };
  c.addTold("form.up", tr("This field further up on the card"), tr("Alt+Up"), move(-1), field);
  c.addTold("form.down", tr("This field further down on the card"), tr("Alt+Down"), move(1), field);
  c.add(
      "form.label", tr("What this field is called on the card"), {}, [this] { askFieldLabel(); }, field);
  c.add(
      "form.hint", tr("A hint below this field"), {}, [this] { askFieldHint(); }, field);
  c.add(
      "form.heading", tr("A heading above this field"), {}, [this] { askFieldHeading(); }, field);
  c.add(
      "form.leave-out", tr("Leave this field out of the card"), {},
      [this] { arrangeField([](Form& form, const std::string& column) { leaveOutField(form, column); }); }, field);
  const auto leftOut = [this, card] {
    return card() && !window_.desk()->kept().form(window_.currentSheet()->table()).leftOut.empty();
  };
  c.add(
      "form.show-all", tr("Show the fields that were left out of the card"), {},
      [this] { window_.currentSheet()->card().arrange([](Form& form) { showAllFields(form); }); }, leftOut);
  const auto any = [this] { return window_.desk() != nullptr && !window_.desk()->kept().forms().empty(); };
  c.add(
      "form.plain", tr("The card's fields as the table has them"), {},
      [this] { window_.desk()->kept().forgetForm(window_.currentSheet()->table()); },
      [card, any] { return card() && any(); });
  c.add(
      "form.export", tr("Export the forms as a file"), {}, [this] { exportForms(); }, any);
  c.add(
      "form.import", tr("Import forms from a file"), {}, [this] { importForms(); },
      [this] { return window_.desk() != nullptr; });
}

void KeptCommands::arrangeField(const std::function<void(Form&, const std::string& column)>& how) {
  CardPanel& card = window_.currentSheet()->card();
  const auto column = card.arrangedColumn();
  if (!column) return;
  const std::string name = window_.currentSheet()->model().column(*column).name;
  card.arrange([&](Form& form) { how(form, name); });
}

void KeptCommands::askFieldLabel() {
  const FormField field = window_.currentSheet()->card().arrangedField();
  const auto set = [this](const QString& text) {
    arrangeField([&](Form& form, const std::string& column) { labelField(form, column, text.toStdString()); });
  };
  palette_.askOrNone(tr("What is %1 called on the card? (empty: as the column)").arg(toQ(field.column)),
                     toQ(field.label), set);
}

void KeptCommands::askFieldHint() {
  const FormField field = window_.currentSheet()->card().arrangedField();
  const auto set = [this](const QString& text) {
    arrangeField([&](Form& form, const std::string& column) { hintField(form, column, text.toStdString()); });
  };
  palette_.askOrNone(tr("What is to be known when %1 is filled in? (empty: no hint)").arg(toQ(field.column)),
                     toQ(field.hint), set);
}

void KeptCommands::askFieldHeading() {
  const CardPanel& card = window_.currentSheet()->card();
  const auto set = [this](const QString& text) {
    arrangeField([&](Form& form, const std::string& column) { headField(form, column, text.toStdString()); });
  };
  palette_.askOrNone(tr("The heading above %1 and what follows (empty: none)").arg(toQ(card.arrangedField().column)),
                     card.arrangedHeading(), set);
}

void KeptCommands::exportForms() {
  const auto path = exportDocument(&window_, {tr("Export the forms as a file"), tr("Forms (*.json)")},
                                   QStringLiteral("forms.json"), formsToJson(window_.desk()->kept().forms()));
  if (!path) return window_.say(tr("The forms could not be written: %1").arg(toQ(path.error().message)));
  if (*path) window_.say(tr("Written to %1.").arg(**path), true);
}

void KeptCommands::importForms() {
  constexpr std::int64_t kMostBytes = 4 << 20;
  const auto file = importDocument(&window_, {tr("Import forms from a file"), tr("Forms (*.json)")}, kMostBytes);
  const auto refuse = [this](const QString& path, const std::string& why) {
    window_.say(tr("%1 cannot be read as forms: %2").arg(path, toQ(why)));
  };
  if (!file) return refuse(toQ(file.error().place), file.error().message);
  if (!*file) return;
  const auto forms = formsFromJson((*file)->text);
  if (!forms) return refuse((*file)->path, forms.error().text());
  window_.desk()->kept().saveForms(*forms);
  for (const Form& form : *forms) {
    const auto name = parseTableName(form.table);
    const Table* table = name ? window_.desk()->catalogue().find(*name) : nullptr;
    if (table == nullptr) return window_.say(tr("Kept, but there is no table %1 here.").arg(toQ(form.table)));
    const std::vector<std::string> gone = goneFrom(form, *table);
    if (!gone.empty())
      return window_.say(
          tr("Kept; %1 has no column %2, which is passed over.").arg(toQ(form.table), toQ(gone.front())));
  }
  window_.say(tr("%n form(s) taken over.", "", static_cast<int>(forms->size())), true);
}

}  // namespace iterandum
