// ElsewhereWatch: what a rehearsal wrote that no change asks for and no reference takes along, in any table: audit
// tables, counters, queues that triggers fill.
//
// An engine that can tell which records its transaction wrote is asked (Session::writesSoFar). Of one that cannot, the
// tables that the triggers speak of are read with the writes and without them, where they are small enough.
#pragma once

#include <map>
#include <unordered_map>
#include <unordered_set>
#include <vector>

#include "core/apply/execution.h"
#include "core/review/running_code.h"

namespace iterandum {

class ElsewhereWatch {
 public:
  // All outlive this.
  ElsewhereWatch(Session& session, const Catalogue& catalogue, Progress& progress)
      : session_(session), catalogue_(catalogue), progress_(progress) {}

  // Before anything is written, again after each new begin().
  [[nodiscard]] Status start(const Facts& facts);
  // After the writes, in their transaction.
  [[nodiscard]] Status lookAfter(const Facts& facts, const Verdicts& verdicts, const Execution& execution);
  // After the transaction was rolled back: what there was instead.
  [[nodiscard]] Result<std::vector<WrittenElsewhere>> lookBefore();

 private:
  using Keys = std::unordered_set<ValueTuple, TupleHash, TupleSame>;
  // A table that the engine told of.
  struct Written {
    TableWrites writes;
    std::vector<ValueTuple> after;  // by key; empty: not there
  };
  // A table that is read whole, with the writes and without them.
  struct Reading {
    const Table* table = nullptr;
    std::vector<ValueTuple> before;  // by recordColumns()
    std::vector<ValueTuple> after;
    std::string untold;
  };

  [[nodiscard]] Status readMentioned();
  [[nodiscard]] Status readAll(const Table& table, std::vector<ValueTuple>& records, std::string& untold);
  [[nodiscard]] static Status leaveUntold(const Error& error, std::string& untold);
  [[nodiscard]] Result<std::vector<ValueTuple>> readWritten(const TableWrites& writes);
  void noteKnown(const Facts& facts, const Verdicts& verdicts, const Execution& execution);
  [[nodiscard]] bool isKnown(const Table& table, const ValueTuple& record) const;
  [[nodiscard]] WrittenElsewhere begun(const Table& table, const TableName& name) const;
  void add(WrittenElsewhere& out, const Table& table, const ValueTuple& before, const ValueTuple& after) const;
  void compareReadings(const Reading& reading, std::vector<WrittenElsewhere>& out) const;

  Session& session_;
  const Catalogue& catalogue_;
  Progress& progress_;
  ReachedCode code_;
  std::vector<Written> written_;
  std::vector<Reading> readings_;
  std::map<const Table*, Keys> known_;          // that the change set or its references touch, by any of their names
  std::map<const Table*, std::uint64_t> gone_;  // that they remove
};

}  // namespace iterandum
