#include "app/sheet/finder.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <algorithm>

#include "app/records/record_search.h"
#include "app/style/roles.h"
#include "core/scope/column_path.h"
#include "core/scope/condition_text.h"

namespace iterandum {
namespace {

// So many places are found at once; somebody who has more narrows the sheet.
constexpr std::uint64_t kMostMatches = 1000000;

Condition contains(const std::string& column, const QString& text) {
  Condition out;
  out.op = Condition::Op::Contains;
  out.column = column;
  out.value = Value::text(text.toStdString());
  return out;
}

}  // namespace

Condition containsText(SheetModel& model, const std::vector<int>& columns, const QString& text) {
  Condition any;
  any.op = Condition::Op::Or;
  for (const int c : columns) {
    const ColumnPath& path = model.path(c);
    if (model.column(c).type != TypeClass::Bytes)
      any.parts.push_back(throughSteps(path.steps, contains(path.column, text)));
    const Reference* reference = model.reference(c);
    const Table* target = reference == nullptr ? nullptr : model.desk().catalogue().find(reference->target);
    if (target == nullptr) continue;
    ReferenceStep step;
    step.target = target;
    step.join = {{path.column, reference->targetColumns[0]}};
    std::vector<ReferenceStep> steps = path.steps;
    steps.push_back(step);
    for (const std::string& name : model.desk().names().readable(*target)) {
      any.parts.push_back(throughSteps(steps, contains(name, text)));
    }
  }
  return any;
}

FindBar::FindBar(SheetModel& model, std::function<std::vector<int>()> shownColumns, QWidget* parent)
    : QWidget(parent), model_(model), shownColumns_(std::move(shownColumns)) {
  setObjectName("findBar");
  auto* layout = new QHBoxLayout(this);
  layout->setContentsMargins(47, 4, 20, 8);
  layout->setSpacing(8);
  auto* head = new QLabel(tr("Find"), this);
  head->setFont(serif(1.1));
  line_ = new QLineEdit(this);
  line_->setObjectName("findLine");
  line_->setAccessibleName(tr("What to find"));
  line_->setFixedWidth(260);
  line_->installEventFilter(this);
  by_ = new QComboBox(this);
  by_->setObjectName("findBy");
  by_->setAccessibleName(tr("Where to find it"));
  by_->addItems(
      {tr("in this column"), tr("in all columns shown"), tr("by its key"), tr("by its number in this order")});
  by_->installEventFilter(this);
  auto* before = new QPushButton(tr("Previous"), this);
  auto* after = new QPushButton(tr("Next"), this);
  before->setToolTip(tr("Shift+F3"));
  after->setToolTip(tr("F3"));
  answer_ = new QLabel(this);
  answer_->setObjectName("findAnswer");
  for (QWidget* w : std::initializer_list<QWidget*>{head, line_, by_, before, after}) layout->addWidget(w);
  layout->addWidget(answer_, 1);
  connect(before, &QPushButton::clicked, this, [this] { step(true); });
  connect(after, &QPushButton::clicked, this, [this] { step(false); });
  connect(line_, &QLineEdit::textEdited, this, [this] { say({}); });
  connect(by_, &QComboBox::currentIndexChanged, this, [this] { say({}); });
  connect(&model_.source(), &RecordSource::restarted, this, &FindBar::forget);
  hide();
}

void FindBar::open(By by, int column, int row) {
  setCurrent(column, row);
  by_->setItemText(0, tr("in %1").arg(model_.columnName(std::clamp(column, 0, model_.columnCount() - 1))));
  by_->setCurrentIndex(static_cast<int>(by));
  say({});
  show();
  line_->setFocus();
  line_->selectAll();
}

void FindBar::setCurrent(int column, int row) {
  if (!isVisible()) column_ = std::max(0, column);
  row_ = row;
}

void FindBar::say(const QString& text, bool wrong) {
  answer_->setText(text);
  answer_->setStyleSheet(QStringLiteral("color: %1;").arg(css(wrong ? roles().query : roles().soft)));
}

void FindBar::forget() {
  matches_.clear();
  asked_.clear();
  if (searching_) searching_->cancel();
  ++search_;
}

// What the records that are looked for are like.
Result<Condition> FindBar::sought() const {
  const QString text = line_->text();
  const auto by = static_cast<By>(by_->currentIndex());
  if (by == By::Column && model_.lens(column_) != nullptr && model_.lens(column_)->kind != LensKind::Masked) {
    // What is read there is not what lies there: the value is looked for.
    ITERANDUM_ASSIGN(Value value, model_.typed(column_, text));
    Condition same;
    same.op = value.isNull() ? Condition::Op::NoValue : Condition::Op::Equal;
    same.column = model_.path(column_).column;
    same.value = std::move(value);
    return throughSteps(model_.path(column_).steps, std::move(same));
  }
  if (by == By::Column) return containsText(model_, {column_}, text);
  if (by == By::All) return containsText(model_, shownColumns_(), text);
  return keyIs(model_.table(), text);
}

void FindBar::goToPosition() {
  bool number = false;
  const qlonglong n = QLocale().toLongLong(line_->text().trimmed(), &number);
  const qlonglong plain = number ? n : QString(line_->text()).remove(QLatin1Char(' ')).toLongLong(&number);
  if (!number || plain < 1) return say(tr("A number is wanted here."), true);
  if (plain > model_.source().rows()) {
    const QString count = QLocale().toString(model_.source().rows());
    return say(model_.source().complete() ? tr("There are %1 records.").arg(count)
                                          : tr("%1 records are counted so far.").arg(count),
               true);
  }
  say({});
  emit found(static_cast<int>(plain) - 1);
}

void FindBar::step(bool backwards) {
  if (line_->text().isEmpty()) return;
  backwards_ = backwards;
  if (static_cast<By>(by_->currentIndex()) == By::Position) return goToPosition();
  const QString asked = QString::number(by_->currentIndex()) + QLatin1Char('\n') + QString::number(column_) +
                        QLatin1Char('\n') + line_->text();
  if (asked == asked_) return takeMatches(std::move(matches_));
  asked_ = asked;
  search();
}

void FindBar::search() {
  const auto condition = sought();
  if (!condition) {
    asked_.clear();
    return say(toQ(condition.error().message), true);
  }
  say(tr("looking…"));
  Query query;
  query.table = &model_.table();
  query.columns = query.table->writeKeyColumns();
  query.where = bothHold(model_.source().where(), *condition);
  query.order = model_.source().order();
  query.limit = kMostMatches;
  const std::uint64_t search = ++search_;
  if (searching_) searching_->cancel();
  searching_ = model_.desk().behind().post(
      this,
      [query, index = model_.source().index()](Session& session, Progress& progress) -> Result<std::vector<int>> {
        // They come in the order of the sheet, so each lies behind the one before; one that somebody moved does not.
        std::vector<int> rows;
        std::size_t from = 0;
        ITERANDUM_TRY(session.select(
            query,
            [&](ValueTuple&& key) {
              auto row = index.find(key, from);
              if (!row) row = index.find(key);
              if (row) {
                rows.push_back(static_cast<int>(*row));
                from = *row + 1;
              }
              return !progress.cancelled();
            },
            progress));
        std::sort(rows.begin(), rows.end());
        return rows;
      },
      [this, search](Result<std::vector<int>>&& rows) {
        if (search != search_) return;
        if (rows) return takeMatches(std::move(*rows));
        asked_.clear();
        if (rows.error().kind != ErrorKind::Cancelled) say(toQ(rows.error().text()), true);
      });
}

void FindBar::takeMatches(std::vector<int> matches) {
  matches_ = std::move(matches);
  if (matches_.empty()) {
    return say(model_.source().complete() ? tr("Nothing found.") : tr("Nothing found in the records counted so far."),
               true);
  }
  auto at = std::upper_bound(matches_.begin(), matches_.end(), row_);
  bool round = false;
  if (backwards_) {
    at = std::lower_bound(matches_.begin(), matches_.end(), row_);
    round = at == matches_.begin();
    at = round ? matches_.end() - 1 : at - 1;
  } else if (at == matches_.end()) {
    round = true;
    at = matches_.begin();
  }
  const QLocale locale;
  QString text = tr("%1 of %2")
                     .arg(locale.toString(static_cast<int>(at - matches_.begin()) + 1),
                          locale.toString(static_cast<int>(matches_.size())));
  if (round && matches_.size() > 1) text += backwards_ ? tr(", on from the end") : tr(", on from the beginning");
  say(text);
  row_ = *at;
  emit found(*at);
}

bool FindBar::eventFilter(QObject* watched, QEvent* event) {
  if (event->type() == QEvent::KeyPress) {
    const auto* key = static_cast<QKeyEvent*>(event);
    if (key->key() == Qt::Key_Return || key->key() == Qt::Key_Enter) {
      step(key->modifiers().testFlag(Qt::ShiftModifier));
      return true;
    }
    if (key->key() == Qt::Key_Escape) {
      forget();
      hide();
      emit left();
      return true;
    }
  }
  return QWidget::eventFilter(watched, event);
}

}  // namespace iterandum
