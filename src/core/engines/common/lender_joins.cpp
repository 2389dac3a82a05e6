#include "core/engines/common/lender_joins.h"

#include <algorithm>

#include "core/engines/common/condition_sql.h"

namespace iterandum {

std::string LenderJoins::alias(std::size_t join) { return join == 0 ? kQueryAlias : "l" + std::to_string(join); }

std::string LenderJoins::column(const std::vector<ReferenceStep>& steps, const std::string& name) {
  std::size_t at = 0;
  for (const ReferenceStep& step : steps) {
    const auto known =
        std::find_if(joins_.begin(), joins_.end(), [&](const Join& j) { return j.from == at && j.step == step; });
    const std::size_t from = at;
    at = static_cast<std::size_t>(known - joins_.begin()) + 1;
    if (known == joins_.end()) joins_.push_back({from, step});
  }
  return alias(at) + "." + identifier_(name);
}

std::string LenderJoins::text() const {
  std::string out;
  for (std::size_t j = 0; j < joins_.size(); ++j) {
    const ReferenceStep& step = joins_[j].step;
    out += " LEFT JOIN " + tableName_(*step.target) + " AS " + alias(j + 1) + " ON ";
    for (std::size_t i = 0; i < step.join.size(); ++i) {
      out += (i > 0 ? " AND " : "") + alias(j + 1) + "." + identifier_(step.join[i].second) + " = " +
             alias(joins_[j].from) + "." + identifier_(step.join[i].first);
    }
  }
  return out;
}

}  // namespace iterandum
