#include "app/card/card_incoming.h"

#include <QLabel>
#include <QLocale>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/records/column_values.h"
#include "app/style/roles.h"
#include "core/scope/condition_text.h"

namespace iterandum {

CardIncoming::CardIncoming(SheetModel& model, QWidget* parent) : QWidget(parent), model_(model) {
  setObjectName("incoming");
  auto* lines = new QVBoxLayout(this);
  lines->setContentsMargins(6, 16, 0, 0);
  lines->setSpacing(0);
}

std::vector<CardIncoming::Incoming> CardIncoming::incomingOf(const ValueTuple& record) const {
  std::vector<Incoming> out;
  const Catalogue& catalogue = model_.desk().catalogue();
  for (const IncomingReference& in : catalogue.referencesTo(model_.table().name)) {
    const Table& child = catalogue.tables()[in.table];
    const Reference& reference = child.references[in.reference];
    Incoming one{&child, {}, {displayName(child.name), {}, {}, {}}};
    bool usable = !reference.targetMissing;
    for (std::size_t k = 0; k < reference.columns.size() && usable; ++k) {
      const auto at = model_.table().columnIndex(reference.targetColumns[k]);
      usable = at.has_value();
      if (!usable) break;
      Condition part;
      part.op = Condition::Op::Equal;
      part.column = child.columns[reference.columns[k]].name;
      part.value = record[*at];
      one.scope.filters.push_back({part.column, filterFor(record[*at]).toStdString()});
      one.where = bothHold(std::move(one.where), std::move(part));
    }
    if (usable) out.push_back(std::move(one));
  }
  return out;
}

void CardIncoming::show(int row) {
  fill({}, {});
  const std::uint64_t counting = ++counting_;
  const RecordRef ref = row < 0 ? RecordRef{} : model_.ref(row);
  const ValueTuple* record = row < 0 || ref.isAdded() ? nullptr : model_.source().record(row);
  if (record == nullptr) return;
  const std::vector<Incoming> incoming = incomingOf(*record);
  if (incoming.empty()) return;
  model_.desk().behind().post(
      this,
      [incoming](Session& session, Progress& progress) -> Result<std::vector<std::uint64_t>> {
        std::vector<std::uint64_t> counts;
        for (const Incoming& one : incoming) {
          Query query;
          query.table = one.table;
          query.where = one.where;
          ITERANDUM_ASSIGN(const std::uint64_t n, session.count(query, progress));
          counts.push_back(n);
        }
        return counts;
      },
      [this, incoming, counting](Result<std::vector<std::uint64_t>>&& counts) {
        if (counts && counting == counting_) fill(incoming, *counts);
      });
}

void CardIncoming::fill(const std::vector<Incoming>& incoming, const std::vector<std::uint64_t>& counts) {
  qDeleteAll(findChildren<QWidget*>(QString(), Qt::FindDirectChildrenOnly));
  if (incoming.empty()) return;
  auto* head = new QLabel(tr("Points at this record"), this);
  head->setFont(serif());
  layout()->addWidget(head);
  for (std::size_t i = 0; i < incoming.size(); ++i) {
    const QString name = toQ(incoming[i].table->name.name);
    const QString count = QLocale().toString(static_cast<qulonglong>(counts[i]));
    auto* line = new QPushButton(QStringLiteral("%1   %2   →").arg(name, count), this);
    line->setObjectName("line");
    line->setAccessibleName(tr("%1 of %2 point here; open them").arg(count, name));
    line->setToolTip(tr("Opens these records as a sheet"));
    line->setEnabled(counts[i] > 0);
    connect(line, &QPushButton::clicked, this, [this, scope = incoming[i].scope] { emit openAsked(scope); });
    layout()->addWidget(line);
    line->show();
  }
}

}  // namespace iterandum
