// JSON: exact numbers, repeated names, places, and the value table of the formats.
#include "core/value/json.h"

#include <gtest/gtest.h>

#include <cmath>

namespace iterandum::test {
namespace {

std::string roundTrip(const std::string& json, bool anyType = false) {
  const auto node = parseJson(json);
  if (!node) return "error " + node.error().text();
  const auto value = valueFromJson(*node, "");
  if (!value) return "error " + value.error().text();
  return JsonWriter().value(*value, anyType).take();
}

TEST(JsonTest, NumbersKeepTheirDigits) {
  EXPECT_EQ("9223372036854775807", roundTrip("9223372036854775807"));
  EXPECT_EQ("18446744073709551615", roundTrip("18446744073709551615"));
  EXPECT_EQ("\"18446744073709551616\"", roundTrip("18446744073709551616"));
  EXPECT_EQ("\"0.1234567890123456789\"", roundTrip("0.1234567890123456789"));
  EXPECT_EQ("0.1", roundTrip("0.1"));
  EXPECT_EQ("2.0", roundTrip("2.0"));
  EXPECT_EQ("-0.5", roundTrip("-5e-1"));
}

TEST(JsonTest, SpecialValues) {
  EXPECT_EQ("null", roundTrip("null"));
  EXPECT_EQ("true", roundTrip("true"));
  EXPECT_EQ(R"({"base64":"AAE="})", roundTrip(R"({"base64": "AAE="})"));
  EXPECT_EQ(R"({"float":"Infinity"})", roundTrip(R"({"float":"Infinity"})", true));
  EXPECT_EQ(R"("NaN")", roundTrip(R"({"float":"NaN"})"));
  EXPECT_EQ(R"({"text":"abc"})", roundTrip(R"({"text":"abc"})", true));
  EXPECT_EQ(R"({"ref":"lime"})", roundTrip(R"({"ref":"lime"})"));
  EXPECT_EQ(R"({"text_base64":"/w=="})", JsonWriter().value(Value::text("\xff")).take());
  EXPECT_EQ("\"a\\u0000\\n\\\"\"", JsonWriter().value(Value::text(std::string("a\0\n\"", 4))).take());
}

TEST(JsonTest, WrongValuesNameThePlace) {
  EXPECT_EQ("error /base64: this is not valid base64 (RFC 4648, with padding)", roundTrip(R"({"base64":"A"})"));
  EXPECT_EQ("error a value cannot be an array", roundTrip("[1]"));
  EXPECT_EQ(0U, roundTrip(R"({"odd":1})").find("error"));
  EXPECT_EQ(0U, roundTrip("1e400000").find("error"));
}

TEST(JsonTest, BrokenDocumentsAreErrorsWithPlaces) {
  EXPECT_EQ("line 2, column 7: not valid JSON: Missing a comma or '}' after an object member.",
            parseJson("{\n\"a\":1 2}").error().text().substr(0, 200));
  EXPECT_EQ("/a/1: the name \"x\" stands here twice", parseJson(R"({"a":[0,{"x":1,"x":2}]})").error().text());
  EXPECT_FALSE(parseJson("").has_value());
  EXPECT_FALSE(parseJson("{} {}").has_value());
  EXPECT_FALSE(parseJson("\"\xff\"").has_value());
  EXPECT_FALSE(parseJson("\"\\ud800\"").has_value());
  EXPECT_FALSE(parseJson("nul").has_value());
  EXPECT_FALSE(parseJson(std::string(100000, '[')).has_value());
  EXPECT_TRUE(parseJson("\xEF\xBB\xBF{}").has_value());
}

TEST(JsonTest, PointersEscape) { EXPECT_EQ("/a~1b~0c", pointerTo("", "a/b~c")); }

TEST(JsonTest, PrettyWritingPutsRecordsOnALine) {
  JsonWriter out(true);
  out.beginObject().name("list").beginArray();
  out.compactNext().beginObject().name("a").number(1).name("b").null().endObject();
  out.compactNext().beginObject().endObject();
  out.endArray().name("empty").beginArray().endArray().endObject();
  EXPECT_EQ("{\n  \"list\": [\n    {\"a\": 1, \"b\": null},\n    {}\n  ],\n  \"empty\": []\n}", out.text());
}

}  // namespace
}  // namespace iterandum::test
