#include "app/review/conflict_table.h"

#include <QAbstractTableModel>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QItemSelectionModel>
#include <QPushButton>
#include <QTableView>
#include <QVBoxLayout>
#include <algorithm>

#include "app/style/roles.h"

namespace iterandum {
namespace {

enum Place { Record, OfColumn, Before, Theirs, Mine, Places };

class Lines : public QAbstractTableModel {
 public:
  Lines(int count, std::function<ConflictTable::Line(int)> line, QObject* parent)
      : QAbstractTableModel(parent), count_(count), line_(std::move(line)) {}
  [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override { return parent.isValid() ? 0 : count_; }
  [[nodiscard]] int columnCount(const QModelIndex& parent = {}) const override { return parent.isValid() ? 0 : Places; }
  [[nodiscard]] QVariant headerData(int section, Qt::Orientation orientation, int role) const override {
    if (orientation == Qt::Vertical || role != Qt::DisplayRole) return {};
    return QStringList{ConflictTable::tr("record"), ConflictTable::tr("column"), ConflictTable::tr("when you looked"),
                       ConflictTable::tr("theirs, now"), ConflictTable::tr("mine")}
        .value(section);
  }
  [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override {
    if (role == Qt::ForegroundRole) {
      return index.column() == Mine ? roles().blue : (index.column() == Before ? roles().soft : roles().ink);
    }
    if (role != Qt::DisplayRole && role != Qt::ToolTipRole) return {};
    const ConflictTable::Line line = line_(index.row());
    return QStringList{line.record, line.column, line.before, line.theirs, line.mine}.value(index.column());
  }

 private:
  int count_;
  std::function<ConflictTable::Line(int)> line_;
};

}  // namespace

ConflictTable::ConflictTable(int lines, std::function<Line(int)> line, bool oneColumn, bool canCorrect, QWidget* parent)
    : QFrame(parent), model_(new Lines(lines, std::move(line), this)), table_(new QTableView(this)) {
  setObjectName("note");
  build(oneColumn, canCorrect);
  offer();
}

void ConflictTable::build(bool oneColumn, bool canCorrect) {
  auto* layout = new QVBoxLayout(this);
  layout->setObjectName(QStringLiteral("findingWords"));
  table_->setObjectName("conflicts");
  table_->setAccessibleName(tr("Cells that somebody else changed"));
  table_->setModel(model_);
  table_->setSelectionBehavior(QAbstractItemView::SelectRows);
  table_->setSelectionMode(QAbstractItemView::ExtendedSelection);
  table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  table_->setShowGrid(false);
  table_->setFrameShape(QFrame::NoFrame);
  table_->setTabKeyNavigation(false);
  table_->setWordWrap(false);
  table_->setColumnHidden(OfColumn, oneColumn);
  table_->verticalHeader()->hide();
  const int height = table_->fontMetrics().height() + 9;
  table_->verticalHeader()->setDefaultSectionSize(height);
  table_->horizontalHeader()->setSectionResizeMode(QHeaderView::Stretch);
  table_->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
  table_->horizontalHeader()->setHighlightSections(false);
  constexpr int kMostInSight = 9;
  table_->setFixedHeight(table_->horizontalHeader()->sizeHint().height() +
                         std::min(kMostInSight, model_->rowCount()) * height + 4);
  // Above the table, so that they are in sight on a low screen.
  auto* ways = new QHBoxLayout;
  const auto button = [&](const char* name) {
    auto* b = new QPushButton(this);
    b->setObjectName(QLatin1String(name));
    ways->addWidget(b);
    return b;
  };
  mine_ = button("keepChosen");
  theirs_ = button("takeChosen");
  correct_ = button("correctChosen");
  correct_->setText(tr("Something else…"));
  correct_->setVisible(canCorrect);
  go_ = button("goToChosen");
  go_->setText(tr("Go there"));
  ways->addStretch(1);
  layout->addLayout(ways);
  layout->addWidget(table_);
  table_->selectRow(0);
  connect(table_->selectionModel(), &QItemSelectionModel::selectionChanged, this, &ConflictTable::offer);
  // What follows builds the page anew: the button must not be in use any more by then.
  connect(
      mine_, &QPushButton::clicked, this, [this] { emit mineAsked(chosen()); }, Qt::QueuedConnection);
  connect(
      theirs_, &QPushButton::clicked, this, [this] { emit theirsAsked(chosen()); }, Qt::QueuedConnection);
  connect(correct_, &QPushButton::clicked, this, [this] { emit correctAsked(chosen().front()); });
  connect(
      go_, &QPushButton::clicked, this, [this] { emit goAsked(chosen().front()); }, Qt::QueuedConnection);
}

std::vector<int> ConflictTable::chosen() const {
  std::vector<int> out;
  for (const QItemSelectionRange& range : table_->selectionModel()->selection()) {
    for (int row = range.top(); row <= range.bottom(); ++row) out.push_back(row);
  }
  std::sort(out.begin(), out.end());
  out.erase(std::unique(out.begin(), out.end()), out.end());
  return out;
}

void ConflictTable::offer() {
  int count = 0;
  for (const QItemSelectionRange& range : table_->selectionModel()->selection()) count += range.height();
  mine_->setText(count > 1 ? tr("Keep mine in %1").arg(QLocale().toString(count)) : tr("Keep mine"));
  theirs_->setText(count > 1 ? tr("Take theirs in %1").arg(QLocale().toString(count)) : tr("Take theirs"));
  for (QPushButton* b : {mine_, theirs_}) b->setEnabled(count > 0);
  for (QPushButton* b : {correct_, go_}) b->setEnabled(count == 1);
}

}  // namespace iterandum
