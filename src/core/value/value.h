// Value: one database value, typed and compact.
//
// 24 bytes; numbers and texts of up to 22 bytes need no allocation. Dates, times, intervals, uuids and whatever else
// an engine has are kept in the engine's own canonical text, with the kind that says how to show and edit them.
// Values are plain data: copy, move and compare them freely, from any thread.
#pragma once

#include <cstdint>
#include <cstring>
#include <string>
#include <string_view>

namespace iterandum {

class Value {
 public:
  enum class Kind : std::uint8_t {
    Null,
    Boolean,
    Integer,   // fits std::int64_t
    Unsigned,  // above INT64_MAX, fits std::uint64_t
    Real,      // binary floating point
    Decimal,   // exact, plain notation, any length
    Text,      // UTF-8 as a rule; see hasValidUtf8()
    Bytes,
    Date,
    Time,
    Timestamp,
    Interval,
    Other,      // the engine's own canonical text
    PendingKey  // stands for the key that an addition with this label will get; only in staged changes
  };

  Value() noexcept { clear(); }
  Value(const Value& other) { copyFrom(other); }
  Value(Value&& other) noexcept { stealFrom(other); }
  Value& operator=(const Value& other);
  Value& operator=(Value&& other) noexcept {
    if (this != &other) {
      release();
      stealFrom(other);
    }
    return *this;
  }
  ~Value() { release(); }

  static Value null() { return {}; }
  static Value boolean(bool b);
  static Value integer(std::int64_t n) {
    Value v;
    v.store(n);
    v.kind_ = static_cast<std::uint8_t>(Kind::Integer);
    return v;
  }
  static Value unsignedInteger(std::uint64_t n);  // becomes Integer when it fits
  static Value real(double d);
  static Value decimal(std::string_view plainNotation);
  static Value text(std::string_view s) { return ofString(Kind::Text, s); }
  static Value bytes(std::string_view b) { return ofString(Kind::Bytes, b); }
  static Value pendingKey(std::string_view label) { return ofString(Kind::PendingKey, label); }
  // For the kinds that are kept as text.
  static Value ofString(Kind kind, std::string_view s);

  [[nodiscard]] Kind kind() const noexcept { return static_cast<Kind>(kind_); }
  [[nodiscard]] bool isNull() const noexcept { return kind() == Kind::Null; }
  [[nodiscard]] bool isNumber() const noexcept { return kind() >= Kind::Boolean && kind() <= Kind::Decimal; }
  [[nodiscard]] bool isString() const noexcept { return kind() >= Kind::Decimal; }

  // REQUIRES: the kind. asInteger also takes Boolean.
  [[nodiscard]] std::int64_t asInteger() const noexcept { return load<std::int64_t>(); }
  [[nodiscard]] std::uint64_t asUnsigned() const noexcept { return load<std::uint64_t>(); }
  [[nodiscard]] double asReal() const noexcept { return load<double>(); }
  [[nodiscard]] bool asBoolean() const noexcept { return load<std::int64_t>() != 0; }
  // REQUIRES: isString(). The view lives as long as the value is not assigned to or destroyed.
  [[nodiscard]] std::string_view asString() const noexcept;

  // Same kind and same bytes. For "the same as far as the database is concerned" see sameValue().
  friend bool operator==(const Value& a, const Value& b) noexcept;

  // Heap bytes held besides the 24 of the object.
  [[nodiscard]] std::size_t heapBytes() const noexcept { return onHeap() ? heap().size : 0; }

 private:
  static constexpr std::size_t kInline = 22;
  static constexpr std::uint8_t kOnHeap = 0xFF;
  struct Heap {
    char* data;
    std::size_t size;
  };

  template <typename T>
  [[nodiscard]] T load() const noexcept {
    T t;
    std::memcpy(&t, storage_, sizeof t);
    return t;
  }
  template <typename T>
  void store(T t) noexcept {
    std::memcpy(storage_, &t, sizeof t);
  }
  [[nodiscard]] bool onHeap() const noexcept { return size_ == kOnHeap; }
  [[nodiscard]] Heap heap() const noexcept { return load<Heap>(); }
  void clear() noexcept {
    std::memset(storage_, 0, sizeof storage_);
    size_ = 0;
    kind_ = 0;
  }
  // In sight of the compiler: millions of these are moved about, and hardly one of them has anything on the heap.
  void takeBits(const Value& other) noexcept {
    std::memcpy(storage_, other.storage_, sizeof storage_);
    size_ = other.size_;
    kind_ = other.kind_;
  }
  void copyFrom(const Value& other) {
    takeBits(other);
    if (onHeap()) copyHeap(other);
  }
  void stealFrom(Value& other) noexcept {
    takeBits(other);
    other.clear();
  }
  void release() noexcept {
    if (onHeap()) freeHeap();
  }
  void copyHeap(const Value& other);
  void freeHeap() noexcept;

  alignas(8) char storage_[kInline];
  std::uint8_t size_;
  std::uint8_t kind_;
};
static_assert(sizeof(Value) == 24);

// Equal as database values: numbers by their exact worth (2 and 2.0 are the same), everything else by kind and bytes.
// A text is never equal to a number. NULL is the same as NULL; NaN is the same as NaN.
[[nodiscard]] bool sameValue(const Value& a, const Value& b);

// A total order that agrees with sameValue: NULL, then numbers by worth, then text by bytes, then bytes, then the rest.
// It is for sorting keys in memory; the order on screen is the database's.
[[nodiscard]] int compareValues(const Value& a, const Value& b);

// Hash that agrees with sameValue. It may differ from one build to the next: not for files.
[[nodiscard]] std::uint64_t hashValue(const Value& v);
// Appends bytes that agree with sameValue, the same in every build: for digests and hashes that are kept.
void appendSameBytes(const Value& v, std::string& out);

// The text that stands for the value where there is room for text only: numbers in their shortest exact form,
// text as it is, bytes as base64. NULL gives an empty text: callers show it in their own way.
[[nodiscard]] std::string canonicalText(const Value& v);
// Whether that is its text, told without making it.
[[nodiscard]] bool readsAs(const Value& v, std::string_view text);

// Whether the bytes are UTF-8 without surrogates or overlong forms.
[[nodiscard]] bool isValidUtf8(std::string_view s);

}  // namespace iterandum
