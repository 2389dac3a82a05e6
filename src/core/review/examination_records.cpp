// Examination: the records as they are now, and how they compare with what was seen when the changes were staged.
#include <algorithm>
#include <numeric>
#include <set>

#include "core/catalogue/column_rules.h"
#include "core/review/examination.h"

namespace iterandum {
namespace {

// Rows in ascending order of their keys: neighbours in the key are neighbours on disk.
std::vector<std::uint32_t> byKey(const ChangeBlock& changes) {
  std::vector<std::uint32_t> rows(changes.rows());
  std::iota(rows.begin(), rows.end(), 0U);
  const auto less = [&](std::uint32_t a, std::uint32_t b) {
    for (const ValueColumn& key : changes.keys) {
      const int order = compareValues(key.at(a), key.at(b));
      if (order != 0) return order < 0;
    }
    return false;
  };
  if (!std::is_sorted(rows.begin(), rows.end(), less)) std::sort(rows.begin(), rows.end(), less);
  return rows;
}

}  // namespace

std::vector<std::string> Examination::neededColumns(const ExaminedBlock& block) const {
  const Table& table = *block.table;
  if (options_.wholeRecords || (options_.checkRules && std::any_of(table.checks.begin(), table.checks.end(),
                                                                   [](const CheckRule& r) { return !r.understood; }))) {
    return table.recordColumns();
  }
  std::set<std::string> wanted;
  for (const std::string& c : table.writeKeyColumns()) wanted.insert(c);
  for (const std::string& c : block.changes.keyColumns) wanted.insert(c);
  for (const ChangeBlock::Cells& c : block.changes.cells) wanted.insert(c.column);
  const auto addIfTouched = [&](const std::vector<std::size_t>& columns) {
    const bool touched = std::any_of(columns.begin(), columns.end(),
                                     [&](std::size_t c) { return block.cellOf(table.columns[c].name).has_value(); });
    if (!touched) return;
    for (const std::size_t c : columns) wanted.insert(table.columns[c].name);
  };
  for (const UniqueKey& key : table.keys) addIfTouched(key.columns);
  for (const Reference& reference : table.references) addIfTouched(reference.columns);
  for (const IncomingReference& in : catalogue_.referencesTo(table.name)) {
    for (const std::string& c : catalogue_.tables()[in.table].references[in.reference].targetColumns) wanted.insert(c);
  }
  return {wanted.begin(), wanted.end()};
}

Status Examination::readBefore(std::uint32_t index) {
  ExaminedBlock& block = facts_.blocks()[index];
  const ChangeBlock& changes = block.changes;
  if (changes.action == Action::Add || changes.rows() == 0) return {};
  const std::vector<ChangeState>& states = verdicts_.ofBlock(index);
  if (std::find(states.begin(), states.end(), ChangeState::Unresolvable) != states.end()) return {};
  block.recordColumns = neededColumns(block);
  for (const std::string& column : changes.keyColumns) {
    if (std::find(block.recordColumns.begin(), block.recordColumns.end(), column) == block.recordColumns.end()) {
      block.recordColumns.push_back(column);
    }
  }
  for (const Column& column : block.table->columns) block.recordAt.push_back(block.recordColumn(column.name));
  const std::vector<std::uint32_t> rows = byKey(changes);
  std::vector<std::uint8_t> hits(changes.rows(), 0);
  // Filled by key order, then put in the order of the block: columns only grow at their end.
  std::vector<std::pair<std::uint32_t, ValueTuple>> records;
  records.reserve(rows.size());
  // A lock wants the right to change the table, which a finding says when it is missing.
  const bool lock =
      block.table->cannotEdit.empty() && std::find(states.begin(), states.end(), ChangeState::Open) != states.end();
  KeyRead read{block.table, changes.keyColumns, &changes.keys, rows, block.recordColumns, 2, lock};
  ITERANDUM_TRY(session_.readByKeys(
      read,
      [&](std::size_t row, ValueTuple&& record) {
        if (hits[row] < 2) ++hits[row];
        if (hits[row] == 1) records.emplace_back(static_cast<std::uint32_t>(row), std::move(record));
      },
      progress_));
  const auto less = [](const auto& a, const auto& b) { return a.first < b.first; };
  if (!std::is_sorted(records.begin(), records.end(), less)) std::sort(records.begin(), records.end(), less);
  block.before.assign(block.recordColumns.size(), {});
  std::size_t next = 0;
  for (std::uint32_t r = 0; r < changes.rows(); ++r) {
    const bool has = next < records.size() && records[next].first == r;
    for (std::size_t c = 0; c < block.before.size(); ++c) {
      block.before[c].push(has ? std::move(records[next].second[c]) : Value());
    }
    if (has) ++next;
  }
  for (const std::string& column : block.table->writeKeyColumns()) {
    block.writeKeys.push_back(block.before[block.recordColumn(column)]);
  }
  judgeFound(index, hits);
  return {};
}

void Examination::judgeFound(std::uint32_t index, const std::vector<std::uint8_t>& hits) {
  ExaminedBlock& block = facts_.blocks()[index];
  block.found.assign(block.changes.rows(), 0);
  const bool primary = block.table->identity.kind == Identity::Kind::PrimaryKey &&
                       block.changes.keyColumns == block.table->identity.columns;
  for (std::uint32_t r = 0; r < block.changes.rows(); ++r) {
    const RowPlace place{index, r};
    const ValueTuple key = block.changes.key(r);
    if (primary && holdsNull(key)) {
      verdicts_.note(place,
                     verdicts_.findingFor(place, FindingKind::NotEditable,
                                          "a key without a value names no record; name it by its row id (\"rowid\")"));
    } else if (hits[r] == 0) {
      verdicts_.note(place,
                     verdicts_.findingFor(place, FindingKind::RecordGone,
                                          "no record has this key any more; it was removed or its key was changed"));
    } else if (hits[r] > 1) {
      verdicts_.note(
          place, verdicts_.findingFor(place, FindingKind::RecordAmbiguous,
                                      "several records are like this, and nothing tells them apart; none was touched"));
    } else {
      block.found[r] = 1;
    }
  }
}

Result<bool> Examination::mergeDoubles(ChangeList& changes) {
  struct Named {
    std::size_t hash;
    const Table* table;
    RowPlace place;
  };
  std::vector<Named> all;
  for (std::uint32_t b = 0; b < facts_.blocks().size(); ++b) {
    for (std::uint32_t r = 0; r < facts_.blocks()[b].found.size(); ++r) {
      if (facts_.blocks()[b].found[r] != 0)
        all.push_back({TupleHash{}(facts_.blocks()[b].writeKey(r)), facts_.blocks()[b].table, {b, r}});
    }
  }
  const auto before = [](const Named& a, const Named& b) {
    return std::tie(a.hash, a.table) < std::tie(b.hash, b.table);
  };
  std::sort(all.begin(), all.end(), before);
  std::map<std::uint32_t, std::vector<RowPlace>> doubles;  // by the first index
  for (std::size_t i = 1; i < all.size(); ++i) {
    const Named& a = all[i - 1];
    const Named& b = all[i];
    if (before(a, b)) continue;
    const ValueTuple keyA = facts_.blocks()[a.place.block].writeKey(a.place.row);
    if (!sameTuple(keyA, facts_.blocks()[b.place.block].writeKey(b.place.row))) continue;
    std::size_t begin = i - 1;
    while (begin > 0 && all[begin - 1].hash == a.hash && all[begin - 1].table == a.table) --begin;
    const RowPlace& first = all[begin].place;
    auto& group = doubles[facts_.blocks()[first.block].changes.changeIndex[first.row]];
    if (group.empty()) group.push_back(first);
    if (std::find(group.begin(), group.end(), b.place) == group.end()) group.push_back(b.place);
  }
  if (doubles.empty()) return false;

  std::set<std::uint32_t> gone;
  std::vector<std::pair<std::uint32_t, Change>> mergedChanges;
  for (auto& [unused, places] : doubles) {
    const auto indexOf = [&](const RowPlace& p) { return facts_.blocks()[p.block].changes.changeIndex[p.row]; };
    std::sort(places.begin(), places.end(),
              [&](const RowPlace& a, const RowPlace& b) { return indexOf(a) < indexOf(b); });
    Change merged = facts_.blocks()[places[0].block].changes.change(places[0].row);
    const std::uint32_t firstIndex = indexOf(places[0]);
    gone.insert(firstIndex);
    for (std::size_t i = 1; i < places.size(); ++i) {
      const Change other = facts_.blocks()[places[i].block].changes.change(places[i].row);
      const std::string place = "/changes/" + std::to_string(indexOf(places[i]));
      if (other.action != merged.action) {
        return fail(ErrorKind::InvalidFile,
                    recordInWords(merged.table, merged.key) + " is edited and removed by the same file (see change " +
                        std::to_string(firstIndex) + "); decide which",
                    place);
      }
      for (const CellChange& cell : other.cells) {
        const auto mine = std::find_if(merged.cells.begin(), merged.cells.end(),
                                       [&](const CellChange& c) { return c.column == cell.column; });
        if (mine == merged.cells.end()) {
          merged.cells.push_back(cell);
        } else if (!sameValue(mine->to, cell.to) ||
                   (mine->hasFrom && cell.hasFrom && !sameValue(mine->from, cell.from))) {
          return fail(ErrorKind::InvalidFile,
                      recordInWords(merged.table, merged.key) + ": this and change " + std::to_string(firstIndex) +
                          " say different things about " + cell.column,
                      place + "/cells/" + cell.column);
        } else if (cell.hasFrom) {
          mine->hasFrom = true;
          mine->from = cell.from;
        }
      }
      gone.insert(indexOf(places[i]));
    }
    mergedChanges.emplace_back(firstIndex, std::move(merged));
  }
  ChangeList result;
  result.title = changes.title;
  result.origins = changes.origins;
  for (const ChangeBlock& block : changes.blocks()) {
    for (std::size_t r = 0; r < block.rows(); ++r) {
      if (!gone.contains(block.changeIndex[r])) result.addAt(block.change(r), block.changeIndex[r]);
    }
  }
  for (const auto& [index, change] : mergedChanges) result.addAt(change, index);
  changes = std::move(result);
  return true;
}

void Examination::compare(std::uint32_t index) {
  ExaminedBlock& block = facts_.blocks()[index];
  if (block.changes.action == Action::Add || block.found.empty()) return;
  for (std::uint32_t r = 0; r < block.changes.rows(); ++r) {
    if (block.found[r] == 0) continue;
    if (block.changes.action == Action::Remove && block.changes.cells.empty()) {
      Finding finding =
          verdicts_.findingFor({index, r}, FindingKind::Unguarded,
                               "it is removed whatever it holds now, for the file does not say what it held");
      finding.blocks = false;
      verdicts_.note({index, r}, std::move(finding));
    }
    for (std::size_t c = 0; c < block.changes.cells.size(); ++c) compareCell(index, c, r);
    const bool nothingLeft = block.changes.action == Action::Edit && verdicts_.isOpen({index, r}) && [&] {
      for (std::size_t c = 0; c < block.changes.cells.size(); ++c) {
        if (block.writesCell(c, r)) return false;
      }
      return true;
    }();
    if (nothingLeft) verdicts_.settle({index, r});
  }
}

void Examination::compareCell(std::uint32_t index, std::size_t cell, std::size_t row) {
  ExaminedBlock& block = facts_.blocks()[index];
  const ChangeBlock::Cells& cells = block.changes.cells[cell];
  const Value now = block.before[block.recordColumn(cells.column)].at(row);
  const bool removal = block.changes.action == Action::Remove;
  const RowPlace place{index, static_cast<std::uint32_t>(row)};
  const auto leaveCell = [&] { block.setFate(cell, row, CellFate::Left); };
  const auto describe = [&](FindingKind kind, const std::string& message) {
    Finding finding = verdicts_.findingFor(place, kind, message);
    finding.column = cells.column;
    if (cells.hasFrom) finding.from = cells.from.at(row);
    if (!removal) finding.to = cells.to.at(row);
    finding.now = now;
    finding.blocks = false;
    return finding;
  };
  if (!removal && sameValue(now, cells.to.at(row))) {
    leaveCell();
    verdicts_.note(place, describe(FindingKind::AlreadySo, cells.column + " holds " + valueInWords(now) + " already"));
    return;
  }
  // Where the column holds numbers already, that is how it is used here.
  const Column* column = block.table->column(cells.column);
  if (!removal && column != nullptr && isStrangeDate(*column, cells.to.at(row)) && !now.isNumber()) {
    verdicts_.note(place, describe(FindingKind::ValueRefused, strangeDate(*column, cells.to.at(row))));
  }
  if (!cells.hasFrom) {
    verdicts_.note(
        place, describe(FindingKind::Unguarded,
                        cells.column + " is written whatever it holds now, for the file does not say what it held"));
    return;
  }
  if (sameValue(now, cells.from.at(row))) return;
  if (options_.onConflict == OnConflict::Mine) return;
  Finding finding = describe(FindingKind::CellChanged, cells.column + " held " + valueInWords(cells.from.at(row)) +
                                                           " when this was staged and holds " + valueInWords(now) +
                                                           " now; keep yours, take theirs, or put it back");
  if (options_.onConflict == OnConflict::Theirs) {
    if (removal) {
      verdicts_.drop(place);
    } else {
      leaveCell();
      bool any = false;
      for (std::size_t c = 0; c < block.changes.cells.size(); ++c) any = any || block.writesCell(c, row);
      if (!any && verdicts_.isOpen(place)) verdicts_.drop(place);
    }
    return;
  }
  finding.blocks = true;
  verdicts_.note(place, std::move(finding));
}

Status Examination::checkRules(std::uint32_t index) {
  const ExaminedBlock& block = facts_.blocks()[index];
  if (block.table == nullptr || block.changes.action == Action::Remove || block.table->checks.empty()) return {};
  if (std::all_of(block.table->checks.begin(), block.table->checks.end(),
                  [](const CheckRule& r) { return r.understood; })) {
    return {};
  }
  std::vector<std::size_t> columns;
  std::vector<std::string> names;
  for (std::size_t c = 0; c < block.table->columns.size(); ++c) {
    if (block.table->columns[c].computed) continue;
    columns.push_back(c);
    names.push_back(block.table->columns[c].name);
  }
  std::vector<ValueTuple> records;
  std::vector<std::uint32_t> rows;
  for (std::uint32_t r = 0; r < block.changes.rows(); ++r) {
    if (!verdicts_.isOpen({index, r})) continue;
    if (auto record = facts_.finalTuple({index, r}, columns)) {
      records.push_back(std::move(*record));
      rows.push_back(r);
    }
  }
  return session_.brokenRules(*block.table, names, records, [&](std::size_t record, const CheckRule& rule) {
    const RowPlace place{index, rows[record]};
    Finding finding = verdicts_.findingFor(
        place, FindingKind::ValueRefused,
        "the rule of the database is broken: " + (rule.name.empty() ? rule.expression : rule.name));
    if (block.changes.cells.size() == 1) finding.column = block.changes.cells[0].column;
    verdicts_.note(place, std::move(finding));
  });
}

}  // namespace iterandum
