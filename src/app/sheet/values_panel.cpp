#include "app/sheet/values_panel.h"

#include <QKeyEvent>
#include <QLabel>
#include <QListWidget>
#include <QPainter>
#include <QStyledItemDelegate>
#include <QVBoxLayout>
#include <numeric>

#include "app/style/roles.h"
#include "app/style/side_frame.h"
#include "core/scope/alike.h"

namespace iterandum {
namespace {

// More different values than this are no list that somebody reads; the commonest are shown.
constexpr std::uint64_t kMostValues = 2000;
constexpr int kRecords = Qt::UserRole + 1;
constexpr int kFilter = Qt::UserRole + 2;
constexpr int kAside = Qt::UserRole + 3;  // said in italics: no value, empty text
constexpr int kHeading = Qt::UserRole + 4;

// The value as a filter cell takes it.
QString operandFor(const Value& value) {
  if (value.isNull()) return QStringLiteral("no value");
  QString text = toQ(canonicalText(value));
  if (!value.isString()) return text;
  return QLatin1Char('\'') + text.replace(QLatin1Char('\''), QStringLiteral("''")) + QLatin1Char('\'');
}

QString filterFor(const Value& value) {
  return value.isNull() ? QStringLiteral("no value") : QStringLiteral("= ") + operandFor(value);
}

// A value, how many records have it, and a bar for what part of all that is.
class LinePainter : public QStyledItemDelegate {
 public:
  LinePainter(const std::uint64_t& all, QObject* parent) : QStyledItemDelegate(parent), all_(all) {}
  [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex& index) const override {
    return {200, index.data(kHeading).toBool() ? 36 : 30};
  }
  void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
    const Roles& r = roles();
    const QRect box = option.rect;
    painter->save();
    if (index.data(kHeading).toBool()) {
      painter->setFont(serif(1.05));
      painter->setPen(r.ink);
      painter->drawText(box.adjusted(4, 8, -4, 0), Qt::AlignLeft | Qt::AlignVCenter, index.data().toString());
      painter->restore();
      return;
    }
    if ((option.state & QStyle::State_Selected) != 0) painter->fillRect(box, r.blueWash);
    const auto records = index.data(kRecords).toULongLong();
    const QString count = QLocale().toString(records);
    painter->setFont(plain());
    painter->setPen(r.soft);
    const QRect text = box.adjusted(6, 0, -6, -5);
    painter->drawText(text, Qt::AlignRight | Qt::AlignVCenter, count);
    QFont font = plain();
    font.setItalic(index.data(kAside).toBool());
    painter->setFont(font);
    painter->setPen(index.data(kAside).toBool() ? r.faint : r.ink);
    const int room = text.width() - QFontMetrics(plain()).horizontalAdvance(count) - 12;
    painter->drawText(text, Qt::AlignLeft | Qt::AlignVCenter,
                      QFontMetrics(font).elidedText(index.data().toString(), Qt::ElideRight, room));
    const double share = static_cast<double>(records) / static_cast<double>(std::max<std::uint64_t>(1, all_));
    const int length = std::max(1, static_cast<int>(share * (box.width() - 12)));
    painter->fillRect(QRect(box.left() + 6, box.bottom() - 4, box.width() - 12, 1), r.rule);
    painter->fillRect(QRect(box.left() + 6, box.bottom() - 5, length, 3), r.soft);
    painter->restore();
  }

 private:
  const std::uint64_t& all_;
};

}  // namespace

ValuesPanel::ValuesPanel(SheetModel& model, QWidget* parent) : QWidget(parent), model_(model) {
  const auto [layout, title, subtitle] = buildPanelHead(this);
  title_ = title;
  subtitle_ = subtitle;
  subtitle_->setObjectName("valuesSubtitle");
  list_ = new QListWidget(this);
  list_->setObjectName("values");
  list_->setAccessibleName(tr("Values of the column"));
  list_->setItemDelegate(new LinePainter(records_, this));
  list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  layout->addWidget(list_, 1);
  connect(list_, &QListWidget::itemActivated, this, &ValuesPanel::choose);
  connect(list_, &QListWidget::itemClicked, this, &ValuesPanel::choose);
  setFocusProxy(list_);
}

