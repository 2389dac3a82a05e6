#include "app/session/lent_records.h"

#include <QMetaObject>
#include <numeric>

namespace iterandum {
namespace {
// More than this is far more than a screen shows; what is still looked at is read again.
constexpr std::size_t kMostRecords = 50000;
}  // namespace

LentRecords::Answer LentRecords::record(const ReferenceStep& step, const ValueTuple& there) {
  std::vector<std::string> columns;
  for (const auto& pair : step.join) columns.push_back(pair.second);
  const auto which = std::make_pair(step.target, columns);
  Lender& lender = lenders_[which];
  lender.table = step.target;
  lender.columns = columns;
  const auto known = lender.records.find(there);
  if (known != lender.records.end()) return {true, known->second.get()};
  if (lender.failed.contains(there)) return {};
  lender.wanted.emplace(there, true);
  // All that one painting asks for goes in one question.
  if (!lender.asking) {
    lender.asking = true;
    QMetaObject::invokeMethod(
        this, [this, which] { ask(which); }, Qt::QueuedConnection);
  }
  return {};
}

void LentRecords::forget() {
  ++generation_;
  lenders_.clear();
}

void LentRecords::ask(const std::pair<const Table*, std::vector<std::string>>& which) {
  const auto at = lenders_.find(which);
  if (at == lenders_.end()) return;
  Lender& lender = at->second;
  auto keys = std::make_shared<std::vector<ValueColumn>>(lender.columns.size());
  auto asked = std::make_shared<std::vector<ValueTuple>>();
  for (const auto& [there, flag] : lender.wanted) {
    for (std::size_t k = 0; k < keys->size(); ++k) (*keys)[k].push(there[k]);
    asked->push_back(there);
  }
  lender.wanted.clear();
  if (lender.records.size() > kMostRecords) lender.records.clear();
  using Found = std::vector<std::pair<std::size_t, ValueTuple>>;
  session_.post(
      this,
      [which, keys](Session& session, Progress& progress) -> Result<Found> {
        std::vector<std::uint32_t> positions(keys->front().size());
        std::iota(positions.begin(), positions.end(), 0U);
        const KeyRead read{which.first, which.second, keys.get(), positions, which.first->recordColumns(), 1};
        Found found;
        ITERANDUM_TRY(session.readByKeys(
            read, [&](std::size_t row, ValueTuple&& record) { found.emplace_back(row, std::move(record)); }, progress));
        return found;
      },
      [this, which, asked, generation = generation_](Result<Found>&& found) {
        if (generation != generation_) return;
        Lender& answered = lenders_[which];
        answered.asking = false;
        if (found) {
          for (const ValueTuple& there : *asked) answered.records.emplace(there, nullptr);
          for (auto& [row, record] : *found) {
            answered.records[(*asked)[row]] = std::make_shared<ValueTuple>(std::move(record));
          }
        } else if (found.error().kind != ErrorKind::Cancelled) {
          for (const ValueTuple& there : *asked) answered.failed.emplace(there, true);
        }
        emit arrived();
      });
}

}  // namespace iterandum
