#include "app/style/giving_way.h"

#include <QEvent>
#include <QLayout>
#include <algorithm>

namespace iterandum {

GivingWay::GivingWay(QWidget* parent) : QObject(parent), row_(parent) {
  row_->setSizePolicy(QSizePolicy::Ignored, row_->sizePolicy().verticalPolicy());
  row_->installEventFilter(this);
}

void GivingWay::add(QWidget* widget, int need) { items_.push_back({widget, need, true}); }

void GivingWay::setWanted(QWidget* widget, bool wanted) {
  for (Item& item : items_) {
    if (item.widget == widget) item.wanted = wanted;
  }
  fit();
}

bool GivingWay::eventFilter(QObject* watched, QEvent* event) {
  if (event->type() == QEvent::Resize || event->type() == QEvent::LayoutRequest) fit();
  return QObject::eventFilter(watched, event);
}

void GivingWay::fit() {
  if (fitting_) return;
  fitting_ = true;
  const QMargins margins = row_->layout()->contentsMargins();
  const int spacing = std::max(0, row_->layout()->spacing());
  const auto widthOf = [&](const Item& item) {
    const int hint =
        item.widget->sizePolicy().horizontalPolicy() == QSizePolicy::Ignored ? 0 : item.widget->sizeHint().width();
    return std::max(hint, item.widget->minimumWidth()) + spacing;
  };
  int needed = margins.left() + margins.right();
  std::vector<Item*> shown;
  for (Item& item : items_) {
    if (!item.wanted) continue;
    needed += widthOf(item);
    shown.push_back(&item);
  }
  std::stable_sort(shown.begin(), shown.end(), [](const Item* a, const Item* b) { return a->need < b->need; });
  std::size_t gone = 0;
  while (gone + 1 < shown.size() && needed > row_->width()) needed -= widthOf(*shown[gone++]);
  for (const Item& item : items_) {
    const auto at = std::find(shown.begin(), shown.end(), &item);
    const bool visible = at != shown.end() && at - shown.begin() >= static_cast<std::ptrdiff_t>(gone);
    if (item.widget->isVisibleTo(row_) != visible) item.widget->setVisible(visible);
  }
  fitting_ = false;
}

}  // namespace iterandum
