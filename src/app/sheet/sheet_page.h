// SheetPage: one scope on screen: the sentence that says which records these are, the sheet, and the card.
#pragma once

#include <QWidget>
#include <optional>
#include <string>
#include <unordered_set>

#include "app/card/card_panel.h"
#include "app/grid/sheet_view.h"
#include "app/sheet/act_slip.h"
#include "app/sheet/doubles_slip.h"
#include "app/sheet/file_slip.h"
#include "app/sheet/finder.h"
#include "app/sheet/foot_line.h"
#include "app/sheet/hand_out_slip.h"
#include "app/sheet/lens_slip.h"
#include "app/sheet/mark_walk.h"
#include "app/sheet/merge_slip.h"
#include "app/sheet/phrase_editor.h"
#include "app/sheet/place_keeper.h"
#include "app/sheet/print_slip.h"
#include "app/sheet/return_slip.h"
#include "app/sheet/sentence_line.h"
#include "app/sheet/sheet_scope.h"
#include "app/sheet/values_panel.h"

class QLabel;
class QPrinter;
class QSplitter;
class QTimer;

namespace iterandum {

class WholeCell;

// How a sheet is looked at: what is needed to make another one like it.
struct SheetLook {
  Scope scope;
  std::vector<int> widths;  // by position on screen; may be empty
  int frozen = 0;
  std::optional<ValueTuple> record;  // the current one
  int column = 0;
  bool readWhenSeen = false;  // of many sheets that come back, only what is looked at is read
};

// The part of a look that a table keeps from one start to the next: columns, their order and widths, how many are
// frozen.
[[nodiscard]] std::string layoutText(const SheetLook& look);
// Nothing of it where it cannot be read.
[[nodiscard]] SheetLook layoutFrom(const std::string& table, const std::string& text);

class SheetPage : public QWidget {
  Q_OBJECT
 public:
  // Where a menu is asked for.
  enum class Place { Cells, Margin, Head, Sentence, Card };

  SheetPage(Desk& desk, const Table& table, const SheetLook& look = {}, QWidget* parent = nullptr);

  [[nodiscard]] SheetLook look() const;
  // Under which name its scope was saved or opened; empty: none.
  [[nodiscard]] const QString& scopeName() const { return scopeName_; }
  // `saved`: what is kept under that name; the title says when the sheet shows other records.
  void setScopeName(const QString& name, const Scope& saved);
  [[nodiscard]] const Scope& savedScope() const { return saved_; }

  [[nodiscard]] const Table& table() const { return model_.table(); }
  [[nodiscard]] SheetView& view() { return *view_; }
  // The one that has the keys: this sheet's, or one of those on the card.
  [[nodiscard]] SheetView& viewWithKeys();
  // Whether the card has the records of this table that point at its own.
  [[nodiscard]] bool showsOnCard(const TableName& child) const { return card_->showsChildren(child); }
  [[nodiscard]] SheetModel& model() { return model_; }
  [[nodiscard]] SheetScope& scope() { return *scope_; }
  [[nodiscard]] SentenceLine& sentence() { return *sentence_; }
  [[nodiscard]] QString title() const;
  // Reads again; what is staged stays.
  void refresh();
  // The same after something was applied, which stays marked.
  void readAgain();
  void stopCounting();
  void toggleCard();
  // The card alone over the whole page, to be worked through as a form; again: beside the sheet.
  void toggleAlone();
  // On the card where it is alone, with what is kept for the next one; else in the sheet.
  void addRecord();
  void keepField() { card_->togglePin(); }
  [[nodiscard]] CardPanel& card() { return *card_; }
  // The next record that has no value where one is.
  void nextWithoutValue();
  // The values of the current column beside the sheet, in place of the card; again: the card.
  void toggleValues();
  // The slip on which many records are changed at once, in place of the card; again: the card.
  void changeMany();
  void replaceInMany();
  void useRecipe(const QString& name);
  // The selected records side by side, to be made one; again: the card.
  void mergeRecords();
  // The same for records that are named, wherever they are.
  void mergeThese(std::vector<ValueTuple> keys);
  // Records that are alike, in place of the card; again: the card.
  void findDoubles();
  // How the current column is shown and typed, in place of the card; again: the card.
  void toggleLens();
  // What the file says differently, or what was changed in the working copies that they are, in place of the card.
  void stageFromFiles(const QStringList& paths);
  // The table on the clipboard, the same way.
  void stageFromClipboard();
  // What a working copy of these records is to be, in place of the card; again: the card.
  void handOut();
  void writeWorkingCopy(const QString& path);
  // How these records would come out on paper, in place of the sheet; again: the sheet.
  void printRecords();
  void writePages(const QString& path);
  void printPages(const std::shared_ptr<QPrinter>& printer);
  // What is shown, as the database has it, as a file.
  // `asShown`: references by name, through the lenses.
  void exportRecords(const QString& path, const std::string& format, bool asShown = false) {
    writeRecords(path, format, asShown, std::nullopt);
  }
  // Only those that are selected.
  void exportSelected(const QString& path, const std::string& format, bool asShown);
  void focusCard();
  void focusFilter();
  void focusSentence();
  void addCondition();
  void clearFilters();
  void sortByCurrent();
  void sortAlsoByCurrent();
  void moveColumnLeft() { moveColumn(-1); }
  void moveColumnRight() { moveColumn(1); }
  void widenColumn() { resizeColumn(1.25); }
  void narrowColumn() { resizeColumn(0.8); }
  void hideCurrentColumn();
  void showColumn(int column);
  // As wide as what is on screen wants it.
  void fitColumn();
  // Leaves the records that have the current cell's value in its column; `others`: those that have not.
  void keepValue(bool others);
  void showAllColumns();
  void freezeToCurrent();
  // Shows a borrowed column behind the current one, and goes there.
  void borrow(const ColumnPath& path);
  void find(FindBar::By by);
  void findNext(bool backwards);
  // Moves to the next record that has a mark.
  void nextMarked(bool backwards) { marks_->step(backwards); }
  // Goes to a record as soon as it is there; `missed`: it is not among these.
  void goToRecord(const ValueTuple& key, int column, std::function<void()> missed = {});
  void showWhole();

