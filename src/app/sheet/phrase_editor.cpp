#include "app/sheet/phrase_editor.h"

#include <QApplication>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPainter>
#include <QStyledItemDelegate>
#include <QVBoxLayout>
#include <set>

#include "app/records/column_values.h"
#include "app/style/roles.h"
#include "core/scope/column_path.h"
#include "core/scope/condition_text.h"
#include "core/scope/reference_naming.h"

namespace iterandum {
namespace {

// So many values are offered at once; more are looked for as one types.
constexpr std::uint64_t kMostOffers = 400;

class OfferPainter : public QStyledItemDelegate {
 public:
  using QStyledItemDelegate::QStyledItemDelegate;
  [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override { return {200, 27}; }
  void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
    const Roles& r = roles();
    painter->save();
    const bool selected = (option.state & QStyle::State_Selected) != 0;
    if (selected) painter->fillRect(option.rect, r.blueWash);
    const QRect box = option.rect.adjusted(8, 0, -8, 0);
    const QString aside = index.data(Qt::UserRole).toString();
    const bool faint = index.data(Qt::UserRole + 1).toBool();
    painter->setFont(plain());
    painter->setPen(r.soft);
    painter->drawText(box, Qt::AlignRight | Qt::AlignVCenter, aside);
    QFont font = plain();
    font.setItalic(faint);
    painter->setFont(font);
    painter->setPen(selected ? r.blue : (faint ? r.faint : r.ink));
    const int room = box.width() - QFontMetrics(plain()).horizontalAdvance(aside) - 14;
    painter->drawText(box, Qt::AlignLeft | Qt::AlignVCenter,
                      QFontMetrics(font).elidedText(index.data().toString(), Qt::ElideRight, room));
    painter->restore();
  }
};

// What is looked for among the offers: the text without the signs of the language before it.
QString soughtIn(QString text) {
  text = text.trimmed();
  while (!text.isEmpty() && QStringLiteral("=<>!'\"").contains(text[0])) text.remove(0, 1);
  if (text.endsWith(QLatin1Char('\''))) text.chop(1);
  return text.trimmed();
}

// 0: it is what is looked for; 1: it begins with it; 2: it has it somewhere; 3: it does not.
int rankOf(const QString& text, const QString& sought) {
  if (sought.isEmpty()) return 0;
  if (text.compare(sought, Qt::CaseInsensitive) == 0) return 0;
  if (text.startsWith(sought, Qt::CaseInsensitive)) return 1;
  return text.contains(sought, Qt::CaseInsensitive) ? 2 : 3;
}

}  // namespace

PhraseEditor::PhraseEditor(SheetModel& model, SheetScope& scope, QWidget* parent)
    : QFrame(parent), model_(model), scope_(scope) {
  setObjectName("palette");
  auto* layout = new QVBoxLayout(this);
  layout->setContentsMargins(12, 10, 12, 10);
  layout->setSpacing(6);
  heading_ = new QLabel(this);
  heading_->setFont(serif(1.1));
  line_ = new QLineEdit(this);
  line_->setObjectName("phraseLine");
  line_->setFont(plain());
  line_->installEventFilter(this);
  note_ = new QLabel(this);
  note_->setObjectName("phraseNote");
  note_->setWordWrap(true);
  note_->setTextFormat(Qt::PlainText);
  list_ = new QListWidget(this);
  list_->setObjectName("phraseOffers");
  list_->setAccessibleName(tr("What can be chosen"));
  list_->setFocusPolicy(Qt::NoFocus);
  list_->setItemDelegate(new OfferPainter(list_));
  list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  layout->addWidget(heading_);
  layout->addWidget(line_);
  layout->addWidget(list_, 1);
  layout->addWidget(note_);
  connect(line_, &QLineEdit::textEdited, this, [this] {
    chosen_ = false;  // what is typed now is meant
    note_->setStyleSheet(QStringLiteral("color: %1;").arg(css(roles().soft)));
    narrow();
    // Where not all values are at hand, those that have this in them are asked for.
    if (!complete_ && !path_.column.empty()) askValues(soughtIn(line_->text()));
  });
  connect(list_, &QListWidget::itemClicked, this, [this] { take(); });
  connect(&model_.desk().names(), &ReferenceNames::named, this, [this] {
    if (isVisible() && !values_.empty()) offerValues();
  });
  hide();
}

void PhraseEditor::open(const QPoint& place, const QString& heading, const QString& text, const QString& hint) {
  if (!isVisible()) before_ = QApplication::focusWidget();
  chosen_ = false;
  heading_->setText(heading);
  line_->setAccessibleName(heading);
  line_->setText(text);
  // All of it chosen, and its beginning in sight.
  line_->setSelection(static_cast<int>(text.size()), -static_cast<int>(text.size()));
  note_->setText(hint);
  note_->setStyleSheet(QStringLiteral("color: %1;").arg(css(roles().soft)));
  const int width = std::min(440, parentWidget()->width() - 20);
  setGeometry(std::clamp(place.x() - 12, 6, std::max(6, parentWidget()->width() - width - 6)), place.y(), width, 120);
  narrow();
  show();
  raise();
  line_->setFocus();
}

void PhraseEditor::editPhrase(const ScopePhrase& phrase, const QPoint& place) {
  phrase_ = phrase;
  adding_ = false;
  prefix_.clear();
  path_ = {};
  offers_.clear();
  complete_ = true;
  const QString keys = tr("Enter takes it, Esc leaves it as it was; empty takes the phrase out.");
  switch (phrase.kind) {
    case ScopePhrase::Kind::Order:
      offerWays(phrase.at);
      open(place, tr("In which order?"), {}, tr("Enter takes it, Esc leaves it as it was."));
      break;
    case ScopePhrase::Kind::Condition:
      open(place, tr("Which records?"), scope_.text(phrase), keys);
      break;
    case ScopePhrase::Kind::Filter:
      if (!scope_.isAboutOwnColumn(phrase)) {
        open(place, tr("Which records?"), scope_.text(phrase), keys);
        break;
      }
      path_ = model_.path(phrase.at);
      open(place, tr("Which %1?").arg(model_.columnName(phrase.at)), scope_.text(phrase), keys);
      askValues({});
      break;
  }
}

void PhraseEditor::addPhrase(const QPoint& place) {
  adding_ = true;
  phrase_ = {};  // one that was left without Enter or Esc is still there
  prefix_.clear();
  path_ = {};
  complete_ = true;
  offerColumns();
  open(place, tr("Only records where…"), {},
       tr("Choose a column, or type a whole condition, with its columns and with and, or, not."));
}

// --- what is offered
// ----------------------------------------------------------------------------------------------------

void PhraseEditor::offerColumns() {
  offers_.clear();
  std::set<std::string> there;
  const auto add = [&](const ColumnPath& path) {
    const std::string name = columnPathText(path);
    if (!there.insert(name).second) return;
    const Column* column = path.owner(model_.table()).column(path.column);
    offers_.push_back(
        {toQ(name), column == nullptr ? QString() : kindInWords(*column), {}, [this, path] { chooseColumn(path); }});
  };
  for (int c = 0; c < model_.columnCount(); ++c) add(model_.path(c));
  const Catalogue& catalogue = model_.desk().catalogue();
  for (const ReferenceStep& step : lendingSteps(model_.table(), catalogue)) {
    for (const Column& c : step.target->columns) add({{step}, c.name});
  }
  const auto whole = [&](const QString& condition, const QString& aside) {
    offers_.push_back({condition, aside, condition, {}});
  };
  whole(QStringLiteral("record is staged"), tr("has a change that is not applied yet"));
  whole(QStringLiteral("record has a finding"), tr("of the last review"));
  for (const IncomingReference& in : catalogue.referencesTo(model_.table().name)) {
    const QString name = toQ(quotedIfOdd(catalogue.tables()[in.table].name.name));
    whole(QStringLiteral("no ") + name, tr("nothing there points here"));
    whole(QStringLiteral("any ") + name, tr("something there points here"));
  }
}

void PhraseEditor::chooseColumn(const ColumnPath& path) {
  const auto column = model_.columnOf(path);
  const QPoint place = pos() + QPoint(12, 0);
  if (column) {
    ScopePhrase phrase;
    phrase.at = *column;
    editPhrase(phrase, place);
    return;
  }
  path_ = path;
  prefix_ = toQ(columnPathText(path)) + QLatin1Char(' ');
  offers_.clear();
  open(place, tr("Which %1?").arg(prefix_.trimmed()), {}, tr("Enter takes it, Esc leaves it as it was."));
  askValues({});
}

void PhraseEditor::offerWays(int at) {
  const auto way = [&](const QString& text, const QString& aside,
                       const std::function<void(std::vector<ScopeOrder>&)>& change) {
    offers_.push_back({text, aside, {}, [this, change] {
                         std::vector<ScopeOrder> order = scope_.order();
                         change(order);
                         scope_.setOrder(std::move(order));
                         leave();
                       }});
  };
  const auto i = static_cast<std::size_t>(at);
  const auto set = [i](bool descending, bool natural) {
    return [i, descending, natural](std::vector<ScopeOrder>& order) {
      order[i].descending = descending;
      order[i].natural = natural;
    };
  };
  way(tr("First to last"), tr("A to Z, 1 to 9"), set(false, false));
  way(tr("Last to first"), tr("Z to A, 9 to 1"), set(true, false));
  way(tr("First to last, numbers by size"), tr("plot 9 before plot 10"), set(false, true));
  way(tr("Last to first, numbers by size"), tr("plot 10 before plot 9"), set(true, true));
  const auto byName = [i](bool name) { return [i, name](std::vector<ScopeOrder>& order) { order[i].byName = name; }; };
  const auto path = readColumnPath(model_.table(), scope_.order()[i].column, &model_.desk().catalogue());
  const Table* owner = path ? &path->owner(model_.table()) : nullptr;
  const Column* column = owner != nullptr ? owner->column(path->column) : nullptr;
  if (column != nullptr && referenceNaming(*owner, *column, model_.desk().conditions())) {
    scope_.order()[i].byName ? way(tr("By its key"), toQ(column->name), byName(false))
                             : way(tr("By its name"), tr("as it is shown"), byName(true));
  }
  if (at > 0) {
    way(tr("Let it decide earlier"), {}, [i](std::vector<ScopeOrder>& order) { std::swap(order[i - 1], order[i]); });
  }
  way(tr("Take it out"), tr("by what is left"),
      [i](std::vector<ScopeOrder>& order) { order.erase(order.begin() + static_cast<std::ptrdiff_t>(i)); });
}

void PhraseEditor::askValues(const QString& contains) {
  if (asking_) asking_->cancel();
  values_.clear();
  const std::uint64_t asked = ++asked_;
  Condition where = adding_ ? scope_.whereWithout(-1) : scope_.whereWithout(phrase_.at);
  if (!contains.isEmpty()) {
    const std::string text = "contains '" + QString(contains).replace('\'', "''").toStdString() + "'";
    auto narrowed = parseColumnCondition(model_.table(), path_, text, model_.desk().conditions());
    if (narrowed) where = bothHold(std::move(where), std::move(*narrowed));
  }
  asking_ = readColumnValues(this, model_, path_, where, kMostOffers, [this, asked](Result<CountedValues>&& values) {
    if (asked != asked_ || !isVisible()) return;
    if (!values) {
      if (values.error().kind != ErrorKind::Cancelled) note_->setText(toQ(values.error().text()));
      return;
    }
    complete_ = values->size() < kMostOffers;
    values_ = std::move(*values);
    offerValues();
  });
}

void PhraseEditor::offerValues() {
  if (path_.column.empty()) return;
  offers_.clear();
  for (OfferedValue& value : offeredValues(model_, path_, values_, complete_)) {
    if (value.filter.isEmpty()) continue;
    offers_.push_back(
        {value.shown, QLocale().toString(static_cast<qulonglong>(value.records)), value.filter, {}, value.nothing});
  }
  narrow();
}

// What begins with what is looked for comes before what has it somewhere; what was highlighted stays so.
void PhraseEditor::narrow() {
  const QString sought =
      line_->hasSelectedText() && line_->selectedText() == line_->text() ? QString() : soughtIn(line_->text());
  const int row = list_->currentRow();
  const QString highlighted = row >= 0 && chosen_ ? list_->item(row)->text() : QString();
  shown_.clear();
  list_->clear();
  for (int rank = 0; rank < 3; ++rank) {
    for (std::size_t i = 0; i < offers_.size(); ++i) {
      if (rankOf(offers_[i].text, sought) == rank) shown_.push_back(i);
    }
  }
  for (const std::size_t i : shown_) {
    const Offer& offer = offers_[i];
    auto* item = new QListWidgetItem(offer.text, list_);
    item->setData(Qt::UserRole, offer.aside);
    item->setData(Qt::UserRole + 1, offer.faint);
    item->setData(Qt::AccessibleTextRole, offer.text + QStringLiteral(", ") + offer.aside);
    if (!highlighted.isEmpty() && offer.text == highlighted) list_->setCurrentItem(item);
  }
  chosen_ = list_->currentRow() >= 0;
  // A column and a way to sort are chosen; a condition may also be what is typed.
  const bool chooses = phrase_.kind == ScopePhrase::Kind::Order || (adding_ && prefix_.isEmpty());
  if (chooses && !chosen_ && list_->count() > 0) list_->setCurrentRow(0);
  fitHeight();
}

// No higher than what is offered, and no lower than the window lets it.
void PhraseEditor::fitHeight() {
  constexpr int kMostLines = 10;
  const int line = list_->count() > 0 ? list_->sizeHintForRow(0) : 0;
  list_->setVisible(list_->count() > 0);
  list_->setFixedHeight(std::min(kMostLines, list_->count()) * line + 4);
  layout()->activate();
  const int wanted =
      layout()->hasHeightForWidth() ? layout()->totalHeightForWidth(width()) : layout()->totalSizeHint().height();
  resize(width(), std::min(wanted, parentWidget()->height() - y() - 8));
}

// --- taking it
// ----------------------------------------------------------------------------------------------------------

void PhraseEditor::take() {
  const int row = list_->currentRow();
  if (row < 0 || row >= static_cast<int>(shown_.size())) return takeText(line_->text());
  const Offer offer = offers_[shown_[static_cast<std::size_t>(row)]];
  if (offer.run) return offer.run();
  takeText(offer.condition, SheetScope::Said::Stored);
}

void PhraseEditor::takeText(const QString& text, SheetScope::Said said) {
  if (phrase_.kind == ScopePhrase::Kind::Order && !adding_) return leave();
  QString wrong;
  if (!adding_ || !prefix_.isEmpty() || !text.trimmed().isEmpty()) {
    wrong = adding_ ? scope_.addCondition(prefix_ + text, said) : scope_.setText(phrase_, text, said);
  }
  if (wrong.isEmpty()) return leave();
  note_->setText(wrong);
  note_->setStyleSheet(QStringLiteral("color: %1;").arg(css(roles().query)));
}

void PhraseEditor::leave() {
  ++asked_;
  values_.clear();
  if (asking_) asking_->cancel();
  phrase_ = {};
  hide();
  if (before_ != nullptr) before_->setFocus();
}

bool PhraseEditor::eventFilter(QObject* watched, QEvent* event) {
  if (event->type() == QEvent::KeyPress) {
    switch (static_cast<QKeyEvent*>(event)->key()) {
      case Qt::Key_Escape:
        leave();
        return true;
      case Qt::Key_Return:
      case Qt::Key_Enter:
        take();
        return true;
      case Qt::Key_Down:
        list_->setCurrentRow(std::min(list_->currentRow() + 1, list_->count() - 1));
        chosen_ = list_->currentRow() >= 0;
        return true;
      case Qt::Key_Up:
        // Above the first offer is what is typed.
        list_->setCurrentRow(list_->currentRow() - 1);
        if (list_->currentRow() < 0) list_->clearSelection();
        chosen_ = list_->currentRow() >= 0;
        return true;
      default:
        break;
    }
  }
  if (event->type() == QEvent::FocusOut && isVisible()) {
    const QWidget* to = QApplication::focusWidget();
    if (to == nullptr || !isAncestorOf(to)) hide();
  }
  return QFrame::eventFilter(watched, event);
}

}  // namespace iterandum
