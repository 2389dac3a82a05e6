#include "app/sheet/doubles_slip.h"

#include <QCheckBox>
#include <QComboBox>
#include <QGridLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QSignalBlocker>
#include <QTimer>
#include <QVBoxLayout>
#include <algorithm>

#include "app/sheet/merge_in_the_way.h"
#include "app/style/marks.h"
#include "app/style/roles.h"
#include "app/style/side_frame.h"
#include "app/style/usual_keys.h"
#include "app/values/shown_value.h"
#include "core/base/names.h"
#include "core/changes/gesture_from_list.h"

namespace iterandum {
namespace {

enum Role { GroupRole = Qt::UserRole, RecordRole };
// Of a group's own line.
constexpr int kWholeGroup = -1;
constexpr int kSoonMs = 150;

}  // namespace

DoublesSlip::DoublesSlip(SheetView& view, SheetModel& model, QWidget* parent)
    : SideSlip(parent), view_(view), model_(model) {
  build();
  staged_ = new StagedLayer(model_, this);
  soon_ = new QTimer(this);
  soon_->setSingleShot(true);
  soon_->setInterval(kSoonMs);
  connect(soon_, &QTimer::timeout, this, [this] {
    std::vector<std::string> all;
    for (const Column& column : model_.table().columns) all.push_back(column.name);
    staged_->gather(std::move(all), [this](std::shared_ptr<const StagedOver> staged) { ask(std::move(staged)); });
  });
  connect(&model_.desk().staged(), &StagedWork::changed, this, [this] {
    if (isVisible()) look();
  });
  connect(&model_.desk().names(), &ReferenceNames::named, this, [this] {
    if (isVisible() && found_) list();
  });
}

void DoublesSlip::build() {
  const auto [panel, title, subtitle] = buildPanelHead(this);
  title->setText(tr("Doubles"));
  subtitle->setText(tr("Records that the sheet shows and that are alike; one of each stays."));
  QVBoxLayout* layout = addScrolled(panel);
  columns_ = newList("doublesColumns", tr("Columns in which they are alike"));
  QGridLayout* grid = newFields();
  addField(grid, tr("Alike in"), columns_);
  compared_ = addChoice(grid, tr("Compared"), "doublesCompared",
                        {tr("exactly"), tr("in any case, blanks aside"), tr("nearly: one letter, accents, signs")});
  keep_ =
      addChoice(grid, tr("Stays"), "doublesKeep", {tr("the first, as they lie"), tr("the last"), tr("the fullest")});
  others_ = addChoice(grid, tr("The others"), "doublesOthers",
                      {tr("are removed"), tr("are merged into it, with what points at them")});
  layout->addSpacing(6);
  layout->addLayout(grid);
  layout->addSpacing(4);
  words_ = newWords("doublesWords");
  layout->addWidget(words_);
  groups_ = newList("doublesGroups", tr("Groups of records that are alike"));
  groups_->setMinimumHeight(120);
  layout->addWidget(groups_, 1);
  twice_ = addBox(layout, {}, "doublesTwice");
  twice_->hide();
  const PanelFoot foot = buildPanelFoot(this, panel, tr("Remove"), "doublesStage");
  stage_ = foot.stage;
  stage_->setEnabled(false);
  groups_->installEventFilter(this);
  connect(columns_, &QListWidget::itemChanged, this, [this] { look(); });
  connect(groups_, &QListWidget::itemClicked, this, &DoublesSlip::choose);
  connect(groups_, &QListWidget::itemChanged, this, &DoublesSlip::leaveOut);
  connect(stage_, &QPushButton::clicked, this, &DoublesSlip::finish);
  connect(foot.close, &QPushButton::clicked, this, &SideSlip::leaveAsked);
}

QString DoublesSlip::open() {
  const Table& table = model_.table();
  const std::string& why = !table.notEditable.empty() ? table.notEditable : table.cannotRemove;
  if (!why.empty()) return toQ(why);
  offerColumns();
  const bool pointedAt = !model_.desk().catalogue().referencesTo(table.name).empty();
  const QSignalBlocker blocker(others_);
  others_->setCurrentIndex(pointedAt ? 1 : 0);
  showField(others_, pointedAt);
  look();
  return {};
}

// The columns that are selected; where that is one that no two records share, those by which they are called.
void DoublesSlip::offerColumns() {
  const Table& table = model_.table();
  std::set<std::size_t> ticked;
  for (const SheetView::Block& block : view_.selectedBlocks()) {
    for (const int column : block.columns) {
      if (!model_.isBorrowed(column)) ticked.insert(static_cast<std::size_t>(column));
    }
  }
  std::set<std::size_t> unique;
  for (const UniqueKey& key : table.keys) {
    if (key.columns.size() == 1) unique.insert(key.columns.front());
  }
  const bool all = table.keys.empty() && ticked.size() < 2;
  if (ticked.size() == 1 && unique.contains(*ticked.begin())) {
    ticked.clear();
    for (const std::string& name : readableColumns(table)) {
      const auto at = table.columnIndex(name);
      if (at && !unique.contains(*at)) ticked.insert(*at);
    }
  }
  // Where nothing names the records they are doubles when all of it is the same.
  for (std::size_t c = 0; all && c < table.columns.size(); ++c) ticked.insert(c);
  const QSignalBlocker blocker(columns_);
  columns_->clear();
  for (std::size_t c = 0; c < table.columns.size(); ++c) {
    auto* item = new QListWidgetItem(toQ(table.columns[c].name), columns_);
    item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsUserCheckable);
    item->setCheckState(ticked.contains(c) ? Qt::Checked : Qt::Unchecked);
  }
  constexpr int kMostAtOnce = 6;
  const int rows = std::min(kMostAtOnce, columns_->count());
  columns_->setFixedHeight(rows * columns_->sizeHintForRow(0) + 2 * columns_->frameWidth());
}

