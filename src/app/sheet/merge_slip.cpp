#include "app/sheet/merge_slip.h"

#include <QCheckBox>
#include <QComboBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QKeyEvent>
#include <QLabel>
#include <QPushButton>
#include <QTableWidget>
#include <QVBoxLayout>
#include <algorithm>
#include <map>
#include <numeric>

#include "app/sheet/merge_in_the_way.h"
#include "app/style/roles.h"
#include "app/style/side_frame.h"
#include "app/style/usual_keys.h"
#include "app/values/shown_value.h"
#include "core/catalogue/record_words.h"

namespace iterandum {

MergeSlip::MergeSlip(SheetView& view, SheetModel& model, QWidget* parent)
    : QWidget(parent), view_(view), model_(model) {
  build();
  connect(&model_.desk().names(), &ReferenceNames::named, this, [this] {
    if (isVisible() && !records_.empty()) fill();
  });
  connect(&model_.desk().staged(), &StagedWork::changed, this, [this] {
    if (isVisible() && !records_.empty()) plan();
  });
}

void MergeSlip::build() {
  const auto [layout, title, subtitle] = buildPanelHead(this);
  title->setText(tr("Merge records"));
  subtitle_ = subtitle;
  auto* line = new QHBoxLayout;
  auto* label = new QLabel(tr("Stays"), this);
  label->setFont(plain(0.92));
  keep_ = new QComboBox(this);
  keep_->setObjectName("mergeKeep");
  keep_->setAccessibleName(tr("The record that stays"));
  keep_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  line->addWidget(label);
  line->addWidget(keep_, 1);
  layout->addSpacing(6);
  layout->addLayout(line);
  layout->addSpacing(4);
  values_ = new QTableWidget(this);
  values_->setObjectName("mergeValues");
  values_->setAccessibleName(tr("Whose value each column gets"));
  values_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  values_->setSelectionMode(QAbstractItemView::SingleSelection);
  values_->setFrameShape(QFrame::NoFrame);
  values_->setShowGrid(false);
  values_->setTabKeyNavigation(false);
  values_->verticalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
  values_->verticalHeader()->setDefaultSectionSize(28);
  values_->horizontalHeader()->setSectionResizeMode(QHeaderView::Stretch);
  values_->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
  values_->horizontalHeader()->setHighlightSections(false);
  values_->verticalHeader()->setHighlightSections(false);
  values_->setMinimumHeight(110);
  layout->addWidget(values_, 1);
  words_ = new QLabel(this);
  words_->setObjectName("mergeWords");
  words_->setWordWrap(true);
  words_->setTextFormat(Qt::PlainText);
  layout->addWidget(words_);
  doubles_ = new QCheckBox(this);
  doubles_->setObjectName("mergeDoubles");
  doubles_->hide();
  layout->addWidget(doubles_);
  const PanelFoot foot = buildPanelFoot(this, layout, tr("Merge"), "mergeStage");
  stage_ = foot.stage;
  connect(keep_, &QComboBox::currentIndexChanged, this, [this](int keep) {
    if (keep < 0) return;
    // Where nobody chose otherwise, the one that stays keeps its own.
    std::fill(taken_.begin(), taken_.end(), keep);
    fill();
    plan();
  });
  connect(values_, &QTableWidget::cellClicked, this, &MergeSlip::choose);
  connect(values_, &QTableWidget::cellActivated, this, &MergeSlip::choose);
  connect(doubles_, &QCheckBox::toggled, this, [this] { plan(); });
  values_->installEventFilter(this);
  connect(stage_, &QPushButton::clicked, this, &MergeSlip::stage);
  connect(foot.close, &QPushButton::clicked, this, &MergeSlip::leaveAsked);
}

QString MergeSlip::open() {
  std::vector<ValueTuple> keys;
  for (const RowRange& range : view_.selectedRows()) {
    if (range.size() > kMost) return tr("at most %1 records can stand side by side; select fewer").arg(kMost);
    for (int row = range.first; row <= range.last; ++row) {
      const RecordRef ref = model_.ref(row);
      if (ref.isAdded()) return tr("a new record is not in the database yet; apply it first");
      keys.push_back(ref.key);
    }
  }
  return openFor(std::move(keys));
}

QString MergeSlip::openFor(std::vector<ValueTuple> keys) {
  const Table& table = model_.table();
  const std::string& why = !table.notEditable.empty() ? table.notEditable : table.cannotRemove;
  if (!why.empty()) return toQ(why);
  const TableChanges* changes = model_.desk().changes().table(table.name);
  for (const ValueTuple& key : keys) {
    const auto number = changes == nullptr ? std::nullopt : changes->find(key);
    if (number && (changes->isEdited(*number) || changes->isRemoved(*number))) {
      return tr("%1 has something staged; apply it or put it back first").arg(toQ(recordInWords(table.name, key)));
    }
  }
  if (keys.size() < 2) return tr("select the records that are the same thing, two or more (Ctrl+click in the margin)");
  if (keys.size() > static_cast<std::size_t>(kMost)) {
    return tr("at most %1 records can stand side by side; select fewer").arg(kMost);
  }
  read(std::move(keys));
  return {};
}

void MergeSlip::focusValues() { values_->setFocus(); }

void MergeSlip::read(std::vector<ValueTuple> keys) {
  keys_ = std::move(keys);
  records_.clear();
  plan_.reset();
  stage_->setEnabled(false);
  subtitle_->setText(tr("Reading the records…"));
  const std::uint64_t asked = ++asked_;
  reading_ = model_.desk().front().post(
      this,
      [table = &model_.table(), wanted = keys_](Session& session,
                                                Progress& progress) -> Result<std::vector<ValueTuple>> {
        std::vector<ValueColumn> columns(table->writeKeyColumns().size());
        for (const ValueTuple& key : wanted) {
          for (std::size_t k = 0; k < columns.size(); ++k) columns[k].push(key[k]);
        }
        std::vector<std::uint32_t> rows(wanted.size());
        std::iota(rows.begin(), rows.end(), 0U);
        std::vector<ValueTuple> out(wanted.size());
        const KeyRead read{table, table->writeKeyColumns(), &columns, rows, table->recordColumns(), 1};
        ITERANDUM_TRY(session.readByKeys(
            read, [&](std::size_t row, ValueTuple&& record) { out[row] = std::move(record); }, progress));
        return out;
      },
      [this, asked](Result<std::vector<ValueTuple>>&& records) {
        if (asked != asked_) return;
        reading_.reset();
        if (!records) return say(toQ(records.error().text()), true);
        const bool gone = std::any_of(records->begin(), records->end(), [](const ValueTuple& r) { return r.empty(); });
        if (gone) return say(tr("One of them is no longer in the database. Read again (F5)."), true);
        takeRecords(std::move(*records));
      });
}

QString MergeSlip::nameOf(std::size_t record) const {
  const std::vector<std::string> names = model_.table().recordColumns();
  QStringList out;
  for (const std::string& name : readableColumns(model_.table())) {
    const auto at = static_cast<std::size_t>(std::find(names.begin(), names.end(), name) - names.begin());
    if (at < names.size() && !records_[record][at].isNull()) out << toQ(canonicalText(records_[record][at]));
  }
  for (std::size_t k = 0; out.isEmpty() && k < keys_[record].size(); ++k) out << toQ(canonicalText(keys_[record][k]));
  return out.join(QStringLiteral(" · "));
}

// Those that differ come first; what the database sets and what is the key is not to be chosen.
void MergeSlip::takeRecords(std::vector<ValueTuple>&& records) {
  records_ = std::move(records);
  const Table& table = model_.table();
  const std::vector<std::string> keys = table.writeKeyColumns();
  columns_.clear();
  std::vector<std::size_t> alike;
  for (std::size_t c = 0; c < table.columns.size(); ++c) {
    const Column& column = table.columns[c];
    if (!column.notEditable.empty() || std::find(keys.begin(), keys.end(), column.name) != keys.end()) continue;
    const bool same = std::all_of(records_.begin(), records_.end(),
                                  [&](const ValueTuple& r) { return sameValue(r[c], records_.front()[c]); });
    (same ? alike : columns_).push_back(c);
  }
  for (std::size_t c = 0; c < table.columns.size(); ++c) {
    if (model_.desk().names().reference(table, c) == nullptr) continue;
    std::vector<Value> keysThere;
    for (const ValueTuple& record : records_) {
      if (!record[c].isNull()) keysThere.push_back(record[c]);
    }
    model_.desk().names().want(table, c, keysThere);
  }
  const std::size_t differ = columns_.size();
  columns_.insert(columns_.end(), alike.begin(), alike.end());
  taken_.assign(columns_.size(), 0);
  subtitle_->setText(differ == 0
                         ? tr("They are alike in every column.")
                         : tr("What differs comes first. Choose the value that the one that stays is to have."));
  const QSignalBlocker blocker(keep_);
  keep_->clear();
  QStringList heads;
  for (std::size_t r = 0; r < records_.size(); ++r) {
    keep_->addItem(nameOf(r));
    heads << nameOf(r);
  }
  values_->clear();
  values_->setRowCount(static_cast<int>(columns_.size()));
  values_->setColumnCount(static_cast<int>(records_.size()));
  values_->setHorizontalHeaderLabels(heads);
  QStringList names;
  for (const std::size_t c : columns_) names << toQ(table.columns[c].name);
  values_->setVerticalHeaderLabels(names);
  for (int row = 0; row < values_->rowCount(); ++row) {
    for (int r = 0; r < values_->columnCount(); ++r) values_->setItem(row, r, new QTableWidgetItem);
  }
  fill();
  values_->setCurrentCell(0, 0);
  plan();
}

void MergeSlip::fill() {
  for (int r = 0; r < values_->columnCount(); ++r) {
    const bool stays = r == keep_->currentIndex();
    QTableWidgetItem* head = values_->horizontalHeaderItem(r);
    head->setText((stays ? tr("%1 stays") : tr("%1 goes")).arg(nameOf(static_cast<std::size_t>(r))));
    QFont font = plain();
    font.setBold(stays);
    head->setFont(font);
    head->setForeground(stays ? roles().ink : roles().soft);
  }
  for (int row = 0; row < values_->rowCount(); ++row) {
    const std::size_t c = columns_[static_cast<std::size_t>(row)];
    const bool same = std::all_of(records_.begin(), records_.end(),
                                  [&](const ValueTuple& r) { return sameValue(r[c], records_.front()[c]); });
    for (int r = 0; r < values_->columnCount(); ++r) {
      QTableWidgetItem* item = values_->item(row, r);
      const bool taken = taken_[static_cast<std::size_t>(row)] == r;
      const QString text = model_.shown(static_cast<int>(c), records_[static_cast<std::size_t>(r)][c]);
      QFont font = plain();
      font.setStrikeOut(!taken && !same);
      font.setBold(taken && !same);
      item->setFont(font);
      item->setForeground(same ? roles().soft : (taken ? roles().blue : roles().soft));
      item->setText(text);
      item->setToolTip(text);
      item->setData(Qt::AccessibleTextRole, taken && !same ? tr("%1, which the one that stays gets").arg(text) : text);
    }
  }
}

void MergeSlip::choose(int row, int record) {
  taken_[static_cast<std::size_t>(row)] = record;
  fill();
  plan();
}

void MergeSlip::plan() {
  if (records_.empty()) return;
  const auto keep = static_cast<std::size_t>(std::max(0, keep_->currentIndex()));
  MergeWish wish;
  wish.table = &model_.table();
  wish.keep = keys_[keep];
  for (std::size_t r = 0; r < keys_.size(); ++r) {
    if (r != keep) wish.drop.push_back(keys_[r]);
  }
  for (std::size_t row = 0; row < columns_.size(); ++row) {
    const auto from = static_cast<std::size_t>(taken_[row]);
    if (from != keep) wish.take.emplace_back(model_.table().columns[columns_[row]].name, keys_[from]);
  }
  wish.dropDoubles = doubles_->isVisible() && doubles_->isChecked();
  plan_.reset();
  stage_->setEnabled(false);
  stage_->setText(tr("Merge %1 into %2").arg(wish.drop.size()).arg(nameOf(keep).left(40)));
  say(tr("Looking for what points at them…"), false);
  if (reading_) reading_->cancel();
  const std::uint64_t asked = ++asked_;
  reading_ = model_.desk().behind().post(
      this,
      [wish, catalogue = model_.desk().sharedCatalogue()](Session& session, Progress& progress) {
        return planMerge(session, *catalogue, wish, progress);
      },
      [this, asked](Result<MergePlan>&& plan) {
        if (asked != asked_) return;
        reading_.reset();
        takePlan(std::move(plan));
      });
}

QString MergeSlip::wordsOf(const MergePlan& plan) const {
  std::map<std::string, std::uint64_t> repointed;
  for (const ChangeBlock& block : plan.changes.blocks()) {
    if (block.action != Action::Remove && !(block.table == model_.table().name)) {
      repointed[displayName(block.table)] += block.rows();
    }
  }
  QStringList words;
  for (const auto& [table, count] : repointed) {
    words << tr("%1 of %2").arg(QLocale().toString(static_cast<qulonglong>(count)), toQ(table));
  }
  return words.isEmpty()
             ? tr("Nothing points at those that go.")
             : tr("What points at those that go points at it then: %1.").arg(words.join(QStringLiteral(", ")));
}

void MergeSlip::takePlan(Result<MergePlan>&& plan) {
  if (!plan) {
    if (plan.error().kind != ErrorKind::Cancelled) say(toQ(plan.error().text()), true);
    return;
  }
  plan_ = std::move(*plan);
  const bool doubles = !plan_->doubles.empty();
  doubles_->setVisible(doubles);
  doubles_->setText(tr("Remove %n record(s) that would be there twice", "", static_cast<int>(plan_->doubles.size())));
  if (const QString why = mergeInTheWay(*plan_, model_.table(), model_.desk()); !why.isEmpty()) return say(why, true);
  if (doubles && !doubles_->isChecked()) {
    const MergeDouble& d = plan_->doubles.front();
    QStringList key;
    for (const Value& part : d.key) key << toQ(canonicalText(part));
    return say(
        tr("%n record(s) would be there twice, the first of them %1 %2. Say below that they go, or put them right.", "",
           static_cast<int>(plan_->doubles.size()))
            .arg(toQ(displayName(d.table->name)), key.join(QStringLiteral(", "))),
        true);
  }
  say(wordsOf(*plan_), false);
  stage_->setEnabled(true);
}

void MergeSlip::say(const QString& words, bool amiss) {
  words_->setText(words);
  words_->setStyleSheet(QStringLiteral("color: %1;").arg(css(amiss ? roles().query : roles().soft)));
}

void MergeSlip::stage() {
  if (!stage_->isEnabled() || !plan_) return;
  const auto keep = static_cast<std::size_t>(keep_->currentIndex());
  const QString title = tr("Merge %n record(s) into %1", "", static_cast<int>(keys_.size() - 1)).arg(nameOf(keep));
  const ChangeList changes = std::move(plan_->changes);
  ++asked_;
  if (!model_.desk().staged().stageChanges(title, changes)) return;
  emit told(tr("Staged: %1.").arg(title));
  emit leaveAsked();
}

// The key that stages is the slip's, whatever the window does with it elsewhere.
bool MergeSlip::event(QEvent* event) {
  if (event->type() == QEvent::ShortcutOverride && isStagingKey(*static_cast<QKeyEvent*>(event))) {
    event->accept();
    return true;
  }
  return QWidget::event(event);
}

// In the list of values Enter chooses one; with Ctrl it stages, as everywhere on the slip.
bool MergeSlip::eventFilter(QObject* watched, QEvent* event) {
  if (event->type() == QEvent::KeyPress && isStagingKey(*static_cast<QKeyEvent*>(event))) {
    stage();
    return true;
  }
  return QWidget::eventFilter(watched, event);
}

void MergeSlip::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Escape) {
    emit leaveAsked();
  } else if (isStagingKey(*event)) {
    stage();
  } else {
    QWidget::keyPressEvent(event);
  }
}

void MergeSlip::hideEvent(QHideEvent* event) {
  QWidget::hideEvent(event);
  ++asked_;
  if (reading_) reading_->cancel();
  reading_.reset();
  records_.clear();
  // They are told of the next ones anew.
  const QSignalBlocker blocker(doubles_);
  doubles_->setChecked(false);
  doubles_->hide();
}

}  // namespace iterandum
