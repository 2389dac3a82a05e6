#include "core/apply/script.h"

#include <algorithm>
#include <map>

#include "core/value/codec.h"

namespace iterandum {
namespace {

// As many records as a person may still look over in one statement, and every client takes.
constexpr std::size_t kMostKeysInOne = 500;

class ScriptMaker {
 public:
  ScriptMaker(const Session& session, const Examination& examination) : session_(session), examination_(examination) {}

  std::vector<ReviewStatement> make() {
    const Plan plan = makePlan(examination_, PlanFor::Reading);
    bool labels = false;
    for (const ExaminedBlock& block : examination_.blocks()) {
      labels = labels || std::any_of(block.changes.labels.begin(), block.changes.labels.end(),
                                     [](const std::string& l) { return !l.empty(); });
    }
    for (std::string& sql : session_.scriptOpening(labels)) out_.push_back({std::move(sql), {}});
    for (const PlanStep& step : plan.steps) addStep(step);
    for (std::string& sql : session_.scriptClosing()) out_.push_back({std::move(sql), {}});
    return std::move(out_);
  }

 private:
  void addStep(const PlanStep& step) {
    const ExaminedBlock& block = examination_.blocks()[step.block];
    std::map<std::string, std::size_t> bySameWork;
    std::vector<ScriptStatement> statements;
    std::vector<std::vector<std::uint32_t>> changes;
    for (const std::uint32_t row : step.rows) {
      ScriptStatement one = statementFor(step, block, row);
      std::string work;
      if (one.kind == WriteStep::Kind::Insert) {
        work = std::to_string(row);
      } else {
        ByteWriter w;
        for (const auto& [column, value] : one.set) w.value(value);
        for (const auto& [column, value] : one.guard) w.value(value);
        work = w.take();
      }
      const auto [it, isNew] = bySameWork.try_emplace(work, statements.size());
      if (!isNew && statements[it->second].keys.size() < kMostKeysInOne) {
        statements[it->second].keys.push_back(std::move(one.keys[0]));
        changes[it->second].push_back(block.changes.changeIndex[row]);
        continue;
      }
      it->second = statements.size();
      statements.push_back(std::move(one));
      changes.push_back({block.changes.changeIndex[row]});
    }
    for (std::size_t i = 0; i < statements.size(); ++i) {
      out_.push_back({session_.scriptText(statements[i]), std::move(changes[i])});
    }
  }

  ScriptStatement statementFor(const PlanStep& step, const ExaminedBlock& block, std::uint32_t row) {
    ScriptStatement s;
    s.kind = step.kind;
    s.table = block.table;
    const bool found = row < block.found.size() && block.found[row] != 0;
    if (step.ofAddition) {
      // Completes a record of this very script: its key is what its label stands for.
      s.keyColumns = block.table->writeKeyColumns();
      s.keys.push_back({Value::pendingKey(block.changes.labels[row])});
    } else if (block.changes.action != Action::Add) {
      s.keyColumns = block.changes.keyColumns;
      s.keys.push_back(block.changes.key(row));
    }
    if (step.passing != nullptr) {
      if (const auto column = passingColumn(block, row, *step.passing)) {
        const auto value = passingValue(block.table->columns[*column], passingUsed_[{block.table, *column}]++);
        s.set.emplace_back(block.table->columns[*column].name, value.value_or(Value()));
        passed_[{step.block, row}][block.table->columns[*column].name] = value.value_or(Value());
      }
    }
    if (step.passing == nullptr && !step.ofAddition) followPassed({step.block, row}, s);
    if (step.kind != WriteStep::Kind::Remove && step.passing == nullptr) {
      for (const std::size_t c : step.cells)
        s.set.emplace_back(block.changes.cells[c].column, block.changes.cells[c].to.at(row));
    }
    if (step.kind == WriteStep::Kind::Insert) addLabel(block, row, s);
    if (step.kind != WriteStep::Kind::Insert && !step.ofAddition) addGuards(step, block, row, found, s);
    return s;
  }

  // A record in whose key a passing value stands is found by that.
  void followPassed(const std::pair<std::uint32_t, std::uint32_t>& place, ScriptStatement& s) const {
    const auto passed = passed_.find(place);
    if (passed == passed_.end()) return;
    for (std::size_t k = 0; k < s.keyColumns.size(); ++k) {
      const auto value = passed->second.find(s.keyColumns[k]);
      if (value != passed->second.end()) s.keys[0][k] = value->second;
    }
  }

  static void addLabel(const ExaminedBlock& block, std::uint32_t row, ScriptStatement& s) {
    s.label = block.changes.labels[row];
    const std::vector<std::string> key = block.table->writeKeyColumns();
    s.labelColumn = key.empty() ? std::string() : key[0];
  }

  void addGuards(const PlanStep& step, const ExaminedBlock& block, std::uint32_t row, bool, ScriptStatement& s) {
    const auto passed = passed_.find({step.block, row});
    for (std::size_t c = 0; c < block.changes.cells.size(); ++c) {
      const ChangeBlock::Cells& cells = block.changes.cells[c];
      if (!cells.hasFrom) continue;
      const bool isKey = std::find(s.keyColumns.begin(), s.keyColumns.end(), cells.column) != s.keyColumns.end();
      // What a passing value was put into no longer holds what was seen.
      const bool changed = step.passing == nullptr && passed != passed_.end() && passed->second.contains(cells.column);
      if (!isKey && !changed) s.guard.emplace_back(cells.column, cells.from.at(row));
    }
  }

  const Session& session_;
  const Examination& examination_;
  std::vector<ReviewStatement> out_;
  std::map<std::pair<const Table*, std::size_t>, int> passingUsed_;
  std::map<std::pair<std::uint32_t, std::uint32_t>, std::map<std::string, Value>> passed_;
};

}  // namespace

std::vector<ReviewStatement> makeScript(const Session& session, const Examination& examination) {
  return ScriptMaker(session, examination).make();
}

}  // namespace iterandum