void DoublesSlip::focusFirst() { columns_->setFocus(); }

bool DoublesSlip::merges() const { return others_->currentIndex() == 1; }

// A choice of what stays needs no other reading.
void DoublesSlip::look() {
  if (sender() == keep_ || sender() == others_ || sender() == twice_) return show();
  if (reading_) reading_->cancel();
  ++asked_;
  found_.reset();
  chosen_.clear();
  leftOut_.clear();
  groups_->clear();
  stage_->setEnabled(false);
  stage_->setText(tr("Nothing to stage"));
  twice_->hide();
  say(words_, tr("Looking for doubles…"), false);
  soon_->start();
}

void DoublesSlip::ask(std::shared_ptr<const StagedOver> staged) {
  question_ = {};
  question_.which.table = &model_.table();
  question_.which.where = model_.source().where();
  question_.which.order = model_.source().order();
  question_.staged = std::move(staged);
  question_.compared = static_cast<DoublesQuestion::Compared>(compared_->currentIndex());
  for (int i = 0; i < columns_->count(); ++i) {
    if (columns_->item(i)->checkState() == Qt::Checked) {
      question_.columns.push_back(model_.table().columns[static_cast<std::size_t>(i)].name);
    }
  }
  if (question_.columns.empty()) return say(words_, tr("Choose above in which columns they are alike."), false);
  const std::uint64_t asked = asked_;
  reading_ = model_.desk().behind().post(
      this,
      [held = model_.desk().sharedCatalogue(), question = question_](Session& session, Progress& progress) {
        return findDoubles(session, question, progress);
      },
      [this, asked](Result<FoundDoubles>&& found) {
        if (asked != asked_) return;
        reading_.reset();
        take(std::move(found));
      });
}

