// FootLine: what is selected in a sheet, said in words, with what can be done about it; of one cell, what its column
// takes. It is always there, so that nothing moves when something is selected.
#pragma once

#include <QFrame>
#include <functional>

#include "app/grid/sheet_view.h"
#include "app/style/elided_label.h"
#include "app/style/giving_way.h"

class QLabel;
class QPushButton;
class QTimer;

namespace iterandum {

class FootLine : public QFrame {
  Q_OBJECT
 public:
  FootLine(SheetView& view, SheetModel& model, QWidget* parent);
  [[nodiscard]] QString text() const;

 signals:
  // One of the offers was taken: the command of this name is meant.
  void asked(const char* command);
  void menuAsked(const QPoint& where);

 private:
  void update();
  void showOne(const QModelIndex& cell);
  void showMany(const std::vector<SheetView::Block>& blocks);
  // What the selected cells of one column hold: how many have no value, and from where to where the others go.
  void readOn(const std::vector<SheetView::Block>& blocks);
  void say(const QString& words);

  SheetView& view_;
  SheetModel& model_;
  GivingWay* room_;
  ElidedLabel* words_;
  std::vector<QPushButton*> offers_;
  QTimer* soon_;
  QString base_;
  std::uint64_t asked_ = 0;
  std::shared_ptr<Progress> reading_;
};

}  // namespace iterandum
