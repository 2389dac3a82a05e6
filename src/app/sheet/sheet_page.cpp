#include "app/sheet/sheet_page.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QScrollBar>
#include <QSplitter>
#include <QTimer>
#include <QVBoxLayout>

#include "app/style/roles.h"
#include "core/scope/condition_text.h"

namespace iterandum {
namespace {
// Long enough for the next keystroke, short enough not to be felt.
constexpr int kTypingPauseMs = 180;

QString link(const QString& target, const QString& text) {
  return QStringLiteral("<a href='%1' style='color:%2; text-decoration: underline'>%3</a>")
      .arg(target, css(roles().blue), text.toHtmlEscaped());
}
}  // namespace

SheetPage::SheetPage(Desk& desk, const Table& table, const SheetLook& look, QWidget* parent)
    : QWidget(parent), desk_(desk), model_(desk, table, this) {
  setObjectName("page");
  setAttribute(Qt::WA_StyledBackground);
  auto* layout = new QVBoxLayout(this);
  layout->setContentsMargins(0, 0, 0, 0);
  layout->setSpacing(0);
  auto* top = new QHBoxLayout;
  top->setContentsMargins(47, 12, 20, 10);
  top->setSpacing(24);
  sentence_ = new QLabel(this);
  sentence_->setObjectName("sentence");
  sentence_->setFont(serif(1.35));
  sentence_->setTextFormat(Qt::RichText);
  sentence_->setWordWrap(true);  // never cut: it is what people check before they act
  sentence_->setTextInteractionFlags(Qt::LinksAccessibleByMouse | Qt::LinksAccessibleByKeyboard);
  sentence_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
  sentence_->setFocusPolicy(Qt::NoFocus);
  count_ = new QLabel(this);
  count_->setObjectName("count");
  count_->setFont(plain());
  top->addWidget(sentence_, 1);
  top->addWidget(count_, 0, Qt::AlignRight | Qt::AlignVCenter);
  layout->addLayout(top);
  problem_ = new QLabel(this);
  problem_->setObjectName("problem");
  problem_->setWordWrap(true);
  problem_->setTextFormat(Qt::PlainText);
  problem_->setContentsMargins(47, 0, 20, 8);
  problem_->setStyleSheet(QStringLiteral("color: %1;").arg(css(roles().query)));
  problem_->hide();
  layout->addWidget(problem_);
  splitter_ = new QSplitter(Qt::Horizontal, this);
  splitter_->setHandleWidth(1);
  view_ = new SheetView(model_, splitter_);
  card_ = new CardPanel(model_, splitter_);
  splitter_->addWidget(view_);
  splitter_->addWidget(card_);
  values_ = new ValuesPanel(model_, splitter_);
  values_->hide();
  splitter_->addWidget(values_);
  splitter_->setStretchFactor(0, 1);
  splitter_->setStretchFactor(1, 0);
  splitter_->setStretchFactor(2, 0);
  splitter_->setSizes({920, 350, 350});
  splitter_->setCollapsible(0, false);
  layout->addWidget(splitter_, 1);
  soon_ = new QTimer(this);
  soon_->setSingleShot(true);
  soon_->setInterval(kTypingPauseMs);
  connect(soon_, &QTimer::timeout, this, &SheetPage::read);
  connect(&view_->head(), &FilterHeader::filterChanged, this, [this] { readSoon(); });
  connect(&view_->head(), &FilterHeader::sortAsked, this, &SheetPage::sort);
  connect(&view_->head(), &FilterHeader::leftDownwards, this, [this](int column) {
    view_->setFocus();
    view_->goTo(view_->currentIndex().isValid() ? view_->currentIndex().row() : 0, column);
  });
  connect(sentence_, &QLabel::linkActivated, this,
          [this](const QString& target) { view_->head().focusFilter(target.mid(1).toInt()); });
  connect(view_, &SheetView::said, this, &SheetPage::said);
  connect(card_, &CardPanel::said, this, &SheetPage::said);
  connect(&model_, &SheetModel::said, this, &SheetPage::said);
  connect(card_, &CardPanel::leaveAsked, view_, [this] { view_->setFocus(); });
  connect(values_, &ValuesPanel::leaveAsked, view_, [this] { view_->setFocus(); });
  connect(values_, &ValuesPanel::chosen, this, &SheetPage::setFilter);
  connect(view_, &SheetView::currentRowChanged, card_, &CardPanel::show);
  // A reset forgets the current cell; its column is where the eye was.
  connect(&model_, &QAbstractItemModel::modelAboutToBeReset, this, [this] {
    if (view_->currentIndex().isValid()) column_ = view_->currentIndex().column();
  });
  connect(&model_.source(), &RecordSource::counted, this, &SheetPage::updateSentence);
  connect(&model_.source(), &RecordSource::counted, card_, &CardPanel::refresh);
  connect(&model_.source(), &RecordSource::failed, this, [this](const QString& message) {
    problem_->setText(tr("These records could not be read: %1").arg(message));
    problem_->show();
    updateSentence();
  });
  connect(&model_.source(), &RecordSource::restarted, this, [this] {
    problem_->hide();
    int row = 0;
    if (returnTo_) row = model_.source().rowOf(*returnTo_).value_or(0);
    returnTo_.reset();
    if (model_.rowCount() > 0) view_->goTo(row, column_);
    card_->show(model_.rowCount() > 0 ? row : -1);
  });
  connect(&model_.source(), &RecordSource::loaded, card_, [this](int first, int last) {
    const int row = view_->currentIndex().row();
    if (row >= first && row <= last) card_->show(row);
  });
  if (!table.notEditable.empty()) {
    problem_->setText(tr("Shown only: %1.").arg(toQ(table.notEditable)));
    problem_->setStyleSheet(QStringLiteral("color: %1;").arg(css(roles().soft)));
  }
  takeLook(look);
  updateSentence();
  read();
}

void SheetPage::takeLook(const SheetLook& look) {
  for (int c = 0; c < look.filters.size() && c < model_.columnCount(); ++c) view_->head().setFilter(c, look.filters[c]);
  for (const SortKey& key : look.order) {
    if (model_.table().column(key.column) != nullptr) order_.push_back(key);
  }
  view_->head().setOrder(order_);
  if (!look.columns.isEmpty()) view_->head().restoreState(look.columns);
  returnTo_ = look.record;
  column_ = look.column;
}

SheetLook SheetPage::look() const {
  SheetLook look;
  for (int c = 0; c < model_.columnCount(); ++c) look.filters << view_->head().filter(c);
  look.order = order_;
  look.columns = view_->head().saveState();
  const QModelIndex current = view_->currentIndex();
  if (current.isValid() && current.row() < model_.source().rows()) look.record = model_.source().key(current.row());
  look.column = std::max(0, current.column());
  return look;
}

QString SheetPage::title() const {
  const bool narrowed = model_.source().where().op != Condition::Op::All;
  return toQ(model_.table().name.name) + (narrowed ? QStringLiteral(" …") : QString());
}

void SheetPage::refresh() {
  const QModelIndex current = view_->currentIndex();
  if (current.isValid() && current.row() < model_.source().rows()) returnTo_ = model_.source().key(current.row());
  desk_.clearApplied();
  model_.source().refresh();
}

void SheetPage::readSoon() { soon_->start(); }

void SheetPage::read() {
  Condition where;
  QString wrong;
  std::vector<std::pair<int, Condition>> phrases;
  const ConditionContext context = contextNow(model_.desk().catalogue());
  for (int c = 0; c < model_.columnCount(); ++c) {
    const QString text = view_->head().filter(c);
    auto condition = parseColumnCondition(model_.table(), model_.column(c), text.toStdString(), context);
    view_->head().markWrong(c, condition ? QString() : toQ(condition.error().message));
    if (condition) {
      if (condition->op != Condition::Op::All) phrases.emplace_back(c, *condition);
      where = bothHold(std::move(where), std::move(*condition));
    } else if (wrong.isEmpty()) {
      wrong = tr("The filter of %1 cannot be read (%2): %3.")
                  .arg(toQ(model_.column(c).name), toQ(condition.error().place), toQ(condition.error().message));
    }
  }
  if (!wrong.isEmpty()) {
    problem_->setText(wrong);
    problem_->show();
    return;
  }
  phrases_ = std::move(phrases);
  model_.source().read(std::move(where), order_);
  updateSentence();
  if (values_->isVisible()) showValues(values_->column());
  emit titleChanged();
}

// A column goes from ascending to descending to not at all. Alone, or besides what decides already.
void SheetPage::sort(int column, bool also) {
  if (column < 0) return;
  const std::string& name = model_.column(column).name;
  const auto key = std::find_if(order_.begin(), order_.end(), [&](const SortKey& k) { return k.column == name; });
  const bool wasThere = key != order_.end();
  const bool wasDescending = wasThere && key->descending;
  if (!also) {
    const bool alone = order_.size() == 1;
    order_.clear();
    if (!wasThere || !alone) order_.push_back({name, false});
    if (wasThere && alone && !wasDescending) order_.push_back({name, true});
  } else if (!wasThere) {
    order_.push_back({name, false});
  } else if (!wasDescending) {
    key->descending = true;
  } else {
    order_.erase(key);
  }
  view_->head().setOrder(order_);
  read();
}

void SheetPage::sortByCurrent() { sort(view_->currentIndex().column(), false); }

void SheetPage::sortAlsoByCurrent() { sort(view_->currentIndex().column(), true); }

QString SheetPage::sentence() const {
  QString out = toQ(model_.table().name.name).toHtmlEscaped();
  QStringList phrases;
  for (const auto& [column, condition] : phrases_) {
    // "or" binds less than the "and" between the phrases.
    const QString words = toQ(conditionInWords(condition));
    const bool brackets = phrases_.size() > 1 && condition.op == Condition::Op::Or;
    phrases << link(QStringLiteral("f%1").arg(column), brackets ? QStringLiteral("(%1)").arg(words) : words);
  }
  if (phrases.isEmpty()) {
    out = tr("All of %1").arg(out);
  } else {
    out += tr(" where ") + phrases.join(tr(" and "));
  }
  for (std::size_t i = 0; i < order_.size(); ++i) {
    const QString name = toQ(order_[i].column).toHtmlEscaped();
    out += i == 0 ? tr(", by %1").arg(name) : tr(", then %1").arg(name);
    if (order_[i].descending) out += tr(" last first");
  }
  return out;
}

void SheetPage::updateSentence() {
  sentence_->setText(sentence());
  const RecordSource& source = model_.source();
  const QLocale locale;
  QString text = QStringLiteral("<b>%1</b>")
                     .arg(locale.toString(source.rows()) + (source.complete() ? QString() : QStringLiteral("+")));
  const bool narrowed = source.where().op != Condition::Op::All;
  if (narrowed && source.tableCount()) {
    text += tr(" of %1 records").arg(locale.toString(static_cast<qulonglong>(*source.tableCount())));
  } else {
    text += source.reading() ? tr(" records, counting…") : tr(" records");
  }
  count_->setText(text);
}

void SheetPage::toggleCard() {
  values_->hide();
  card_->setVisible(!card_->isVisible());
}

void SheetPage::toggleValues() {
  const int column = view_->currentIndex().isValid() ? view_->currentIndex().column() : column_;
  if (values_->isVisible() && values_->column() == column) {
    values_->hide();
    card_->setVisible(true);
    view_->setFocus();
    return;
  }
  card_->hide();
  values_->setVisible(true);
  showValues(column);
  values_->setFocus();
}

void SheetPage::showValues(int column) {
  Condition where;
  for (const auto& [other, condition] : phrases_) {
    if (other != column) where = bothHold(std::move(where), condition);
  }
  values_->show(column, where);
}

void SheetPage::focusCard() {
  values_->hide();
  card_->setVisible(true);
  QWidget* first = card_->findChild<QWidget*>(QStringLiteral("field-") +
                                              toQ(model_.column(std::max(0, view_->currentIndex().column())).name));
  if (first != nullptr) first->setFocus();
}

void SheetPage::focusFilter() { view_->head().focusFilter(std::max(0, view_->currentIndex().column())); }

void SheetPage::clearFilters() {
  for (int c = 0; c < model_.columnCount(); ++c) view_->head().setFilter(c, {});
  read();
  view_->setFocus();
}

void SheetPage::setFilter(int column, const QString& text) {
  view_->head().setFilter(column, text);
  read();
}

void SheetPage::hideCurrentColumn() {
  const int column = view_->currentIndex().column();
  if (column < 0 || view_->head().hiddenSectionCount() + 1 >= view_->head().count()) return;
  view_->setColumnHidden(column, true);
  view_->head().placeFilters();
  emit said(tr("%1 is hidden; “Show all columns” brings it back.").arg(toQ(model_.column(column).name)));
}

void SheetPage::showAllColumns() {
  for (int c = 0; c < model_.columnCount(); ++c) view_->setColumnHidden(c, false);
  view_->head().placeFilters();
}

void SheetPage::nextMarked(bool backwards) {
  const int count = model_.rowCount();
  const int step = backwards ? -1 : 1;
  for (int i = 1; i <= count; ++i) {
    const int row = ((view_->currentIndex().row() + step * i) % count + count) % count;
    if (model_.mark(row) != Mark::None) return view_->goTo(row, view_->currentIndex().column());
  }
  emit said(tr("No record here has a mark."));
}

}  // namespace iterandum
