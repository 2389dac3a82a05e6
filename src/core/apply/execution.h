// Execution: writes an examined change set inside the transaction that the caller has begun, and learns what came of
// it.
//
// Every change is tried; one that the database refuses becomes a finding and does not hide the others. Afterwards the
// touched records are read again: what differs from what was asked for is an effect, or a write that was dropped
// without a word. Whether to commit or to roll back is the caller's decision.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <vector>

#include "core/apply/plan.h"
#include "core/apply/receipt.h"

namespace iterandum {

// Which of a plan's writes: those that a rollback takes back, or those to tables whose storage cannot do that.
enum class Writes { ThatRollBack, ThatStay };

class Execution {
 public:
  // All outlive the execution.
  Execution(Session& session, const Facts& facts, Verdicts& verdicts, Progress& progress)
      : session_(session), facts_(facts), verdicts_(verdicts), progress_(progress) {
    for (const ExaminedBlock& block : facts.blocks()) {
      for (const std::string& label : block.changes.labels) usesLabels_ = usesLabels_ || !label.empty();
    }
  }

  // Errors: what the session reports when it cannot go on (lock, disk, cancel). Findings go to the verdicts.
  // Writes that stay are for the very end, when everything else went through: they need a run of their own after it.
  [[nodiscard]] Status run(const Plan& plan, Writes writes = Writes::ThatRollBack);

  // The database ended the transaction itself while refusing a change (which now has a finding): what was written
  // before is gone, and the run has to be repeated without that change.
  [[nodiscard]] bool transactionLost() const { return transactionLost_; }
  // Whether anything may have been written that a rollback does not take back.
  [[nodiscard]] bool wroteWhatStays() const { return wroteWhatStays_; }
  [[nodiscard]] const std::vector<Effect>& effects() const { return effects_; }
  // The identity that a record has after its change, by writeKeyColumns() of its table. Empty: an addition that was not
  // made.
  [[nodiscard]] ValueTuple identityAfter(const RowPlace& place) const;
  // REQUIRES: run() went through and nothing blocks.
  [[nodiscard]] std::vector<ReceiptBlock> receiptBlocks() const;

 private:
  struct AddedKey {
    const Table* table = nullptr;
    std::vector<std::string> columns;
    ValueTuple values;
  };
  // writeKeyColumns of additions, by row, as far as they are known.
  struct NewKeys {
    std::vector<std::uint8_t> known;
    std::vector<ValueTuple> keys;
  };
  // A block's columns, looked up once for all of its rows.
  struct RecordLayout {
    std::vector<std::string> columns;  // of the whole record
    std::vector<std::string> keyColumns;
    std::vector<std::optional<std::size_t>> cellOfColumn;
    std::vector<std::size_t> beforeOfColumn;
    std::vector<std::optional<std::size_t>> cellOfKey;
  };

  [[nodiscard]] Status runStep(const PlanStep& step);
  [[nodiscard]] Status runPassing(const PlanStep& step);
  [[nodiscard]] Status runRelease(const PlanStep& step);
  // Writes columns of one record for the time being; `refused` says why it did not work.
  [[nodiscard]] Status writeForNow(const PlanStep& step, std::uint32_t row, const std::vector<std::size_t>& columns,
                                   const Value& value, std::optional<Error>& refused);
  // Puts the values of new keys in the place of labels, and no value where a cell is left for later; a row that waits
  // for an addition that was not made is taken out.
  void resolveCells(const PlanStep& step, WriteStep& write, std::vector<ValueColumn>& resolved,
                    std::vector<std::uint32_t>& rows);
  void cannotResolve(const RowPlace& place, std::size_t cell);
  // Everything that was to be written has been.
  void checkComplete(std::uint32_t block);
  // The keys by which these rows are found now.
  [[nodiscard]] std::vector<ValueColumn> keysNow(const PlanStep& step, const std::vector<std::uint32_t>& rows);
  [[nodiscard]] std::vector<std::uint32_t> writableRows(const PlanStep& step);
  static void orderByKey(const std::vector<ValueColumn>& keys, std::vector<std::uint32_t>& rows);
  // False while the key that a value stands for is not known.
  bool resolve(const ExaminedBlock& block, std::size_t cell, std::uint32_t row, Value& out) const;
  void refuse(const RowPlace& place, const Error& error);
  [[nodiscard]] Status readAfter(std::uint32_t block);
  void compareAfter(std::uint32_t block);
  [[nodiscard]] Status checkRemoved(std::uint32_t block);
  [[nodiscard]] Status readConsequences();
  [[nodiscard]] Status followConsequences();
  [[nodiscard]] Status checkTheEnd();
  [[nodiscard]] ReceiptBlock receiptOf(std::uint32_t block) const;
  void addCascades(std::vector<ReceiptBlock>& blocks) const;
  void prepare(std::uint32_t block);
  // Whether a cell may end otherwise than asked for: the column's type stores such values in a form of its own, or some
  // trigger speaks of the column.
  [[nodiscard]] bool mayEndOtherwise(const Table& table, const std::string& column, const Value& wanted,
                                     const Value& now) const;
  [[nodiscard]] static bool leftToDatabase(const ExaminedBlock& block, std::size_t cell, std::uint32_t row);
  bool compareWritten(std::uint32_t block, std::size_t column, std::uint32_t row, Value wanted, const Value& now);
  [[nodiscard]] ValueTuple keyAfter(std::uint32_t block, std::uint32_t row) const;
  [[nodiscard]] const Consequence* consequenceOf(std::uint32_t block, std::uint32_t row) const;
  void compareConsequence(const Consequence& consequence, const ValueTuple& after);
  // What the record column should hold after the change.
  [[nodiscard]] Value expected(std::uint32_t block, std::size_t column, std::uint32_t row) const;

  Session& session_;
  const Facts& facts_;
  Verdicts& verdicts_;
  Progress& progress_;
  bool transactionLost_ = false;
  bool usesLabels_ = false;
  bool wroteWhatStays_ = false;
  std::vector<Effect> effects_;
  std::vector<RecordLayout> layouts_;  // by block
  std::vector<NewKeys> newKeys_;
  std::map<std::pair<std::uint32_t, std::uint32_t>, ValueTuple> passedKeys_;  // where a value for now stands in a key
  std::vector<std::vector<std::uint8_t>> written_;                            // by block and row: 1 when all is written
  std::map<std::string, AddedKey> labels_;
  std::vector<std::vector<ValueColumn>> after_;  // by block: one for each record column
  std::vector<ValueTuple> consequenceAfter_;
};

}  // namespace iterandum