void DoublesSlip::take(Result<FoundDoubles>&& found) {
  if (!found) return say(words_, toQ(found.error().text()), true);
  found_ = std::move(*found);
  for (const std::string& name : question_.columns) {
    const std::size_t c = *model_.table().columnIndex(name);
    if (model_.desk().names().reference(model_.table(), c) == nullptr) continue;
    std::vector<Value> wanted;
    const auto at = static_cast<std::size_t>(std::find(question_.columns.begin(), question_.columns.end(), name) -
                                             question_.columns.begin());
    for (std::size_t g = 0; g < std::min(kMostListed, found_->groups.size()); ++g) {
      const Value& value = found_->groups[g].front().values[at];
      if (!value.isNull()) wanted.push_back(value);
    }
    model_.desk().names().want(model_.table(), c, wanted);
  }
  show();
}

std::size_t DoublesSlip::staying(std::size_t group) const {
  const auto chosen = chosen_.find(group);
  return chosen != chosen_.end() ? chosen->second
                                 : keptOf(found_->groups[group], static_cast<Keep>(keep_->currentIndex()));
}

DoublesDecision DoublesSlip::decision() const {
  DoublesDecision out;
  for (std::size_t g = 0; g < found_->groups.size(); ++g) {
    out.push_back(leftOut_.contains(g) ? std::nullopt : std::optional(staying(g)));
  }
  return out;
}

std::uint64_t DoublesSlip::goingCount() const {
  std::uint64_t out = 0;
  for (std::size_t g = 0; g < found_->groups.size(); ++g) {
    if (!leftOut_.contains(g)) out += found_->groups[g].size() - 1;
  }
  return out;
}

void DoublesSlip::show() {
  if (!found_) return;
  const auto number = [](std::uint64_t n) { return QLocale().toString(static_cast<qulonglong>(n)); };
  QStringList words;
  words << (found_->groups.empty()
                ? tr("%1 records were compared; no two of them are alike.").arg(number(found_->looked))
                : tr("%1 records were compared: %2 of them are alike with others, in %n group(s).", "",
                     static_cast<int>(found_->groups.size()))
                      .arg(number(found_->looked), number(found_->records())));
  if (found_->silent > 0) {
    words << tr("%n have nothing in these columns and are doubles of none.", "", static_cast<int>(found_->silent));
  }
  if (found_->unnamed > 0) {
    words << tr("%n cannot be told from another in any column, so that no change can name one of them.", "",
                static_cast<int>(found_->unnamed));
  }
  if (found_->groups.size() > kMostListed) {
    words << tr("The first %1 groups are listed; all are meant.").arg(kMostListed);
  }
  say(words_, words.join(QLatin1Char('\n')), false);
  const std::uint64_t going = goingCount();
  stage_->setEnabled(going > 0);
  stage_->setText(going == 0 ? tr("Nothing to stage")
                  : merges() ? tr("Merge %n record(s)", "", static_cast<int>(going))
                             : tr("Remove %n record(s)", "", static_cast<int>(going)));
  list();
}

QString DoublesSlip::valueShown(std::size_t column, const Value& value) const {
  return model_.shown(static_cast<int>(*model_.table().columnIndex(question_.columns[column])), value);
}

// Its key, what it is called besides, and how it says what it is alike in where that may differ.
QString DoublesSlip::recordShown(const DoubleRecord& record) const {
  QStringList out;
  for (const Value& part : record.key) out << toQ(canonicalText(part));
  const std::vector<std::string> key = model_.table().writeKeyColumns();
  const std::vector<std::string> called = readableColumns(model_.table());
  QStringList name;
  for (std::size_t i = 0; i < called.size() && i < record.name.size(); ++i) {
    if (contains(key, called[i]) || record.name[i].isNull()) continue;
    name << model_.shown(static_cast<int>(*model_.table().columnIndex(called[i])), record.name[i]);
  }
  if (question_.compared != DoublesQuestion::Compared::Exactly) {
    for (std::size_t c = 0; c < record.values.size(); ++c) {
      if (!contains(called, question_.columns[c])) name << valueShown(c, record.values[c]);
    }
  }
  const QString keyText = out.join(QStringLiteral(", "));
  return name.isEmpty() ? keyText : keyText + QStringLiteral(" · ") + name.join(QStringLiteral(", "));
}

