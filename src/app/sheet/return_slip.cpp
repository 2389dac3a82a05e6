#include "app/sheet/return_slip.h"

#include <QComboBox>
#include <QFile>
#include <QFileInfo>
#include <QGridLayout>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QSignalBlocker>

#include "app/sheet/listed_changes.h"
#include "app/style/roles.h"
#include "app/style/side_frame.h"

namespace iterandum {

ReturnSlip::ReturnSlip(Desk& desk, QWidget* parent) : SideSlip(parent), desk_(desk) {
  const auto [panel, title, subtitle] = buildPanelHead(this);
  title->setText(tr("Working copies come back"));
  subtitle_ = subtitle;
  QVBoxLayout* layout = addScrolled(panel);
  QGridLayout* grid = newFields();
  word_ = addChoice(grid, tr("Where two disagree"), "copyWord", {tr("leave the cell alone")});
  layout->addSpacing(6);
  layout->addLayout(grid);
  layout->addSpacing(4);
  words_ = newWords("returnWords");
  layout->addWidget(words_);
  lines_ = newList("returnLines", tr("Where they disagree, rows that cannot be brought back, and what would change"));
  layout->addWidget(lines_, 1);
  const PanelFoot foot = buildPanelFoot(this, panel, tr("Stage"), "returnStage");
  stage_ = foot.stage;
  stage_->setEnabled(false);
  connect(stage_, &QPushButton::clicked, this, [this] { finish(); });
  connect(foot.close, &QPushButton::clicked, this, &SideSlip::leaveAsked);
}

void ReturnSlip::open(const QStringList& paths) {
  if (reading_) reading_->cancel();
  copies_.clear();
  catalogue_ = desk_.sharedCatalogue();
  together_.reset();
  lines_->clear();
  stage_->setEnabled(false);
  showField(word_, false);
  QStringList names;
  for (const QString& path : paths) names << QFileInfo(path).fileName();
  subtitle_->setText(names.join(QStringLiteral(", ")));
  say(words_, tr("Reading what was changed…"), false);
  const std::uint64_t asked = ++asked_;
  reading_ = desk_.behind().post(
      this,
      [paths, names, catalogue = catalogue_](Session&, Progress& progress) -> Result<std::vector<ReturnedCopy>> {
        std::vector<ReturnedCopy> out;
        for (qsizetype i = 0; i < paths.size(); ++i) {
          ITERANDUM_ASSIGN(const std::string content, contentOf(paths[i]));
          ITERANDUM_ASSIGN(ReturnedCopy copy, readWorkingCopy(content, names[i].toStdString(), *catalogue, progress));
          out.push_back(std::move(copy));
        }
        return out;
      },
      [this, asked](Result<std::vector<ReturnedCopy>>&& copies) {
        if (asked != asked_) return;
        reading_.reset();
        take(std::move(copies));
      });
}

void ReturnSlip::take(Result<std::vector<ReturnedCopy>>&& copies) {
  if (!copies) return say(words_, toQ(copies.error().text()), true);
  copies_ = std::move(*copies);
  {
    const QSignalBlocker blocker(word_);
    while (word_->count() > 1) word_->removeItem(1);
    for (const ReturnedCopy& copy : copies_) word_->addItem(tr("as in %1").arg(toQ(copy.name)));
    word_->setCurrentIndex(0);
  }
  look();
}

QString ReturnSlip::words(const BroughtTogether& together) const {
  QStringList out{toQ(inWords(together)) + QLatin1Char('.')};
  const std::string here = desk_.info().address;
  for (const ReturnedCopy& copy : copies_) {
    const QString name = toQ(copy.name);
    if (copy.head.database != here)
      out << tr("%1 was handed out from %2, not from this database.").arg(name, toQ(copy.head.database));
    for (const std::string& heading : copy.leftAlone)
      out << tr("The column “%1” of %2 was not handed out: it is left alone.").arg(toQ(heading), name);
    for (const std::string& heading : copy.missing)
      out << tr("The column “%1” is not in %2 any more.").arg(toQ(heading), name);
    if (copy.rows.size() < copy.handedOut) {
      out << tr("%n record(s) that were handed out are not in %1: they stay as they are.", "",
                static_cast<int>(copy.handedOut - copy.rows.size()))
                 .arg(name);
    }
  }
  if (together.counts.failed > 0) out << tr("Rows that fail are left out.");
  return out.join(QLatin1Char('\n'));
}

void ReturnSlip::look() {
  if (copies_.empty()) return;
  const std::optional<std::size_t> preferred =
      word_->currentIndex() > 0 ? std::optional(static_cast<std::size_t>(word_->currentIndex() - 1)) : std::nullopt;
  together_ = bringTogether(copies_, preferred);
  showField(word_, copies_.size() > 1 && !together_->disagreements.empty());
  lines_->clear();
  for (std::size_t i = 0; i < std::min(together_->disagreements.size(), kMostLinesListed); ++i) {
    const Disagreement& split = together_->disagreements[i];
    addLine(lines_, toQ(inWords(split, copies_)), !split.settled);
  }
  for (const ReturnedCopy& copy : copies_) {
    for (const LineOutcome& row : copy.rows) {
      if (!row.failed() || static_cast<std::size_t>(lines_->count()) >= 2 * kMostLinesListed) continue;
      addLine(lines_, tr("%1, row %2: %3").arg(toQ(copy.name)).arg(row.line).arg(toQ(inWords(row, "row"))), true);
    }
  }
  for (const std::string& text : listedChanges(together_->changes, kMostLinesListed)) addLine(lines_, toQ(text), false);
  say(words_, words(*together_), false);
  const auto records = static_cast<int>(together_->counts.changing);
  stage_->setEnabled(records > 0);
  stage_->setText(records == 0 ? tr("Nothing to stage") : tr("Stage %n record(s)", "", records));
}

void ReturnSlip::finish() {
  if (!together_ || !stage_->isEnabled()) return;
  const QString from =
      copies_.size() == 1 ? toQ(copies_.front().name) : tr("%n working copies", "", static_cast<int>(copies_.size()));
  if (!desk_.staged().stageChanges(tr("Corrections from %1").arg(from), together_->changes)) return;
  emit told(tr("%n record(s) staged from what came back.", "", static_cast<int>(together_->counts.changing)));
  together_.reset();
  emit leaveAsked();
}

void ReturnSlip::focusFirst() { (word_->isVisible() ? static_cast<QWidget*>(word_) : lines_)->setFocus(); }

void ReturnSlip::hideEvent(QHideEvent* event) {
  if (reading_) reading_->cancel();
  SideSlip::hideEvent(event);
}

}  // namespace iterandum