 signals:
  void said(const QString& message);
  void told(const QString& message);  // what was done, where nothing is amiss
  void titleChanged();
  void openAsked(const Scope& scope);
  void menuAsked(SheetPage::Place place, const QPoint& where);
  void commandAsked(const char* command);
  void offered(const QString& message, const QString& action, const std::function<void()>& act);
  void copyFileAsked();
  void printFileAsked();
  void printerAsked();

 protected:
  void resizeEvent(QResizeEvent* event) override;
  void showEvent(QShowEvent* event) override;

 private:
  // Stages what a file holds in a cell that is shown whole.
  void takeFileInto(const QPersistentModelIndex& cell, WholeCell* whole);
  QWidget* buildTop();
  void connectParts();
  void connectRecords();
  void moveColumn(int step);
  void resizeColumn(double factor);
  void takeLook(const SheetLook& look);
  [[nodiscard]] int leadingKeyColumns() const;
  void fitColumns();
  void readSoon();
  // `why`: it cannot be.
  void showMerging(const QString& why);
  // One of the panels beside the sheet; the others give way.
  void showBeside(QWidget* panel);
  void leavePanel();
  void makeRoom();
  void setAlone(bool alone);
  void showOnCard(const ValueTuple& key);
  // False where nothing can be changed, which is said.
  bool openSlip();
  [[nodiscard]] std::vector<QWidget*> slips() const;
  // As they lie on screen.
  [[nodiscard]] std::vector<int> shownColumns() const;
  // The scope as it is shown; nothing, which is said, where it cannot be read.
  // `only`: the keys of those that go out, as recordBytes() has them; nothing: all.
  void writeRecords(const QString& path, const std::string& format, bool asShown,
                    std::optional<std::unordered_set<std::string>> only);
  [[nodiscard]] std::optional<ReadScope> shownScope();
  void showValues(int column);
  void updateSentence();
  void updateCount();
  void openPhrase(int phrase);
  void takeOutPhrase(int phrase);
  [[nodiscard]] QPoint phrasePlace(int phrase) const;
  [[nodiscard]] int currentColumn() const { return place_->column(); }
  // What was just applied and is not among these any more is said.
  void lookForLeft();

  Desk& desk_;
  SheetModel model_;
  SheetView* view_;
  SheetScope* scope_;
  CardPanel* card_;
  ValuesPanel* values_;
  ActSlip* slip_;
  MergeSlip* merging_;
  DoublesSlip* doubles_;
  FileSlip* file_;
  HandOutSlip* handOut_;
  ReturnSlip* returned_;
  PrintSlip* print_;
  PrintPreview* preview_;
  LensSlip* lens_;
  QSplitter* splitter_;
  SentenceLine* sentence_;
  PhraseEditor* phraseEditor_;
  FindBar* find_;
  FootLine* foot_;
  PlaceKeeper* place_;
  MarkWalk* marks_;
  QLabel* count_;
  QLabel* problem_;
  QTimer* soon_;
  QString scopeName_;
  Scope saved_;
  bool readWhenSeen_ = false;
  std::optional<ValueTuple> unseenRecord_;  // where it is to begin, while it was not seen
  int unseenColumn_ = 0;
  bool fitSoon_ = false;      // the columns' widths go by the first records
  bool fitNamed_ = false;     // and once more when the names are there
  bool lookForLeft_ = false;  // when all is counted
  QLabel* left_;              // what of the applied is not among these
};

}  // namespace iterandum
