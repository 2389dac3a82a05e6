#include "core/scope/key_index.h"

#include <unistd.h>

#include <algorithm>
#include <cstdlib>
#include <cstring>
#include <mutex>

#include "core/value/codec.h"

namespace iterandum {

// A file without a name; it goes with the last block that lies in it.
class KeyIndex::Spill {
 public:
  Spill() {
    const char* folder = getenv("TMPDIR");
    std::string path = std::string(folder != nullptr && folder[0] == '/' ? folder : "/tmp") + "/iterandum-XXXXXX";
    file_ = mkstemp(path.data());
    if (file_ >= 0) unlink(path.c_str());
  }
  Spill(const Spill&) = delete;
  Spill& operator=(const Spill&) = delete;
  ~Spill() {
    if (file_ >= 0) close(file_);
  }

  // Where the bytes were put; nothing when there is no room for them.
  [[nodiscard]] std::optional<std::uint64_t> put(const std::string& bytes) {
    const std::lock_guard lock(mutex_);
    if (file_ < 0) return std::nullopt;
    const std::uint64_t start = end_;
    std::size_t done = 0;
    while (done < bytes.size()) {
      const ssize_t n = pwrite(file_, bytes.data() + done, bytes.size() - done, static_cast<off_t>(start + done));
      if (n <= 0) return std::nullopt;
      done += static_cast<std::size_t>(n);
    }
    end_ += bytes.size();
    return start;
  }
  [[nodiscard]] std::string get(std::uint64_t start, std::size_t size) const {
    std::string bytes(size, '\0');
    std::size_t done = 0;
    while (done < size) {
      const ssize_t n = pread(file_, bytes.data() + done, size - done, static_cast<off_t>(start + done));
      if (n <= 0) break;  // the reader of damaged bytes gives empty values, which are no record's key
      done += static_cast<std::size_t>(n);
    }
    return bytes;
  }

 private:
  std::mutex mutex_;
  int file_ = -1;
  std::uint64_t end_ = 0;
};

namespace {

// So much may be packed in memory before it is put into a file.
constexpr std::size_t kMostPacked = 8U << 20U;

// The digits of a text as one number, and what stands round them with '0' for each digit. Nothing where that would
// lose something.
std::optional<std::int64_t> digitsOf(std::string_view text, std::string& pattern) {
  constexpr int kMostDigits = 18;
  pattern.assign(text);
  std::int64_t number = 0;
  int digits = 0;
  for (char& c : pattern) {
    if (c < '0' || c > '9') continue;
    if (++digits > kMostDigits) return std::nullopt;
    number = number * 10 + (c - '0');
    c = '0';
  }
  if (digits == 0) return std::nullopt;
  return number;
}

std::string withDigits(const std::string& pattern, std::int64_t number) {
  std::string out = pattern;
  for (auto c = out.rbegin(); c != out.rend(); ++c) {
    if (*c != '0') continue;
    *c = static_cast<char>('0' + number % 10);
    number /= 10;
  }
  return out;
}

}  // namespace

class KeyIndex::Block {
 public:
  Block(const ValueColumn& values, std::shared_ptr<Spill>& spill, std::size_t packedSoFar) {
    if (values.isConstant()) {
      constant_ = values.at(0);
      kind_ = Kind::Constant;
      return;
    }
    std::vector<std::int64_t> numbers;
    numbers.reserve(values.size());
    if (asNumbers(values, numbers)) {
      packNumbers(numbers);
    } else {
      packBytes(values, spill, packedSoFar);
    }
  }

  [[nodiscard]] Value at(std::size_t i) const {
    switch (kind_) {
      case Kind::Constant:
        return constant_;
      case Kind::Numbers:
        return Value::integer(number(i));
      case Kind::Pattern:
        return Value::text(withDigits(pattern_, number(i)));
      case Kind::Packed:
        break;
    }
    return unpacked().at(i);
  }

