#include "core/apply/rule_judge.h"

#include <algorithm>

#include "core/acts/act_run.h"
#include "core/scope/column_path.h"

namespace iterandum {
namespace {

std::shared_ptr<const KeyList> listOf(const TouchedRecords& records, std::size_t width) {
  auto keys = std::make_shared<KeyList>();
  keys->keys.resize(width);
  for (const auto& [key, touch] : records) {
    for (std::size_t k = 0; k < width; ++k) keys->keys[k].push(key[k]);
  }
  return keys;
}

// Which identity a record had that has this one now; only those that are not the same.
using Renamed = std::unordered_map<ValueTuple, ValueTuple, TupleHash, TupleSame>;

Renamed renamed(const Table& table, const Facts& facts, const Verdicts& verdicts, const Execution& execution) {
  Renamed out;
  const auto add = [&](ValueTuple after, ValueTuple before) {
    if (!after.empty() && !TupleSame()(after, before)) out.emplace(std::move(after), std::move(before));
  };
  for (const Consequence& by : facts.consequences()) {
    if (by.table == &table && by.kind == Consequence::Kind::Set) add(by.identityAfter(), by.identity);
  }
  for (std::uint32_t b = 0; b < facts.blocks().size(); ++b) {
    const ExaminedBlock& block = facts.blocks()[b];
    if (block.table != &table || block.changes.action != Action::Edit) continue;
    for (std::uint32_t r = 0; r < block.changes.rows(); ++r) {
      if (verdicts.isOpen({b, r})) add(execution.identityAfter({b, r}), block.writeKey(r));
    }
  }
  return out;
}

bool isAddition(const Facts& facts, const RuleTouch& touch) {
  return touch.itself && facts.blocks()[touch.place.block].changes.action == Action::Add;
}

}  // namespace

RuleJudge::RuleJudge(Session& session, const Catalogue& catalogue, const std::vector<ReadRule>& rules,
                     Progress& progress)
    : session_(session), catalogue_(catalogue), progress_(progress) {
  for (const ReadRule& rule : rules) watched_.emplace_back().rule = &rule;
}

Status RuleJudge::prepare() {
  if (prepared_) return {};
  prepared_ = true;
  for (Watched& watched : watched_) {
    watched.reads = readsOf(*watched.rule);
    watched.needs.asTheyLie = true;
    auto check = ConditionCheck::make(*watched.rule->table, watched.rule->holds, watched.needs);
    if (!check) {
      return fail(ErrorKind::InvalidFile, "it cannot be judged: " + check.error().message,
                  "house rule '" + watched.rule->name + "'");
    }
    watched.check = std::move(*check);
    watched.asksBefore = !watched.needs.before.empty();
    // What it reads of before is held against after, too.
    for (const ColumnPath& path : watched.needs.before) (void)watched.needs.column(path);
    watched.ownOnly = watched.reads.size() == 1 && watched.needs.facts.empty();
    watched.byTriggers = !watched.asksBefore && triggersMayWrite(catalogue_, watched.reads);
  }
  return {};
}

bool RuleJudge::holds(const Watched& watched, const Known& record, const ValueTuple& before) {
  return watched.check->holds({record.values, record.facts, 0, before});
}

Result<RuleJudge::KnownRecords> RuleJudge::read(const Watched& watched, const TouchedRecords& records) {
  KnownRecords out;
  if (records.empty()) return out;
  const Table& table = *watched.rule->table;
  Query query;
  query.table = &table;
  query.where.op = Condition::Op::Among;
  query.columns = table.writeKeyColumns();
  const std::size_t width = query.columns.size();
  query.where.keys = listOf(records, width);
  const std::vector<std::size_t> at = askForColumns(watched.needs.columns, query);
  ITERANDUM_ASSIGN(const std::vector<KeySet> facts, factsOf(session_, query, watched.needs, progress_));
  ITERANDUM_TRY(session_.select(
      query,
      [&](ValueTuple&& row) {
        ValueTuple key(row.begin(), row.begin() + static_cast<std::ptrdiff_t>(width));
        Known known;
        for (const std::size_t i : at) known.values.push_back(row[i]);
        for (const ColumnPath& path : watched.needs.before) {
          const auto here = std::find(watched.needs.columns.begin(), watched.needs.columns.end(), path);
          known.before.push_back(row[at[static_cast<std::size_t>(here - watched.needs.columns.begin())]]);
        }
        for (const KeySet& keys : facts) known.facts.push_back(keys.contains(key) ? 1 : 0);
        out.emplace(std::move(key), std::move(known));
        return true;
      },
      progress_));
  return out;
}

Result<std::vector<ValueTuple>> RuleJudge::allBroken(const Watched& watched) {
  Query query;
  query.table = watched.rule->table;
  query.columns = query.table->writeKeyColumns();
  query.where = breaks(*watched.rule);
  std::vector<ValueTuple> out;
  ITERANDUM_TRY(session_.select(
      query,
      [&](ValueTuple&& key) {
        out.push_back(std::move(key));
        return true;
      },
      progress_));
  return out;
}

Status RuleJudge::lookBefore(const Facts& facts, const Verdicts& verdicts) {
  ITERANDUM_TRY(prepare());
  for (Watched& watched : watched_) {
    ITERANDUM_ASSIGN(watched.touched, RuleWays(session_, facts, verdicts, nullptr, progress_).touched(watched.reads));
    ITERANDUM_ASSIGN(watched.known, read(watched, watched.touched));
    if (!watched.byTriggers) continue;
    ITERANDUM_ASSIGN(std::vector<ValueTuple> broken, allBroken(watched));
    for (ValueTuple& key : broken) watched.broken.emplace(std::move(key), true);
  }
  return {};
}

Status RuleJudge::judgeWritten(const Facts& facts, Verdicts& verdicts, const Execution& execution) {
  for (Watched& watched : watched_) {
    const bool stays = watched.rule->table->cannotRollBack;
    if (watched.ownOnly) judgePromised(watched, facts, verdicts, true);
    if (!stays) ITERANDUM_TRY(judgeOne(watched, facts, verdicts, execution));
    if (stays && !watched.ownOnly) noteUnjudged(watched, facts, verdicts);
  }
  return {};
}

Status RuleJudge::judgeOne(Watched& watched, const Facts& facts, Verdicts& verdicts, const Execution& execution) {
  const Renamed before = renamed(*watched.rule->table, facts, verdicts, execution);
  Renamed after;
  for (const auto& [now, was] : before) after.emplace(was, now);
  ITERANDUM_ASSIGN(TouchedRecords touched,
                   RuleWays(session_, facts, verdicts, &execution, progress_).touched(watched.reads));
  for (const auto& [was, touch] : watched.touched) {
    const auto now = after.find(was);
    const auto [at, isNew] = touched.try_emplace(now == after.end() ? was : now->second, touch);
    if (!isNew) at->second.facts = at->second.facts || touch.facts;
  }
  ITERANDUM_ASSIGN(const KnownRecords known, read(watched, touched));
  const ValueTuple none(watched.needs.before.size());
  for (const auto& [key, record] : known) {
    const RuleTouch& touch = touched.at(key);
    // What is refused for another reason stays as it was; what it would have been is judged elsewhere.
    if (touch.itself && verdicts.of(touch.place) != ChangeState::Open &&
        verdicts.of(touch.place) != ChangeState::AlreadySo)
      continue;
    const auto renamedFrom = before.find(key);
    const ValueTuple& was = renamedFrom == before.end() ? key : renamedFrom->second;
    const auto then = isAddition(facts, touch) ? watched.known.end() : watched.known.find(was);
    const bool wasThere = then != watched.known.end();
    if (holds(watched, record, wasThere ? then->second.before : none)) continue;
    const bool same = wasThere && !touch.facts && !holds(watched, then->second, then->second.before) &&
                      TupleSame()(then->second.values, record.values) && then->second.facts == record.facts;
    // What stays as it was outside the change set is nothing that it did.
    if (same && !touch.itself) continue;
    say({&watched, touch, same}, was, verdicts);
  }
  return watched.byTriggers ? judgeTriggered(watched, touched, facts, verdicts) : Status();
}

// Records that no change leads to, as far as can be read, and that break the rule now: some trigger did it.
Status RuleJudge::judgeTriggered(Watched& watched, const TouchedRecords& judged, const Facts& facts,
                                 Verdicts& verdicts) {
  ITERANDUM_ASSIGN(const std::vector<ValueTuple> broken, allBroken(watched));
  std::optional<RowPlace> cause;
  bool byTrigger = false;
  for (std::uint32_t b = 0; b < facts.blocks().size(); ++b) {
    const Table* table = facts.blocks()[b].table;
    for (std::uint32_t r = 0; table != nullptr && r < facts.blocks()[b].changes.rows(); ++r) {
      const RowPlace place{b, r};
      if (!verdicts.isOpen(place)) continue;
      const bool hasTrigger = !table->triggers.empty();
      const bool earlier = !cause || facts.changeIndex(place) < facts.changeIndex(*cause);
      if (cause && (byTrigger && !hasTrigger)) continue;
      if ((hasTrigger && !byTrigger) || earlier) cause = place;
      byTrigger = byTrigger || hasTrigger;
    }
  }
  if (!cause) return {};
  for (const ValueTuple& key : broken) {
    if (judged.contains(key) || watched.broken.contains(key)) continue;
    say({&watched, RuleTouch{*cause, false, true}, false}, key, verdicts);
  }
  return {};
}

Status RuleJudge::judgeRead(const Facts& facts, Verdicts& verdicts) {
  ITERANDUM_TRY(prepare());
  for (const Watched& watched : watched_) {
    if (watched.ownOnly) {
      judgePromised(watched, facts, verdicts, false);
    } else {
      noteUnjudged(watched, facts, verdicts);
    }
  }
  return {};
}

void RuleJudge::judgePromised(const Watched& watched, const Facts& facts, Verdicts& verdicts, bool written) const {
  const Table& table = *watched.rule->table;
  std::vector<std::size_t> columns;
  for (const ColumnPath& path : watched.needs.columns) {
    const auto at = table.columnIndex(path.column);
    if (!at) return;  // a row id: nobody sets it
    columns.push_back(*at);
  }
  const auto beforeOf = [&](const ValueTuple& values) {
    ValueTuple out;
    for (const ColumnPath& path : watched.needs.before) {
      const auto here = std::find(watched.needs.columns.begin(), watched.needs.columns.end(), path);
      out.push_back(values.empty() ? Value() : values[static_cast<std::size_t>(here - watched.needs.columns.begin())]);
    }
    return out;
  };
  for (std::uint32_t b = 0; b < facts.blocks().size(); ++b) {
    const ExaminedBlock& block = facts.blocks()[b];
    if (block.table != &table || block.changes.action == Action::Remove) continue;
    const bool added = block.changes.action == Action::Add;
    std::vector<std::size_t> at;
    for (const ColumnPath& path : watched.needs.columns) at.push_back(added ? 0 : block.recordColumn(path.column));
    for (std::uint32_t r = 0; r < block.changes.rows(); ++r) {
      const RowPlace place{b, r};
      const ChangeState state = verdicts.of(place);
      if (state == ChangeState::Skipped || state == ChangeState::Unresolvable) continue;
      if (written && state != ChangeState::Blocked && !table.cannotRollBack) continue;
      if (!added && (r >= block.found.size() || block.found[r] == 0)) continue;
      const auto values = facts.finalTuple(place, columns);
      if (!values) continue;  // the database sets one of them
      const ValueTuple was = added ? ValueTuple() : block.beforeTuple(at, r);
      Known now{*values, {}, {}};
      if (holds(watched, now, beforeOf(was))) continue;
      const Known then{was, {}, {}};
      const bool same = !added && TupleSame()(was, *values) && !holds(watched, then, beforeOf(was));
      say({&watched, {place, true, false}, same}, {}, verdicts);
    }
  }
}

void RuleJudge::noteUnjudged(const Watched& watched, const Facts& facts, Verdicts& verdicts) const {
  for (std::uint32_t b = 0; b < facts.blocks().size(); ++b) {
    const ExaminedBlock& block = facts.blocks()[b];
    const bool isRead = std::any_of(watched.reads.begin(), watched.reads.end(),
                                    [&](const RuleRead& read) { return read.table == block.table; });
    if (block.table == nullptr || !isRead || block.changes.rows() == 0) continue;
    Finding finding =
        verdicts.findingFor({b, 0}, FindingKind::HouseRule,
                            "the house rule '" + watched.rule->name +
                                "' speaks of more than the record itself; only a rehearsal can tell whether "
                                "it holds");
    finding.blocks = false;
    finding.rule = watched.rule->name;
    verdicts.note({b, 0}, std::move(finding));
    return;
  }
}

void RuleJudge::say(const Case& found, const ValueTuple& key, Verdicts& verdicts) {
  const ReadRule& rule = *found.watched->rule;
  const std::string message = (found.same ? "it breaks the house rule '" + rule.name + "' as it did before: "
                                          : "it would break the house rule '" + rule.name + "': ") +
                              rule.message;
  Finding finding = verdicts.findingFor(found.touch.place, FindingKind::HouseRule, message);
  if (!found.touch.itself) {
    finding.table = rule.table->name;
    finding.keyColumns = rule.table->writeKeyColumns();
    finding.key = key;
    finding.message = recordInWords(finding.table, key) + ": " + message;
  }
  finding.rule = rule.name;
  finding.blocks = rule.stops && !found.same;
  // The change stays open: other rules have a say about it too.
  verdicts.say(std::move(finding));
}

}  // namespace iterandum
