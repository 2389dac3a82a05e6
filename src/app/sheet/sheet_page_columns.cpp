// SheetPage: how its columns lie: shown, wide, in order, frozen, borrowed.
#include <algorithm>

#include "app/sheet/sheet_page.h"

namespace iterandum {

std::vector<int> SheetPage::shownColumns() const {
  std::vector<int> out;
  const FilterHeader& head = view_->head();
  for (int visual = 0; visual < head.count(); ++visual) {
    const int column = head.logicalIndex(visual);
    if (!view_->isColumnHidden(column)) out.push_back(column);
  }
  return out;
}

// By default what names a record stays in sight.
int SheetPage::leadingKeyColumns() const {
  const std::vector<std::string> keys = model_.table().writeKeyColumns();
  const FilterHeader& head = view_->head();
  int leading = 0;
  for (int v = 0; v < head.count(); ++v) {
    const int column = head.logicalIndex(v);
    if (head.isSectionHidden(column)) continue;
    const bool isKey =
        !model_.isBorrowed(column) && std::find(keys.begin(), keys.end(), model_.column(column).name) != keys.end();
    if (!isKey) break;
    ++leading;
  }
  return leading;
}

// As wide as the records want it that are seen first; afterwards as somebody lays them.
void SheetPage::fitColumns() {
  constexpr int kWidest = 300;
  if (!fitSoon_ || model_.source().rows() == 0) return;
  fitSoon_ = false;
  for (int c = 0; c < model_.columnCount(); ++c) {
    if (!view_->isColumnHidden(c)) view_->widenToContents(c, kWidest);
  }
}

// Past hidden ones to the next place that can be seen.
void SheetPage::moveColumn(int step) {
  FilterHeader& head = view_->head();
  const int column = view_->currentIndex().column();
  if (column < 0) return;
  int to = head.visualIndex(column) + step;
  while (to >= 0 && to < head.count() && head.isSectionHidden(head.logicalIndex(to))) to += step;
  if (to < 0 || to >= head.count()) return;
  head.moveSection(head.visualIndex(column), to);
  view_->scrollTo(view_->currentIndex());
}

void SheetPage::resizeColumn(double factor) {
  FilterHeader& head = view_->head();
  const int column = view_->currentIndex().column();
  if (column < 0) return;
  const int width = static_cast<int>(head.sectionSize(column) * factor);
  head.resizeSection(column, std::clamp(width, head.minimumSectionSize(), 1200));
}

void SheetPage::hideCurrentColumn() {
  const int column = view_->currentIndex().column();
  if (column < 0 || view_->head().hiddenSectionCount() + 1 >= view_->head().count()) return;
  const QString name = model_.columnName(column);
  view_->leaveColumn(column);
  // A borrowed one is given back, unless its filter is still at work.
  if (model_.isBorrowed(column) && view_->head().filter(column).isEmpty()) {
    model_.giveBack(column);
    emit told(tr("%1 is no longer shown; “Borrow a column” brings it back.").arg(name));
    return;
  }
  view_->setColumnHidden(column, true);
  emit told(tr("%1 is hidden; “Show all columns” brings it back.").arg(name));
}

void SheetPage::showColumn(int column) {
  view_->setColumnHidden(column, false);
  view_->goTo(std::max(0, view_->currentIndex().row()), column);
  view_->setFocus();
}

void SheetPage::fitColumn() {
  if (view_->currentIndex().isValid()) view_->widenToContents(view_->currentIndex().column());
}

void SheetPage::showAllColumns() {
  for (int c = 0; c < model_.columnCount(); ++c) view_->setColumnHidden(c, false);
}

void SheetPage::freezeToCurrent() {
  FilterHeader& head = view_->head();
  const int column = view_->currentIndex().column();
  int upTo = 0;
  for (int v = 0; v <= head.visualIndex(column); ++v) upTo += head.isSectionHidden(head.logicalIndex(v)) ? 0 : 1;
  const bool same = head.frozen() == upTo;
  head.setFrozen(same ? 0 : upTo);
  emit told(same ? tr("No column is frozen.")
                 : tr("%n column(s) stay where they are while the others are scrolled.", "", upTo));
}

void SheetPage::borrow(const ColumnPath& path) {
  const int after = view_->head().visualIndex(currentColumn());
  const int column = model_.borrow(path);
  FilterHeader& head = view_->head();
  view_->setColumnHidden(column, false);
  if (head.visualIndex(column) > after + 1) head.moveSection(head.visualIndex(column), after + 1);
  view_->goTo(std::max(0, view_->currentIndex().row()), column);
  view_->setFocus();
}

}  // namespace iterandum
