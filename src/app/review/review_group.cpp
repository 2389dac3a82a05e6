// ReviewPage: one group of changes: its records, statements and effects.
#include <QHBoxLayout>
#include <QLabel>
#include <QLocale>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>

#include "app/review/review_page.h"
#include "app/style/marks.h"
#include "app/style/roles.h"

namespace iterandum {

QString ReviewPage::recordLine(const QString& name, const QString& cells, const QString& aside) {
  return QStringLiteral(
             "<tr><td width='30%' style='border-bottom:1px solid %1'>%2</td><td style='border-bottom:1px solid "
             "%1'>%3</td><td align='right' style='border-bottom:1px solid %1'>%4</td></tr>")
      .arg(css(roles().rule), name, cells, aside);
}

void ReviewPage::addRecords(const ChangeGroup& group) {
  constexpr std::size_t kMost = kMostRecordsShown;
  const Roles& r = roles();
  QString html = QStringLiteral("<table width='100%' cellspacing='0' cellpadding='6'>");
  const auto cellText = [&](const CellChange& c, bool addition) {
    const QString to = shown(group.table, c.column, c.to).toHtmlEscaped();
    if (addition) return QStringLiteral("<span style='color:%1'>%2</span>").arg(css(r.leaf), to);
    const QString from = c.hasFrom ? shown(group.table, c.column, c.from).toHtmlEscaped() : tr("anything");
    return QStringLiteral("<s style='color:%1'>%2</s>&nbsp; <b style='color:%3'>%4</b>")
        .arg(css(r.soft), from, css(r.blue), to);
  };
  for (std::size_t i = 0; i < group.changes.size() && i < kMost; ++i) {
    const Change& change = changes_[group.changes[i]];
    QString cells;
    for (const CellChange& c : change.cells) {
      if (group.action == Action::Edit && c.column != group.column) continue;
      if (group.action == Action::Remove && c.from.isNull()) continue;
      if (!cells.isEmpty()) cells += QStringLiteral(" &nbsp;·&nbsp; ");
      if (group.action == Action::Remove) {
        cells +=
            QStringLiteral("<span style='color:%1'>%2</span> <s>%3</s>")
                .arg(css(r.soft), toQ(c.column).toHtmlEscaped(), shown(group.table, c.column, c.from).toHtmlEscaped());
      } else {
        if (group.action == Action::Add)
          cells += QStringLiteral("<span style='color:%1'>%2</span> ").arg(css(r.soft), toQ(c.column).toHtmlEscaped());
        cells += cellText(c, group.action == Action::Add);
      }
    }
    if (cells.isEmpty())
      cells = QStringLiteral("<i style='color:%1'>%2</i>")
                  .arg(css(r.faint),
                       group.action == Action::Remove ? tr("whatever it holds") : tr("all set by the database"));
    const QString name =
        QStringLiteral("<a href='%1' style='color:%2'>%3</a>")
            .arg(QString::number(group.changes[i]), css(r.ink), recordName(group.changes[i]).toHtmlEscaped());
    const QString origin = toQ(list_.origins.inWords(group.changes[i])).toHtmlEscaped();
    const QString below =
        origin.isEmpty() ? QString() : QStringLiteral("<br><span style='color:%1'>%2</span>").arg(css(r.soft), origin);
    if (const auto said = placed_.ofEach.find(group.changes[i]); said != placed_.ofEach.end()) {
      for (const std::size_t one : said->second) cells += commentLine(one, {});
    }
    const QString aside = QStringLiteral("<a href='c%1' style='color:%2; text-decoration:none'>%3</a>")
                              .arg(group.changes[i])
                              .arg(css(r.faint), tr("comment"));
    html += recordLine(name + below, cells, aside);
  }
  html += QStringLiteral("</table>");
  auto* label = new QLabel(html);
  label->setObjectName("groupRecords");
  label->setTextFormat(Qt::RichText);
  label->setWordWrap(true);
  label->setAlignment(Qt::AlignTop | Qt::AlignLeft);
  label->setToolTip(tr("The record's name leads to it in its sheet; Shift+F7 leads back."));
  // What is shown here may be built anew by what follows.
  connect(label, &QLabel::linkActivated, this, [this, column = group.column](const QString& link) {
    bool isRecord = false;
    const uint change = link.toUInt(&isRecord);
    if (!isRecord || change >= refs_.size()) return followLink(link);
    QMetaObject::invokeMethod(
        this, [this, ref = refs_[change], column] { emit recordAsked(ref, column); }, Qt::QueuedConnection);
  });
  detail_->addWidget(label);
  if (group.changes.size() > kMost) {
    auto* more = new QLabel(tr("and %n more", "", static_cast<int>(group.changes.size() - kMost)));
    more->setStyleSheet(QStringLiteral("color: %1;").arg(css(r.soft)));
    detail_->addWidget(more);
  }
}

void ReviewPage::addStatements(const ChangeGroup& group) {
  QString text;
  int count = 0;
  if (review_) {
    for (const ReviewStatement& s : review_->statements) {
      const bool ours = std::any_of(s.changes.begin(), s.changes.end(), [&](std::uint32_t c) {
        return std::binary_search(group.changes.begin(), group.changes.end(), c);
      });
      if (!ours) continue;
      if (++count > 50) continue;
      constexpr qsizetype kMostShown = 2000;
      const QString sql = toQ(s.sql);
      text += sql.left(kMostShown);
      if (sql.size() > kMostShown) {
        text += tr("… (%1 more characters; the whole of it is in the saved script)")
                    .arg(QLocale().toString(sql.size() - kMostShown));
      }
      text += QStringLiteral("\n\n");
    }
  }
  auto* box = new QFrame;
  box->setObjectName("side");
  box->setStyleSheet(QStringLiteral("QFrame#side { background: %1; border: 0; border-left: 3px double %2; }")
                         .arg(css(roles().side), css(roles().marginRule)));
  auto* layout = new QVBoxLayout(box);
  auto* label = new QLabel(text.isEmpty() ? tr("The statements are there after the rehearsal.") : text.trimmed());
  label->setObjectName("groupStatements");
  label->setFont(mono());
  label->setTextFormat(Qt::PlainText);
  label->setWordWrap(true);
  label->setTextInteractionFlags(Qt::TextSelectableByMouse | Qt::TextSelectableByKeyboard);
  layout->addWidget(label);
  detail_->addWidget(box);
  if (count > 50) detail_->addWidget(new QLabel(tr("and %n more statement(s)", "", count - 50)));
}

void ReviewPage::addEffects(const ChangeGroup& group) {
  QString html;
  int count = 0;
  if (review_) {
    for (const Effect& e : review_->effects) {
      if (!std::binary_search(group.changes.begin(), group.changes.end(), e.change)) continue;
      if (++count > 200) continue;
      QString line;
      const QString table = toQ(e.table.name).toHtmlEscaped();
      if (e.kind == Effect::Kind::CascadeRemove) {
        line = tr("%1: takes %n record(s) of <b>%2</b> along", "", static_cast<int>(e.rows))
                   .arg(recordName(e.change).toHtmlEscaped(), table);
      } else if (e.kind == Effect::Kind::CascadeSet) {
        line = tr("%1: sets %2 in %n record(s) of <b>%3</b>", "", static_cast<int>(e.rows))
                   .arg(recordName(e.change).toHtmlEscaped(), toQ(e.column).toHtmlEscaped(), table);
      } else {
        line = tr("%1: %2 becomes %3")
                   .arg(recordName(e.change).toHtmlEscaped(), toQ(e.column).toHtmlEscaped(),
                        shown(e.table, e.column, e.to).toHtmlEscaped());
      }
      html += QStringLiteral("<div style='margin-bottom:6px'>%1</div>").arg(line);
    }
  }
  if (count > 200) html += tr("and %n more", "", count - 200);
  if (count == 0)
    html = review_ ? tr("Nothing besides what is written here.") : tr("This is known after the rehearsal.");
  if (review_ && !review_->usedUp.empty()) {
    html += QStringLiteral("<div style='color:%1'>%2.</div>")
                .arg(css(roles().soft), toQ(usedUpInWords(*review_)).toHtmlEscaped());
  }
  auto* label = new QLabel(html);
  label->setTextFormat(Qt::RichText);
  label->setObjectName("groupEffects");
  label->setWordWrap(true);
  detail_->addWidget(label);
}

void ReviewPage::putGroupBack() {
  const int row = currentGroup();
  if (row < 0 || row >= static_cast<int>(groups_.size())) return;
  const ChangeGroup& group = groups_[static_cast<std::size_t>(row)];
  const QString title = tr("Put back: %1").arg(groupTitle(group));
  if (group.action == Action::Edit) {
    std::vector<CellEdit> cells;
    for (const std::uint32_t c : group.changes) cells.push_back({refs_[c], group.column, {}, {}});
    desk_.staged().putBackCells(title, cells);
    return;
  }
  std::vector<RecordRef> records;
  for (const std::uint32_t c : group.changes) records.push_back(refs_[c]);
  desk_.staged().putBack(title, records);
}

}  // namespace iterandum
