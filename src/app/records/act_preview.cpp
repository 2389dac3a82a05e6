#include "app/records/act_preview.h"

#include <QTimer>
#include <algorithm>
#include <mutex>
#include <numeric>

#include "core/catalogue/catalogue.h"

namespace iterandum {
namespace {

constexpr std::size_t kAtOnce = 4096;
// So many befores and afters are shown; nobody reads more.
constexpr std::size_t kMostLines = 1000;
constexpr int kLookMs = 60;

}  // namespace

// Lines only grow: most of the time there are no others than before.
void ActPreview::takeOver(const Found& from, Found& into) {
  into.counts = from.counts;
  into.gone = from.gone;
  if (into.lines.size() != from.lines.size()) into.lines = from.lines;
  if (into.failures.size() != from.failures.size()) into.failures = from.failures;
}

// How far the other thread is.
struct ActPreview::Shared {
  std::mutex mutex;
  Found found;
  bool isNew = false;
};

// What is to be staged: for each column that is acted on, the records in which it differs.
struct ActPreview::Parts {
  struct Part {
    std::vector<ValueColumn> keys;
    ValueColumn from;  // what the database holds
    ValueColumn to;
  };
  std::vector<Part> parts;
  Found found;
};

struct ActPreview::Ask {
  RecordActs acts;
  Query which;  // whose positions these are: facts are asked of it
  KeyIndex index;
  std::vector<RowRange> ranges;
  std::vector<std::size_t> names;  // places of the columns by which records are called
  std::shared_ptr<const StagedOver> overlay;
  std::vector<std::string> own;  // by need: the column of the table; of a borrowed one nothing
  std::shared_ptr<Shared> shared;
};

ActPreview::ActPreview(SheetModel& model, QObject* parent) : QObject(parent), model_(model) {
  staged_ = new StagedLayer(model_, this);
  looks_ = new QTimer(this);
  looks_->setInterval(kLookMs);
  connect(looks_, &QTimer::timeout, this, &ActPreview::takeProgress);
}

ActPreview::~ActPreview() {
  if (reading_) reading_->cancel();
}

void ActPreview::stop() {
  ++asked_;
  if (reading_) reading_->cancel();
  reading_.reset();
  staged_->stop();
  looks_->stop();
  acts_.reset();
  parts_.reset();
  found_ = Found();
  problem_.clear();
  complete_ = false;
}

std::uint64_t ActPreview::total() const {
  std::uint64_t out = 0;
  for (const RowRange& range : ranges_) out += static_cast<std::uint64_t>(range.size());
  return out;
}

void ActPreview::ask(const RecordActs& acts, const std::vector<RowRange>& ranges) {
  stop();
  acts_ = acts;
  ranges_.clear();
  passedOver_ = 0;
  const int rows = model_.source().rows();
  for (const RowRange& range : ranges) {
    if (range.last >= rows) passedOver_ += static_cast<std::uint64_t>(range.last - std::max(range.first, rows) + 1);
    if (range.first < rows) ranges_.push_back({range.first, std::min(range.last, rows - 1)});
  }
  std::vector<std::string> columns;
  for (const ColumnPath& need : acts_->needs().columns) {
    if (!need.isBorrowed()) columns.push_back(need.column);
  }
  // What changes meanwhile asks anew: whoever asks sees to that.
  staged_->gather(std::move(columns), [this](std::shared_ptr<const StagedOver> staged) { begin(std::move(staged)); });
}

void ActPreview::begin(std::shared_ptr<const StagedOver> staged) {
  Query which;
  which.table = &model_.table();
  which.where = model_.source().where();
  shared_ = std::make_shared<Shared>();
  std::vector<std::size_t> names;
  for (const std::string& name : readableColumns(model_.table())) {
    // What changes does not say which record it is.
    const std::size_t at = acts_->alsoNeed({{}, name});
    if (std::find(acts_->places().begin(), acts_->places().end(), at) == acts_->places().end()) names.push_back(at);
  }
  std::vector<std::string> own;
  for (const ColumnPath& need : acts_->needs().columns) own.push_back(need.isBorrowed() ? std::string() : need.column);
  auto ask = std::make_shared<Ask>(Ask{*acts_, which, model_.source().index(), ranges_, std::move(names),
                                       std::move(staged), std::move(own), shared_});
  const std::uint64_t asked = asked_;
  looks_->start();
  reading_ = model_.desk().behind().post(
      this, [ask](Session& session, Progress& progress) { return findOut(session, *ask, progress); },
      [this, asked](Result<std::shared_ptr<Parts>>&& parts) {
        if (asked != asked_) return;
        reading_.reset();
        looks_->stop();
        if (parts) {
          parts_ = std::move(*parts);
          found_ = parts_->found;
          complete_ = true;
        } else {
          problem_ = toQ(parts.error().text());
        }
        emit changed();
      });
}

void ActPreview::takeProgress() {
  {
    const std::scoped_lock lock(shared_->mutex);
    if (!std::exchange(shared_->isNew, false)) return;
    takeOver(shared_->found, found_);
  }
  emit changed();
}

// --- on the other thread
// -----------------------------------------------------------------------------------------------

Result<std::shared_ptr<ActPreview::Parts>> ActPreview::findOut(Session& session, const Ask& ask, Progress& progress) {
  auto parts = std::make_shared<Parts>();
  parts->parts.resize(ask.acts.columns().size());
  for (Parts::Part& part : parts->parts) part.keys.resize(ask.acts.table().writeKeyColumns().size());
  ITERANDUM_ASSIGN(const std::vector<KeySet> facts, factsOf(session, ask.which, ask.acts.needs(), progress));
  std::vector<int> rows;
  const auto handOver = [&]() -> Status {
    ITERANDUM_TRY(look(session, ask, rows, facts, *parts, progress));
    rows.clear();
    const std::scoped_lock lock(ask.shared->mutex);
    takeOver(parts->found, ask.shared->found);
    ask.shared->isNew = true;
    return {};
  };
  for (const RowRange& range : ask.ranges) {
    for (int row = range.first; row <= range.last; ++row) {
      rows.push_back(row);
      if (rows.size() == kAtOnce) ITERANDUM_TRY(handOver());
    }
  }
  if (!rows.empty()) ITERANDUM_TRY(handOver());
  return parts;
}

Status ActPreview::look(Session& session, const Ask& ask, std::span<const int> rows, std::span<const KeySet> facts,
                        Parts& parts, Progress& progress) {
  const Table& table = ask.acts.table();
  const std::vector<ColumnPath>& needs = ask.acts.needs().columns;
  KeyRead read;
  read.table = &table;
  read.keyColumns = table.writeKeyColumns();
  read.mostPerKey = 1;
  std::vector<std::size_t> held;  // places of what is read
  for (std::size_t slot = 0; slot < needs.size(); ++slot) {
    if (needs[slot].isBorrowed()) continue;
    held.push_back(slot);
    read.columns.push_back(needs[slot].column);
  }
  std::vector<ValueColumn> keys(read.keyColumns.size());
  std::vector<ActedRecord> records(rows.size());
  for (std::size_t i = 0; i < rows.size(); ++i) {
    for (std::size_t k = 0; k < keys.size(); ++k) keys[k].push(ask.index.at(static_cast<std::size_t>(rows[i]), k));
  }
  std::vector<std::uint32_t> which(rows.size());
  std::iota(which.begin(), which.end(), 0U);
  read.keys = &keys;
  read.rows = which;
  ITERANDUM_TRY(session.readByKeys(
      read,
      [&](std::size_t row, ValueTuple&& values) {
        records[row].values.resize(needs.size());
        for (std::size_t i = 0; i < held.size(); ++i) records[row].values[held[i]] = std::move(values[i]);
      },
      progress));
  if (progress.cancelled()) return fail(ErrorKind::Cancelled, "it was stopped");
  // What is to be removed is left alone; what is gone is counted.
  std::vector<ActedRecord> meant;
  meant.reserve(records.size());
  std::uint64_t number = parts.found.counts.meant + parts.found.gone;
  for (std::size_t i = 0; i < records.size(); ++i) {
    ActedRecord& record = records[i];
    record.number = ++number;
    if (record.values.empty()) {
      ++parts.found.gone;
      continue;
    }
    for (const std::size_t slot : ask.acts.places()) record.stored.push_back(record.values[slot]);
    for (std::size_t k = 0; k < keys.size(); ++k) record.key.push_back(keys[k].at(i));
    if (ask.overlay->removed.contains(record.key)) continue;
    ask.overlay->layOver(record.key, ask.own, record.values);
    for (const KeySet& fact : facts) record.facts.push_back(fact.contains(record.key) ? 1 : 0);
    meant.push_back(std::move(record));
  }
  ITERANDUM_TRY(ask.acts.lookUpBorrowed(meant, session, progress));
  ITERANDUM_TRY(ask.acts.run(meant, &session, progress));
  tell(ask, meant, parts);
  return {};
}

void ActPreview::tell(const Ask& ask, std::span<ActedRecord> records, Parts& parts) {
  Found& found = parts.found;
  for (ActedRecord& record : records) {
    found.counts.count(ask.acts, record);
    ValueTuple name;
    const bool shown = (record.failed() ? found.failures : found.lines).size() < kMostLines;
    for (std::size_t i = 0; shown && i < ask.names.size(); ++i) name.push_back(record.values[ask.names[i]]);
    if (record.failed()) {
      if (shown)
        found.failures.push_back({record.key, std::move(name), 0, record.before[0], {}, record.failure->message});
      continue;
    }
    for (std::size_t c = 0; c < ask.acts.columns().size(); ++c) {
      if (!ask.acts.differs(record, c)) continue;
      const Value& to = record.values[ask.acts.places()[c]];
      if (shown) found.lines.push_back({record.key, name, c, record.before[c], to, {}});
      Parts::Part& part = parts.parts[c];
      for (std::size_t k = 0; k < part.keys.size(); ++k) part.keys[k].push(record.key[k]);
      part.from.push(record.stored[c]);
      part.to.push(to);
    }
  }
}

// --- staging
// -----------------------------------------------------------------------------------------------------------

void ActPreview::stage(const QString& title) {
  std::vector<StagedWork::ColumnEdits> edits;
  for (std::size_t c = 0; c < parts_->parts.size(); ++c) {
    Parts::Part& part = parts_->parts[c];
    if (part.to.empty()) continue;
    edits.push_back({acts_->columns()[c]->name, std::move(part.keys), std::move(part.from), std::move(part.to)});
  }
  stop();
  if (!edits.empty()) model_.desk().staged().stageColumns(title, model_.table(), std::move(edits));
}

}  // namespace iterandum
