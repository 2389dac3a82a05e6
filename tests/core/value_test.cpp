// Values: exact comparison, order, hashes, canonical text, compact columns, the packed form.
#include "core/value/value.h"

#include <gtest/gtest.h>

#include <cmath>
#include <limits>
#include <random>

#include "core/value/base64.h"
#include "core/value/codec.h"
#include "core/value/decimal.h"
#include "core/value/value_column.h"
#include "support/numbers.h"

namespace iterandum::test {
namespace {

std::vector<Value> niceAndNasty() {
  return {Value(),
          Value::boolean(true),
          Value::integer(0),
          Value::integer(-1),
          Value::integer(std::numeric_limits<std::int64_t>::max()),
          Value::integer(std::numeric_limits<std::int64_t>::min()),
          Value::unsignedInteger(std::numeric_limits<std::uint64_t>::max()),
          Value::real(0.1),
          Value::real(-0.0),
          Value::real(9007199254740993.0),
          Value::real(1e300),
          Value::real(std::nan("")),
          Value::real(INFINITY),
          Value::real(-INFINITY),
          Value::decimal("0.1"),
          Value::decimal("9007199254740993"),
          Value::decimal("123456789012345678901234567890.5"),
          Value::text(""),
          Value::text("5"),
          Value::text("exactly twenty-two byt"),
          Value::text("just over the twenty-two bytes"),
          Value::text(std::string("a\0b", 3)),
          Value::bytes(std::string("\xff\x00", 2)),
          Value::ofString(Value::Kind::Date, "2026-11-25"),
          Value::pendingKey("new-1")};
}

TEST(ValueTest, NumbersAreComparedByTheirExactWorth) {
  EXPECT_TRUE(sameValue(Value::integer(2), Value::real(2.0)));
  EXPECT_TRUE(sameValue(Value::decimal("2.50"), Value::real(2.5)));
  EXPECT_TRUE(sameValue(Value::decimal("0.1"), Value::real(0.1)));
  EXPECT_TRUE(sameValue(Value::integer(0), Value::real(-0.0)));
  EXPECT_TRUE(sameValue(Value::boolean(true), Value::integer(1)));
  EXPECT_FALSE(sameValue(Value::integer(9007199254740993), Value::real(9007199254740992.0)));
  EXPECT_FALSE(sameValue(Value::integer(std::numeric_limits<std::int64_t>::max()), Value::real(9223372036854775808.0)));
  EXPECT_FALSE(sameValue(Value::integer(5), Value::text("5")));
  EXPECT_FALSE(sameValue(Value(), Value::text("")));
  EXPECT_FALSE(sameValue(Value::text("x"), Value::bytes("x")));
}

TEST(ValueTest, OrderIsTotalAndHashesAgreeWithSameness) {
  const auto values = niceAndNasty();
  for (const Value& a : values) {
    EXPECT_TRUE(sameValue(a, a));
    for (const Value& b : values) {
      EXPECT_EQ(compareValues(a, b), -compareValues(b, a));
      if (sameValue(a, b)) {
        EXPECT_EQ(hashValue(a), hashValue(b)) << canonicalText(a) << " " << canonicalText(b);
      }
      for (const Value& c : values) {
        if (compareValues(a, b) <= 0 && compareValues(b, c) <= 0) {
          EXPECT_LE(compareValues(a, c), 0);
        }
      }
    }
  }
}

TEST(ValueTest, CopiesMovesAndSelfAssignmentKeepTheContent) {
  for (const Value& v : niceAndNasty()) {
    Value copy = v;
    EXPECT_EQ(v, copy);
    Value moved = std::move(copy);
    EXPECT_EQ(v, moved);
    Value& self = moved;
    moved = self;
    EXPECT_EQ(v, moved);
  }
}

TEST(ValueTest, CanonicalTextOfFloatsReadsBackTheSame) {
  std::mt19937_64 random(1);
  for (int i = 0; i < 20000; ++i) {
    const std::uint64_t bits = random();
    double d = 0;
    std::memcpy(&d, &bits, sizeof d);
    if (!std::isfinite(d)) continue;
    EXPECT_EQ(d, numberIn(canonicalText(Value::real(d))));
    EXPECT_EQ(0, compareNormalDecimals(normalDecimal(plainDouble(d)), normalDecimal(shortestDouble(d))));
  }
  EXPECT_EQ("2.0", canonicalText(Value::real(2)));
  EXPECT_EQ("-Infinity", canonicalText(Value::real(-INFINITY)));
}

TEST(DecimalTest, PlainAndCanonicalForms) {
  EXPECT_EQ("12.50", plainDecimal("0012.50"));
  EXPECT_EQ("1000", plainDecimal("1e3"));
  EXPECT_EQ("-0.00125", plainDecimal("-1.25e-3"));
  EXPECT_EQ("0.5", plainDecimal(".5"));
  EXPECT_EQ("0", normalDecimal("-0.00"));
  EXPECT_EQ("12.5", normalDecimal("12.50"));
  for (const char* wrong : {"", "-", ".", "1e", "1e99999999", "1.2.3", "0x10", " 1", "1 ", "e5", "nan"})
    EXPECT_FALSE(plainDecimal(wrong)) << wrong;
}

TEST(DecimalTest, OrderAgreesWithIntegers) {
  std::mt19937 random(2);
  for (int i = 0; i < 20000; ++i) {
    const int a = static_cast<int>(random() % 4001) - 2000;
    const int b = static_cast<int>(random() % 4001) - 2000;
    const auto text = [](int n) { return normalDecimal(*plainDecimal(std::to_string(n) + "e-2")); };
    EXPECT_EQ(a < b ? -1 : (a > b ? 1 : 0), compareNormalDecimals(text(a), text(b))) << a << " " << b;
  }
}

TEST(Base64Test, StrictBothWays) {
  std::string bytes;
  for (int i = 0; i < 300; ++i) {
    EXPECT_EQ(bytes, decodeBase64(encodeBase64(bytes)));
    bytes += static_cast<char>(i * 7);
  }
  EXPECT_EQ("Zm9vYg==", encodeBase64("foob"));
  for (const char* wrong : {"Zg", "Zg=", "Z===", "Zg==x", "Z g=", "Zm9v!A==", "===="})
    EXPECT_FALSE(decodeBase64(wrong)) << wrong;
}

TEST(Utf8Test, SurrogatesAndOverlongFormsAreRefused) {
  EXPECT_TRUE(isValidUtf8("Straße 🌳"));
  EXPECT_FALSE(isValidUtf8("\xff"));
  EXPECT_FALSE(isValidUtf8("\xed\xa0\x80"));
  EXPECT_FALSE(isValidUtf8("\xc0\xaf"));
  EXPECT_FALSE(isValidUtf8("\xe2\x82"));
}

TEST(ValueColumnTest, HoldsWhatWasPutInWhateverTheMix) {
  std::mt19937 random(3);
  const auto pool = niceAndNasty();
  for (int round = 0; round < 200; ++round) {
    ValueColumn column;
    std::vector<Value> plain;
    const bool integersFirst = random() % 2 == 0;
    for (int i = 0; i < 40; ++i) {
      const Value v =
          integersFirst && i < 20 ? Value::integer(static_cast<int>(random() % 3)) : pool[random() % pool.size()];
      column.push(v);
      plain.push_back(v);
      const std::size_t at = random() % plain.size();
      plain[at] = pool[random() % pool.size()];
      column.set(at, plain[at]);
    }
    for (std::size_t i = 0; i < plain.size(); ++i) ASSERT_EQ(plain[i], column.at(i));
    ByteWriter out;
    out.column(column);
    ByteReader in(out.bytes());
    const ValueColumn back = in.column();
    ASSERT_TRUE(in.ok() && in.atEnd());
    for (std::size_t i = 0; i < plain.size(); ++i) ASSERT_EQ(plain[i], back.at(i));
  }
}

TEST(ValueColumnTest, LikeValuesTakeNextToNoRoom) {
  ValueColumn constant;
  ValueColumn integers;
  for (int i = 0; i < 100000; ++i) {
    constant.push(Value::text("Anchor Lane, the whole length of it"));
    integers.push(Value::integer(i));
  }
  EXPECT_GT(300U, constant.memoryBytes());
  EXPECT_GT(2U * 8 * 100000, integers.memoryBytes());
}

TEST(CodecTest, CutOffInputIsNoticed) {
  ByteWriter out;
  for (const Value& v : niceAndNasty()) out.value(v);
  const std::string& bytes = out.bytes();
  for (std::size_t size = 0; size < bytes.size(); ++size) {
    ByteReader in(std::string_view(bytes).substr(0, size));
    for (std::size_t i = 0; i < niceAndNasty().size(); ++i) (void)in.value();
    EXPECT_FALSE(in.ok()) << size;
  }
}

}  // namespace
}  // namespace iterandum::test