void DoublesSlip::list() {
  const QSignalBlocker blocker(groups_);
  const int current = groups_->currentRow();
  groups_->clear();
  for (std::size_t g = 0; g < std::min(kMostListed, found_->groups.size()); ++g) {
    listGroup(g);
    for (std::size_t r = 0; r < found_->groups[g].size(); ++r) listRecord(g, r);
  }
  groups_->setCurrentRow(std::max(0, std::min(current, groups_->count() - 1)));
}

void DoublesSlip::listGroup(std::size_t group) {
  QStringList alike;
  const DoubleRecord& first = found_->groups[group].front();
  for (std::size_t c = 0; c < first.values.size(); ++c) alike << valueShown(c, first.values[c]);
  const auto count = static_cast<int>(found_->groups[group].size());
  QString text = tr("%1: %n records", "", count).arg(alike.join(QStringLiteral(", ")));
  if (const std::vector<std::string>& differ = found_->differ[group]; !differ.empty()) {
    QStringList columns;
    for (const std::string& column : differ) columns << toQ(column);
    text = tr("%1, which differ in %2").arg(text, columns.join(QStringLiteral(", ")));
  }
  auto* item = new QListWidgetItem(text, groups_);
  QFont font = plain();
  font.setBold(true);
  item->setFont(font);
  item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsUserCheckable);
  item->setCheckState(leftOut_.contains(group) ? Qt::Unchecked : Qt::Checked);
  item->setToolTip(tr("Unticked, the group is left as it is."));
  item->setData(GroupRole, static_cast<qulonglong>(group));
  item->setData(RecordRole, kWholeGroup);
}

void DoublesSlip::listRecord(std::size_t group, std::size_t record) {
  const bool left = leftOut_.contains(group);
  const bool stays = left || record == staying(group);
  const QString text = recordShown(found_->groups[group][record]);
  auto* item = new QListWidgetItem(text, groups_);
  QFont font = plain();
  font.setStrikeOut(!stays);
  item->setFont(font);
  item->setForeground(stays ? roles().ink : roles().soft);
  const Mark mark = stays ? Mark::None : Mark::Removed;
  QPixmap blank(markPixmap(Mark::Removed, markColor(Mark::Removed), devicePixelRatioF()).size());
  blank.fill(Qt::transparent);
  item->setIcon(QIcon(stays ? blank : markPixmap(mark, markColor(mark), devicePixelRatioF())));
  item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable);
  item->setToolTip(stays ? text : tr("%1\nA click lets this one stay instead.").arg(text));
  item->setData(Qt::AccessibleTextRole, (stays ? tr("stays: %1") : tr("goes: %1")).arg(text));
  item->setData(GroupRole, static_cast<qulonglong>(group));
  item->setData(RecordRole, static_cast<int>(record));
}

void DoublesSlip::choose(const QListWidgetItem* item) {
  const int record = item->data(RecordRole).toInt();
  const auto group = static_cast<std::size_t>(item->data(GroupRole).toULongLong());
  if (record == kWholeGroup || leftOut_.contains(group)) return;
  chosen_[group] = static_cast<std::size_t>(record);
  show();
}

void DoublesSlip::leaveOut(const QListWidgetItem* item) {
  if (item->data(RecordRole).toInt() != kWholeGroup) return;
  const auto group = static_cast<std::size_t>(item->data(GroupRole).toULongLong());
  item->checkState() == Qt::Checked ? static_cast<void>(leftOut_.erase(group))
                                    : static_cast<void>(leftOut_.insert(group));
  // Not while the list is still telling of the box.
  QTimer::singleShot(0, this, [this] { show(); });
}

