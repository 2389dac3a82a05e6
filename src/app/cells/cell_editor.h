// CellEditor: types a value into one cell, in place. It offers what fits the column: the allowed values, yes and no, a
// calendar, records to point at, several lines of text. What is typed is never lost: it goes to whoever opened the
// editor, fitting or not.
#pragma once

#include <QFrame>
#include <functional>

#include "app/records/sheet_model.h"
#include "app/session/desk.h"

class QCalendarWidget;
class QLabel;
class QLineEdit;
class QListWidget;
class QPlainTextEdit;

namespace iterandum {

class CellEditor : public QWidget {
  Q_OBJECT
 public:
  // Right and Left go on as Tab does, from record to record; ToTheRight and ToTheLeft to the next cell, if there is
  // one.
  enum class Leave { Stay, Down, Up, Right, Left, ToTheRight, ToTheLeft };

  // `cell` says where the editor lies in `parent`. `start` replaces what the cell holds when typing opened the editor.
  CellEditor(SheetModel& model, const QModelIndex& index, const QRect& cell, const QString& start, bool replace,
             QWidget* parent);

  [[nodiscard]] QModelIndex index() const { return index_; }
  [[nodiscard]] QString text() const;
  // Takes what is typed; false when it does not fit and the editor stays open with the reason.
  bool commit(Leave leave);
  void showReason(const QString& reason);
  // Whether what is typed may be meant for other cells too: Ctrl+Enter asks for that instead of a new line; Always:
  // every way of taking it does.
  enum class Many { No, WhereAsked, Always };
  void setForMany(Many many) { forMany_ = many; }
  // What was typed was taken otherwise.
  void finishAs(Leave leave);
  // The end of it: what is typed is taken, or stays visible in the cell with the reason why it does not fit.
  void settle();

 signals:
  void finished(Leave leave);
  void cancelled();
  // What is typed is meant for all selected cells; `chosen` where it is one of the offers.
  void forAll(const QString& text, const std::optional<Value>& chosen);

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  void buildLine(const QString& text, bool replace);
  void buildLines(const QString& text);
  void buildChoices();
  void fillChoices();
  void searchRecords();
  void tellRules();
  void placePopup();
  void openCalendar();
  bool key(QKeyEvent* event);
  bool enter(bool newLine, bool all, bool upwards);
  bool arrow(QKeyEvent* event);
  void take(const Value& value, const QString& shown, Leave leave);
  [[nodiscard]] bool offersChoices() const;
  [[nodiscard]] bool offersCalendar() const;
  [[nodiscard]] bool isLabelled() const;
  // Nothing was typed that would change what the cell holds.
  [[nodiscard]] bool untouched() const { return text() == opened_; }
  // The one offer that a typed name means; nothing where there is none, or more.
  [[nodiscard]] std::optional<std::pair<Value, QString>> meant() const;
  // The list begins at what the cell holds.
  void goToPresent();
  // Of a borrowed cell: how many records share it, to be said before anything is staged.
  void countOthers();

  SheetModel& model_;
  QPersistentModelIndex index_;
  QLineEdit* line_ = nullptr;
  QPlainTextEdit* lines_ = nullptr;
  QFrame* popup_ = nullptr;
  QListWidget* list_ = nullptr;
  QCalendarWidget* calendar_ = nullptr;
  QLabel* reason_ = nullptr;
  QLabel* others_ = nullptr;  // of a borrowed cell
  QString othersSaid_;        // empty: not counted yet
  QString opened_;            // how what the cell holds is written here: references and yes/no by name
  std::vector<std::pair<Value, QString>> offers_;
  bool inList_ = false;  // somebody went to an offer
  std::uint64_t search_ = 0;
  bool searching_ = false;        // the offers are still those of what was typed before, or none
  std::optional<Leave> waiting_;  // Enter was pressed meanwhile: what is found is taken when it is there
  bool typing_ = false;           // begun by typing: arrows lead on to the next cell
  Many forMany_ = Many::No;
  bool done_ = false;
};

}  // namespace iterandum
