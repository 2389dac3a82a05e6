// Exact numbers against whole numbers of the compiler, and against what a quotient has to be.
#include <random>

#include "core/value/decimal.h"
#include "core/value/exact_number.h"
#include "core/value/text_forms.h"

namespace iterandum::test {
namespace {

__extension__ using Wide = __int128;

ExactNumber number(const std::string& text) {
  const auto out = ExactNumber::read(text);
  EXPECT_TRUE(out.has_value()) << text;
  return out.value_or(ExactNumber());
}

TEST(ExactNumberTest, IsReadAndWrittenWithoutNeedlessNoughts) {
  for (const auto& [written, plain] :
       std::vector<std::pair<std::string, std::string>>{{"0", "0"},
                                                        {"-0", "0"},
                                                        {"007.50", "7.5"},
                                                        {"-12.500", "-12.5"},
                                                        {"1e3", "1000"},
                                                        {".5", "0.5"},
                                                        {"1e-30", "0." + std::string(29, '0') + "1"},
                                                        {"100", "100"}}) {
    EXPECT_EQ(plain, number(written).plain()) << written;
  }
  for (const char* none : {"", "-", "1,5", "x", "1e999999999", "0x10"}) EXPECT_FALSE(ExactNumber::read(none)) << none;
}

std::string decimalOf(Wide units, int places) {
  const bool negative = units < 0;
  std::string digits;
  for (Wide n = negative ? -units : units; n > 0; n /= 10)
    digits.insert(digits.begin(), static_cast<char>('0' + static_cast<int>(n % 10)));
  while (static_cast<int>(digits.size()) <= places) digits.insert(digits.begin(), '0');
  if (places > 0) digits.insert(digits.size() - static_cast<std::size_t>(places), 1, '.');
  return normalDecimal((negative ? "-" : "") + digits);
}

TEST(ExactNumberTest, ComputesAsTheCompilerDoes) {
  std::mt19937_64 random(3);
  for (int round = 0; round < 20000; ++round) {
    const auto a = static_cast<std::int64_t>(random() >> (random() % 60)) * (random() % 2 == 0 ? 1 : -1);
    const auto b = static_cast<std::int64_t>(random() >> (4 + random() % 59)) * (random() % 2 == 0 ? 1 : -1);
    const int places = static_cast<int>(random() % 6);
    const ExactNumber x = number(decimalOf(a, places));
    const ExactNumber y = number(decimalOf(b, places));
    ASSERT_EQ(decimalOf(static_cast<Wide>(a) + b, places), x.plus(y).plain());
    ASSERT_EQ(decimalOf(static_cast<Wide>(a) - b, places), x.minus(y).plain());
    ASSERT_EQ(decimalOf(static_cast<Wide>(a) * b, 2 * places), x.times(y).plain());
    ASSERT_EQ(a < b ? -1 : (a > b ? 1 : 0), x.compare(y) < 0 ? -1 : (x.compare(y) > 0 ? 1 : 0));
    if (b != 0) {
      ASSERT_EQ(decimalOf(a % b, places), x.remainder(y).plain()) << a << " " << b;
    }
    // To whole numbers: a half goes away from nought.
    std::int64_t unit = 1;
    for (int i = 0; i < places; ++i) unit *= 10;
    const Wide away = a < 0 ? -(static_cast<Wide>(-static_cast<Wide>(a)) * 2 + unit) / (2 * static_cast<Wide>(unit))
                            : (static_cast<Wide>(a) * 2 + unit) / (2 * static_cast<Wide>(unit));
    ASSERT_EQ(decimalOf(away, 0), x.rounded(0).plain()) << x.plain();
    const Wide below = a >= 0 ? a / unit : -((-static_cast<Wide>(a) + unit - 1) / unit);
    ASSERT_EQ(decimalOf(below, 0), x.floor().plain()) << x.plain();
  }
}

// A quotient of 34 digits is off by half a unit of its last place at most.
TEST(ExactNumberTest, QuotientsAreAsNearAsTheyCanBe) {
  std::mt19937_64 random(5);
  for (int round = 0; round < 5000; ++round) {
    const ExactNumber a =
        number(decimalOf(static_cast<std::int64_t>(random() >> (1 + random() % 60)), static_cast<int>(random() % 12)));
    const ExactNumber b = number(
        decimalOf(static_cast<std::int64_t>(random() >> (1 + random() % 60)) + 1, static_cast<int>(random() % 12)));
    const std::string quotient = a.dividedBy(b).plain();
    std::string digits = quotient;
    std::erase(digits, '.');
    digits.erase(0, std::min(digits.find_first_not_of('0'), digits.size()));
    digits.erase(digits.find_last_not_of('0') + 1);
    ASSERT_LE(digits.size(), 34U) << quotient;
    const ExactNumber off = a.minus(number(quotient).times(b)).absolute();
    if (off.isZero()) continue;
    const std::size_t point = quotient.find('.');
    ASSERT_NE(std::string::npos, point) << quotient;
    // The 34th digit stands where the last one written stands, or behind it where that was a nought.
    const std::size_t first = quotient.find_first_not_of("0.");
    const std::size_t lead = first < point ? point - first : point + 1 - first;  // negative wraps; only the sum counts
    const auto places = static_cast<std::int64_t>(34 - static_cast<std::int64_t>(lead));
    const ExactNumber unit = number("1e-" + std::to_string(places));
    ASSERT_LE(off.times(ExactNumber(2)).compare(unit.times(b)), 0) << a.plain() << " / " << b.plain();
  }
  EXPECT_EQ("0.5", ExactNumber(1).dividedBy(ExactNumber(2)).plain());
  // Half to even: the 35th digit is a five with nothing behind it.
  EXPECT_EQ("1000000000000000000000000000000000",
            number("10000000000000000000000000000000005").dividedBy(ExactNumber(10)).plain());
  EXPECT_EQ("1000000000000000000000000000000002",
            number("10000000000000000000000000000000015").dividedBy(ExactNumber(10)).plain());
  EXPECT_TRUE(number("9e19999").times(number("9e19999")).isTooLong());
}

TEST(TextFormsTest, CharactersAreCountedAsPeopleSeeThem) {
  const std::string family = "\U0001F468\u200D\U0001F469\u200D\U0001F467";
  EXPECT_EQ(1U, characterCount(family));
  EXPECT_EQ(1U, characterCount("e\u0301"));
  EXPECT_EQ(2U, characterCount("\U0001F1E9\U0001F1EA\U0001F1EB\U0001F1F7"));
  EXPECT_EQ(3U, characterCount("a\r\nb"));
  EXPECT_EQ(0U, characterCount(""));
  EXPECT_EQ(std::string("e\u0301").size(), characterOffset("e\u0301x", 1));
  EXPECT_EQ(4U, characterCount("ab\xff\xfe"));
  EXPECT_EQ(3U, characterOffset("abc", 9));
}

TEST(TextFormsTest, BlanksAndLetters) {
  EXPECT_EQ("a b", tidied("\u00A0 a\t\u2003 b \n"));
  EXPECT_EQ("a \n b c", tidied(" a \t\n  b  c"));
  EXPECT_EQ("", trimmed(" \t\u00A0"));
  EXPECT_EQ("FUSS", upperCase("fuß"));
  EXPECT_EQ("ὀδυσσεύς", lowerCase("ὈΔΥΣΣΕΎΣ"));
  EXPECT_EQ("Łódź Harbour-Row", capitalised("łódź harbour-row"));
  EXPECT_EQ("\xff", upperCase("\xff"));
  EXPECT_EQ("xbxb", withReplaced("aabaab", "aa", "x"));
}

}  // namespace
}  // namespace iterandum::test
