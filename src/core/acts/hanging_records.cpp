#include "core/acts/hanging_records.h"

#include <algorithm>
#include <map>
#include <numeric>
#include <unordered_set>

#include "core/scope/condition_text.h"

namespace iterandum {
namespace {

class Gathering {
 public:
  Gathering(Session& session, const Catalogue& catalogue, Hanging which, std::size_t most, Progress& progress)
      : session_(session), catalogue_(catalogue), which_(which), most_(most), progress_(progress) {}

  Status readOwn(const Table& table, const std::vector<ValueTuple>& keys) {
    const std::vector<std::string> names = table.writeKeyColumns();
    std::vector<ValueColumn> columns(names.size());
    for (const ValueTuple& key : keys) {
      for (std::size_t k = 0; k < columns.size(); ++k) columns[k].push(key[k]);
    }
    std::vector<std::uint32_t> rows(keys.size());
    std::iota(rows.begin(), rows.end(), 0U);
    const KeyRead read{&table, names, &columns, rows, table.recordColumns(), 1};
    return session_.readByKeys(
        read, [&](std::size_t, ValueTuple&& record) { take(table, std::move(record)); }, progress_);
  }

  // Those that point at records that were taken, until there are no more.
  Status readOn() {
    for (std::size_t next = 0; next < order_.size(); ++next) {
      const auto [table, at] = order_[next];
      for (const IncomingReference& in : catalogue_.referencesTo(table->name)) {
        const Table& child = catalogue_.tables()[in.table];
        const Reference& reference = child.references[in.reference];
        if (reference.targetMissing || (which_ == Hanging::CouldNotStay && letsGo(reference))) continue;
        ITERANDUM_TRY(readChildren(*table, at, child, reference));
        if (order_.size() > most_) {
          return fail(ErrorKind::Unsupported,
                      "more than " + std::to_string(most_) + " records hang on these; take them in several steps");
        }
      }
    }
    return {};
  }

  [[nodiscard]] std::vector<HangingRecords> take() { return std::move(found_); }

 private:
  static bool letsGo(const Reference& reference) {
    return reference.onDelete == ReferenceAction::SetNull || reference.onDelete == ReferenceAction::SetDefault;
  }

  Status readChildren(const Table& parent, std::size_t at, const Table& child, const Reference& reference) {
    if (child.writeKeyColumns().empty()) {
      return fail(ErrorKind::Unsupported, "records of " + displayName(child.name) + " may point here, and have no key");
    }
    const ValueTuple record = recordsOf(parent).records[at];
    Query query;
    query.table = &child;
    query.columns = child.recordColumns();
    query.limit = most_ + 1;
    for (std::size_t k = 0; k < reference.columns.size(); ++k) {
      const auto target = parent.columnIndex(reference.targetColumns[k]);
      if (!target || record[*target].isNull()) return {};
      Condition part;
      part.op = Condition::Op::Equal;
      part.column = child.columns[reference.columns[k]].name;
      part.value = record[*target];
      query.where = bothHold(std::move(query.where), std::move(part));
    }
    std::vector<ValueTuple> children;
    ITERANDUM_TRY(session_.select(
        query,
        [&](ValueTuple&& one) {
          children.push_back(std::move(one));
          return true;
        },
        progress_));
    for (ValueTuple& one : children) take(child, std::move(one));
    return {};
  }

  HangingRecords& recordsOf(const Table& table) {
    const auto known =
        std::find_if(found_.begin(), found_.end(), [&](const HangingRecords& h) { return h.table == &table; });
    if (known != found_.end()) return *known;
    found_.push_back({&table, {}, {}});
    return found_.back();
  }

  void take(const Table& table, ValueTuple&& record) {
    const std::vector<std::string> columns = table.recordColumns();
    ValueTuple key;
    for (const std::string& name : table.writeKeyColumns()) {
      key.push_back(
          record[static_cast<std::size_t>(std::find(columns.begin(), columns.end(), name) - columns.begin())]);
    }
    if (!seen_[&table].insert(key).second) return;
    HangingRecords& records = recordsOf(table);
    order_.emplace_back(&table, records.records.size());
    records.keys.push_back(std::move(key));
    records.records.push_back(std::move(record));
  }

  Session& session_;
  const Catalogue& catalogue_;
  Hanging which_;
  std::size_t most_;
  Progress& progress_;
  std::vector<HangingRecords> found_;
  std::vector<std::pair<const Table*, std::size_t>> order_;  // as they were found
  std::map<const Table*, std::unordered_set<ValueTuple, TupleHash, TupleSame>> seen_;
};

}  // namespace

Result<std::vector<HangingRecords>> withHangingRecords(Session& session, const Catalogue& catalogue, const Table& table,
                                                       const std::vector<ValueTuple>& keys, Hanging which,
                                                       std::size_t most, Progress& progress) {
  Gathering gathering(session, catalogue, which, most, progress);
  ITERANDUM_TRY(gathering.readOwn(table, keys));
  ITERANDUM_TRY(gathering.readOn());
  return gathering.take();
}

}  // namespace iterandum
