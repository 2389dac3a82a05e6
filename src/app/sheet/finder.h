// FindBar: finds records of the whole scope, loaded or not: by a text in one column or in all that are shown, by key,
// by position. It goes from one to the next and says how many there are.
#pragma once

#include <QWidget>
#include <functional>
#include <memory>
#include <vector>

#include "app/records/sheet_model.h"

class QComboBox;
class QLabel;
class QLineEdit;

namespace iterandum {

class FindBar : public QWidget {
  Q_OBJECT
 public:
  // `shownColumns` says which columns can be seen.
  FindBar(SheetModel& model, std::function<std::vector<int>()> shownColumns, QWidget* parent = nullptr);

  // Opens for what is wanted; `column` and `row` are the current cell's.
  enum class By { Column, All, Key, Position };
  void open(By by, int column, int row);
  // From where the next one is looked for.
  void setCurrent(int column, int row);
  void step(bool backwards);

 signals:
  void found(int row);
  void left();

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  [[nodiscard]] Result<Condition> sought() const;
  void goToPosition();
  void search();
  void takeMatches(std::vector<int> matches);
  void say(const QString& text, bool wrong = false);
  void forget();

  SheetModel& model_;
  std::function<std::vector<int>()> shownColumns_;
  QLineEdit* line_;
  QComboBox* by_;
  QLabel* answer_;
  int column_ = 0;
  int row_ = 0;
  QString asked_;             // what the matches are for
  std::vector<int> matches_;  // rows, ascending
  bool backwards_ = false;
  std::shared_ptr<Progress> searching_;
  std::uint64_t search_ = 0;
};

// A condition that holds for records in which `text` stands in one of these columns, as people see them: references by
// what the record they point at is called.
[[nodiscard]] Condition containsText(SheetModel& model, const std::vector<int>& columns, const QString& text);

}  // namespace iterandum
