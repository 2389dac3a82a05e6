#include "core/apply/elsewhere.h"

#include <algorithm>
#include <cctype>
#include <numeric>
#include <set>

#include "core/catalogue/database_code.h"

namespace iterandum {
namespace {

constexpr std::uint64_t kMostKeys = 200'000;  // of one table, looked at one by one
constexpr std::uint64_t kMostRead = 20'000;   // records of a table that is read twice
constexpr std::size_t kMostShown = 200;

// What a trigger does, without the head that says on which table it is.
std::string_view bodyOf(std::string_view text) {
  const auto at = [&](std::string_view word) {
    return std::search(text.begin(), text.end(), word.begin(), word.end(),
                       [](char a, char b) { return std::toupper(static_cast<unsigned char>(a)) == b; });
  };
  if (at("CREATE") != text.begin() || at("BEGIN") == text.end()) return text;
  return text.substr(static_cast<std::size_t>(at("BEGIN") - text.begin()));
}

ValueTuple partOf(const ValueTuple& record, const std::vector<std::string>& columns,
                  const std::vector<std::string>& wanted) {
  ValueTuple out;
  for (const std::string& name : wanted) {
    const auto at = std::find(columns.begin(), columns.end(), name);
    if (at != columns.end()) out.push_back(record[static_cast<std::size_t>(at - columns.begin())]);
  }
  return out;
}

}  // namespace

Status ElsewhereWatch::start(const Facts& facts) {
  std::vector<TableName> changed;
  for (const ExaminedBlock& block : facts.blocks()) changed.push_back(block.changes.table);
  code_ = reachedCode(catalogue_, changed);
  readings_.clear();
  ITERANDUM_TRY(session_.noteWrites(catalogue_, !code_.triggers.empty(), progress_));
  if (code_.triggers.empty()) return {};
  ITERANDUM_ASSIGN(const auto able, session_.writesSoFar(catalogue_, 0, progress_));
  return able ? Status() : readMentioned();
}

// --- an engine that cannot tell --------------------------------------------------------------------------------------

Status ElsewhereWatch::readMentioned() {
  std::set<const Table*> changed;
  for (const auto& [table, trigger] : code_.triggers) {
    for (const Table& other : catalogue_.tables()) {
      if (other.kind == TableKind::Table && mentionsName(trigger->text, other.name.name)) changed.insert(&other);
    }
  }
  for (const Table* table : changed) {
    Reading reading;
    reading.table = table;
    Query all;
    all.table = table;
    if (table->cannotRollBack) continue;  // what is written there is told as such
    ITERANDUM_ASSIGN(const std::uint64_t records, session_.count(all, progress_));
    if (records > kMostRead) {
      reading.untold =
          "this engine does not tell what its triggers write, and the table is too large to be read before "
          "and after";
    } else {
      ITERANDUM_ASSIGN(reading.before, readAll(*table));
    }
    readings_.push_back(std::move(reading));
  }
  return {};
}

Result<std::vector<ValueTuple>> ElsewhereWatch::readAll(const Table& table) {
  Query all;
  all.table = &table;
  all.columns = table.recordColumns();
  std::vector<ValueTuple> out;
  ITERANDUM_TRY(session_.select(
      all,
      [&](ValueTuple&& record) {
        out.push_back(std::move(record));
        return true;
      },
      progress_));
  return out;
}

void ElsewhereWatch::compareReadings(const Reading& reading, std::vector<WrittenElsewhere>& out) const {
  const Table& table = *reading.table;
  WrittenElsewhere written = begun(table, table.name);
  written.untold = reading.untold;
  // Without a name a record is all that it holds; several may be alike.
  const std::vector<std::string> name = written.keyColumns.empty() || table.identity.kind == Identity::Kind::WholeRecord
                                            ? written.columns
                                            : written.keyColumns;
  std::unordered_map<ValueTuple, std::vector<const ValueTuple*>, TupleHash, TupleSame> before;
  for (const ValueTuple& record : reading.before) before[partOf(record, written.columns, name)].push_back(&record);
  for (const ValueTuple& record : reading.after) {
    const auto it = before.find(partOf(record, written.columns, name));
    if (it == before.end() || it->second.empty()) {
      add(written, table, {}, record);
      continue;
    }
    add(written, table, *it->second.back(), record);
    it->second.pop_back();
  }
  for (const auto& [key, records] : before) {
    for (const ValueTuple* record : records) add(written, table, *record, {});
  }
  if (written.added + written.changed + written.removed > 0 || !written.untold.empty()) {
    out.push_back(std::move(written));
  }
}

// --- what is known anyway --------------------------------------------------------------------------------------------

void ElsewhereWatch::noteKnown(const Facts& facts, const Verdicts& verdicts, const Execution& execution) {
  known_.clear();
  gone_.clear();
  for (std::uint32_t b = 0; b < facts.blocks().size(); ++b) {
    const ExaminedBlock& block = facts.blocks()[b];
    if (block.table == nullptr) continue;
    Keys& keys = known_[block.table];
    for (std::uint32_t r = 0; r < block.changes.rows(); ++r) {
      // What nothing is written to is somebody else's doing, though a change names it.
      if (!verdicts.isOpen({b, r})) continue;
      if (block.changes.action != Action::Add) keys.insert(block.writeKey(r));
      if (block.changes.action == Action::Remove) {
        ++gone_[block.table];
      } else if (ValueTuple after = execution.identityAfter({b, r}); !after.empty()) {
        keys.insert(std::move(after));
      }
    }
  }
  for (const Consequence& consequence : facts.consequences()) {
    known_[consequence.table].insert(consequence.identity);
    if (consequence.kind == Consequence::Kind::Remove)
      ++gone_[consequence.table];
    else
      known_[consequence.table].insert(consequence.identityAfter());
  }
}

bool ElsewhereWatch::isKnown(const Table& table, const ValueTuple& record) const {
  const auto keys = known_.find(&table);
  if (keys == known_.end()) return false;
  return keys->second.count(partOf(record, table.recordColumns(), table.writeKeyColumns())) > 0;
}

WrittenElsewhere ElsewhereWatch::begun(const Table& table, const TableName& name) const {
  WrittenElsewhere out;
  out.table = name;
  out.columns = table.recordColumns();
  out.keyColumns = table.writeKeyColumns();
  std::set<std::string> by;
  for (const auto& [on, trigger] : code_.triggers) {
    if (trigger->text.empty() || mentionsName(bodyOf(trigger->text), name.name))
      by.insert(triggerInWords(*on, *trigger));
  }
  out.by.assign(by.begin(), by.end());
  return out;
}

void ElsewhereWatch::add(WrittenElsewhere& out, const Table& table, const ValueTuple& before,
                         const ValueTuple& after) const {
  if (before.empty() && after.empty()) return;  // there only in between
  if (!before.empty() && !after.empty() && sameTuple(before, after)) return;
  if (!before.empty() && isKnown(table, before)) return;
  if (!after.empty() && isKnown(table, after)) return;
  ++(before.empty() ? out.added : (after.empty() ? out.removed : out.changed));
  if (out.records.size() == kMostShown) return;
  out.records.push_back({partOf(after.empty() ? before : after, out.columns, out.keyColumns), before, after});
}

// --- an engine that tells --------------------------------------------------------------------------------------------

Result<std::vector<ValueTuple>> ElsewhereWatch::readWritten(const TableWrites& writes) {
  std::vector<ValueTuple> out(writes.keys.empty() ? 0 : writes.keys.front().size());
  if (out.empty()) return out;
  std::vector<std::uint32_t> rows(out.size());
  std::iota(rows.begin(), rows.end(), 0U);
  const KeyRead read{writes.table, writes.keyColumns, &writes.keys, rows, writes.table->recordColumns(), 1};
  ITERANDUM_TRY(session_.readByKeys(
      read, [&](std::size_t row, ValueTuple&& record) { out[row] = std::move(record); }, progress_));
  return out;
}

Status ElsewhereWatch::lookAfter(const Facts& facts, const Verdicts& verdicts, const Execution& execution) {
  written_.clear();
  noteKnown(facts, verdicts, execution);
  ITERANDUM_ASSIGN(auto told, session_.writesSoFar(catalogue_, kMostKeys, progress_));
  for (Reading& reading : readings_) {
    if (!reading.untold.empty()) continue;
    ITERANDUM_ASSIGN(reading.after, readAll(*reading.table));
  }
  if (!told) return {};
  for (TableWrites& writes : *told) {
    Written one;
    // What was refused and undone is counted too.
    if (verdicts.blocked()) writes.removed = 0;
    ITERANDUM_ASSIGN(one.after, readWritten(writes));
    one.writes = std::move(writes);
    written_.push_back(std::move(one));
  }
  return {};
}

Result<std::vector<WrittenElsewhere>> ElsewhereWatch::lookBefore() {
  std::vector<WrittenElsewhere> out;
  for (const Reading& reading : readings_) compareReadings(reading, out);
  for (const Written& written : written_) {
    const TableWrites& writes = written.writes;
    const Table none;
    const Table& table = writes.table == nullptr ? none : *writes.table;
    WrittenElsewhere told = begun(table, writes.name);
    told.untold = writes.untold;
    ITERANDUM_ASSIGN(const std::vector<ValueTuple> before, readWritten(writes));
    for (std::size_t i = 0; i < before.size(); ++i) add(told, table, before[i], written.after[i]);
    const auto gone = gone_.find(writes.table);
    const std::uint64_t expected = gone == gone_.end() ? 0 : gone->second;
    // Some engines count removals without naming what was removed.
    if (writes.removed > expected) told.removed += writes.removed - expected;
    // What the change set and its references write to a table is no reason to say that something is not known.
    const bool unexpected = known_.count(writes.table) == 0 || !told.by.empty();
    if (told.added + told.changed + told.removed > 0 || (!told.untold.empty() && unexpected)) {
      out.push_back(std::move(told));
    }
  }
  std::sort(out.begin(), out.end(), [](const auto& a, const auto& b) { return a.table < b.table; });
  return out;
}

}  // namespace iterandum
