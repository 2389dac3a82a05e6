#include "core/files/shown_values.h"

namespace iterandum {

Result<ShownValues> ShownValues::read(const ReadScope& scope, const Catalogue& catalogue, const CalledBy& calledBy,
                                      const std::vector<Lens>& lenses, Session& session, Progress& progress) {
  ShownValues out;
  for (const ColumnPath& path : scope.columns) {
    Shown& one = out.columns_.emplace_back();
    const Table& owner = path.owner(*scope.table);
    const Column* column = owner.column(path.column);
    if (column == nullptr) continue;
    one.column = *column;
    for (const Lens& lens : lenses) {
      const bool isIts = lens.table == displayName(owner.name) && lens.column == column->name;
      if (isIts && lensUnsound(lens).empty() && lensUnsuited(lens, *column).empty()) one.lens = lens;
    }
    const auto reference = one.lens ? std::nullopt : calledReference(owner, *column, catalogue, calledBy);
    if (!reference || !reference->hasNames()) continue;
    ITERANDUM_TRY(eachCalled(
        session, *reference, NamedKeys::kMost + 1,
        [&](Value&& key, std::string&& called) {
          one.names.insert_or_assign(canonicalText(key), std::move(called));
          return true;
        },
        progress));
    if (one.names.size() > NamedKeys::kMost) one.names.clear();
  }
  return out;
}

Value ShownValues::shown(std::size_t column, const Value& value) const {
  const Shown& one = columns_[column];
  if (value.isNull()) return value;
  if (one.lens) {
    const auto text = shownThrough(*one.lens, one.column, value);
    return text ? Value::text(*text) : value;
  }
  const auto found = one.names.find(canonicalText(value));
  return found == one.names.end() ? value : Value::text(found->second);
}

}  // namespace iterandum
