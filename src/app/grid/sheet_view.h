// SheetView: the sheet under keys and mouse. They do what spreadsheet users' fingers expect; editing is in place;
// nothing here speaks to a database.
#pragma once

#include <QPointer>

#include "app/cells/cell_editor.h"
#include "app/grid/sheet_grid.h"

namespace iterandum {

class SheetView : public SheetGrid {
  Q_OBJECT
 public:
  explicit SheetView(SheetModel& model, QWidget* parent = nullptr);

  // Opens the editor on the current cell.
  void editCurrent(const QString& start = {}, bool replace = false);
  void setNoValue();
  void removeSelected();
  void putBackSelected();
  void addRecord();
  void copySelection();
  void pasteClipboard();
  // Fills the selection with the value of the current cell.
  void fillSelection();
  [[nodiscard]] std::vector<int> selectedRows() const;
  // The cells that a gesture on the selection is about; the current cell when nothing else is selected.
  [[nodiscard]] QModelIndexList selectedCells() const;
  void goTo(int row, int column);
  // Goes on to a column that stays, when this one is about to be hidden.
  void leaveColumn(int column);
  [[nodiscard]] CellEditor* editor() const { return editor_; }
  void wantVisible();

 signals:
  void said(const QString& message);
  void currentRowChanged(int row);

 protected:
  void keyPressEvent(QKeyEvent* event) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  void scrollContentsBy(int dx, int dy) override;
  void resizeEvent(QResizeEvent* event) override;
  void currentChanged(const QModelIndex& current, const QModelIndex& previous) override;
  void paintEvent(QPaintEvent* event) override;
  // Tab belongs to the cells; F6 and the palette lead out of the sheet.
  bool focusNextPrevChild(bool next) override;

 private:
  void dropEditor();
  void move(CellEditor::Leave leave);
  void step(int columns);
  [[nodiscard]] bool tooMany();

  SheetModel& model_;
  QPointer<CellEditor> editor_;
};

}  // namespace iterandum
