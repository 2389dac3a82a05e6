#include "app/history/receipt_lines.h"

#include <QCheckBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QTextDocumentFragment>
#include <QVBoxLayout>
#include <algorithm>

#include "app/records/sheet_model.h"
#include "app/style/moments.h"
#include "app/style/roles.h"

namespace iterandum {

ReceiptLines::ReceiptLines(Desk& desk, QWidget* parent) : QWidget(parent), desk_(desk) {
  layout_ = new QVBoxLayout(this);
  layout_->setContentsMargins(0, 0, 8, 0);
  layout_->addStretch(1);
  connect(&desk_.names(), &ReferenceNames::named, this, [this] {
    for (Line& line : lines_) say(line);
  });
}

void ReceiptLines::clear() {
  lines_.clear();
  chosen_.clear();
  delete holder_;
  holder_ = new QWidget(this);
  auto* lines = new QVBoxLayout(holder_);
  lines->setContentsMargins(0, 0, 0, 0);
  lines->setSpacing(0);
  layout_->insertWidget(0, holder_);
}

void ReceiptLines::showRows(const Receipt& receipt, const std::vector<ReceiptRow>& rows) {
  clear();
  for (std::size_t i = 0; i < rows.size() && i < kMostLines; ++i) {
    const ReceiptRow row = rows[i];
    Line line;
    line.block = onlyRow(receipt.blocks[row.block], row.row);
    line.below = whatWasDone(line.block);
    if (const std::string origin = receipt.origins.inWords(line.block.changeIndex[0]);
        !origin.empty() && !line.block.cascaded) {
      line.below += tr(", from %1").arg(toQ(origin).toHtmlEscaped());
    }
    auto* box = new QCheckBox(holder_);
    box->setObjectName("receiptRecord");
    const bool applied = line.block.outcomes[0] == Outcome::Applied;
    box->setEnabled(applied);
    box->setToolTip(applied ? tr("Take this one back, alone or with others that are ticked")
                            : tr("Nothing was written here that could be taken back"));
    box->setAccessibleName(QTextDocumentFragment::fromHtml(titleOf(line.block)).toPlainText());
    connect(box, &QCheckBox::toggled, this, [this, row](bool on) {
      if (on)
        chosen_.insert(row);
      else
        chosen_.erase(row);
      emit chosenChanged();
    });
    add(std::move(line), box);
  }
  holder_->show();
}

void ReceiptLines::showChanges(const std::vector<RecordChange>& changes) {
  clear();
  for (std::size_t i = 0; i < changes.size() && i < kMostLines; ++i) {
    const RecordChange& change = changes[i];
    Line line;
    line.block = change.block;
    line.title = QStringLiteral("<b>%1</b>").arg(momentInWords(change.at));
    line.below = tr("%1 by %2").arg(whatWasDone(change.block), toQ(change.by).toHtmlEscaped());
    if (!change.origin.empty()) line.below += tr(", from %1").arg(toQ(change.origin).toHtmlEscaped());
    line.why = change.title.empty() ? tr("(no title)") : toQ(change.title);
    auto* back = new QPushButton(tr("Take back"), holder_);
    back->setObjectName("takeOneBack");
    back->setToolTip(tr("Stages what undoes this, for this record and what cannot go without it"));
    back->setAccessibleName(tr("Take back what was applied %1").arg(momentInWords(change.at)));
    back->setEnabled(change.block.outcomes[0] == Outcome::Applied);
    connect(back, &QPushButton::clicked, this, [this, change] { emit takeBackAsked(change); });
    add(std::move(line), back);
  }
  holder_->show();
}

void ReceiptLines::add(Line line, QWidget* first) {
  wantNames(line.block);
  auto* widget = new QWidget(holder_);
  widget->setObjectName("receiptLine");
  widget->setAttribute(Qt::WA_StyledBackground);
  widget->setStyleSheet(QStringLiteral("#receiptLine { border-bottom: 1px solid %1; }").arg(css(roles().rule)));
  auto* parts = new QHBoxLayout(widget);
  parts->setContentsMargins(2, 6, 2, 6);
  parts->setSpacing(12);
  parts->addWidget(first, 0, Qt::AlignTop);
  for (QLabel** label : {&line.head, &line.cells}) {
    *label = new QLabel(widget);
    (*label)->setTextFormat(Qt::RichText);
    (*label)->setWordWrap(true);
    (*label)->setAlignment(Qt::AlignTop | Qt::AlignLeft);
  }
  line.head->setObjectName("receiptRecordHead");
  line.cells->setObjectName("receiptRecordCells");
  parts->addWidget(line.head, 3);
  parts->addWidget(line.cells, 8);
  static_cast<QVBoxLayout*>(holder_->layout())->addWidget(widget);
  say(line);
  lines_.push_back(std::move(line));
}

void ReceiptLines::say(Line& line) const {
  const QString title = line.title.isEmpty() ? titleOf(line.block) : line.title;
  line.head->setText(
      QStringLiteral("%1<br><span style='color:%2'>%3</span>").arg(title, css(roles().soft), line.below));
  const QString why = line.why.isEmpty() ? QString() : QStringLiteral("<i>%1</i><br>").arg(line.why.toHtmlEscaped());
  line.cells->setText(why + cellsInWords(line.block));
}

// --- the words of a line ---------------------------------------------------------------------------------------------

void ReceiptLines::wantNames(const ReceiptBlock& block) {
  const Table* table = desk_.catalogue().find(block.table);
  if (table == nullptr) return;
  for (std::size_t c = 0; c < block.columns.size(); ++c) {
    const auto at = table->columnIndex(block.columns[c]);
    if (!at || desk_.names().reference(*table, *at) == nullptr) continue;
    std::vector<Value> values;
    if (!block.before.empty()) values.push_back(block.before[c].at(0));
    if (!block.after.empty()) values.push_back(block.after[c].at(0));
    desk_.names().want(*table, *at, values);
  }
}

QString ReceiptLines::shown(const ReceiptBlock& block, std::size_t column, const Value& value) const {
  const Table* table = desk_.catalogue().find(block.table);
  const auto at = table == nullptr ? std::nullopt : table->columnIndex(block.columns[column]);
  if (!at) return toQ(valueInWords(value)).left(120).toHtmlEscaped();
  const QString name = desk_.names().name(*table, *at, value);
  const Lens* lens = desk_.lenses().of(table->name, table->columns[*at].name);
  return (name.isEmpty() ? shownValue(table->columns[*at], value, lens) : name).left(120).toHtmlEscaped();
}

QString ReceiptLines::cellsInWords(const ReceiptBlock& block) const {
  const Roles& r = roles();
  QString cells;
  for (std::size_t c = 0; c < block.columns.size(); ++c) {
    if (block.action == Action::Edit) {
      if (block.before[c].at(0) == block.after[c].at(0)) continue;
      cells += QStringLiteral("%1 <s style='color:%2'>%3</s> <b style='color:%4'>%5</b> &nbsp; ")
                   .arg(toQ(block.columns[c]).toHtmlEscaped(), css(r.soft), shown(block, c, block.before[c].at(0)),
                        css(r.blue), shown(block, c, block.after[c].at(0)));
      continue;
    }
    const Value v = block.action == Action::Add ? block.after[c].at(0) : block.before[c].at(0);
    if (v.isNull()) continue;
    cells += QStringLiteral("<span style='color:%1'>%2</span> %3 &nbsp; ")
                 .arg(css(r.soft), toQ(block.columns[c]).toHtmlEscaped(), shown(block, c, v));
  }
  return cells;
}

QString ReceiptLines::whatWasDone(const ReceiptBlock& block) {
  if (block.outcomes[0] != Outcome::Applied) return toQ(outcomeName(block.outcomes[0]));
  QString what =
      block.action == Action::Add ? tr("added") : (block.action == Action::Remove ? tr("removed") : tr("changed"));
  if (block.cascaded) what += tr(" by a cascade");
  return what;
}

// What people call it, with the key beside it.
QString ReceiptLines::titleOf(const ReceiptBlock& block) const {
  ValueTuple key;
  for (const ValueColumn& k : block.keys) key.push_back(k.at(0));
  const QString named = toQ(recordInWords(block.table, key));
  const Table* table = desk_.catalogue().find(block.table);
  // What takes several columns to name is told by its key alone.
  if (table == nullptr || block.keyColumns.size() != 1) return named.toHtmlEscaped();
  const std::vector<ValueColumn>& values = block.before.empty() ? block.after : block.before;
  for (const std::string& column : desk_.names().readable(*table)) {
    const auto at = std::find(block.columns.begin(), block.columns.end(), column);
    if (at == block.columns.end()) continue;
    const Value value = values[static_cast<std::size_t>(at - block.columns.begin())].at(0);
    const QString text = toQ(canonicalText(value)).simplified().left(60);
    if (value.isNull() || text.isEmpty() ||
        std::find(block.keyColumns.begin(), block.keyColumns.end(), column) != block.keyColumns.end())
      continue;
    return QStringLiteral("%1 <span style='color:%2'>(%3)</span>")
        .arg(text.toHtmlEscaped(), css(roles().soft), named.toHtmlEscaped());
  }
  return named.toHtmlEscaped();
}

}  // namespace iterandum