  // The first place at or behind `from` with this value.
  [[nodiscard]] std::size_t find(const Value& wanted, std::size_t from, std::size_t size) const {
    if (kind_ == Kind::Numbers || kind_ == Kind::Pattern) {
      std::string pattern;
      std::optional<std::int64_t> n;
      if (kind_ == Kind::Numbers && wanted.kind() == Value::Kind::Integer) n = wanted.asInteger();
      if (kind_ == Kind::Pattern && wanted.kind() == Value::Kind::Text) n = digitsOf(wanted.asString(), pattern);
      if (!n || (kind_ == Kind::Pattern && pattern != pattern_) || *n < smallest_ || *n > largest_) return size;
      while (from < size && number(from) != *n) ++from;
      return from;
    }
    while (from < size && !sameValue(at(from), wanted)) ++from;
    return from;
  }

  [[nodiscard]] std::size_t memoryBytes() const { return sizeof(*this) + bytes_.capacity() + pattern_.capacity(); }
  [[nodiscard]] std::size_t packedBytes() const { return kind_ == Kind::Packed ? bytes_.size() : 0; }

 private:
  enum class Kind { Constant, Numbers, Pattern, Packed };

  bool asNumbers(const ValueColumn& values, std::vector<std::int64_t>& numbers) {
    if (!values.integers().empty()) {
      numbers.assign(values.integers().begin(), values.integers().end());
      kind_ = Kind::Numbers;
      return true;
    }
    std::string pattern;
    for (std::size_t i = 0; i < values.size(); ++i) {
      const Value v = values.at(i);
      if (v.kind() != Value::Kind::Text) return false;
      const auto n = digitsOf(v.asString(), pattern);
      if (!n || (i > 0 && pattern != pattern_)) return false;
      if (i == 0) pattern_ = pattern;
      numbers.push_back(*n);
    }
    kind_ = Kind::Pattern;
    return true;
  }

  void packNumbers(const std::vector<std::int64_t>& numbers) {
    const auto [low, high] = std::minmax_element(numbers.begin(), numbers.end());
    smallest_ = *low;
    largest_ = *high;
    const auto range = static_cast<std::uint64_t>(largest_) - static_cast<std::uint64_t>(smallest_);
    bytesEach_ = range > UINT32_MAX ? 8 : (range > UINT16_MAX ? 4 : (range > UINT8_MAX ? 2 : 1));
    bytes_.resize(numbers.size() * bytesEach_);
    for (std::size_t i = 0; i < numbers.size(); ++i) {
      const auto offset = static_cast<std::uint64_t>(numbers[i]) - static_cast<std::uint64_t>(smallest_);
      std::memcpy(&bytes_[i * bytesEach_], &offset, bytesEach_);  // little-endian: its low bytes
    }
  }

  [[nodiscard]] std::int64_t number(std::size_t i) const {
    std::uint64_t offset = 0;
    std::memcpy(&offset, &bytes_[i * bytesEach_], bytesEach_);
    return static_cast<std::int64_t>(static_cast<std::uint64_t>(smallest_) + offset);
  }

  void packBytes(const ValueColumn& values, std::shared_ptr<Spill>& spill, std::size_t packedSoFar) {
    kind_ = Kind::Packed;
    ByteWriter writer;
    writer.column(values);
    bytes_ = writer.take();
    bytes_.shrink_to_fit();
    size_ = bytes_.size();
    if (packedSoFar < kMostPacked) return;
    if (!spill) spill = std::make_shared<Spill>();
    if (const auto start = spill->put(bytes_)) {
      start_ = *start;
      spill_ = spill;
      std::string().swap(bytes_);  // an assignment would keep its room
    }
  }

