#include "app/history/history_page.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QScrollArea>
#include <QTimer>
#include <QVBoxLayout>
#include <algorithm>

#include "app/history/receipt_lines.h"
#include "app/session/paper_file.h"
#include "app/style/moments.h"
#include "app/style/roles.h"
#include "app/style/side_frame.h"
#include "core/apply/take_back.h"
#include "core/store/receipt_search.h"
#include "core/store/record_history.h"
#include "core/value/visible_text.h"

namespace iterandum {
namespace {
constexpr int kTypingPauseMs = 250;
}

HistoryPage::HistoryPage(Desk& desk, QWidget* parent) : QWidget(parent), desk_(desk) {
  const SideFrame frame = buildSideFrame(this, 340);
  QWidget* side = frame.side;
  QVBoxLayout* page = frame.page;
  auto* head = new QLabel(tr("Applied to this database"), side);
  head->setFont(serif(1.45));
  head->setWordWrap(true);
  frame.sideLayout->addWidget(head);
  search_ = new QLineEdit(side);
  search_->setObjectName("receiptSearch");
  search_->setClearButtonEnabled(true);
  search_->setPlaceholderText(tr("Find: record, value, column, person, day"));
  search_->setAccessibleName(tr("Find receipts by what stands in them"));
  search_->setToolTip(
      tr("Receipts in which all of these words stand: in the title, the day or the person, or together in "
         "one record (Ctrl+F)"));
  frame.sideLayout->addWidget(search_);
  found_ = new QLabel(side);
  found_->setObjectName("receiptsFound");
  found_->setStyleSheet(QStringLiteral("color: %1;").arg(css(roles().soft)));
  found_->hide();
  frame.sideLayout->addWidget(found_);
  soon_ = new QTimer(this);
  soon_->setSingleShot(true);
  soon_->setInterval(kTypingPauseMs);
  connect(soon_, &QTimer::timeout, this, &HistoryPage::search);
  connect(search_, &QLineEdit::textChanged, soon_, qOverload<>(&QTimer::start));
  connect(search_, &QLineEdit::returnPressed, this, [this] { list_->setFocus(); });
  list_ = new QListWidget(side);
  list_->setObjectName("receipts");
  list_->setAccessibleName(tr("Receipts"));
  list_->setSpacing(3);
  list_->setWordWrap(true);
  list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  list_->setResizeMode(QListView::Adjust);
  list_->setTextElideMode(Qt::ElideNone);
  frame.sideLayout->addWidget(list_, 1);
  auto* top = new QHBoxLayout;
  heading_ = new QLabel(this);
  heading_->setFont(serif(1.35));
  heading_->setWordWrap(true);
  top->addWidget(heading_, 1);
  back_ = new QPushButton(tr("Take back"), this);
  back_->setObjectName("takeBack");
  back_->setEnabled(false);  // until a receipt is read
  back_->setToolTip(tr("Stages the change set that undoes this one; you review it before anything is written."));
  top->addWidget(back_);
  page->addLayout(top);
  detail_ = new QLabel(this);
  detail_->setObjectName("receiptDetail");
  detail_->setTextFormat(Qt::PlainText);
  detail_->setWordWrap(true);
  detail_->setStyleSheet(QStringLiteral("color: %1;").arg(css(roles().soft)));
  page->addWidget(detail_);
  page->addSpacing(6);
  lines_ = new ReceiptLines(desk_, this);
  scroll_ = new QScrollArea(this);
  scroll_->setWidgetResizable(true);
  scroll_->setWidget(lines_);
  page->addWidget(scroll_, 1);
  connect(list_, &QListWidget::currentRowChanged, this, [this] { showReceipt(); });
  connect(back_, &QPushButton::clicked, this, &HistoryPage::takeBack);
  setFocusProxy(list_);
  list_->setContextMenuPolicy(Qt::CustomContextMenu);
  connect(list_, &QWidget::customContextMenuRequested, this, [this](const QPoint& place) {
    if (QListWidgetItem* item = list_->itemAt(place)) list_->setCurrentItem(item);
    emit menuAsked(list_->viewport()->mapToGlobal(place));
  });
  connect(lines_, &ReceiptLines::chosenChanged, this, &HistoryPage::offer);
  connect(lines_, &ReceiptLines::takeBackAsked, this, &HistoryPage::takeBackOne);
}

// --- finding -------------------------------------------------------------------------------------------------------

void HistoryPage::focusSearch() {
  search_->setFocus();
  search_->selectAll();
}

// In a store of its own: what is staged meanwhile does not wait for it.
void HistoryPage::search() {
  if (searching_) searching_->cancel();
  searching_.reset();
  const QString words = search_->text().trimmed();
  if (words.isEmpty()) {
    found_->hide();
    for (int i = 0; i < list_->count(); ++i) list_->item(i)->setHidden(false);
    if (receipt_) showRecords();
    return;
  }
  found_->setText(tr("looking…"));
  found_->show();
  auto mine = std::make_shared<std::shared_ptr<Progress>>();
  searching_ = desk_.behind().post(
      this,
      [words = words.toStdString(), address = desk_.info().address, path = desk_.storeThread().path()](
          Session&, Progress& progress) -> Result<std::vector<std::int64_t>> {
        ITERANDUM_ASSIGN(const std::unique_ptr<Store> store, Store::open(path));
        return receiptsWith(*store, address, words, progress);
      },
      [this, mine](Result<std::vector<std::int64_t>>&& found) {
        if (*mine != searching_) return;
        searching_.reset();
        if (found) return showFound(*found);
        found_->hide();
        emit said(toQ(found.error().text()));
      });
  *mine = searching_;
}

void HistoryPage::showFound(const std::vector<std::int64_t>& found) {
  int first = -1;
  for (int i = 0; i < list_->count(); ++i) {
    const std::int64_t id = kept_[static_cast<std::size_t>(i)].id;
    const bool there = std::find(found.begin(), found.end(), id) != found.end();
    list_->item(i)->setHidden(!there);
    if (there && first < 0) first = i;
  }
  found_->setText(found.empty() ? tr("In no receipt do these words stand together.")
                                : tr("%n of %1 receipt(s)", "", static_cast<int>(found.size())).arg(list_->count()));
  const QListWidgetItem* current = list_->currentItem();
  if (first >= 0 && (current == nullptr || current->isHidden()))
    list_->setCurrentRow(first);
  else if (receipt_)
    showRecords();
}

void HistoryPage::reload() {
  const std::uint64_t asked = recordAsked_;
  const std::uint64_t reload = ++reloads_;
  desk_.storeThread().post(
      this, [address = desk_.info().address](Store& store) { return store.receipts(address); },
      [this, asked, reload](Result<std::vector<KeptReceipt>>&& receipts) {
        if (reload != reloads_) return;  // it is asked again already
        if (!receipts) {
          emit said(toQ(receipts.error().text()));
          return;
        }
        kept_ = std::move(*receipts);
        const QSignalBlocker blocker(list_);
        list_->clear();
        for (const KeptReceipt& r : kept_) {
          QString text = r.title.empty() ? tr("(no title)") : toQ(r.title);
          text += QStringLiteral("\n") + momentInWords(r.appliedAt) +
                  tr(" · %n record(s)", "", static_cast<int>(r.changes));
          if (r.pending) text += tr(" · it is not known whether it was written");
          list_->addItem(text);
          list_->item(list_->count() - 1)->setToolTip(tr("%1 (UTC)").arg(toQ(r.appliedAt)));
          if (r.pending) findOut(r.id);
        }
        if (!search_->text().trimmed().isEmpty()) search();
        if (recordAsked_ != asked) return;  // one record is shown by now
        list_->setCurrentRow(kept_.empty() ? -1 : 0);
        // Where it is shown already, boxes may be ticked.
        if (kept_.empty() || kept_.front().id != askedId_) showReceipt();
      });
}

// A receipt is pending when the program ended before it heard what became of the commit. The database is asked; one
// that was not written is left in the list, since another window may be about to commit it.
void HistoryPage::findOut(std::int64_t id) {
  desk_.storeThread().post(
      this, [id](Store& store) { return store.receipt(id); },
      [this, id](Result<Receipt>&& receipt) {
        if (!receipt) return;
        desk_.behind().post(
            this,
            [receipt = std::move(*receipt), catalogue = desk_.sharedCatalogue()](Session& session, Progress& progress) {
              return writtenState(session, *catalogue, receipt, progress);
            },
            [this, id](Result<WrittenState>&& state) {
              if (!state) return;
              if (*state == WrittenState::Written)
                desk_.storeThread().post(
                    this, [id](Store& store) { return store.confirmReceipt(id); },
                    [this](Status&& confirmed) {
                      if (confirmed) desk_.staged().lookForWritten();
                    });
              foundOut(id, *state);
            });
      });
}

void HistoryPage::checkReceipts() {
  desk_.behind().post(
      this,
      [path = desk_.storeThread().path()](Session&, Progress& progress) -> Result<ChainCheck> {
        ITERANDUM_ASSIGN(const std::unique_ptr<Store> store, Store::open(path));
        return store->checkChain(progress);
      },
      [this](Result<ChainCheck>&& check) {
        if (!check) return emit alarmed(tr("The receipts could not be checked: %1").arg(toQ(check.error().text())));
        const QString words = toQ(visibleText(inWords(*check)));
        if (check->broken.empty()) return emit told(words + QLatin1Char('.'));
        emit alarmed(tr("%1: %2. “iterandum-cli history DATABASE --verify” lists all of it.")
                         .arg(words, toQ(visibleText(check->broken.front()))));
      });
}

void HistoryPage::foundOut(std::int64_t id, WrittenState state) {
  const auto at = std::find_if(kept_.begin(), kept_.end(), [&](const KeptReceipt& k) { return k.id == id; });
  QListWidgetItem* item = at == kept_.end() ? nullptr : list_->item(static_cast<int>(at - kept_.begin()));
  if (item == nullptr || state == WrittenState::NotKnown) return;
  at->pending = state != WrittenState::Written;
  item->setText(item->text().section(QStringLiteral(" · "), 0, 1) +
                (state == WrittenState::Written ? tr(" · found in the database afterwards")
                                                : tr(" · it was not written: the program ended before")));
}

void HistoryPage::showReceipt() {
  ++recordAsked_;
  ++linesAsked_;
  const int row = list_->currentRow();
  receipt_.reset();
  askedId_ = row < 0 || row >= static_cast<int>(kept_.size()) ? 0 : kept_[static_cast<std::size_t>(row)].id;
  back_->setEnabled(false);
  if (row < 0 || row >= static_cast<int>(kept_.size())) {
    heading_->setText(tr("Nothing was applied from here yet."));
    detail_->clear();
    lines_->clear();
    offer();
    return;
  }
  desk_.storeThread().post(
      this, [id = kept_[static_cast<std::size_t>(row)].id](Store& store) { return store.receipt(id); },
      [this, row](Result<Receipt>&& receipt) {
        if (row != list_->currentRow()) return;
        if (!receipt) {
          heading_->setText(tr("This receipt cannot be read: %1").arg(toQ(receipt.error().text())));
          return;
        }
        receipt_ = std::make_shared<const Receipt>(std::move(*receipt));
        heading_->setText(receipt_->title.empty() ? tr("(no title)") : toQ(receipt_->title));
        showRecords();
      });
}

// With words to find by: those records in which they stand, if there are any.
void HistoryPage::showRecords() {
  const std::uint64_t asked = ++linesAsked_;
  linesShown_ = false;
  lines_->clear();
  offer();
  const std::string words = search_->text().trimmed().toStdString();
  if (words.empty()) {
    const Progress unstopped;
    return showLines(recordsWith(*receipt_, {}, unstopped).value_or(std::vector<ReceiptRow>()));
  }
  desk_.behind().post(
      this,
      [receipt = receipt_, words](Session&, Progress& progress) -> Result<std::vector<ReceiptRow>> {
        return recordsWith(*receipt, words, progress);
      },
      [this, asked](Result<std::vector<ReceiptRow>>&& rows) {
        if (asked == linesAsked_ && rows) showLines(std::move(*rows));
      });
}

// What was said of it before it was applied, a line each.
QString HistoryPage::saidBefore(const Receipt& receipt) {
  constexpr std::size_t kMostShown = 8;
  QString out;
  for (std::size_t i = 0; i < receipt.comments.size() && i < kMostShown; ++i) {
    const Comment& c = receipt.comments[i];
    const std::string of = inWords(c.about);
    const QString by = toQ(visibleText(c.by));
    const QString words = toQ(visibleText(c.words));
    out += QLatin1Char('\n') + (of.empty() ? tr("%1 said of all of it: %2").arg(by, words)
                                           : tr("%1 said of %2: %3").arg(by, toQ(visibleText(of)), words));
  }
  if (receipt.comments.size() > kMostShown)
    out += QLatin1Char('\n') + tr("and %n more comment(s)", "", static_cast<int>(receipt.comments.size() - kMostShown));
  return out;
}

void HistoryPage::showLines(std::vector<ReceiptRow> rows) {
  std::size_t all = 0;
  for (const ReceiptBlock& block : receipt_->blocks) all += block.rows();
  shown_ = std::move(rows);
  narrowed_ = shown_.size() < all;
  linesShown_ = true;
  lines_->showRows(*receipt_, shown_);
  QString below = tr("Applied %1 by %2").arg(momentInWords(receipt_->appliedAt), toQ(receipt_->appliedBy));
  for (const Signature& s : receipt_->signatures) {
    below +=
        s.words.empty() ? tr(" · signed by %1").arg(toQ(s.by)) : tr(" · signed by %1: %2").arg(toQ(s.by), toQ(s.words));
  }
  if (narrowed_) {
    below +=
        tr(" · %n of %1 record(s): those in which these words stand", "", static_cast<int>(shown_.size())).arg(all);
  }
  if (shown_.size() > ReceiptLines::kMostLines) {
    below += tr(" · the first %1 are shown; find by words to see others").arg(ReceiptLines::kMostLines);
  }
  detail_->setText(below + saidBefore(*receipt_));
  offer();
}

// What the button does is never more than what is said.
void HistoryPage::offer() {
  const auto chosen = static_cast<int>(lines_->chosen().size());
  back_->setEnabled(canTakeBack());
  back_->setVisible(receipt_ != nullptr);  // the lines of a record's history have a button each
  if (chosen > 0)
    back_->setText(tr("Take back %n record(s)", "", chosen));
  else if (receipt_ != nullptr && narrowed_)
    back_->setText(tr("Take back these %n", "", static_cast<int>(shown_.size())));
  else
    back_->setText(tr("Take back"));
}

// --- all receipts of one record --------------------------------------------------------------------------------------

namespace {

Result<std::vector<RecordChange>> changesOf(Store& store, const std::string& address, const NamedRecord& record) {
  std::vector<RecordChange> out;
  ITERANDUM_TRY(eachRecordChange(
      store, address, &record,
      [&](RecordChange&& change) {
        out.push_back(std::move(change));
        return true;
      },
      [](const KeptReceipt&, const std::string&) {}));  // the receipt's own line on this page says so
  return out;
}

}  // namespace

void HistoryPage::showRecord(const TableName& table, const ValueTuple& key, const QString& title) {
  const std::uint64_t asked = ++recordAsked_;
  ++linesAsked_;
  askedId_ = 0;
  const Table* known = desk_.catalogue().find(table);
  NamedRecord record{table, known != nullptr ? known->writeKeyColumns() : std::vector<std::string>(), key};
  desk_.storeThread().post(
      this,
      [address = desk_.info().address, record = std::move(record)](Store& store) {
        return changesOf(store, address, record);
      },
      [this, asked, title](Result<std::vector<RecordChange>>&& changes) {
        if (asked != recordAsked_) return;
        {
          const QSignalBlocker blocker(list_);
          list_->setCurrentRow(-1);
        }
        receipt_.reset();
        lines_->clear();
        offer();
        if (!changes) return heading_->setText(tr("The receipts cannot be read: %1").arg(toQ(changes.error().text())));
        heading_->setText(changes->empty() ? tr("%1: nothing was applied to it from here").arg(title)
                                           : tr("%1: applied to it, the latest first").arg(title));
        detail_->clear();
        lines_->showChanges(*changes);
      });
}

// --- taking back -----------------------------------------------------------------------------------------------------

void HistoryPage::takeBack() {
  if (!canTakeBack()) return;
  const std::set<ReceiptRow>& chosen = lines_->chosen();
  std::vector<ReceiptRow> rows(chosen.begin(), chosen.end());
  if (rows.empty() && narrowed_) rows = shown_;
  takeBackRows(receipt_, rows);
}

void HistoryPage::takeBackOne(const RecordChange& change) {
  desk_.storeThread().post(
      this, [id = change.receipt](Store& store) { return store.receipt(id); },
      [this, change](Result<Receipt>&& receipt) {
        if (!receipt) return emit said(tr("The receipt cannot be read: %1").arg(toQ(receipt.error().text())));
        const auto row = rowOf(*receipt, change.block);
        if (row) takeBackRows(std::make_shared<const Receipt>(std::move(*receipt)), {*row});
      });
}

void HistoryPage::takeBackRows(const std::shared_ptr<const Receipt>& receipt, const std::vector<ReceiptRow>& rows) {
  const std::uint64_t firstId = desk_.changes().nextAddedId();
  const bool all = rows.empty();
  desk_.front().post(
      this,
      [receipt, rows, all, firstId, catalogue = desk_.sharedCatalogue()](Session&, Progress&) {
        return all ? takeBackAll(*catalogue, *receipt, firstId) : takeBackPart(*catalogue, *receipt, rows, firstId);
      },
      [this, receipt, rows, all, firstId](Result<PartTakenBack>&& taken) {
        if (!taken) return emit said(tr("It cannot be taken back here: %1.").arg(toQ(taken.error().text())));
        // A record was added meanwhile, under the number that one of these would get.
        if (desk_.changes().nextAddedId() != firstId) return takeBackRows(receipt, rows);
        stageTakenBack(*receipt, std::move(*taken), all ? 0 : rows.size());
      });
}

// `records`: how many were asked for; 0: all.
void HistoryPage::stageTakenBack(const Receipt& receipt, PartTakenBack&& taken, std::size_t records) {
  if (taken.gesture.parts.empty()) return emit said(tr("There is nothing in it that could be taken back."));
  const QString whole = receipt.title.empty() ? tr("Take back") : tr("Take back: %1").arg(toQ(receipt.title));
  const QString title = records == 0 ? whole : tr("%1, in %n record(s)", "", static_cast<int>(records)).arg(whole);
  desk_.staged().stageGesture(title, std::move(taken.gesture));
  QStringList notes;
  for (const std::string& n : taken.notes) notes << toQ(n);
  QString message = tr("Staged, not yet written: read it over and apply.");
  if (!taken.along.empty()) {
    message += QLatin1Char(' ') + tr("%n further record(s) of this receipt come along, since these cannot go without.",
                                     "", static_cast<int>(taken.along.size()));
  }
  emit said(message + QLatin1Char(' ') + tr("Note: %1.").arg(notes.join(QStringLiteral("; "))));
  emit takenBack();
}

void HistoryPage::saveReceipt(const QString& path) {
  if (!receipt_) return;
  const auto told = [this, path](Status&& written) {
    if (!written) return emit said(tr("The receipt could not be written: %1").arg(toQ(written.error().text())));
    emit this->told(tr("Written as %1.").arg(path));
  };
  if (path.endsWith(QLatin1String(".json"), Qt::CaseInsensitive)) return told(writePaper(path, receiptJson(*receipt_)));
  savePaper(
      desk_, this, path, [receipt = receipt_](RecordNames& names) { wantNames(*receipt, names); },
      [receipt = receipt_](const RecordNames& names) { return receiptPaper(*receipt, names); }, told);
}

}  // namespace iterandum
