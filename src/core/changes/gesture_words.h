// GestureWords: which gesture gave a cell what it holds, where that gesture gave different values to several cells of a
// column. Such cells are read together and under the gesture's words ("Steps to Stairs in 41 streets"), since what they
// have in common is not a value.
#pragma once

#include <map>
#include <set>
#include <string>
#include <utility>
#include <vector>

#include "core/changes/change_set.h"

namespace iterandum {

class GestureWords {
 public:
  // None.
  GestureWords() = default;
  // Of the gestures that are in force. `changes` outlives it, unchanged. `untold`: titles of gestures that say nothing
  // of what was done. Takes about as long as staging the gestures did.
  explicit GestureWords(const ChangeSet& changes, const std::set<std::string>& untold = {});

  // Whether any cell of the column is meant.
  [[nodiscard]] bool any(const TableName& table, const std::string& column) const {
    return byRecord_.contains({table, column});
  }
  // A number for each gesture; 0: it was given its value by none that is meant.
  [[nodiscard]] std::uint32_t of(const TableName& table, const std::string& column, const ValueTuple& key) const;
  [[nodiscard]] const std::string& title(std::uint32_t gesture) const { return titles_[gesture - 1]; }
  // Whether the gesture did nothing but this: so many records of one column.
  [[nodiscard]] bool isAllOf(std::uint32_t gesture, std::size_t records) const {
    return wholes_[gesture - 1] == records;
  }

 private:
  const ChangeSet* changes_ = nullptr;
  std::vector<std::string> titles_;
  std::vector<std::size_t> wholes_;  // records of a gesture over one column alone; 0: of several
  std::map<std::pair<TableName, std::string>, std::vector<std::uint32_t>> byRecord_;
};

}  // namespace iterandum
