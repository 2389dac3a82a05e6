#include "app/grid/sheet_view.h"

#include <QApplication>
#include <QClipboard>
#include <QKeyEvent>
#include <QPainter>
#include <QScrollBar>
#include <algorithm>
#include <set>

#include "app/cells/cell_painter.h"
#include "app/style/roles.h"
#include "core/catalogue/column_rules.h"

namespace iterandum {

namespace {
// A gesture by hand over more cells than this would be no gesture by hand.
constexpr qint64 kMostCells = 100000;
}  // namespace

SheetView::SheetView(SheetModel& model, QWidget* parent) : SheetGrid(model, parent), model_(model) {
  setObjectName("sheet");
  setAccessibleName(tr("Sheet of %1").arg(toQ(model.table().name.name)));
  setItemDelegate(new CellPainter(model, this));
  const auto wantSoon = [this] { QMetaObject::invokeMethod(this, &SheetView::wantVisible, Qt::QueuedConnection); };
  connect(&model, &QAbstractItemModel::modelReset, this, wantSoon);
  // What is being typed is meant for the record that it was typed into, wherever that is afterwards.
  connect(&model.source(), &RecordSource::aboutToRestart, this, [this] {
    if (editor_ != nullptr) editor_->settle();
    dropEditor();
  });
  connect(&model, &QAbstractItemModel::rowsInserted, this, wantSoon);
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
  // What a screen reader says about the sheet is about the current cell.
  if (current.isValid()) {
    setAccessibleDescription(QStringLiteral("%1: %2").arg(model_.columnName(current.column()),
                                                          model_.data(current, Qt::AccessibleTextRole).toString()));
  }
  if (current.row() != previous.row()) {
    emit currentRowChanged(current.isValid() ? current.row() : -1);
  }
}

void SheetView::paintEvent(QPaintEvent* event) {
  SheetGrid::paintEvent(event);
  if (model_.rowCount() > 0) return;
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
    case CellEditor::Leave::Down:
      return goTo(std::min(current.row() + 1, model_.rowCount() - 1), current.column());
    case CellEditor::Leave::Up:
      return goTo(std::max(current.row() - 1, 0), current.column());
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
    move(leave);
  });
  connect(editor_, &CellEditor::cancelled, this, &SheetView::dropEditor);
  editor_->show();
  editor_->setFocus();
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

bool SheetView::tooMany() {
  qint64 cells = 0;
  for (const QItemSelectionRange& range : selectionModel()->selection()) {
    cells += static_cast<qint64>(range.width()) * range.height();
  }
  if (cells <= kMostCells) return false;
  emit said(tr("%1 cells are selected; by hand, at most %2 are changed at once.")
                .arg(QLocale().toString(cells), QLocale().toString(kMostCells)));
  return true;
}

QModelIndexList SheetView::selectedCells() const {
  QModelIndexList cells;
  for (const QModelIndex& i : selectionModel()->selectedIndexes()) {
    if (!isColumnHidden(i.column())) cells.push_back(i);
  }
  if (cells.isEmpty() && currentIndex().isValid()) cells.push_back(currentIndex());
  std::sort(cells.begin(), cells.end());
  return cells;
}

std::vector<int> SheetView::selectedRows() const {
  std::set<int> rows;
  for (const QModelIndex& i : selectedCells()) rows.insert(i.row());
  return {rows.begin(), rows.end()};
}

void SheetView::setNoValue() {
  if (tooMany()) return;
  const auto staged = model_.stage(selectedCells(), Value(), tr("no value"));
  if (!staged) emit said(toQ(staged.error().message));
}

void SheetView::fillSelection() {
  if (tooMany()) return;
  if (!currentIndex().isValid()) return;
  QModelIndexList cells;
  for (const QModelIndex& i : selectedCells()) {
    if (i.column() == currentIndex().column()) cells.push_back(i);
  }
  const Value value = model_.cell(currentIndex().row(), currentIndex().column()).effective();
  const auto staged = model_.stage(cells, value, model_.shown(currentIndex().column(), value));
  if (!staged) emit said(toQ(staged.error().message));
}

void SheetView::addRecord() {
  const int row = model_.addRecord();
  if (row >= 0) goTo(row, edgeColumn(true));
}

void SheetView::removeSelected() {
  if (!tooMany()) model_.removeRecords(selectedRows());
}

void SheetView::putBackSelected() {
  if (!tooMany()) model_.putBack(selectedRows());
}

