#include "core/apply/execution.h"

#include <algorithm>
#include <numeric>
#include <set>

#include "core/apply/passing.h"
#include "core/catalogue/column_rules.h"

namespace iterandum {
namespace {

FindingKind kindOf(const Error& error, Action action) {
  if (error.kind == ErrorKind::NoRight) return FindingKind::NotEditable;
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

// The columns that name an addition, and those that other records may point at.
std::vector<std::string> keyColumnsOf(const Table& table, const Catalogue& catalogue, bool usesLabels) {
  std::vector<std::string> out = table.writeKeyColumns();
  if (!usesLabels) return out;
  for (const IncomingReference& in : catalogue.referencesTo(table.name)) {
    for (const std::string& name : catalogue.tables()[in.table].references[in.reference].targetColumns) {
      if (std::find(out.begin(), out.end(), name) == out.end()) out.push_back(name);
    }
  }
  return out;
}

}  // namespace

void Execution::refuse(const RowPlace& place, const Error& error) {
  const ExaminedBlock& block = facts_.blocks()[place.block];
  Finding finding = verdicts_.findingFor(place, kindOf(error, block.changes.action), engineSays(error));
  if (block.changes.action != Action::Remove && block.changes.cells.size() == 1) {
    finding.column = block.changes.cells[0].column;
    finding.to = block.changes.cells[0].to.at(place.row);
  }
  verdicts_.refuse(place, std::move(finding));
}

bool Execution::resolve(const ExaminedBlock& block, std::size_t cell, std::uint32_t row, Value& out) const {
  out = block.changes.cells[cell].to.at(row);
  if (out.kind() != Value::Kind::PendingKey) return true;
  const auto label = labels_.find(std::string(out.asString()));
  if (label == labels_.end()) return false;
  const AddedKey& added = label->second;
  const std::string meant = labelledColumn(*block.table, block.changes.cells[cell].column, *added.table);
  const auto at = std::find(added.columns.begin(), added.columns.end(), meant);
  if (at == added.columns.end()) return false;
  out = added.values[static_cast<std::size_t>(at - added.columns.begin())];
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
  const ExaminedBlock& block = facts_.blocks()[step.block];
  for (const std::uint32_t row : step.rows) {
    if (!verdicts_.isOpen({step.block, row})) continue;
    if (step.part == PlanStep::Part::Completion && newKeys_[step.block].known[row] == 0) continue;
    rows.push_back(row);
  }
  if (step.kind != WriteStep::Kind::Insert && step.part != PlanStep::Part::Completion)
    orderByKey(block.writeKeys, rows);
  return rows;
}

void Execution::resolveCells(const PlanStep& step, WriteStep& write, std::vector<ValueColumn>& resolved,
                             std::vector<std::uint32_t>& rows) {
  const ExaminedBlock& block = facts_.blocks()[step.block];
  for (std::size_t i = 0; i < step.cells.size(); ++i) {
    const std::size_t cell = step.cells[i];
    const ChangeBlock::Cells& cells = block.changes.cells[cell];
    write.columns.push_back(cells.column);
    write.values.push_back(&cells.to);
    const bool later = std::find(step.left.begin(), step.left.end(), cell) != step.left.end();
    if (!usesLabels_ && !later) continue;
    resolved[i] = cells.to;
    write.values[i] = &resolved[i];
    std::erase_if(rows, [&](std::uint32_t row) {
      Value v;
      if (!later && !resolve(block, cell, row, v)) {
        cannotResolve({step.block, row}, cell);
        return true;
      }
      resolved[i].set(row, std::move(v));
      return false;
    });
  }
}

void Execution::cannotResolve(const RowPlace& place, std::size_t cell) {
  const ExaminedBlock& block = facts_.blocks()[place.block];
  // What the addition has against it is said there.
  if (!verdicts_.blocked()) {
    const ChangeBlock::Cells& cells = block.changes.cells[cell];
    Finding finding = verdicts_.findingFor(place, FindingKind::ParentMissing,
                                           cells.column + " is to hold the key of the new record '" +
                                               std::string(cells.to.at(place.row).asString()) +
                                               "', which is not known where this record is written");
    finding.column = cells.column;
    verdicts_.note(place, std::move(finding));
  }
  verdicts_.hold(place);
}

Status Execution::runStep(const PlanStep& step) {
  if (step.part == PlanStep::Part::Passing) return runPassing(step);
  if (step.part == PlanStep::Part::Release) return runRelease(step);
  const ExaminedBlock& block = facts_.blocks()[step.block];
  std::vector<std::uint32_t> rows = writableRows(step);
  std::vector<ValueColumn> resolved(step.cells.size());
  WriteStep write;
  write.kind = step.kind;
  write.table = block.table;
  if (step.kind != WriteStep::Kind::Remove) resolveCells(step, write, resolved, rows);
  const std::vector<ValueColumn> keys =
      step.kind == WriteStep::Kind::Insert ? std::vector<ValueColumn>() : keysNow(step, rows);
  if (step.kind != WriteStep::Kind::Insert) {
    write.keyColumns = block.table->writeKeyColumns();
    for (const ValueColumn& key : keys) write.keys.push_back(&key);
  } else {
    write.returning = keyColumnsOf(*block.table, facts_.catalogue(), usesLabels_);
  }
  write.rows = rows;
  const std::size_t keyWidth = block.table->writeKeyColumns().size();
  WriteReport report;
  report.failed = [&](std::size_t row, const Error& error) {
    refuse({step.block, static_cast<std::uint32_t>(row)}, error);
  };
  report.returned = [&](std::size_t row, ValueTuple&& values) {
    if (!block.changes.labels[row].empty()) labels_[block.changes.labels[row]] = {block.table, write.returning, values};
    values.resize(keyWidth);
    newKeys_[step.block].known[row] = 1;
    newKeys_[step.block].keys[row] = std::move(values);
  };
  ITERANDUM_TRY(session_.write(write, report, progress_));
  transactionLost_ = !session_.inTransaction();
  if (step.part == PlanStep::Part::First) return {};
  for (const std::uint32_t row : rows) written_[step.block][row] = 1;
  return {};
}

std::vector<ValueColumn> Execution::keysNow(const PlanStep& step, const std::vector<std::uint32_t>& rows) {
  const ExaminedBlock& block = facts_.blocks()[step.block];
  const bool added = step.part == PlanStep::Part::Completion;
  if (!added && passedKeys_.empty()) return block.writeKeys;
  const std::size_t width = block.table->writeKeyColumns().size();
  std::vector<ValueColumn> keys =
      added ? std::vector<ValueColumn>(width, ValueColumn(block.changes.rows(), Value())) : block.writeKeys;
  for (const std::uint32_t row : rows) {
    const auto passed = passedKeys_.find({step.block, row});
    if (!added && passed == passedKeys_.end()) continue;
    const ValueTuple& key = added ? newKeys_[step.block].keys[row] : passed->second;
    for (std::size_t k = 0; k < width; ++k) keys[k].set(row, key[k]);
  }
  return keys;
}

Status Execution::writeForNow(const PlanStep& step, std::uint32_t row, const std::vector<std::size_t>& columns,
                              const Value& value, std::optional<Error>& refused) {
  const ExaminedBlock& block = facts_.blocks()[step.block];
  const ValueColumn values(block.changes.rows(), value);
  const std::vector<std::uint32_t> one{row};
  const std::vector<ValueColumn> keys = keysNow(step, one);
  WriteStep write;
  write.table = block.table;
  write.keyColumns = block.table->writeKeyColumns();
  for (const ValueColumn& key : keys) write.keys.push_back(&key);
  write.columns = block.table->columnNames(columns);
  write.values.assign(columns.size(), &values);
  write.rows = one;
  refused.reset();
  WriteReport report;
  report.failed = [&](std::size_t, const Error& error) { refused = error; };
  ITERANDUM_TRY(session_.write(write, report, progress_));
  transactionLost_ = !session_.inTransaction();
  if (refused) return {};
  ValueTuple key;
  bool renamed = false;
  for (std::size_t k = 0; k < write.keyColumns.size(); ++k) {
    const bool here = std::find(write.columns.begin(), write.columns.end(), write.keyColumns[k]) != write.columns.end();
    key.push_back(here ? value : keys[k].at(row));
    renamed = renamed || here;
  }
  if (renamed) passedKeys_[{step.block, row}] = std::move(key);
  return {};
}

Status Execution::runPassing(const PlanStep& step) {
  const ExaminedBlock& block = facts_.blocks()[step.block];
  for (const std::uint32_t row : writableRows(step)) {
    std::optional<Error> refused(
        Error(ErrorKind::Refused, "unique values are swapped in a circle, and no passing value fits the column"));
    for (const PassingChoice& choice : passingChoices(facts_.catalogue(), block, row, *step.passing)) {
      for (int attempt = 0; refused && !transactionLost_; ++attempt) {
        const auto value = choice.empty ? (attempt == 0 ? std::optional<Value>(Value()) : std::nullopt)
                                        : passingValue(block.table->columns[choice.column], attempt);
        if (!value) break;
        ITERANDUM_TRY(writeForNow(step, row, {choice.column}, *value, refused));
      }
    }
    if (refused) refuse({step.block, row}, *refused);
  }
  return {};
}

Status Execution::runRelease(const PlanStep& step) {
  for (const std::uint32_t row : writableRows(step)) {
    std::optional<Error> refused;
    ITERANDUM_TRY(writeForNow(step, row, step.released, Value(), refused));
    if (refused) refuse({step.block, row}, *refused);
  }
  return {};
}

Status Execution::run(const Plan& plan, Writes writes) {
  const std::size_t count = facts_.blocks().size();
  const auto isMeant = [&](const ExaminedBlock& block) {
    return block.table != nullptr && block.table->cannotRollBack == (writes == Writes::ThatStay);
  };
  if (writes == Writes::ThatRollBack) {
    newKeys_.assign(count, {});
    written_.assign(count, {});
    after_.assign(count, {});
    layouts_.assign(count, {});
    effects_.clear();
    for (std::uint32_t b = 0; b < count; ++b) prepare(b);
  }
  for (const PlanStep& step : plan.steps) {
    if (!isMeant(facts_.blocks()[step.block])) continue;
    // From the first statement on something may stay, whatever the server answers.
    wroteWhatStays_ = wroteWhatStays_ || writes == Writes::ThatStay;
    ITERANDUM_TRY(runStep(step));
    if (transactionLost_) return {};
  }
  ITERANDUM_TRY(checkTheEnd());
  for (std::uint32_t b = 0; b < count; ++b) {
    if (isMeant(facts_.blocks()[b])) checkComplete(b);
  }
  for (std::uint32_t b = 0; b < count; ++b) {
    const ExaminedBlock& block = facts_.blocks()[b];
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

void Execution::checkComplete(std::uint32_t index) {
  const ExaminedBlock& block = facts_.blocks()[index];
  for (std::uint32_t r = 0; r < block.changes.rows(); ++r) {
    if (!verdicts_.isOpen({index, r}) || written_[index][r] != 0) continue;
    bool anything = block.changes.action != Action::Edit;
    for (std::size_t c = 0; c < block.changes.cells.size() && !anything; ++c) anything = block.writesCell(c, r);
    if (!anything) continue;
    refuse({index, r},
           Error(ErrorKind::Internal, "it was left out of the write plan, which is a mistake of this program"));
  }
}

Status Execution::checkTheEnd() {
  if (verdicts_.blocked()) return {};
  const auto broken = session_.brokenAtTheEnd();
  if (!broken) return {};
  // A line that was lost, or a lock that was not got, is no refusal.
  const bool refused = broken->kind == ErrorKind::Constraint || broken->kind == ErrorKind::Refused ||
                       broken->kind == ErrorKind::NoRight || broken->kind == ErrorKind::NotFound;
  if (!refused) return fail(*broken);
  // The examination followed every reference and key that the change set touches; what is left was done by a trigger,
  // or is a rule of the database's own. Which change it comes from is not told.
  for (std::uint32_t b = 0; b < facts_.blocks().size(); ++b) {
    for (std::uint32_t r = 0; r < facts_.blocks()[b].changes.rows(); ++r) {
      if (!verdicts_.isOpen({b, r})) continue;
      refuse({b, r}, *broken);
      return {};
    }
  }
  return {};
}

Status Execution::checkRemoved(std::uint32_t index) {
  const ExaminedBlock& block = facts_.blocks()[index];
  if (!block.table->writesNotCounted) return {};
  std::vector<std::uint32_t> rows;
  for (std::uint32_t r = 0; r < block.changes.rows(); ++r) {
    if (verdicts_.isOpen({index, r})) rows.push_back(r);
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

// The records that the database changed by itself, as they are now.
Status Execution::readConsequences() {
  const std::vector<Consequence>& all = facts_.consequences();
  consequenceAfter_.assign(all.size(), {});
  std::map<const Table*, std::vector<std::uint32_t>> byTable;
  for (std::uint32_t i = 0; i < all.size(); ++i) {
    if (all[i].kind == Consequence::Kind::Set) byTable[all[i].table].push_back(i);
  }
  for (const auto& [table, members] : byTable) {
    const std::vector<std::string> keyColumns = table->writeKeyColumns();
    std::vector<ValueColumn> keys(keyColumns.size());
    for (const std::uint32_t i : members) {
      // A change of its own may have renamed it besides.
      const RowPlace* change = verdicts_.touching(*table, all[i].identity);
      const ValueTuple key = change == nullptr ? all[i].identityAfter() : keyAfter(change->block, change->row);
      for (std::size_t k = 0; k < keys.size(); ++k) keys[k].push(key[k]);
    }
    std::vector<std::uint32_t> rows(members.size());
    std::iota(rows.begin(), rows.end(), 0U);
    orderByKey(keys, rows);
    KeyRead read{table, keyColumns, &keys, rows, table->recordColumns(), 1};
    ITERANDUM_TRY(session_.readByKeys(
        read,
        [&, &ofTable = members](std::size_t row, ValueTuple&& record) {
          consequenceAfter_[ofTable[row]] = std::move(record);
        },
        progress_));
  }
  for (std::size_t i = 0; i < all.size(); ++i) {
    if (all[i].kind == Consequence::Kind::Set) compareConsequence(all[i], consequenceAfter_[i]);
  }
  return {};
}

Status Execution::followConsequences() {
  ITERANDUM_TRY(readConsequences());
  std::map<std::tuple<std::uint32_t, const Table*, std::string>, std::uint64_t> counts;
  std::vector<std::tuple<std::uint32_t, const Table*, std::string>> order;
  for (const Consequence& c : facts_.consequences()) {
    for (const Consequence::Cause& cause : c.causes) {
      std::vector<std::string> columns{std::string()};
      if (c.kind == Consequence::Kind::Set) columns = c.table->columnNames(cause.columns);
      for (const std::string& column : columns) {
        const auto key = std::make_tuple(cause.change, c.table, column);
        if (++counts[key] == 1) order.push_back(key);
      }
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
