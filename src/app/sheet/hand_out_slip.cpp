#include "app/sheet/hand_out_slip.h"

#include <QLabel>
#include <QListWidget>
#include <QPushButton>

#include "app/style/roles.h"
#include "app/style/side_frame.h"
#include "core/apply/apply.h"
#include "core/base/names.h"

namespace iterandum {

HandOutSlip::HandOutSlip(SheetModel& model, QWidget* parent) : SideSlip(parent), model_(model) {
  const auto [panel, title, subtitle] = buildPanelHead(this);
  title->setText(tr("A working copy"));
  subtitle_ = subtitle;
  QVBoxLayout* layout = addScrolled(panel);
  layout->addSpacing(6);
  auto* heading = new QLabel(tr("What may be changed in it:"), this);
  heading->setFont(plain(0.92));
  layout->addWidget(heading);
  columns_ = newList("copyColumns", tr("Columns that may be changed in the working copy"));
  connect(columns_, &QListWidget::itemChanged, this, [this] { look(); });
  layout->addWidget(columns_, 1);
  words_ = newWords("copyWords");
  words_->setFont(plain(0.92));
  layout->addWidget(words_);
  const PanelFoot foot = buildPanelFoot(this, panel, tr("Write the file…"), "copyWrite");
  write_ = foot.stage;
  write_->setToolTip(tr("A spreadsheet for people who do not get at the database (Ctrl+Enter)"));
  connect(write_, &QPushButton::clicked, this, [this] { finish(); });
  connect(foot.close, &QPushButton::clicked, this, &SideSlip::leaveAsked);
}

void HandOutSlip::open(const std::vector<int>& columns) {
  const QSignalBlocker blocker(columns_);
  columns_->clear();
  subtitle_->setText(tr("The records that the sheet shows, as a spreadsheet to be corrected by somebody else."));
  const Table& table = model_.table();
  for (const int column : columns) {
    const ColumnPath& path = model_.path(column);
    auto* item = new QListWidgetItem(model_.columnName(column), columns_);
    item->setData(Qt::UserRole, toQ(path.column));
    QString why;
    if (path.isBorrowed()) {
      why = tr("it belongs to another record");
    } else if (iterandum::contains(table.identity.columns, path.column)) {
      why = tr("it says which record it is");
    } else if (const Column* own = table.column(path.column); own != nullptr && !own->notEditable.empty()) {
      why = toQ(own->notEditable);
    }
    const Lens* lens = model_.desk().lenses().of(model_.ownerTable(column).name, path.column);
    const bool masked = lens != nullptr && lens->kind == LensKind::Masked;
    if (why.isEmpty()) {
      item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsUserCheckable);
      item->setCheckState(masked ? Qt::Unchecked : Qt::Checked);
      if (masked) item->setText(tr("%1: masked; left out unless it is ticked").arg(item->text()));
    } else {
      item->setFlags(Qt::NoItemFlags);
      item->setText(tr("%1: protected (%2)").arg(item->text(), why));
    }
  }
  for (int i = 0; i < columns_->count(); ++i) {
    if ((columns_->item(i)->flags() & Qt::ItemIsEnabled) == 0) continue;
    columns_->setCurrentRow(i);
    break;
  }
  look();
}

void HandOutSlip::focusFirst() { columns_->setFocus(); }

WorkingCopyOptions HandOutSlip::options() const {
  WorkingCopyOptions out;
  for (int i = 0; i < columns_->count(); ++i) {
    const QListWidgetItem* item = columns_->item(i);
    if (item->checkState() == Qt::Checked) out.open.push_back(item->data(Qt::UserRole).toString().toStdString());
  }
  out.calledBy = model_.desk().names().calledBy();
  out.lenses = model_.desk().lenses().all();
  out.at = nowUtc();
  return out;
}

void HandOutSlip::look() {
  const auto open = static_cast<int>(options().open.size());
  write_->setEnabled(open > 0);
  if (open == 0) return say(words_, tr("Tick what may be changed."), true);
  say(words_,
      tr("In the file these %n column(s) can be changed, references chosen by name; the rest is protected. When it "
         "comes back, “Corrections from a file” stages what was changed, and nothing else.",
         "", open),
      false);
}

void HandOutSlip::finish() {
  if (write_->isEnabled()) emit fileAsked();
}

}  // namespace iterandum
