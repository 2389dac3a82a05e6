// MainWindow: what stands beside the catalogue: first words, saved scopes, what was left staged, what was applied.
#include <QUrl>

#include "app/catalogue/catalogue_page.h"
#include "app/style/moments.h"
#include "app/style/roles.h"
#include "app/window/main_window.h"

namespace iterandum {
namespace {

constexpr const char* kTips = "tips";

QString asideHead(const QString& text) {
  return QStringLiteral(
             "<p style='font-family:\"%1\"; font-size:%2pt; margin:14px 0 4px 0; border-bottom:1px solid'>%3</p>")
      .arg(serif().family())
      .arg(serif(1.1).pointSizeF())
      .arg(text.toHtmlEscaped());
}

// Five things to try, for somebody who is here for the first time.
QStringList firstWords() {
  const QString tips[] = {
      MainWindow::tr("<b>Type into a cell.</b> The old value is struck, the new one stands beside it. Nothing is "
                     "written yet."),
      MainWindow::tr("<b>Type below a column's name</b> to see only some records: <i>Har</i>, <i>&gt;= 3</i>, <i>no "
                     "value</i>."),
      MainWindow::tr("<b>Select several cells.</b> The line below the sheet says what they are, and what can be done."),
      MainWindow::tr("<b>Click with the right button</b>, or on the database's name: all there is, with its keys."),
      MainWindow::tr("<b>Review</b> shows what would change; <b>Apply</b> writes all of it at once; the history takes "
                     "it back.")};
  QStringList html{asideHead(MainWindow::tr("Five things to try"))};
  for (const QString& tip : tips) html << QStringLiteral("<p style='margin:5px 0'>%1</p>").arg(tip);
  html << QStringLiteral("<p style='margin:5px 0'><a href='seen:tips' style='color:%1'>%2</a></p>")
              .arg(css(roles().blue), MainWindow::tr("Seen; not again"));
  return html;
}

struct Aside {
  std::vector<KeptReceipt> receipts;
  bool tipsSeen = false;
};

}  // namespace

void MainWindow::updateAside() {
  storeThread_->post(
      this,
      [address = desk_->info().address](Store& store) -> Result<Aside> {
        Aside aside;
        ITERANDUM_ASSIGN(aside.receipts, store.receipts(address));
        ITERANDUM_ASSIGN(aside.tipsSeen, store.wasSeen(kTips));
        return aside;
      },
      [this](Result<Aside>&& aside) {
        if (!desk_ || !aside) return;
        const Roles& r = roles();
        QStringList html;
        if (!aside->tipsSeen) html << firstWords();
        if (!desk_->kept().scopes().empty()) html << asideHead(tr("Saved scopes"));
        for (const SavedScope& saved : desk_->kept().scopes()) {
          const QString target = QString::fromLatin1(QUrl::toPercentEncoding(toQ(saved.name)));
          html << QStringLiteral(
                      "<p style='margin:6px 0'><a href='scope:%1' style='color:%2'>%3</a><br>"
                      "<span style='color:%4'>%5</span></p>")
                      .arg(target, css(r.blue), toQ(saved.name).toHtmlEscaped(), css(r.soft),
                           toQ(saved.scope.table).toHtmlEscaped());
        }
        const StagedCounts counts = desk_->changes().counts();
        if (counts.any()) {
          html << asideHead(tr("Left staged"));
          html << QStringLiteral("<p style='margin:2px 0'>%1</p>")
                      .arg(tr("%n record(s)", "", static_cast<int>(counts.records())));
        }
        constexpr std::size_t kMostShown = 8;
        if (!aside->receipts.empty()) html << asideHead(tr("Applied lately"));
        for (std::size_t i = 0; i < aside->receipts.size() && i < kMostShown; ++i) {
          const KeptReceipt& k = aside->receipts[i];
          const QString title = k.title.empty() ? tr("(no title)") : toQ(k.title);
          html << QStringLiteral("<p style='margin:6px 0'>%1<br><span style='color:%2'>%3 · %4</span></p>")
                      .arg(title.toHtmlEscaped(), css(r.soft), momentInWords(k.appliedAt),
                           tr("%n record(s)", "", static_cast<int>(k.changes)));
        }
        catalogue_->setAside(html);
      });
}

void MainWindow::forgetTips() {
  storeThread_->post(
      this, [](Store& store) { return store.rememberSeen(kTips); },
      [this](Status&& kept) {
        if (!kept) say(toQ(kept.error().text()));
        if (desk_) updateAside();
      });
}

}  // namespace iterandum
