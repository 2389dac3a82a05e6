#include "app/records/many_records.h"

#include <algorithm>
#include <map>
#include <numeric>

#include "core/catalogue/column_rules.h"

namespace iterandum {
namespace {

// Looking at each whether it is loaded has to be no pause.
constexpr int kFewRows = 5000;
// So many are looked up by key at once.
constexpr std::size_t kLookUp = 4096;

struct FoundRecords {
  std::vector<ValueTuple> keys;
  std::vector<ValueTuple> records;
  std::size_t gone = 0;
};

Result<FoundRecords> readAll(Session& session, const Table& table, const KeyIndex& index,
                             const std::vector<RowRange>& ranges, Progress& progress) {
  const std::vector<std::string> keyColumns = table.writeKeyColumns();
  FoundRecords out;
  std::vector<std::size_t> positions;
  for (const RowRange& range : ranges) {
    for (int row = range.first; row <= range.last; ++row) positions.push_back(static_cast<std::size_t>(row));
  }
  for (std::size_t begin = 0; begin < positions.size(); begin += kLookUp) {
    const std::size_t count = std::min(kLookUp, positions.size() - begin);
    std::vector<ValueColumn> keys(keyColumns.size());
    for (std::size_t i = 0; i < count; ++i) {
      ValueTuple key;
      for (std::size_t k = 0; k < keys.size(); ++k) {
        key.push_back(index.at(positions[begin + i], k));
        keys[k].push(key.back());
      }
      out.keys.push_back(std::move(key));
    }
    out.records.resize(out.keys.size());
    std::vector<std::uint32_t> rows(count);
    std::iota(rows.begin(), rows.end(), 0U);
    const KeyRead read{&table, keyColumns, &keys, rows, table.recordColumns(), 1};
    ITERANDUM_TRY(session.readByKeys(
        read, [&](std::size_t at, ValueTuple&& record) { out.records[begin + at] = std::move(record); }, progress));
  }
  out.gone = static_cast<std::size_t>(
      std::count_if(out.records.begin(), out.records.end(), [](const ValueTuple& r) { return r.empty(); }));
  return out;
}

}  // namespace

ManyRecords::ManyRecords(SheetModel& model, QObject* parent) : QObject(parent), model_(model) {
  connect(&model_.source(), &RecordSource::aboutToRestart, this, [this] {
    if (reading_ == nullptr) return;
    stop();
    emit said(tr("Nothing was done: the sheet was read again before all of the records were there."));
  });
}

ManyRecords::~ManyRecords() {
  if (reading_) reading_->cancel();
}

void ManyRecords::stop() {
  ++asked_;
  if (reading_) reading_->cancel();
  reading_.reset();
}

bool ManyRecords::allLoaded(const std::vector<RowRange>& ranges) const {
  const int rows = std::accumulate(ranges.begin(), ranges.end(), 0, [](int n, const RowRange& r) {
    return std::min(n + std::min(r.size(), kFewRows + 1), kFewRows + 1);
  });
  if (rows > kFewRows) return false;
  return std::all_of(ranges.begin(), ranges.end(), [&](const RowRange& range) {
    for (int row = range.first; row <= range.last; ++row) {
      if (row < model_.source().rows() && model_.source().record(row) == nullptr) return false;
    }
    return true;
  });
}

ManyRecords::Records ManyRecords::loaded(const std::vector<RowRange>& ranges) const {
  Records out;
  for (const RowRange& range : ranges) {
    for (int row = range.first; row <= range.last; ++row) {
      const ValueTuple* stored = row < model_.source().rows() ? model_.source().record(row) : nullptr;
      out.push_back({model_.ref(row), stored == nullptr ? ValueTuple() : *stored});
    }
  }
  return out;
}

void ManyRecords::take(const std::vector<RowRange>& ranges, std::function<void(Records&&)> act) {
  stop();
  if (allLoaded(ranges)) return act(loaded(ranges));
  // New records follow the existing ones, and are at hand.
  const int rows = model_.source().rows();
  std::vector<RowRange> existing;
  std::vector<RowRange> added;
  for (const RowRange& range : ranges) {
    if (range.first < rows) existing.push_back({range.first, std::min(range.last, rows - 1)});
    if (range.last >= rows) added.push_back({std::max(range.first, rows), range.last});
  }
  emit said(tr("Reading the records that this is about…"));
  const std::uint64_t asked = ++asked_;
  reading_ = model_.desk().behind().post(
      this,
      [table = &model_.table(), index = model_.source().index(), existing](Session& session, Progress& progress) {
        return readAll(session, *table, index, existing, progress);
      },
      [this, asked, existing, added = loaded(added), act = std::move(act)](Result<FoundRecords>&& found) mutable {
        if (asked != asked_) return;
        reading_.reset();
        if (!found) {
          emit said(tr("Nothing was done: %1").arg(toQ(found.error().text())));
          return;
        }
        if (found->gone > 0) {
          emit said(tr("Nothing was done: %n of these record(s) are no longer in the database. Read again (F5).", "",
                       static_cast<int>(found->gone)));
          return;
        }
        Records records;
        records.reserve(found->records.size() + added.size());
        std::size_t i = 0;
        for (const RowRange& range : existing) {
          for (int row = range.first; row <= range.last; ++row, ++i) {
            // What was seen on the sheet is what the act is about, whatever somebody wrote since.
            const ValueTuple* seen = model_.source().record(row);
            One& one = records.emplace_back();
            one.ref = {model_.table().name, std::move(found->keys[i]), 0};
            if (seen != nullptr) {
              one.stored = *seen;
            } else {
              one.stored = std::move(found->records[i]);
            }
          }
        }
        std::move(added.begin(), added.end(), std::back_inserter(records));
        emit said({});
        act(std::move(records));
      });
}

// --- what is done to them --------------------------------------------------------------------------------------------

Value ManyRecords::effective(const One& record, int column) const {
  const std::string& name = model_.column(column).name;
  const TableChanges* changes = model_.desk().changes().table(model_.table().name);
  if (record.ref.isAdded()) {
    if (changes == nullptr || !changes->added().contains(record.ref.addedId)) return {};
    const auto& cells = changes->added().at(record.ref.addedId).cells;
    const auto cell = cells.find(name);
    return cell == cells.end() ? Value() : cell->second;
  }
  const auto number = changes == nullptr ? std::nullopt : changes->find(record.ref.key);
  const auto staged = number ? changes->cell(*number, name) : std::nullopt;
  return staged ? staged->to : record.stored[static_cast<std::size_t>(column)];
}

bool ManyRecords::isStaged(const One& record, int column) const {
  if (record.ref.isAdded()) return !effective(record, column).isNull();
  const TableChanges* changes = model_.desk().changes().table(model_.table().name);
  const auto number = changes == nullptr ? std::nullopt : changes->find(record.ref.key);
  return number && changes->cell(*number, model_.column(column).name).has_value();
}

// Nothing: the record holds the value already.
Result<std::optional<CellEdit>> ManyRecords::edit(const One& record, int column, const Value& value) const {
  const Column& described = model_.column(column);
  CellEdit edit{record.ref, described.name, {}, value};
  const TableChanges* changes = model_.desk().changes().table(model_.table().name);
  if (record.ref.isAdded()) return std::optional(std::move(edit));
  const auto number = changes == nullptr ? std::nullopt : changes->find(record.ref.key);
  const auto refuse = [&](const QString& reason) {
    return fail(ErrorKind::InvalidInput,
                tr("%1: %2").arg(toQ(recordInWords(model_.table().name, record.ref.key)), reason).toStdString());
  };
  if (number && changes->isRemoved(*number)) return refuse(tr("it is to be removed; put it back first"));
  const Value& stored = record.stored[static_cast<std::size_t>(column)];
  if (stored.kind() == Value::Kind::Text && !isValidUtf8(stored.asString())) {
    return refuse(tr("its text is not valid UTF-8"));
  }
  const auto staged = number ? changes->cell(*number, described.name) : std::nullopt;
  edit.from = staged ? staged->from : stored;
  if (sameValue(staged ? staged->to : stored, value)) return std::optional<CellEdit>();
  return std::optional(std::move(edit));
}

Result<void> ManyRecords::canEdit(const Records& records, int column) const {
  QString reason = model_.columnNotEditable(column);
  if (reason.isEmpty() && model_.isBorrowed(column)) {
    reason =
        tr("%1 is borrowed: it changes in every record that shares it. Open it by itself (F2), which says how many "
           "those are.")
            .arg(model_.columnName(column));
  }
  const bool existing = std::any_of(records.begin(), records.end(), [](const One& r) { return !r.ref.isAdded(); });
  const std::string& cannot = model_.table().cannotEdit;
  if (reason.isEmpty() && existing && !cannot.empty())
    reason = tr("Records here cannot be edited: %1.").arg(toQ(cannot));
  return reason.isEmpty() ? Result<void>() : fail(ErrorKind::InvalidInput, reason.toStdString());
}

Result<void> ManyRecords::stage(const Records& records, const std::vector<std::pair<int, Value>>& values,
                                const QString& what) {
  std::vector<CellEdit> edits;
  for (const auto& [column, value] : values) {
    ITERANDUM_TRY(canEdit(records, column));
    ITERANDUM_ASSIGN(const Value stored, storedForm(model_.column(column), value));
    for (const One& record : records) {
      ITERANDUM_ASSIGN(auto one, edit(record, column, stored));
      if (one) edits.push_back(std::move(*one));
    }
  }
  if (edits.empty()) return {};
  const QString where = records.size() == 1 ? toQ(recordInWords(model_.table().name, records.front().ref.key))
                                            : tr("%n record(s)", "", static_cast<int>(records.size()));
  model_.desk().staged().stageEdits(tr("%1 in %2").arg(what, where), edits);
  return {};
}

Result<void> ManyRecords::stageFromFirst(const Records& records, const std::vector<int>& columns) {
  std::vector<CellEdit> edits;
  if (model_.isBorrowed(columns.front())) ITERANDUM_TRY(canEdit(records, columns.front()));
  for (std::size_t c = 1; c < columns.size(); ++c) {
    ITERANDUM_TRY(canEdit(records, columns[c]));
    for (const One& record : records) {
      ITERANDUM_ASSIGN(const Value value, storedForm(model_.column(columns[c]), effective(record, columns.front())));
      ITERANDUM_ASSIGN(auto one, edit(record, columns[c], value));
      if (one) edits.push_back(std::move(*one));
    }
  }
  model_.desk().staged().stageEdits(tr("Fill to the right in %n record(s)", "", static_cast<int>(records.size())),
                                    edits);
  return {};
}

std::vector<ManyRecords::Refusal> ManyRecords::stageCells(const Records& records, const std::vector<CellWish>& cells,
                                                          const QString& title, Partly partly) {
  std::vector<Refusal> refused;
  std::vector<CellEdit> edits;
  std::map<int, QString> columns;  // why a column cannot be edited, empty where it can
  for (const CellWish& cell : cells) {
    const auto refuse = [&](const QString& reason, bool value) {
      refused.push_back({cell.record, cell.column, reason, value});
    };
    auto [column, isNew] = columns.try_emplace(cell.column);
    if (isNew) {
      const auto can = canEdit(records, cell.column);
      if (!can) column->second = toQ(can.error().message);
    }
    if (!column->second.isEmpty()) {
      refuse(column->second, false);
      continue;
    }
    const auto stored = storedForm(model_.column(cell.column), cell.value);
    if (!stored) {
      refuse(toQ(stored.error().message), true);
      continue;
    }
    auto one = edit(records[cell.record], cell.column, *stored);
    if (!one) {
      refuse(toQ(one.error().message), false);
      continue;
    }
    if (*one) edits.push_back(std::move(**one));
  }
  if (partly == Partly::Never && !refused.empty()) return refused;
  if (!edits.empty()) model_.desk().staged().stageEdits(title, edits);
  return refused;
}

void ManyRecords::remove(const Records& records) {
  const TableChanges* changes = model_.desk().changes().table(model_.table().name);
  std::vector<RecordRef> refs;
  std::vector<ValueTuple> stored;
  for (const One& record : records) {
    const auto number = record.ref.isAdded() || changes == nullptr ? std::nullopt : changes->find(record.ref.key);
    if (number && changes->isRemoved(*number)) continue;
    refs.push_back(record.ref);
    stored.push_back(record.stored);
  }
  if (!refs.empty()) model_.desk().staged().stageRemovals(model_.table(), refs, stored);
}

}  // namespace iterandum
