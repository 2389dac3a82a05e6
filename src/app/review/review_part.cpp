// ReviewPage: a part of what is staged, reviewed and applied by itself; the rest stays staged.
#include <QLabel>
#include <QListWidget>
#include <QMouseEvent>
#include <QPushButton>
#include <algorithm>
#include <unordered_set>

#include "app/review/review_page.h"

namespace iterandum {

std::vector<int> ReviewPage::chosenGroups() const {
  std::vector<int> out;
  for (const QListWidgetItem* item : groupList_->selectedItems()) {
    const int group = item->data(Qt::UserRole).toInt();
    if (group >= 0 && group < static_cast<int>(groups_.size())) out.push_back(group);
  }
  return out;
}

// Heads cannot be chosen themselves: the list knows nothing of clicks on them.
bool ReviewPage::eventFilter(QObject* watched, QEvent* event) {
  if (watched == groupList_->viewport() && event->type() == QEvent::MouseButtonRelease) {
    const QListWidgetItem* item = groupList_->itemAt(static_cast<QMouseEvent*>(event)->position().toPoint());
    if (item != nullptr && item->flags() == Qt::NoItemFlags) chooseBelow(groupList_->row(item));
  }
  return QWidget::eventFilter(watched, event);
}

void ReviewPage::chooseBelow(int head) {
  groupList_->clearSelection();
  const auto isGroup = [this](int row) {
    return row < groupList_->count() && groupList_->item(row)->flags() != Qt::NoItemFlags;
  };
  if (!isGroup(head + 1)) return;
  groupList_->setCurrentRow(head + 1);
  for (int row = head + 1; isGroup(row); ++row) groupList_->item(row)->setSelected(true);
  showPart();
}

void ReviewPage::reviewPart() {
  if (busy() && desk_.applying().running()) return;
  if (part_) return reviewAll();
  const std::vector<int> chosen = chosenGroups();
  if (chosen.empty()) return emit said(tr("Choose the groups first: a click, more of them with Ctrl."));
  std::vector<PickedChange> picked;
  for (const int g : chosen) {
    const ChangeGroup& group = groups_[static_cast<std::size_t>(g)];
    for (const std::uint32_t change : group.changes)
      picked.push_back({change, group.action == Action::Edit ? group.column : std::string()});
  }
  reviewPicked(picked);
}

void ReviewPage::reviewPartOf(const std::vector<RecordRef>& records) {
  if (desk_.applying().running()) return;
  part_ ? reviewAll() : buildList();
  std::set<std::pair<TableName, std::uint64_t>> added;
  std::map<TableName, std::unordered_set<ValueTuple, TupleHash, TupleSame>> keys;
  for (const RecordRef& ref : records) {
    if (ref.isAdded()) {
      added.emplace(ref.table, ref.addedId);
    } else {
      keys[ref.table].insert(ref.key);
    }
  }
  std::vector<PickedChange> picked;
  for (std::uint32_t c = 0; c < refs_.size(); ++c) {
    const RecordRef& ref = refs_[c];
    const auto of = keys.find(ref.table);
    const bool wanted =
        ref.isAdded() ? added.contains({ref.table, ref.addedId}) : of != keys.end() && of->second.contains(ref.key);
    if (!wanted) continue;
    if (changes_[c].action != Action::Edit) picked.push_back({c, {}});
    for (const CellChange& cell : changes_[c].cells) {
      if (changes_[c].action == Action::Edit) picked.push_back({c, cell.column});
    }
  }
  reviewPicked(picked);
}

void ReviewPage::reviewPicked(const std::vector<PickedChange>& picked) {
  Part part;
  part.split = splitChanges(desk_.catalogue(), desk_.changes(), picked);
  if (part.split.rest.parts.empty()) {
    return emit said(part.split.along.empty() ? tr("That is all that is staged.")
                                              : tr("That is all that is staged, with what it needs."));
  }
  part.split.part.title = tr("A part, applied").toStdString();
  part.split.rest.title = restTitle().toStdString();
  part.along = alongInWords(part.split.along);
  part.changes.apply(part.split.part);
  part_ = std::move(part);
  rehearse();
}

QString ReviewPage::restTitle() { return tr("What was left when a part was applied"); }

void ReviewPage::reviewAll() {
  part_.reset();
  rehearse();
}

std::optional<std::uint64_t> ReviewPage::partRecords() const {
  if (!part_) return std::nullopt;
  return part_->changes.counts().records();
}

// "2 new records in species, 1 change of tree"
QString ReviewPage::alongInWords(const std::vector<PickedChange>& along) const {
  std::map<std::pair<TableName, Action>, std::set<std::uint32_t>> counted;
  for (const PickedChange& one : along) {
    if (one.change < changes_.size())
      counted[{changes_[one.change].table, changes_[one.change].action}].insert(one.change);
  }
  QStringList words;
  for (const auto& [what, changes] : counted) {
    const int n = static_cast<int>(changes.size());
    const QString table = toQ(what.first.name);
    switch (what.second) {
      case Action::Add:
        words << tr("%n new record(s) in %1", "", n).arg(table);
        break;
      case Action::Remove:
        words << tr("%n record(s) of %1 removed", "", n).arg(table);
        break;
      default:
        words << tr("%n changed record(s) in %1", "", n).arg(table);
        break;
    }
  }
  return words.join(QStringLiteral(", "));
}

void ReviewPage::showPart() {
  const auto chosen = static_cast<int>(chosenGroups().size());
  only_->setText(part_        ? tr("Review all again")
                 : chosen > 1 ? tr("Only these %n group(s)", "", chosen)
                              : tr("Only this group"));
  only_->setToolTip(part_ ? tr("Back to all that is staged (Ctrl+Shift+A)")
                          : tr("Reviews and applies what is chosen, with what it needs; the rest stays staged. More "
                               "groups with Ctrl and a click (Ctrl+Shift+A)"));
  only_->setVisible(!groups_.empty());
  partWords_->setVisible(part_.has_value());
  if (!part_) return;
  const auto all = desk_.changes().counts().records();
  const QString records = QLocale().toString(static_cast<qulonglong>(part_->changes.counts().records()));
  QString words = tr("Only a part of what is staged: %1 of %2 records. The rest stays staged.")
                      .arg(records, QLocale().toString(static_cast<qulonglong>(all)));
  if (!part_->along.isEmpty()) words += QLatin1Char(' ') + tr("Needed by what was chosen: %1.").arg(part_->along);
  partWords_->setText(words);
}

}  // namespace iterandum
