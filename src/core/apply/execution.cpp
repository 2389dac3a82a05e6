#include "core/apply/execution.h"

#include <algorithm>
#include <numeric>
#include <set>

#include "core/catalogue/column_rules.h"

namespace iterandum {
namespace {

FindingKind kindOf(const Error& error, Action action) {
  if (error.kind != ErrorKind::Constraint) return FindingKind::DatabaseRefused;
  switch (error.constraint) {
    case ConstraintKind::Unique:
      return FindingKind::Duplicate;
    case ConstraintKind::NotNull:
    case ConstraintKind::Check:
    case ConstraintKind::DataType:
      return FindingKind::ValueRefused;
    case ConstraintKind::ForeignKey:
      return action == Action::Remove ? FindingKind::StillReferenced : FindingKind::ParentMissing;
    default:
      return FindingKind::DatabaseRefused;
  }
}

std::string engineSays(const Error& error) {
  if (error.engineWords.empty()) return error.message;
  return "the database says: " + error.engineWords + " (code " + error.engineCode + ")";
}

// Columns of an addition that other additions may ask for: everything that takes part in a key.
std::vector<std::string> keyColumnsOf(const Table& table) {
  std::vector<std::string> out = table.writeKeyColumns();
  for (const UniqueKey& key : table.keys) {
    for (const std::string& name : table.columnNames(key.columns)) {
      if (std::find(out.begin(), out.end(), name) == out.end()) out.push_back(name);
    }
  }
  return out;
}

}  // namespace

void Execution::refuse(const RowPlace& place, const Error& error) {
  ExaminedBlock& block = examination_.blocks()[place.block];
  Finding finding = examination_.findingFor(place, kindOf(error, block.changes.action), engineSays(error));
  if (block.changes.action != Action::Remove && block.changes.cells.size() == 1) {
    finding.column = block.changes.cells[0].column;
    finding.to = block.changes.cells[0].to.at(place.row);
  }
  block.states[place.row] = ChangeState::Blocked;
  examination_.addFinding(std::move(finding));
}

bool Execution::resolve(const ExaminedBlock& block, std::size_t cell, std::uint32_t row, Value& out) const {
  out = block.changes.cells[cell].to.at(row);
  if (out.kind() != Value::Kind::PendingKey) return true;
  const auto label = labels_.find(std::string(out.asString()));
  if (label == labels_.end()) return false;
  const AddedKey& added = label->second;
  const auto column = block.table->columnIndex(block.changes.cells[cell].column);
  for (const Reference& reference : block.table->references) {
    for (std::size_t i = 0; i < reference.columns.size() && i < reference.targetColumns.size(); ++i) {
      if (!column || reference.columns[i] != *column) continue;
      const auto at = std::find(added.columns.begin(), added.columns.end(), reference.targetColumns[i]);
      if (at == added.columns.end()) continue;
      out = added.values[static_cast<std::size_t>(at - added.columns.begin())];
      return true;
    }
  }
  if (added.values.empty()) return false;
  out = added.values[0];
  return true;
}

// Neighbours in the key are neighbours on disk: many writes in that order touch each page once.
void Execution::orderByKey(const std::vector<ValueColumn>& keys, std::vector<std::uint32_t>& rows) {
  const auto less = [&](std::uint32_t a, std::uint32_t b) {
    for (const ValueColumn& key : keys) {
      const int order = compareValues(key.at(a), key.at(b));
      if (order != 0) return order < 0;
    }
    return false;
  };
  if (!std::is_sorted(rows.begin(), rows.end(), less)) std::stable_sort(rows.begin(), rows.end(), less);
}

std::vector<std::uint32_t> Execution::writableRows(const PlanStep& step) {
  std::vector<std::uint32_t> rows;
  const ExaminedBlock& block = examination_.blocks()[step.block];
  for (const std::uint32_t row : step.rows) {
    if (block.states[row] != ChangeState::Open) continue;
    if (step.ofAddition && newKeys_[step.block].known[row] == 0) continue;
    rows.push_back(row);
  }
  if (step.kind != WriteStep::Kind::Insert && !step.ofAddition) orderByKey(block.writeKeys, rows);
  return rows;
}

Status Execution::runStep(const PlanStep& step) {
  if (step.passing != nullptr) return runPassing(step);
  ExaminedBlock& block = examination_.blocks()[step.block];
  std::vector<std::uint32_t> rows = writableRows(step);
  // Values that stand for new keys are known by now; a change whose addition was refused cannot be tried.
  std::vector<ValueColumn> resolved(step.cells.size());
  WriteStep write;
  write.kind = step.kind;
  write.table = block.table;
  if (step.kind != WriteStep::Kind::Remove) {
    for (std::size_t i = 0; i < step.cells.size(); ++i) {
      const ChangeBlock::Cells& cells = block.changes.cells[step.cells[i]];
      write.columns.push_back(cells.column);
      write.values.push_back(&cells.to);
      if (labels_.empty()) continue;
      resolved[i] = cells.to;
      write.values[i] = &resolved[i];
      std::erase_if(rows, [&](std::uint32_t row) {
        Value v;
        if (!resolve(block, step.cells[i], row, v)) return true;
        resolved[i].set(row, std::move(v));
        return false;
      });
    }
  }
  const std::vector<ValueColumn> keys =
      step.kind == WriteStep::Kind::Insert ? std::vector<ValueColumn>() : keysNow(step, rows);
  if (step.kind != WriteStep::Kind::Insert) {
    write.keyColumns = block.table->writeKeyColumns();
    for (const ValueColumn& key : keys) write.keys.push_back(&key);
  } else {
    write.returning = keyColumnsOf(*block.table);
  }
  write.rows = rows;
  const std::size_t keyWidth = block.table->writeKeyColumns().size();
  WriteReport report;
  report.failed = [&](std::size_t row, const Error& error) {
    refuse({step.block, static_cast<std::uint32_t>(row)}, error);
  };
  report.returned = [&](std::size_t row, ValueTuple&& values) {
    if (!block.changes.labels[row].empty()) labels_[block.changes.labels[row]] = {write.returning, values};
    values.resize(keyWidth);
    newKeys_[step.block].known[row] = 1;
    newKeys_[step.block].keys[row] = std::move(values);
  };
  ITERANDUM_TRY(session_.write(write, report, progress_));
  transactionLost_ = !session_.inTransaction();
  return {};
}

std::vector<ValueColumn> Execution::keysNow(const PlanStep& step, const std::vector<std::uint32_t>& rows) {
  const ExaminedBlock& block = examination_.blocks()[step.block];
  if (!step.ofAddition && passedKeys_.empty()) return block.writeKeys;
  const std::size_t width = block.table->writeKeyColumns().size();
  std::vector<ValueColumn> keys =
      step.ofAddition ? std::vector<ValueColumn>(width, ValueColumn(block.changes.rows(), Value())) : block.writeKeys;
  for (const std::uint32_t row : rows) {
    const auto passed = passedKeys_.find({step.block, row});
    if (!step.ofAddition && passed == passedKeys_.end()) continue;
    const ValueTuple& key = step.ofAddition ? newKeys_[step.block].keys[row] : passed->second;
    for (std::size_t k = 0; k < width; ++k) keys[k].set(row, key[k]);
  }
  return keys;
}

Status Execution::runPassing(const PlanStep& step) {
  const ExaminedBlock& block = examination_.blocks()[step.block];
  for (const std::uint32_t row : writableRows(step)) {
    const auto column = passingColumn(block, row, *step.passing);
    Error last(ErrorKind::Refused, "unique values are swapped in a circle, and no passing value fits the column");
    bool written = false;
    for (int attempt = 0; column && !written && !transactionLost_; ++attempt) {
      const auto value = passingValue(block.table->columns[*column], attempt);
      if (!value) break;
      const ValueColumn values(block.changes.rows(), *value);
      const std::vector<std::uint32_t> one{row};
      WriteStep write;
      write.table = block.table;
      write.keyColumns = block.table->writeKeyColumns();
      for (const ValueColumn& key : block.writeKeys) write.keys.push_back(&key);
      write.columns = {block.table->columns[*column].name};
      write.values = {&values};
      write.rows = one;
      written = true;
      WriteReport report;
      report.failed = [&](std::size_t, const Error& error) {
        written = false;
        last = error;
      };
      ITERANDUM_TRY(session_.write(write, report, progress_));
      transactionLost_ = !session_.inTransaction();
      const auto inKey = std::find(write.keyColumns.begin(), write.keyColumns.end(), write.columns[0]);
      if (!written || inKey == write.keyColumns.end()) continue;
      ValueTuple key = block.writeKey(row);
      key[static_cast<std::size_t>(inKey - write.keyColumns.begin())] = *value;
      passedKeys_[{step.block, row}] = std::move(key);
    }
    if (!written) refuse({step.block, row}, last);
  }
  return {};
}

Status Execution::run(const Plan& plan, Writes writes) {
  const std::size_t count = examination_.blocks().size();
  const auto isMeant = [&](const ExaminedBlock& block) {
    return block.table != nullptr && block.table->cannotRollBack == (writes == Writes::ThatStay);
  };
  if (writes == Writes::ThatRollBack) {
    newKeys_.assign(count, {});
    after_.assign(count, {});
    layouts_.assign(count, {});
    effects_.clear();
    for (std::uint32_t b = 0; b < count; ++b) prepare(b);
  }
  for (const PlanStep& step : plan.steps) {
    if (!isMeant(examination_.blocks()[step.block])) continue;
    ITERANDUM_TRY(runStep(step));
    if (transactionLost_) return {};
  }
  checkTheEnd();
  for (std::uint32_t b = 0; b < count; ++b) {
    const ExaminedBlock& block = examination_.blocks()[b];
    if (!isMeant(block)) continue;
    if (block.changes.action == Action::Remove) {
      ITERANDUM_TRY(checkRemoved(b));
    } else {
      ITERANDUM_TRY(readAfter(b));
      compareAfter(b);
    }
  }
  return writes == Writes::ThatRollBack ? followConsequences() : Status();
}

void Execution::checkTheEnd() {
  if (examination_.blocked()) return;
  const auto broken = session_.brokenAtTheEnd();
  if (!broken) return;
  // The examination followed every reference and key that the change set touches; what is left was done by a trigger,
  // or is a rule of the database's own. Which change it comes from is not told.
  for (std::uint32_t b = 0; b < examination_.blocks().size(); ++b) {
    for (std::uint32_t r = 0; r < examination_.blocks()[b].states.size(); ++r) {
      if (examination_.blocks()[b].states[r] != ChangeState::Open) continue;
      refuse({b, r}, *broken);
      return;
    }
  }
}

Status Execution::checkRemoved(std::uint32_t index) {
  const ExaminedBlock& block = examination_.blocks()[index];
  if (!block.table->writesNotCounted) return {};
  std::vector<std::uint32_t> rows;
  for (std::uint32_t r = 0; r < block.changes.rows(); ++r) {
    if (block.states[r] == ChangeState::Open) rows.push_back(r);
  }
  KeyRead read{block.table, block.table->writeKeyColumns(), &block.writeKeys, rows, block.table->writeKeyColumns(), 1};
  std::set<std::uint32_t> still;
  ITERANDUM_TRY(session_.readByKeys(
      read, [&](std::size_t row, ValueTuple&&) { still.insert(static_cast<std::uint32_t>(row)); }, progress_));
  for (const std::uint32_t r : still) {
    refuse({index, r}, Error(ErrorKind::Refused,
                             "the record is still there after its removal: the database drops it without a word"));
  }
  return {};
}

Status Execution::followConsequences() {
  const std::vector<Consequence>& all = examination_.consequences();
  consequenceAfter_.assign(all.size(), {});
  std::map<std::tuple<std::uint32_t, const Table*, std::string>, std::uint64_t> counts;
  std::vector<std::tuple<std::uint32_t, const Table*, std::string>> order;
  for (std::size_t i = 0; i < all.size(); ++i) {
    const Consequence& c = all[i];
    std::vector<std::string> columns{std::string()};
    if (c.kind == Consequence::Kind::Set) {
      columns = c.table->columnNames(c.columns);
      std::vector<ValueColumn> keys;
      for (const Value& v : c.identity) keys.emplace_back(1, v);
      const std::vector<std::uint32_t> one{0};
      KeyRead read{c.table, c.table->writeKeyColumns(), &keys, one, c.recordColumns, 1};
      ITERANDUM_TRY(session_.readByKeys(
          read, [&](std::size_t, ValueTuple&& record) { consequenceAfter_[i] = std::move(record); }, progress_));
    }
    for (const std::string& column : columns) {
      const auto key = std::make_tuple(c.change, c.table, column);
      if (++counts[key] == 1) order.push_back(key);
    }
  }
  for (const auto& key : order) {
    Effect effect;
    effect.change = std::get<0>(key);
    effect.table = std::get<1>(key)->name;
    effect.column = std::get<2>(key);
    effect.kind = effect.column.empty() ? Effect::Kind::CascadeRemove : Effect::Kind::CascadeSet;
    effect.rows = counts[key];
    effects_.push_back(std::move(effect));
  }
  return {};
}

}  // namespace iterandum
