// What can be done about a finding, so that nobody has to know it by heart: the ways that whoever reads the review is
// offered, beside putting the change back.
#pragma once

#include <string>
#include <utility>
#include <vector>

#include "core/catalogue/catalogue.h"
#include "core/review/finding.h"

namespace iterandum {

enum class WayOut {
  KeepMine,         // what somebody else wrote is written over; a removal: the record goes all the same
  TakeTheirs,       // the cell stays as somebody else wrote it
  Correct,          // another value is typed in place of the one that stands in the way
  NoValue,          // the cell is to hold none
  AddAgain,         // the record that is gone is added anew, with what is known of it
  AddParent,        // the record that is pointed at and not there is added
  ShowHolder,       // the record that has the value already
  MergeWithHolder,  // this record and that one are the same thing
  ShowReferring,    // the records that still point at this one
  Repoint,          // those point at another record, which is chosen
  LetGo,            // those point at nothing any more
  RemoveReferring,  // those are removed too, with all that hangs on them
  PutBack           // the change is staged no more
};

// Those that there are, the likeliest first. `change`: the one that the finding is about.
[[nodiscard]] std::vector<WayOut> waysOut(const Finding& finding, const Change& change, const Catalogue& catalogue);

// A record by values of its columns.
using NamedValues = std::vector<std::pair<std::string, Value>>;

// Records of one table that point at the finding's record by one of its references.
struct ReferringRecords {
  const Table* table = nullptr;
  const Reference* reference = nullptr;
  NamedValues values;  // what they hold in the reference's columns
};
[[nodiscard]] std::vector<ReferringRecords> referringRecords(const Finding& finding, const Change& change,
                                                             const Catalogue& catalogue);

// The record that is missing, as far as it is known; without a table where that cannot be told.
struct MissingParent {
  const Table* table = nullptr;
  NamedValues values;
};
[[nodiscard]] MissingParent missingParent(const Finding& finding, const Change& change, const Catalogue& catalogue);

// What is known of a record that is gone, as the change would have it; empty where it cannot be added.
[[nodiscard]] NamedValues goneRecord(const Finding& finding, const Change& change, const Catalogue& catalogue);

// What tells the record that has the value; empty where that cannot be told.
[[nodiscard]] NamedValues holderOf(const Finding& finding, const Change& change, const Catalogue& catalogue);

}  // namespace iterandum
