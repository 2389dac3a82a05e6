// RuleWays: which records of a rule's table are touched by what a change set does to whatever the rule reads: the
// record itself, one that it points at, one that points at it.
#pragma once

#include <unordered_map>
#include <vector>

#include "core/apply/execution.h"
#include "core/rules/rule_reads.h"

namespace iterandum {

// By what a record is touched.
struct RuleTouch {
  RowPlace place;       // the change; of several, the first in the change set
  bool itself = false;  // that change is of the record itself
  bool facts = false;   // what is told of the records that point at it is touched
};
// By writeKeyColumns() of the rule's table.
using TouchedRecords = std::unordered_map<ValueTuple, RuleTouch, TupleHash, TupleSame>;

class RuleWays {
 public:
  // All outlive this. `execution` null: nothing is written yet; then identities are those of before, and ways are also
  // followed from what records are going to hold.
  RuleWays(Session& session, const Facts& facts, const Verdicts& verdicts, const Execution* execution,
           Progress& progress)
      : session_(session), facts_(facts), verdicts_(verdicts), execution_(execution), progress_(progress) {}

  // Errors: the session's.
  [[nodiscard]] Result<TouchedRecords> touched(const std::vector<RuleRead>& reads);

 private:
  // Values by which records are found, each with the change that it comes from.
  using Found = std::unordered_map<ValueTuple, RowPlace, TupleHash, TupleSame>;

  void touchOwn(const RuleRead& own, TouchedRecords& out) const;
  [[nodiscard]] Status follow(const RuleRead& read, TouchedRecords& out);
  // The identities of the records of the read's table that are changed in what is read of them.
  [[nodiscard]] Found changedIn(const RuleRead& read) const;
  [[nodiscard]] Status keepFitting(const RuleRead& read, Found& changed);
  // What they will hold by which they belong to others.
  void addPromised(const RuleRead& read, Found& out) const;
  // Goes back along the hops to the rule's own table.
  [[nodiscard]] Status goBack(const RuleRead& read, Found values, bool facts, TouchedRecords& out);
  [[nodiscard]] Result<Found> readWhere(const Table& table, const std::vector<std::string>& by, const Found& values,
                                        const std::vector<std::string>& columns);
  void add(Found& found, ValueTuple values, const RowPlace& place) const;
  [[nodiscard]] bool isEarlier(const RowPlace& a, const RowPlace& b) const {
    return facts_.changeIndex(a) < facts_.changeIndex(b);
  }
  [[nodiscard]] bool isDropped(const RowPlace& place) const;

  Session& session_;
  const Facts& facts_;
  const Verdicts& verdicts_;
  const Execution* execution_;
  Progress& progress_;
};

}  // namespace iterandum
