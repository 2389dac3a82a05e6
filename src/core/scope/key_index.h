// KeyIndex: the keys of a scope's records in the order of the scope, so that any position can be looked up by key.
//
// Keys are kept in blocks of 4 096. A block of numbers takes what its range needs (0, 1, 2, 4 or 8 bytes each, counted
// from its smallest: frame of reference, Goldstein et al., "Compressing relations and indexes", ICDE 1998); texts that
// differ in their digits only (dates, tags) are kept as those numbers and one pattern. What fits neither is packed;
// when packed blocks take more than a few megabytes they move into a file without a name in the folder for temporary
// files, so that memory stays bounded.
//
// Copies are cheap and share the blocks. One copy belongs to one thread at a time; copies on several threads may be
// read at once.
#pragma once

#include <array>
#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "core/value/value_column.h"

namespace iterandum {

class KeyIndex {
 public:
  static constexpr std::size_t kBlock = 4096;

  // `width`: how many columns a key has.
  explicit KeyIndex(std::size_t width = 0) : columns_(width), pending_(width) {}

  void push(ValueTuple&& key);
  // Adds what another index holds behind this one, which must end with a full block or be empty.
  // REQUIRES: size() % kBlock == 0.
  void append(KeyIndex&& more);
  [[nodiscard]] std::size_t width() const { return columns_.size(); }
  [[nodiscard]] std::size_t size() const { return full_ + (pending_.empty() ? 0 : pending_.front().size()); }
  // REQUIRES: row < size().
  [[nodiscard]] Value at(std::size_t row, std::size_t column) const;
  [[nodiscard]] ValueTuple key(std::size_t row) const;
  // The first position at or behind `from`, and before `until`, that holds this key.
  [[nodiscard]] std::optional<std::size_t> find(const ValueTuple& key, std::size_t from = 0,
                                                std::size_t until = SIZE_MAX) const;
  [[nodiscard]] std::size_t memoryBytes() const;

  class Block;
  class Spill;

 private:
  void closeBlock();
  [[nodiscard]] const Block& block(std::size_t row, std::size_t column) const {
    return *columns_[column][row / kBlock];
  }

  std::vector<std::vector<std::shared_ptr<const Block>>> columns_;
  std::vector<ValueColumn> pending_;  // the block that is not full yet
  std::size_t full_ = 0;              // records in full blocks
  std::shared_ptr<Spill> spill_;
};

}  // namespace iterandum
