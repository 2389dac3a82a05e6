#include "core/apply/script.h"

#include <algorithm>
#include <map>
#include <set>

#include "core/apply/passing.h"
#include "core/value/codec.h"

namespace iterandum {
namespace {

// As many records as a person may still look over in one statement, and every client takes.
constexpr std::size_t kMostKeysInOne = 500;

using Place = std::pair<std::uint32_t, std::uint32_t>;  // block, row

class ScriptMaker {
 public:
  ScriptMaker(const Session& session, const Facts& facts, const Verdicts& verdicts)
      : session_(session), facts_(facts), verdicts_(verdicts) {
    for (std::uint32_t b = 0; b < facts.blocks().size(); ++b) {
      const std::vector<std::string>& labels = facts.blocks()[b].changes.labels;
      for (std::uint32_t r = 0; r < labels.size(); ++r) {
        if (!labels[r].empty()) labelled_[labels[r]] = {b, r};
      }
    }
  }

  std::vector<ReviewStatement> make() {
    const Plan plan = makePlan(facts_, verdicts_, PlanFor::Reading);
    for (const PlanStep& step : plan.steps) addStep(step);
    ScriptOutline outline;
    outline.usesLabels = !remembered_.empty();
    for (std::size_t i = 0; i < statements_.size(); ++i) {
      // Where nothing is counted, there is a look before and one after.
      const bool twice = statements_[i].table->writesNotCounted && statements_[i].kind != WriteStep::Kind::Insert;
      statements_[i].number = outline.looks + 1;
      outline.looks += twice ? 2 : 1;
      outline.writes.emplace(statements_[i].table, statements_[i].kind);
      remember(statements_[i], places_[i]);
    }
    std::vector<ReviewStatement> out;
    for (std::string& sql : session_.scriptOpening(outline)) out.push_back({std::move(sql), {}});
    for (std::size_t i = 0; i < statements_.size(); ++i)
      out.push_back({session_.scriptText(statements_[i]), std::move(changes_[i])});
    for (std::string& sql : session_.scriptClosing()) out.push_back({std::move(sql), {}});
    return out;
  }

 private:
  void addStep(const PlanStep& step) {
    const ExaminedBlock& block = facts_.blocks()[step.block];
    std::map<std::string, std::size_t> bySameWork;
    for (const std::uint32_t row : step.rows) {
      ScriptStatement one = statementFor(step, block, row);
      std::string work = std::to_string(row);
      if (one.kind != WriteStep::Kind::Insert && namesOne(*block.table, one.keyColumns)) {
        ByteWriter w;
        for (const auto& [column, value] : one.set) w.value(value);
        for (const auto& [column, value] : one.guard) {
          w.string(column);
          w.value(value);
        }
        work = w.take();
      }
      const auto [it, isNew] = bySameWork.try_emplace(work, statements_.size());
      if (!isNew && statements_[it->second].keys.size() < kMostKeysInOne) {
        statements_[it->second].keys.push_back(std::move(one.keys[0]));
        changes_[it->second].push_back(block.changes.changeIndex[row]);
        continue;
      }
      it->second = statements_.size();
      statements_.push_back(std::move(one));
      changes_.push_back({block.changes.changeIndex[row]});
      places_.push_back({step.block, row});
    }
  }

  // Whether each key finds one record at most, so that a count of several keys says that each was met once.
  static bool namesOne(const Table& table, const std::vector<std::string>& keyColumns) {
    if (keyColumns.size() == 1 && keyColumns[0] == table.rowIdName) return true;
    return std::any_of(table.keys.begin(), table.keys.end(), [&](const UniqueKey& key) {
      const std::vector<std::string> names = table.columnNames(key.columns);
      return std::is_permutation(names.begin(), names.end(), keyColumns.begin(), keyColumns.end());
    });
  }

  ScriptStatement statementFor(const PlanStep& step, const ExaminedBlock& block, std::uint32_t row) {
    ScriptStatement s;
    s.kind = step.kind;
    s.table = block.table;
    const Place place{step.block, row};
    switch (step.part) {
      case PlanStep::Part::Completion:
        nameAddition(place, s);
        setCells(step, block, row, s);
        return s;
      case PlanStep::Part::First:
        setCells(step, block, row, s);
        return s;
      case PlanStep::Part::Passing:
      case PlanStep::Part::Release:
        nameRecord(block, place, s);
        addGuards(block, place, s);
        writeForNow(step, block, place, s);
        return s;
      case PlanStep::Part::Whole:
        break;
    }
    if (step.kind != WriteStep::Kind::Insert) {
      nameRecord(block, place, s);
      addGuards(block, place, s);
    }
    if (step.kind != WriteStep::Kind::Remove) setCells(step, block, row, s);
    return s;
  }

