// MainWindow: title, tabs, pages, rail; and every command with its shortcut.
#pragma once

#include <QMainWindow>
#include <QPointer>
#include <memory>
#include <optional>
#include <vector>

#include "app/connect/secret_store.h"
#include "app/connect/start_page.h"
#include "app/session/desk.h"
#include "app/sheet/sheet_page.h"
#include "app/window/command_palette.h"
#include "core/review/ways_out.h"

class QMenu;
class QPushButton;
class QStackedWidget;
class QTabBar;

namespace iterandum {

struct AdoptedChanges;

class CataloguePage;
class Commands;
class HistoryPage;
class KeptCommands;
class MarkBar;
class Messages;
class Rail;
class ReviewPage;

class MainWindow : public QMainWindow {
  Q_OBJECT
 public:
  // storePath: where staged work and receipts are kept.
  // `secrets`: where passwords are kept; the desktop's secret service when none is given.
  explicit MainWindow(std::string storePath, std::unique_ptr<SecretStore> secrets = {}, QWidget* parent = nullptr);
  ~MainWindow() override;

  void open(const QString& address);
  void open(const OpenWish& wish);
  void openTable(const TableName& table);
  // Opens a sheet with this scope, or goes to the one that shows it already.
  SheetPage* openScope(const Scope& scope, const QString& name = {});
  [[nodiscard]] Desk* desk() const { return desk_.get(); }
  [[nodiscard]] SheetPage* currentSheet() const;
  void say(const QString& message, bool good = false);

 protected:
  void resizeEvent(QResizeEvent* event) override;

 private:
  void buildTop();
  void buildCommands();
  void buildDatabaseCommands();
  void buildStagedCommands();
  void buildCellCommands();
  void buildRecordCommands();
  void buildFindCommands();
  void buildColumnCommands();
  void buildScopeCommands();
  void buildDeskCommands();
  [[nodiscard]] QMenu* newMenu(const char* name);
  void openMenuOfAll();
  void openSheetMenu(SheetPage::Place place, const QPoint& where);
  void openReviewMenu(const QPoint& where);
  void openReceiptMenu(const QPoint& where);
  void showMessages();
  void showStart();
  void databaseOpened();
  void dropPages();
  void buildPages();
  SheetPage* addSheet(const Table& table, const SheetLook& look);
  // Makes all pages anew, each as it was.
  void rebuildPages(bool atStart);
  void databaseFailed(const QString& message, const QString& step);
  void openNow(const OpenWish& wish);
  void stopOpening();
  void abandonOpening();
  void tryOut(const OpenWish& wish);
  void openMark();
  void showTitle();
  void showPage(QWidget* page);
  void updateTabs();
  void updateRail();
  void updateAside();
  void forgetTips();
  void openPalette();
  void showReview();
  void showHistory();
  void showRecordHistory();
  void undo();
  void redo();
  // The cursor goes to what a gesture touched, where a sheet shows it.
  void goToChanged(const Gesture& gesture);
  // From the review to a record in its sheet, with the cell marked; coming back leads to the review again.
  // Records that the review speaks of, in a sheet of their own.
  void showRecordsOf(const TableName& table, const NamedValues& values);
  void mergeReviewed(const TableName& table, const std::vector<ValueTuple>& keys);
  [[nodiscard]] SheetPage* sheetForReviewed(const TableName& table);
  void goToReviewed(const RecordRef& record, const std::string& column);
  // What is being typed is taken first; false, and said, when it does not fit.
  [[nodiscard]] bool typingTaken(const QString& before);
  void showCatalogue();
  void closeSheet();
  void dropSheet(SheetPage* sheet);
  void keepLayouts();
  void keepSheets();
  void openKeptSheets();
  [[nodiscard]] std::vector<CommandPalette::Entry> scopeEntries(
      const std::function<void(const SavedScope&)>& run) const;
  void saveScope();
  void exportScope();
  void importScope();
  // Corrections from a file beside the sheet in front; what that sheet shows, as a file.
  void stageFromFile();
  void exportRecords(bool asShown, bool onlySelected = false);
  void writeWorkingCopy();
  // The page in front on paper: a sheet's records, what would change, what was changed.
  void print();
  void writePages();
  void printPages();
  void followReference();
  void comeBack();
  void borrowColumn();
  void showHiddenColumn();
  void sortByAny();
  // Calls `each` with every column that can be borrowed, over up to three steps.
  void eachLent(const Table& table, const std::function<void(const ColumnPath&, const Column&)>& each) const;
  void chooseReadable();
  void stateReference();
  void forgetReference();
  void refreshSheets();
  void saveChangeFile();
  void openChangeFile();
  // All receipts of the database into a file that is chosen, or out of one.
  void exchangeReceipts(bool out);
  // Of the chosen groups, or of what is selected in the sheet.
  void reviewPart();
  void takeChangeFile(const QString& name, const AdoptedChanges& adopted, std::vector<Comment> comments);
  void takeComments(std::vector<Comment> comments, const ChangeList& staged, std::uint64_t firstId);
  void setScheme(bool dark);

  std::unique_ptr<SecretStore> secrets_;
  std::shared_ptr<StoreThread> storeThread_;
  std::shared_ptr<TaskThread> trialThread_;
  OpenWish wish_;  // what is being opened
  std::unique_ptr<Desk> desk_;
  std::unique_ptr<Desk> opening_;
  std::unique_ptr<Commands> commands_;
  std::unique_ptr<KeptCommands> kept_;
  QPushButton* title_ = nullptr;
  QTabBar* tabs_ = nullptr;
  QPushButton* find_ = nullptr;
  QStackedWidget* pages_ = nullptr;
  Messages* messages_ = nullptr;
  MarkBar* markBar_ = nullptr;
  Rail* rail_ = nullptr;
  StartPage* start_ = nullptr;
  CataloguePage* catalogue_ = nullptr;
  ReviewPage* review_ = nullptr;
  HistoryPage* history_ = nullptr;
  std::vector<SheetPage*> sheets_;
  // The way from record to record, to come back on.
  struct Step {
    QPointer<QWidget> from;  // a sheet, or the review
    ValueTuple key;          // of a sheet
    int column = 0;
    QPointer<SheetPage> opened;
    Scope scope;  // of what was opened: left open when it was changed meanwhile
  };
  // Where somebody is in a sheet, to come back to; nothing: on no record of the database.
  [[nodiscard]] static std::optional<Step> placeIn(SheetPage* sheet);
  std::vector<Step> way_;
  QPointer<SheetPage> lastSheet_;  // shown last, to go back to
  CommandPalette* palette_ = nullptr;
};

}  // namespace iterandum
