#include "app/history/history_page.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QSaveFile>
#include <QScrollArea>
#include <QTimer>
#include <QVBoxLayout>
#include <algorithm>

#include "app/records/sheet_model.h"
#include "app/style/moments.h"
#include "app/style/roles.h"
#include "app/style/side_frame.h"
#include "core/store/receipt_search.h"
#include "core/store/record_history.h"

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
  detail_->setTextFormat(Qt::RichText);
  detail_->setWordWrap(true);
  detail_->setAlignment(Qt::AlignTop);
  scroll_ = new QScrollArea(this);
  scroll_->setWidgetResizable(true);
  scroll_->setWidget(detail_);
  page->addWidget(scroll_, 1);
  connect(list_, &QListWidget::currentRowChanged, this, [this] { showReceipt(); });
  connect(back_, &QPushButton::clicked, this, &HistoryPage::takeBack);
  setFocusProxy(list_);
  list_->setContextMenuPolicy(Qt::CustomContextMenu);
  connect(list_, &QWidget::customContextMenuRequested, this, [this](const QPoint& place) {
    if (QListWidgetItem* item = list_->itemAt(place)) list_->setCurrentItem(item);
    emit menuAsked(list_->viewport()->mapToGlobal(place));
  });
  connect(&desk_.names(), &ReferenceNames::named, this, [this] {
    if (isVisible() && receipt_) showBlocks();
  });
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
  if (first >= 0 && (current == nullptr || current->isHidden())) list_->setCurrentRow(first);
}

void HistoryPage::reload() {
  const std::uint64_t asked = recordAsked_;
  desk_.storeThread().post(
      this, [address = desk_.info().address](Store& store) { return store.receipts(address); },
      [this, asked](Result<std::vector<KeptReceipt>>&& receipts) {
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
        showReceipt();
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
                    this, [id](Store& store) { return store.confirmReceipt(id); }, [](Status&&) {});
              foundOut(id, *state);
            });
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
  const int row = list_->currentRow();
  receipt_.reset();
  back_->setEnabled(false);
  if (row < 0 || row >= static_cast<int>(kept_.size())) {
    heading_->setText(tr("Nothing was applied from here yet."));
    detail_->clear();
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
        receipt_ = std::move(*receipt);
        back_->setEnabled(true);
        heading_->setText(receipt_->title.empty() ? tr("(no title)") : toQ(receipt_->title));
        showBlocks();
      });
}

void HistoryPage::showBlocks() {
  const Roles& r = roles();
  QString html =
      QStringLiteral("<p style='color:%1'>%2</p><table width='100%' cellspacing='0' cellpadding='6'>")
          .arg(
              css(r.soft),
              tr("Applied %1 by %2").arg(momentInWords(receipt_->appliedAt), toQ(receipt_->appliedBy).toHtmlEscaped()));
  int shown = 0;
  int more = 0;
  for (const ReceiptBlock& block : receipt_->blocks) {
    wantNames(block);
    for (std::size_t i = 0; i < block.rows(); ++i) {
      if (++shown > 200) {
        ++more;
        continue;
      }
      ValueTuple key;
      for (const ValueColumn& k : block.keys) key.push_back(k.at(i));
      html += lineOf(titleOf(block, i, key), whatWasDone(block, i), cellsInWords(block, i));
    }
  }
  html += QStringLiteral("</table>");
  if (more > 0) html += tr("and %n more", "", more);
  detail_->setText(html);
}

// --- one record of a receipt -----------------------------------------------------------------------------------------

void HistoryPage::wantNames(const ReceiptBlock& block) {
  const Table* table = desk_.catalogue().find(block.table);
  if (table == nullptr) return;
  for (std::size_t c = 0; c < block.columns.size(); ++c) {
    const auto at = table->columnIndex(block.columns[c]);
    if (!at || desk_.names().reference(*table, *at) == nullptr) continue;
    std::vector<Value> values;
    for (std::size_t i = 0; i < block.rows() && i < 200; ++i) {
      if (!block.before.empty()) values.push_back(block.before[c].at(i));
      if (!block.after.empty()) values.push_back(block.after[c].at(i));
    }
    desk_.names().want(*table, *at, values);
  }
}

QString HistoryPage::shown(const ReceiptBlock& block, std::size_t column, const Value& value) const {
  const Table* table = desk_.catalogue().find(block.table);
  const auto at = table == nullptr ? std::nullopt : table->columnIndex(block.columns[column]);
  if (!at) return toQ(valueInWords(value)).left(120).toHtmlEscaped();
  const QString name = desk_.names().name(*table, *at, value);
  const Lens* lens = desk_.lenses().of(table->name, table->columns[*at].name);
  return (name.isEmpty() ? shownValue(table->columns[*at], value, lens) : name).left(120).toHtmlEscaped();
}

