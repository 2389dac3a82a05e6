// Doubles: records that are alike in chosen columns, as groups, and what becomes of the others when one of each stays.
// Nothing is written: what comes out are changes.
#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "core/acts/merge_records.h"
#include "core/acts/staged_over.h"

namespace iterandum {

struct DoublesQuestion {
  enum class Compared : std::uint8_t {
    Exactly,
    Loosely,  // capitals, blanks at the ends and doubled ones do not tell texts apart
    Nearly    // nor do accents, signs, or one letter more, less or other (alike.h)
  };
  Query which;                       // table, conditions and order, by which one record is the first
  std::vector<std::string> columns;  // of the table, at least one
  Compared compared = Compared::Exactly;
  std::shared_ptr<const StagedOver> staged;  // may be null
};

struct DoubleRecord {
  ValueTuple key;            // by writeKeyColumns()
  ValueTuple values;         // of the columns that are compared, as staged
  ValueTuple name;           // of readableColumns()
  std::uint64_t number = 0;  // in the order of the question, from 1
  std::uint32_t filled = 0;  // columns that say something
};
using DoubleGroup = std::vector<DoubleRecord>;  // in the order of the question; two or more

struct FoundDoubles {
  std::vector<DoubleGroup> groups;  // by their first records
  // For each group the columns, keys and bytes left out, in which its records differ in the database or as staged.
  std::vector<std::vector<std::string>> differ;
  std::uint64_t looked = 0;
  std::uint64_t silent = 0;   // have nothing in any of the columns, and are doubles of none
  std::uint64_t unnamed = 0;  // cannot be told from another record in any column: no change can name them

  [[nodiscard]] std::uint64_t records() const;
};

// Two readings of the columns, then one of the doubles by key; memory goes by the number of records (8 bytes each) and
// of doubles. No value is like no value, as long as another column says something.
// Errors: InvalidInput for no column, or for more doubles or spellings than can be held; the session's.
[[nodiscard]] Result<FoundDoubles> findDoubles(Session& session, const DoublesQuestion& question, Progress& progress);

enum class Keep : std::uint8_t { First, Last, Fullest };
// Which one of the group that means; of several that are as full the first.
[[nodiscard]] std::size_t keptOf(const DoubleGroup& group, Keep keep);

// For each group which one stays; nothing: the group is left alone.
using DoublesDecision = std::vector<std::optional<std::size_t>>;

// The removal of all others. Those that stay and those that go are read again. Errors: NotFound when one of them
// is no longer what it was; the session's.
[[nodiscard]] Result<ChangeList> withoutDoubles(Session& session, const DoublesQuestion& question,
                                                const FoundDoubles& found, const DoublesDecision& decision,
                                                Progress& progress);
// The same, and what points at the others points at the one that stays.
[[nodiscard]] Result<MergePlan> mergedDoubles(Session& session, const Catalogue& catalogue,
                                              const DoublesQuestion& question, const FoundDoubles& found,
                                              const DoublesDecision& decision, bool dropDoubles, Progress& progress);

}  // namespace iterandum
