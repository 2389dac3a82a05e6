#include "app/window/rail.h"

#include <QBuffer>
#include <QHBoxLayout>
#include <QLabel>
#include <QLocale>
#include <QPushButton>

#include "app/style/database_marks.h"
#include "app/style/marks.h"
#include "app/style/roles.h"

namespace iterandum {
namespace {

// A mark inside rich text.
QString markImage(Mark mark, const QColor& color) {
  QByteArray bytes;
  QBuffer buffer(&bytes);
  buffer.open(QIODevice::WriteOnly);
  markPixmap(mark, color, 2).save(&buffer, "PNG");
  return QStringLiteral("<img width='14' height='14' src='data:image/png;base64,%1'> ")
      .arg(QString::fromLatin1(bytes.toBase64()));
}

}  // namespace

Rail::Rail(QWidget* parent) : QWidget(parent) {
  setObjectName("rail");
  setAttribute(Qt::WA_StyledBackground);
  setFixedHeight(52);
  auto* layout = new QHBoxLayout(this);
  layout->setContentsMargins(18, 0, 16, 0);
  layout->setSpacing(12);
  mark_ = new QLabel(this);
  mark_->setObjectName("railMark");
  mark_->setTextFormat(Qt::PlainText);
  counts_ = new QLabel(this);
  counts_->setObjectName("railCounts");
  counts_->setTextFormat(Qt::RichText);
  last_ = new ElidedLabel(this);
  last_->setObjectName("railLast");
  layout->addWidget(counts_);
  layout->addWidget(last_, 1);
  const auto button = [&](const QString& text, const char* name, auto signal) {
    auto* b = new QPushButton(text, this);
    b->setObjectName(QLatin1String(name));
    connect(b, &QPushButton::clicked, this, signal);
    layout->addWidget(b);
    return b;
  };
  undo_ = button(tr("Undo"), "railUndo", &Rail::undoAsked);
  stop_ = button(tr("Stop"), "railStop", &Rail::stopAsked);
  rehearse_ = button(tr("Rehearse again"), "railRehearse", &Rail::rehearseAsked);
  putBack_ = button(tr("Put all back"), "railPutBack", &Rail::putAllBackAsked);
  save_ = button(tr("Save as change file"), "railSave", &Rail::saveAsked);
  layout->addWidget(mark_, 0, Qt::AlignVCenter);
  review_ = button(tr("Review →"), "main", &Rail::reviewAsked);
  apply_ = button(tr("Apply"), "main", &Rail::applyAsked);
  review_->setAccessibleName(tr("Review"));
  undo_->setToolTip(tr("Takes the last act back (Ctrl+Z)"));
  stop_->setToolTip(tr("Stops it; nothing is written"));
  rehearse_->setToolTip(tr("Looks at the records in the database again (Ctrl+Shift+R)"));
  putBack_->setToolTip(tr("All that is staged is no longer wanted; nothing was written (Ctrl+Shift+Backspace)"));
  save_->setToolTip(tr("What is staged as a file, to be applied elsewhere or later (Ctrl+S)"));
  review_->setToolTip(tr("Read over what would change, before anything is written (Ctrl+R)"));
  apply_->setToolTip(tr("Writes all of it, or nothing (Ctrl+Shift+Enter)"));
  // Review and Apply are never off the screen; all that gives way is in the menu of everything too.
  room_ = new GivingWay(this);
  room_->add(last_, 0);
  room_->add(save_, 1);
  room_->add(putBack_, 2);
  room_->add(rehearse_, 3);
  room_->add(undo_, 4);
  room_->add(mark_, 5);
  room_->add(counts_, 6);
  room_->add(stop_, 7);
  room_->add(review_, 8);
  room_->add(apply_, 9);
}

void Rail::show(const RailState& state) {
  const Roles& r = roles();
  const StagedCounts& c = state.counts;
  QStringList parts;
  const auto part = [&](Mark mark, const QColor& color, const QString& text) {
    parts << markImage(mark, color) +
                 QStringLiteral("<span style='color:%1'>%2</span>").arg(css(color), text.toHtmlEscaped());
  };
  if (c.cells > 0) {
    part(Mark::Changed, r.onStrip,
         tr("%n cell(s)", "", static_cast<int>(c.cells)) + tr(" in %n record(s)", "", static_cast<int>(c.edited)));
  }
  if (c.added > 0) part(Mark::Added, r.onStrip, tr("%n new", "", static_cast<int>(c.added)));
  if (c.removed > 0) part(Mark::Removed, r.onStrip, tr("%n removed", "", static_cast<int>(c.removed)));
  if (state.needLook > 0)
    part(Mark::Query, r.onStripQuery, tr("%n need(s) a look", "", static_cast<int>(state.needLook)));
  if (parts.isEmpty()) {
    parts << QStringLiteral("<span style='color:%1'>%2</span>")
                 .arg(css(r.onStripSoft),
                      (state.readOnly.isEmpty() ? tr("Nothing is staged.")
                                                : tr("Nothing can be changed here: %1.").arg(state.readOnly))
                          .toHtmlEscaped());
  }
  counts_->setText(parts.join(QStringLiteral("&nbsp;&nbsp;&nbsp;&nbsp;")));
  QString text =
      state.onReview ? state.reviewState : (state.last.isEmpty() ? QString() : tr("last: %1").arg(state.last));
  last_->setStyleSheet(QStringLiteral("color: %1;").arg(css(r.onStripSoft)));
  last_->say(text);
  room_->setWanted(mark_, !state.markName.isEmpty());
  mark_->setText(state.markName);
  mark_->setAccessibleName(tr("This database is marked: %1").arg(state.markName));
  mark_->setStyleSheet(markStyle(state.markColour));
  const bool any = c.any();
  room_->setWanted(undo_, state.canUndo && !state.onReview);
  room_->setWanted(stop_, state.onReview && state.busy);
  room_->setWanted(rehearse_, state.onReview && any && !state.busy);
  room_->setWanted(putBack_, any && !state.onReview);
  room_->setWanted(save_, state.onReview && any);
  room_->setWanted(review_, !state.onReview);
  review_->setEnabled(any);
  room_->setWanted(apply_, state.onReview);
  apply_->setEnabled(state.ready && any && state.readOnly.isEmpty());
  apply_->setText(state.partRecords ? tr("Apply this part, %n record(s)", "", static_cast<int>(*state.partRecords))
                                    : tr("Apply to %n record(s)", "", static_cast<int>(c.records())));
}

}  // namespace iterandum
