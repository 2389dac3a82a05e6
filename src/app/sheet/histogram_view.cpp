#include "app/sheet/histogram_view.h"

#include <QHelpEvent>
#include <QKeyEvent>
#include <QLocale>
#include <QPainter>
#include <QToolTip>
#include <algorithm>

#include "app/style/roles.h"

namespace iterandum {
namespace {
constexpr int kBarsHeight = 84;
constexpr int kTextHeight = 20;
constexpr int kEdge = 6;
}  // namespace

HistogramView::HistogramView(QWidget* parent) : QWidget(parent) {
  setObjectName("histogram");
  setFocusPolicy(Qt::StrongFocus);
  setFixedHeight(kBarsHeight + 2 * kTextHeight + 8);
  setAccessibleName(tr("How the values are spread"));
}

void HistogramView::show(const Histogram& histogram, std::function<QString(const std::string& edge)> label) {
  bars_ = histogram.bars();
  label_ = std::move(label);
  setCurrent(0);
  update();
}

void HistogramView::setCurrent(int bar) {
  current_ = std::clamp(bar, 0, std::max(0, static_cast<int>(bars_.size()) - 1));
  if (!bars_.empty()) setAccessibleDescription(words(current_));
  update();
}

QString HistogramView::words(int bar) const {
  const Histogram::Bar& b = bars_[static_cast<std::size_t>(bar)];
  return tr("%1 up to below %2: %n record(s)", "", static_cast<int>(b.records)).arg(label_(b.from), label_(b.to));
}

QRect HistogramView::barRect(int bar) const {
  const int room = width() - 2 * kEdge;
  const auto count = static_cast<int>(bars_.size());
  const int left = kEdge + room * bar / count;
  const int right = kEdge + room * (bar + 1) / count;
  return {left, kTextHeight, std::max(1, right - left), kBarsHeight};
}

int HistogramView::barAt(int x) const {
  for (int b = 0; b < static_cast<int>(bars_.size()); ++b) {
    if (x >= barRect(b).left() && x <= barRect(b).right()) return b;
  }
  return -1;
}

void HistogramView::paintEvent(QPaintEvent*) {
  if (bars_.empty()) return;
  const Roles& r = roles();
  QPainter painter(this);
  std::uint64_t most = 1;
  for (const Histogram::Bar& bar : bars_) most = std::max(most, bar.records);
  painter.setFont(plain(0.9));
  painter.setPen(r.soft);
  painter.drawText(QRect(kEdge, 0, width() - 2 * kEdge, kTextHeight), Qt::AlignLeft | Qt::AlignVCenter,
                   hasFocus() ? words(current_) : tr("How it is spread"));
  for (int b = 0; b < static_cast<int>(bars_.size()); ++b) {
    const QRect box = barRect(b).adjusted(0, 0, -1, 0);
    const auto records = bars_[static_cast<std::size_t>(b)].records;
    // A bar of few records is still seen: those are often the ones that are looked for.
    const int height =
        records == 0
            ? 0
            : std::max(2, static_cast<int>(static_cast<double>(records) * kBarsHeight / static_cast<double>(most)));
    const bool current = hasFocus() && b == current_;
    if (current) painter.fillRect(box, r.blueWash);
    painter.fillRect(QRect(box.left(), box.bottom() - height + 1, box.width(), height), current ? r.blue : r.soft);
  }
  painter.setPen(r.strongRule);
  const int base = kTextHeight + kBarsHeight;
  painter.drawLine(kEdge, base, width() - kEdge, base);
  painter.setPen(r.soft);
  const QRect below(kEdge, base + 2, width() - 2 * kEdge, kTextHeight);
  painter.drawText(below, Qt::AlignLeft | Qt::AlignTop, label_(bars_.front().from));
  painter.drawText(below, Qt::AlignRight | Qt::AlignTop, label_(bars_.back().to));
}

void HistogramView::choose(int bar) {
  if (bar < 0 || bar >= static_cast<int>(bars_.size())) return;
  emit chosen(QString::fromStdString(bars_[static_cast<std::size_t>(bar)].condition()));
}

void HistogramView::mousePressEvent(QMouseEvent* event) {
  setCurrent(barAt(event->pos().x()));
  choose(barAt(event->pos().x()));
}

void HistogramView::keyPressEvent(QKeyEvent* event) {
  switch (event->key()) {
    case Qt::Key_Left:
      return setCurrent(current_ - 1);
    case Qt::Key_Right:
      return setCurrent(current_ + 1);
    case Qt::Key_Home:
      return setCurrent(0);
    case Qt::Key_End:
      return setCurrent(static_cast<int>(bars_.size()) - 1);
    case Qt::Key_Return:
    case Qt::Key_Enter:
      return choose(current_);
    case Qt::Key_Escape:
      emit left();
      return;
    default:
      QWidget::keyPressEvent(event);
  }
}

bool HistogramView::event(QEvent* event) {
  if (event->type() == QEvent::ToolTip) {
    auto* help = static_cast<QHelpEvent*>(event);
    const int bar = barAt(help->pos().x());
    if (bar >= 0) QToolTip::showText(help->globalPos(), words(bar), this);
    return true;
  }
  if (event->type() == QEvent::FocusIn || event->type() == QEvent::FocusOut) update();
  return QWidget::event(event);
}

}  // namespace iterandum
