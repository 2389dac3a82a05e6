#include "app/card/card_incoming.h"

#include <QApplication>
#include <QHBoxLayout>
#include <QLabel>
#include <QLocale>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>

#include "app/records/column_values.h"
#include "app/style/roles.h"
#include "core/scope/condition_text.h"

namespace iterandum {

CardIncoming::CardIncoming(SheetModel& model, QWidget* parent) : QWidget(parent), model_(model) {
  setObjectName("incoming");
  auto* lines = new QVBoxLayout(this);
  lines->setContentsMargins(6, 16, 0, 0);
  lines->setSpacing(0);
  head_ = new QLabel(tr("Points at this record"), this);
  head_->setFont(serif());
  lines->addWidget(head_);
  const Catalogue& catalogue = model_.desk().catalogue();
  for (const IncomingReference& in : catalogue.referencesTo(model_.table().name)) {
    const Table& child = catalogue.tables()[in.table];
    addSection(child, child.references[in.reference]);
  }
  // The first one is there without being asked for.
  if (!sections_.empty()) sections_.front()->open = true;
  head_->hide();
}

void CardIncoming::addSection(const Table& child, const Reference& reference) {
  auto section = std::make_unique<Section>();
  section->table = &child;
  section->reference = &reference;
  for (const std::string& name : reference.targetColumns) {
    const auto at = model_.table().columnIndex(name);
    if (reference.targetMissing || !at) return;
    section->targets.push_back(*at);
  }
  auto* row = new QHBoxLayout;
  section->line = new QPushButton(this);
  section->line->setObjectName("line");
  section->asSheet = new QPushButton(tr("As a sheet →"), this);
  section->asSheet->setObjectName("line");
  section->asSheet->setToolTip(tr("Opens these records as a sheet"));
  section->asSheet->setAccessibleName(tr("%1: open as a sheet").arg(toQ(child.name.name)));
  section->line->hide();
  section->asSheet->hide();
  row->addWidget(section->line, 1);
  row->addWidget(section->asSheet);
  static_cast<QVBoxLayout*>(layout())->addLayout(row);
  Section* one = section.get();
  connect(one->line, &QPushButton::clicked, this,
          [this, one] { inPlace_ ? toggle(*one) : emit openAsked(one->scope); });
  connect(one->asSheet, &QPushButton::clicked, this, [this, one] { emit openAsked(one->scope); });
  sections_.push_back(std::move(section));
}

void CardIncoming::setInPlace(bool inPlace) {
  if (inPlace_ == inPlace) return;
  inPlace_ = inPlace;
  shown_.reset();
  show(row_);
}

// What points at the record, as a condition and as a sheet's scope.
void CardIncoming::point(Section& section, const ValueTuple& record) {
  section.where = {};
  section.scope = {displayName(section.table->name), {}, {}, {}};
  section.count.reset();
  for (std::size_t k = 0; k < section.targets.size() && !record.empty(); ++k) {
    Condition part;
    part.op = Condition::Op::Equal;
    part.column = section.table->columns[section.reference->columns[k]].name;
    part.value = record[section.targets[k]];
    section.scope.filters.push_back({part.column, filterFor(part.value).toStdString()});
    section.where = bothHold(std::move(section.where), std::move(part));
  }
}

void CardIncoming::show(int row) {
  row_ = row;
  const RecordRef ref = row < 0 ? RecordRef{} : model_.ref(row);
  const ValueTuple* record = row < 0 || ref.isAdded() ? nullptr : model_.source().record(row);
  const bool known = row >= 0 && (record != nullptr || (ref.isAdded() && inPlace_));
  const ValueTuple values = record == nullptr ? ValueTuple() : *record;
  if (known && shown_ && *shown_ == ref && sameTuple(values, values_)) return;
  ++counting_;  // what is being counted is of another record
  values_ = values;
  shown_.reset();
  if (known) shown_ = ref;
  head_->setVisible(known && !sections_.empty());
  for (const auto& section : sections_) {
    point(*section, values_);
    section->line->setVisible(known && inPlace_);
    section->asSheet->setVisible(known && inPlace_);
    say(*section);
    if (section->sheet != nullptr) section->sheet->setVisible(known && inPlace_ && section->open);
    if (known && inPlace_ && section->open) showSheet(*section);
  }
  if (known && !ref.isAdded()) count();
}

// Old numbers and keys would be those of another record: nothing is shown until they are counted.
void CardIncoming::count() {
  const std::uint64_t counting = counting_;
  std::vector<std::pair<const Table*, Condition>> asked;
  for (const auto& section : sections_) asked.emplace_back(section->table, section->where);
  model_.desk().behind().post(
      this,
      [asked](Session& session, Progress& progress) -> Result<std::vector<std::uint64_t>> {
        std::vector<std::uint64_t> counts;
        for (const auto& [table, where] : asked) {
          Query query;
          query.table = table;
          query.where = where;
          ITERANDUM_ASSIGN(const std::uint64_t n, session.count(query, progress));
          counts.push_back(n);
        }
        return counts;
      },
      [this, counting](Result<std::vector<std::uint64_t>>&& counts) {
        if (!counts || counting != counting_ || !shown_) return;
        for (std::size_t i = 0; i < counts->size(); ++i) {
          sections_[i]->count = (*counts)[i];
          sections_[i]->line->show();
          say(*sections_[i]);
        }
      });
}

// By which column, where the table points here by several.
QString CardIncoming::nameOf(const Section& section) const {
  const QString name = toQ(section.table->name.name);
  const auto ways = std::count_if(sections_.begin(), sections_.end(),
                                  [&](const auto& other) { return other->table == section.table; });
  return ways < 2 ? name : tr("%1 by %2").arg(name, toQ(section.table->columns[section.reference->columns[0]].name));
}

void CardIncoming::say(const Section& section) const {
  const QString name = nameOf(section);
  const QString count =
      section.count ? QLocale().toString(static_cast<qulonglong>(*section.count)) : QStringLiteral(" ");
  if (!inPlace_) {
    section.line->setText(QStringLiteral("%1   %2   →").arg(name, count));
    section.line->setAccessibleName(tr("%1 of %2 point here; open them").arg(count, name));
    section.line->setToolTip(tr("Opens these records as a sheet"));
    section.line->setEnabled(section.count.value_or(0) > 0);
    return;
  }
  section.line->setText(
      QStringLiteral("%1  %2   %3").arg(section.open ? QStringLiteral("▾") : QStringLiteral("▸"), name, count));
  section.line->setAccessibleName(section.open ? tr("%1 of %2 point here; close them").arg(count, name)
                                               : tr("%1 of %2 point here; open them here").arg(count, name));
  section.line->setToolTip(section.open ? tr("Closes them") : tr("Opens them here, to be changed, added and removed"));
  section.line->setEnabled(true);
  section.asSheet->setEnabled(section.count.value_or(0) > 0);
}

void CardIncoming::toggle(Section& section) {
  section.open = !section.open;
  say(section);
  if (!section.open) {
    if (section.sheet != nullptr) section.sheet->hide();
    return;
  }
  showSheet(section);
  section.sheet->view().setFocus();
}

SheetModel::HeldByAll CardIncoming::heldBy(const Section& section) const {
  SheetModel::HeldByAll out;
  for (std::size_t k = 0; k < section.targets.size(); ++k) {
    const std::string& column = section.table->columns[section.reference->columns[k]].name;
    if (shown_->isAdded()) {
      out.emplace_back(column, Value::pendingKey(addedLabel(shown_->addedId)));
    } else {
      // As the record will be called.
      const CellState state = model_.cell(row_, static_cast<int>(section.targets[k]));
      out.emplace_back(column, state.staged ? state.staged->to : values_[section.targets[k]]);
    }
  }
  return out;
}

void CardIncoming::showSheet(Section& section) {
  if (!shown_) return;
  if (section.sheet == nullptr) {
    section.sheet = new ChildSheet(model_.desk(), *section.table, section.reference->columns, this);
    auto* lines = static_cast<QVBoxLayout*>(layout());
    int at = 0;
    while (at < lines->count() &&
           (lines->itemAt(at)->layout() == nullptr || lines->itemAt(at)->layout()->indexOf(section.line) < 0)) {
      ++at;
    }
    lines->insertWidget(at + 1, section.sheet);
    connect(section.sheet, &ChildSheet::said, this, &CardIncoming::said);
    emit sheetMade(&section.sheet->view());
  }
  const bool readable = !shown_->isAdded() && std::none_of(section.targets.begin(), section.targets.end(),
                                                           [this](std::size_t c) { return values_[c].isNull(); });
  section.sheet->show(readable ? std::optional(section.where) : std::nullopt, heldBy(section));
  section.sheet->setVisible(true);
}

SheetView* CardIncoming::viewWithKeys() const {
  const QWidget* focused = QApplication::focusWidget();
  for (const auto& section : sections_) {
    if (section->sheet == nullptr || focused == nullptr) continue;
    if (section->sheet == focused || section->sheet->isAncestorOf(focused)) return &section->sheet->view();
  }
  return nullptr;
}

bool CardIncoming::shows(const TableName& child) const {
  return std::any_of(sections_.begin(), sections_.end(), [&](const auto& section) {
    return section->table->name == child && section->sheet != nullptr && section->sheet->isVisible();
  });
}

}  // namespace iterandum