void ValuesPanel::show(int column, const Condition& where) {
  const bool other = column != column_;
  column_ = column;
  title_->setText(toQ(model_.column(column).name));
  if (other) {
    list_->clear();
    subtitle_->setText(tr("Reading its values…"));
  }
  const std::uint64_t asked = ++asked_;
  const auto catalogue = model_.desk().sharedCatalogue();
  if (progress_) progress_->cancel();
  progress_ = model_.desk().behind().post(
      this,
      [catalogue, table = &model_.table(), name = model_.column(column).name, where](
          Session& session, Progress& progress) -> Result<Found> {
        Query query;
        query.table = table;
        query.where = where;
        Found found;
        ITERANDUM_TRY(session.distinctValues(
            query, name, kMostValues,
            [&](Value&& value, std::uint64_t records) {
              found.values.emplace_back(std::move(value), records);
              return true;
            },
            progress));
        // Only texts have spellings.
        std::vector<std::string> texts;
        std::vector<std::size_t> positions;
        for (std::size_t i = 0; i < found.values.size(); ++i) {
          if (found.values[i].first.kind() != Value::Kind::Text) continue;
          texts.emplace_back(found.values[i].first.asString());
          positions.push_back(i);
        }
        found.alike = alikeGroups(texts);
        for (auto& group : found.alike) {
          for (std::size_t& member : group) member = positions[member];
        }
        return found;
      },
      [this, asked](Result<Found>&& found) {
        if (asked != asked_) return;
        if (found) return fill(*found);
        list_->clear();
        if (found.error().kind != ErrorKind::Cancelled) {
          subtitle_->setText(tr("Its values could not be read: %1").arg(toQ(found.error().message)));
        }
      });
}

void ValuesPanel::addHeading(const QString& text) {
  auto* item = new QListWidgetItem(text, list_);
  item->setData(kHeading, true);
  item->setFlags(Qt::NoItemFlags);
}

void ValuesPanel::addLine(const QString& text, std::uint64_t records, const QString& filter, bool aside) {
  auto* item = new QListWidgetItem(text, list_);
  item->setData(kRecords, static_cast<qulonglong>(records));
  item->setData(kFilter, filter);
  item->setData(kAside, aside);
  item->setToolTip(text);
  item->setData(Qt::AccessibleTextRole, tr("%1, in %n record(s)", "", static_cast<int>(records)).arg(text));
}

void ValuesPanel::fill(const Found& found) {
  const QString chosenBefore =
      list_->currentItem() != nullptr ? list_->currentItem()->data(kFilter).toString() : QString();
  list_->clear();
  std::uint64_t none = 0;
  records_ = 0;
  for (const auto& [value, count] : found.values) {
    records_ += count;
    if (value.isNull()) none = count;
  }
  const QLocale locale;
  const bool all = found.values.size() < kMostValues;
  const QString number = locale.toString(static_cast<qulonglong>(found.values.size()));
  QString words = all ? tr("%1 different in %2 records").arg(number, locale.toString(static_cast<qulonglong>(records_)))
                      : tr("The %1 commonest are shown").arg(number);
  words += none > 0 ? tr("; %1 have no value").arg(locale.toString(static_cast<qulonglong>(none)))
                    : tr("; none is without a value");
  subtitle_->setText(words + tr(". The filter of this column is left out of account. Choose one to narrow to it."));
  if (!found.alike.empty()) addHeading(tr("Nearly alike"));
  for (const auto& group : found.alike) {
    QStringList names;
    QStringList operands;
    std::uint64_t together = 0;
    for (const std::size_t i : group) {
      names << model_.shown(column_, found.values[i].first);
      operands << operandFor(found.values[i].first);
      together += found.values[i].second;
    }
    addLine(names.join(QStringLiteral("  ·  ")), together,
            QStringLiteral("in (%1)").arg(operands.join(QStringLiteral(", "))), false);
  }
  if (!found.alike.empty()) addHeading(tr("All values"));
  for (const auto& [value, count] : found.values) {
    const bool aside = value.isNull() || (value.isString() && value.asString().empty());
    // Bytes cannot be typed into a filter.
    const bool bytes = value.kind() == Value::Kind::Bytes;
    addLine(model_.shown(column_, value), count, bytes ? QString() : filterFor(value), aside);
  }
  int row = 0;
  for (int i = list_->count() - 1; i >= 0; --i) {
    const bool same = !chosenBefore.isEmpty() && list_->item(i)->data(kFilter).toString() == chosenBefore;
    if (same || !list_->item(i)->data(kHeading).toBool()) row = i;
    if (same) break;
  }
  list_->setCurrentRow(row);
}

void ValuesPanel::choose(QListWidgetItem* item) {
  const QString filter = item->data(kFilter).toString();
  if (!filter.isEmpty()) emit chosen(column_, filter);
}

void ValuesPanel::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Escape) {
    emit leaveAsked();
    return;
  }
  QWidget::keyPressEvent(event);
}

}  // namespace iterandum
