#include "app/sheet/record_source.h"

#include <algorithm>
#include <numeric>

namespace iterandum {
namespace {

constexpr std::uint64_t kFirstScreen = 300;
// Keys come in batches that double, so that a short list is there at once and a long one is not cut into thousands.
constexpr std::size_t kFirstBatch = 4096;
constexpr std::size_t kLargestBatch = 1 << 20;
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
}

RecordSource::~RecordSource() {
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
  if (keyReading_) keyReading_->cancel();
  reading_ = true;
  readFirstScreen();
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
  desk_.front().post(
      this,
      [query, catalogue = desk_.sharedCatalogue()](Session& session,
                                                   Progress& progress) -> Result<std::vector<ValueTuple>> {
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
          emit failed(toQ(rows.error().text()));
          return;
        }
        forgetRecords();
        keys_.assign(keyAt_.size(), {});
        std::vector<std::pair<int, ValueTuple>> records;
        for (ValueTuple& row : *rows) {
          for (std::size_t k = 0; k < keyAt_.size(); ++k) keys_[k].push(row[keyAt_[k]]);
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
        desk_.behind().post(
            this,
            [query = Query{&table_, {}, {}, {}, {}}, catalogue = desk_.sharedCatalogue()](
                Session& session, Progress& progress) { return session.count(query, progress); },
            [this](Result<std::uint64_t>&& count) {
              if (count) tableCount_ = *count;
              emit counted();
            });
      });
}

void RecordSource::readKeys() {
  Query query = baseQuery();
  query.columns = table_.writeKeyColumns();
  const std::size_t width = query.columns.size();
  // Batches are handed over while the reading goes on; by the time they arrive this object may be gone.
  const auto handOver = [guard = QPointer<RecordSource>(this), generation = generation_](
                            std::size_t start, std::vector<ValueColumn>&& keys, bool last) {
    auto shared = std::make_shared<std::vector<ValueColumn>>(std::move(keys));
    QMetaObject::invokeMethod(
        qApp,
        [guard, generation, start, shared, last] {
          if (guard) guard->takeKeys(generation, start, std::move(*shared), last);
        },
        Qt::QueuedConnection);
  };
  keyReading_ = desk_.behind().post(
      this,
      [query, width, handOver, catalogue = desk_.sharedCatalogue()](Session& session, Progress& progress) -> Status {
        std::vector<ValueColumn> batch(width);
        std::size_t start = 0;
        std::size_t size = kFirstBatch;
        ITERANDUM_TRY(session.select(
            query,
            [&](ValueTuple&& row) {
              for (std::size_t k = 0; k < width; ++k) batch[k].push(std::move(row[k]));
              if (batch[0].size() < size) return true;
              const std::size_t count = batch[0].size();
              handOver(start, std::move(batch), false);
              batch.assign(width, {});
              start += count;
              size = std::min(size * 2, kLargestBatch);
              return !progress.cancelled();
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

void RecordSource::takeKeys(std::uint64_t generation, std::size_t start, std::vector<ValueColumn>&& keys, bool last) {
  if (generation != generation_) return;
  const std::size_t count = keys[0].size();
  const auto known = static_cast<std::size_t>(rows_);
  bool same = true;
  for (std::size_t i = 0; i < count && start + i < known && same; ++i) {
    for (std::size_t k = 0; k < keys.size(); ++k) same = same && keys[k].at(i) == keys_[k].at(start + i);
  }
  if (!same) {
    // Somebody wrote between the first screen and now: what was shown first is read again.
    refresh();
    return;
  }
  const std::size_t skip = known > start ? std::min(known - start, count) : 0;
  if (skip < count) {
    const int first = rows_;
    const int lastRow = static_cast<int>(start + count) - 1;
    emit rowsAboutToGrow(first, lastRow);
    for (std::size_t i = skip; i < count; ++i) {
      for (std::size_t k = 0; k < keys.size(); ++k) keys_[k].push(keys[k].at(i));
    }
    rows_ = lastRow + 1;
    emit rowsGrew();
  }
  complete_ = last;
  if (last) reading_ = false;
  emit counted();
}

ValueTuple RecordSource::key(int row) const {
  ValueTuple out;
  for (const ValueColumn& c : keys_) out.push_back(c.at(static_cast<std::size_t>(row)));
  return out;
}

const ValueTuple* RecordSource::record(int row) const {
  const auto it = records_.constFind(row);
  return it == records_.constEnd() ? nullptr : it->get();
}

bool RecordSource::isGone(int row) const { return gone_.contains(row); }

std::optional<int> RecordSource::rowOf(const ValueTuple& key) const {
  for (int row = 0; row < rows_; ++row) {
    bool same = true;
    for (std::size_t k = 0; k < keys_.size() && same; ++k)
      same = sameValue(keys_[k].at(static_cast<std::size_t>(row)), key[k]);
    if (same) return row;
  }
  return std::nullopt;
}

void RecordSource::want(int first, int last) {
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
    for (std::size_t k = 0; k < keys->size(); ++k) (*keys)[k].push(keys_[k].at(row));
  }
  const int from = static_cast<int>(missing.front());
  const int to = static_cast<int>(missing.back());
  desk_.front().post(
      this,
      [keys, missing, table = &table_, catalogue = desk_.sharedCatalogue()](
          Session& session, Progress& progress) -> Result<std::vector<std::pair<int, ValueTuple>>> {
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
        if (generation != generation_) return;
        if (!records) {
          requested_.clear();
          if (records.error().kind != ErrorKind::Cancelled) emit failed(toQ(records.error().text()));
          return;
        }
        takeRecords(generation, from, to, std::move(*records));
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

std::size_t RecordSource::memoryBytes() const {
  std::size_t bytes = 0;
  for (const ValueColumn& c : keys_) bytes += c.memoryBytes();
  return bytes;
}

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