  // The last blocks that were looked into stay unpacked: neighbours are asked for one after the other.
  [[nodiscard]] const ValueColumn& unpacked() const {
    struct Unpacked {
      std::weak_ptr<const int> of;
      ValueColumn values;
    };
    static thread_local std::array<Unpacked, 4> recent;
    static thread_local std::size_t next = 0;
    for (const Unpacked& u : recent) {
      if (const auto of = u.of.lock(); of != nullptr && of == itself_) return u.values;
    }
    const std::string bytes = spill_ ? spill_->get(start_, size_) : std::string();
    ByteReader reader(spill_ ? std::string_view(bytes) : std::string_view(bytes_));
    Unpacked& u = recent[next++ % recent.size()];
    u = {itself_, reader.column()};
    // Damaged bytes give no value, never one too few.
    while (u.values.size() < kBlock) u.values.push(Value());
    return u.values;
  }

  Kind kind_ = Kind::Constant;
  Value constant_;
  std::string pattern_;
  std::int64_t smallest_ = 0;
  std::int64_t largest_ = 0;
  std::size_t bytesEach_ = 0;
  std::string bytes_;
  std::size_t size_ = 0;
  std::uint64_t start_ = 0;
  std::shared_ptr<Spill> spill_;
  std::shared_ptr<const int> itself_ = std::make_shared<int>(0);  // tells this block from one at the same address later
};

void KeyIndex::push(ValueTuple&& key) {
  for (std::size_t c = 0; c < pending_.size(); ++c) pending_[c].push(std::move(key[c]));
  if (!pending_.empty() && pending_.front().size() == kBlock) closeBlock();
}

void KeyIndex::closeBlock() {
  for (std::size_t c = 0; c < columns_.size(); ++c) {
    std::size_t packed = 0;
    for (const auto& b : columns_[c]) packed += b->packedBytes();
    columns_[c].push_back(std::make_shared<const Block>(pending_[c], spill_, packed));
    pending_[c] = {};
  }
  full_ += kBlock;
}

void KeyIndex::append(KeyIndex&& more) {
  for (std::size_t c = 0; c < columns_.size(); ++c) {
    columns_[c].insert(columns_[c].end(), more.columns_[c].begin(), more.columns_[c].end());
  }
  full_ += more.full_;
  pending_ = std::move(more.pending_);
  if (!spill_) spill_ = more.spill_;
  more = KeyIndex(columns_.size());
}

Value KeyIndex::at(std::size_t row, std::size_t column) const {
  return row < full_ ? block(row, column).at(row % kBlock) : pending_[column].at(row - full_);
}

ValueTuple KeyIndex::key(std::size_t row) const {
  ValueTuple out;
  out.reserve(width());
  for (std::size_t c = 0; c < width(); ++c) out.push_back(at(row, c));
  return out;
}

std::optional<std::size_t> KeyIndex::find(const ValueTuple& key, std::size_t from, std::size_t until) const {
  if (key.size() != width() || key.empty()) return std::nullopt;
  const auto restFits = [&](std::size_t row) {
    for (std::size_t c = 1; c < key.size(); ++c) {
      if (!sameValue(at(row, c), key[c])) return false;
    }
    return true;
  };
  until = std::min(until, size());
  std::size_t row = from;
  while (row < std::min(full_, until)) {
    const std::size_t start = row - row % kBlock;
    const std::size_t end = std::min(kBlock, until - start);
    const std::size_t place = block(row, 0).find(key[0], row - start, end);
    row = start + place;
    if (place < end && restFits(row)) return row;
    if (place < end) ++row;
  }
  for (; row < until; ++row) {
    if (sameValue(at(row, 0), key[0]) && restFits(row)) return row;
  }
  return std::nullopt;
}

std::size_t KeyIndex::memoryBytes() const {
  std::size_t bytes = 0;
  for (std::size_t c = 0; c < columns_.size(); ++c) {
    bytes += columns_[c].capacity() * sizeof(columns_[c][0]) + pending_[c].memoryBytes();
    for (const auto& b : columns_[c]) bytes += b->memoryBytes();
  }
  return bytes;
}

}  // namespace iterandum
