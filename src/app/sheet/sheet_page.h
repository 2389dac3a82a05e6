// SheetPage: one scope on screen: the sentence that says which records these are, the sheet, and the card.
#pragma once

#include <QWidget>
#include <optional>

#include "app/card/card_panel.h"
#include "app/sheet/sheet_view.h"
#include "app/sheet/values_panel.h"

class QLabel;
class QSplitter;
class QTimer;

namespace iterandum {

// How a sheet is looked at: what is needed to make another one like it.
struct SheetLook {
  QStringList filters;  // by column; may be empty
  std::vector<SortKey> order;
  QByteArray columns;                // their widths, order and hiding
  std::optional<ValueTuple> record;  // the current one
  int column = 0;
};

class SheetPage : public QWidget {
  Q_OBJECT
 public:
  SheetPage(Desk& desk, const Table& table, const SheetLook& look = {}, QWidget* parent = nullptr);

  [[nodiscard]] SheetLook look() const;

  [[nodiscard]] const Table& table() const { return model_.table(); }
  [[nodiscard]] SheetView& view() { return *view_; }
  [[nodiscard]] SheetModel& model() { return model_; }
  [[nodiscard]] QString title() const;
  // Reads again; what is staged stays.
  void refresh();
  void toggleCard();
  // The values of the current column beside the sheet, in place of the card; again: the card.
  void toggleValues();
  void focusCard();
  void focusFilter();
  void clearFilters();
  void setFilter(int column, const QString& text);
  void sortByCurrent();
  void sortAlsoByCurrent();
  void hideCurrentColumn();
  void showAllColumns();
  // Moves to the next record that has a mark.
  void nextMarked(bool backwards);

 signals:
  void said(const QString& message);
  void titleChanged();

 private:
  void takeLook(const SheetLook& look);
  void readSoon();
  void read();
  void sort(int column, bool also);
  void showValues(int column);
  void updateSentence();
  [[nodiscard]] QString sentence() const;

  Desk& desk_;
  SheetModel model_;
  SheetView* view_;
  CardPanel* card_;
  ValuesPanel* values_;
  QSplitter* splitter_;
  QLabel* sentence_;
  QLabel* count_;
  QLabel* problem_;
  QTimer* soon_;
  std::vector<SortKey> order_;
  std::vector<std::pair<int, Condition>> phrases_;  // what is shown, by the filter cell it comes from
  int column_ = 0;
  std::optional<ValueTuple> returnTo_;
};

}  // namespace iterandum
