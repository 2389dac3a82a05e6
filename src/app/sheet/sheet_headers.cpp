#include "app/sheet/sheet_headers.h"

#include <algorithm>

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QScrollBar>

#include "app/style/roles.h"

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
  setSectionResizeMode(QHeaderView::Interactive);
  setMinimumSectionSize(48);
  setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
  setHighlightSections(false);
  for (int c = 0; c < model.columnCount(); ++c) {
    auto* edit = new QLineEdit(viewport());
    edit->setObjectName("filter");
    edit->setProperty("column", c);
    edit->setFont(plain(0.95));
    edit->setAccessibleName(tr("Filter for %1").arg(toQ(model.column(c).name)));
    edit->setToolTip(tr("Show only records where %1 is like this. Examples:  Har   = Harbour   >= 3   no value")
                         .arg(toQ(model.column(c).name)));
    edit->installEventFilter(this);
    connect(edit, &QLineEdit::textEdited, this, [this, c](const QString& text) { emit filterChanged(c, text); });
    filters_.push_back(edit);
  }
  connect(this, &QHeaderView::sectionResized, this, [this] { placeFilters(); });
  connect(this, &QHeaderView::sectionMoved, this, [this] { placeFilters(); });
}

QSize FilterHeader::sizeHint() const {
  QSize size = QHeaderView::sizeHint();
  size.setHeight(kNameHeight + kFilterHeight + 6);
  return size;
}

void FilterHeader::updateGeometries() {
  QHeaderView::updateGeometries();
  placeFilters();
}

void FilterHeader::placeFilters() {
  for (int c = 0; c < static_cast<int>(filters_.size()); ++c) {
    QLineEdit* edit = filters_[static_cast<std::size_t>(c)];
    const bool hidden = isSectionHidden(c);
    edit->setVisible(!hidden);
    if (!hidden) edit->setGeometry(sectionViewportPosition(c) + 7, kNameHeight, sectionSize(c) - 14, kFilterHeight);
  }
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

void FilterHeader::setOrder(std::vector<SortKey> order) {
  order_ = std::move(order);
  viewport()->update();
}

void FilterHeader::mousePressEvent(QMouseEvent* event) {
  pressedAt_ = event->pos();
  QHeaderView::mousePressEvent(event);
}

void FilterHeader::mouseReleaseEvent(QMouseEvent* event) {
  QHeaderView::mouseReleaseEvent(event);
  const bool click = (event->pos() - pressedAt_).manhattanLength() < 4 && cursor().shape() != Qt::SplitHCursor;
  if (click && event->button() == Qt::LeftButton) {
    emit sortAsked(logicalIndexAt(event->pos()), event->modifiers().testFlag(Qt::ShiftModifier));
  }
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
  painter->setPen(r.ink);
  const bool reference = model_.reference(logical) != nullptr;
  const auto key = std::find_if(order_.begin(), order_.end(),
                                [&](const SortKey& k) { return k.column == model_.column(logical).name; });
  const bool sorted = key != order_.end();
  // Where several columns decide, each says which of them it is.
  QString arrow = sorted && key->descending ? QStringLiteral("↓") : QStringLiteral("↑");
  if (order_.size() > 1) arrow += QString::number(key - order_.begin() + 1);
  const int arrowWidth = sorted ? 8 + painter->fontMetrics().horizontalAdvance(arrow) : 0;
  const int marks = arrowWidth + (reference ? 18 : 0);
  QRect text(rect.left() + 10, rect.top() + 2, rect.width() - 18 - marks, kNameHeight - 2);
  const QString name = toQ(model_.column(logical).name);
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

MarginHeader::MarginHeader(SheetModel& model, QWidget* parent) : QHeaderView(Qt::Vertical, parent), model_(model) {
  setObjectName("margin");
  setSectionResizeMode(QHeaderView::Fixed);
  setSectionsClickable(true);
  setAccessibleName(tr("Margin with marks"));
}

void MarginHeader::paintSection(QPainter* painter, const QRect& rect, int logical) const {
  if (!rect.isValid()) return;
  const Mark mark = model_.mark(logical);
  painter->fillRect(rect, roles().paper);
  painter->setPen(roles().rule);
  painter->drawLine(rect.left(), rect.bottom(), rect.right() - 5, rect.bottom());
  drawMark(*painter, QRectF(rect).adjusted(0, 0, -8, 0), mark, markColor(mark));
  drawMarginRule(*painter, rect.right() - 1, rect.top(), rect.bottom());
}

void MarginHeader::paintEvent(QPaintEvent* event) {
  QHeaderView::paintEvent(event);
  // The rule runs down the whole page, also below the last record.
  QPainter painter(viewport());
  const int from = count() == 0 ? 0 : std::max(0, sectionViewportPosition(count() - 1) + sectionSize(count() - 1));
  drawMarginRule(painter, viewport()->width() - 2, from, viewport()->height());
}

}  // namespace iterandum
