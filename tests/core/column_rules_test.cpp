// What a column takes, and the words in which it says what it wants.
#include "core/catalogue/column_rules.h"

#include <gtest/gtest.h>

namespace iterandum::test {
namespace {

Column columnOf(TypeClass type) {
  Column c;
  c.name = "c";
  c.type = type;
  c.booleansAsNumbers = true;
  c.numericText = type != TypeClass::Text && type != TypeClass::Any;
  c.storesOffType = true;
  if (type == TypeClass::Decimal) c.exactDigits = 15;
  return c;
}

std::string typed(const Column& c, const char* text) {
  const auto v = typedValue(c, text);
  if (!v) return v.error().message;
  return v->isNull() ? "-" : std::to_string(static_cast<int>(v->kind())) + ":" + canonicalText(*v);
}

TEST(ColumnRulesTest, TypedNumbers) {
  Column c = columnOf(TypeClass::Integer);
  EXPECT_EQ("2:12", typed(c, "12"));
  EXPECT_EQ("2:1240", typed(c, "1 240"));
  EXPECT_EQ("2:12", typed(c, "12.0"));
  EXPECT_EQ("-", typed(c, ""));
  EXPECT_EQ("a whole number is wanted in c, not '12.5'", typed(c, "12.5"));
  EXPECT_EQ("a whole number is wanted in c, not '9999999999999999999'", typed(c, "9999999999999999999"));
  c.minimum = Value::integer(0);
  c.maximum = Value::integer(5);
  c.nullable = false;
  EXPECT_EQ("a whole number from 0 to 5 is wanted in c, not '9'", typed(c, "9"));
  EXPECT_EQ("c must have a value: the database allows no NULL there", typed(c, ""));
}

TEST(ColumnRulesTest, TypedDecimalsAreNotRounded) {
  const Column c = columnOf(TypeClass::Decimal);
  EXPECT_EQ("4:12.5", typed(c, "12.50"));
  EXPECT_EQ("2:12", typed(c, "12.00"));
  EXPECT_EQ(
      "a number is wanted in c with at most 15 digits, which is what this database keeps exactly, not "
      "'12345678901234567.89'",
      typed(c, "12345678901234567.89"));
}

TEST(ColumnRulesTest, TypedTexts) {
  Column c = columnOf(TypeClass::Text);
  EXPECT_EQ("6:", typed(c, "")) << "empty text, not NULL";
  EXPECT_EQ("6:5", typed(c, "5"));
  c.maxLength = 3;
  EXPECT_EQ("6:äöü", typed(c, "äöü"));
  EXPECT_EQ("text of at most 3 characters is wanted in c; this has 4", typed(c, "abcd"));
  c.allowed = {Value::text("sound"), Value::text("poor")};
  EXPECT_EQ("one of sound, poor is wanted in c, not 'xyz'", typed(c, "xyz"));
}

TEST(ColumnRulesTest, TypedDatesAndTimes) {
  const Column date = columnOf(TypeClass::Date);
  EXPECT_EQ("6:2026-11-25", typed(date, "2026-11-25"));
  for (const char* wrong : {"2026-02-30", "25.11.2026", "2026-1-", "2026-11-25 10:00", "today"})
    EXPECT_NE('6', typed(date, wrong)[0]) << wrong;
  EXPECT_EQ("6:2026-01-05", typed(date, "2026-1-5"));
  const Column timestamp = columnOf(TypeClass::Timestamp);
  for (const char* right : {"2026-11-25", "2026-11-25 14:05", "2026-11-25T14:05:06Z", "2026-11-25 14:05:06.25+01:00"})
    EXPECT_EQ('6', typed(timestamp, right)[0]) << right;
  EXPECT_NE('6', typed(timestamp, "2026-11-25 25:00")[0]);
}

TEST(ColumnRulesTest, TypedYesAndNo) {
  const Column c = columnOf(TypeClass::Boolean);
  EXPECT_EQ("2:1", typed(c, "yes"));
  EXPECT_EQ("2:0", typed(c, "0"));
  EXPECT_EQ("yes or no (1 or 0) is wanted in c, not '2'", typed(c, "2"));
}

TEST(ColumnRulesTest, FilesMayForceWhatLayInAColumnBefore) {
  const Column c = columnOf(TypeClass::Integer);
  EXPECT_FALSE(storedForm(c, Value::text("much")).has_value());
  const auto forced = storedForm(c, Value::ofString(Value::Kind::Other, "much"));
  ASSERT_TRUE(forced.has_value());
  EXPECT_EQ(Value::text("much"), *forced);
  EXPECT_TRUE(isOffType(c, Value::text("much")));
  EXPECT_FALSE(isOffType(c, Value::integer(3)));
}

TEST(ColumnRulesTest, AnyTypeKeepsWhatItGets) {
  const Column c = columnOf(TypeClass::Any);
  EXPECT_EQ(Value::text("5"), *storedForm(c, Value::text("5")));
  EXPECT_EQ(Value::real(5), *storedForm(c, Value::real(5)));
  EXPECT_EQ("2:5", typed(c, "5"));
}

}  // namespace
}  // namespace iterandum::test
