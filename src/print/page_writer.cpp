#include "print/page_writer.h"

#include <QDate>
#include <QFontMetricsF>
#include <QLocale>
#include <algorithm>
#include <cmath>
#include <numeric>

#include "core/value/visible_text.h"

namespace iterandum {
namespace {

constexpr std::size_t kThatSettle = 500;
constexpr int kDots = 300;  // of an inch
constexpr double kPoint = kDots / 72.0;
constexpr double kGap = 4 * kPoint;     // beside what a cell holds
constexpr double kSlack = 2 * kPoint;   // measures are not the same to a hair on every device
constexpr double kAround = 2 * kPoint;  // above and below it
constexpr double kLine = 0.4 * kPoint;
constexpr double kNarrowest = 24 * kPoint;
const QColor kInk(0x22, 0x22, 0x22);
const QColor kSoft(0x66, 0x66, 0x66);
const QColor kRule(0xB8, 0xB0, 0xA0);

QString toQ(const std::string& text) { return QString::fromStdString(text); }

int flagsOf(bool isNumber) {
  return static_cast<int>(isNumber ? Qt::AlignRight : Qt::AlignLeft) | static_cast<int>(Qt::AlignTop) |
         static_cast<int>(Qt::TextWrapAnywhere) | static_cast<int>(Qt::TextWordWrap);
}

}  // namespace

PageWriter::PageWriter(RecordForm form, QIODevice& device)
    : form_(std::move(form)),
      pdf_(&device),
      text_(QStringLiteral("Inter"), 8),
      head_(QStringLiteral("Inter"), 8, QFont::DemiBold),
      title_(QStringLiteral("EB Garamond"), 15) {
  // Letters that a face puts in the place of others, as for a hyphen between capitals, have no text to be searched for.
  for (QFont* font : {&text_, &head_, &title_}) font->setStyleStrategy(QFont::PreferNoShaping);
  pdf_.setResolution(kDots);
  pdf_.setTitle(toQ(form_.title));
  pdf_.setCreator(QStringLiteral("Iterandum"));
  for (const Column& column : form_.columns) {
    const bool isNumber =
        column.type == TypeClass::Integer || column.type == TypeClass::Real || column.type == TypeClass::Decimal;
    heads_.push_back({toQ(visibleText(column.name)), false, isNumber});
  }
}

PageWriter::Cell PageWriter::cellOf(const Value& value, bool ofNumbers) {
  if (value.isNull()) return {QStringLiteral("no value"), true, ofNumbers};
  if (value.isString() && value.asString().empty()) return {QStringLiteral("empty text"), true, ofNumbers};
  if (value.kind() == Value::Kind::Bytes) {
    return {QStringLiteral("%1 bytes").arg(value.asString().size()), true, ofNumbers};
  }
  return {toQ(canonicalText(value)), false, ofNumbers};
}

std::vector<double> PageWriter::naturalWidths() const {
  const QFontMetricsF metrics(text_, &pdf_);
  const QFontMetricsF heads(head_, &pdf_);
  std::vector<double> out;
  for (const Cell& cell : heads_) out.push_back(heads.horizontalAdvance(cell.text));
  for (const Row& row : waiting_) {
    for (std::size_t c = 0; c < row.size(); ++c) {
      // Long texts go on in the next line; there is no need for all of their width.
      out[c] = std::max(out[c], metrics.horizontalAdvance(row[c].text.left(200).section(QLatin1Char('\n'), 0, 0)));
    }
  }
  for (double& width : out) width = std::max(width + 2 * kGap + kSlack, kNarrowest);
  return out;
}

void PageWriter::settle() {
  settled_ = true;
  const QMarginsF margins(15, 15, 15, 18);
  const auto layout = [&](QPageLayout::Orientation how) {
    return QPageLayout(QPageSize(QPageSize::A4), how, margins, QPageLayout::Millimeter);
  };
  pdf_.setPageLayout(layout(QPageLayout::Portrait));
  widths_ = naturalWidths();
  const double wanted = std::accumulate(widths_.begin(), widths_.end(), 0.0);
  if (wanted > pdf_.width()) pdf_.setPageLayout(layout(QPageLayout::Landscape));
  // What is wide gives way first: the widest are cut to one width until all of them fit.
  const auto all = static_cast<double>(pdf_.width());
  double low = 0;
  double high = wanted;
  for (int i = 0; i < 60 && wanted > all; ++i) {
    const double most = (low + high) / 2;
    const double sum = std::accumulate(widths_.begin(), widths_.end(), 0.0,
                                       [&](double out, double width) { return out + std::min(width, most); });
    (sum > all ? high : low) = most;
  }
  for (double& width : widths_) {
    if (wanted > all) width = std::min(width, low);
    // A page that lies is filled.
    if (wanted < all && wanted > 0.6 * all) width *= all / wanted;
  }
  painter_ = std::make_unique<QPainter>(&pdf_);
  painter_->setFont(head_);
  headHeight_ = heightOf(heads_);
  painter_->setFont(text_);
  beginPage();
}

double PageWriter::room() const { return pdf_.height() - 14 * kPoint; }

double PageWriter::heightOf(const Row& row) const {
  double height = 0;
  for (std::size_t c = 0; c < row.size(); ++c) {
    const QRectF around(0, 0, std::max(widths_[c] - 2 * kGap, 1.0), 1e9);
    height = std::max(height, painter_->boundingRect(around, flagsOf(row[c].isNumber), row[c].text).height());
  }
  return std::max(height, QFontMetricsF(text_, &pdf_).height()) + 2 * kAround;
}

void PageWriter::beginPage() {
  if (page_++ > 0) pdf_.newPage();
  at_ = 0;
  if (page_ == 1 && !form_.title.empty()) {
    painter_->setFont(title_);
    painter_->setPen(kInk);
    const QRectF place(0, 0, pdf_.width(), pdf_.height() / 2.0);
    const QString title = toQ(visibleText(form_.title));
    painter_->drawText(place, flagsOf(false), title);
    at_ = painter_->boundingRect(place, flagsOf(false), title).height() + 8 * kPoint;
  }
  drawHeads();
}

void PageWriter::drawHeads() {
  painter_->setFont(head_);
  painter_->setPen(kInk);
  double x = 0;
  for (std::size_t c = 0; c < heads_.size(); ++c) {
    drawCell(heads_[c], QRectF(x, at_, widths_[c], headHeight_), 0);
    x += widths_[c];
  }
  at_ += headHeight_;
  painter_->setPen(QPen(kInk, 2 * kLine));
  painter_->drawLine(QPointF(0, at_), QPointF(x, at_));
  painter_->setFont(text_);
}

// `from`: how much of it stood on the pages before.
void PageWriter::drawCell(const Cell& cell, const QRectF& place, double from) {
  painter_->setPen(cell.isNone ? kSoft : kInk);
  const QRectF inside = place.adjusted(kGap, kAround, -kGap, -kAround);
  if (from <= 0) {
    painter_->drawText(inside, flagsOf(cell.isNumber), cell.text);
    return;
  }
  painter_->save();
  painter_->setClipRect(inside);
  painter_->drawText(QRectF(inside.left(), inside.top() - from, inside.width(), 1e9), flagsOf(cell.isNumber),
                     cell.text);
  painter_->restore();
}

void PageWriter::finishPage() {
  painter_->setFont(text_);
  painter_->setPen(kSoft);
  const QRectF below(0, pdf_.height() - 10 * kPoint, pdf_.width(), 12 * kPoint);
  painter_->drawText(below, Qt::AlignLeft, QLocale::c().toString(QDate::currentDate(), QStringLiteral("yyyy-MM-dd")));
  painter_->drawText(below, Qt::AlignRight, QStringLiteral("page %1").arg(page_));
}

void PageWriter::draw(const Row& row) {
  const double height = heightOf(row);
  if (at_ + height > room()) {
    finishPage();
    beginPage();
  }
  // What is higher than a page goes on over the next ones, line by line.
  const double lines = QFontMetricsF(text_, &pdf_).lineSpacing();
  double done = 0;
  while (true) {
    const double left = height - done;
    double here = std::min(left, room() - at_);
    if (here < left) here = std::max(std::floor((here - 2 * kAround) / lines), 1.0) * lines + 2 * kAround;
    double x = 0;
    painter_->save();
    if (here < left) painter_->setClipRect(QRectF(0, at_, pdf_.width(), here));
    for (std::size_t c = 0; c < row.size(); ++c) {
      drawCell(row[c], QRectF(x, at_, widths_[c], here), done);
      x += widths_[c];
    }
    painter_->restore();
    at_ += here;
    done += here - (here < left ? 2 * kAround : 0);
    painter_->setPen(QPen(kRule, kLine));
    painter_->drawLine(QPointF(0, at_), QPointF(x, at_));
    if (here >= left) return;
    finishPage();
    beginPage();
  }
}

Status PageWriter::begin() { return {}; }

Status PageWriter::record(const ValueTuple& values) {
  Row row;
  for (std::size_t c = 0; c < values.size(); ++c) row.push_back(cellOf(values[c], heads_[c].isNumber));
  if (settled_) {
    draw(row);
    return {};
  }
  waiting_.push_back(std::move(row));
  if (waiting_.size() < kThatSettle) return {};
  settle();
  for (const Row& one : waiting_) draw(one);
  waiting_.clear();
  return {};
}

Status PageWriter::end() {
  if (!settled_) {
    settle();
    for (const Row& row : waiting_) draw(row);
  }
  finishPage();
  if (painter_->end()) return {};
  return fail(ErrorKind::InvalidFile, "the document cannot be written");
}

}  // namespace iterandum
