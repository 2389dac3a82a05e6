// CardPanel: the current record whole: all its fields, the records it points at, and how many point at it; beside the
// sheet, or alone over the whole page as a form that is worked through: a key is typed, the record is there or is
// added. Edits here are the same staged cells.
#pragma once

#include <QWidget>
#include <functional>
#include <optional>
#include <vector>

#include "app/cells/cell_editor.h"
#include "app/grid/sheet_view.h"
#include "app/records/sheet_model.h"
#include "core/forms/form.h"

class QFrame;
class QGridLayout;
class QLabel;
class QPushButton;
class QScrollArea;

namespace iterandum {

class CardField;
class CardFind;
class CardIncoming;

class CardPanel : public QWidget {
  Q_OBJECT
 public:
  explicit CardPanel(SheetModel& model, QWidget* parent = nullptr);
  // Shows another record; -1 shows none.
  void show(int row);
  void refresh();
  // The field of a column gets the keys; of a borrowed one, the first field.
  void focusField(int column);
  // The same where some field has them already.
  void followColumn(int column);

  // Over the whole page: with the field that takes keys, and two columns of fields where there is room.
  void setAlone(bool alone);
  [[nodiscard]] bool alone() const { return alone_; }
  void focusFind();
  // A new record with what is kept for it, and this value; its first empty field gets the keys.
  void addRecord(const std::optional<std::pair<std::string, Value>>& with = std::nullopt);
  // --- arranging the fields (core/forms): kept for the table, and seen by all of its cards ---
  // The column whose field had the keys last; nothing: there is no record, or that column has no field.
  [[nodiscard]] std::optional<int> arrangedColumn() const;
  // What the form says of it.
  [[nodiscard]] FormField arrangedField() const;
  // The heading that stands right above it; empty: none.
  [[nodiscard]] QString arrangedHeading() const;
  void arrange(const std::function<void(Form&)>& how);

  // The sheet of records that point here which has the keys; null: none has.
  [[nodiscard]] SheetView* childWithKeys() const;
  [[nodiscard]] bool showsChildren(const TableName& child) const;
  // Whether the value of the field that has the keys goes on to the next new record.
  void togglePin();

 signals:
  void said(const QString& message);
  void leaveAsked();                   // Escape: back to the sheet
  void openAsked(const Scope& scope);  // the records that point here
  void rowAsked(int row);              // another record of the sheet
  void recordAsked(const ValueTuple& key);
  void fieldEntered(int column);
  void childSheetMade(SheetView* view);
  void menuAsked(const QPoint& where);

 protected:
  void resizeEvent(QResizeEvent* event) override;

 private:
  void build();
  void buildHead(QWidget* head);
  void connectField(CardField* field);
  void takeForm();
  void layOut();
  void moveField(const CardField* field, int step);
  // The field in front of which something would lie that is let go here; null: behind all.
  [[nodiscard]] CardField* fieldBelow(const QPoint& place, const CardField* carried) const;
  void showDrop(const CardField* field, const QPoint& to);
  void drop(const CardField* field, const QPoint& to);
  void step(int records);
  void edit(CardField* field, const QString& start);
  void finished(const CardField* field, CellEditor::Leave leave);
  void pin(CardField* field);
  // The next field that can be edited, from one on, as they are shown; nothing: there is none.
  [[nodiscard]] CardField* nextField(int from, int step) const;
  [[nodiscard]] int placeOf(const CardField* field) const;
  [[nodiscard]] bool canBeTyped(int column) const;

  SheetModel& model_;
  int row_ = -1;
  bool alone_ = false;
  bool shownAlone_ = false;  // as which the fields lie
  int shownColumns_ = 0;
  int shownWide_ = 0;  // how many fields take the whole width
  QLabel* title_;
  QLabel* subtitle_;
  QWidget* head_;
  CardFind* find_;
  QPushButton* before_;
  QPushButton* after_;
  QScrollArea* scroll_;
  QWidget* body_ = nullptr;
  QGridLayout* grid_ = nullptr;
  std::vector<CardField*> fields_;  // by column
  struct Group {
    QLabel* heading = nullptr;
    std::vector<CardField*> fields;
  };
  std::vector<Group> groups_;  // as they are shown
  std::vector<CardField*> order_;
  int lastColumn_ = -1;  // whose field had the keys
  QFrame* dropMark_ = nullptr;
  CardIncoming* incoming_ = nullptr;
};

}  // namespace iterandum
