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
#include "core/catalogue/column_rules.h"
#include "core/scope/alike.h"

namespace iterandum {
namespace {

// More different values than this are no list that somebody reads; the commonest are shown.
constexpr std::uint64_t kMostValues = 2000;
constexpr int kRecords = Qt::UserRole + 1;
constexpr int kFilter = Qt::UserRole + 2;
constexpr int kAside = Qt::UserRole + 3;  // said in italics: no value, empty text
constexpr int kHeading = Qt::UserRole + 4;
constexpr int kGroup = Qt::UserRole + 5;  // of spellings; kRight: which of them all become
constexpr int kRight = Qt::UserRole + 6;

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

Condition hasValue(const ColumnPath& path) {
  Condition leaf;
  leaf.op = Condition::Op::HasValue;
  leaf.column = path.column;
  return throughSteps(path.steps, std::move(leaf));
}

}  // namespace

ValuesPanel::ValuesPanel(SheetModel& model, QWidget* parent) : QWidget(parent), model_(model) {
  const auto [layout, title, subtitle] = buildPanelHead(this);
  title_ = title;
  subtitle_ = subtitle;
  subtitle_->setObjectName("valuesSubtitle");
  chart_ = new HistogramView(this);
  chart_->hide();
  layout->addWidget(chart_);
  connect(chart_, &HistogramView::chosen, this, [this](const QString& filter) { emit chosen(column_, filter); });
  connect(chart_, &HistogramView::left, this, &ValuesPanel::leaveAsked);
  list_ = new QListWidget(this);
  list_->setObjectName("values");
  list_->setAccessibleName(tr("Values of the column"));
  list_->setItemDelegate(new LinePainter(records_, this));
  list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  layout->addWidget(list_, 1);
  connect(list_, &QListWidget::itemActivated, this, &ValuesPanel::choose);
  connect(list_, &QListWidget::itemClicked, this, &ValuesPanel::choose);
  setFocusProxy(list_);
  connect(&model_.desk().names(), &ReferenceNames::named, this, [this] {
    if (isVisible() && !values_.empty()) fill(values_, alike_);
  });
}

// Positions of values whose spellings are nearly the same. Only texts have spellings.
std::vector<std::vector<std::size_t>> ValuesPanel::alikeAmong(const CountedValues& values) {
  std::vector<std::string> texts;
  std::vector<std::size_t> positions;
  for (std::size_t i = 0; i < values.size(); ++i) {
    if (values[i].first.kind() != Value::Kind::Text) continue;
    texts.emplace_back(values[i].first.asString());
    positions.push_back(i);
  }
  auto groups = alikeGroups(texts);
  for (auto& group : groups) {
    for (std::size_t& member : group) member = positions[member];
  }
  return groups;
}

// From the values where all are known, else by going over all records.
Result<std::optional<Histogram>> ValuesPanel::spreadOf(Session& session, const Query& records, const ColumnPath& path,
                                                       const CountedValues& values, Progress& progress) {
  const Column& column = *path.owner(*records.table).column(path.column);
  Query query = records;
  query.where = bothHold(records.where, hasValue(path));
  query.columns.clear();
  query.borrowed = {path};
  const bool all = values.size() < kMostValues;
  Value bounds[2];
  for (const bool last : {false, true}) {
    Query edge = query;
    edge.order = {{path.column, last, path.steps}};
    edge.limit = 1;
    ITERANDUM_TRY(session.select(
        edge,
        [&](ValueTuple&& row) {
          bounds[last ? 1 : 0] = std::move(row[0]);
          return true;
        },
        progress));
  }
  auto histogram = Histogram::over(column, bounds[0], bounds[1]);
  if (!histogram) return histogram;
  if (all) {
    for (const auto& [value, count] : values) histogram->add(value, count);
    return histogram;
  }
  ITERANDUM_TRY(session.select(
      query,
      [&](ValueTuple&& row) {
        histogram->add(row[0]);
        return !progress.cancelled();
      },
      progress));
  return histogram;
}

void ValuesPanel::show(int column, const Condition& where) {
  const bool other = column != column_;
  column_ = column;
  title_->setText(model_.columnName(column));
  if (other) {
    list_->clear();
    chart_->hide();
    subtitle_->setText(tr("Reading its values…"));
  }
  const std::uint64_t asked = ++asked_;
  values_.clear();
  if (progress_) progress_->cancel();
  Query query;
  query.table = &model_.table();
  query.where = where;
  progress_ = readColumnValues(
      this, model_, model_.path(column), where, kMostValues, [this, asked, query](Result<CountedValues>&& values) {
        if (asked != asked_) return;
        if (values) return askAlike(query, *values);
        list_->clear();
        if (values.error().kind != ErrorKind::Cancelled) {
          subtitle_->setText(tr("Its values could not be read: %1").arg(toQ(values.error().message)));
        }
      });
}

void ValuesPanel::askAlike(const Query& query, const CountedValues& values) {
  progress_ = model_.desk().behind().post(
      this,
      [values](Session&, Progress&) -> Result<std::vector<std::vector<std::size_t>>> { return alikeAmong(values); },
      [this, asked = asked_, query, values](Result<std::vector<std::vector<std::size_t>>>&& alike) {
        if (asked != asked_) return;
        if (alike) {
          values_ = values;
          alike_ = std::move(*alike);
          fill(values_, alike_);
        }
        if (Histogram::isFor(model_.column(column_))) return askSpread(query, values);
        chart_->hide();
      });
}

// What may take longer comes last.
void ValuesPanel::askSpread(const Query& query, const CountedValues& values) {
  progress_ = model_.desk().behind().post(
      this,
      [query, path = model_.path(column_), values](Session& session, Progress& progress) {
        return spreadOf(session, query, path, values, progress);
      },
      [this, asked = asked_](Result<std::optional<Histogram>>&& spread) {
        if (asked != asked_ || !spread) return;
        chart_->setVisible(spread->has_value());
        if (!*spread) return;
        chart_->show(**spread, [this](const std::string& edge) {
          const auto value = typedValue(model_.column(column_), edge);
          return value && model_.lens(column_) != nullptr ? model_.shown(column_, *value) : toQ(edge);
        });
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

void ValuesPanel::fill(const CountedValues& values, const std::vector<std::vector<std::size_t>>& alike) {
  // What was gone to stays chosen; what is chosen only because it comes first does not.
  const bool first = list_->currentRow() <= 0 || list_->item(list_->currentRow() - 1)->data(kHeading).toBool();
  const QString chosenBefore =
      list_->currentItem() != nullptr && !first ? list_->currentItem()->data(kFilter).toString() : QString();
  list_->clear();
  std::uint64_t none = 0;
  records_ = 0;
  for (const auto& [value, count] : values) {
    records_ += count;
    if (value.isNull()) none = count;
  }
  const QLocale locale;
  const bool all = values.size() < kMostValues;
  const std::vector<OfferedValue> offers = offeredValues(model_, model_.path(column_), values, all);
  const QString number = locale.toString(static_cast<qulonglong>(values.size()));
  QString words = all ? tr("%1 different in %2 records").arg(number, locale.toString(static_cast<qulonglong>(records_)))
                      : tr("The %1 commonest are shown").arg(number);
  words += none > 0 ? tr("; %1 have no value").arg(locale.toString(static_cast<qulonglong>(none)))
                    : tr("; none is without a value");
  subtitle_->setText(words + tr(". The filter of this column is left out of account. Choose one to narrow to it."));
  if (!alike.empty()) addHeading(tr("Nearly alike"));
  for (const auto& group : alike) {
    QStringList names;
    QStringList operands;
    std::uint64_t together = 0;
    for (const std::size_t i : group) {
      names << offers[i].shown;
      operands << offers[i].operand;
      together += offers[i].records;
    }
    addLine(names.join(QStringLiteral("  ·  ")), together,
            QStringLiteral("in (%1)").arg(operands.join(QStringLiteral(", "))), false);
    addSpellings(values, group, static_cast<std::size_t>(&group - alike.data()));
  }
  if (!alike.empty()) addHeading(tr("All values"));
  for (const OfferedValue& offer : offers) addLine(offer.shown, offer.records, offer.filter, offer.nothing);
  int row = 0;
  for (int i = list_->count() - 1; i >= 0; --i) {
    const bool same = !chosenBefore.isEmpty() && list_->item(i)->data(kFilter).toString() == chosenBefore;
    if (same || !list_->item(i)->data(kHeading).toBool()) row = i;
    if (same) break;
  }
  list_->setCurrentRow(row);
}

// One line for each spelling that all of the group could become.
void ValuesPanel::addSpellings(const CountedValues& values, const std::vector<std::size_t>& group, std::size_t number) {
  if (model_.isBorrowed(column_) || !model_.columnNotEditable(column_).isEmpty()) return;
  std::uint64_t together = 0;
  for (const std::size_t i : group) together += values[i].second;
  for (const std::size_t i : group) {
    const QString right = model_.shown(column_, values[i].first);
    addLine(tr("    all become “%1”").arg(right), together - values[i].second, {}, true);
    list_->item(list_->count() - 1)->setData(kGroup, static_cast<int>(number));
    list_->item(list_->count() - 1)->setData(kRight, static_cast<int>(i));
  }
}

void ValuesPanel::choose(QListWidgetItem* item) {
  if (item->data(kGroup).isValid()) {
    const auto right = static_cast<std::size_t>(item->data(kRight).toInt());
    std::vector<Value> others;
    for (const std::size_t i : alike_[static_cast<std::size_t>(item->data(kGroup).toInt())]) {
      if (i != right) others.push_back(values_[i].first);
    }
    return emit spellingChosen(column_, others, Value(values_[right].first));
  }
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
