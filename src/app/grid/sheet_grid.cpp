#include "app/grid/sheet_grid.h"

#include <QContextMenuEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QScrollBar>
#include <QTimer>
#include <algorithm>
#include <map>

#include "app/cells/cell_painter.h"
#include "app/style/roles.h"

namespace iterandum {
namespace {
constexpr int kMarginWidth = 44;
constexpr int kCorner = 8;         // of what is selected, to be dragged
constexpr int kFillScrollMs = 60;  // while it is dragged beyond the edge, row by row
}  // namespace

// The margin with the marks. A click takes the whole record.
class SheetGrid::Margin : public QWidget {
 public:
  Margin(SheetGrid& grid, SheetModel& model) : QWidget(&grid), grid_(grid), model_(model) {
    setObjectName("margin");
    setAccessibleName(SheetGrid::tr("Margin with marks"));
  }

 protected:
  void paintEvent(QPaintEvent*) override {
    QPainter painter(this);
    const Roles& r = roles();
    painter.fillRect(rect(), r.paper);
    // Beside the head there are no records.
    const int head = grid_.head().height();
    for (int y = 0; y < grid_.viewport()->height(); y += grid_.rowHeight_) {
      const int row = grid_.rowAt(y);
      if (row < 0) break;
      const QRect box(0, head + y, width(), grid_.rowHeight_);
      const Mark mark = model_.mark(row);
      painter.setPen(r.rule);
      painter.drawLine(box.left(), box.bottom(), box.right() - 5, box.bottom());
      drawMark(painter, QRectF(box).adjusted(0, 0, -8, 0), mark, markColor(mark));
    }
    if (const QRect line = grid_.addLine(); !line.isEmpty()) {
      const QRect box(0, head + line.top(), width(), line.height());
      drawMark(painter, QRectF(box).adjusted(0, 0, -8, 0), Mark::Added, r.faint);
    }
    // The rule runs down the whole page, also below the last record.
    drawMarginRule(painter, width() - 2, head, height());
  }
  // The menu is about the record below the mouse, or all that are selected if it is one of them.
  void contextMenuEvent(QContextMenuEvent* event) override {
    const int row = grid_.rowAt(event->pos().y() - grid_.head().height());
    if (row >= 0) emit grid_.marginMenuAsked(event->globalPos());
  }
  void mousePressEvent(QMouseEvent* event) override {
    const int row = grid_.rowAt(event->pos().y() - grid_.head().height());
    const bool menu = event->button() == Qt::RightButton;
    if (menu && row >= 0 && grid_.selectionModel()->rowIntersectsSelection(row, {})) return;
    if (row < 0 || event->pos().y() < grid_.head().height()) return;
    const bool shift = (event->modifiers() & Qt::ShiftModifier) != 0;
    const bool ctrl = (event->modifiers() & Qt::ControlModifier) != 0;
    if (!shift || from_ < 0) from_ = row;
    const int top = std::min(from_, row);
    const int bottom = std::max(from_, row);
    const QItemSelection records =
        grid_.block(model_.index(top, grid_.edgeColumn(true)),
                    model_.index(std::min(bottom, model_.rowCount() - 1), grid_.edgeColumn(false)));
    grid_.selectionModel()->setCurrentIndex(model_.index(row, grid_.edgeColumn(true)), QItemSelectionModel::NoUpdate);
    grid_.selectionModel()->select(records,
                                   ctrl && !shift ? QItemSelectionModel::Toggle : QItemSelectionModel::ClearAndSelect);
    grid_.setFocus();
  }