void DoublesSlip::finish() {
  if (!stage_->isEnabled()) return;
  if (!found_) return look();
  stage_->setEnabled(false);
  say(words_, tr("Reading what goes once more…"), false);
  struct Staged {
    std::optional<MergePlan> plan;
    ListedGesture listed;
  };
  const std::uint64_t asked = ++asked_;
  const bool merge = merges();
  const bool dropDoubles = !twice_->isHidden() && twice_->isChecked();
  const auto going = static_cast<int>(goingCount());
  const QString in = toQ(displayName(model_.table().name));
  const QString title =
      merge ? tr("Merge %n double(s) in %1", "", going).arg(in) : tr("Remove %n double(s) in %1", "", going).arg(in);
  reading_ = model_.desk().behind().post(
      this,
      [catalogue = model_.desk().sharedCatalogue(), question = question_, found = *found_, stays = decision(), merge,
       dropDoubles](Session& session, Progress& progress) -> Result<Staged> {
        Staged out;
        ChangeList changes;
        if (merge) {
          ITERANDUM_ASSIGN(out.plan, mergedDoubles(session, *catalogue, question, found, stays, dropDoubles, progress));
          changes = out.plan->changes;
        } else {
          ITERANDUM_ASSIGN(changes, withoutDoubles(session, question, found, stays, progress));
        }
        ITERANDUM_ASSIGN(out.listed, gestureFrom(*catalogue, changes, 1));
        return out;
      },
      [this, asked, title, dropDoubles](Result<Staged>&& staged) {
        if (asked != asked_) return;
        reading_.reset();
        if (!staged) return offerToLookAgain(toQ(staged.error().text()));
        if (staged->plan) {
          if (const QString why = mergeInTheWay(*staged->plan, model_.table(), model_.desk()); !why.isEmpty()) {
            return say(words_, why, true);
          }
          if (!staged->plan->doubles.empty() && !dropDoubles) return askTwice(*staged->plan);
          // New records of the gesture have to have ids of their own.
          if (!staged->listed.added.empty()) {
            if (model_.desk().staged().stageChanges(title, staged->plan->changes)) done(title);
            return;
          }
        }
        model_.desk().staged().stageGesture(title, std::move(staged->listed.gesture));
        done(title);
      });
}

void DoublesSlip::offerToLookAgain(const QString& why) {
  found_.reset();
  groups_->clear();
  say(words_, why, true);
  stage_->setText(tr("Look again"));
  stage_->setEnabled(true);
}

void DoublesSlip::askTwice(const MergePlan& plan) {
  const MergeDouble& d = plan.doubles.front();
  QStringList key;
  for (const Value& part : d.key) key << toQ(canonicalText(part));
  twice_->setText(tr("Remove %n record(s) that would be there twice", "", static_cast<int>(plan.doubles.size())));
  twice_->show();
  stage_->setEnabled(true);
  say(words_,
      tr("%n record(s) would be there twice, the first of them %1 %2. Say below that they go, or put them right.", "",
         static_cast<int>(plan.doubles.size()))
          .arg(toQ(displayName(d.table->name)), key.join(QStringLiteral(", "))),
      true);
}

void DoublesSlip::done(const QString& title) {
  found_.reset();
  emit told(tr("Staged: %1.").arg(title));
  emit leaveAsked();
}

// In the list the space bar and Enter choose which one stays; on a group's line the space bar leaves it out.
bool DoublesSlip::eventFilter(QObject* watched, QEvent* event) {
  if (watched == groups_ && event->type() == QEvent::KeyPress) {
    const auto& key = *static_cast<QKeyEvent*>(event);
    const bool chooses = key.key() == Qt::Key_Space || key.key() == Qt::Key_Return || key.key() == Qt::Key_Enter;
    QListWidgetItem* item = groups_->currentItem();
    if (chooses && !isStagingKey(key) && item != nullptr && item->data(RecordRole).toInt() != kWholeGroup) {
      choose(item);
      return true;
    }
  }
  return SideSlip::eventFilter(watched, event);
}

void DoublesSlip::hideEvent(QHideEvent* event) {
  if (reading_) reading_->cancel();
  reading_.reset();
  ++asked_;
  soon_->stop();
  staged_->stop();
  const QSignalBlocker blocker(twice_);
  twice_->setChecked(false);
  twice_->hide();
  SideSlip::hideEvent(event);
}

}  // namespace iterandum
