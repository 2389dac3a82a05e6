// RuleJudge: house rules judged over a change set: the records that it would leave breaking one.
//
// Where the changes are tried, the records are read before and after, so that what the database does besides counts
// too; where they are not (a review by reading, a change that is refused for another reason), the rules that speak of
// the record alone are judged by what it is going to hold.
#pragma once

#include <optional>
#include <vector>

#include "core/apply/rule_ways.h"
#include "core/scope/condition_check.h"

namespace iterandum {

class RuleJudge {
 public:
  // All outlive this.
  RuleJudge(Session& session, const Catalogue& catalogue, const std::vector<ReadRule>& rules, Progress& progress);

  // After the examination, before anything is written. Errors of all: the session's; InvalidInput, a rule that cannot
  // be judged, which is named.
  [[nodiscard]] Status lookBefore(const Facts& facts, const Verdicts& verdicts);
  // After the writes, in their transaction.
  [[nodiscard]] Status judgeWritten(const Facts& facts, Verdicts& verdicts, const Execution& execution);
  // Where nothing was tried.
  [[nodiscard]] Status judgeRead(const Facts& facts, Verdicts& verdicts);

 private:
  struct Known {
    ValueTuple values;  // by the needs
    ValueTuple before;  // by the needs of before
    std::vector<char> facts;
  };
  using KnownRecords = std::unordered_map<ValueTuple, Known, TupleHash, TupleSame>;
  struct Watched {
    const ReadRule* rule = nullptr;
    std::vector<RuleRead> reads;
    RecordNeeds needs;
    std::optional<ConditionCheck> check;
    bool ownOnly = true;      // all it reads is in the record itself
    bool asksBefore = false;  // it speaks of the record before
    bool byTriggers = false;  // a trigger may write what it reads
    // Before:
    KnownRecords known;
    std::unordered_map<ValueTuple, bool, TupleHash, TupleSame> broken;  // byTriggers: all that broke it
    TouchedRecords touched;
  };
  // What becomes of one record.
  struct Case {
    const Watched* watched = nullptr;
    RuleTouch touch;
    bool same = false;  // it broke the rule before just the same
  };

  [[nodiscard]] Status prepare();
  [[nodiscard]] Result<KnownRecords> read(const Watched& watched, const TouchedRecords& records);
  [[nodiscard]] Result<std::vector<ValueTuple>> allBroken(const Watched& watched);
  [[nodiscard]] static bool holds(const Watched& watched, const Known& record, const ValueTuple& before);
  [[nodiscard]] Status judgeOne(Watched& watched, const Facts& facts, Verdicts& verdicts, const Execution& execution);
  [[nodiscard]] Status judgeTriggered(Watched& watched, const TouchedRecords& judged, const Facts& facts,
                                      Verdicts& verdicts);
  // By what the changed records are going to hold; `written`: those that are tried are judged elsewhere.
  void judgePromised(const Watched& watched, const Facts& facts, Verdicts& verdicts, bool written) const;
  void noteUnjudged(const Watched& watched, const Facts& facts, Verdicts& verdicts) const;
  static void say(const Case& found, const ValueTuple& key, Verdicts& verdicts);

  Session& session_;
  const Catalogue& catalogue_;
  Progress& progress_;
  std::vector<Watched> watched_;
  bool prepared_ = false;
};

}  // namespace iterandum
