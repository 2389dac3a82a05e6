#include "app/review/review_page.h"

#include <QButtonGroup>
#include <QCheckBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QSaveFile>
#include <QScrollArea>
#include <QVBoxLayout>

#include "app/records/sheet_model.h"
#include "app/review/finding_editor.h"
#include "app/review/signing_box.h"
#include "app/session/paper_file.h"
#include "app/style/marks.h"
#include "app/style/roles.h"
#include "app/style/side_frame.h"
#include "core/changes/change_file.h"
#include "core/review/running_code.h"
#include "core/value/visible_text.h"

namespace iterandum {
namespace {
constexpr int kNeedsALook = Qt::UserRole + 1;  // of a group's item
}

ReviewPage::ReviewPage(Desk& desk, QWidget* parent) : QWidget(parent), desk_(desk) {
  const SideFrame frame = buildSideFrame(this, 316);
  QWidget* side = frame.side;
  QVBoxLayout* page = frame.page;
  heading_ = new QLabel(side);
  heading_->setFont(serif(1.45));
  heading_->setWordWrap(true);
  heading_->setObjectName("reviewHeading");
  title_ = new QLineEdit(side);
  title_->setObjectName("reviewTitle");
  title_->setPlaceholderText(tr("Say why; it goes on the receipt"));
  title_->setAccessibleName(tr("Title of this change set"));
  QFont italic = serif(1.05);
  italic.setItalic(true);
  title_->setFont(italic);
  groupList_ = new QListWidget(side);
  groupList_->setObjectName("groups");
  groupList_->setAccessibleName(tr("Groups of changes"));
  groupList_->setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
  groupList_->setWordWrap(true);
  groupList_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  groupList_->setResizeMode(QListView::Adjust);
  groupList_->setTextElideMode(Qt::ElideNone);
  groupList_->setSpacing(2);
  groupList_->setSelectionMode(QAbstractItemView::ExtendedSelection);
  frame.sideLayout->addWidget(heading_);
  frame.sideLayout->addWidget(title_);
  copy_ = new QCheckBox(tr("Keep a copy first"), side);
  copy_->setObjectName("copyFirst");
  copy_->setToolTip(
      tr("Before anything is applied, the whole database goes into a file of its own, while others work "
         "on. Where it lies is said afterwards. Kept for this database"));
  connect(copy_, &QCheckBox::toggled, this, [this](bool on) { desk_.kept().setCopiesFirst(on); });
  frame.sideLayout->addWidget(copy_);
  signing_ = new SigningBox(desk_, side);
  connect(signing_, &SigningBox::signAsked, this, [this] {
    if (ready()) return signing_->sign(list_);
    emit said(tr("Only what is ready to be applied is signed: rehearse it again first."));
  });
  connect(signing_, &SigningBox::said, this, &ReviewPage::said);
  connect(signing_, &SigningBox::done, this, [this](const std::vector<JudgedSignature>& judged) {
    if (!judged.empty()) signatures_ = judged;
    showSignatures();
    emit stateChanged();
  });
  frame.sideLayout->addWidget(signing_);
  frame.sideLayout->addSpacing(8);
  frame.sideLayout->addWidget(groupList_, 1);
  groupHeading_ = new QLabel(this);
  groupHeading_->setObjectName("groupHeading");
  groupHeading_->setFont(serif(1.35));
  groupHeading_->setWordWrap(true);
  partWords_ = new QLabel(this);
  partWords_->setObjectName("partWords");
  partWords_->setWordWrap(true);
  partWords_->setTextFormat(Qt::PlainText);
  partWords_->setStyleSheet(QStringLiteral("color: %1;").arg(css(roles().blue)));
  page->addWidget(partWords_);
  auto* headRow = new QHBoxLayout;
  headRow->setSpacing(8);
  headRow->addWidget(groupHeading_, 1);
  page->addLayout(headRow);
  auto* chipRow = new QHBoxLayout;
  chips_ = new QButtonGroup(this);
  int id = 0;
  for (const QString& text : {tr("Records"), tr("Statements"), tr("What the database will do")}) {
    auto* chip = new QPushButton(text, this);
    chip->setObjectName("chip");
    chip->setCheckable(true);
    chip->setChecked(id == 0);
    chips_->addButton(chip, id++);
    chipRow->addWidget(chip);
  }
  chipRow->addStretch(1);
  back_ = new QPushButton(tr("Put this group back"), this);
  back_->setObjectName("putGroupBack");
  back_->setToolTip(tr("What this group changes stays as it is in the database (Ctrl+Shift+G)"));
  connect(back_, &QPushButton::clicked, this, &ReviewPage::putGroupBack);
  only_ = new QPushButton(this);
  only_->setObjectName("onlyThisGroup");
  connect(only_, &QPushButton::clicked, this, &ReviewPage::reviewPart);
  headRow->addWidget(only_, 0, Qt::AlignTop);
  headRow->addWidget(back_, 0, Qt::AlignTop);
  page->addLayout(chipRow);
  buildComments(chipRow, page);
  scroll_ = new QScrollArea(this);
  scroll_->setWidgetResizable(true);
  scroll_->setFocusPolicy(Qt::StrongFocus);
  page->addWidget(scroll_, 1);
  connect(chips_, &QButtonGroup::idClicked, this, &ReviewPage::showView);
  setFocusProxy(groupList_);
  groupList_->viewport()->installEventFilter(this);
  groupList_->setContextMenuPolicy(Qt::CustomContextMenu);
  connect(groupList_, &QWidget::customContextMenuRequested, this, &ReviewPage::openGroupMenu);
  connect(groupList_, &QListWidget::itemSelectionChanged, this, [this] { showPart(); });
  connect(groupList_, &QListWidget::itemActivated, this, [this] { goToFirst(); });
  connect(groupList_, &QListWidget::currentRowChanged, this, [this] { showGroup(); });
  connect(&desk_.names(), &ReferenceNames::named, this, [this] {
    // Where somebody types, nothing is built anew under their hands.
    if (isVisible() && scroll_->findChild<FindingEditor*>() == nullptr) showGroups();
  });
  watchApplying();
  const auto lookAgain = [this] {
    stale_ = true;
    ++generation_;
    // What the part was taken from is another thing now.
    if (part_.has_value() && !desk_.applying().running()) {
      part_.reset();
      if (isVisible()) emit said(tr("What is staged has changed: all of it is reviewed again."));
    }
    if (isVisible() && !desk_.applying().running()) {
      rehearse();
    } else {
      emit stateChanged();
    }
  };
  connect(&desk_.staged(), &StagedWork::changed, this, lookAgain);
  connect(&desk_.kept(), &KeptSettings::houseRulesChanged, this, lookAgain);
}

void ReviewPage::showView(int view) {
  view_ = view;
  chips_->button(view)->setChecked(true);
  showGroup();
}

QString ReviewPage::title() const {
  return title_->text().trimmed().isEmpty() ? proposedTitle_ : title_->text().trimmed();
}

// From what it does: the first groups in their own words, and how many more there are.
void ReviewPage::proposeTitle() {
  constexpr std::size_t kMost = 2;
  QStringList parts;
  for (std::size_t g = 0; g < groups_.size() && g < kMost; ++g) parts << groupTitle(groups_[g]);
  if (groups_.size() > kMost) parts << tr("%n more", "", static_cast<int>(groups_.size() - kMost));
  proposedTitle_ = parts.join(QStringLiteral("; ")).left(160);
  title_->setPlaceholderText(proposedTitle_.isEmpty() ? tr("Say why; it goes on the receipt") : proposedTitle_);
  title_->setToolTip(proposedTitle_.isEmpty()
                         ? QString()
                         : tr("Say why; it goes on the receipt. Left empty, it says: %1").arg(proposedTitle_));
}

void ReviewPage::proposeTitle(const QString& title) {
  if (title_->text().trimmed().isEmpty()) title_->setText(title);
}

void ReviewPage::focusTitle() {
  title_->setFocus();
  title_->selectAll();
}

void ReviewPage::nextMarked(bool backwards) {
  const int count = groupList_->count();
  const int step = backwards ? count - 1 : 1;
  for (int i = 1; i <= count; ++i) {
    const int row = (std::max(0, groupList_->currentRow()) + step * i) % count;
    if (groupList_->item(row)->data(kNeedsALook).toBool()) {
      groupList_->setCurrentRow(row);
      groupList_->setFocus();
      return;
    }
  }
  if (busy() || !review_ || stale_)
    return emit told(tr("It is being rehearsed: what stands in the way is not known yet."));
  emit told(tr("Nothing here stands in the way."));
}

// --- what is staged, by index
// --------------------------------------------------------------------------------------------

void ReviewPage::buildList() {
  list_ = reviewed().toChangeList(title_->text().trimmed().toStdString(), spokenOf());
  refs_.clear();
  changes_.clear();
  std::map<TableName, std::vector<std::uint64_t>> added;
  for (const TableChanges* table : reviewed().tables()) {
    for (const auto& [id, record] : table->added()) added[table->name()].push_back(id);
  }
  std::map<TableName, std::map<std::string, std::size_t>> next;
  std::map<TableName, std::size_t> nextAdded;
  for (auto& [index, change] : list_.inOrder()) {
    RecordRef ref{change.table, change.key, 0};
    // Additions come in the order of their ids, as the change set lists them.
    if (change.action == Action::Add) ref.addedId = added[change.table][nextAdded[change.table]++];
    refs_.push_back(std::move(ref));
    changes_.push_back(std::move(change));
  }
  groups_ = groupChanges(list_, GestureWords(desk_.changes(), {restTitle().toStdString()}));
}

void ReviewPage::rehearse() {
  if (desk_.applying().running()) return;  // it examines everything itself
  if (progress_) progress_->cancel();
  {
    const QSignalBlocker quiet(copy_);
    copy_->setVisible(desk_.info().canBeCopied && desk_.info().readOnly.empty());
    copy_->setChecked(desk_.kept().copiesFirst());
  }
  buildList();
  review_.reset();
  problem_.clear();
  stale_ = false;
  showGroups();
  signatures_.clear();
  showSignatures();
  if (list_.empty()) {
    progress_.reset();
    emit stateChanged();
    return;
  }
  loadNames();
  wantNames();
  if (const auto news = desk_.kept().tellOnce(runningCode(desk_.catalogue(), list_)); !news.empty()) {
    QString words = toQ(visibleText(runningCodeInWords(news)));
    words[0] = words[0].toUpper();
    emit told(words + QLatin1Char('.'));
  }
  auto mine = std::make_shared<std::shared_ptr<Progress>>();
  progress_ = desk_.front().post(
      this,
      [list = list_, kept = desk_.kept().houseRules(), rehearse = desk_.info().readOnly.empty(),
       path = desk_.storeThread().path()](Session& session, Progress& progress) -> Result<Rehearsed> {
        // Read anew: the structure may have changed since the database was opened.
        ITERANDUM_ASSIGN(const Catalogue now, session.readCatalogue(progress));
        ReviewOptions options;
        options.rehearse = rehearse;
        options.lockTimeout = std::chrono::milliseconds(4000);
        Rehearsed out;
        const std::vector<ReadRule> rules = readableRules(kept, contextNow(now), out.unreadRules);
        if (!rules.empty()) options.rules = &rules;
        ITERANDUM_ASSIGN(out.review, reviewChanges(session, now, list, options, progress));
        // What other windows signed and said, too.
        ITERANDUM_ASSIGN(const std::unique_ptr<Store> store, Store::open(path));
        ITERANDUM_ASSIGN(out.said, KeptSettings::readSaid(*store, session.info().address));
        if (!out.said.signatures.empty()) {
          out.signatures = judgeSignatures(out.said.signatures, changesDigest(list), systemUserName());
        }
        return out;
      },
      [this, mine, asOf = desk_.kept().saidSoFar()](Result<Rehearsed>&& review) {
        if (*mine != progress_) return;
        progress_.reset();
        if (review) desk_.kept().takeSaid(review->said, asOf);
        takeReview(std::move(review));
      });
  *mine = progress_;
  emit stateChanged();
}

void ReviewPage::takeReview(Result<Rehearsed>&& review) {
  if (review) {
    review_ = std::move(review->review);
    signatures_ = std::move(review->signatures);
    keepFindings();
    for (const std::string& why : review->unreadRules) emit said(tr("Not held to: %1").arg(toQ(why)));
  } else if (review.error().kind != ErrorKind::Cancelled) {
    problem_ = tr("It could not be rehearsed: %1").arg(toQ(review.error().text()));
  } else {
    problem_ = tr("The rehearsal was stopped. Rehearse again before applying.");
  }
  showGroups();
  showSignatures();
  emit stateChanged();
}

void ReviewPage::showSignatures() {
  signing_->setVisible(!list_.empty());
  signing_->show(signatures_, ready());
}

void ReviewPage::openSigning() { signing_->open(); }

void ReviewPage::stop() {
  desk_.applying().stop();
  if (progress_) progress_->cancel();
}

void ReviewPage::apply() {
  if (list_.empty() || busy()) return;
  if (!desk_.info().readOnly.empty()) {
    emit said(tr("Nothing is applied: %1.").arg(toQ(desk_.info().readOnly)));
    return;
  }
  desk_.applying().start(title().toStdString(), part_ ? std::optional(part_->split) : std::nullopt);
}

// What becomes of an apply; it goes on when this page is not shown, or not there any more.
void ReviewPage::watchApplying() {
  connect(&desk_.applying(), &Applying::started, this, &ReviewPage::stateChanged);
  connect(&desk_.applying(), &Applying::written, this, [this] { part_.reset(); });
  connect(&desk_.applying(), &Applying::failed, this, [this](const QString& message) {
    problem_ = message;
    stale_ = true;  // the records are looked at again before another try
    showGroups();
    emit stateChanged();
  });
  connect(&desk_.applying(), &Applying::blocked, this, [this](const Review& review) {
    std::vector<ReviewStatement> statements = review_ ? review_->statements : std::vector<ReviewStatement>();
    review_ = review;
    keepFindings();
    review_->statements = std::move(statements);
    problem_ = tr("Nothing was applied: something stands in the way since the last rehearsal.");
    showGroups();
    emit stateChanged();
  });
  connect(&desk_.applying(), &Applying::overtaken, this, &ReviewPage::said);
  connect(&desk_.applying(), &Applying::applied, this, [this](const QString& message) {
    title_->clear();
    emit applied(message);
  });
}

// For sheets that ask for records with a finding.
void ReviewPage::keepFindings() {
  std::vector<RecordMarks::FoundCell> found;
  for (const Finding& f : review_->findings) {
    if (f.blocks && !f.key.empty()) found.push_back({f.table, f.key, f.column});
  }
  desk_.marks().setFindings(std::move(found));
}

void ReviewPage::saveChangeFile(const QString& path) {
  buildList();
  list_.title = title().toStdString();
  QSaveFile file(path);
  const std::string text = writeChangeFile(list_, desk_.kept().signatures(), desk_.kept().comments());
  if (!file.open(QIODevice::WriteOnly) || file.write(text.data(), static_cast<qint64>(text.size())) < 0 ||
      !file.commit()) {
    emit said(tr("The change file could not be written: %1").arg(file.errorString()));
    return;
  }
  emit said(tr("Saved as %1.").arg(path));
}

void ReviewPage::savePaper(const QString& path) {
  if (!review_ || stale_) return emit said(tr("It has to be reviewed first: press Rehearse again."));
  struct What {
    PaperHead head;
    ChangeList changes;
    Review review;
  };
  auto what = std::make_shared<const What>(
      What{{title().toStdString(), desk_.info().address, nowUtc(), systemUserName(), desk_.kept().comments()},
           list_,
           *review_});
  iterandum::savePaper(
      desk_, this, path, [what](RecordNames& names) { iterandum::wantNames(what->changes, names); },
      [what](const RecordNames& names) { return reviewPaper(what->head, what->changes, what->review, names); },
      [this, path](Status&& written) {
        if (!written) return emit said(tr("The page could not be written: %1").arg(toQ(written.error().text())));
        emit told(tr("Written as %1.").arg(path));
      });
}

std::size_t ReviewPage::blockingCount() const {
  if (!review_) return 0;
  return static_cast<std::size_t>(
      std::count_if(review_->findings.begin(), review_->findings.end(), [](const Finding& f) { return f.blocks; }));
}

QString ReviewPage::stateInWords() const {
  if (list_.empty()) return tr("nothing is staged");
  if (desk_.applying().running()) return tr("applying…");
  if (progress_) return tr("rehearsing…");
  if (stale_ || !review_) return tr("not rehearsed");
  if (part_) return tr("a part, rehearsed; nothing written");
  return review_->rehearsed ? tr("rehearsed, nothing written") : tr("checked by reading only");
}

// --- the list of groups
// ----------------------------------------------------------------------------------------------------

QString ReviewPage::groupTitle(const ChangeGroup& g) const {
  const int n = static_cast<int>(g.changes.size());
  const QString table = toQ(g.table.name);
  if (g.action == Action::Add) return tr("%n new record(s) in %1", "", n).arg(table);
  if (g.action == Action::Remove) return tr("%n record(s) of %1 removed", "", n).arg(table);
  const QString column = toQ(g.column);
  // Its own words, where they say of which column and of how many records.
  if (g.wholeGesture && toQ(g.words).contains(column)) return toQ(g.words);
  if (!g.words.empty()) return tr("%1: %2 in %n record(s)", "", n).arg(toQ(g.words), column);
  if (g.to && g.from)
    return tr("%1 from %2 to %3 in %n record(s)", "", n)
        .arg(column, shown(g.table, g.column, *g.from), shown(g.table, g.column, *g.to));
  if (g.to) return tr("%1 to %2 in %n record(s)", "", n).arg(column, shown(g.table, g.column, *g.to));
  return tr("%1 in %n record(s), different values", "", n).arg(column);
}

void ReviewPage::showGroups() {
  proposeTitle();
  placeAllComments();
  const std::uint64_t total = list_.empty() ? 0 : changes_.size();
  std::set<TableName> tables;
  for (const ChangeGroup& g : groups_) tables.insert(g.table);
  heading_->setText(total == 0 ? tr("Nothing is staged")
                               : tr("%n record(s) in %1", "", static_cast<int>(total))
                                     .arg(tr("%n table(s)", "", static_cast<int>(tables.size()))));
  const int keep = std::max(0, currentGroup());
  {
    const QSignalBlocker blocker(groupList_);
    groupList_->clear();
    addElsewhereItems();
    const TableName* table = nullptr;
    int current = -1;
    for (std::size_t i = 0; i < groups_.size(); ++i) {
      if (table == nullptr || *table != groups_[i].table) {
        table = &groups_[i].table;
        addHead(toQ(displayName(*table)));
        groupList_->item(groupList_->count() - 1)->setToolTip(tr("A click chooses all groups of this table"));
      }
      addGroupItem(static_cast<int>(i));
      if (static_cast<int>(i) <= keep) current = groupList_->count() - 1;
    }
    groupList_->setCurrentRow(current);
  }
  showPart();
  showGroup();
}

void ReviewPage::addHead(const QString& text) {
  auto* head = new QListWidgetItem(text, groupList_);
  head->setFlags(Qt::NoItemFlags);
  head->setFont(serif(1.1));
  head->setForeground(roles().soft);
  head->setData(Qt::UserRole, -1);
}

void ReviewPage::addGroupItem(int index) {
  const ChangeGroup& g = groups_[static_cast<std::size_t>(index)];
  const bool query = review_ && std::any_of(review_->findings.begin(), review_->findings.end(), [&](const Finding& f) {
                       return f.blocks && inGroup(g, f.change, f.column);
                     });
  const Mark own = g.action == Action::Edit ? Mark::Changed : (g.action == Action::Add ? Mark::Added : Mark::Removed);
  const Mark mark = query ? Mark::Query : own;
  QString title = groupTitle(g);
  if (const std::size_t said = commentsOf(index); said > 0)
    title += QLatin1Char('\n') + tr("%n comment(s)", "", static_cast<int>(said));
  auto* item = new QListWidgetItem(QIcon(markPixmap(mark, markColor(mark), devicePixelRatioF())), title, groupList_);
  item->setToolTip(title);
  item->setData(Qt::UserRole, index);
  item->setData(kNeedsALook, query);
  item->setData(Qt::AccessibleTextRole, title + (query ? tr(", needs a look") : QString()));
}

int ReviewPage::currentGroup() const {
  const QListWidgetItem* item = groupList_->currentItem();
  return item == nullptr ? -1 : item->data(Qt::UserRole).toInt();
}

bool ReviewPage::inGroup(const ChangeGroup& g, std::uint32_t change, const std::string& column) const {
  if (!std::binary_search(g.changes.begin(), g.changes.end(), change)) return false;
  if (g.action != Action::Edit || column.empty()) return true;
  const bool ownColumn = std::any_of(changes_[change].cells.begin(), changes_[change].cells.end(),
                                     [&](const CellChange& c) { return c.column == column; });
  return !ownColumn || column == g.column;
}

void ReviewPage::clearDetail() {
  // What is shown may be what asked for something else to be shown.
  if (QWidget* before = scroll_->takeWidget()) {
    before->hide();
    before->deleteLater();
  }
  auto* body = new QWidget(scroll_);
  body->setObjectName("page");
  detail_ = new QVBoxLayout(body);
  detail_->setContentsMargins(0, 8, 8, 12);
  detail_->setSpacing(8);
  scroll_->setWidget(body);
}

void ReviewPage::showGroup() {
  clearDetail();
  if (!problem_.isEmpty()) addProblem(problem_);
  const int row = currentGroup();
  back_->setVisible(row >= 0);
  only_->setVisible(row >= 0 || part_.has_value());
  comment_->setVisible(row >= 0 && !list_.empty());
  if (list_.empty()) commentBox_->hide();
  for (QAbstractButton* chip : chips_->buttons()) chip->setVisible(row >= 0);
  if (const WrittenElsewhere* elsewhere = currentElsewhere()) return showElsewhere(*elsewhere);
  if (row < 0 || row >= static_cast<int>(groups_.size())) {
    groupHeading_->setText(tr("Correct something in a sheet, and it will be here to read before it is applied."));
    detail_->addStretch(1);
    return;
  }
  const ChangeGroup& group = groups_[static_cast<std::size_t>(row)];
  groupHeading_->setText(groupTitle(group));
  addComments(row, view_ == 0 ? kMostRecordsShown : 0);
  addFindings(group);
  if (view_ == 0) addRecords(group);
  if (view_ == 1) addStatements(group);
  if (view_ == 2) addEffects(group);
  detail_->addStretch(1);
}

void ReviewPage::openGroupMenu(const QPoint& place) {
  if (QListWidgetItem* item = groupList_->itemAt(place); item != nullptr && item->data(Qt::UserRole).toInt() >= 0) {
    groupList_->setCurrentItem(item);
  }
  if (hasGroup()) emit menuAsked(groupList_->viewport()->mapToGlobal(place));
}

void ReviewPage::goToFirst() {
  if (!hasGroup()) return;
  const ChangeGroup& group = groups_[static_cast<std::size_t>(currentGroup())];
  if (review_) {
    for (const Finding& f : review_->findings) {
      if (f.blocks && inGroup(group, f.change, f.column)) return emit recordAsked(refs_[f.change], f.column);
    }
  }
  if (!group.changes.empty()) emit recordAsked(refs_[group.changes.front()], group.column);
}

void ReviewPage::addProblem(const QString& text) {
  auto* box = new QFrame;
  box->setObjectName("note");
  auto* layout = new QHBoxLayout(box);
  auto* label = new QLabel(text);
  label->setObjectName("reviewProblem");
  label->setWordWrap(true);
  label->setTextFormat(Qt::PlainText);
  layout->addWidget(label);
  detail_->addWidget(box);
}

}  // namespace iterandum
