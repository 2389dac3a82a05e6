#include "core/scope/reference_naming.h"

#include "core/scope/column_path.h"

namespace iterandum {

std::optional<ReferenceNaming> referenceNaming(const Table& table, const Column& column,
                                               const ConditionContext& context) {
  if (context.catalogue == nullptr) return std::nullopt;
  for (const Reference& r : table.references) {
    if (r.columns.size() != 1 || &table.columns[r.columns[0]] != &column || r.targetMissing) continue;
    const Table* target = context.catalogue->find(r.target);
    if (target == nullptr || !target->unusable.empty()) return std::nullopt;
    ReferenceNaming out{stepAlong(table, r, *target), {}};
    if (!cannotBorrow({{out.step}, {}}).empty()) return std::nullopt;
    for (const std::string& name : context.namesOf(*target)) {
      const Column* called = target->column(name);
      if (called != nullptr && name != r.targetColumns[0]) out.columns.push_back(called);
    }
    return out.columns.empty() ? std::nullopt : std::optional(std::move(out));
  }
  return std::nullopt;
}

}  // namespace iterandum
