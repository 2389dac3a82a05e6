// The write plan: in which order, and in which batches, the changes of an examined change set are written.
//
// Changes of the same shape are written together. By default additions come first (parents before children), then
// edits, then removals (children before parents). Where one change has to wait for another, the records are parted into
// levels (a topological order, Kahn 1962), so that a batch never holds a record and one that it waits for. Circles are
// broken by writing a first part of one record: a passing value where unique values go round, no value in a reference
// where records point at each other, the rest afterwards.
#pragma once

#include <string>
#include <vector>

#include "core/engines/session.h"
#include "core/review/facts.h"
#include "core/review/verdicts.h"

namespace iterandum {

struct PlanStep {
  enum class Part {
    Whole,      // all that is left to do for the records
    Passing,    // one record: a column of the key `passing` gets a passing value; the Whole comes later
    Release,    // one record: the columns `released` are set to no value; the Whole comes later
    First,      // one addition: the cells `left` as no value for now; the Completion comes later
    Completion  // one addition: `cells`, once what they point at is there
  };
  WriteStep::Kind kind = WriteStep::Kind::Update;
  Part part = Part::Whole;
  std::uint32_t block = 0;
  std::vector<std::size_t> cells;  // of the block's changes: what is written
  std::vector<std::uint32_t> rows;
  const UniqueKey* passing = nullptr;
  std::vector<std::size_t> released;  // columns of the table
  std::vector<std::size_t> left;      // cells
};

struct Plan {
  std::vector<PlanStep> steps;
};

enum class PlanFor {
  Writing,  // only changes that nothing blocks
  Reading   // every change that a statement can be made for: for the script
};

[[nodiscard]] Plan makePlan(const Facts& facts, const Verdicts& verdicts, PlanFor purpose);

}  // namespace iterandum
