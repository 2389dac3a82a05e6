#include "app/sheet/foot_line.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QTimer>
#include <algorithm>
#include <set>
#include <unordered_map>

#include "app/style/roles.h"
#include "core/catalogue/column_rules.h"

namespace iterandum {
namespace {

// A selection that is drawn with the mouse is told when it rests.
constexpr int kRestMs = 60;
// Of more cells than this no values are read.
constexpr qint64 kMostRead = 500000;
constexpr std::size_t kMostDifferent = 1000;
// With more than this staged in the table, values would have to be looked up one by one.
constexpr std::uint32_t kMostStaged = 20000;

struct ValueLess {
  bool operator()(const Value& a, const Value& b) const { return compareValues(a, b) < 0; }
};

// What a column of the selected records holds.
struct Held {
  std::uint64_t records = 0;
  std::uint64_t without = 0;
  std::set<Value, ValueLess> different;  // no more than kMostDifferent + 1 of them
  Value lowest;
  Value highest;

  void add(const Value& value) {
    ++records;
    if (value.isNull()) {
      ++without;
      return;
    }
    if (lowest.isNull() || compareValues(value, lowest) < 0) lowest = value;
    if (highest.isNull() || compareValues(value, highest) > 0) highest = value;
    if (different.size() <= kMostDifferent) different.insert(value);
  }
};

using StagedValues = std::unordered_map<ValueTuple, Value, TupleHash, TupleSame>;

// The values of one column at many positions, as they are staged.
struct HeldRead {
  const Table* table = nullptr;
  std::string column;
  KeyIndex index;
  std::vector<RowRange> rows;
  StagedValues staged;
};

Result<Held> readHeld(Session& session, const HeldRead& what, Progress& progress) {
  constexpr std::size_t kLookUp = 4096;
  const std::vector<std::string> keyColumns = what.table->writeKeyColumns();
  Held held;
  for (const RowRange& range : what.rows) {
    for (int first = range.first; first <= range.last; first += kLookUp) {
      const int last = std::min(range.last, first + static_cast<int>(kLookUp) - 1);
      std::vector<ValueColumn> keys(keyColumns.size());
      std::vector<std::uint32_t> rows;
      for (int row = first; row <= last; ++row) {
        ValueTuple key = what.index.key(static_cast<std::size_t>(row));
        if (const auto staged = what.staged.find(key); staged != what.staged.end()) {
          held.add(staged->second);
          continue;
        }
        rows.push_back(static_cast<std::uint32_t>(rows.size()));
        for (std::size_t k = 0; k < keys.size(); ++k) keys[k].push(key[k]);
      }
      const KeyRead read{what.table, keyColumns, &keys, rows, {what.column}, 1};
      ITERANDUM_TRY(session.readByKeys(
          read, [&](std::size_t, ValueTuple&& record) { held.add(record.front()); }, progress));
    }
  }
  return held;
}

bool hasRange(const Column& column) {
  switch (column.type) {
    case TypeClass::Integer:
    case TypeClass::Real:
    case TypeClass::Decimal:
    case TypeClass::Date:
    case TypeClass::Time:
    case TypeClass::Timestamp:
      return true;
    default:
      return false;
  }
}

// " · 12 without value · 0 to 5"
QString heldInWords(const SheetModel& model, int column, const Held& held) {
  const QLocale locale;
  QString words;
  if (held.without > 0) {
    words += held.without == held.records
                 ? FootLine::tr(" · all without value")
                 : FootLine::tr(" · %1 without value").arg(locale.toString(static_cast<qulonglong>(held.without)));
  }
  const std::size_t different = held.different.size();
  if (different == 0) return words;
  if (different == 1) {
    return words + (held.without > 0 ? FootLine::tr(" · the others %1") : FootLine::tr(" · all %1"))
                       .arg(model.shown(column, held.lowest).left(60));
  }
  if (hasRange(model.column(column)) && model.reference(column) == nullptr) {
    return words + FootLine::tr(" · %1 to %2").arg(model.shown(column, held.lowest), model.shown(column, held.highest));
  }
  return words + (different > kMostDifferent ? FootLine::tr(" · more than %1 different values")
                                             : FootLine::tr(" · %1 different values"))
                     .arg(locale.toString(static_cast<int>(std::min(different, kMostDifferent))));
}

}  // namespace

FootLine::FootLine(SheetView& view, SheetModel& model, QWidget* parent) : QFrame(parent), view_(view), model_(model) {
  setObjectName("footLine");
  auto* layout = new QHBoxLayout(this);
  layout->setContentsMargins(47, 1, 12, 1);
  layout->setSpacing(2);
  words_ = new ElidedLabel(this);
  words_->setObjectName("selectionWords");
  words_->setMinimumWidth(160);
  layout->addWidget(words_, 1);
  room_ = new GivingWay(this);
  room_->add(words_, 10);
  const auto offer = [&](const QString& text, const char* name, const char* command) {
    auto* button = new QPushButton(text, this);
    button->setObjectName(QLatin1String(name));
    button->setProperty("offer", true);
    button->setFocusPolicy(Qt::NoFocus);  // the keys stay with the cells; each offer has a key of its own
    layout->addWidget(button);
    offers_.push_back(button);
    room_->add(button, command == nullptr
                           ? 9
                           : (std::string_view(command) == "record.remove" ? 8 : static_cast<int>(offers_.size())));
    if (command != nullptr) connect(button, &QPushButton::clicked, this, [this, command] { emit asked(command); });
    return button;
  };
  offer(tr("Copy"), "offerCopy", "cell.copy")->setToolTip(tr("Copy as shown (Ctrl+C)"));
  offer(tr("Change…"), "offerChange", "many.change")
      ->setToolTip(tr("Set, compute, replace or tidy all of them at once, with a proof (Ctrl+M)"));
  offer(tr("Fill down"), "offerFill", "cell.fill-down")->setToolTip(tr("The first one's value for all (Ctrl+D)"));
  offer(tr("No value"), "offerNoValue", "cell.no-value")->setToolTip(tr("Delete, or Ctrl+Shift+N"));
  offer(tr("Only this value"), "offerOnly", "filter.only")->setToolTip(tr("Ctrl+Alt+V"));
  offer(tr("Whole column"), "offerColumn", "select.column")->setToolTip(tr("Selects it (Ctrl+Space)"));
  offer(tr("Add a record"), "offerAdd", "record.add")->setToolTip(tr("Ctrl+N"));
  offer(tr("Remove"), "offerRemove", "record.remove")->setToolTip(tr("Remove the selected records (Ctrl+Delete)"));
  auto* more = offer(tr("More ▾"), "offerMore", nullptr);
  more->setToolTip(tr("All that can be done with these cells (Shift+F10)"));
  connect(more, &QPushButton::clicked, this, [this, more] { emit menuAsked(more->mapToGlobal(QPoint(0, 0))); });
  soon_ = new QTimer(this);
  soon_->setSingleShot(true);
  soon_->setInterval(kRestMs);
  connect(soon_, &QTimer::timeout, this, &FootLine::update);
  const auto later = [this] { soon_->start(); };
  connect(view_.selectionModel(), &QItemSelectionModel::selectionChanged, this, later);
  connect(view_.selectionModel(), &QItemSelectionModel::currentChanged, this, later);
  connect(&model_, &QAbstractItemModel::modelReset, this, later);
  connect(&model_.desk().staged(), &StagedWork::changed, this, later);
  // What is only loaded by and by changes nothing about a selection whose values were read by themselves.
  connect(&model_, &QAbstractItemModel::dataChanged, this, [this] {
    if (view_.selectedCellCount() <= 1) soon_->start();
  });
  update();
}

QString FootLine::text() const { return words_->text(); }

void FootLine::say(const QString& words) { words_->say(words); }

void FootLine::update() {
  ++asked_;
  if (reading_) reading_->cancel();
  reading_.reset();
  const qint64 cells = view_.selectedCellCount();
  const bool any = view_.currentIndex().isValid() && cells > 0;
  const bool many = cells > 1;
  for (QPushButton* button : offers_) {
    const QString name = button->objectName();
    const bool forMany = name == QLatin1String("offerFill") || name == QLatin1String("offerNoValue") ||
                         name == QLatin1String("offerChange");
    const bool forOne =
        name == QLatin1String("offerOnly") || name == QLatin1String("offerAdd") || name == QLatin1String("offerColumn");
    room_->setWanted(button, (!forMany || many) && (!forOne || !many) && (any || name == QLatin1String("offerAdd")));
  }
  if (!any) return say({});
  if (!many) return showOne(view_.currentIndex());
  showMany(view_.selectedBlocks());
}

void FootLine::showOne(const QModelIndex& cell) {
  const Column& column = model_.column(cell.column());
  const QString reason = model_.notEditable(cell.row(), cell.column());
  QString words = model_.columnName(cell.column()) + QStringLiteral(": ");
  const bool lens = model_.lens(cell.column()) != nullptr;
  words += !reason.isEmpty() ? reason : (lens ? tr("looked at through its lens (F9)") : toQ(wantedInWords(column)));
  if (!column.comment.empty()) words += QStringLiteral(" · ") + toQ(column.comment);
  say(words);
}

void FootLine::showMany(const std::vector<SheetView::Block>& blocks) {
  const QLocale locale;
  std::set<int> columns;
  for (const SheetView::Block& block : blocks) columns.insert(block.columns.begin(), block.columns.end());
  qint64 records = 0;
  for (const RowRange& range : view_.selectedRows()) records += range.size();
  const QString cells = locale.toString(view_.selectedCellCount());
  if (columns.size() == 1) {
    base_ = tr("%1 cells of %2").arg(cells, model_.columnName(*columns.begin()));
    say(base_);
    return readOn(blocks);
  }
  say(tr("%1 cells: %2 columns of %n record(s)", "", static_cast<int>(records)).arg(cells).arg(columns.size()));
}

void FootLine::readOn(const std::vector<SheetView::Block>& blocks) {
  constexpr int kAtOnce = 3000;
  const int column = blocks.front().columns.front();
  const std::vector<RowRange> rows = view_.selectedRows();
  const qint64 cells = view_.selectedCellCount();
  if (cells > kMostRead) return;
  bool loaded = cells <= kAtOnce;
  Held held;
  for (const RowRange& range : rows) {
    for (int row = range.first; loaded && row <= range.last; ++row) {
      const CellState state = model_.cell(row, column);
      loaded = state.loaded || state.addedRecord;
      if (loaded) held.add(state.effective());
    }
  }
  if (loaded) return say(base_ + heldInWords(model_, column, held));
  const TableChanges* changes = model_.desk().changes().table(model_.table().name);
  if (model_.isBorrowed(column) || (changes != nullptr && changes->records() > kMostStaged)) return;
  HeldRead what{&model_.table(), model_.column(column).name, model_.source().index(), {}, {}};
  for (const RowRange& range : rows) {
    const int last = std::min(range.last, model_.source().rows() - 1);
    if (range.first <= last) what.rows.push_back({range.first, last});
  }
  for (std::uint32_t r = 0; changes != nullptr && r < changes->records(); ++r) {
    const auto cell = changes->cell(r, what.column);
    if (cell) what.staged.emplace(changes->key(r), cell->to);
  }
  const std::uint64_t asked = asked_;
  reading_ = model_.desk().behind().post(
      this,
      [what = std::move(what)](Session& session, Progress& progress) { return readHeld(session, what, progress); },
      [this, asked, column](Result<Held>&& read) {
        if (asked != asked_ || !read) return;
        reading_.reset();
        say(base_ + heldInWords(model_, column, *read));
      });
}

}  // namespace iterandum
