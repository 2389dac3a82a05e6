#include "app/grid/sheet_headers.h"

#include <algorithm>

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QScrollBar>

#include "app/style/roles.h"
#include "core/scope/column_path.h"

namespace iterandum {
namespace {
constexpr int kNameHeight = 30;
constexpr int kFilterHeight = 27;
}  // namespace

void drawMarginRule(QPainter& painter, int x, int top, int bottom) {
  painter.setPen(QPen(roles().marginRule, 1));
  painter.drawLine(x - 2, top, x - 2, bottom);
  painter.drawLine(x, top, x, bottom);
}

FilterHeader::FilterHeader(SheetModel& model, QWidget* parent) : QHeaderView(Qt::Horizontal, parent), model_(model) {
  setObjectName("sheetHead");
  setSectionsMovable(true);
  setSectionsClickable(true);
  setSectionResizeMode(QHeaderView::Interactive);
  setMinimumSectionSize(48);
  setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
  setHighlightSections(false);
  buildFilters();
  connect(&model, &QAbstractItemModel::columnsInserted, this, [this] { buildFilters(); });
  connect(&model, &QAbstractItemModel::columnsRemoved, this, [this](const QModelIndex&, int first, int last) {
    for (int c = first; c <= last; ++c) filters_[static_cast<std::size_t>(c)]->deleteLater();
    filters_.erase(filters_.begin() + first, filters_.begin() + last + 1);
    buildFilters();
  });
  connect(this, &QHeaderView::sectionResized, this, [this] { placeFilters(); });
  connect(this, &QHeaderView::sectionMoved, this, [this] { placeFilters(); });
}

// One for each column there is by now.
void FilterHeader::buildFilters() {
  for (int c = 0; c < model_.columnCount(); ++c) {
    if (c < static_cast<int>(filters_.size())) {
      filters_[static_cast<std::size_t>(c)]->setProperty("column", c);
      continue;
    }
    auto* edit = new QLineEdit(viewport());
    edit->setObjectName("filter");
    edit->setProperty("column", c);
    edit->setFont(plain(0.95));
    edit->setAccessibleName(tr("Filter for %1").arg(model_.columnName(c)));
    edit->setToolTip(tr("Show only records where %1 is like this. Examples:  Har   = Harbour   >= 3   no value")
                         .arg(model_.columnName(c)));
    edit->installEventFilter(this);
    connect(edit, &QLineEdit::textEdited, this,
            [this, edit](const QString& text) { emit filterChanged(edit->property("column").toInt(), text); });
    filters_.push_back(edit);
  }
  placeFilters();
}

QSize FilterHeader::sizeHint() const {
  QSize size = QHeaderView::sizeHint();
  size.setHeight(filtersShown_ ? kNameHeight + kFilterHeight + 6 : kNameHeight);
  return size;
}

void FilterHeader::setFiltersShown(bool shown) {
  filtersShown_ = shown;
  placeFilters();
  updateGeometry();
}

void FilterHeader::updateGeometries() {
  QHeaderView::updateGeometries();
  placeFilters();
}

void FilterHeader::placeFilters() {
  const int covered = frozenWidth();
  for (int c = 0; c < static_cast<int>(filters_.size()) && c < count(); ++c) {
    QLineEdit* edit = filters_[static_cast<std::size_t>(c)];
    if (isSectionHidden(c) || !filtersShown_) {
      edit->hide();
      continue;
    }
    int left = columnLeft(c) + 7;
    const int right = columnLeft(c) + sectionSize(c) - 7;
    if (!isFrozen(c) && covered > 0) left = std::max(left, covered + 2);
    // What is scrolled below a frozen column cannot be seen; what has the focus stays, for the view scrolls to it.
    edit->setVisible(right - left > 8 || edit->hasFocus());
    edit->setGeometry(left, kNameHeight, std::max(8, right - left), kFilterHeight);
  }
}

// --- frozen columns
// -----------------------------------------------------------------------------------------------------

void FilterHeader::setFrozen(int columns) {
  frozen_ = std::max(0, columns);
  placeFilters();
  viewport()->update();
  emit frozenChanged();
}

bool FilterHeader::isFrozen(int column) const {
  if (frozen_ == 0 || isSectionHidden(column)) return false;
  int before = 0;
  for (int v = 0; v < visualIndex(column); ++v) before += isSectionHidden(logicalIndex(v)) ? 0 : 1;
  return before < frozen_;
}

int FilterHeader::frozenWidth() const {
  int width = 0;
  int seen = 0;
  for (int v = 0; v < count() && seen < frozen_; ++v) {
    const int column = logicalIndex(v);
    if (isSectionHidden(column)) continue;
    width += sectionSize(column);
    ++seen;
  }
  return width;
}

int FilterHeader::columnLeft(int column) const {
  if (column < 0 || column >= count() || isSectionHidden(column)) return -1;
  return sectionPosition(column) - (isFrozen(column) ? 0 : offset());
}

int FilterHeader::columnAt(int x) const {
  const int position = x < frozenWidth() && x >= 0 ? x : x + offset();
  const int visual = visualIndexAt(position - offset());
  return visual < 0 ? -1 : logicalIndex(visual);
}

QMouseEvent FilterHeader::unscrolled(const QMouseEvent& event) const {
  QPointF place = event.position();
  if (place.x() < frozenWidth()) place.rx() -= offset();
  return {event.type(), place, event.globalPosition(), event.button(), event.buttons(), event.modifiers()};
}

void FilterHeader::paintEvent(QPaintEvent* event) {
  QHeaderView::paintEvent(event);
  const int covered = frozenWidth();
  if (covered == 0) return;
  QPainter painter(viewport());
  for (int c = 0; c < count(); ++c) {
    if (isFrozen(c)) paintSection(&painter, {columnLeft(c), 0, sectionSize(c), viewport()->height()}, c);
  }
  painter.setPen(roles().strongRule);
  painter.drawLine(covered - 1, 4, covered - 1, viewport()->height());
}

void FilterHeader::setFilter(int column, const QString& text) {
  QLineEdit* edit = filters_[static_cast<std::size_t>(column)];
  edit->setText(text);
  edit->setCursorPosition(0);  // a long one is read from its beginning
}
QString FilterHeader::filter(int column) const { return filters_[static_cast<std::size_t>(column)]->text(); }

void FilterHeader::markWrong(int column, const QString& because) {
  QLineEdit* edit = filters_[static_cast<std::size_t>(column)];
  if (edit->property("wrong").toBool() == !because.isEmpty()) return;
  edit->setProperty("wrong", !because.isEmpty());
  edit->setStyleSheet(QString());  // makes the style look at the property again
}

void FilterHeader::focusFilter(int column) {
  filters_[static_cast<std::size_t>(column)]->setFocus(Qt::ShortcutFocusReason);
  filters_[static_cast<std::size_t>(column)]->selectAll();
}

void FilterHeader::setOrder(std::vector<ScopeOrder> order) {
  order_ = std::move(order);
  viewport()->update();
}

void FilterHeader::mousePressEvent(QMouseEvent* event) {
  pressedAt_ = event->pos();
  QMouseEvent meant = unscrolled(*event);
  QHeaderView::mousePressEvent(&meant);
}

void FilterHeader::mouseMoveEvent(QMouseEvent* event) {
  QMouseEvent meant = unscrolled(*event);
  QHeaderView::mouseMoveEvent(&meant);
}

void FilterHeader::mouseReleaseEvent(QMouseEvent* event) {
  QMouseEvent meant = unscrolled(*event);
  QHeaderView::mouseReleaseEvent(&meant);
  const bool click = (event->pos() - pressedAt_).manhattanLength() < 4 && !isEdge(event->pos().x());
  if (click && event->button() == Qt::LeftButton) {
    emit sortAsked(columnAt(event->pos().x()), event->modifiers().testFlag(Qt::ShiftModifier));
  }
}

// Where a column is made wider: a click there, or the second of two, is not meant for its name. By the place and not by
// the pointer's shape, which only a movement changes.
bool FilterHeader::isEdge(int x) const {
  const int grip = style()->pixelMetric(QStyle::PM_HeaderGripMargin, nullptr, this);
  for (int column = 0; column < count(); ++column) {
    const int left = columnLeft(column);
    if (left >= 0 && std::abs(x - (left + sectionSize(column))) <= grip) return true;
  }
  return false;
}

void FilterHeader::contextMenuEvent(QContextMenuEvent* event) {
  const int column = columnAt(event->pos().x());
  if (column >= 0) emit menuAsked(column, event->globalPos());
}

bool FilterHeader::eventFilter(QObject* watched, QEvent* event) {
  auto* edit = qobject_cast<QLineEdit*>(watched);
  if (edit != nullptr && event->type() == QEvent::FocusOut) edit->setCursorPosition(0);
  if (edit != nullptr && event->type() == QEvent::KeyPress) {
    const int key = static_cast<QKeyEvent*>(event)->key();
    const int column = edit->property("column").toInt();
    if (key == Qt::Key_Down || key == Qt::Key_Return || key == Qt::Key_Enter) {
      emit leftDownwards(column);
      return true;
    }
    if (key == Qt::Key_Escape) {
      if (edit->text().isEmpty()) {
        emit leftDownwards(column);
      } else {
        edit->clear();
        emit filterChanged(column, {});
      }
      return true;
    }
  }
  return QHeaderView::eventFilter(watched, event);
}

void FilterHeader::paintSection(QPainter* painter, const QRect& rect, int logical) const {
  if (!rect.isValid()) return;
  const Roles& r = roles();
  painter->save();
  painter->fillRect(rect, r.paper);
  painter->setPen(r.strongRule);
  painter->drawLine(rect.bottomLeft(), rect.bottomRight());
  QFont font = plain(0.95);
  font.setWeight(QFont::DemiBold);
  painter->setFont(font);
  painter->setPen(model_.isBorrowed(logical) ? r.soft : r.ink);
  const bool reference = model_.reference(logical) != nullptr;
  const std::string path = columnPathText(model_.path(logical));
  const auto key = std::find_if(order_.begin(), order_.end(), [&](const ScopeOrder& k) { return k.column == path; });
  const bool sorted = key != order_.end();
  // Where several columns decide, each says which of them it is.
  QString arrow = sorted && key->descending ? QStringLiteral("↓") : QStringLiteral("↑");
  if (order_.size() > 1) arrow += QString::number(key - order_.begin() + 1);
  const int arrowWidth = sorted ? 8 + painter->fontMetrics().horizontalAdvance(arrow) : 0;
  const int marks = arrowWidth + (reference ? 18 : 0);
  QRect text(rect.left() + 10, rect.top() + 2, rect.width() - 18 - marks, kNameHeight - 2);
  const QString name = model_.columnName(logical);
  const QString shown = painter->fontMetrics().elidedText(name, Qt::ElideRight, text.width());
  painter->drawText(text, Qt::AlignLeft | Qt::AlignVCenter, shown);
  int x = text.left() + painter->fontMetrics().horizontalAdvance(shown) + 5;
  painter->setPen(r.soft);
  if (reference) {
    painter->drawText(QRect(x, text.top(), 16, text.height()), Qt::AlignVCenter, QStringLiteral("→"));
    x += 18;
  }
  if (sorted) painter->drawText(QRect(x, text.top(), arrowWidth, text.height()), Qt::AlignVCenter, arrow);
  painter->restore();
}

}  // namespace iterandum
