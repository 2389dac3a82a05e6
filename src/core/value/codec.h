// ByteWriter and ByteReader: the compact binary form in which staged work and receipts lie in the store.
//
// Integers are LEB128 varints (signed ones zigzag-coded, as in the Protocol Buffers encoding guide); a value is its
// kind followed by its payload. The reader never reads past its end: after a damaged or cut-off input ok() is false
// and every further read gives an empty value.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>

#include "core/value/value.h"
#include "core/value/value_column.h"

namespace iterandum {

class ByteWriter {
 public:
  void number(std::uint64_t n);
  void signedNumber(std::int64_t n);
  void string(std::string_view s);
  void value(const Value& v);
  void column(const ValueColumn& column);
  void tuple(const ValueTuple& tuple);
  [[nodiscard]] const std::string& bytes() const { return bytes_; }
  [[nodiscard]] std::string take() { return std::move(bytes_); }

 private:
  std::string bytes_;
};

class ByteReader {
 public:
  explicit ByteReader(std::string_view bytes) : rest_(bytes) {}
  std::uint64_t number();
  std::int64_t signedNumber();
  std::string_view string();
  Value value();
  ValueColumn column();
  ValueTuple tuple();
  // A count of things that take at least one byte each: a damaged count cannot ask for more memory than there is input.
  std::size_t count();
  [[nodiscard]] bool ok() const { return ok_; }
  [[nodiscard]] bool atEnd() const { return rest_.empty(); }

 private:
  std::string_view rest_;
  bool ok_ = true;
};

}  // namespace iterandum
