#include "pages/page_target.h"

#include <QPageSize>

namespace iterandum {
namespace {

constexpr int kDotsAMetre = 11811;  // kDots an inch

}  // namespace

QPageLayout PageTarget::layout(QPageLayout::Orientation how) {
  return {QPageSize(QPageSize::A4), how, QMarginsF(15, 15, 15, 18), QPageLayout::Millimeter};
}

QSizeF PagedTarget::turn(QPageLayout::Orientation how) {
  device_.setPageLayout(layout(how));
  return {static_cast<double>(device_.width()), static_cast<double>(device_.height())};
}

QPainter& PagedTarget::painter() {
  if (!painter_.isActive()) painter_.begin(&device_);
  return painter_;
}

QSizeF PictureTarget::turn(QPageLayout::Orientation how) {
  measured_.setDotsPerMeterX(kDotsAMetre);
  measured_.setDotsPerMeterY(kDotsAMetre);
  layout_ = layout(how);
  return layout_.paintRectPixels(kDots).size();
}

QPainter& PictureTarget::painter() {
  if (!painter_.isActive()) beginPage();
  return painter_;
}

void PictureTarget::beginPage() {
  const QSize whole = layout_.fullRectPixels(kDots).size();
  page_ = QImage(whole * scale_, QImage::Format_RGB32);
  page_.setDotsPerMeterX(kDotsAMetre);
  page_.setDotsPerMeterY(kDotsAMetre);
  page_.fill(Qt::white);
  painter_.begin(&page_);
  painter_.setRenderHints(QPainter::Antialiasing | QPainter::TextAntialiasing);
  painter_.scale(scale_, scale_);
  painter_.translate(layout_.paintRectPixels(kDots).topLeft());
}

bool PictureTarget::next() {
  if (!end()) return false;
  full_ = count_ >= most_;
  if (!full_) beginPage();
  return !full_;
}

bool PictureTarget::end() {
  if (!painter_.isActive()) return true;
  painter_.end();
  ++count_;
  ready_(std::exchange(page_, QImage()));
  return true;
}

}  // namespace iterandum
