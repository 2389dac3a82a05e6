#include "pages/page_writer.h"

#include <QDate>
#include <QFontMetricsF>
#include <QLocale>
#include <QTextOption>
#include <algorithm>
#include <cmath>
#include <numeric>

#include "core/value/visible_text.h"

namespace iterandum {
namespace {

constexpr std::size_t kThatSettle = 500;
constexpr double kPoint = kDots / 72.0;
constexpr double kGap = 4 * kPoint;     // beside what a cell holds
constexpr double kSlack = 2 * kPoint;   // measures are not the same to a hair on every device
constexpr double kAround = 2 * kPoint;  // above and below it
constexpr double kLine = 0.4 * kPoint;
constexpr double kNarrowest = 24 * kPoint;
constexpr double kBetweenCards = 10 * kPoint;
constexpr double kNoEnd = 1e9;
const QColor kInk(0x22, 0x22, 0x22);
const QColor kSoft(0x66, 0x66, 0x66);
const QColor kRule(0xB8, 0xB0, 0xA0);

QString textOf(const std::string& text) { return QString::fromStdString(text); }

// Broken between words; inside one only where it is wider than its room.
QTextOption optionOf(bool isNumber, Qt::Alignment upright = Qt::AlignTop) {
  QTextOption out((isNumber ? Qt::AlignRight : Qt::AlignLeft) | upright);
  out.setWrapMode(QTextOption::WrapAtWordBoundaryOrAnywhere);
  return out;
}

// The parts of a column's name: what stands between blanks and low lines, these included.
QStringList partsOf(const QString& name) {
  QStringList out{QString()};
  for (const QChar letter : name) {
    out.back() += letter;
    if (letter == QLatin1Char('_') || letter == QLatin1Char(' ')) out << QString();
  }
  return out;
}

}  // namespace

PageWriter::PageWriter(RecordForm records, PrintForm form, PageTarget& target, std::optional<std::size_t> groupAt)
    : records_(std::move(records)),
      form_(std::move(form)),
      target_(target),
      groupAt_(groupAt),
      text_(QStringLiteral("Inter"), form_.points),
      head_(QStringLiteral("Inter"), form_.points, QFont::DemiBold),
      group_(QStringLiteral("EB Garamond"), form_.points + 4),
      title_(QStringLiteral("EB Garamond"), form_.points + 7) {
  // Letters that a face puts in the place of others, as for a hyphen between capitals, have no text to be searched for.
  for (QFont* font : {&text_, &head_, &group_, &title_}) font->setStyleStrategy(QFont::PreferNoShaping);
  if (!form_.title.empty()) records_.title = form_.title;
  for (const Column& column : records_.columns) {
    const bool isNumber =
        column.type == TypeClass::Integer || column.type == TypeClass::Real || column.type == TypeClass::Decimal;
    heads_.push_back({textOf(visibleText(column.name)), false, isNumber, false});
  }
}

PageWriter::Cell PageWriter::cellOf(const Value& value, bool ofNumbers) {
  if (value.isNull()) return {QStringLiteral("no value"), true, ofNumbers, false};
  if (value.isString() && value.asString().empty()) return {QStringLiteral("empty text"), true, ofNumbers, false};
  if (value.kind() == Value::Kind::Bytes) {
    return {QStringLiteral("%1 bytes").arg(value.asString().size()), true, ofNumbers, false};
  }
  return {textOf(canonicalText(value)), false, ofNumbers, false};
}

std::vector<double> PageWriter::naturalWidths() const {
  const QFontMetricsF metrics(text_, &target_.device());
  const QFontMetricsF heads(head_, &target_.device());
  std::vector<double> out;
  for (const Cell& cell : heads_) out.push_back(heads.horizontalAdvance(cell.text));
  for (const Record& record : waiting_) {
    for (std::size_t c = 0; c < record.row.size(); ++c) {
      // Long texts go on in the next line; there is no need for all of their width.
      const QString first = record.row[c].text.left(200).section(QLatin1Char('\n'), 0, 0);
      out[c] = std::max(out[c], metrics.horizontalAdvance(first));
    }
  }
  for (double& width : out) width = std::max(width + 2 * kGap + kSlack, kNarrowest);
  return out;
}

QSizeF PageWriter::turn(QPageLayout::Orientation usual) {
  const bool asked = form_.turned != PrintForm::Turned::AsItFits;
  const bool lying = asked ? form_.turned == PrintForm::Turned::Lying : usual == QPageLayout::Landscape;
  return target_.turn(lying ? QPageLayout::Landscape : QPageLayout::Portrait);
}

void PageWriter::settle() {
  settled_ = true;
  page_ = turn(QPageLayout::Portrait);
  if (form_.kind == PrintForm::Kind::Table) settleTable();
  if (form_.kind == PrintForm::Kind::Cards) settleCards();
  beginPage();
}

// For each column the width that its name needs when it is broken between its parts only.
std::vector<double> PageWriter::leastWidths() const {
  const QFontMetricsF heads(head_, &target_.device());
  std::vector<double> out;
  for (const Cell& cell : heads_) {
    double least = kNarrowest;
    for (const QString& part : partsOf(cell.text))
      least = std::max(least, heads.horizontalAdvance(part) + 2 * kGap + kSlack);
    out.push_back(least);
  }
  return out;
}

// A name that is wider than its column goes on in the next line after one of its parts.
void PageWriter::breakHeads() {
  const QFontMetricsF heads(head_, &target_.device());
  for (std::size_t c = 0; c < heads_.size(); ++c) {
    QString lines;
    QString line;
    for (const QString& part : partsOf(heads_[c].text)) {
      if (!line.isEmpty() && heads.horizontalAdvance(line + part) + 2 * kGap > widths_[c]) {
        lines += line + QLatin1Char('\n');
        line.clear();
      }
      line += part;
    }
    heads_[c].text = lines + line;
  }
}

void PageWriter::settleTable() {
  widths_ = naturalWidths();
  const double wanted = std::accumulate(widths_.begin(), widths_.end(), 0.0);
  if (wanted > page_.width()) page_ = turn(QPageLayout::Landscape);
  // What is wide gives way first: the widest are cut to one width until all of them fit. No name is broken for it,
  // where there is room for the names.
  const double all = page_.width();
  std::vector<double> least = leastWidths();
  if (std::accumulate(least.begin(), least.end(), 0.0) > all) std::fill(least.begin(), least.end(), 0.0);
  const auto cut = [&](std::size_t c, double most) { return std::min(widths_[c], std::max(most, least[c])); };
  double low = 0;
  double high = wanted;
  for (int i = 0; i < 60 && wanted > all; ++i) {
    const double most = (low + high) / 2;
    double sum = 0;
    for (std::size_t c = 0; c < widths_.size(); ++c) sum += cut(c, most);
    (sum > all ? high : low) = most;
  }
  for (std::size_t c = 0; c < widths_.size(); ++c) {
    if (wanted > all) widths_[c] = cut(c, low);
    // A page that lies is filled.
    if (wanted < all && wanted > 0.6 * all) widths_[c] *= all / wanted;
  }
  breakHeads();
}

// What values are called, and the values.
void PageWriter::settleCards() {
  const QFontMetricsF metrics(text_, &target_.device());
  double called = kNarrowest;
  for (const Cell& cell : heads_) called = std::max(called, metrics.horizontalAdvance(cell.text) + 2 * kGap + kSlack);
  called = std::min(called, page_.width() / 3);
  widths_ = {called, page_.width() - called};
}

double PageWriter::lineHeight() const { return QFontMetricsF(text_, &target_.device()).height(); }

double PageWriter::room() const {
  return form_.kind == PrintForm::Kind::Labels ? page_.height() : page_.height() - 14 * kPoint;
}

double PageWriter::heightOf(const Row& row) {
  double height = 0;
  for (std::size_t c = 0; c < row.size(); ++c) {
    const QRectF around(0, 0, std::max(widths_[c] - 2 * kGap, 1.0), kNoEnd);
    height = std::max(height, painter().boundingRect(around, row[c].text, optionOf(row[c].isNumber)).height());
  }
  return std::max(height, lineHeight()) + 2 * kAround;
}

void PageWriter::beginPage() {
  ++number_;
  at_ = 0;
  label_ = 0;
  if (form_.kind == PrintForm::Kind::Labels) return painter().setFont(text_);
  if (number_ == 1) drawTitle();
  if (form_.kind == PrintForm::Kind::Table) drawHeads();
  painter().setFont(text_);
}

bool PageWriter::nextPage() {
  finishPage();
  if (!target_.next()) full_ = true;
  if (!full_) beginPage();
  return !full_;
}

void PageWriter::drawTitle() {
  if (records_.title.empty()) return;
  painter().setFont(title_);
  painter().setPen(kInk);
  const QRectF place(0, 0, page_.width(), page_.height() / 2.0);
  const QString title = textOf(visibleText(records_.title));
  painter().drawText(place, title, optionOf(false));
  at_ = painter().boundingRect(place, title, optionOf(false)).height() + 8 * kPoint;
}

void PageWriter::drawHeads() {
  painter().setFont(head_);
  if (headHeight_ == 0) headHeight_ = heightOf(heads_);
  painter().setPen(kInk);
  double x = 0;
  for (std::size_t c = 0; c < heads_.size(); ++c) {
    drawCell(heads_[c], QRectF(x, at_, widths_[c], headHeight_), 0);
    x += widths_[c];
  }
  at_ += headHeight_;
  painter().setPen(QPen(kInk, 2 * kLine));
  painter().drawLine(QPointF(0, at_), QPointF(x, at_));
}

// `from`: how much of it stood on the pages before.
void PageWriter::drawCell(const Cell& cell, const QRectF& place, double from) {
  painter().setPen(cell.isNone || cell.isLabel ? kSoft : kInk);
  const QRectF inside = place.adjusted(kGap, kAround, -kGap, -kAround);
  if (from <= 0) {
    painter().drawText(inside, cell.text, optionOf(cell.isNumber));
    return;
  }
  painter().save();
  painter().setClipRect(inside);
  painter().drawText(QRectF(inside.left(), inside.top() - from, inside.width(), kNoEnd), cell.text,
                     optionOf(cell.isNumber));
  painter().restore();
}

void PageWriter::finishPage() {
  if (form_.kind == PrintForm::Kind::Labels) return;
  painter().setFont(text_);
  painter().setPen(kSoft);
  const QRectF below(0, page_.height() - 10 * kPoint, page_.width(), 12 * kPoint);
  painter().drawText(below, Qt::AlignLeft, QLocale::c().toString(QDate::currentDate(), QStringLiteral("yyyy-MM-dd")));
  painter().drawText(below, Qt::AlignRight, QStringLiteral("page %1").arg(number_));
}

void PageWriter::drawRow(const Row& row) {
  const double height = heightOf(row);
  if (at_ + height > room() && !nextPage()) return;
  // What is higher than a page goes on over the next ones, line by line.
  const double lines = QFontMetricsF(text_, &target_.device()).lineSpacing();
  double done = 0;
  while (true) {
    const double left = height - done;
    double here = std::min(left, room() - at_);
    if (here < left) here = std::max(std::floor((here - 2 * kAround) / lines), 1.0) * lines + 2 * kAround;
    double x = 0;
    painter().save();
    if (here < left) painter().setClipRect(QRectF(0, at_, page_.width(), here));
    for (std::size_t c = 0; c < row.size(); ++c) {
      drawCell(row[c], QRectF(x, at_, widths_[c], here), done);
      x += widths_[c];
    }
    painter().restore();
    at_ += here;
    done += here - (here < left ? 2 * kAround : 0);
    painter().setPen(QPen(kRule, kLine));
    painter().drawLine(QPointF(0, at_), QPointF(x, at_));
    if (here >= left || !nextPage()) return;
  }
}

// The heading of a group stays with what follows.
void PageWriter::drawGroup(const QString& group, double following) {
  drawGroupCount();
  inGroup_ = group;
  ofGroup_ = 0;
  const double height = QFontMetricsF(group_, &target_.device()).height() + 10 * kPoint;
  if (at_ + height + following > room() && at_ > headHeight_ && !nextPage()) return;
  painter().setFont(group_);
  painter().setPen(kInk);
  painter().drawText(QRectF(0, at_ + 6 * kPoint, page_.width(), height), group, optionOf(false));
  painter().setFont(text_);
  at_ += height;
}

void PageWriter::drawGroupCount() {
  if (!inGroup_ || full_) return;
  const double height = lineHeight() + 2 * kAround;
  if (at_ + height > room() && !nextPage()) return;
  painter().setPen(kSoft);
  painter().drawText(QRectF(kGap, at_ + kAround, page_.width(), height),
                     ofGroup_ == 1 ? QStringLiteral("1 record") : QStringLiteral("%1 records").arg(ofGroup_),
                     optionOf(false));
  at_ += height;
}

void PageWriter::drawCard(const Row& values) {
  double height = kBetweenCards;
  std::vector<Row> rows;
  for (std::size_t c = 0; c < values.size(); ++c) {
    Cell value = values[c];
    value.isNumber = false;  // values of a card stand under one another
    rows.push_back({{heads_[c].text, false, false, true}, std::move(value)});
    height += heightOf(rows.back());
  }
  const bool fresh = at_ <= 0 || (number_ == 1 && ofGroup_ == 1 && !form_.cardAPage);
  const bool goesOn = at_ + height > room() && height <= room();
  const bool own = form_.cardAPage && ofGroup_ > 1;
  if ((own || (goesOn && !fresh)) && !nextPage()) return;
  for (const Row& row : rows) {
    drawRow(row);
    if (full_) return;
  }
  at_ += kBetweenCards;
}

void PageWriter::drawLabel(const Row& values) {
  if (label_ == form_.across * form_.down && !nextPage()) return;
  const QSizeF size(page_.width() / form_.across, page_.height() / form_.down);
  const int row = label_ / form_.across;
  const QRectF place(QPointF(size.width() * (label_ % form_.across), size.height() * row), size);
  ++label_;
  QStringList lines;
  for (const Cell& cell : values) {
    if (!cell.isNone) lines << cell.text;
  }
  const QRectF inside = place.adjusted(2 * kGap, 2 * kGap, -2 * kGap, -2 * kGap);
  // What does not fit ends with its last whole line.
  const QString text = lines.join(QLatin1Char('\n'));
  const double lineSpacing = QFontMetricsF(text_, &target_.device()).lineSpacing();
  const double needed = painter().boundingRect(QRectF(0, 0, inside.width(), kNoEnd), text, optionOf(false)).height();
  const bool fits = needed <= inside.height();
  if (!fits) ++cut_;
  QRectF shown = inside;
  if (!fits) shown.setHeight(std::max(1.0, std::floor(inside.height() / lineSpacing)) * lineSpacing);
  painter().save();
  painter().setClipRect(shown);
  painter().setPen(kInk);
  painter().drawText(shown, text, optionOf(false, fits ? Qt::AlignVCenter : Qt::AlignTop));
  painter().restore();
}

void PageWriter::draw(const Record& record) {
  if (full_) return;
  const bool labels = form_.kind == PrintForm::Kind::Labels;
  if (groupAt_ && !labels && inGroup_ != record.group) drawGroup(record.group, 3 * lineHeight());
  ++ofGroup_;
  if (full_) return;
  if (labels) return drawLabel(record.row);
  form_.kind == PrintForm::Kind::Cards ? drawCard(record.row) : drawRow(record.row);
}

Status PageWriter::record(const ValueTuple& values) {
  Record record;
  for (std::size_t c = 0; c < heads_.size(); ++c) record.row.push_back(cellOf(values[c], heads_[c].isNumber));
  if (groupAt_) record.group = cellOf(values[*groupAt_], false).text;
  if (settled_) {
    draw(record);
  } else {
    waiting_.push_back(std::move(record));
    if (waiting_.size() < kThatSettle) return {};
    settle();
    for (const Record& one : waiting_) draw(one);
    waiting_.clear();
  }
  return full_ ? Status(fail(ErrorKind::Cancelled, "no more pages are wanted")) : Status();
}

Status PageWriter::end() {
  if (!settled_) {
    settle();
    for (const Record& one : waiting_) draw(one);
  }
  if (!full_) {
    drawGroupCount();
    finishPage();
  }
  if (target_.end()) return {};
  return fail(ErrorKind::InvalidFile, "the document cannot be written");
}

}  // namespace iterandum
