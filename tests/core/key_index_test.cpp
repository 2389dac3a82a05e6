// The index of keys gives back what was put into it, whatever the keys are, and stays small.
#include "core/scope/key_index.h"

#include <gtest/gtest.h>

#include <random>

namespace iterandum {
namespace {

// Puts `count` keys of one make in, and looks at them all again.
std::size_t bytesFor(std::size_t count, const std::function<ValueTuple(std::size_t)>& make) {
  KeyIndex index(make(0).size());
  for (std::size_t i = 0; i < count; ++i) index.push(make(i));
  EXPECT_EQ(count, index.size());
  std::size_t wrong = 0;
  for (std::size_t i = 0; i < count; ++i) wrong += sameTuple(make(i), index.key(i)) ? 0 : 1;
  EXPECT_EQ(0U, wrong);
  for (const std::size_t i : {std::size_t{0}, count / 3, count - 1}) EXPECT_EQ(i, index.find(make(i)).value_or(-1));
  return index.memoryBytes();
}

std::size_t scattered(std::size_t i, std::size_t modulus) { return i * 7919 % modulus; }

TEST(KeyIndexTest, NumbersTakeWhatTheirRangeNeeds) {
  constexpr std::size_t kCount = 100003;
  const auto number = [](std::uint64_t n) { return ValueTuple{Value::integer(static_cast<std::int64_t>(n))}; };
  EXPECT_LT(bytesFor(kCount, number), kCount * 3) << "in their order";
  EXPECT_LT(bytesFor(kCount, [&](std::size_t i) { return number(scattered(i, kCount)); }), kCount * 5) << "in another";
  EXPECT_LT(bytesFor(kCount, [&](std::size_t i) { return number(i * 0x9E3779B97F4A7C15ULL); }), kCount * 9);
}

TEST(KeyIndexTest, TextsThatDifferInDigitsOnlyTakeAsMuchAsNumbers) {
  constexpr std::size_t kCount = 50021;
  const auto tag = [](std::size_t i) {
    std::string digits = std::to_string(scattered(i, kCount));
    return ValueTuple{Value::text("QH-" + std::string(5 - digits.size(), '0') + digits)};
  };
  EXPECT_LT(bytesFor(kCount, tag), kCount * 5);
}

TEST(KeyIndexTest, AnyOtherKeysComeBackToo) {
  constexpr std::size_t kCount = 20011;
  const auto any = [](std::size_t i) -> ValueTuple {
    switch (i % 6) {
      case 0:
        return {Value(), Value::integer(static_cast<std::int64_t>(i))};
      case 1:
        return {Value::text("ä" + std::to_string(i)), Value::real(0.5)};
      case 2:
        return {Value::bytes(std::string(i % 30, '\0')), Value::text(std::to_string(i))};
      case 3:
        return {Value::text(""), Value::text(std::to_string(i))};
      case 4:
        return {Value::integer(INT64_MIN), Value::integer(static_cast<std::int64_t>(i))};
      default:
        return {Value::text("000" + std::to_string(i)), Value()};
    }
  };
  bytesFor(kCount, any);
}

TEST(KeyIndexTest, LongTextsDoNotStayInMemory) {
  constexpr std::size_t kCount = 60000;
  const auto text = [](std::size_t i) {
    return ValueTuple{Value::text(std::string(400, static_cast<char>('a' + i % 26)) + std::to_string(i))};
  };
  EXPECT_LT(bytesFor(kCount, text), 16U << 20U) << "24 megabytes of keys";
}

TEST(KeyIndexTest, PiecesAreAddedBehindFullBlocksAndCopiesStay) {
  KeyIndex whole(1);
  KeyIndex piece(1);
  std::int64_t n = 0;
  while (whole.size() < 3 * KeyIndex::kBlock + 17) {
    piece.push({Value::integer(n++)});
    if (piece.size() == KeyIndex::kBlock || n == static_cast<std::int64_t>(3 * KeyIndex::kBlock + 17)) {
      whole.append(std::move(piece));
      piece = KeyIndex(1);
    }
  }
  const KeyIndex copy = whole;
  whole.push({Value::integer(-1)});
  EXPECT_EQ(copy.size() + 1, whole.size());
  for (std::size_t i = 0; i < copy.size(); ++i) ASSERT_EQ(static_cast<std::int64_t>(i), copy.at(i, 0).asInteger());
  EXPECT_EQ(std::nullopt, copy.find({Value::integer(5)}, 6)) << "it lies before";
  EXPECT_EQ(std::nullopt, copy.find({Value::text("5")}));
}

}  // namespace
}  // namespace iterandum
