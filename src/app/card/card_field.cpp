#include "app/card/card_field.h"

#include <QApplication>
#include <QContextMenuEvent>
#include <QFocusEvent>
#include <QKeyEvent>
#include <QPainter>
#include <QTextLayout>
#include <algorithm>
#include <climits>
#include <utility>

#include "app/style/roles.h"

namespace iterandum {
namespace {

constexpr int kLine = 30;      // the height of a field of one line
constexpr int kMostLines = 6;  // of a long text; all of it is in its editor

// The runs as one text that can be broken into lines.
std::pair<QString, QList<QTextLayout::FormatRange>> joined(const std::vector<TextRun>& runs) {
  QString text;
  QList<QTextLayout::FormatRange> formats;
  for (const TextRun& run : runs) {
    if (!text.isEmpty()) text += QStringLiteral("  ");
    QTextCharFormat format;
    format.setForeground(run.color);
    format.setFontStrikeOut(run.struck);
    format.setFontItalic(run.italic);
    if (run.bold) format.setFontWeight(QFont::DemiBold);
    formats << QTextLayout::FormatRange{static_cast<int>(text.size()), static_cast<int>(run.text.size()), format};
    text += run.text;
  }
  return {text, formats};
}

// Breaks it into lines of a width; how high they are.
qreal layOut(QTextLayout& layout, const QList<QTextLayout::FormatRange>& formats, int width) {
  layout.setFormats(formats);
  layout.beginLayout();
  qreal height = 0;
  for (int n = 0; n < kMostLines; ++n) {
    QTextLine line = layout.createLine();
    if (!line.isValid()) break;
    line.setLineWidth(std::max(40, width));
    line.setPosition({0, height});
    height += line.height();
  }
  layout.endLayout();
  return height;
}

}  // namespace

CardField::CardField(SheetModel& model, int column, QWidget* parent) : QWidget(parent), model_(model), column_(column) {
  setFocusPolicy(Qt::StrongFocus);
  setMinimumHeight(kLine);
  QSizePolicy policy(QSizePolicy::Preferred, QSizePolicy::Fixed);
  policy.setHeightForWidth(true);
  setSizePolicy(policy);
  setObjectName(QStringLiteral("field-") + toQ(model.column(column).name));
  setWords({}, {});
}

void CardField::setWords(const QString& label, const QString& hint) {
  const Column& column = model_.column(column_);
  label_ = label.isEmpty() ? toQ(column.name) : label;
  hint_ = hint;
  setAccessibleName(label_);
  const QString known = hint.isEmpty() ? toQ(column.comment) : hint;
  setAccessibleDescription(known);
  setToolTip(label.isEmpty() ? known : toQ(column.name) + (known.isEmpty() ? QString() : QStringLiteral("\n") + known));
  updateGeometry();
  update();
}

int CardField::hintHeight() const { return hint_.isEmpty() ? 0 : QFontMetrics(plain(0.85)).height() + 4; }

int CardField::labelWidth(int width) const {
  constexpr int kMost = 150;
  return std::min(width * 2 / 5, kMost);
}

QRect CardField::cell() const {
  const int label = labelWidth(width());
  return {x() + label, y(), width() - label, height() - hintHeight()};
}

bool CardField::isWide() const {
  constexpr std::size_t kLong = 50;  // bytes
  constexpr qsizetype kLookedAt = 200;
  const Column& column = model_.column(column_);
  if (wide_ || column.type != TypeClass::Text || !column.allowed.empty() || model_.reference(column_) != nullptr)
    return wide_;
  const auto isLong = [&](int row) {
    const Value value = model_.cell(row, column_).effective();
    return value.isString() && value.asString().size() > kLong;
  };
  const QList<int> rows = model_.source().loadedRows();
  const auto end = rows.begin() + std::min(kLookedAt, rows.size());
  wide_ = (row_ >= 0 && row_ < model_.rowCount() && isLong(row_)) || std::any_of(rows.begin(), end, isLong);
  return wide_;
}

void CardField::show(int row) {
  row_ = row;
  updateGeometry();
  update();
}

void CardField::setPinned(bool pinned) {
  pinned_ = pinned;
  update();
}

bool CardField::isNew() const { return row_ >= 0 && row_ < model_.rowCount() && model_.ref(row_).isAdded(); }

std::vector<TextRun> CardField::runs() const {
  if (row_ < 0 || row_ >= model_.rowCount()) return {};
  std::vector<TextRun> out = cellRuns(model_, column_, model_.cell(row_, column_));
  if (model_.column(column_).computed) out.push_back({tr("computed"), roles().faint});
  return out;
}

int CardField::heightForWidth(int width) const {
  const int hint = hintHeight();
  if (model_.column(column_).type != TypeClass::Text) return kLine + hint;
  const auto [text, formats] = joined(runs());
  const int room = width - labelWidth(width) - 14;
  if (QFontMetrics(plain()).horizontalAdvance(text) <= room) return kLine + hint;
  QTextLayout layout(text, plain());
  return std::max(kLine, static_cast<int>(layOut(layout, formats, room)) + 12) + hint;
}

void CardField::paintLines(QPainter& painter, const QRect& where) const {
  const auto [text, formats] = joined(runs());
  QTextLayout layout(text, plain());
  layOut(layout, formats, where.width());
  layout.draw(&painter, QPointF(where.left(), where.top() + 6));
}

// At the right edge of a field of a new record: whether its value goes on to the next one.
QRect CardField::pinRect() const {
  const int wide = QFontMetrics(plain(0.85)).horizontalAdvance(tr("kept for the next")) + 12;
  return {width() - wide, 0, wide, kLine - 1};
}

void CardField::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  const Roles& r = roles();
  if (row_ < 0 || row_ >= model_.rowCount()) return;
  const CellState state = model_.cell(row_, column_);
  const bool query = state.needsALook();
  if (query) painter.fillRect(rect(), r.queryWash);
  if (state.staged && !query) painter.fillRect(rect(), r.blueWash);
  const int label = labelWidth(width());
  painter.setFont(plain(0.95));
  painter.setPen(r.soft);
  const QString name = painter.fontMetrics().elidedText(label_, Qt::ElideRight, label - 8);
  painter.drawText(QRect(6, 0, label, kLine - 1), Qt::AlignVCenter, name);
  const int lines = height() - hintHeight();
  QRect where(label + 8, 0, width() - label - 14, lines - 1);
  const bool offersPin = isNew() && (pinned_ || hasFocus()) && model_.columnNotEditable(column_).isEmpty();
  if (offersPin) where.setRight(pinRect().left());
  if (lines > kLine) {
    paintLines(painter, where);
  } else {
    drawRuns(&painter, where, plain(), runs(), false);
  }
  if (!hint_.isEmpty()) {
    painter.setFont(plain(0.85));
    painter.setPen(r.soft);
    const QRect below(label + 8, lines - 4, width() - label - 14, hintHeight());
    painter.drawText(below, Qt::AlignTop, painter.fontMetrics().elidedText(hint_, Qt::ElideRight, below.width()));
  }
  if (offersPin) {
    painter.setFont(plain(0.85));
    painter.setPen(pinned_ ? r.leaf : r.faint);
    painter.drawText(pinRect(), Qt::AlignVCenter | Qt::AlignLeft,
                     pinned_ ? tr("kept for the next") : tr("keep (Ctrl+P)"));
  }
  painter.setPen(QPen(r.rule, 1, Qt::DotLine));
  painter.drawLine(0, height() - 1, width(), height() - 1);
  if (hasFocus()) {
    painter.setPen(QPen(r.ink, 2));
    painter.drawRect(rect().adjusted(1, 1, -1, -2));
  }
}

