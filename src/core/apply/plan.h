// The write plan: in which order, and in which batches, the changes of an examined change set are written.
//
// Changes of the same shape are written together. By default additions come first (parents before children), then
// edits, then removals (children before parents). Where one record gives up a unique value that another takes, or a
// removal would take along records that the change set repoints, single records are taken out of their batch and put
// in the order that works (a topological order, Kahn 1962). A circle of unique values is broken with a passing value;
// a circle of additions that point at each other by inserting a nullable reference as NULL and setting it afterwards.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/review/examination.h"

namespace iterandum {

struct PlanStep {
  WriteStep::Kind kind = WriteStep::Kind::Update;
  std::uint32_t block = 0;
  std::vector<std::size_t> cells;  // of the block's changes: what is written
  std::vector<std::uint32_t> rows;
  const UniqueKey* passing = nullptr;  // not null: gives this key of the one row a passing value instead
  bool ofAddition = false;             // Update: completes a record that an earlier step of this plan added
};

struct Plan {
  std::vector<PlanStep> steps;
};

enum class PlanFor {
  Writing,  // only changes that nothing blocks
  Reading   // every change that a statement can be made for: for the script
};

[[nodiscard]] Plan makePlan(const Examination& examination, PlanFor purpose);

// A value for a key that nobody else has, within the column's rules; tried one after the other (`attempt` from 0).
// Nothing when no more can be offered.
[[nodiscard]] std::optional<Value> passingValue(const Column& column, int attempt);

// The column of the key that gets the passing value: of those that the change writes, and so puts right afterwards, one
// that may be NULL, else one whose type offers values.
[[nodiscard]] std::optional<std::size_t> passingColumn(const ExaminedBlock& block, std::uint32_t row,
                                                       const UniqueKey& key);

}  // namespace iterandum
