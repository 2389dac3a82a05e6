#include "app/card/child_sheet.h"

#include <QMenu>
#include <QVBoxLayout>

namespace iterandum {
namespace {
constexpr int kRowHeight = 29;
constexpr int kMostRows = 8;  // more are scrolled to
constexpr int kMostWidth = 300;
}  // namespace

ChildSheet::ChildSheet(Desk& desk, const Table& child, const std::vector<std::size_t>& hidden, QWidget* parent)
    : QWidget(parent), model_(desk, child), view_(new SheetView(model_, this)) {
  auto* layout = new QVBoxLayout(this);
  layout->setContentsMargins(0, 0, 0, 8);
  layout->addWidget(view_);
  view_->setObjectName("childSheet");
  view_->setAccessibleName(tr("%1 of this record").arg(toQ(child.name.name)));
  view_->head().setFiltersShown(false);
  view_->setDensity(kRowHeight);
  for (const std::size_t column : hidden) view_->setColumnHidden(static_cast<int>(column), true);
  model_.source().setCountsTable(false);
  for (const auto signal : {&QAbstractItemModel::rowsInserted, &QAbstractItemModel::rowsRemoved}) {
    connect(&model_, signal, this, &ChildSheet::fitHeight);
  }
  connect(&model_, &QAbstractItemModel::modelReset, this, &ChildSheet::fitHeight);
  connect(&model_.source(), &RecordSource::loaded, this, &ChildSheet::fitColumns);
  connect(&model_.source(), &RecordSource::failed, this,
          [this](const QString& why) { emit said(tr("These records could not be read: %1").arg(why)); });
  connect(&model_, &SheetModel::said, this, &ChildSheet::said);
  connect(view_, &SheetView::said, this, &ChildSheet::said);
  connect(view_, &SheetView::cellMenuAsked, this, &ChildSheet::openMenu);
  connect(view_, &SheetGrid::marginMenuAsked, this, &ChildSheet::openMenu);
  connect(&view_->head(), &FilterHeader::sortAsked, this, [this](int column, bool) {
    const std::vector<SortKey>& now = model_.source().order();
    const std::string& name = model_.column(column).name;
    const bool down = !now.empty() && now.front().column == name && !now.front().descending;
    model_.source().read(model_.source().where(), {{name, down}});
  });
  fitHeight();
}

void ChildSheet::show(const std::optional<Condition>& where, SheetModel::HeldByAll held) {
  model_.setHeldByAll(std::move(held));
  fitted_ = false;
  Condition none;
  none.op = Condition::Op::Among;
  none.keys = std::make_shared<KeyList>();
  model_.source().read(where.value_or(none), model_.source().order());
}

void ChildSheet::fitHeight() {
  const int lines = std::min(kMostRows, model_.rowCount() + (model_.cannotAdd().isEmpty() ? 1 : 0));
  view_->setFixedHeight(view_->head().sizeHint().height() + std::max(1, lines) * kRowHeight + 2);
}

void ChildSheet::fitColumns() {
  if (std::exchange(fitted_, true)) return;
  for (int c = 0; c < model_.columnCount(); ++c) {
    if (!view_->isColumnHidden(c)) view_->widenToContents(c, kMostWidth);
  }
}

void ChildSheet::openMenu(const QPoint& where) {
  QMenu menu(this);
  const auto add = [&](const QString& text, const QString& keys, auto method) {
    QAction* action = menu.addAction(text, view_, method);
    action->setShortcut(QKeySequence(keys));
    action->setShortcutVisibleInContextMenu(true);
  };
  add(tr("Copy"), tr("Ctrl+C"), [this] { view_->copySelection(); });
  add(tr("Paste"), tr("Ctrl+V"), [this] { view_->pasteClipboard(); });
  add(tr("Set to no value"), tr("Ctrl+Shift+N"), [this] { view_->setNoValue(); });
  add(tr("Fill down"), tr("Ctrl+D"), [this] { view_->fillDown(); });
  menu.addSeparator();
  add(tr("Add a record"), tr("Ctrl+N"), [this] { view_->addRecord(); });
  add(tr("Remove the records"), tr("Ctrl+Delete"), [this] { view_->removeSelected(); });
  add(tr("Put the records back"), {}, [this] { view_->putBackSelected(); });
  menu.exec(where);
}

}  // namespace iterandum
