// ValueColumn: many values of one column, held as compactly as they allow.
//
// While all values are the same, one is kept; while all are integers, eight bytes each; otherwise 24 bytes each.
// A correction over a million records keeps its new value once. Not safe for concurrent writes; concurrent reads are.
#pragma once

#include <cstdint>
#include <span>
#include <vector>

#include "core/value/value.h"

namespace iterandum {

class ValueColumn {
 public:
  ValueColumn() = default;
  // `count` times the same value.
  ValueColumn(std::size_t count, Value same) : count_(count), constant_(std::move(same)) {}

  void push(Value value);
  // REQUIRES: index < size().
  void set(std::size_t index, Value value);
  // Adds all of `more` behind what is there.
  void append(const ValueColumn& more);
  [[nodiscard]] Value at(std::size_t index) const;
  [[nodiscard]] std::size_t size() const { return count_; }
  [[nodiscard]] bool empty() const { return count_ == 0; }
  void reserve(std::size_t count) { reserved_ = count; }
  void clear() { *this = ValueColumn(); }
  // Whether one value stands for all (also when empty).
  [[nodiscard]] bool isConstant() const { return mode_ == Mode::Constant; }
  // The values themselves where all are integers that differ; else empty. Valid until the column changes.
  [[nodiscard]] std::span<const std::int64_t> integers() const { return integers_; }
  [[nodiscard]] std::size_t memoryBytes() const;

 private:
  enum class Mode { Constant, Integers, General };
  void leaveConstant(const Value& next);
  void becomeGeneral();

  Mode mode_ = Mode::Constant;
  std::size_t count_ = 0;
  std::size_t reserved_ = 0;
  Value constant_;
  std::vector<std::int64_t> integers_;
  std::vector<Value> values_;
};

// The values of one key or record, in the order of columns that its owner states.
using ValueTuple = std::vector<Value>;

[[nodiscard]] bool sameTuple(const ValueTuple& a, const ValueTuple& b);
[[nodiscard]] bool holdsNull(const ValueTuple& tuple);
[[nodiscard]] int compareTuples(const ValueTuple& a, const ValueTuple& b);

struct TupleHash {
  std::size_t operator()(const ValueTuple& t) const;
};
// The hash of one row of several columns: what TupleHash gives for the same values.
[[nodiscard]] std::size_t hashRow(const std::vector<ValueColumn>& columns, std::size_t row);
// Orders two rows as compareTuples() would order their values. REQUIRES: as many columns on both sides.
[[nodiscard]] int compareRows(const std::vector<ValueColumn>& a, std::size_t rowOfA, const std::vector<ValueColumn>& b,
                              std::size_t rowOfB);
struct TupleSame {
  bool operator()(const ValueTuple& a, const ValueTuple& b) const { return sameTuple(a, b); }
};

}  // namespace iterandum
