#include "app/sheet/merge_in_the_way.h"

#include <QCoreApplication>
#include <algorithm>

#include "app/values/shown_value.h"

namespace iterandum {

// Cells that it would change and that are staged to be something else, and staged cells that point at what goes.
QString mergeInTheWay(const MergePlan& plan, const Table& table, const Desk& desk) {
  const ChangeSet& staged = desk.changes();
  for (const ChangeBlock& block : plan.changes.blocks()) {
    const TableChanges* changes = staged.table(block.table);
    if (changes == nullptr || block.action == Action::Add) continue;
    for (std::size_t row = 0; row < block.rows(); ++row) {
      const auto number = changes->find(block.key(row));
      if (!number) continue;
      const bool other = block.action == Action::Remove
                             ? changes->isEdited(*number)
                             : std::any_of(block.cells.begin(), block.cells.end(), [&](const ChangeBlock::Cells& c) {
                                 return changes->cell(*number, c.column).has_value();
                               });
      if (other || changes->isRemoved(*number)) {
        return QCoreApplication::translate(
                   "MergeSlip",
                   "A record of %1 that this would change has something staged. Apply it or put it back first.")
            .arg(toQ(displayName(block.table)));
      }
    }
  }
  const Catalogue& catalogue = desk.catalogue();
  for (const IncomingReference& in : catalogue.referencesTo(table.name)) {
    const TableChanges* changes = staged.table(catalogue.tables()[in.table].name);
    if (changes != nullptr && !changes->added().empty()) {
      return QCoreApplication::translate(
                 "MergeSlip", "New records of %1 are staged, which may point at one of these. Apply them first.")
          .arg(toQ(displayName(changes->name())));
    }
  }
  return {};
}

}  // namespace iterandum
