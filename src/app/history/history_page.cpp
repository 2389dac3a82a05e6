#include "app/history/history_page.h"

#include <QDateTime>
#include <QHBoxLayout>
#include <QLabel>
#include <QListWidget>
#include <QLocale>
#include <QPushButton>
#include <QSaveFile>
#include <QScrollArea>
#include <QVBoxLayout>
#include <algorithm>

#include "app/records/sheet_model.h"
#include "app/style/roles.h"
#include "app/style/side_frame.h"

namespace iterandum {
namespace {

QString when(const std::string& utc) {
  const QDateTime time = QDateTime::fromString(toQ(utc), Qt::ISODate).toLocalTime();
  return time.toString(QStringLiteral("yyyy-MM-dd HH:mm"));
}

}  // namespace

HistoryPage::HistoryPage(Desk& desk, QWidget* parent) : QWidget(parent), desk_(desk) {
  const SideFrame frame = buildSideFrame(this, 340);
  QWidget* side = frame.side;
  QVBoxLayout* page = frame.page;
  auto* head = new QLabel(tr("Applied to this database"), side);
  head->setFont(serif(1.45));
  frame.sideLayout->addWidget(head);
  list_ = new QListWidget(side);
  list_->setObjectName("receipts");
  list_->setAccessibleName(tr("Receipts"));
  list_->setSpacing(3);
  list_->setWordWrap(true);
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
}

void HistoryPage::reload() {
  desk_.storeThread().post(
      this, [address = desk_.info().address](Store& store) { return store.receipts(address); },
      [this](Result<std::vector<KeptReceipt>>&& receipts) {
        if (!receipts) {
          emit said(toQ(receipts.error().text()));
          return;
        }
        kept_ = std::move(*receipts);
        const QSignalBlocker blocker(list_);
        list_->clear();
        for (const KeptReceipt& r : kept_) {
          QString text = r.title.empty() ? tr("(no title)") : toQ(r.title);
          text += QStringLiteral("\n") + when(r.appliedAt) + tr(" · %n change(s)", "", static_cast<int>(r.changes));
          if (r.pending) text += tr(" · it is not known whether it was written");
          list_->addItem(text);
          if (r.pending) findOut(r.id);
        }
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
        const Roles& r = roles();
        QString html =
            QStringLiteral("<p style='color:%1'>%2</p><table width='100%' cellspacing='0' cellpadding='6'>")
                .arg(css(r.soft),
                     tr("Applied %1 by %2").arg(when(receipt_->appliedAt), toQ(receipt_->appliedBy).toHtmlEscaped()));
        int shown = 0;
        int more = 0;
        for (const ReceiptBlock& block : receipt_->blocks) {
          const Table* table = desk_.catalogue().find(block.table);
          for (std::size_t i = 0; i < block.rows(); ++i) {
            if (++shown > 200) {
              ++more;
              continue;
            }
            QString cells;
            for (std::size_t c = 0; c < block.columns.size(); ++c) {
              const Column* column = table == nullptr ? nullptr : table->column(block.columns[c]);
              const auto text = [&](const Value& v) {
                return (column != nullptr ? shownValue(*column, v) : toQ(valueInWords(v))).left(120).toHtmlEscaped();
              };
              if (block.action == Action::Edit) {
                if (block.before[c].at(i) == block.after[c].at(i)) continue;
                cells += QStringLiteral("%1 <s style='color:%2'>%3</s> <b style='color:%4'>%5</b> &nbsp; ")
                             .arg(toQ(block.columns[c]).toHtmlEscaped(), css(r.soft), text(block.before[c].at(i)),
                                  css(r.blue), text(block.after[c].at(i)));
              } else {
                const Value v = block.action == Action::Add ? block.after[c].at(i) : block.before[c].at(i);
                if (!v.isNull())
                  cells += QStringLiteral("<span style='color:%1'>%2</span> %3 &nbsp; ")
                               .arg(css(r.soft), toQ(block.columns[c]).toHtmlEscaped(), text(v));
              }
            }
            ValueTuple key;
            for (const ValueColumn& k : block.keys) key.push_back(k.at(i));
            QString what = block.action == Action::Add
                               ? tr("added")
                               : (block.action == Action::Remove ? tr("removed") : tr("changed"));
            if (block.cascaded) what += tr(" by a cascade");
            if (block.outcomes[i] != Outcome::Applied) what = toQ(outcomeName(block.outcomes[i]));
            html +=
                QStringLiteral(
                    "<tr><td width='26%' style='border-bottom:1px solid %1'>%2<br><span style='color:%3'>%4</span></td>"
                    "<td style='border-bottom:1px solid %1'>%5</td></tr>")
                    .arg(css(r.rule), toQ(recordInWords(block.table, key)).toHtmlEscaped(), css(r.soft), what, cells);
          }
        }
        html += QStringLiteral("</table>");
        if (more > 0) html += tr("and %n more", "", more);
        detail_->setText(html);
      });
}

void HistoryPage::takeBack() {
  if (!receipt_) return;
  const Reversal reversal = revertReceipt(*receipt_);
  if (!desk_.stageChanges(toQ(reversal.changes.title), reversal.changes)) return;
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
