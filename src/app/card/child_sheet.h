// ChildSheet: the records of one table that point at the record of a card, edited in place under the same keys as any
// sheet; one that is added points at it too, also where it is itself only staged.
#pragma once

#include <QWidget>

#include "app/grid/sheet_view.h"

namespace iterandum {

class ChildSheet : public QWidget {
  Q_OBJECT
 public:
  // `hidden`: columns that say no more than which record it is.
  ChildSheet(Desk& desk, const Table& child, const std::vector<std::size_t>& hidden, QWidget* parent = nullptr);

  // Reads those that fit; nothing to read: the record is new itself.
  void show(const std::optional<Condition>& where, SheetModel::HeldByAll held);
  [[nodiscard]] SheetView& view() { return *view_; }
  [[nodiscard]] SheetModel& model() { return model_; }

 signals:
  void said(const QString& message);

 private:
  void fitHeight();
  void fitColumns();
  void openMenu(const QPoint& where);

  SheetModel model_;
  SheetView* view_;
  bool fitted_ = false;
};

}  // namespace iterandum
