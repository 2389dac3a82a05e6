#include "core/acts/act_run.h"

#include <memory>

#include "core/scope/column_path.h"
#include "core/scope/condition_text.h"

namespace iterandum {
namespace {

constexpr std::size_t kBatch = 4096;

// The records of the query for which the condition holds.
Result<KeySet> keysWhere(Session& session, const Query& which, const Condition& fact, Progress& progress) {
  Query query;
  query.table = which.table;
  query.where = bothHold(which.where, fact);
  query.columns = which.table->writeKeyColumns();
  KeySet out;
  ITERANDUM_TRY(session.select(
      query,
      [&](ValueTuple&& key) {
        out.insert(std::move(key));
        return true;
      },
      progress));
  return out;
}

}  // namespace

Result<std::vector<KeySet>> factsOf(Session& session, const Query& which, const RecordNeeds& needs,
                                    Progress& progress) {
  std::vector<KeySet> facts;
  for (const Condition& fact : needs.facts) {
    ITERANDUM_ASSIGN(KeySet keys, keysWhere(session, which, fact, progress));
    facts.push_back(std::move(keys));
  }
  return facts;
}

Status actOn(Session& session, const Query& which, const RecordActs& acts, const ActedSink& sink, Progress& progress) {
  Query query;
  query.table = which.table;
  query.where = which.where;
  query.order = which.order;
  query.limit = which.limit;
  const RecordNeeds& needs = acts.needs();
  const std::vector<std::size_t> from = askForColumns(needs.columns, query);
  const std::size_t keyWidth = which.table->writeKeyColumns().size();
  ITERANDUM_ASSIGN(const std::vector<KeySet> facts, factsOf(session, which, needs, progress));
  // While the query runs, the session cannot be asked for anything else.
  const bool asks = acts.asksTheDatabase();
  // They are used again, so that their room is: the first `used` of them count.
  std::vector<ActedRecord> records(asks ? 0 : kBatch);
  std::size_t used = 0;
  std::uint64_t number = 0;
  Status acted;
  bool goesOn = true;
  const auto handOver = [&] {
    const std::span<ActedRecord> batch(records.data(), used);
    acted = acts.run(batch, asks ? &session : nullptr, progress);
    goesOn = acted && (batch.empty() || sink(batch));
    used = 0;
  };
  ITERANDUM_TRY(session.select(
      query,
      [&](ValueTuple&& row) {
        if (used == records.size()) records.emplace_back();
        ActedRecord& record = records[used++];
        record.number = ++number;
        record.failure.reset();
        record.values.resize(from.size());
        for (std::size_t i = 0; i < from.size(); ++i) record.values[i] = std::move(row[from[i]]);
        if (!facts.empty()) {
          const ValueTuple key(record.values.begin(), record.values.begin() + static_cast<std::ptrdiff_t>(keyWidth));
          record.facts.clear();
          for (const KeySet& keys : facts) record.facts.push_back(keys.contains(key) ? 1 : 0);
        }
        if (!asks && used == kBatch) handOver();
        return goesOn;
      },
      progress));
  if (goesOn) handOver();
  return acted;
}

void ActCounts::count(const RecordActs& acts, const ActedRecord& record) {
  ++meant;
  if (record.failed()) {
    ++failed;
    return;
  }
  bool any = false;
  for (std::size_t c = 0; c < acts.columns().size() && !any; ++c) any = acts.differs(record, c);
  ++(any ? differ : already);
}

std::string inWords(const ActCounts& counts) {
  const auto several = [](std::uint64_t n, const char* one, const char* more) {
    return std::to_string(n) + (n == 1 ? one : more);
  };
  return several(counts.meant, " record is meant: ", " records are meant: ") +
         several(counts.differ, " changes, ", " change, ") +
         several(counts.already, " is so already, ", " are so already, ") + several(counts.failed, " fails", " fail");
}

}  // namespace iterandum