void CardField::keyPressEvent(QKeyEvent* event) {
  const QString text = event->text();
  const bool ctrl = (event->modifiers() & Qt::ControlModifier) != 0;
  const bool vertical = event->key() == Qt::Key_Up || event->key() == Qt::Key_Down;
  if (vertical && (event->modifiers() & Qt::AltModifier) != 0)
    return emit moveAsked(event->key() == Qt::Key_Up ? -1 : 1);
  switch (event->key()) {
    case Qt::Key_Return:
    case Qt::Key_Enter:
    case Qt::Key_F2:
      return emit editAsked({});
    case Qt::Key_Down:
      focusNextChild();
      return;
    case Qt::Key_Up:
      focusPreviousChild();
      return;
    case Qt::Key_PageDown:
    case Qt::Key_PageUp:
      return emit stepAsked(event->key() == Qt::Key_PageDown ? 1 : -1);
    case Qt::Key_Home:
    case Qt::Key_End:
      if (ctrl) return emit stepAsked(event->key() == Qt::Key_End ? INT_MAX : INT_MIN);
      break;
    case Qt::Key_P:
      if (ctrl) return emit pinAsked();
      break;
    case Qt::Key_Escape:
      return emit left();
    case Qt::Key_Delete:
      return emit emptied();
    default:
      break;
  }
  if (!text.isEmpty() && text[0].isPrint() && (event->modifiers() & (Qt::ControlModifier | Qt::AltModifier)) == 0)
    return emit editAsked(text);
  QWidget::keyPressEvent(event);
}

// Of a new record Ctrl+P keeps the value; elsewhere it prints.
bool CardField::event(QEvent* event) {
  if (event->type() == QEvent::ShortcutOverride && isNew()) {
    const auto& key = *static_cast<QKeyEvent*>(event);
    if (key.key() == Qt::Key_P && key.modifiers() == Qt::ControlModifier) event->accept();
  }
  return QWidget::event(event);
}

void CardField::mousePressEvent(QMouseEvent* event) {
  QWidget::mousePressEvent(event);
  if (event->button() != Qt::LeftButton) return;
  if (event->pos().x() < labelWidth(width())) pressedAt_ = event->pos();
  if (isNew() && hasFocus() && pinRect().contains(event->pos())) emit pinAsked();
}

// By its label a field is carried to another place.
void CardField::mouseMoveEvent(QMouseEvent* event) {
  if (!pressedAt_) return QWidget::mouseMoveEvent(event);
  dragging_ = dragging_ || (event->pos() - *pressedAt_).manhattanLength() >= QApplication::startDragDistance();
  if (!dragging_) return;
  setCursor(Qt::ClosedHandCursor);
  emit dragged(mapToParent(event->pos()));
}

void CardField::mouseReleaseEvent(QMouseEvent* event) {
  pressedAt_.reset();
  if (!std::exchange(dragging_, false)) return QWidget::mouseReleaseEvent(event);
  unsetCursor();
  emit dropped(mapToParent(event->pos()));
}

void CardField::contextMenuEvent(QContextMenuEvent* event) {
  setFocus();
  emit menuAsked(event->reason() == QContextMenuEvent::Mouse ? event->globalPos() : mapToGlobal(rect().center()));
}

void CardField::mouseDoubleClickEvent(QMouseEvent* event) {
  if (!isNew() || !pinRect().contains(event->pos())) emit editAsked({});
}

void CardField::focusInEvent(QFocusEvent* event) {
  QWidget::focusInEvent(event);
  update();
  emit entered();
}

}  // namespace iterandum
