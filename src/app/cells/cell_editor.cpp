#include "app/cells/cell_editor.h"

#include <QAction>
#include <QApplication>
#include <QCalendarWidget>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPainter>
#include <QPlainTextEdit>
#include <QVBoxLayout>
#include <set>

#include "app/records/record_search.h"
#include "app/style/roles.h"
#include "core/catalogue/column_rules.h"

namespace iterandum {
namespace {

constexpr int kMostOffers = 60;

// Keys of editing belong to the editor while it is open, not to the window's commands; those come after what is typed
// was taken.
bool isEditing(const QKeyEvent& event) {
  const bool ctrl = (event.modifiers() & Qt::ControlModifier) != 0;
  const bool alt = (event.modifiers() & Qt::AltModifier) != 0;
  const int key = event.key();
  if (key >= Qt::Key_F1 && key <= Qt::Key_F35) return key == Qt::Key_F2 && event.modifiers() == Qt::NoModifier;
  if (ctrl && (key == Qt::Key_PageDown || key == Qt::Key_PageUp)) return false;
  const bool letter = (key >= Qt::Key_A && key <= Qt::Key_Z) || (key >= Qt::Key_0 && key <= Qt::Key_9);
  if (!ctrl || !letter) return true;
  if (alt) return false;
  static const std::set<int> kOfLines{Qt::Key_A, Qt::Key_C, Qt::Key_U, Qt::Key_V, Qt::Key_X, Qt::Key_Y, Qt::Key_Z};
  const bool shift = (event.modifiers() & Qt::ShiftModifier) != 0;
  return shift ? key == Qt::Key_Z : kOfLines.contains(key);
}

// The condition that finds records by what they are called, or by their key.
Condition called(const Table& target, const std::vector<std::string>& readable, const std::string& keyColumn,
                 const QString& text) {
  Condition any = calledLike(readable, text);
  const Column* key = target.column(keyColumn);
  if (key == nullptr) return any;
  if (auto value = typedValue(*key, text.toStdString()); value && !value->isNull()) {
    Condition part;
    part.op = Condition::Op::Equal;
    part.column = keyColumn;
    part.value = *value;
    any.parts.push_back(std::move(part));
  }
  return any;
}

// The leaf of a calendar: a day marked among the others.
QIcon calendarIcon(double ratio) {
  QPixmap out(QSize(16, 16) * ratio);
  out.setDevicePixelRatio(ratio);
  out.fill(Qt::transparent);
  QPainter painter(&out);
  painter.setRenderHint(QPainter::Antialiasing);
  painter.setPen(QPen(roles().soft, 1.2));
  painter.drawRoundedRect(QRectF(2, 3.5, 12, 10.5), 1.5, 1.5);
  painter.drawLine(QPointF(2, 6.5), QPointF(14, 6.5));
  painter.drawLine(QPointF(5, 2), QPointF(5, 4.5));
  painter.drawLine(QPointF(11, 2), QPointF(11, 4.5));
  painter.fillRect(QRectF(8.6, 9.2, 2.8, 2.8), roles().blue);
  return {out};
}

}  // namespace

CellEditor::CellEditor(SheetModel& model, const QModelIndex& index, const QRect& cell, const QString& start,
                       bool replace, QWidget* parent)
    : QWidget(parent), model_(model), index_(index), typing_(replace) {
  setObjectName("cellEditor");
  setAttribute(Qt::WA_StyledBackground);
  setGeometry(cell);
  auto* layout = new QVBoxLayout(this);
  layout->setContentsMargins(0, 0, 0, 0);
  const CellState state = model_.cell(index.row(), index.column());
  opened_ = model_.editText(index.column(), state.effective());
  const bool byName =
      model_.reference(index.column()) != nullptr || model_.column(index.column()).type == TypeClass::Boolean;
  if (byName && !state.effective().isNull()) opened_ = model_.shown(index.column(), state.effective());
  const QString text = replace ? start : (state.typedWrong.isEmpty() ? opened_ : state.typedWrong);
  const bool manyLines = text.contains(QLatin1Char('\n'));
  if (manyLines) {
    buildLines(text);
  } else {
    buildLine(text, replace);
  }
  popup_ = new QFrame(window());
  popup_->setObjectName("palette");
  popup_->setFrameShape(QFrame::NoFrame);
  auto* popupLayout = new QVBoxLayout(popup_);
  popupLayout->setContentsMargins(6, 6, 6, 6);
  reason_ = new QLabel(popup_);
  reason_->setWordWrap(true);
  reason_->setObjectName("reason");
  reason_->setStyleSheet(QStringLiteral("color: %1;").arg(css(roles().query)));
  reason_->hide();
  popupLayout->addWidget(reason_);
  if (model_.isBorrowed(index.column())) {
    others_ = new QLabel(tr("Counting the records that share this…"), popup_);
    others_->setWordWrap(true);
    others_->setObjectName("others");
    popupLayout->addWidget(others_);
    countOthers();
  }
  if (offersChoices()) buildChoices();
  popup_->hide();
  connect(this, &QObject::destroyed, popup_, &QObject::deleteLater);
  if (list_ != nullptr) fillChoices();
  if (others_ != nullptr)
    QMetaObject::invokeMethod(
        this, [this] { placePopup(); }, Qt::QueuedConnection);
  if (!state.typedWrong.isEmpty() && !replace) showReason(state.wrongBecause);
  // The letter that opened it counts.
  if (replace && line_ != nullptr) QMetaObject::invokeMethod(this, &CellEditor::tellRules, Qt::QueuedConnection);
}

void CellEditor::buildLine(const QString& text, bool replace) {
  line_ = new QLineEdit(text, this);
  line_->setObjectName("cellLine");
  line_->setFont(plain());
  line_->setAccessibleName(toQ(model_.column(index_.column()).name));
  if (model_.lens(index_.column()) == nullptr)
    line_->setPlaceholderText(toQ(wantedInWords(model_.column(index_.column()))));
  layout()->addWidget(line_);
  if (offersCalendar()) {
    QAction* calendar = line_->addAction(calendarIcon(devicePixelRatioF()), QLineEdit::TrailingPosition);
    calendar->setObjectName("openCalendar");
    calendar->setToolTip(tr("A calendar (Alt+Down)"));
    connect(calendar, &QAction::triggered, this, &CellEditor::openCalendar);
  }
  setFocusProxy(line_);
  line_->installEventFilter(this);
  // Where a value is chosen, typing looks for another one; else it goes on at the end.
  if (!replace && offersChoices()) line_->selectAll();
  connect(line_, &QLineEdit::textEdited, this, [this] {
    reason_->hide();
    if (list_ != nullptr) {
      fillChoices();
    } else {
      placePopup();
    }
    tellRules();
  });
}

// Told while it is typed; taken all the same, since another cell may be what has to follow.
void CellEditor::tellRules() {
  if (done_ || line_ == nullptr) return;
  const QString typed = line_->text();
  const auto value = typed.isEmpty() ? Result<Value>(Value()) : model_.typed(index_.column(), typed);
  if (!value) return;
  const QString breaks = model_.wouldBreak(index_.row(), index_.column(), *value);
  if (!breaks.isEmpty()) showReason(breaks);
}

void CellEditor::buildLines(const QString& text) {
  lines_ = new QPlainTextEdit(text, this);
  lines_->setObjectName("cellLines");
  lines_->setFont(plain());
  lines_->setTabChangesFocus(true);
  layout()->addWidget(lines_);
  setFocusProxy(lines_);
  lines_->installEventFilter(this);
  lines_->moveCursor(QTextCursor::End);
  QRect wide = geometry();
  wide.setHeight(std::max(wide.height(), 120));
  wide.setWidth(std::max(wide.width(), 260));
  wide.moveRight(std::min(wide.right(), parentWidget()->width() - 4));
  wide.moveBottom(std::min(wide.bottom(), parentWidget()->height() - 4));
  setGeometry(wide);
}

void CellEditor::countOthers() {
  const auto sharing = model_.sharing(index_.row(), index_.column());
  if (!sharing) return;
  Query query;
  query.table = &model_.table();
  query.where = sharing->where;
  model_.desk().behind().post(
      this, [query](Session& session, Progress& progress) { return session.count(query, progress); },
      [this, own = sharing->withThisOne](Result<std::uint64_t>&& count) {
        if (!count)
          return others_->setText(tr("It cannot be counted who shares this: %1").arg(toQ(count.error().text())));
        const auto others = static_cast<int>(*count - std::min<std::uint64_t>(*count, own ? 1 : 0));
        const QString here = toQ(model_.table().name.name);
        othersSaid_ = others == 0 ? tr("shared with no other") : tr("shared with %n other(s)", "", others);
        const QString whose = model_.ownerTitle(index_.row(), index_.column());
        others_->setText(others == 0 ? tr("This changes %1 of “%2”. No other record of %3 shows it.")
                                           .arg(toQ(model_.column(index_.column()).name), whose, here)
                                     : tr("This changes %1 of “%2”, in %n other record(s) of %3 too.", "", others)
                                           .arg(toQ(model_.column(index_.column()).name), whose, here));
        placePopup();
      });
}

bool CellEditor::offersChoices() const {
  const Column& column = model_.column(index_.column());
  return lines_ == nullptr && (!column.allowed.empty() || column.type == TypeClass::Boolean ||
                               model_.reference(index_.column()) != nullptr || isLabelled());
}

bool CellEditor::offersCalendar() const {
  const TypeClass type = model_.column(index_.column()).type;
  return type == TypeClass::Date || type == TypeClass::Timestamp;
}

bool CellEditor::isLabelled() const {
  const Lens* lens = model_.lens(index_.column());
  return lens != nullptr && lens->kind == LensKind::Labels;
}

void CellEditor::buildChoices() {
  list_ = new QListWidget(popup_);
  list_->setObjectName("choices");
  list_->setFocusPolicy(Qt::NoFocus);
  list_->setFont(plain());
  list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  list_->setTextElideMode(Qt::ElideRight);
  popup_->layout()->addWidget(list_);
  connect(list_, &QListWidget::itemClicked, this, [this](QListWidgetItem* item) {
    const auto& [value, shown] = offers_[static_cast<std::size_t>(list_->row(item))];
    take(value, shown, Leave::Stay);
  });
}

void CellEditor::fillChoices() {
  const Column& column = model_.column(index_.column());
  if (model_.reference(index_.column()) != nullptr) return searchRecords();
  std::vector<Value> values = column.allowed;
  if (column.type == TypeClass::Boolean) values = {Value::integer(1), Value::integer(0)};
  if (isLabelled()) {
    values.clear();
    for (const LensLabel& label : model_.lens(index_.column())->labels) {
      if (auto value = typedValue(column, label.stored)) values.push_back(std::move(*value));
    }
  }
  if (column.nullable) values.emplace_back();
  offers_.clear();
  list_->clear();
  const QString typed = line_->text();
  const bool all = typed.isEmpty() || untouched();
  inList_ = false;
  for (const Value& v : values) {
    const QString shown = shownValue(column, v, model_.lens(index_.column()));
    if (!all && !shown.startsWith(typed, Qt::CaseInsensitive)) continue;
    offers_.emplace_back(v, shown);
    list_->addItem(shown);
  }
  goToPresent();
  placePopup();
}

void CellEditor::goToPresent() {
  if (list_ == nullptr || !untouched() || text().isEmpty()) return;
  const Value now = model_.cell(index_.row(), index_.column()).effective();
  for (std::size_t i = 0; i < offers_.size(); ++i) {
    if (!sameValue(offers_[i].first, now)) continue;
    list_->setCurrentRow(static_cast<int>(i));
    list_->scrollToItem(list_->currentItem(), QAbstractItemView::PositionAtCenter);
  }
}

void CellEditor::searchRecords() {
  const Reference* reference = model_.reference(index_.column());
  const Table* target = model_.desk().catalogue().find(reference->target);
  if (target == nullptr) return;
  const std::vector<std::string> readable = model_.desk().names().readable(*target);
  const std::string keyColumn = reference->targetColumns[0];
  const QString typed = line_->text();
  const Value now = model_.cell(index_.row(), index_.column()).effective();
  const bool atFirst = untouched() && !now.isNull() && now.kind() != Value::Kind::PendingKey;
  Query query;
  query.table = target;
  query.columns = readable;
  query.columns.push_back(keyColumn);
  query.limit = kMostOffers;
  if (!readable.empty()) query.order = {{readable[0], false}};
  if (!typed.isEmpty() && !untouched()) query.where = called(*target, readable, keyColumn, typed);
  inList_ = false;
  const std::uint64_t search = ++search_;
  // What was offered for another text is nothing to choose from.
  searching_ = true;
  waiting_.reset();
  list_->setCurrentRow(-1);
  model_.desk().front().post(
      this,
      [query, present = atFirst ? now : Value()](Session& session,
                                                 Progress& progress) -> Result<std::vector<ValueTuple>> {
        std::vector<ValueTuple> rows;
        bool isThere = present.isNull();
        const RowSink take = [&](ValueTuple&& row) {
          isThere = isThere || sameValue(row.back(), present);
          rows.push_back(std::move(row));
          return true;
        };
        ITERANDUM_TRY(session.select(query, take, progress));
        if (isThere) return rows;
        // What the cell points at now heads the list when it is not among the first of all.
        Query own = query;
        own.where = {};
        own.where.op = Condition::Op::Equal;
        own.where.column = query.columns.back();
        own.where.value = present;
        std::vector<ValueTuple> others = std::move(rows);
        rows.clear();
        ITERANDUM_TRY(session.select(own, take, progress));
        rows.insert(rows.end(), std::make_move_iterator(others.begin()), std::make_move_iterator(others.end()));
        return rows;
      },
      [this, search, nullable = model_.column(index_.column()).nullable](Result<std::vector<ValueTuple>>&& rows) {
        if (search != search_) return;
        searching_ = false;
        offers_.clear();
        list_->clear();
        if (!rows) return showReason(tr("The records could not be looked up: %1").arg(toQ(rows.error().text())));
        list_->clear();
        for (const ValueTuple& row : *rows) {
          QString shown;
          for (std::size_t c = 0; c + 1 < row.size(); ++c) {
            const QString part = toQ(canonicalText(row[c]));
            if (!part.isEmpty()) shown += (shown.isEmpty() ? "" : ", ") + part;
          }
          offers_.emplace_back(row.back(), shown);
          list_->addItem(shown + QStringLiteral("   ") + toQ(canonicalText(row.back())));
        }
        if (nullable && line_->text().isEmpty()) {
          offers_.emplace_back(Value(), tr("no value"));
          list_->addItem(tr("no value"));
        }
        if (offers_.empty()) showReason(tr("No record is called like this."));
        goToPresent();
        placePopup();
        if (const auto leave = std::exchange(waiting_, std::nullopt)) commit(*leave);
      });
}

void CellEditor::placePopup() {
  const bool anything = (list_ != nullptr && list_->count() > 0) || calendar_ != nullptr || others_ != nullptr ||
                        reason_->isVisibleTo(popup_);
  if (!anything || done_) {
    popup_->hide();
    return;
  }
  if (list_ != nullptr) {
    list_->setVisible(list_->count() > 0);
    list_->setFixedHeight(
        std::min(8, std::max(1, list_->count())) * (list_->sizeHintForRow(0) > 0 ? list_->sizeHintForRow(0) : 22) + 6);
  }
  const QPoint below = mapTo(window(), QPoint(0, height() + 2));
  const int width = std::max(this->width(), 280);
  popup_->setFixedWidth(width);
  popup_->adjustSize();
  QPoint at = below;
  at.setX(std::min(at.x(), window()->width() - width - 6));
  if (at.y() + popup_->height() > window()->height()) at.setY(mapTo(window(), QPoint(0, 0)).y() - popup_->height() - 2);
  popup_->move(at);
  popup_->raise();
  popup_->show();
}

void CellEditor::openCalendar() {
  if (calendar_ != nullptr || line_ == nullptr) return;
  calendar_ = new QCalendarWidget(popup_);
  calendar_->setVerticalHeaderFormat(QCalendarWidget::NoVerticalHeader);
  const QDate now = QDate::fromString(line_->text().left(10), Qt::ISODate);
  if (now.isValid()) calendar_->setSelectedDate(now);
  popup_->layout()->addWidget(calendar_);
  connect(calendar_, &QCalendarWidget::activated, this, [this](QDate date) {
    line_->setText(date.toString(Qt::ISODate) + line_->text().mid(10));
    line_->setFocus();
  });
  connect(calendar_, &QCalendarWidget::clicked, this,
          [this](QDate date) { line_->setText(date.toString(Qt::ISODate) + line_->text().mid(10)); });
  calendar_->installEventFilter(this);
  placePopup();
  calendar_->setFocus();
}

QString CellEditor::text() const { return lines_ != nullptr ? lines_->toPlainText() : line_->text(); }

void CellEditor::showReason(const QString& reason) {
  reason_->setText(reason);
  reason_->show();
  placePopup();
}

void CellEditor::take(const Value& value, const QString& shown, Leave leave) {
  if (others_ != nullptr && othersSaid_.isEmpty()) return showReason(tr("One moment, until it is counted."));
  if (forMany_ == Many::Always) return emit forAll(shown, value);
  const auto staged = model_.stage({index_}, value, shown, othersSaid_);
  if (!staged) return showReason(toQ(staged.error().message));
  done_ = true;
  popup_->hide();
  emit finished(leave);
}

void CellEditor::settle() {
  if (done_) return;
  done_ = true;
  popup_->hide();
  // What is meant for many is taken only when somebody says so.
  if (!index_.isValid() || untouched() || forMany_ == Many::Always) return;
  if (const auto offer = meant()) {
    const auto staged = model_.stage({index_}, offer->first, offer->second, othersSaid_);
    if (staged) return;
  }
  model_.stageText(index_, text(), othersSaid_);
}

std::optional<std::pair<Value, QString>> CellEditor::meant() const {
  if (list_ == nullptr || searching_ || text().isEmpty()) return std::nullopt;
  if (offers_.size() == 1) return offers_.front();
  // A key that was typed is that key; one that is called exactly so is meant before those that have it in their name.
  if (model_.typed(index_.column(), text())) return std::nullopt;
  const auto isSo = [&](const auto& offer) { return offer.second.compare(text(), Qt::CaseInsensitive) == 0; };
  if (std::count_if(offers_.begin(), offers_.end(), isSo) != 1) return std::nullopt;
  return *std::find_if(offers_.begin(), offers_.end(), isSo);
}

void CellEditor::finishAs(Leave leave) {
  done_ = true;
  popup_->hide();
  emit finished(leave);
}

bool CellEditor::commit(Leave leave) {
  if (done_ || !index_.isValid()) return true;
  if (list_ != nullptr && inList_ && list_->currentRow() >= 0 &&
      list_->currentRow() < static_cast<int>(offers_.size())) {
    const auto [value, shown] = offers_[static_cast<std::size_t>(list_->currentRow())];
    take(value, shown, leave);
    return done_;
  }
  if (untouched()) {
    model_.forgetWrong(index_);
    finishAs(leave);
    return true;
  }
  if (searching_ && !text().isEmpty()) {
    waiting_ = leave;
    return false;
  }
  if (const auto offer = meant()) {
    take(offer->first, offer->second, leave);
    return done_;
  }
  if (list_ != nullptr && offers_.size() > 1 && !text().isEmpty() && !model_.typed(index_.column(), text())) {
    showReason(tr("Several are called like this: which one?"));
    return false;
  }
  if (others_ != nullptr && othersSaid_.isEmpty()) {
    showReason(tr("One moment, until it is counted."));
    return false;
  }
  if (forMany_ == Many::Always) {
    emit forAll(text(), std::nullopt);
    return done_;
  }
  if (!model_.stageText(index_, text(), othersSaid_)) {
    showReason(model_.cell(index_.row(), index_.column()).wrongBecause);
    return false;
  }
  done_ = true;
  popup_->hide();
  emit finished(leave);
  return true;
}

bool CellEditor::key(QKeyEvent* event) {
  const bool ctrl = (event->modifiers() & Qt::ControlModifier) != 0;
  const bool alt = (event->modifiers() & Qt::AltModifier) != 0;
  const bool shift = (event->modifiers() & Qt::ShiftModifier) != 0;
  switch (event->key()) {
    case Qt::Key_Escape:
      done_ = true;
      popup_->hide();
      model_.forgetWrong(index_);
      emit cancelled();
      return true;
    case Qt::Key_Return:
    case Qt::Key_Enter:
      return enter(alt, ctrl, shift);
    case Qt::Key_F2:
      typing_ = false;  // from here on, arrows move inside the text
      return true;
    case Qt::Key_Tab:
      commit(Leave::Right);
      return true;
    case Qt::Key_Backtab:
      commit(Leave::Left);
      return true;
    case Qt::Key_Down:
    case Qt::Key_Up:
    case Qt::Key_Left:
    case Qt::Key_Right:
      return arrow(event);
    case Qt::Key_PageDown:
    case Qt::Key_PageUp: {
      if (list_ == nullptr || list_->count() == 0) return false;
      constexpr int kPage = 8;
      inList_ = true;
      const int step = event->key() == Qt::Key_PageDown ? kPage : -kPage;
      list_->setCurrentRow(std::clamp(list_->currentRow() + step, 0, list_->count() - 1));
      return true;
    }
    default:
      return false;
  }
}

// Enter takes what is typed; with Ctrl into all selected cells; with Alt, in a text, it begins a new line.
bool CellEditor::enter(bool newLine, bool all, bool upwards) {
  if (all && forMany_ != Many::No) {
    const int row = list_ == nullptr ? -1 : list_->currentRow();
    std::optional<Value> chosen;
    if (const auto offer = meant()) chosen = offer->first;
    if (row >= 0 && row < static_cast<int>(offers_.size())) chosen = offers_[static_cast<std::size_t>(row)].first;
    emit forAll(text(), chosen);
    return true;
  }
  if (lines_ != nullptr && !all) return false;
  if (line_ != nullptr && (all || newLine) && model_.column(index_.column()).type == TypeClass::Text) {
    const QString now = line_->text();
    line_->deleteLater();
    line_ = nullptr;
    buildLines(now + QLatin1Char('\n'));
    lines_->show();
    lines_->setFocus();
    return true;
  }
  commit(upwards ? Leave::Up : Leave::Down);
  return true;
}

// In the list where one is open; else, where typing began the editing, on to the next cell, as in every spreadsheet.
bool CellEditor::arrow(QKeyEvent* event) {
  const bool upDown = event->key() == Qt::Key_Down || event->key() == Qt::Key_Up;
  if (upDown && (event->modifiers() & Qt::AltModifier) != 0 && offersCalendar()) {
    openCalendar();
    return true;
  }
  if (upDown && list_ != nullptr && list_->count() > 0) {
    const int step = event->key() == Qt::Key_Down ? 1 : -1;
    inList_ = true;
    list_->setCurrentRow(std::clamp(list_->currentRow() + step, 0, list_->count() - 1));
    return true;
  }
  if (!typing_ || lines_ != nullptr || (event->modifiers() & ~Qt::KeypadModifier) != Qt::NoModifier) return false;
  switch (event->key()) {
    case Qt::Key_Down:
      commit(Leave::Down);
      break;
    case Qt::Key_Up:
      commit(Leave::Up);
      break;
    default:
      commit(event->key() == Qt::Key_Right ? Leave::ToTheRight : Leave::ToTheLeft);
      break;
  }
  return true;
}

bool CellEditor::eventFilter(QObject* watched, QEvent* event) {
  if (event->type() == QEvent::KeyPress && watched == calendar_) {
    if (static_cast<QKeyEvent*>(event)->key() == Qt::Key_Escape) {
      line_->setFocus();
      return true;
    }
    return false;
  }
  if (event->type() == QEvent::ShortcutOverride) {
    if (!isEditing(*static_cast<QKeyEvent*>(event))) return true;
    event->accept();
    return false;
  }
  if (event->type() == QEvent::KeyPress && key(static_cast<QKeyEvent*>(event))) return true;
  if (event->type() == QEvent::FocusOut && !done_) {
    const QWidget* to = QApplication::focusWidget();
    const bool inside = to != nullptr && (to == this || isAncestorOf(to) || popup_->isAncestorOf(to));
    // Going elsewhere takes what was typed; what does not fit stays visible in the cell, with the reason.
    if (!inside && static_cast<QFocusEvent*>(event)->reason() != Qt::PopupFocusReason &&
        static_cast<QFocusEvent*>(event)->reason() != Qt::ActiveWindowFocusReason) {
      settle();
      emit finished(Leave::Stay);
    }
  }
  return QWidget::eventFilter(watched, event);
}

}  // namespace iterandum
