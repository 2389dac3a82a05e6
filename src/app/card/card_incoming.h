// CardIncoming: below the fields of the card, how many records of each table point at the record, and the way to them;
// on the card alone they are there to be edited.
#pragma once

#include <QWidget>
#include <memory>
#include <optional>
#include <vector>

#include "app/card/child_sheet.h"

class QLabel;
class QPushButton;

namespace iterandum {

class CardIncoming : public QWidget {
  Q_OBJECT
 public:
  explicit CardIncoming(SheetModel& model, QWidget* parent = nullptr);
  // Those of another record; -1: of none. The same again changes nothing.
  void show(int row);
  // Whether they can be opened in place.
  void setInPlace(bool inPlace);
  // The one that has the keys; null: none has.
  [[nodiscard]] SheetView* viewWithKeys() const;
  // Whether the records of this table are open here.
  [[nodiscard]] bool shows(const TableName& child) const;

 signals:
  void openAsked(const Scope& scope);
  void said(const QString& message);
  void sheetMade(SheetView* view);

 private:
  // The records of one table that point here by one reference.
  struct Section {
    const Table* table = nullptr;
    const Reference* reference = nullptr;
    std::vector<std::size_t> targets;  // the columns pointed at, by position in this table
    QPushButton* line = nullptr;       // opens them as a sheet, or in place
    QPushButton* asSheet = nullptr;    // beside it, where it opens in place
    ChildSheet* sheet = nullptr;       // once it was opened
    bool open = false;
    Condition where;  // of the record that is shown
    Scope scope;
    std::optional<std::uint64_t> count;
  };
  void addSection(const Table& child, const Reference& reference);
  void count();
  void point(Section& section, const ValueTuple& record);
  void toggle(Section& section);
  void showSheet(Section& section);
  void say(const Section& section) const;
  [[nodiscard]] QString nameOf(const Section& section) const;
  [[nodiscard]] SheetModel::HeldByAll heldBy(const Section& section) const;

  SheetModel& model_;
  QLabel* head_;
  std::vector<std::unique_ptr<Section>> sections_;
  bool inPlace_ = false;
  int row_ = -1;
  std::optional<RecordRef> shown_;
  ValueTuple values_;  // of the record that is shown, as the database has it; empty: it is new
  std::uint64_t counting_ = 0;
};

}  // namespace iterandum