QString HistoryPage::cellsInWords(const ReceiptBlock& block, std::size_t i) const {
  const Roles& r = roles();
  QString cells;
  for (std::size_t c = 0; c < block.columns.size(); ++c) {
    if (block.action == Action::Edit) {
      if (block.before[c].at(i) == block.after[c].at(i)) continue;
      cells += QStringLiteral("%1 <s style='color:%2'>%3</s> <b style='color:%4'>%5</b> &nbsp; ")
                   .arg(toQ(block.columns[c]).toHtmlEscaped(), css(r.soft), shown(block, c, block.before[c].at(i)),
                        css(r.blue), shown(block, c, block.after[c].at(i)));
      continue;
    }
    const Value v = block.action == Action::Add ? block.after[c].at(i) : block.before[c].at(i);
    if (v.isNull()) continue;
    cells += QStringLiteral("<span style='color:%1'>%2</span> %3 &nbsp; ")
                 .arg(css(r.soft), toQ(block.columns[c]).toHtmlEscaped(), shown(block, c, v));
  }
  return cells;
}

QString HistoryPage::whatWasDone(const ReceiptBlock& block, std::size_t i) {
  if (block.outcomes[i] != Outcome::Applied) return toQ(outcomeName(block.outcomes[i]));
  QString what =
      block.action == Action::Add ? tr("added") : (block.action == Action::Remove ? tr("removed") : tr("changed"));
  if (block.cascaded) what += tr(" by a cascade");
  return what;
}

// What people call it, with the key beside it.
QString HistoryPage::titleOf(const ReceiptBlock& block, std::size_t i, const ValueTuple& key) const {
  const QString named = toQ(recordInWords(block.table, key));
  const Table* table = desk_.catalogue().find(block.table);
  // What takes several columns to name is told by its key alone.
  if (table == nullptr || block.keyColumns.size() != 1) return named.toHtmlEscaped();
  const std::vector<ValueColumn>& values = block.before.empty() ? block.after : block.before;
  for (const std::string& column : desk_.names().readable(*table)) {
    const auto at = std::find(block.columns.begin(), block.columns.end(), column);
    if (at == block.columns.end()) continue;
    const Value value = values[static_cast<std::size_t>(at - block.columns.begin())].at(i);
    const QString text = toQ(canonicalText(value)).simplified().left(60);
    if (value.isNull() || text.isEmpty() ||
        std::find(block.keyColumns.begin(), block.keyColumns.end(), column) != block.keyColumns.end())
      continue;
    return QStringLiteral("%1 <span style='color:%2'>(%3)</span>")
        .arg(text.toHtmlEscaped(), css(roles().soft), named.toHtmlEscaped());
  }
  return named.toHtmlEscaped();
}

QString HistoryPage::lineOf(const QString& head, const QString& below, const QString& cells) {
  const Roles& r = roles();
  return QStringLiteral(
             "<tr><td width='26%' style='border-bottom:1px solid %1'>%2<br><span style='color:%3'>%4</span></td>"
             "<td style='border-bottom:1px solid %1'>%5</td></tr>")
      .arg(css(r.rule), head, css(r.soft), below, cells);
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
        back_->setEnabled(false);
        if (!changes) return heading_->setText(tr("The receipts cannot be read: %1").arg(toQ(changes.error().text())));
        heading_->setText(changes->empty() ? tr("%1: nothing was applied to it from here").arg(title)
                                           : tr("%1: applied to it, the latest first").arg(title));
        QString html = QStringLiteral("<table width='100%' cellspacing='0' cellpadding='6'>");
        for (const RecordChange& change : *changes) {
          wantNames(change.block);
          const QString why = change.title.empty() ? tr("(no title)") : toQ(change.title);
          html += lineOf(QStringLiteral("<b>%1</b>").arg(momentInWords(change.at)),
                         tr("%1 by %2").arg(whatWasDone(change.block, 0), toQ(change.by).toHtmlEscaped()),
                         QStringLiteral("<i>%1</i><br>").arg(why.toHtmlEscaped()) + cellsInWords(change.block, 0));
        }
        detail_->setText(html + QStringLiteral("</table>"));
      });
}

void HistoryPage::takeBack() {
  if (!receipt_) return;
  const Reversal reversal = revertReceipt(*receipt_);
  if (!desk_.staged().stageChanges(toQ(reversal.changes.title), reversal.changes)) return;
  QStringList notes;
  for (const std::string& n : reversal.notes) notes << toQ(n);
  emit said(tr("Staged, not yet written: read it over and apply. Note: %1.").arg(notes.join(QStringLiteral("; "))));
  emit takenBack();
}

void HistoryPage::saveReceipt(const QString& path) {
  if (!receipt_) return;
  const std::string text = receiptJson(*receipt_);
  QSaveFile file(path);
  if (!file.open(QIODevice::WriteOnly) || file.write(text.data(), static_cast<qint64>(text.size())) < 0 ||
      !file.commit()) {
    emit said(tr("The receipt could not be written: %1").arg(file.errorString()));
  }
}

}  // namespace iterandum
