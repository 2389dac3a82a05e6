// ReviewPage: what the rehearsal wrote that nobody asked for: by triggers, in other tables or other records.
#include <QLabel>
#include <QListWidget>
#include <QVBoxLayout>

#include "app/review/review_page.h"
#include "app/style/marks.h"
#include "app/style/roles.h"

namespace iterandum {
namespace {

// An item's number is negative there: -2 for the first table, -3 for the next; -1 is a head.
constexpr int kFirst = -2;

}  // namespace

QString ReviewPage::elsewhereTitle(const WrittenElsewhere& written) const {
  QStringList parts;
  if (written.added > 0) parts << tr("%n record(s) added", "", static_cast<int>(written.added));
  if (written.changed > 0) parts << tr("%n record(s) changed", "", static_cast<int>(written.changed));
  if (written.removed > 0) parts << tr("%n record(s) removed", "", static_cast<int>(written.removed));
  if (parts.isEmpty()) parts << tr("may be written");
  return tr("%1: %2").arg(toQ(displayName(written.table)), parts.join(QStringLiteral(", ")));
}

void ReviewPage::addElsewhereItems() {
  if (!review_ || review_->elsewhere.empty()) return;
  addHead(tr("Written by the database itself"));
  for (std::size_t i = 0; i < review_->elsewhere.size(); ++i) {
    const WrittenElsewhere& written = review_->elsewhere[i];
    const Mark mark = written.removed > 0 ? Mark::Removed : (written.changed > 0 ? Mark::Changed : Mark::Added);
    const QString title = elsewhereTitle(written);
    auto* item = new QListWidgetItem(QIcon(markPixmap(mark, markColor(mark), devicePixelRatioF())), title, groupList_);
    item->setToolTip(tr("Nothing here asks for it; the rehearsal saw it happen"));
    item->setData(Qt::UserRole, kFirst - static_cast<int>(i));
    item->setData(Qt::AccessibleTextRole, tr("%1, by the database itself").arg(title));
  }
}

const WrittenElsewhere* ReviewPage::currentElsewhere() const {
  const int number = currentGroup();
  if (!review_ || number > kFirst) return nullptr;
  const auto index = static_cast<std::size_t>(kFirst - number);
  return index < review_->elsewhere.size() ? &review_->elsewhere[index] : nullptr;
}

void ReviewPage::showElsewhere(const WrittenElsewhere& written) {
  const Roles& r = roles();
  groupHeading_->setText(elsewhereTitle(written));
  QStringList words{
      tr("No change of yours asks for this, and no reference takes it along. The database does it by itself "
         "when your changes are written.")};
  if (!written.by.empty()) {
    QStringList by;
    for (const std::string& name : written.by) by << toQ(name);
    words << tr("What speaks of this table: %1.").arg(by.join(QStringLiteral(", ")));
  }
  if (!written.untold.empty()) words << tr("Not all is known: %1.").arg(toQ(written.untold));
  auto* why = new QLabel(words.join(QLatin1Char(' ')));
  why->setObjectName("elsewhereWords");
  why->setTextFormat(Qt::PlainText);
  why->setWordWrap(true);
  why->setStyleSheet(QStringLiteral("color: %1;").arg(css(r.soft)));
  detail_->addWidget(why);
  QString html = QStringLiteral("<table width='100%' cellspacing='0' cellpadding='6'>");
  for (const WrittenElsewhere::Record& record : written.records) {
    QString name;
    for (const Value& part : record.key) {
      name += (name.isEmpty() ? QString() : QStringLiteral(", ")) + toQ(valueInWords(part));
    }
    QStringList cells;
    for (std::size_t c = 0; c < written.columns.size(); ++c) {
      const std::string& column = written.columns[c];
      const bool both = !record.before.empty() && !record.after.empty();
      if (both && sameValue(record.before[c], record.after[c])) continue;
      const Value& value = record.after.empty() ? record.before[c] : record.after[c];
      if (!both && value.isNull()) continue;
      const auto text = [&](const Value& v) { return shown(written.table, column, v).toHtmlEscaped(); };
      QString cell = QStringLiteral("<span style='color:%1'>%2</span> ").arg(css(r.soft), toQ(column).toHtmlEscaped());
      if (!record.before.empty())
        cell += QStringLiteral("<s style='color:%1'>%2</s>&nbsp; ").arg(css(r.soft), text(record.before[c]));
      if (!record.after.empty()) {
        cell +=
            QStringLiteral("<span style='color:%1'>%2</span>").arg(css(both ? r.blue : r.leaf), text(record.after[c]));
      }
      cells << cell;
    }
    html += recordLine(name.toHtmlEscaped(), cells.join(QStringLiteral(" &nbsp;·&nbsp; ")));
  }
  html += QStringLiteral("</table>");
  auto* records = new QLabel(html);
  records->setObjectName("elsewhereRecords");
  records->setTextFormat(Qt::RichText);
  records->setWordWrap(true);
  records->setAlignment(Qt::AlignTop | Qt::AlignLeft);
  detail_->addWidget(records);
  const std::uint64_t all = written.added + written.changed + written.removed;
  if (all > written.records.size()) {
    auto* more = new QLabel(tr("and %n more", "", static_cast<int>(all - written.records.size())));
    more->setStyleSheet(QStringLiteral("color: %1;").arg(css(r.soft)));
    detail_->addWidget(more);
  }
  detail_->addStretch(1);
}

}  // namespace iterandum
