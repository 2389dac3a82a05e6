// A working copy that has come back (working_copy.h): what somebody changed in it, with what they saw; and several of
// them together, where two may have changed one cell to different values.
#pragma once

#include <optional>

#include "core/changes/change_list.h"
#include "core/files/file_corrections.h"
#include "core/files/working_copy.h"

namespace iterandum {

struct ReturnedCell {
  std::string column;
  Value from;  // as it was handed out
  Value to;
};

struct ReturnedRecord {
  std::uint64_t row = 0;  // as people count in the sheet
  ValueTuple key;         // of head.columns with the role Key, in their order
  std::vector<ReturnedCell> cells;
};

struct ReturnedCopy {
  std::string name;  // whose: how the file is called
  CopyHead head;
  const Table* table = nullptr;  // the catalogue's
  std::vector<ReturnedRecord> changed;
  std::vector<LineOutcome> rows;       // every row that is not blank
  std::vector<std::string> leftAlone;  // headings that were not handed out
  std::vector<std::string> missing;    // columns that were, and are not there any more
  std::uint64_t handedOut = 0;         // records
};

// `content`: the file. Errors: InvalidFile, no working copy, or one whose sheets out of sight were changed; NotFound, a
// table or column that is not there any more.
[[nodiscard]] Result<ReturnedCopy> readWorkingCopy(std::string_view content, const std::string& name,
                                                   const Catalogue& catalogue, Progress& progress);

// One cell that several changed, each to something else.
struct Disagreement {
  const Table* table = nullptr;
  ValueTuple key;
  std::string column;
  Value from;
  struct Word {
    std::size_t copy = 0;
    Value to;
  };
  std::vector<Word> words;  // one for each value, by the first copy that has it
  bool settled = false;     // the preferred one has the last word
};

struct BroughtTogether {
  ChangeList changes;
  std::vector<Disagreement> disagreements;
  CorrectionCounts counts;  // over all copies; `lines` are rows
};

// What all of them changed. Where they disagree `preferred` (a position among them) has the last word; without one, or
// where that one says nothing, the cell is left out.
[[nodiscard]] BroughtTogether bringTogether(const std::vector<ReturnedCopy>& copies,
                                            std::optional<std::size_t> preferred);

// "24 rows: 3 records change in 4 cells, 20 are as they were handed out, 1 fails; of 2 cells they disagree"
[[nodiscard]] std::string inWords(const BroughtTogether& together);
// "species of tree 4 (was Oak): Elm in anna.xlsx, Ash in bram.xlsx"
[[nodiscard]] std::string inWords(const Disagreement& disagreement, const std::vector<ReturnedCopy>& copies);

}  // namespace iterandum
