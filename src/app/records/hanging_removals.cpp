#include "app/records/hanging_removals.h"

#include <QCoreApplication>
#include <QLocale>
#include <unordered_set>

#include "app/values/shown_value.h"

namespace iterandum {

HangingRemovals removalsOf(const std::vector<HangingRecords>& found, const Table* table,
                           const std::vector<ValueTuple>& staged) {
  HangingRemovals out;
  QStringList words;
  const std::unordered_set<ValueTuple, TupleHash, TupleSame> known(staged.begin(), staged.end());
  for (const HangingRecords& hanging : found) {
    StagedWork::Removal removal{hanging.table, {}, {}};
    for (std::size_t i = 0; i < hanging.keys.size(); ++i) {
      if (hanging.table == table && known.contains(hanging.keys[i])) continue;
      removal.refs.push_back({hanging.table->name, hanging.keys[i], 0});
      removal.records.push_back(hanging.records[i]);
    }
    if (removal.refs.empty()) continue;
    if (!hanging.table->notEditable.empty() || !hanging.table->cannotRemove.empty()) {
      out.cannot =
          QCoreApplication::translate("HangingRemovals", "records of %1 point here, and none of them can be removed")
              .arg(toQ(displayName(hanging.table->name)));
    }
    words << QCoreApplication::translate("HangingRemovals", "%1 of %2")
                 .arg(QLocale().toString(static_cast<qulonglong>(removal.refs.size())), toQ(hanging.table->name.name));
    out.removals.push_back(std::move(removal));
  }
  out.words = words.join(QStringLiteral(", "));
  return out;
}

}  // namespace iterandum
