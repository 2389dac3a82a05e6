#include "app/records/record_source.h"

#include <algorithm>
#include <climits>
#include <numeric>

namespace iterandum {
namespace {

constexpr std::uint64_t kFirstScreen = 300;
// Keys come in batches that double, so that a short list is there at once and a long one is not cut into thousands.
constexpr std::size_t kFirstBatch = KeyIndex::kBlock;
constexpr std::size_t kLargestBatch = KeyIndex::kBlock * 256;
// So often the first screen is read again because somebody wrote meanwhile; then the keys are taken as they came.
constexpr int kMostDisagreements = 2;
constexpr std::size_t kMostRows = INT_MAX - 100000;  // new records follow
// Records kept beyond what is on screen: some fifty screens.
constexpr int kMostRecords = 3000;
constexpr int kReadAround = 60;

}  // namespace

RecordSource::RecordSource(Desk& desk, const Table& table, QObject* parent)
    : QObject(parent), desk_(desk), table_(table) {
  const std::vector<std::string> columns = table_.recordColumns();
  for (const std::string& name : table_.writeKeyColumns()) {
    keyAt_.push_back(static_cast<std::size_t>(std::find(columns.begin(), columns.end(), name) - columns.begin()));
  }
  connect(&desk_.names(), &ReferenceNames::forgotten, this, [this] {
    std::vector<std::pair<int, ValueTuple>> records;
    for (auto it = records_.cbegin(); it != records_.cend(); ++it) records.emplace_back(it.key(), *it.value());
    wantNames(records);
  });
}

RecordSource::~RecordSource() {
  if (screenReading_) screenReading_->cancel();
  if (keyReading_) keyReading_->cancel();
}

Query RecordSource::baseQuery() const {
  Query query;
  query.table = &table_;
  query.where = where_;
  query.order = order_;
  return query;
}

void RecordSource::read(Condition where, std::vector<SortKey> order) {
  where_ = std::move(where);
  order_ = std::move(order);
  ++generation_;
  // What may take minutes is not waited for when something else is wanted.
  if (screenReading_) screenReading_->cancel();
  if (keyReading_) keyReading_->cancel();
  reading_ = true;
  stopped_ = false;
  readFirstScreen();
}

void RecordSource::stop() {
  if (complete_ || !reading_) return;
  if (screenReading_) screenReading_->cancel();
  if (keyReading_) keyReading_->cancel();
  stopped_ = true;
}

void RecordSource::forgetRecords() {
  records_.clear();
  gone_.clear();
  requested_.clear();
}

void RecordSource::readFirstScreen() {
  Query query = baseQuery();
  query.columns = table_.recordColumns();
  query.limit = kFirstScreen;
  complete_ = false;
  screenReading_ = desk_.front().post(
      this,
      [query](Session& session, Progress& progress) -> Result<std::vector<ValueTuple>> {
        std::vector<ValueTuple> rows;
        ITERANDUM_TRY(session.select(
            query,
            [&](ValueTuple&& row) {
              rows.push_back(std::move(row));
              return true;
            },
            progress));
        return rows;
      },
      [this, generation = generation_](Result<std::vector<ValueTuple>>&& rows) {
        if (generation != generation_) return;
        if (!rows) {
          reading_ = false;
          const bool stopped = rows.error().kind == ErrorKind::Cancelled;
          emit failed(stopped ? tr("it was stopped") : toQ(rows.error().text()));
          return;
        }
        stopped_ = false;
        emit aboutToRestart();
        forgetRecords();
        index_ = KeyIndex(keyAt_.size());
        std::vector<std::pair<int, ValueTuple>> records;
        for (ValueTuple& row : *rows) {
          ValueTuple key;
          for (const std::size_t at : keyAt_) key.push_back(row[at]);
          index_.push(std::move(key));
          records.emplace_back(static_cast<int>(records.size()), std::move(row));
        }
        rows_ = static_cast<int>(records.size());
        complete_ = records.size() < kFirstScreen;
        emit restarted();
        takeRecords(generation, 0, rows_ - 1, std::move(records));
        if (complete_) {
          reading_ = false;
          emit counted();
        } else {
          readKeys();
        }
        countTable();
      });
}

// One count at a time: whatever the conditions, it is the same table.
void RecordSource::countTable() {
  if (counting_ || !countsTable_) return;
  counting_ = true;
  desk_.behind().post(
      this,
      [query = Query{&table_, {}, {}, {}, {}, {}}](Session& session, Progress& progress) {
        return session.count(query, progress);
      },
      [this](Result<std::uint64_t>&& count) {
        counting_ = false;
        if (count) tableCount_ = *count;
        emit counted();
      });
}

void RecordSource::readKeys() {
  Query query = baseQuery();
  query.columns = table_.writeKeyColumns();
  const std::size_t width = query.columns.size();
  // Batches are handed over while the reading goes on; by the time they arrive this object may be gone.
  const auto handOver = [guard = QPointer<RecordSource>(this), generation = generation_](std::size_t start,
                                                                                         KeyIndex&& keys, bool last) {
    auto shared = std::make_shared<KeyIndex>(std::move(keys));
    QMetaObject::invokeMethod(
        qApp,
        [guard, generation, start, shared, last] {
          if (guard) guard->takeKeys(generation, start, std::move(*shared), last);
        },
        Qt::QueuedConnection);
  };
  keyReading_ = desk_.indexing().post(
      this,
      [query, width, handOver](Session& session, Progress& progress) -> Status {
        KeyIndex batch(width);
        std::size_t start = 0;
        std::size_t size = kFirstBatch;
        ITERANDUM_TRY(session.select(
            query,
            [&](ValueTuple&& row) {
              batch.push(std::move(row));
              if (batch.size() < size) return true;
              const std::size_t count = batch.size();
              handOver(start, std::move(batch), false);
              batch = KeyIndex(width);
              start += count;
              size = std::min(size * 2, kLargestBatch);
              return !progress.cancelled() && start < kMostRows;
            },
            progress));
        if (!progress.cancelled()) handOver(start, std::move(batch), true);
        return {};
      },
      [this, generation = generation_](Status&& status) {
        if (generation != generation_) return;
        reading_ = false;
        if (!status && status.error().kind != ErrorKind::Cancelled) emit failed(toQ(status.error().text()));
        emit counted();
      });
}

// Whether the first screen, read a moment before, is how these begin.
bool RecordSource::agrees(const KeyIndex& keys) const {
  for (std::size_t i = 0; i < keys.size() && i < index_.size(); ++i) {
    if (!sameTuple(keys.key(i), index_.key(i))) return false;
  }
  return keys.size() >= index_.size();
}

void RecordSource::takeKeys(std::uint64_t generation, std::size_t start, KeyIndex&& keys, bool last) {
  if (generation != generation_) return;
  if (start == 0 && !agrees(keys)) {
    // Somebody wrote between the first screen and now: what was shown first is read again.
    if (++disagreements_ <= kMostDisagreements) return refresh();
    emit aboutToRestart();
    forgetRecords();
    index_ = KeyIndex(keyAt_.size());
    rows_ = 0;
    emit restarted();
  }
  if (start == 0) disagreements_ = 0;
  const auto rows = static_cast<int>(start + keys.size());
  const bool grows = rows > rows_;
  if (grows) emit rowsAboutToGrow(rows_, rows - 1);
  if (start == 0) {
    index_ = std::move(keys);
  } else {
    index_.append(std::move(keys));
  }
  rows_ = rows;
  if (grows) emit rowsGrew();
  complete_ = last;
  if (last) reading_ = false;
  emit counted();
}

ValueTuple RecordSource::key(int row) const { return index_.key(static_cast<std::size_t>(row)); }

const ValueTuple* RecordSource::record(int row) const {
  const auto it = records_.constFind(row);
  return it == records_.constEnd() ? nullptr : it->get();
}

bool RecordSource::isGone(int row) const { return gone_.contains(row); }

std::optional<int> RecordSource::rowOf(const ValueTuple& key, int first, int last) const {
  const auto row = index_.find(key, static_cast<std::size_t>(first), static_cast<std::size_t>(last) + 1);
  return row ? std::optional<int>(static_cast<int>(*row)) : std::nullopt;
}

void RecordSource::want(int first, int last) {
  // One look-up at a time: while the bar is drawn over millions of records, nobody waits for where it has been.
  if (fetching_) {
    nextWanted_ = {first, last};
    return;
  }
  first = std::max(0, first);
  last = std::min(rows_ - 1, last);
  std::vector<std::uint32_t> missing;
  for (int row = std::max(0, first - kReadAround); row <= std::min(rows_ - 1, last + kReadAround); ++row) {
    if (records_.contains(row) || gone_.contains(row) || requested_.contains(row)) continue;
    missing.push_back(static_cast<std::uint32_t>(row));
  }
  const bool needed = std::any_of(missing.begin(), missing.end(), [&](std::uint32_t r) {
    return static_cast<int>(r) >= first - kReadAround / 2 && static_cast<int>(r) <= last + kReadAround / 2;
  });
  if (!needed) return;
  auto keys = std::make_shared<std::vector<ValueColumn>>(keyAt_.size());
  for (const std::uint32_t row : missing) {
    requested_.insert(static_cast<int>(row), true);
    for (std::size_t k = 0; k < keys->size(); ++k) (*keys)[k].push(index_.at(row, k));
  }
  const int from = static_cast<int>(missing.front());
  const int to = static_cast<int>(missing.back());
  fetching_ = true;
  desk_.front().post(
      this,
      [keys, missing, table = &table_](Session& session,
                                       Progress& progress) -> Result<std::vector<std::pair<int, ValueTuple>>> {
        std::vector<std::uint32_t> positions(missing.size());
        std::iota(positions.begin(), positions.end(), 0U);
        KeyRead read{table, table->writeKeyColumns(), keys.get(), positions, table->recordColumns(), 1};
        std::vector<std::pair<int, ValueTuple>> out;
        ITERANDUM_TRY(session.readByKeys(
            read,
            [&](std::size_t at, ValueTuple&& record) {
              out.emplace_back(static_cast<int>(missing[at]), std::move(record));
            },
            progress));
        return out;
      },
      [this, generation = generation_, from, to](Result<std::vector<std::pair<int, ValueTuple>>>&& records) {
        fetching_ = false;
        if (generation == generation_ && records) {
          takeRecords(generation, from, to, std::move(*records));
        } else if (generation == generation_) {
          // What failed is not asked for again by every painting: reading again (F5) does.
          if (records.error().kind == ErrorKind::Cancelled) {
            requested_.clear();
          } else {
            emit failed(toQ(records.error().text()));
          }
        }
        if (const auto next = std::exchange(nextWanted_, std::nullopt)) want(next->first, next->second);
      });
}

void RecordSource::takeRecords(std::uint64_t generation, int first, int last,
                               std::vector<std::pair<int, ValueTuple>>&& records) {
  if (generation != generation_) return;
  if (records_.size() > kMostRecords) {
    // Far away from here nobody looks any more.
    records_.removeIf(
        [&](const auto& it) { return it.key() < first - kMostRecords / 3 || it.key() > last + kMostRecords / 3; });
  }
  wantNames(records);
  for (auto& [row, record] : records) records_.insert(row, std::make_shared<ValueTuple>(std::move(record)));
  for (int row = first; row <= last; ++row) {
    if (requested_.remove(row) && !records_.contains(row)) gone_.insert(row, true);
  }
  emit loaded(first, last);
}

std::size_t RecordSource::memoryBytes() const { return index_.memoryBytes(); }

void RecordSource::wantNames(const std::vector<std::pair<int, ValueTuple>>& records) {
  for (std::size_t c = 0; c < table_.columns.size(); ++c) {
    if (desk_.names().reference(table_, c) == nullptr) continue;
    std::vector<Value> values;
    values.reserve(records.size());
    for (const auto& [row, record] : records) values.push_back(record[c]);
    desk_.names().want(table_, c, values);
  }
}

}  // namespace iterandum
