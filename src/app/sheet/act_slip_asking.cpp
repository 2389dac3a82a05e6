// ActSlip: from what its fields say to acts, their proof, and what is staged.
#include <QCheckBox>
#include <QComboBox>
#include <QFileDialog>
#include <QFileInfo>
#include <QLabel>
#include <QLineEdit>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QRadioButton>
#include <QRegularExpression>
#include <QTimer>
#include <algorithm>
#include <utility>

#include "app/sheet/act_slip.h"
#include "app/sheet/listed_changes.h"
#include "app/style/roles.h"
#include "app/values/shown_value.h"
#include "app/values/typed_text.h"
#include "core/files/value_list.h"

namespace iterandum {
namespace {

// A column inside an expression.
QString bracketed(const QString& name) {
  QString out = name;
  return QStringLiteral("[%1]").arg(out.replace(QLatin1String("]"), QLatin1String("]]")));
}

std::string textOfField(const QString& text) { return text.toStdString(); }

}  // namespace

std::vector<RowRange> ActSlip::meant() const {
  if (selected_->isChecked()) return ranges_;
  return {{0, model_.rowCount() - 1}};
}

// A button that waits for the proof cannot have the keys yet.
void ActSlip::goToStage() {
  toStage_ = !stage_->isEnabled();
  if (!toStage_) stage_->setFocus();
}

void ActSlip::askSoon() {
  ++asked_;
  toStage_ = false;
  preview_->stop();
  // The proof stays to be seen until there is another one; it is no proof of what is typed now.
  stage_->setEnabled(false);
  soon_->start();
}

void ActSlip::say(const QString& words, bool amiss) {
  if (!preview_->isAsked()) update();
  hint_->setText(words);
  hint_->setStyleSheet(QStringLiteral("color: %1;").arg(css(amiss ? roles().query : roles().soft)));
  hint_->setVisible(!words.isEmpty());
}

// Lines "old → new", or two fields with a tab between, as spreadsheets copy them. What is empty is no value, "" is
// empty text.
Result<Act> ActSlip::readList(Act act, const QString& text) {
  const QStringList lines = text.split(QLatin1Char('\n'));
  for (int i = 0; i < lines.size(); ++i) {
    const QString& line = lines[i];
    if (line.trimmed().isEmpty()) continue;
    QStringList parts = line.split(QLatin1Char('\t'));
    for (const char* arrow : {"→", "->", "=>"}) {
      if (parts.size() < 2) parts = line.split(QString::fromUtf8(arrow));
    }
    if (parts.size() != 2) {
      return fail(ErrorKind::InvalidInput, tr("line %1: old → new is wanted").arg(i + 1).toStdString());
    }
    const bool tabbed = line.contains(QLatin1Char('\t'));
    const auto field = [&](const QString& part) {
      const QString meant = tabbed ? part : part.trimmed();
      if (meant == QLatin1String("\"\"")) return TypedOrNone(std::string());
      return meant.isEmpty() ? TypedOrNone() : TypedOrNone(meant.toStdString());
    };
    act.map.emplace_back(field(parts[0]), field(parts[1]));
  }
  return act;
}

// The list as if it were pasted.
void ActSlip::listFromFile() {
  // What is still to be asked would wipe out what is said of the file.
  if (soon_->isActive()) {
    soon_->stop();
    ask();
  }
  const QString path = QFileDialog::getOpenFileName(this, tr("A list of old and new values"), QString(),
                                                    tr("Lists (*.csv *.tsv *.txt);;All files (*)"));
  if (path.isEmpty()) return;
  constexpr qint64 kMostBytes = 16 << 20;
  if (QFileInfo(path).size() > kMostBytes)
    return say(tr("That file is too large for a list (%1 MB at most).").arg(kMostBytes >> 20), true);
  const auto content = contentOf(path);
  if (!content) return say(toQ(content.error().text()), true);
  const auto list = readMap(*content);
  if (!list) return say(toQ(list.error().text()), true);
  QStringList lines;
  for (const auto& [from, to] : *list) {
    QStringList fields;
    for (const TypedOrNone& field : {from, to}) {
      const QString text = field ? toQ(*field) : QString();
      if (text.contains(QLatin1Char('\t')) || text.contains(QLatin1Char('\n')))
        return say(tr("“%1” has a line end or a tab in it, which a list here cannot have.").arg(text), true);
      fields << (field && field->empty() ? QStringLiteral("\"\"") : text);
    }
    lines << fields.join(QLatin1Char('\t'));
  }
  list_->setPlainText(lines.join(QLatin1Char('\n')));
  goToStage();
}

// "height * 1.1": a number as the desktop writes it; a stretch of time also as the column's lens shows it.
Result<std::optional<Act>> ActSlip::reckoned(Act act) const {
  const int column = column_->currentData().toInt();
  QString by = by_->text().trimmed();
  if (by.isEmpty()) return std::optional<Act>();
  const QString point = QLocale().decimalPoint();
  static const QRegularExpression kNumber(QStringLiteral("^[-+]?[0-9]+[.,][0-9]+$"));
  if (point != QLatin1String(".") && kNumber.match(by).hasMatch()) by.replace(point, QLatin1String("."));
  const Lens* lens = model_.lens(column);
  const bool adds = reckoning_->currentIndex() < 2;
  if (lens != nullptr && lens->kind == LensKind::Moment)
    return fail(
        ErrorKind::InvalidInput,
        tr("%1 is seen through a lens here; compute it as it is stored.").arg(column_->currentText()).toStdString());
  if (adds && lens != nullptr && (lens->kind == LensKind::Duration || lens->kind == LensKind::Factor)) {
    TypedOrNone stored = by.toStdString();
    ITERANDUM_TRY(throughLens(column, stored));
    by = stored ? toQ(*stored) : QString();
  }
  if (by.startsWith(QLatin1Char('+'))) by.remove(0, 1);
  act.kind = Act::Kind::Compute;
  act.text = reckoning_->currentData().toString().arg(bracketed(column_->currentText()), by).toStdString();
  return std::optional(std::move(act));
}

// What was typed, as the column stores it.
Status ActSlip::throughLens(int column, TypedOrNone& text) const {
  if (!text || text->empty() || model_.lens(column) == nullptr) return {};
  ITERANDUM_ASSIGN(const Value value, model_.typed(column, toQ(*text)));
  if (value.isNull()) {
    text.reset();
  } else {
    text = canonicalText(value);
  }
  return {};
}

Result<std::optional<Act>> ActSlip::act() const {
  Act out;
  const int column = column_->currentData().toInt();
  out.column = model_.column(column).name;
  const std::optional<Act> missing;
  switch (kind()) {
    case Kind::To: {
      out.kind = Act::Kind::To;
      const auto value = model_.typed(column, value_->text());
      // What cannot be read through the lens is not to be taken as stored.
      if (!value && model_.lens(column) != nullptr && !value_->text().isEmpty()) return fail(value.error());
      out.text = value && !value->isNull() ? canonicalText(*value) : textOfField(value_->text());
      // Nothing typed is nothing said; empty text is an act of its own.
      return value_->text().isEmpty() ? missing : std::optional(out);
    }
    case Kind::Empty:
      out.kind = Act::Kind::To;
      return std::optional(out);
    case Kind::Clear:
      out.kind = Act::Kind::Clear;
      return std::optional(out);
    case Kind::Compute:
      out.kind = Act::Kind::Compute;
      out.text = textOfField(expression_->toPlainText());
      return expression_->toPlainText().trimmed().isEmpty() ? missing : std::optional(out);
    case Kind::Reckon:
      return reckoned(std::move(out));
    case Kind::Swap:
      out.kind = Act::Kind::Swap;
      out.with = model_.column(swapped_->currentData().toInt()).name;
      return std::optional(out);
    case Kind::Replace:
      out.kind = Act::Kind::Replace;
      out.text = textOfField(find_->text());
      out.with = textOfField(with_->text());
      out.where = static_cast<Act::Where>(where_->currentIndex());
      out.exactCase = exact_->isChecked();
      return find_->text().isEmpty() && out.where != Act::Where::Whole ? missing : std::optional(out);
    case Kind::Map: {
      out.kind = Act::Kind::Map;
      ITERANDUM_ASSIGN(out, readList(std::move(out), list_->toPlainText()));
      for (auto& [from, to] : out.map) {
        ITERANDUM_TRY(throughLens(column, from));
        ITERANDUM_TRY(throughLens(column, to));
      }
      return out.map.empty() ? missing : std::optional(out);
    }
    case Kind::Tidy:
      out.kind = Act::Kind::Compute;
      out.text = QStringLiteral("%1(%2)")
                     .arg(tidy_->currentData().toString(), bracketed(column_->currentText()))
                     .toStdString();
      return std::optional(out);
    case Kind::Other:
      out.kind = Act::Kind::Compute;
      out.text = bracketed(other_->currentText()).toStdString();
      return std::optional(out);
    case Kind::Recipe:
      break;
  }
  return missing;
}

void ActSlip::ask() {
  const ExpressionContext context = expressionContextNow(model_.desk().conditions());
  if (!model_.source().complete()) {
    update();
    return say(tr("The records are still being counted; the proof comes then."));
  }
  if (const iterandum::Recipe* chosen = recipe()) {
    std::map<std::string, std::string> answers;
    for (const auto& [name, field] : questions_) answers[name] = field->text().toStdString();
    // An answer that a column gets as it is, is given as the column is looked at.
    for (const Act& act : chosen->acts) {
      const auto at = model_.table().columnIndex(act.column);
      const auto answer = std::find_if(answers.begin(), answers.end(),
                                       [&](const auto& one) { return act.text == "{" + one.first + "}"; });
      if (act.kind != Act::Kind::To || !at || answer == answers.end()) continue;
      TypedOrNone given = answer->second;
      if (const Status read = throughLens(static_cast<int>(*at), given); !read)
        return say(toQ(read.error().message), true);
      answer->second = given.value_or(std::string());
    }
    const auto ready = answered(*chosen, answers);
    if (!ready) return say(toQ(ready.error().message), true);
    title_ = toQ(chosen->name);
    return askWith(ready->acts, ready->context(context));
  }
  auto said = act();
  if (!said) return say(toQ(said.error().message), true);
  if (!*said) {
    return say(kind() == Kind::Compute
                   ? tr("For example [height] * 1.1 · [planted] + 3 months · if [a] > 2 then 5 else [b] · upper([tag])")
                   : QString());
  }
  const int column = column_->currentData().toInt();
  const bool readsNames = kind() == Kind::Replace || kind() == Kind::Tidy || kind() == Kind::Reckon;
  if (model_.reference(column) != nullptr && readsNames) {
    return say(
        tr("%1 holds keys; what is read there are the names of the records pointed at. Change those in their own "
           "sheet, or use a list of old and new names.")
            .arg(column_->currentText()),
        true);
  }
  title_ = toQ(actInWords(**said));
  if (kind() == Kind::Reckon) {
    const QString ways[] = {tr("plus"), tr("minus"), tr("times"), tr("divided by"), tr("rounded, decimals:")};
    title_ = tr("%1 %2 %3").arg(column_->currentText(), ways[reckoning_->currentIndex()], by_->text().trimmed());
  }
  if (kind() == Kind::To) title_ = tr("%1 to %2").arg(column_->currentText(), value_->text());
  if (model_.isHidden(column)) title_ = tr("%1, which is masked").arg(column_->currentText());
  lookUpNames(std::move(**said));
}

// A reference may be typed by the name of the record that it points at, or is to point at.
void ActSlip::lookUpNames(Act act) {
  const int column = column_->currentData().toInt();
  QStringList names;
  const auto want = [&](const std::string& text) {
    if (names_->mayBeName(column, toQ(text)) && !names.contains(toQ(text))) names << toQ(text);
  };
  if (act.kind == Act::Kind::To) want(act.text);
  for (const auto& [from, to] : act.map) {
    if (from) want(*from);
    if (to) want(*to);
  }
  if (names.isEmpty()) return askWith({act}, expressionContextNow(model_.desk().conditions()));
  const std::uint64_t asked = asked_;
  names_->find({{column, names}}, [this, asked, column, act = std::move(act)](auto&& found) mutable {
    if (asked != asked_) return;
    if (!found) return say(toQ(found.error().text()), true);
    QString missing;
    const auto byKey = [&](std::string& text) {
      const auto name = found->find({column, toQ(text)});
      if (name == found->end()) return;
      if (name->second) {
        text = canonicalText(*name->second);
      } else if (missing.isEmpty()) {
        missing = toQ(name->second.error().message);
      }
    };
    if (act.kind == Act::Kind::To) byKey(act.text);
    for (auto& [from, to] : act.map) {
      if (from) byKey(*from);
      if (to) byKey(*to);
    }
    if (!missing.isEmpty()) return say(missing, true);
    askWith({act}, expressionContextNow(model_.desk().conditions()));
  });
}

void ActSlip::askWith(const std::vector<Act>& acts, const ExpressionContext& context) {
  acts_ = acts;
  const auto made = RecordActs::make(model_.table(), acts, context);
  if (!made) {
    // The place speaks the words of the command line.
    const std::string& place = made.error().place;
    const std::size_t at = place.find("position");
    return say(toQ((at == std::string::npos ? "" : place.substr(at) + ": ") + made.error().message), true);
  }
  say({});
  preview_->ask(*made, meant());
  update();
}

void ActSlip::update() {
  const QLocale locale;
  const auto number = [&](std::uint64_t n) { return locale.toString(static_cast<qulonglong>(n)); };
  const ActPreview::Found& found = preview_->found();
  const ActCounts& c = found.counts;
  stage_->setEnabled(preview_->complete() && c.differ > 0);
  if (stage_->isEnabled() && std::exchange(toStage_, false)) stage_->setFocus();
  stage_->setText(c.differ > 0 && preview_->complete() ? tr("Stage %1").arg(number(c.differ)) : tr("Stage"));
  if (!preview_->isAsked()) {
    counts_->clear();
    proof_->empty();
    return;
  }
  if (!preview_->problem().isEmpty()) return say(preview_->problem(), true);
  const auto several = [number](std::uint64_t n, const QString& one, const QString& more) {
    return n == 1 ? one : more.arg(number(n));
  };
  QStringList words{several(c.differ, tr("1 changes"), tr("%1 change"))};
  const bool same = kind() == Kind::To || kind() == Kind::Empty || kind() == Kind::Clear;
  if (c.already > 0)
    words << (same ? several(c.already, tr("1 is so already"), tr("%1 are so already"))
                   : several(c.already, tr("1 stays as it is"), tr("%1 stay as they are")));
  if (c.failed > 0) words << several(c.failed, tr("1 cannot, and is left out"), tr("%1 cannot, and are left out"));
  if (preview_->passedOver() > 0)
    words << several(preview_->passedOver(), tr("1 new is passed over"), tr("%1 new are passed over"));
  if (found.gone > 0)
    words << several(found.gone, tr("1 is gone from the database"), tr("%1 are gone from the database"));
  QString text = words.join(QStringLiteral(" · "));
  if (!preview_->complete()) {
    text += tr(" · %1 of %2 looked at").arg(number(c.meant + found.gone), number(preview_->total()));
  }
  counts_->setText(text);
  proof_->show(*preview_);
}

void ActSlip::stage() {
  if (!preview_->complete() || preview_->found().counts.differ == 0) return;
  const std::uint64_t records = preview_->found().counts.differ;
  const QString title =
      tr("%1 in %n record(s)", "", static_cast<int>(std::min<std::uint64_t>(records, INT_MAX))).arg(title_);
  ++asked_;
  preview_->stage(title);
  emit told(tr("Staged: %1.").arg(title));
  emit leaveAsked();
}

void ActSlip::keepRecipe() {
  const QString name = recipeName_->text().trimmed();
  if (name.isEmpty() || acts_.empty()) {
    return say(acts_.empty() ? tr("Say first what is to be done.") : tr("A recipe needs a name."), true);
  }
  iterandum::Recipe kept;
  kept.name = name.toStdString();
  kept.table = displayName(model_.table().name);
  kept.acts = acts_;
  model_.desk().kept().saveRecipe(kept);
  naming_->hide();
  recipeName_->clear();
  emit told(tr("Kept as the recipe “%1”.").arg(name));
}

}  // namespace iterandum
