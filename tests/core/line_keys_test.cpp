// Which line named a key first, against a map: keys in order, in order for a while, and in none.
#include "core/files/line_keys.h"

#include <gtest/gtest.h>

#include <limits>
#include <map>
#include <random>

namespace iterandum {
namespace {

TEST(LineKeysTest, TheFirstLineOfEachKeyIsKnownAsAMapKnowsIt) {
  std::mt19937_64 random(20261201);
  const auto below = [&](std::int64_t n) {
    return static_cast<std::int64_t>(random() % static_cast<std::uint64_t>(n));
  };
  int found = 0;
  for (int round = 0; round < 400; ++round) {
    LineKeys keys;
    std::map<std::int64_t, std::uint32_t> oracle;
    std::int64_t key = round % 3 == 0 ? std::numeric_limits<std::int64_t>::min() + 200 : below(400) - 200;
    std::uint32_t line = 1;
    const std::int64_t ordered = below(3) == 0 ? 1000 : below(60);
    for (int i = 0; i < 80; ++i) {
      const bool inOrder = i < ordered;
      // Steps of one byte, of several, and the widest there is.
      if (inOrder)
        key += i == 7 && round % 3 == 0 ? std::numeric_limits<std::int64_t>::max() : 1 + below(i % 5 == 0 ? 9000 : 3);
      if (!inOrder) key += below(5) - 2;
      line += static_cast<std::uint32_t>(1 + below(i % 9 == 0 ? 500 : 2));
      const auto [at, isNew] = oracle.try_emplace(key, line);
      const auto before = keys.put({Value::integer(key)}, line);
      ASSERT_EQ(isNew, !before.has_value()) << "round " << round << ", " << i;
      ASSERT_EQ(at->second, before.value_or(line));
      found += before ? 1 : 0;
    }
  }
  EXPECT_GT(found, 1000);
}

TEST(LineKeysTest, KeysOfAnyKindAndOfSeveralColumns) {
  LineKeys texts;
  EXPECT_FALSE(texts.put({Value::integer(1)}, 1));
  EXPECT_FALSE(texts.put({Value::text("1")}, 2)) << "a text is no number";
  EXPECT_EQ(1U, texts.put({Value::integer(1)}, 3));
  EXPECT_EQ(2U, texts.put({Value::text("1")}, 4));
  LineKeys pairs;
  EXPECT_FALSE(pairs.put({Value::integer(1), Value::text("a")}, 1));
  EXPECT_FALSE(pairs.put({Value::integer(1), Value::text("b")}, 2));
  EXPECT_EQ(1U, pairs.put({Value::integer(1), Value::text("a")}, 3));
}

}  // namespace
}  // namespace iterandum
