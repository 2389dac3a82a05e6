#include "core/value/value_column.h"

#include <algorithm>

namespace iterandum {
namespace {
bool isPlainInteger(const Value& v) { return v.kind() == Value::Kind::Integer; }
}  // namespace

void ValueColumn::leaveConstant(const Value& next) {
  if (isPlainInteger(next) && (count_ == 0 || isPlainInteger(constant_))) {
    integers_.reserve(reserved_ > count_ ? reserved_ : count_ + 1);
    integers_.assign(count_, count_ == 0 ? 0 : constant_.asInteger());
    mode_ = Mode::Integers;
  } else {
    values_.reserve(reserved_ > count_ ? reserved_ : count_ + 1);
    values_.assign(count_, constant_);
    mode_ = Mode::General;
  }
  constant_ = Value();
}

void ValueColumn::becomeGeneral() {
  values_.reserve(reserved_ > count_ ? reserved_ : count_ + 1);
  for (const std::int64_t n : integers_) values_.push_back(Value::integer(n));
  integers_ = {};
  mode_ = Mode::General;
}

void ValueColumn::push(Value value) {
  if (mode_ == Mode::Constant) {
    if (count_ == 0) constant_ = value;
    if (value == constant_) {
      ++count_;
      return;
    }
    leaveConstant(value);
  }
  if (mode_ == Mode::Integers) {
    if (isPlainInteger(value)) {
      integers_.push_back(value.asInteger());
      ++count_;
      return;
    }
    becomeGeneral();
  }
  values_.push_back(std::move(value));
  ++count_;
}

void ValueColumn::set(std::size_t index, Value value) {
  if (mode_ == Mode::Constant) {
    if (value == constant_) return;
    leaveConstant(value);
  }
  if (mode_ == Mode::Integers) {
    if (isPlainInteger(value)) {
      integers_[index] = value.asInteger();
      return;
    }
    becomeGeneral();
  }
  values_[index] = std::move(value);
}

void ValueColumn::append(const ValueColumn& more) {
  if (count_ == 0) {
    *this = more;
    return;
  }
  if (mode_ == Mode::Integers && more.mode_ == Mode::Integers) {
    integers_.insert(integers_.end(), more.integers_.begin(), more.integers_.end());
    count_ += more.count_;
    return;
  }
  for (std::size_t i = 0; i < more.count_; ++i) push(more.at(i));
}

Value ValueColumn::at(std::size_t index) const {
  switch (mode_) {
    case Mode::Constant:
      return constant_;
    case Mode::Integers:
      return Value::integer(integers_[index]);
    case Mode::General:
      break;
  }
  return values_[index];
}

std::size_t ValueColumn::memoryBytes() const {
  std::size_t bytes = sizeof *this + integers_.capacity() * sizeof(std::int64_t) + values_.capacity() * sizeof(Value);
  for (const Value& v : values_) bytes += v.heapBytes();
  return bytes + constant_.heapBytes();
}

bool sameTuple(const ValueTuple& a, const ValueTuple& b) { return compareTuples(a, b) == 0; }

bool holdsNull(const ValueTuple& tuple) {
  return std::any_of(tuple.begin(), tuple.end(), [](const Value& v) { return v.isNull(); });
}

int compareTuples(const ValueTuple& a, const ValueTuple& b) {
  for (std::size_t i = 0; i < a.size() && i < b.size(); ++i) {
    if (const int order = compareValues(a[i], b[i]); order != 0) return order;
  }
  return a.size() == b.size() ? 0 : (a.size() < b.size() ? -1 : 1);
}

namespace {
constexpr std::uint64_t kHashStart = 0x51ED270B;
std::uint64_t addToHash(std::uint64_t h, const Value& v) { return (h ^ hashValue(v)) * 0x9E3779B97F4A7C15ULL; }
std::size_t finishHash(std::uint64_t h) { return static_cast<std::size_t>(h ^ (h >> 32)); }
}  // namespace

std::size_t TupleHash::operator()(const ValueTuple& t) const {
  std::uint64_t h = kHashStart;
  for (const Value& v : t) h = addToHash(h, v);
  return finishHash(h);
}

std::size_t hashRow(const std::vector<ValueColumn>& columns, std::size_t row) {
  std::uint64_t h = kHashStart;
  for (const ValueColumn& c : columns) h = addToHash(h, c.at(row));
  return finishHash(h);
}

int compareRows(const std::vector<ValueColumn>& a, std::size_t rowOfA, const std::vector<ValueColumn>& b,
                std::size_t rowOfB) {
  for (std::size_t c = 0; c < a.size(); ++c) {
    const auto left = a[c].integers();
    const auto right = b[c].integers();
    if (!left.empty() && !right.empty()) {
      if (left[rowOfA] != right[rowOfB]) return left[rowOfA] < right[rowOfB] ? -1 : 1;
    } else if (const int order = compareValues(a[c].at(rowOfA), b[c].at(rowOfB)); order != 0) {
      return order;
    }
  }
  return 0;
}

}  // namespace iterandum
