// LineKeys: which line of a file named which record, for telling that two lines name the same one. There may be
// millions of lines, and mostly they come in the order of their keys: then they take two bytes each.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "core/value/value.h"
#include "core/value/value_column.h"

namespace iterandum {

class LineKeys {
 public:
  // The line that had this key before; else it is this one's from now on. Lines are put in their order.
  std::optional<std::uint32_t> put(const ValueTuple& key, std::uint32_t line);

 private:
  // While the keys are whole numbers that grow from line to line no two are the same, and how far each is from the one
  // before says all of them.
  bool followsOn(const ValueTuple& key, std::uint32_t line);
  void leaveRun();
  std::optional<std::uint32_t> putInTable(const ValueTuple& key, std::uint32_t line);
  void grow();

  bool inRun_ = true;
  std::string run_;  // the step to each key and to its line, seven bits a byte, the highest set where more follow
  std::int64_t lastKey_ = 0;
  std::uint32_t lastLine_ = 0;
  std::vector<ValueColumn> keys_;
  std::vector<std::uint32_t> lines_;
  std::vector<std::uint32_t> slots_;  // open addressing: position + 1, 0 is free
};

}  // namespace iterandum