void SheetView::copySelection() {
  if (tooMany()) return;
  QString text;
  int row = -1;
  for (const QModelIndex& i : selectedCells()) {
    if (row >= 0) text += i.row() == row ? QLatin1Char('\t') : QLatin1Char('\n');
    row = i.row();
    text += editText(model_.cell(i.row(), i.column()).effective())
                .replace(QLatin1Char('\t'), QLatin1Char(' '))
                .replace(QLatin1Char('\n'), QLatin1Char(' '));
  }
  QApplication::clipboard()->setText(text);
}

// One value goes into the whole selection; a block goes down and right from the current cell. One gesture either way.
void SheetView::pasteClipboard() {
  if (tooMany()) return;
  QString text = QApplication::clipboard()->text();
  text.replace(QStringLiteral("\r\n"), QStringLiteral("\n")).replace(QLatin1Char('\r'), QLatin1Char('\n'));
  if (text.endsWith(QLatin1Char('\n'))) text.chop(1);
  if (!currentIndex().isValid() || text.isEmpty()) return;
  const QStringList lines = text.split(QLatin1Char('\n'));
  const bool single = lines.size() == 1 && !text.contains(QLatin1Char('\t'));
  const int left = model_.rowCount() - currentIndex().row();
  if (!single && lines.size() > left) {
    emit said(tr("Nothing was pasted: there are %1 lines on the clipboard, and %n record(s) from here to the end of "
                 "the sheet.",
                 "", left)
                  .arg(lines.size()));
    return;
  }
  std::vector<CellEdit> edits;
  const auto add = [&](const QModelIndex& i, const QString& piece) -> bool {
    const QString reason = model_.notEditable(i.row(), i.column());
    const auto value = typedValue(model_.column(i.column()), piece.toStdString());
    if (!reason.isEmpty() || !value) {
      goTo(i.row(), i.column());
      emit said(tr("Nothing was pasted: %1").arg(reason.isEmpty() ? toQ(value.error().message) : reason));
      return false;
    }
    const CellState state = model_.cell(i.row(), i.column());
    if (model_.isBorrowed(i.column())) {
      emit said(tr("Nothing was pasted: %1 is borrowed; open it by itself (F2).").arg(model_.columnName(i.column())));
      return false;
    }
    edits.push_back({model_.ref(i.row()), model_.column(i.column()).name,
                     state.staged ? state.staged->from : state.stored, *value});
    return true;
  };
  if (single) {
    for (const QModelIndex& i : selectedCells()) {
      if (!add(i, text)) return;
    }
  } else {
    for (int l = 0; l < lines.size(); ++l) {
      const int row = currentIndex().row() + l;
      int column = currentIndex().column();
      for (const QString& piece : lines[l].split(QLatin1Char('\t'))) {
        if (column < 0) break;
        if (!add(model_.index(row, column), piece)) return;
        column = nextVisible(column, 1);
      }
    }
  }
  model_.desk().stageEdits(tr("Paste into %n cell(s)", "", static_cast<int>(edits.size())), edits);
}

void SheetView::mouseDoubleClickEvent(QMouseEvent* event) {
  if (indexAt(event->pos()).isValid()) {
    setCurrentIndex(indexAt(event->pos()));
    editCurrent();
  }
}

void SheetView::keyPressEvent(QKeyEvent* event) {
  const bool ctrl = (event->modifiers() & Qt::ControlModifier) != 0;
  const bool shift = (event->modifiers() & Qt::ShiftModifier) != 0;
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
    case Qt::Key_Escape: {
      // The old value comes back: what was typed wrong, or what is staged in this cell.
      const QModelIndex i = currentIndex();
      if (!i.isValid()) return;
      const CellState state = model_.cell(i.row(), i.column());
      if (!state.typedWrong.isEmpty()) return model_.forgetWrong(i);
      const auto owner = model_.owner(i.row(), i.column());
      if (state.staged && owner) {
        model_.desk().putBackCells(
            tr("Put back %1 in %2").arg(model_.columnName(i.column()), model_.ownerTitle(i.row(), i.column())),
            {{*owner, model_.column(i.column()).name, state.staged->from, {}}});
      }
      return;
    }
    case Qt::Key_Delete:
      if (!ctrl && !shift) return setNoValue();
      break;
    default:
      break;
  }
  if (event->matches(QKeySequence::Copy)) return copySelection();
  if (event->matches(QKeySequence::Paste)) return pasteClipboard();
  const QString text = event->text();
  const bool typing = !text.isEmpty() && text[0].isPrint() && !ctrl && (event->modifiers() & Qt::AltModifier) == 0;
  if (typing && !(text == QLatin1String(" ") && shift)) return editCurrent(text, true);
  SheetGrid::keyPressEvent(event);
}

}  // namespace iterandum
