#include "app/sheet/sheet_page.h"

#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QScrollBar>
#include <QSplitter>
#include <QTimer>
#include <QVBoxLayout>

#include "app/cells/whole_cell.h"
#include "app/records/column_values.h"
#include "app/sheet/listed_changes.h"
#include "app/style/roles.h"
#include "core/scope/column_path.h"
#include "core/value/json.h"

namespace iterandum {
namespace {
// Long enough for the next keystroke, short enough not to be felt.
constexpr int kTypingPauseMs = 180;
// Numbers of links in the sentence that are no phrases.
constexpr int kAdd = 1000000;
}  // namespace

std::string layoutText(const SheetLook& look) {
  JsonWriter out;
  out.beginObject().name("columns").beginArray();
  for (const std::string& column : look.scope.columns) out.string(column);
  out.endArray().name("widths").beginArray();
  for (const int width : look.widths) out.number(width);
  return out.endArray().name("frozen").number(look.frozen).endObject().take();
}

SheetLook layoutFrom(const std::string& table, const std::string& text) {
  SheetLook look;
  look.scope.table = table;
  const auto root = parseJson(text);
  if (!root || root->type != JsonNode::Type::Object) return look;
  if (const JsonNode* columns = root->find("columns"); columns != nullptr) {
    for (const JsonNode& column : columns->items) look.scope.columns.push_back(column.text);
  }
  if (const JsonNode* widths = root->find("widths"); widths != nullptr) {
    for (const JsonNode& width : widths->items) look.widths.push_back(std::atoi(width.text.c_str()));
  }
  if (const JsonNode* frozen = root->find("frozen"); frozen != nullptr) look.frozen = std::atoi(frozen->text.c_str());
  return look;
}

SheetPage::SheetPage(Desk& desk, const Table& table, const SheetLook& look, QWidget* parent)
    : QWidget(parent), desk_(desk), model_(desk, table, this) {
  setObjectName("page");
  setAttribute(Qt::WA_StyledBackground);
  auto* layout = new QVBoxLayout(this);
  layout->setContentsMargins(0, 0, 0, 0);
  layout->setSpacing(0);
  layout->addWidget(buildTop());
  problem_ = new QLabel(this);
  problem_->setObjectName("problem");
  problem_->setWordWrap(true);
  problem_->setTextFormat(Qt::PlainText);
  problem_->setContentsMargins(47, 0, 20, 8);
  problem_->setStyleSheet(QStringLiteral("color: %1;").arg(css(roles().query)));
  problem_->hide();
  layout->addWidget(problem_);
  left_ = new QLabel(this);
  left_->setObjectName("leftTheseRecords");
  left_->setWordWrap(true);
  left_->setTextFormat(Qt::RichText);
  left_->setContentsMargins(47, 0, 20, 8);
  left_->setStyleSheet(QStringLiteral("color: %1;").arg(css(roles().soft)));
  left_->hide();
  layout->addWidget(left_);
  splitter_ = new QSplitter(Qt::Horizontal, this);
  splitter_->setHandleWidth(1);
  view_ = new SheetView(model_, splitter_);
  scope_ = new SheetScope(model_, view_->head(), this);
  card_ = new CardPanel(model_, splitter_);
  values_ = new ValuesPanel(model_, splitter_);
  values_->hide();
  slip_ = new ActSlip(*view_, model_, splitter_);
  slip_->hide();
  merging_ = new MergeSlip(*view_, model_, splitter_);
  merging_->hide();
  doubles_ = new DoublesSlip(*view_, model_, splitter_);
  doubles_->hide();
  file_ = new FileSlip(model_, splitter_);
  file_->hide();
  handOut_ = new HandOutSlip(model_, splitter_);
  handOut_->hide();
  returned_ = new ReturnSlip(desk_, splitter_);
  returned_->hide();
  preview_ = new PrintPreview(splitter_);
  preview_->hide();
  print_ = new PrintSlip(model_, *preview_, splitter_);
  print_->hide();
  lens_ = new LensSlip(model_, splitter_);
  lens_->hide();
  find_ = new FindBar(
      model_, [this] { return shownColumns(); }, this);
  layout->addWidget(find_);
  for (QWidget* part : std::initializer_list<QWidget*>{view_, preview_, card_, values_}) splitter_->addWidget(part);
  for (QWidget* slip : slips()) splitter_->addWidget(slip);
  for (int i = 0; i < splitter_->count(); ++i) {
    const QWidget* part = splitter_->widget(i);
    splitter_->setStretchFactor(i, part == view_ || part == preview_ ? 1 : 0);
  }
  splitter_->setSizes({920, 920, 350, 350, 460, 430, 370, 400, 370, 400, 370, 370});
  splitter_->setCollapsible(0, false);
  layout->addWidget(splitter_, 1);
  foot_ = new FootLine(*view_, model_, this);
  layout->addWidget(foot_);
  place_ = new PlaceKeeper(*view_, model_, this);
  marks_ = new MarkWalk(*view_, model_, this);
  soon_ = new QTimer(this);
  soon_->setSingleShot(true);
  soon_->setInterval(kTypingPauseMs);
  phraseEditor_ = new PhraseEditor(model_, *scope_, this);
  connectParts();
  connectRecords();
  if (!table.notEditable.empty()) {
    problem_->setText(tr("Shown only: %1.").arg(toQ(table.notEditable)));
    problem_->setStyleSheet(QStringLiteral("color: %1;").arg(css(roles().soft)));
  }
  takeLook(look);
  updateSentence();
  readWhenSeen_ = look.readWhenSeen;
  if (!readWhenSeen_) scope_->read();
}

void SheetPage::showEvent(QShowEvent* event) {
  QWidget::showEvent(event);
  if (std::exchange(readWhenSeen_, false)) scope_->read();
}

QWidget* SheetPage::buildTop() {
  auto* bar = new QWidget(this);
  auto* top = new QHBoxLayout(bar);
  top->setContentsMargins(47, 12, 20, 10);
  top->setSpacing(24);
  sentence_ = new SentenceLine(bar);
  count_ = new QLabel(bar);
  count_->setObjectName("count");
  count_->setFont(plain());
  count_->setTextFormat(Qt::RichText);
  top->addWidget(sentence_, 1);
  top->addWidget(count_, 0, Qt::AlignRight | Qt::AlignVCenter);
  return bar;
}

void SheetPage::connectParts() {
  connect(soon_, &QTimer::timeout, scope_, &SheetScope::read);
  connect(&view_->head(), &FilterHeader::filterChanged, this, [this] { readSoon(); });
  connect(&view_->head(), &FilterHeader::sortAsked, scope_, &SheetScope::sort);
  connect(&view_->head(), &FilterHeader::leftDownwards, this, [this](int column) {
    view_->setFocus();
    view_->goTo(view_->currentIndex().isValid() ? view_->currentIndex().row() : 0, column);
  });
  connect(&view_->head(), &FilterHeader::menuAsked, this, [this](int column, const QPoint& where) {
    view_->goTo(std::max(0, view_->currentIndex().row()), column);
    emit menuAsked(Place::Head, where);
  });
  connect(view_, &SheetView::cellMenuAsked, this, [this](const QPoint& where) { emit menuAsked(Place::Cells, where); });
  connect(view_, &SheetGrid::marginMenuAsked, this,
          [this](const QPoint& where) { emit menuAsked(Place::Margin, where); });
  connect(sentence_, &SentenceLine::menuAsked, this,
          [this](const QPoint& where) { emit menuAsked(Place::Sentence, where); });
  connect(foot_, &FootLine::menuAsked, this, [this](const QPoint& where) { emit menuAsked(Place::Cells, where); });
  connect(foot_, &FootLine::asked, this, &SheetPage::commandAsked);
  connect(scope_, &SheetScope::changed, this, [this] {
    soon_->stop();
    updateSentence();
    updateCount();
    if (values_->isVisible()) showValues(values_->column());
    if (print_->isVisible()) {
      if (auto read = shownScope()) print_->open(std::move(*read));
    }
    emit titleChanged();
  });
  connect(scope_, &SheetScope::problem, this, [this](const QString& message) {
    problem_->setText(message);
    problem_->setStyleSheet(QStringLiteral("color: %1;").arg(css(roles().query)));
    problem_->show();
  });
  connect(sentence_, &SentenceLine::opened, this, &SheetPage::openPhrase);
  connect(sentence_, &SentenceLine::takenOut, this, &SheetPage::takeOutPhrase);
  connect(sentence_, &SentenceLine::left, view_, [this] { view_->setFocus(); });
  connect(find_, &FindBar::found, this, [this](int row) { view_->goTo(row, currentColumn()); });
  connect(find_, &FindBar::left, view_, [this] { view_->setFocus(); });
  connect(count_, &QLabel::linkActivated, this, [this](const QString& target) {
    if (target == QLatin1String("stop")) return stopCounting();
    refresh();
  });
  connect(card_, &CardPanel::leaveAsked, this, [this] {
    if (card_->alone()) setAlone(false);
    view_->setFocus();
  });
  connect(card_, &CardPanel::rowAsked, this, [this](int row) { view_->goTo(row, currentColumn()); });
  connect(card_, &CardPanel::recordAsked, this, &SheetPage::showOnCard);
  connect(card_, &CardPanel::fieldEntered, this, [this](int column) {
    if (card_->alone() && column != currentColumn()) view_->goTo(view_->currentIndex().row(), column);
  });
  connect(view_->selectionModel(), &QItemSelectionModel::currentChanged, this, [this](const QModelIndex& now) {
    if (card_->alone() && now.isValid()) card_->followColumn(now.column());
  });
  connect(card_, &CardPanel::openAsked, this, &SheetPage::openAsked);
  connect(values_, &ValuesPanel::leaveAsked, view_, [this] { view_->setFocus(); });
  connect(values_, &ValuesPanel::chosen, scope_, &SheetScope::setFilter);
  connect(values_, &ValuesPanel::spellingChosen, this,
          [this](int column, const std::vector<Value>& others, const Value& right) {
            if (openSlip()) slip_->openForSpellings(column, others, right);
          });
  connect(slip_, &ActSlip::leaveAsked, this, &SheetPage::leavePanel);
  connect(slip_, &ActSlip::told, this, &SheetPage::told);
  connect(merging_, &MergeSlip::leaveAsked, this, &SheetPage::leavePanel);
  connect(merging_, &MergeSlip::told, this, &SheetPage::told);
  for (const SideSlip* slip : std::initializer_list<SideSlip*>{doubles_, file_, handOut_, returned_, print_, lens_})
    connect(slip, &SideSlip::leaveAsked, this, &SheetPage::leavePanel);
  connect(doubles_, &SideSlip::told, this, &SheetPage::told);
  connect(file_, &SideSlip::told, this, &SheetPage::told);
  connect(returned_, &SideSlip::told, this, &SheetPage::told);
  connect(handOut_, &HandOutSlip::fileAsked, this, &SheetPage::copyFileAsked);
  connect(print_, &PrintSlip::fileAsked, this, &SheetPage::printFileAsked);
  connect(print_, &PrintSlip::printerAsked, this, &SheetPage::printerAsked);
  connect(lens_, &LensSlip::told, this, [this](const QString& message) {
    fitColumn();
    emit told(message);
  });
  connect(&desk_.lenses(), &Lenses::changed, this, [this] {
    if (values_->isVisible()) showValues(values_->column());
  });
  connect(view_, &SheetView::said, this, &SheetPage::said);
  connect(view_, &SheetView::offered, this, &SheetPage::offered);
  connect(card_, &CardPanel::childSheetMade, this,
          [this](const SheetView* view) { connect(view, &SheetView::offered, this, &SheetPage::offered); });
  connect(card_, &CardPanel::said, this, &SheetPage::said);
  connect(card_, &CardPanel::menuAsked, this, [this](const QPoint& where) { emit menuAsked(Place::Card, where); });
  connect(marks_, &MarkWalk::said, this, &SheetPage::said);
  connect(&model_, &SheetModel::said, this, &SheetPage::said);
}

void SheetPage::connectRecords() {
  connect(view_, &SheetView::currentRowChanged, card_, &CardPanel::show);
  connect(view_, &SheetView::currentRowChanged, find_, [this](int row) { find_->setCurrent(currentColumn(), row); });
  connect(&model_.source(), &RecordSource::counted, this, &SheetPage::updateCount);
  connect(&model_.source(), &RecordSource::counted, this, &SheetPage::lookForLeft);
  connect(&model_.source(), &RecordSource::loaded, this, &SheetPage::fitColumns);
  connect(&desk_.names(), &ReferenceNames::named, this, [this] {
    if (!fitNamed_) return;
    fitSoon_ = true;
    fitColumns();
    fitNamed_ = desk_.names().asking();
  });
  connect(left_, &QLabel::linkActivated, this, [this] {
    Scope scope;
    scope.table = displayName(model_.table().name);
    scope.filters.push_back({"", "record was just applied"});
    emit openAsked(scope);
  });
  connect(&model_.source(), &RecordSource::counted, card_, &CardPanel::refresh);
  connect(&model_.source(), &RecordSource::failed, this, [this](const QString& message) {
    problem_->setText(tr("These records could not be read: %1").arg(message));
    problem_->show();
    updateCount();
  });
  connect(&model_.source(), &RecordSource::restarted, this, [this] {
    problem_->hide();
    left_->hide();
  });
  connect(&model_.source(), &RecordSource::loaded, card_, [this](int first, int last) {
    const int row = view_->currentIndex().row();
    if (row >= first && row <= last) card_->show(row);
  });
}

void SheetPage::takeLook(const SheetLook& look) {
  scope_->take(look.scope);
  FilterHeader& head = view_->head();
  int visual = 0;
  for (const int width : look.widths) {
    while (visual < head.count() && head.isSectionHidden(head.logicalIndex(visual))) ++visual;
    if (visual >= head.count()) break;
    if (width > 0) head.resizeSection(head.logicalIndex(visual), width);
    ++visual;
  }
  const bool neverLaid = look.widths.empty() && look.frozen == 0;
  head.setFrozen(neverLaid ? leadingKeyColumns() : look.frozen);
  fitSoon_ = neverLaid;
  fitNamed_ = neverLaid;
  place_->begin(look.record, look.column);
  unseenRecord_ = look.record;
  unseenColumn_ = look.column;
}

SheetLook SheetPage::look() const {
  SheetLook look;
  look.scope = scope_->scope();
  const FilterHeader& head = view_->head();
  for (int v = 0; v < head.count(); ++v) {
    const int column = head.logicalIndex(v);
    if (!head.isSectionHidden(column)) look.widths.push_back(head.sectionSize(column));
  }
  look.frozen = head.frozen();
  const QModelIndex current = view_->currentIndex();
  if (current.isValid() && current.row() < model_.source().rows()) look.record = model_.source().key(current.row());
  look.column = std::max(0, current.column());
  if (readWhenSeen_) {
    look.record = unseenRecord_;
    look.column = unseenColumn_;
  }
  return look;
}

QString SheetPage::title() const {
  if (!scopeName_.isEmpty()) {
    const Scope now = scope_->scope();
    const bool same = now.filters == saved_.filters && now.order == saved_.order;
    return same ? scopeName_ : tr("%1 (changed)").arg(scopeName_);
  }
  const bool narrowed = model_.source().where().op != Condition::Op::All;
  return toQ(model_.table().name.name) + (narrowed ? QStringLiteral(" …") : QString());
}

void SheetPage::setScopeName(const QString& name, const Scope& saved) {
  scopeName_ = name;
  saved_ = saved;
  emit titleChanged();
}

void SheetPage::refresh() {
  place_->remember();
  desk_.marks().clearApplied();
  scope_->read();
  desk_.forgetReferences();
}

void SheetPage::readAgain() {
  if (readWhenSeen_) return;
  place_->remember();
  lookForLeft_ = true;
  model_.source().refresh();
  if (values_->isVisible()) showValues(values_->column());
}

void SheetPage::lookForLeft() {
  const Condition where = model_.source().where();
  const std::size_t applied = desk_.marks().appliedCount(model_.table().name);
  if (!lookForLeft_ || !model_.source().complete()) return;
  lookForLeft_ = false;
  if (applied == 0 || where.op == Condition::Op::All) return;
  const auto justApplied = parseCondition(model_.table(), "record was just applied", desk_.conditions());
  if (!justApplied) return;
  Query query;
  query.table = &model_.table();
  query.where = bothHold(where, *justApplied);
  desk_.behind().post(
      this, [query](Session& session, Progress& progress) { return session.count(query, progress); },
      [this, applied](Result<std::uint64_t>&& among) {
        if (!among || *among >= applied) return;
        left_->setText(
            tr("No longer among these: %n record(s) just applied, ", "", static_cast<int>(applied - *among)) +
            QStringLiteral("<a href='show' style='color:%1'>%2</a>").arg(css(roles().blue), tr("show them")));
        left_->show();
      });
}

void SheetPage::stopCounting() {
  model_.source().stop();
  updateCount();
}

void SheetPage::readSoon() { soon_->start(); }

void SheetPage::goToRecord(const ValueTuple& key, int column, std::function<void()> missed) {
  place_->goTo(key, column, std::move(missed));
}

// --- the sentence
// -------------------------------------------------------------------------------------------------------

void SheetPage::updateSentence() {
  using Kind = ScopePhrase::Kind;
  const std::vector<ScopePhrase>& phrases = scope_->phrases();
  const auto conditions =
      std::count_if(phrases.begin(), phrases.end(), [](const ScopePhrase& p) { return p.kind != Kind::Order; });
  const QString name = toQ(model_.table().name.name);
  std::vector<SentenceLine::Piece> pieces{{conditions == 0 ? tr("All of %1").arg(name) : tr("%1 where ").arg(name)}};
  bool first = true;
  bool firstOrder = true;
  const auto addLink = [&] {
    pieces.push_back({QStringLiteral(" ")});
    pieces.push_back({conditions == 0 ? tr("where…") : tr("and…"), kAdd});
  };
  bool linked = false;
  for (std::size_t p = 0; p < phrases.size(); ++p) {
    const ScopePhrase& phrase = phrases[p];
    if (phrase.kind == Kind::Order) {
      if (!linked) addLink();
      linked = true;
      pieces.push_back({firstOrder ? tr(", by ") : tr(", then ")});
      pieces.push_back({phrase.words, static_cast<int>(p)});
      firstOrder = false;
      continue;
    }
    if (!first) pieces.push_back({tr(" and ")});
    first = false;
    // "or" binds less than the "and" between the phrases.
    const bool brackets = conditions > 1 && phrase.condition.op == Condition::Op::Or;
    pieces.push_back({brackets ? QStringLiteral("(%1)").arg(phrase.words) : phrase.words, static_cast<int>(p)});
  }
  if (!linked) addLink();
  sentence_->setPieces(std::move(pieces));
}

QPoint SheetPage::phrasePlace(int phrase) const {
  // Below the whole sentence, which stays legible.
  return sentence_->mapTo(this, QPoint(sentence_->phraseRect(phrase).left(), sentence_->height() + 4));
}

void SheetPage::openPhrase(int phrase) {
  if (phrase == kAdd) return phraseEditor_->addPhrase(phrasePlace(kAdd));
  const auto& phrases = scope_->phrases();
  if (phrase < 0 || phrase >= static_cast<int>(phrases.size())) return;
  phraseEditor_->editPhrase(phrases[static_cast<std::size_t>(phrase)], phrasePlace(phrase));
}

void SheetPage::takeOutPhrase(int phrase) {
  const auto& phrases = scope_->phrases();
  if (phrase < 0 || phrase >= static_cast<int>(phrases.size())) return;
  const ScopePhrase taken = phrases[static_cast<std::size_t>(phrase)];
  if (taken.kind != ScopePhrase::Kind::Order) {
    scope_->setText(taken, {});
    return;
  }
  std::vector<ScopeOrder> order = scope_->order();
  order.erase(order.begin() + taken.at);
  scope_->setOrder(std::move(order));
}

void SheetPage::updateCount() {
  const RecordSource& source = model_.source();
  const QLocale locale;
  const auto link = [](const QString& target, const QString& text) {
    return QStringLiteral(" <a href='%1' style='color:%2'>%3</a>").arg(target, css(roles().blue), text);
  };
  QString text = QStringLiteral("<b>%1</b>")
                     .arg(locale.toString(source.rows()) + (source.complete() ? QString() : QStringLiteral("+")));
  const bool narrowed = source.where().op != Condition::Op::All;
  if (narrowed && source.tableCount()) {
    text += tr(" of %1 records").arg(locale.toString(static_cast<qulonglong>(*source.tableCount())));
  } else {
    text += tr(" records");
  }
  if (source.stopped()) {
    text += tr(", the reading was stopped") + link(QStringLiteral("on"), tr("read on"));
  } else if (source.reading()) {
    text += source.rows() == 0 ? tr(", reading…") : tr(", counting…");
    text += link(QStringLiteral("stop"), tr("stop"));
  }
  count_->setText(text);
}

// Where the sheet does not show the record, another one does.
void SheetPage::showOnCard(const ValueTuple& key) {
  const auto missed = [this, key] {
    Scope scope;
    scope.table = displayName(model_.table().name);
    const std::vector<std::string> names = model_.table().writeKeyColumns();
    for (std::size_t k = 0; k < names.size(); ++k) {
      if (model_.table().column(names[k]) == nullptr) return emit said(tr("This record is not among those shown."));
      scope.filters.push_back({names[k], filterFor(key[k]).toStdString()});
    }
    // Said last: opening a sheet ends what was said before.
    emit openAsked(scope);
    emit told(tr("It is not among the records of this sheet, and is shown in one of its own."));
  };
  goToRecord(key, currentColumn(), missed);
  card_->focusField(currentColumn());
}

// --- beside the sheet
// ---------------------------------------------------------------------------------------------------

void SheetPage::showValues(int column) { values_->show(column, scope_->whereWithout(column)); }

void SheetPage::focusCard() {
  showBeside(card_);
  card_->focusField(std::max(0, view_->currentIndex().column()));
}

void SheetPage::focusFilter() { view_->head().focusFilter(std::max(0, view_->currentIndex().column())); }

void SheetPage::focusSentence() {
  if (!scope_->phrases().empty()) sentence_->setCurrent(0);
  sentence_->setFocus();
}

void SheetPage::addCondition() { openPhrase(kAdd); }

void SheetPage::clearFilters() {
  scope_->clearFilters();
  view_->setFocus();
}

void SheetPage::sortByCurrent() { scope_->sort(view_->currentIndex().column(), false); }

void SheetPage::sortAlsoByCurrent() { scope_->sort(view_->currentIndex().column(), true); }

// A filter that stands there already is narrowed by what is left out, and replaced by what is meant alone.
void SheetPage::keepValue(bool others) {
  const QModelIndex current = view_->currentIndex();
  if (!current.isValid()) return;
  const CellState state = model_.cell(current.row(), current.column());
  const QString column = model_.columnName(current.column());
  if (!state.loaded || state.addedRecord) return emit said(tr("Only records of the database can be filtered by."));
  QString filter = filterFor(state.stored);
  if (filter.isEmpty()) return emit said(tr("%1 holds bytes, which no filter finds.").arg(column));
  if (others) {
    filter = state.stored.isNull() ? QStringLiteral("any value") : QStringLiteral("not ") + filter;
    const QString before = scope_->filter(current.column()).trimmed();
    if (!before.isEmpty()) filter = QStringLiteral("(%1) and %2").arg(before, filter);
  }
  place_->remember();
  scope_->setFilter(current.column(), filter);
}

void SheetPage::find(FindBar::By by) { find_->open(by, currentColumn(), view_->currentIndex().row()); }

void SheetPage::findNext(bool backwards) {
  if (!find_->isVisible()) return find(FindBar::By::Column);
  find_->step(backwards);
}

void SheetPage::showWhole() {
  const QModelIndex current = view_->currentIndex();
  if (!current.isValid()) return;
  const CellState state = model_.cell(current.row(), current.column());
  if (!state.loaded) return;
  const Lens* lens = model_.lens(current.column());
  if (lens != nullptr && lens->kind == LensKind::Masked)
    return emit said(tr("%1 is masked. F2 opens it; “Show what is masked” is in the list of commands.")
                         .arg(model_.columnName(current.column())));
  auto* whole = new WholeCell(this);
  connect(whole, &WholeCell::closed, this, [this, whole] {
    whole->deleteLater();
    view_->setFocus();
  });
  connect(whole, &WholeCell::said, this, &SheetPage::said);
  connect(whole, &WholeCell::fileAsked, this,
          [this, whole, cell = QPersistentModelIndex(current)] { takeFileInto(cell, whole); });
  // A borrowed cell is many records': it is changed where that is said.
  const Column& column = model_.column(current.column());
  const bool takesFile = column.type == TypeClass::Bytes && !model_.isBorrowed(current.column()) &&
                         model_.notEditable(current.row(), current.column()).isEmpty();
  whole->open(
      tr("%1 of %2").arg(model_.columnName(current.column()), model_.ownerTitle(current.row(), current.column())),
      state.effective(), takesFile);
}

void SheetPage::takeFileInto(const QPersistentModelIndex& cell, WholeCell* whole) {
  const QString path = QFileDialog::getOpenFileName(this, tr("The file that the cell is to hold"));
  if (path.isEmpty()) return;
  model_.desk().behind().post(
      whole, [path](Session&, Progress&) { return contentOf(path); },
      [this, cell, whole, name = QFileInfo(path).fileName()](Result<std::string>&& content) {
        if (!content) return emit said(tr("%1 could not be read: %2").arg(name, toQ(content.error().text())));
        if (!cell.isValid()) return emit said(tr("The record is no longer there."));
        const Value value = Value::bytes(std::move(*content));
        if (const auto staged = model_.stage({cell}, value, name); !staged)
          return emit said(tr("%1 is not taken: %2").arg(name, toQ(staged.error().message)));
        whole->open(tr("%1 of %2").arg(model_.columnName(cell.column()), model_.ownerTitle(cell.row(), cell.column())),
                    value, true);
      });
}

}  // namespace iterandum