  // By what the file calls it; where a value for now stands in that, by that.
  void nameRecord(const ExaminedBlock& block, const Place& place, ScriptStatement& s) const {
    s.keyColumns = block.changes.keyColumns;
    s.keys.push_back(block.changes.key(place.second));
    const auto passed = passed_.find(place);
    for (std::size_t k = 0; passed != passed_.end() && k < s.keyColumns.size(); ++k) {
      const auto value = passed->second.find(s.keyColumns[k]);
      if (value != passed->second.end()) s.keys[0][k] = value->second;
    }
  }

  // A record of this very script: by the key that was given, or that the database gave.
  void nameAddition(const Place& place, ScriptStatement& s) {
    const ExaminedBlock& block = facts_.blocks()[place.first];
    s.keyColumns = block.table->writeKeyColumns();
    ValueTuple key;
    for (const std::string& column : s.keyColumns) key.push_back(keyOf(place, column));
    s.keys.push_back(std::move(key));
  }

  Value keyOf(const Place& place, const std::string& column) {
    const ExaminedBlock& block = facts_.blocks()[place.first];
    if (const auto cell = block.cellOf(column)) {
      Value given = block.changes.cells[*cell].to.at(place.second);
      if (!given.isNull() && given.kind() != Value::Kind::PendingKey) return given;
    }
    const auto [at, isNew] = remembered_.try_emplace({place, column}, std::string());
    if (isNew) at->second = std::to_string(remembered_.size()) + " " + column;
    return Value::pendingKey(at->second);
  }

  void remember(ScriptStatement& s, const Place& place) const {
    if (s.kind != WriteStep::Kind::Insert) return;
    for (auto at = remembered_.lower_bound({place, std::string()}); at != remembered_.end() && at->first.first == place;
         ++at)
      s.remember.emplace_back(at->second, at->first.second);
  }

  void setCells(const PlanStep& step, const ExaminedBlock& block, std::uint32_t row, ScriptStatement& s) {
    for (const std::size_t c : step.cells) {
      const std::string& column = block.changes.cells[c].column;
      const bool later = std::find(step.left.begin(), step.left.end(), c) != step.left.end();
      Value to = later ? Value() : block.changes.cells[c].to.at(row);
      if (to.kind() == Value::Kind::PendingKey) {
        const auto label = labelled_.find(std::string(to.asString()));
        if (label != labelled_.end()) {
          const Table& added = *facts_.blocks()[label->second.first].table;
          to = keyOf(label->second, labelledColumn(*block.table, column, added));
        }
      }
      s.set.emplace_back(column, std::move(to));
    }
  }

  void writeForNow(const PlanStep& step, const ExaminedBlock& block, const Place& place, ScriptStatement& s) {
    const auto put = [&](std::size_t column, const Value& value) {
      s.set.emplace_back(block.table->columns[column].name, value);
      passed_[place][block.table->columns[column].name] = value;
    };
    if (step.part == PlanStep::Part::Release) {
      for (const std::size_t column : step.released) put(column, Value());
      return;
    }
    const auto choices = passingChoices(facts_.catalogue(), block, place.second, *step.passing);
    if (choices.empty()) return;
    const std::size_t column = choices[0].column;
    const auto value = choices[0].empty ? std::optional<Value>(Value())
                                        : passingValue(block.table->columns[column], used_[{block.table, column}]++);
    put(column, value.value_or(Value()));
  }

  // What was seen; what a value for now was put into holds that.
  void addGuards(const ExaminedBlock& block, const Place& place, ScriptStatement& s) const {
    const auto passed = passed_.find(place);
    for (std::size_t c = 0; c < block.changes.cells.size(); ++c) {
      const ChangeBlock::Cells& cells = block.changes.cells[c];
      if (std::find(s.keyColumns.begin(), s.keyColumns.end(), cells.column) != s.keyColumns.end()) continue;
      if (passed != passed_.end() && passed->second.contains(cells.column)) continue;
      const auto between = block.between.find({c, place.second});
      if (between != block.between.end()) {
        s.guard.emplace_back(cells.column, between->second);
      } else if (cells.hasFrom) {
        s.guard.emplace_back(cells.column, cells.from.at(place.second));
      }
    }
    if (passed == passed_.end()) return;
    for (const auto& [column, value] : passed->second) {
      if (std::find(s.keyColumns.begin(), s.keyColumns.end(), column) == s.keyColumns.end())
        s.guard.emplace_back(column, value);
    }
  }

  const Session& session_;
  const Facts& facts_;
  const Verdicts& verdicts_;
  std::map<std::string, Place> labelled_;
  std::vector<ScriptStatement> statements_;
  std::vector<std::vector<std::uint32_t>> changes_;
  std::vector<Place> places_;
  std::map<std::pair<Place, std::string>, std::string> remembered_;  // by addition and column: under which name
  std::map<std::pair<const Table*, std::size_t>, int> used_;
  std::map<Place, std::map<std::string, Value>> passed_;
};

}  // namespace

std::vector<ReviewStatement> makeScript(const Session& session, const Facts& facts, const Verdicts& verdicts) {
  return ScriptMaker(session, facts, verdicts).make();
}

}  // namespace iterandum
