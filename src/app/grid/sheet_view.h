// SheetView: the sheet under keys and mouse. They do what spreadsheet users' fingers expect; editing is in place;
// nothing here speaks to a database.
#pragma once

#include <QPointer>
#include <functional>

#include "app/cells/cell_editor.h"
#include "app/grid/clipboard_copy.h"
#include "app/grid/sheet_grid.h"
#include "app/records/hanging_removals.h"
#include "app/records/many_records.h"
#include "app/records/name_lookup.h"

namespace iterandum {

class SheetView : public SheetGrid {
  Q_OBJECT
 public:
  explicit SheetView(SheetModel& model, QWidget* parent = nullptr);

  // Opens the editor on the current cell.
  void editCurrent(const QString& start = {}, bool replace = false);
  void setNoValue();
  void removeSelected();
  // With all that points at them and could not stay.
  void removeWithHanging();
  void putBackSelected();
  // Of the selected records, or the current one, those with something staged.
  [[nodiscard]] std::vector<RecordRef> stagedInSelection() const;
  // As new records with the same values, as staged; what has to be another one in each is left to be filled in.
  void duplicateSelected();
  // With all that points at them.
  void duplicateWithHanging();
  void addRecord();
  // As it is shown, or as it is stored; `heads`: the columns' names above.
  void copySelection(bool heads = false, bool stored = false);
  void cutSelection();
  void pasteClipboard();
  // Fills each selected column from its first selected record down, or the records from the first column on. One cell
  // takes what stands above or before it.
  void fillDown();
  void fillRight();
  // Counts on from the first selected record: by one, or by what the second one is more when it was typed.
  void fillSeries();
  void selectAllCells();
  void selectColumns() { selectWhole(true, false); }
  void selectRecords() { selectWhole(false, true); }
  // Takes what is being typed; false: it does not fit, and the editor says why.
  [[nodiscard]] bool takeTyped();
  void openMenuByKey();
  // What a gesture on the selection is about: the current cell when nothing else is selected. Positions are ranges, so
  // that millions of them cost nothing.
  struct Block {
    RowRange rows;
    std::vector<int> columns;  // as they lie on screen
  };
  [[nodiscard]] std::vector<Block> selectedBlocks() const;
  [[nodiscard]] std::vector<RowRange> selectedRows() const;
  // `act` gets the selected records, when all of them are known (ManyRecords::take).
  void withSelected(std::function<void(ManyRecords::Records&&)> act) { many_.take(selectedRows(), std::move(act)); }
  [[nodiscard]] qint64 selectedCellCount() const;
  void goTo(int row, int column);
  // Goes on to a column that stays, when this one is about to be hidden.
  void leaveColumn(int column);
  [[nodiscard]] CellEditor* editor() const { return editor_; }
  void wantVisible();

 signals:
  void said(const QString& message);
  // What could be done besides, for whoever wants it.
  void offered(const QString& message, const QString& action, const std::function<void()>& act);
  void currentRowChanged(int row);
  void cellMenuAsked(const QPoint& where);

 protected:
  void contextMenuEvent(QContextMenuEvent* event) override;
  void addAsked() override { addRecord(); }
  void fillAsked(const QItemSelection& from, RowRange rows, bool counting) override;
  void keyPressEvent(QKeyEvent* event) override;
  void focusOutEvent(QFocusEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  void wheelEvent(QWheelEvent* event) override;
  void scrollContentsBy(int dx, int dy) override;
  void resizeEvent(QResizeEvent* event) override;
  void currentChanged(const QModelIndex& current, const QModelIndex& previous) override;
  void paintEvent(QPaintEvent* event) override;
  // Tab belongs to the cells; F6 and the palette lead out of the sheet.
  bool focusNextPrevChild(bool next) override;

 private:
  [[nodiscard]] std::vector<int> stagedRows() const;
  void dropEditor();
  void move(CellEditor::Leave leave);
  void step(int columns);
  void moveAtOnce(QKeyEvent* event);
  [[nodiscard]] bool selectByKey(QKeyEvent* event);
  void putBackCurrent();
  // Into all selected cells what was typed into one of them.
  void fillWithTyped(const QString& text, const std::optional<Value>& chosen);
  // One set of columns over all selected records; nothing, and said, where they are not the same.
  [[nodiscard]] std::vector<int> commonColumns(const std::vector<Block>& blocks);
  void setAll(const std::vector<RowRange>& rows, const std::vector<std::pair<int, Value>>& values, const QString& what);
  void refuse(const Result<void>& staged, std::size_t records);
  void pasteBlock(const std::vector<QStringList>& lines, int top, int first);
  void pasteLines(const std::vector<QStringList>& lines, int top, const std::vector<int>& columns,
                  const ManyRecords::Records& records, const NameLookup::Names& names);
  void tellRefused(const std::vector<ManyRecords::Refusal>& refused, std::size_t cells, int top);
  void offerRest(std::vector<QStringList> rest, const std::vector<int>& columns, const NameLookup::Names& names);
  void addPasted(const std::vector<QStringList>& lines, const std::vector<int>& columns,
                 const NameLookup::Names& names);
  void pasteOne(const QString& text);
  [[nodiscard]] Result<Value> pasted(int column, const QString& text, const NameLookup::Names& names) const;
  // Counts on in these columns from the first of the records, which are `pattern` that stay as they are.
  void countOn(const std::vector<int>& columns, const std::vector<RowRange>& rows, std::size_t pattern);
  void stageHanging(const std::vector<HangingRecords>& found);
  void stageCopies(const std::vector<HangingRecords>& found, std::size_t roots);
  void stageFilled(const ManyRecords::Records& records, const std::vector<ManyRecords::CellWish>& cells,
                   const QString& what, std::size_t filled);

  SheetModel& model_;
  ManyRecords many_;
  NameLookup lookup_;
  ClipboardCopy copy_;
  int tabbedFrom_ = -1;  // the column in which a run of Tabs began
  QPointer<CellEditor> editor_;
};

}  // namespace iterandum
