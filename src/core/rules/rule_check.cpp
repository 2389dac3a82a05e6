#include "core/rules/rule_check.h"

namespace iterandum {

Result<BrokenRule> recordsBreaking(Session& session, const ReadRule& rule, std::uint64_t mostKeys, Progress& progress) {
  Query query;
  query.table = rule.table;
  query.columns = rule.table->writeKeyColumns();
  query.where = breaks(rule);
  BrokenRule out;
  ITERANDUM_TRY(session.select(
      query,
      [&](ValueTuple&& key) {
        if (out.rows++ < mostKeys) out.keys.push_back(std::move(key));
        return true;
      },
      progress));
  return out;
}

}  // namespace iterandum
