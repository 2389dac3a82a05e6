// ReviewPage: what was said of what is reviewed, and saying something of it.
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>

#include "app/review/comment_box.h"
#include "app/review/review_page.h"
#include "app/style/moments.h"
#include "app/style/roles.h"
#include "app/values/shown_value.h"
#include "core/apply/apply.h"
#include "core/value/visible_text.h"

namespace iterandum {

void ReviewPage::buildComments(QHBoxLayout* chipRow, QVBoxLayout* page) {
  comment_ = new QPushButton(tr("Comment…"), this);
  comment_->setObjectName("commentOnGroup");
  comment_->setToolTip(tr(
      "Says something of this group, of a record or of all of it, for whoever reviews or applies it (Ctrl+Shift+W)"));
  chipRow->addWidget(comment_);
  commentBox_ = new CommentBox(this);
  page->addWidget(commentBox_);
  connect(comment_, &QPushButton::clicked, this, [this] { openComment(); });
  connect(commentBox_, &CommentBox::closed, comment_, qOverload<>(&QWidget::setFocus));
  connect(commentBox_, &CommentBox::written, this, [this](Comment comment) {
    comment.by = systemUserName();
    comment.at = nowUtc();
    if (comment.words.size() > kLongestComment) return emit said(tr("This is longer than a comment is."));
    desk_.kept().addComments({comment});
    emit told(tr("Said. It goes with the change file and stays on the receipt."));
  });
  connect(&desk_.kept(), &KeptSettings::commentsChanged, this, [this] {
    if (isVisible()) showGroups();
  });
}

void ReviewPage::openComment(std::optional<std::uint32_t> change) {
  std::vector<CommentBox::Place> places;
  const int row = currentGroup();
  if (change) {
    Change of = changes_[*change];
    if (of.action == Action::Add) of.label = addedLabel(refs_[*change].addedId);
    places.push_back({recordName(*change), placeOf(of)});
  }
  if (row >= 0 && row < static_cast<int>(groups_.size())) {
    const ChangeGroup& group = groups_[static_cast<std::size_t>(row)];
    places.push_back({groupTitle(group), placeOf(group)});
  }
  if (list_.empty()) return emit said(tr("Nothing is staged of which something could be said."));
  places.push_back({tr("all of it"), {}});
  commentBox_->open(places);
}

// The labels of new records that comments are about.
std::set<std::string> ReviewPage::spokenOf() const {
  std::set<std::string> out;
  for (const Comment& comment : desk_.kept().comments()) {
    if (comment.about.kind == CommentPlace::Kind::NewRecord) out.insert(comment.about.label);
  }
  return out;
}

void ReviewPage::placeAllComments() {
  comments_ = desk_.kept().comments();
  placed_ = placeComments(comments_, groups_, list_);
}

std::size_t ReviewPage::commentsOf(int index) const {
  const auto at = static_cast<std::size_t>(index);
  std::size_t out = placed_.ofGroups[at].size();
  for (const auto& [change, said] : placed_.ofEach) {
    const std::vector<std::uint32_t>& changes = groups_[at].changes;
    if (std::binary_search(changes.begin(), changes.end(), change)) out += said.size();
  }
  return out;
}

// One comment as HTML: who and when, then the words. It can be taken out again.
QString ReviewPage::commentLine(std::size_t index, const QString& of) const {
  const Roles& r = roles();
  const Comment& comment = comments_[index];
  QString head =
      toQ(visibleText(comment.by)).toHtmlEscaped() + QStringLiteral(", ") + momentInWords(comment.at).toHtmlEscaped();
  if (!of.isEmpty()) head += QStringLiteral(", ") + of.toHtmlEscaped();
  const QString out = comment.by == systemUserName() ? tr("take it back") : tr("leave it out");
  head += QStringLiteral(" · <a href='x%1' style='color:%2'>%3</a>").arg(index).arg(css(r.soft), out);
  QStringList lines;
  for (const QString& line : toQ(comment.words).split(QLatin1Char('\n')))
    lines << toQ(visibleText(line.toStdString())).toHtmlEscaped();
  const QString words = lines.join(QStringLiteral("<br>"));
  return QStringLiteral("<div style='margin-bottom:6px'><span style='color:%1'>%2</span><br>%3</div>")
      .arg(css(r.soft), head, words);
}

void ReviewPage::addComments(int index, std::size_t shownRecords) {
  QString html;
  for (const std::size_t one : placed_.ofAll) {
    const std::string of = inWords(comments_[one].about);
    html += commentLine(one, of.empty() ? tr("of all of it") : tr("of what is not reviewed here: %1").arg(toQ(of)));
  }
  const auto at = static_cast<std::size_t>(index);
  for (const std::size_t one : placed_.ofGroups[at]) html += commentLine(one, {});
  // Those on records stand beside them, as far as these are shown.
  const std::vector<std::uint32_t>& changes = groups_[at].changes;
  for (const auto& [change, said] : placed_.ofEach) {
    const auto found = std::lower_bound(changes.begin(), changes.end(), change);
    if (found == changes.end() || *found != change) continue;
    if (static_cast<std::size_t>(found - changes.begin()) < shownRecords) continue;
    for (const std::size_t one : said) html += commentLine(one, tr("of %1").arg(recordName(change)));
  }
  if (html.isEmpty()) return;
  auto* box = new QFrame;
  box->setObjectName("side");
  box->setStyleSheet(QStringLiteral("QFrame#side { background: %1; border: 0; border-left: 3px double %2; }")
                         .arg(css(roles().side), css(roles().marginRule)));
  auto* layout = new QVBoxLayout(box);
  auto* label = new QLabel(html);
  label->setObjectName("groupComments");
  label->setTextFormat(Qt::RichText);
  label->setWordWrap(true);
  connect(label, &QLabel::linkActivated, this, &ReviewPage::followLink);
  layout->addWidget(label);
  detail_->addWidget(box);
}

// "c7": says something of change 7; "x2": takes comment 2 back. What is meant is taken from the page as it is now;
// done is it afterwards, for the page is built anew by it.
void ReviewPage::followLink(const QString& link) {
  const auto number = link.mid(1).toUInt();
  if (link.startsWith(QLatin1Char('c')) && number < changes_.size()) return openComment(number);
  if (!link.startsWith(QLatin1Char('x')) || number >= comments_.size()) return;
  QMetaObject::invokeMethod(
      this, [this, comment = comments_[number]] { desk_.kept().takeBackComment(comment); }, Qt::QueuedConnection);
}

}  // namespace iterandum
