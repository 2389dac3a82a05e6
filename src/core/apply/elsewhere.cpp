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
  return session_.noteWrites(catalogue_, !code_.triggers.empty(), progress_);
}

// What cannot be read is said, and is no reason to refuse a review.
Status ElsewhereWatch::leaveUntold(const Error& error, std::string& untold) {
  if (error.kind == ErrorKind::Cancelled || error.kind == ErrorKind::ConnectionLost) return fail(error);
  untold = "its records cannot be looked at: " + error.message;
  return {};
}

// --- an engine that cannot tell --------------------------------------------------------------------------------------

// With the writes, and again when they were rolled back: a moment later, so that what somebody else writes meanwhile is
// in both.
Status ElsewhereWatch::readMentioned() {
  std::set<const Table*> mentioned;
  for (const auto& [table, trigger] : code_.triggers) {
    for (const Table& other : catalogue_.tables()) {
      const bool named = other.kind == TableKind::Table && mentionsName(bodyOf(trigger->text), other.name.name);
      // What is written where nothing rolls back is told as such.
      if (named && !other.cannotRollBack) mentioned.insert(&other);
    }
  }
  for (const Table* table : mentioned) {
    Reading reading;
    reading.table = table;
    ITERANDUM_TRY(readAll(*table, reading.after, reading.untold));
    readings_.push_back(std::move(reading));
  }
  return {};
}

Status ElsewhereWatch::readAll(const Table& table, std::vector<ValueTuple>& records, std::string& untold) {
  Query all;
  all.table = &table;
  all.columns = table.recordColumns();
  all.limit = kMostRead + 1;
  const Status read = session_.select(
      all,
      [&](ValueTuple&& record) {
        records.push_back(std::move(record));
        return true;
      },
      progress_);
  if (!read) return leaveUntold(read.error(), untold);
  if (records.size() <= kMostRead) return {};
  untold =
      "this engine does not tell what its triggers write, and the table is too large to be read with and without it";
  return {};
}

void ElsewhereWatch::compareReadings(const Reading& reading, std::vector<WrittenElsewhere>& out) const {
  const Table& table = *reading.table;
  WrittenElsewhere written = begun(table, table.name);
  written.untold = reading.untold;
  if (!reading.untold.empty()) return out.push_back(std::move(written));
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
  if (written.added + written.changed + written.removed > 0) out.push_back(std::move(written));
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
  readings_.clear();
  if (!told) return readMentioned();
  for (TableWrites& writes : *told) {
    Written one;
    // What was refused and undone is counted too.
    if (verdicts.blocked()) writes.removed = 0;
    if (auto after = readWritten(writes)) {
      one.after = std::move(*after);
    } else {
      ITERANDUM_TRY(leaveUntold(after.error(), writes.untold));
    }
    one.writes = std::move(writes);
    written_.push_back(std::move(one));
  }
  return {};
}

Result<std::vector<WrittenElsewhere>> ElsewhereWatch::lookBefore() {
  std::vector<WrittenElsewhere> out;
  for (Reading& reading : readings_) {
    if (reading.untold.empty()) {
      ITERANDUM_TRY(readAll(*reading.table, reading.before, reading.untold));
    }
    compareReadings(reading, out);
  }
  for (const Written& written : written_) {
    const TableWrites& writes = written.writes;
    const Table none;
    const Table& table = writes.table == nullptr ? none : *writes.table;
    WrittenElsewhere told = begun(table, writes.name);
    told.untold = writes.untold;
    if (const auto before = readWritten(writes)) {
      for (std::size_t i = 0; i < written.after.size(); ++i) add(told, table, (*before)[i], written.after[i]);
    } else {
      ITERANDUM_TRY(leaveUntold(before.error(), told.untold));
    }
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
