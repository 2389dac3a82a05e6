// PhraseEditor: changes one phrase of the sentence in place. The condition is typed; below it stand the values that the
// column holds in the records the other phrases leave, with their counts, narrowed as one types. For a phrase of the
// order it offers the ways to sort.
#pragma once

#include <QFrame>
#include <QPointer>
#include <functional>
#include <memory>
#include <vector>

#include "app/records/column_values.h"
#include "app/sheet/sheet_scope.h"

class QLabel;
class QLineEdit;
class QListWidget;

namespace iterandum {

class PhraseEditor : public QFrame {
  Q_OBJECT
 public:
  explicit PhraseEditor(SheetModel& model, SheetScope& scope, QWidget* parent);

  // Opens below `place`, which is in the parent's coordinates.
  void editPhrase(const ScopePhrase& phrase, const QPoint& place);
  // A further condition: a column, or what a record may be like as a whole, is chosen first.
  void addPhrase(const QPoint& place);

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  struct Offer {
    QString text;
    QString aside;
    QString condition;  // what the line is to hold
    std::function<void()> run;
    bool faint = false;
  };
  void open(const QPoint& place, const QString& heading, const QString& text, const QString& hint);
  void offerColumns();
  void offerWays(int order);
  void chooseColumn(const ColumnPath& path);
  void askValues(const QString& contains);
  void offerValues();
  void narrow();
  void fitHeight();
  void take();
  void takeText(const QString& text, SheetScope::Said said = SheetScope::Said::Typed);
  void leave();

  SheetModel& model_;
  SheetScope& scope_;
  QLabel* heading_;
  QLineEdit* line_;
  QListWidget* list_;
  QLabel* note_;
  CountedValues values_;  // that are offered; empty where columns or ways are
  std::vector<Offer> offers_;
  std::vector<std::size_t> shown_;
  bool chosen_ = false;       // somebody went to the highlighted offer; else it is highlighted for being the first
  QPointer<QWidget> before_;  // who had the keys, and gets them back
  ScopePhrase phrase_;
  bool adding_ = false;
  QString prefix_;        // adding a condition on a column: its name
  ColumnPath path_;       // whose values are offered; its column is empty where none are
  bool complete_ = true;  // the offers are all values there are
  std::shared_ptr<Progress> asking_;
  std::uint64_t asked_ = 0;
};

}  // namespace iterandum