 private:
  SheetGrid& grid_;
  SheetModel& model_;
  int from_ = -1;  // where the click before was; Shift takes all from there
};

SheetGrid::SheetGrid(SheetModel& model, QWidget* parent)
    : QAbstractItemView(parent),
      model_(model),
      head_(new FilterHeader(model, this)),
      margin_(new Margin(*this, model)) {
  setModel(&model);
  head_->setModel(&model);
  head_->setSelectionModel(selectionModel());
  setEditTriggers(QAbstractItemView::NoEditTriggers);
  setSelectionMode(QAbstractItemView::ExtendedSelection);
  setHorizontalScrollMode(QAbstractItemView::ScrollPerPixel);
  setVerticalScrollMode(QAbstractItemView::ScrollPerItem);
  setTabKeyNavigation(false);
  setFrameShape(QFrame::NoFrame);
  viewport()->setMouseTracking(true);
  fillScroll_ = new QTimer(this);
  fillScroll_->setInterval(kFillScrollMs);
  connect(fillScroll_, &QTimer::timeout, this, [this] { dragFillTo(viewport()->mapFromGlobal(QCursor::pos())); });
  for (int c = 0; c < model.columnCount(); ++c) fitColumn(c);
  const auto anew = [this] {
    updateGeometries();
    viewport()->update();
    margin_->update();
  };
  connect(&model, &QAbstractItemModel::modelReset, this, anew);
  connect(&model, &QAbstractItemModel::rowsInserted, this, anew);
  connect(&model, &QAbstractItemModel::rowsRemoved, this, anew);
  connect(&model, &QAbstractItemModel::headerDataChanged, margin_, [this] { margin_->update(); });
  connect(&model, &QAbstractItemModel::columnsInserted, this, [this, anew](const QModelIndex&, int first, int last) {
    for (int c = first; c <= last; ++c) fitColumn(c);
    anew();
  });
  connect(&model, &QAbstractItemModel::columnsRemoved, this, anew);
  connect(&model.source(), &RecordSource::counted, this, anew);
  for (const auto signal : {&QHeaderView::sectionMoved, &QHeaderView::sectionResized})
    connect(head_, signal, this, anew);
  connect(head_, &QHeaderView::sectionHandleDoubleClicked, this, [this](int column) { widenToContents(column); });
  connect(head_, &FilterHeader::frozenChanged, this, anew);
}

void SheetGrid::fitColumn(int c) {
  const QFontMetrics metrics(plain());
  const Column& column = model_.column(c);
  int characters = 14;
  if (column.type == TypeClass::Boolean) characters = 7;
  if (column.type == TypeClass::Integer || column.type == TypeClass::Real || column.type == TypeClass::Decimal)
    characters = 9;
  if (column.type == TypeClass::Date) characters = 12;
  if (column.type == TypeClass::Timestamp) characters = 20;
  if (column.type == TypeClass::Text && column.maxLength && *column.maxLength <= 16)
    characters = static_cast<int>(*column.maxLength) + 1;
  if (model_.reference(c) != nullptr) characters = 20;
  int width = metrics.averageCharWidth() * characters + 26;
  QFont bold = plain(0.95);
  bold.setWeight(QFont::DemiBold);
  const int extra = model_.reference(c) != nullptr ? 40 : 24;
  width = std::max(width, QFontMetrics(bold).horizontalAdvance(model_.columnName(c)) + extra);
  head_->resizeSection(c, std::min(width, 320));
}

// As wide as what is on screen wants it, and its head; `most`: no wider, 0: than the view.
void SheetGrid::widenToContents(int column, int most) {
  QFont bold = plain(0.95);
  bold.setWeight(QFont::DemiBold);
  const int extra = model_.reference(column) != nullptr ? 40 : 24;
  int width =
      std::max(head_->minimumSectionSize(), QFontMetrics(bold).horizontalAdvance(model_.columnName(column)) + extra);
  const QFontMetrics metrics(plain());
  for (int y = 0; y < viewport()->height(); y += rowHeight_) {
    const int row = rowAt(y);
    if (row < 0) break;
    int runs = 26;
    for (const TextRun& run : cellRuns(model_, column, model_.cell(row, column))) {
      runs += metrics.horizontalAdvance(run.text) + 8;
    }
    width = std::max(width, runs);
  }
  head_->resizeSection(column, std::min(width, most > 0 ? most : viewport()->width() - 40));
}

void SheetGrid::setDensity(int rowHeight) {
  rowHeight_ = rowHeight;
  updateGeometries();
  viewport()->update();
  margin_->update();
}

void SheetGrid::setColumnHidden(int column, bool hidden) {
  head_->setSectionHidden(column, hidden);
  head_->placeFilters();
}

// --- where things are
// ---------------------------------------------------------------------------------------------------

int SheetGrid::verticalOffset() const { return verticalScrollBar()->value(); }

int SheetGrid::linesBelow() const { return model_.cannotAdd().isEmpty() && model_.source().complete() ? 1 : 0; }

QRect SheetGrid::addLine() const {
  const int y = (model_.rowCount() - verticalScrollBar()->value()) * rowHeight_;
  if (linesBelow() == 0 || y < 0 || y >= viewport()->height()) return {};
  return {0, y, viewport()->width(), rowHeight_};
}

int SheetGrid::wholeRows() const { return std::max(1, viewport()->height() / rowHeight_); }

int SheetGrid::rowAt(int y) const {
  const int below = y >= 0 ? y / rowHeight_ : (y - rowHeight_ + 1) / rowHeight_;
  const int row = verticalScrollBar()->value() + below;
  return row >= 0 && row < model_.rowCount() ? row : -1;
}

QRect SheetGrid::visualRect(const QModelIndex& index) const {
  if (!index.isValid() || isColumnHidden(index.column())) return {};
  const int y = (index.row() - verticalScrollBar()->value()) * rowHeight_;
  return {head_->columnLeft(index.column()), y, head_->sectionSize(index.column()), rowHeight_};
}

QModelIndex SheetGrid::indexAt(const QPoint& point) const {
  const int row = rowAt(point.y());
  const int column = head_->columnAt(point.x());
  return row < 0 || column < 0 ? QModelIndex() : model_.index(row, column);
}

void SheetGrid::dataChanged(const QModelIndex& topLeft, const QModelIndex& bottomRight, const QList<int>& roles) {
  if (!topLeft.isValid() || !bottomRight.isValid()) return QAbstractItemView::dataChanged(topLeft, bottomRight, roles);
  const int below = rowAt(viewport()->height() - 1);
  const int first = std::max(topLeft.row(), rowAt(0));
  const int last = below < 0 ? bottomRight.row() : std::min(bottomRight.row(), below);
  if (first > last) return;
  QAbstractItemView::dataChanged(topLeft.siblingAtRow(first), bottomRight.siblingAtRow(last), roles);
}

void SheetGrid::scrollTo(const QModelIndex& index, ScrollHint hint) {
  if (!index.isValid()) return;
  QScrollBar* rows = verticalScrollBar();
  if (hint == PositionAtCenter) {
    rows->setValue(index.row() - wholeRows() / 2);
  } else if (index.row() < rows->value() || hint == PositionAtTop) {
    rows->setValue(index.row());
  } else if (index.row() >= rows->value() + wholeRows()) {
    rows->setValue(index.row() - wholeRows() + 1);
  }
  if (isColumnHidden(index.column()) || head_->isFrozen(index.column())) return;
  QScrollBar* along = horizontalScrollBar();
  const int left = head_->sectionPosition(index.column());
  const int right = left + head_->sectionSize(index.column());
  if (left < along->value() + head_->frozenWidth()) {
    along->setValue(left - head_->frozenWidth());
  } else if (right > along->value() + viewport()->width()) {
    along->setValue(std::min(left - head_->frozenWidth(), right - viewport()->width()));
  }
}

int SheetGrid::nextVisible(int column, int columns) const {
  int visual = head_->visualIndex(column) + columns;
  while (visual >= 0 && visual < head_->count() && head_->isSectionHidden(head_->logicalIndex(visual)))
    visual += columns;
  return visual >= 0 && visual < head_->count() ? head_->logicalIndex(visual) : -1;
}

// The first or the last column that can be seen.
int SheetGrid::edgeColumn(bool first) const {
  const int step = first ? 1 : -1;
  int visual = first ? 0 : head_->count() - 1;
  while (head_->isSectionHidden(head_->logicalIndex(visual)) && visual + step >= 0 && visual + step < head_->count())
    visual += step;
  return head_->logicalIndex(visual);
}

QModelIndex SheetGrid::moveCursor(CursorAction action, Qt::KeyboardModifiers) {
  const QModelIndex current = currentIndex();
  const int rows = model_.rowCount();
  if (rows == 0) return {};
  if (!current.isValid()) return model_.index(0, edgeColumn(true));
  const auto row = [&](int r) { return model_.index(std::clamp(r, 0, rows - 1), current.column()); };
  const auto column = [&](int step) {
    const int next = nextVisible(current.column(), step);
    return next < 0 ? current : model_.index(current.row(), next);
  };
  switch (action) {
    case MoveUp:
      return row(current.row() - 1);
    case MoveDown:
      return row(current.row() + 1);
    case MovePageUp:
      return row(current.row() - wholeRows());
    case MovePageDown:
      return row(current.row() + wholeRows());
    case MoveLeft:
    case MovePrevious:
      return column(-1);
    case MoveRight:
    case MoveNext:
      return column(1);
    case MoveHome:
      return model_.index(current.row(), edgeColumn(true));
    case MoveEnd:
      return model_.index(current.row(), edgeColumn(false));
  }
  return current;
}

void SheetGrid::setSelection(const QRect& rect, QItemSelectionModel::SelectionFlags flags) {
  const int rows = model_.rowCount();
  if (rows == 0) return;
  const auto rowNear = [&](int y) {
    return std::clamp(verticalScrollBar()->value() + (y >= 0 ? y : y - rowHeight_ + 1) / rowHeight_, 0, rows - 1);
  };
  const auto visualNear = [&](int x, bool first) {
    const int column = head_->columnAt(x);
    return head_->visualIndex(column >= 0 ? column : edgeColumn(first && x < 0));
  };
  const QRect box = rect.normalized();
  const int from = visualNear(box.left(), true);
  const int to = visualNear(box.right(), false);
  QItemSelection selection;
  for (int v = std::min(from, to); v <= std::max(from, to); ++v) {
    const int column = head_->logicalIndex(v);
    if (isColumnHidden(column)) continue;
    selection.select(model_.index(rowNear(box.top()), column), model_.index(rowNear(box.bottom()), column));
  }
  selectionModel()->select(selection, flags);
}

// All cells between two corners as they lie on screen, hidden columns left out.
QItemSelection SheetGrid::block(const QModelIndex& a, const QModelIndex& b) const {
  const int from = head_->visualIndex(a.column());
  const int to = head_->visualIndex(b.column());
  QItemSelection selection;
  for (int v = std::min(from, to); v <= std::max(from, to); ++v) {
    const int column = head_->logicalIndex(v);
    if (isColumnHidden(column)) continue;
    selection.select(model_.index(std::min(a.row(), b.row()), column),
                     model_.index(std::max(a.row(), b.row()), column));
  }
  return selection;
}

void SheetGrid::extendTo(const QModelIndex& index) {
  if (!index.isValid()) return;
  if (!anchor_.isValid()) anchor_ = currentIndex();
  if (!anchor_.isValid()) anchor_ = index;
  extending_ = true;
  selectionModel()->setCurrentIndex(index, QItemSelectionModel::NoUpdate);
  extending_ = false;
  selectionModel()->select(block(anchor_, index), QItemSelectionModel::ClearAndSelect);
}

void SheetGrid::selectWhole(bool columns, bool records) {
  const int rows = model_.rowCount();
  if (rows == 0 || !currentIndex().isValid()) return;
  QItemSelection now = selectionModel()->selection();
  if (now.isEmpty()) now.select(currentIndex(), currentIndex());
  QItemSelection whole;
  for (int c = 0; c < head_->count(); ++c) {
    if (isColumnHidden(c)) continue;
    if (columns) {
      const bool touched = std::any_of(now.begin(), now.end(), [c](const QItemSelectionRange& range) {
        return range.left() <= c && c <= range.right();
      });
      if (records || touched) whole.select(model_.index(0, c), model_.index(rows - 1, c));
      continue;
    }
    for (const QItemSelectionRange& range : now) {
      const QItemSelection part(model_.index(range.top(), c), model_.index(range.bottom(), c));
      whole.merge(part, QItemSelectionModel::Select);
    }
  }
  selectionModel()->select(whole, QItemSelectionModel::ClearAndSelect);
}

void SheetGrid::currentChanged(const QModelIndex& current, const QModelIndex& previous) {
  if (!extending_) anchor_ = current;
  QAbstractItemView::currentChanged(current, previous);
}

void SheetGrid::keyPressEvent(QKeyEvent* event) {
  static const std::map<int, CursorAction> kMoves{{Qt::Key_Up, MoveUp},         {Qt::Key_Down, MoveDown},
                                                  {Qt::Key_Left, MoveLeft},     {Qt::Key_Right, MoveRight},
                                                  {Qt::Key_PageUp, MovePageUp}, {Qt::Key_PageDown, MovePageDown}};
  const auto move = kMoves.find(event->key());
  if (move != kMoves.end() && event->modifiers() == Qt::ShiftModifier) {
    return extendTo(moveCursor(move->second, event->modifiers()));
  }
  QAbstractItemView::keyPressEvent(event);
}

void SheetGrid::mousePressEvent(QMouseEvent* event) {
  const QModelIndex index = indexAt(event->pos());
  if (event->button() == Qt::LeftButton && event->modifiers() == Qt::ShiftModifier && index.isValid()) {
    return extendTo(index);
  }
  if (event->button() == Qt::LeftButton && fillCorner().contains(event->pos())) {
    fillTo_ = selectionModel()->selection().front().bottom();
    fillScroll_->start();
    return;
  }
  if (event->button() == Qt::LeftButton && addLine().contains(event->pos())) return addAsked();
  QAbstractItemView::mousePressEvent(event);
}

// --- dragging the corner of what is selected -------------------------------------------------------------------------

QRect SheetGrid::fillCorner() const {
  const QItemSelection selection = selectionModel()->selection();
  if (selection.isEmpty() || state() == EditingState) return {};
  // Neighbouring columns of the same records are one block, however they were selected.
  int right = -1;
  for (const QItemSelectionRange& range : selection) {
    if (range.top() != selection.front().top() || range.bottom() != selection.front().bottom()) return {};
    for (int c = range.left(); c <= range.right(); ++c) {
      if (!isColumnHidden(c)) right = std::max(right, head_->visualIndex(c));
    }
  }
  if (right < 0) return {};
  const int column = head_->logicalIndex(right);
  const QRect last = visualRect(model_.index(selection.front().bottom(), column));
  const bool hidden = !head_->isFrozen(column) && last.right() < head_->frozenWidth();
  if (hidden || !viewport()->rect().contains(last.bottomRight() - QPoint(2, 2))) return {};
  return {last.right() - kCorner / 2 - 1, last.bottom() - kCorner / 2 - 1, kCorner, kCorner};
}

void SheetGrid::dragFillTo(const QPoint& place) {
  if (!fillTo_) return;
  QScrollBar* rows = verticalScrollBar();
  if (place.y() >= viewport()->height()) rows->setValue(rows->value() + 1);
  if (place.y() < 0) rows->setValue(rows->value() - 1);
  const int y = std::clamp(place.y(), 0, viewport()->height() - 1);
  const int row = rowAt(y) < 0 ? model_.rowCount() - 1 : rowAt(y);
  fillTo_ = std::max(row, selectionModel()->selection().front().bottom());
  viewport()->update();
}

void SheetGrid::mouseMoveEvent(QMouseEvent* event) {
  if (fillTo_) return dragFillTo(event->pos());
  const bool corner = event->buttons() == Qt::NoButton && fillCorner().contains(event->pos());
  const bool adds = event->buttons() == Qt::NoButton && addLine().contains(event->pos());
  viewport()->setCursor(corner ? Qt::CrossCursor : (adds ? Qt::PointingHandCursor : Qt::ArrowCursor));
  viewport()->setToolTip(
      corner ? tr("Drag down: the value goes on; with Ctrl it counts on (two or more cells count on by themselves)")
             : QString());
  QAbstractItemView::mouseMoveEvent(event);
}

void SheetGrid::mouseReleaseEvent(QMouseEvent* event) {
  if (!fillTo_) return QAbstractItemView::mouseReleaseEvent(event);
  dragFillTo(event->pos());
  const int to = *fillTo_;
  fillTo_.reset();
  fillScroll_->stop();
  viewport()->update();
  const QItemSelection from = selectionModel()->selection();
  const int last = from.front().bottom();
  if (to > last) fillAsked(from, {last + 1, to}, (event->modifiers() & Qt::ControlModifier) != 0);
}

// What is current stays in sight when the view becomes smaller.
void SheetGrid::resizeEvent(QResizeEvent* event) {
  const QRect before = visualRect(currentIndex());
  const bool inSight = before.isValid() && before.top() < event->oldSize().height();
  QAbstractItemView::resizeEvent(event);
  if (inSight && event->size().height() < event->oldSize().height()) scrollTo(currentIndex());
}

QRegion SheetGrid::visualRegionForSelection(const QItemSelection& selection) const {
  QRegion region;
  for (const QItemSelectionRange& range : selection) {
    const int top = std::max(range.top(), verticalScrollBar()->value());
    const int bottom = std::min(range.bottom(), verticalScrollBar()->value() + wholeRows() + 1);
    if (bottom < top) continue;
    for (int c = range.left(); c <= range.right(); ++c) {
      region += visualRect(model_.index(top, c)).united(visualRect(model_.index(bottom, c)));
    }
  }
  return region;
}

// --- painting
// -----------------------------------------------------------------------------------------------------------

void SheetGrid::updateGeometries() {
  const int headHeight = head_->sizeHint().height();
  setViewportMargins(kMarginWidth, headHeight, 0, 0);
  const QRect area = viewport()->geometry();
  head_->setGeometry(area.left(), area.top() - headHeight, area.width(), headHeight);
  margin_->setGeometry(area.left() - kMarginWidth, area.top() - headHeight, kMarginWidth, area.height() + headHeight);
  QScrollBar* rows = verticalScrollBar();
  rows->setSingleStep(1);
  rows->setPageStep(wholeRows());
  rows->setRange(0, std::max(0, model_.rowCount() + linesBelow() - wholeRows()));
  QScrollBar* along = horizontalScrollBar();
  along->setSingleStep(24);
  along->setPageStep(area.width());
  along->setRange(0, std::max(0, head_->length() - area.width()));
  QAbstractItemView::updateGeometries();
}

void SheetGrid::scrollContentsBy(int dx, int) {
  if (dx != 0) {
    head_->setOffset(horizontalScrollBar()->value());
    head_->placeFilters();
  }
  viewport()->update();
  margin_->update();
}

void SheetGrid::paintCells(QPainter& painter, bool frozen) {
  QStyleOptionViewItem option;
  initViewItemOption(&option);
  const bool focused = hasFocus() || viewport()->hasFocus();
  const int width = viewport()->width();
  const int covered = head_->frozenWidth();
  for (int c = 0; c < head_->count(); ++c) {
    if (isColumnHidden(c) || head_->isFrozen(c) != frozen) continue;
    const int left = head_->columnLeft(c);
    const int right = left + head_->sectionSize(c);
    if (right <= (frozen ? 0 : covered) || left >= width) continue;
    for (int y = 0; y < viewport()->height(); y += rowHeight_) {
      const int row = rowAt(y);
      if (row < 0) break;
      const QModelIndex index = model_.index(row, c);
      option.rect = {left, y, right - left, rowHeight_};
      option.state = QStyle::State_Enabled;
      if (selectionModel()->isSelected(index)) option.state |= QStyle::State_Selected;
      if (focused && index == currentIndex()) option.state |= QStyle::State_HasFocus;
      itemDelegate()->paint(&painter, option, index);
    }
  }
}

void SheetGrid::paintEvent(QPaintEvent*) {
  QPainter painter(viewport());
  painter.fillRect(viewport()->rect(), roles().paper);
  const int covered = head_->frozenWidth();
  painter.save();
  painter.setClipRect(covered, 0, viewport()->width() - covered, viewport()->height());
  paintCells(painter, false);
  painter.restore();
  if (covered > 0) {
    paintCells(painter, true);
    painter.setPen(roles().strongRule);
    painter.drawLine(covered - 1, 0, covered - 1, viewport()->height());
  }
  paintAddLine(painter);
  paintFill(painter);
}

void SheetGrid::paintAddLine(QPainter& painter) const {
  const QRect line = addLine();
  if (line.isEmpty()) return;
  QFont font = plain();
  font.setItalic(true);
  painter.setFont(font);
  painter.setPen(roles().soft);
  painter.drawText(line.adjusted(10, 0, -10, -1), Qt::AlignLeft | Qt::AlignVCenter, tr("add a record…"));
}

void SheetGrid::paintFill(QPainter& painter) const {
  const QRect corner = fillCorner();
  if (!corner.isEmpty() && hasFocus()) {
    painter.fillRect(corner, roles().paper);
    painter.fillRect(corner.adjusted(1, 1, -1, -1), roles().blue);
  }
  if (!fillTo_) return;
  const QItemSelection from = selectionModel()->selection();
  if (from.isEmpty() || *fillTo_ <= from.front().bottom()) return;
  QRect box;
  for (const QItemSelectionRange& range : from) {
    for (int c = range.left(); c <= range.right(); ++c) {
      if (isColumnHidden(c)) continue;
      box |= visualRect(model_.index(range.bottom() + 1, c)) | visualRect(model_.index(*fillTo_, c));
    }
  }
  painter.setPen(QPen(roles().blue, 1.5, Qt::DashLine));
  painter.drawRect(box.adjusted(1, 0, -2, -2));
}

}  // namespace iterandum
