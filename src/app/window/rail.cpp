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
  last_ = new QLabel(this);
  last_->setObjectName("railLast");
  last_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
  last_->setTextFormat(Qt::PlainText);
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
  last_->setToolTip(text);
  last_->setText(text);
  mark_->setVisible(!state.markName.isEmpty());
  mark_->setText(state.markName);
  mark_->setAccessibleName(tr("This database is marked: %1").arg(state.markName));
  mark_->setStyleSheet(markStyle(state.markColour));
  const bool any = c.any();
  undo_->setVisible(state.canUndo && !state.onReview);
  stop_->setVisible(state.onReview && state.busy);
  rehearse_->setVisible(state.onReview && any && !state.busy);
  putBack_->setVisible(any && !state.onReview);
  save_->setVisible(state.onReview && any);
  review_->setVisible(!state.onReview);
  review_->setEnabled(any);
  apply_->setVisible(state.onReview);
  apply_->setEnabled(state.ready && any && state.readOnly.isEmpty());
  apply_->setText(tr("Apply %n change(s)", "", static_cast<int>(c.records())));
}

}  // namespace iterandum
