#include "app/grid/sheet_view.h"

#include <QApplication>
#include <QContextMenuEvent>
#include <QDate>
#include <QKeyEvent>
#include <QPainter>
#include <QScrollBar>
#include <algorithm>
#include <set>

#include "app/cells/cell_painter.h"
#include "app/grid/sheet_accessible.h"
#include "app/style/roles.h"
#include "core/catalogue/column_rules.h"

namespace iterandum {

SheetView::SheetView(SheetModel& model, QWidget* parent)
    : SheetGrid(model, parent), model_(model), many_(model), lookup_(model), copy_(model, many_) {
  setObjectName("sheet");
  setAccessibleName(tr("Sheet of %1").arg(toQ(model.table().name.name)));
  setItemDelegate(new CellPainter(model, this));
  const auto wantSoon = [this] { QMetaObject::invokeMethod(this, &SheetView::wantVisible, Qt::QueuedConnection); };
  connect(&model, &QAbstractItemModel::modelReset, this, wantSoon);
  // What is being typed is meant for the record that it was typed into, wherever that is afterwards.
  connect(&model.source(), &RecordSource::aboutToRestart, this, [this] {
    tabbedFrom_ = -1;
    if (editor_ != nullptr) editor_->settle();
    dropEditor();
    copy_.stop();
  });
  connect(&model, &QAbstractItemModel::rowsInserted, this, wantSoon);
  connect(&model, &QAbstractItemModel::dataChanged, this, [this](const QModelIndex& from, const QModelIndex& to) {
    const QModelIndex at = currentIndex();
    if (at.isValid() && from.row() <= at.row() && at.row() <= to.row()) tellCurrentCell(*this, false);
  });
  connect(&many_, &ManyRecords::said, this, &SheetView::said);
  connect(&copy_, &ClipboardCopy::said, this, &SheetView::said);
}

// --- what is on screen
// --------------------------------------------------------------------------------------------------

void SheetView::wantVisible() {
  const int first = rowAt(0);
  int last = rowAt(viewport()->height() - 1);
  if (last < 0) last = model_.rowCount() - 1;
  if (first >= 0) model_.source().want(first, last);
}

void SheetView::scrollContentsBy(int dx, int dy) {
  SheetGrid::scrollContentsBy(dx, dy);
  wantVisible();
}

void SheetView::resizeEvent(QResizeEvent* event) {
  SheetGrid::resizeEvent(event);
  wantVisible();
}

void SheetView::currentChanged(const QModelIndex& current, const QModelIndex& previous) {
  SheetGrid::currentChanged(current, previous);
  viewport()->update();
  if (current.isValid() && hasFocus()) tellCurrentCell(*this, true);
  if (current.row() != previous.row()) {
    emit currentRowChanged(current.isValid() ? current.row() : -1);
  }
}

void SheetView::paintEvent(QPaintEvent* event) {
  SheetGrid::paintEvent(event);
  // A small one has no room for words; the line that adds is there.
  constexpr int kRoomForWords = 90;
  if (model_.rowCount() > 0 || viewport()->height() < kRoomForWords) return;
  QPainter painter(viewport());
  painter.setFont(serif(1.2));
  painter.setPen(roles().soft);
  QString text = model_.source().reading() ? tr("reading…") : tr("No record is like this.");
  if (!model_.source().everRead()) text = tr("Nothing is read before all conditions can be.");
  painter.drawText(viewport()->rect().adjusted(20, 30, -20, 0), Qt::AlignHCenter | Qt::AlignTop, text);
}

// --- moving about
// -------------------------------------------------------------------------------------------------------

void SheetView::goTo(int row, int column) {
  if (row < 0 || row >= model_.rowCount()) return;
  const QModelIndex target = model_.index(row, std::max(0, column));
  // Not setCurrentIndex(): that looks at the keyboard, and a Ctrl held for a command would leave the old cell selected.
  selectionModel()->setCurrentIndex(target, QItemSelectionModel::ClearAndSelect);
  scrollTo(target);
}

void SheetView::leaveColumn(int column) {
  if (currentIndex().column() != column) return;
  int to = nextVisible(column, 1);
  if (to < 0) to = nextVisible(column, -1);
  if (to >= 0) goTo(currentIndex().row(), to);
}

// Tab: the next cell; from the last one to the next record; after the last record to a new one.
void SheetView::step(int columns) {
  const QModelIndex current = currentIndex();
  if (!current.isValid()) return goTo(0, 0);
  const int next = nextVisible(current.column(), columns);
  if (next >= 0) return goTo(current.row(), next);
  const int row = current.row() + (columns > 0 ? 1 : -1);
  if (row < 0) return;
  if (row >= model_.rowCount()) {
    addRecord();
    return;
  }
  goTo(row, edgeColumn(columns > 0));
}

bool SheetView::focusNextPrevChild(bool next) {
  step(next ? 1 : -1);
  return true;
}

void SheetView::move(CellEditor::Leave leave) {
  const QModelIndex current = currentIndex();
  switch (leave) {
    case CellEditor::Leave::Right:
      return step(1);
    case CellEditor::Leave::Left:
      return step(-1);
    case CellEditor::Leave::Down: {
      // After a run of Tabs, back to the column where it began.
      const int column = tabbedFrom_ >= 0 ? tabbedFrom_ : current.column();
      tabbedFrom_ = -1;
      return goTo(std::min(current.row() + 1, model_.rowCount() - 1), column);
    }
    case CellEditor::Leave::Up:
      return goTo(std::max(current.row() - 1, 0), current.column());
    case CellEditor::Leave::ToTheRight:
    case CellEditor::Leave::ToTheLeft: {
      const int next = nextVisible(current.column(), leave == CellEditor::Leave::ToTheRight ? 1 : -1);
      return next < 0 ? void() : goTo(current.row(), next);
    }
    case CellEditor::Leave::Stay:
      return;
  }
}

// --- editing
// ------------------------------------------------------------------------------------------------------------

void SheetView::editCurrent(const QString& start, bool replace) {
  const QModelIndex current = currentIndex();
  if (!current.isValid() || editor_ != nullptr) return;
  scrollTo(current);
  const QString reason = model_.notEditable(current.row(), current.column());
  if (!reason.isEmpty()) {
    emit said(reason);
    return;
  }
  editor_ = new CellEditor(model_, current, visualRect(current), start, replace, viewport());
  connect(editor_, &CellEditor::finished, this, [this](CellEditor::Leave leave) {
    dropEditor();
    // A run is begun by what is typed: Tab by itself only leads somewhere.
    if (leave == CellEditor::Leave::Right && tabbedFrom_ < 0) tabbedFrom_ = currentIndex().column();
    move(leave);
  });
  connect(editor_, &CellEditor::cancelled, this, &SheetView::dropEditor);
  connect(editor_, &CellEditor::forAll, this, &SheetView::fillWithTyped);
  editor_->setForMany(selectedCellCount() > 1 ? CellEditor::Many::WhereAsked : CellEditor::Many::No);
  editor_->show();
  editor_->setFocus();
}

bool SheetView::takeTyped() { return editor_ == nullptr || editor_->commit(CellEditor::Leave::Stay); }

// --- its menu
// ------------------------------------------------------------------------------------------------------------

// Of the cell below the mouse, or of all that is selected when that is one of them.
void SheetView::contextMenuEvent(QContextMenuEvent* event) {
  if (event->reason() == QContextMenuEvent::Keyboard) return openMenuByKey();
  if (addLine().contains(event->pos()) || !indexAt(event->pos()).isValid()) return;
  emit cellMenuAsked(event->globalPos());
}

void SheetView::openMenuByKey() {
  if (!currentIndex().isValid()) return;
  scrollTo(currentIndex());
  emit cellMenuAsked(viewport()->mapToGlobal(visualRect(currentIndex()).bottomLeft()));
}

void SheetView::dropEditor() {
  if (editor_ == nullptr) return;
  CellEditor* editor = editor_;
  editor_ = nullptr;
  // Only when nobody else has asked for the keys meanwhile. Before hiding: Qt would pass the focus on as if by Tab.
  const QWidget* focus = QApplication::focusWidget();
  if (focus == nullptr || isAncestorOf(focus)) setFocus();
  editor->hide();
  editor->deleteLater();
}

// Whoever was elsewhere begins anew.
void SheetView::focusOutEvent(QFocusEvent* event) {
  const QWidget* to = QApplication::focusWidget();
  if (to == nullptr || !isAncestorOf(to)) tabbedFrom_ = -1;
  SheetGrid::focusOutEvent(event);
}

void SheetView::mousePressEvent(QMouseEvent* event) {
  tabbedFrom_ = -1;
  SheetGrid::mousePressEvent(event);
}

// With Shift it turns the sheet sideways, as everywhere.
void SheetView::wheelEvent(QWheelEvent* event) {
  if ((event->modifiers() & Qt::ShiftModifier) == 0) return SheetGrid::wheelEvent(event);
  const QPoint turned = event->angleDelta();
  QScrollBar* bar = horizontalScrollBar();
  bar->setValue(bar->value() - (turned.y() != 0 ? turned.y() : turned.x()));
  event->accept();
}

void SheetView::mouseDoubleClickEvent(QMouseEvent* event) {
  if (indexAt(event->pos()).isValid()) {
    setCurrentIndex(indexAt(event->pos()));
    editCurrent();
  }
}

void SheetView::putBackCurrent() {
  // The old value comes back: what was typed wrong, or what is staged in this cell.
  const QModelIndex i = currentIndex();
  if (!i.isValid()) return;
  const CellState state = model_.cell(i.row(), i.column());
  if (!state.typedWrong.isEmpty()) return model_.forgetWrong(i);
  const auto owner = model_.owner(i.row(), i.column());
  if (!state.staged || !owner) return;
  model_.desk().staged().putBackCells(
      tr("Put back %1 in %2").arg(model_.columnName(i.column()), model_.ownerTitle(i.row(), i.column())),
      {{*owner, model_.column(i.column()).name, state.staged->from, {}}});
}

// To the edge of what is shown, at once.
void SheetView::moveAtOnce(QKeyEvent* event) {
  const QModelIndex current = currentIndex();
  if (!current.isValid()) return;
  int row = current.row();
  int column = current.column();
  if (event->key() == Qt::Key_Up) row = 0;
  if (event->key() == Qt::Key_Down) row = model_.rowCount() - 1;
  if (event->key() == Qt::Key_Left) column = edgeColumn(true);
  if (event->key() == Qt::Key_Right) column = edgeColumn(false);
  if ((event->modifiers() & Qt::ShiftModifier) == 0) return goTo(row, column);
  extendTo(model_.index(row, column));
  scrollTo(currentIndex());
}

void SheetView::selectAllCells() {
  selectWhole(true, true);
  if (model_.source().complete()) return;
  emit said(tr("%1 records so far; the others are still being counted, and are not selected.")
                .arg(QLocale().toString(model_.source().rows())));
}

// Whole columns, records, all.
bool SheetView::selectByKey(QKeyEvent* event) {
  const bool ctrl = event->modifiers() == Qt::ControlModifier;
  const bool shift = event->modifiers() == Qt::ShiftModifier;
  if (event->matches(QKeySequence::SelectAll)) {
    selectAllCells();
    return true;
  }
  if (event->key() != Qt::Key_Space || (!ctrl && !shift)) return false;
  selectWhole(ctrl, shift);
  return true;
}

void SheetView::keyPressEvent(QKeyEvent* event) {
  const bool ctrl = (event->modifiers() & Qt::ControlModifier) != 0;
  const bool shift = (event->modifiers() & Qt::ShiftModifier) != 0;
  const bool alt = (event->modifiers() & Qt::AltModifier) != 0;
  switch (event->key()) {
    case Qt::Key_F2:
      return editCurrent();
    case Qt::Key_Return:
    case Qt::Key_Enter:
      return move(shift ? CellEditor::Leave::Up : CellEditor::Leave::Down);
    case Qt::Key_Home:
    case Qt::Key_End: {
      const bool home = event->key() == Qt::Key_Home;
      const int row = ctrl ? (home ? 0 : model_.rowCount() - 1) : currentIndex().row();
      if (!shift) return goTo(row, edgeColumn(home));
      return row < 0 ? void() : extendTo(model_.index(row, edgeColumn(home)));
    }
    case Qt::Key_Up:
    case Qt::Key_Down:
    case Qt::Key_Left:
    case Qt::Key_Right:
      tabbedFrom_ = -1;
      if (ctrl && !alt) return moveAtOnce(event);
      break;
    case Qt::Key_Escape:
      if (many_.reading() || copy_.going()) {
        many_.stop();
        copy_.stop();
        emit said(tr("Stopped; nothing was done."));
        return;
      }
      return putBackCurrent();
    case Qt::Key_Delete:
      if (!ctrl && !shift) return setNoValue();
      break;
    case Qt::Key_Menu:
      return openMenuByKey();
    case Qt::Key_F10:
      if (shift) return openMenuByKey();
      break;
    case Qt::Key_Backspace:
      // Cleared, and what is to stand there is typed.
      if (!ctrl && !shift && !alt) return editCurrent({}, true);
      break;
    default:
      break;
  }
  if (event->matches(QKeySequence::Copy)) return copySelection();
  if (event->matches(QKeySequence::Cut)) return cutSelection();
  if (event->matches(QKeySequence::Paste)) return pasteClipboard();
  if (selectByKey(event)) return;
  if (ctrl && event->key() == Qt::Key_Semicolon) {
    return editCurrent(QDate::currentDate().toString(Qt::ISODate), true);
  }
  const QString text = event->text();
  const bool typing = !text.isEmpty() && text[0].isPrint() && !ctrl && !alt;
  if (typing) return editCurrent(text, true);
  SheetGrid::keyPressEvent(event);
}

}  // namespace iterandum
