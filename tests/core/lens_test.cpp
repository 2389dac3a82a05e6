// Lenses: what is shown can be typed and means the same, for every value or not at all; against naive sums and against
// the calendar of the C library.
#include <cmath>
#include <ctime>
#include <fstream>
#include <limits>
#include <random>

#include "core/lenses/lens.h"
#include "core/value/decimal.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;
__extension__ using Wide = __int128;

Column columnOf(TypeClass type) {
  Column out;
  out.name = "x";
  out.type = type;
  return out;
}

Lens lensOf(LensKind kind, StoredUnit unit = StoredUnit::Second, DurationForm form = DurationForm::Words) {
  Lens out;
  out.table = "t";
  out.column = "x";
  out.kind = kind;
  out.unit = unit;
  out.form = form;
  return out;
}

Lens labelled() {
  Lens out = lensOf(LensKind::Labels);
  out.labels = {{"Y", "yes"}, {"N", "no"}, {"?", "Not known"}};
  return out;
}

std::string shown(const Lens& lens, const Column& column, const Value& value) {
  return shownThrough(lens, column, value).value_or("(as stored)");
}

std::string typed(const Lens& lens, const Column& column, const std::string& text) {
  const auto value = typedThrough(lens, column, text);
  return value ? canonicalText(*value) : "! " + value.error().message;
}

TEST(LensTest, StretchesOfTimeAreShownAndTyped) {
  const Column whole = columnOf(TypeClass::Integer);
  const Lens seconds = lensOf(LensKind::Duration);
  EXPECT_EQ("4 d", shown(seconds, whole, Value::integer(345600)));
  EXPECT_EQ("1 h 30 min", shown(seconds, whole, Value::integer(5400)));
  EXPECT_EQ("0 s", shown(seconds, whole, Value::integer(0)));
  EXPECT_EQ("-1 d 1 s", shown(seconds, whole, Value::integer(-86401)));
  EXPECT_EQ("(as stored)", shown(seconds, whole, Value::text("four days")));
  EXPECT_EQ("(as stored)", shown(seconds, whole, Value()));
  EXPECT_EQ("250 ns", shown(lensOf(LensKind::Duration, StoredUnit::Nanosecond), whole, Value::integer(250)));
  EXPECT_EQ("1.5 ms", shown(lensOf(LensKind::Duration, StoredUnit::Microsecond), whole, Value::integer(1500)));
  EXPECT_EQ("1 min 0.5 s", shown(lensOf(LensKind::Duration, StoredUnit::Millisecond), whole, Value::integer(60500)));
  EXPECT_EQ("PT1H30M",
            shown(lensOf(LensKind::Duration, StoredUnit::Minute, DurationForm::Iso), whole, Value::integer(90)));
  EXPECT_EQ("P4D",
            shown(lensOf(LensKind::Duration, StoredUnit::Second, DurationForm::Iso), whole, Value::integer(345600)));
  EXPECT_EQ("PT0S", shown(lensOf(LensKind::Duration, StoredUnit::Second, DurationForm::Iso), whole, Value::integer(0)));
  const Lens clock = lensOf(LensKind::Duration, StoredUnit::Second, DurationForm::Clock);
  EXPECT_EQ("1:30", shown(clock, whole, Value::integer(5400)));
  EXPECT_EQ("50:00:05", shown(clock, whole, Value::integer(180005)));
  for (const char* text :
       {"4 d", "4d", "4 Days", "96 h", "1 w -3 d", "P4D", "PT96H", "96:00", "3 d, 24 hours", "5760 min"}) {
    if (std::string(text) == "1 w -3 d") {
      EXPECT_THAT(typed(seconds, whole, text), HasSubstr("a stretch of time is wanted")) << text;
    } else {
      EXPECT_EQ("345600", typed(seconds, whole, text)) << text;
    }
  }
  EXPECT_EQ("-5400", typed(clock, whole, "-1:30"));
  EXPECT_EQ("0", typed(seconds, whole, "0"));
  EXPECT_EQ("77", typed(seconds, whole, "stored 77"));
  EXPECT_EQ("! 5 of what? Write 5 d, h, min or s; or 'stored 5' for what lies in x", typed(seconds, whole, "5"));
  EXPECT_EQ("! '500 ms' is no whole number of s, which x holds", typed(seconds, whole, "500 ms"));
  EXPECT_EQ("0.5", typed(seconds, columnOf(TypeClass::Decimal), "500 ms"));
  EXPECT_EQ("! '1 s' cannot be kept exactly in x (min)",
            typed(lensOf(LensKind::Duration, StoredUnit::Minute), columnOf(TypeClass::Decimal), "1 s"));
  for (const char* none : {"4 months", "d", "1:60", "1:5", "P1M", "PT", "P1DT", "PT1S2H", "4 d x", ":30", "1.5:30"})
    EXPECT_THAT(typed(seconds, whole, none), HasSubstr("a stretch of time is wanted in x, like 4 d")) << none;
}

TEST(LensTest, MomentsSayTheirZone) {
  const Column whole = columnOf(TypeClass::Integer);
  const Lens seconds = lensOf(LensKind::Moment);
  EXPECT_EQ("1970-01-01 00:00:00 UTC", shown(seconds, whole, Value::integer(0)));
  EXPECT_EQ("1969-12-31 23:59:59 UTC", shown(seconds, whole, Value::integer(-1)));
  EXPECT_EQ("(as stored)", shown(seconds, whole, Value::integer(std::numeric_limits<std::int64_t>::max())));
  EXPECT_EQ("2026-11-25 14:05:00.25 UTC",
            shown(lensOf(LensKind::Moment, StoredUnit::Millisecond), whole, Value::integer(1795615500250)));
  for (const char* text :
       {"2026-11-25 14:05:00 UTC", "2026-11-25 14:05", "2026-11-25T14:05:00Z", "2026-11-25 16:05+02:00"})
    EXPECT_EQ("1795615500", typed(seconds, whole, text)) << text;
  EXPECT_EQ("1795564800", typed(seconds, whole, "2026-11-25"));
  EXPECT_THAT(typed(seconds, whole, "14:05"), HasSubstr("a day or a moment is wanted in x"));
  EXPECT_THAT(typed(seconds, whole, "2026-02-30"), HasSubstr("a day or a moment is wanted in x"));
  EXPECT_THAT(typed(seconds, whole, "2026-11-25 14:05:00.5"), HasSubstr("is no whole number of s"));
  Lens days = lensOf(LensKind::Moment, StoredUnit::Day);
  days.since = "1899-12-30";
  EXPECT_EQ("2026-11-25", shown(days, whole, Value::integer(46351)));
  EXPECT_EQ("46351", typed(days, whole, "2026-11-25"));
  EXPECT_EQ("2026-11-25 12:00:00 UTC", shown(days, columnOf(TypeClass::Decimal), Value::decimal("46351.5")));
}

TEST(LensTest, LabelsFactorsFlagsAndMasks) {
  const Column text = columnOf(TypeClass::Text);
  EXPECT_EQ("yes", shown(labelled(), text, Value::text("Y")));
  EXPECT_EQ("(as stored)", shown(labelled(), text, Value::text("yes"))) << "a value that lies there is not its label";
  EXPECT_EQ("(as stored)", shown(labelled(), text, Value::text("y")));
  for (const char* label : {"yes", "YES", "Y"}) EXPECT_EQ("Y", typed(labelled(), text, label)) << label;
  EXPECT_EQ("yes", typed(labelled(), text, "stored yes"));
  EXPECT_EQ("yes ", typed(labelled(), text, "stored yes ")) << "to its last blank";
  EXPECT_THAT(typed(labelled(), text, "perhaps"), HasSubstr("one of yes, no, Not known is wanted in x"));
  Lens metres = lensOf(LensKind::Factor);
  metres.factor = "0.001";
  metres.behind = "m";
  const Column whole = columnOf(TypeClass::Integer);
  EXPECT_EQ("1.24 m", shown(metres, whole, Value::integer(1240)));
  for (const char* said : {"1.24 m", "1.24m", "1.24", "1.240"}) EXPECT_EQ("1240", typed(metres, whole, said)) << said;
  EXPECT_THAT(typed(metres, whole, "1.2345 m"), HasSubstr("is no whole number of 0.001 m"));
  EXPECT_THAT(typed(metres, whole, "1 mile"), HasSubstr("a number of m is wanted in x"));
  Lens flags = lensOf(LensKind::Flags);
  flags.bits = {"street", "park", "", "private"};
  EXPECT_EQ("street, private", shown(flags, whole, Value::integer(9)));
  EXPECT_EQ("none", shown(flags, whole, Value::integer(0)));
  EXPECT_EQ("(as stored)", shown(flags, whole, Value::integer(4))) << "a bit without a name";
  EXPECT_EQ("(as stored)", shown(flags, whole, Value::integer(-1)));
  EXPECT_EQ("9", typed(flags, whole, "Private; street"));
  EXPECT_EQ("0", typed(flags, whole, "None"));
  EXPECT_THAT(typed(flags, whole, "forest"), HasSubstr("names of street, park, private, or none, are wanted in x"));
  const Lens mask = lensOf(LensKind::Masked);
  const std::string dots = shown(mask, text, Value::text("secret"));
  EXPECT_EQ(std::string::npos, dots.find("secret"));
  EXPECT_THAT(typed(mask, text, dots), HasSubstr("the dots stand for what is masked"));
  EXPECT_EQ("new", typed(mask, text, "new"));
}

// What is shown, as simply as it can be said; in nanoseconds.
std::string naive(Wide total, DurationForm form) {
  const std::string sign = total < 0 ? "-" : "";
  if (total < 0) total = -total;
  const auto number = [](Wide n) {
    std::string out;
    do out.insert(out.begin(), static_cast<char>('0' + static_cast<int>(n % 10)));
    while ((n /= 10) > 0);
    return out;
  };
  const auto two = [&](const std::string& digits) {
    return (digits.find('.') == 1 || digits.size() == 1 ? "0" : "") + digits;
  };
  constexpr Wide kSecond = 1'000'000'000;
  std::string fraction = number(total % kSecond + kSecond).substr(1);
  while (!fraction.empty() && fraction.back() == '0') fraction.pop_back();
  const std::string seconds = number(total / kSecond % 60) + (fraction.empty() ? "" : "." + fraction);
  const Wide hours = total / kSecond / 3600;
  const std::string minutes = number(total / kSecond / 60 % 60);
  if (form == DurationForm::Clock)
    return sign + number(hours) + ":" + two(minutes) + (seconds == "0" ? "" : ":" + two(seconds));
  const std::string days = number(hours / 24);
  std::string time;
  const auto add = [&](const std::string& n, const char* unit) {
    if (n != "0") time += n + unit;
  };
  add(number(hours % 24), "H");
  add(minutes, "M");
  add(seconds, "S");
  if (time.empty() && days == "0") time = "0S";
  return sign + "P" + (days == "0" ? "" : days + "D") + (time.empty() ? "" : "T" + time);
}

std::int64_t anyNumber(std::mt19937_64& random) {
  constexpr auto kLeast = std::numeric_limits<std::int64_t>::min();
  switch (random() % 8) {
    case 0:
      return kLeast;
    case 1:
      return std::numeric_limits<std::int64_t>::max();
    case 2:
      return static_cast<std::int64_t>(random() % 100000);
    default:
      return static_cast<std::int64_t>(random() >> (random() % 62)) * (random() % 2 == 0 ? 1 : -1);
  }
}

TEST(LensTest, WhatIsShownOfATimeIsWhatItIsAndMeansTheSame) {
  std::mt19937_64 random(14);
  constexpr Wide kOf[] = {1, 1000, 1000000, 1000000000, 60000000000, 3600000000000, 86400000000000};
  const Column whole = columnOf(TypeClass::Integer);
  for (int round = 0; round < 10000; ++round) {
    const auto unit = static_cast<StoredUnit>(random() % 7);
    const auto form = static_cast<DurationForm>(random() % 3);
    const std::int64_t n = anyNumber(random);
    const Lens lens = lensOf(LensKind::Duration, unit, form);
    const auto text = shownThrough(lens, whole, Value::integer(n));
    ASSERT_TRUE(text) << n;
    if (form != DurationForm::Words) {
      ASSERT_EQ(naive(Wide(n) * kOf[static_cast<int>(unit)], form), *text) << n;
    }
    const auto back = typedThrough(lens, whole, *text);
    ASSERT_TRUE(back && sameValue(*back, Value::integer(n))) << n << " " << *text;
  }
}

TEST(LensTest, MomentsAreThoseOfTheCalendar) {
  std::mt19937_64 random(15);
  const Column whole = columnOf(TypeClass::Integer);
  for (int round = 0; round < 10000; ++round) {
    // From the year 1 to the end of 9999, and a little beyond.
    const std::int64_t n = static_cast<std::int64_t>(random() % 316'000'000'000) - 62'200'000'000;
    const std::time_t moment = n;
    std::tm parts{};
    gmtime_r(&moment, &parts);
    char form[64];
    std::snprintf(form, sizeof form, "%04d-%02d-%02d %02d:%02d:%02d UTC", parts.tm_year + 1900, parts.tm_mon + 1,
                  parts.tm_mday, parts.tm_hour, parts.tm_min, parts.tm_sec);
    const bool inside = parts.tm_year + 1900 >= 1 && parts.tm_year + 1900 <= 9999;
    const Lens lens = lensOf(LensKind::Moment);
    ASSERT_EQ(inside ? form : "(as stored)", shown(lens, whole, Value::integer(n)));
    if (inside) {
      ASSERT_EQ(std::to_string(n), typed(lens, whole, form));
    }
  }
}

// Whatever the lens and the value: it comes back, or is not shown.
TEST(LensTest, WhatIsShownMeansTheSameOrIsNotShown) {
  std::mt19937_64 random(16);
  const std::vector<Column> columns{columnOf(TypeClass::Integer), columnOf(TypeClass::Real),
                                    columnOf(TypeClass::Decimal), columnOf(TypeClass::Text)};
  std::size_t seen = 0;
  for (int round = 0; round < 10000; ++round) {
    Lens lens = lensOf(static_cast<LensKind>(random() % 5), static_cast<StoredUnit>(random() % 7),
                       static_cast<DurationForm>(random() % 3));
    if (lens.kind == LensKind::Moment && (lens.unit == StoredUnit::Minute || lens.unit == StoredUnit::Hour)) continue;
    if (lens.kind == LensKind::Labels) lens.labels = {{"1", "one"}, {"-7", "least"}, {"2.50", "half"}};
    if (lens.kind == LensKind::Factor) {
      const char* factors[] = {"0.001", "1000", "2.5", "-3", "0.7"};
      lens.factor = factors[random() % 5];
      lens.behind = random() % 2 == 0 ? "" : "m";
    }
    if (lens.kind == LensKind::Flags) lens.bits = {"a", "", "b", "c"};
    const Column& column = columns[random() % columns.size()];
    if (!lensUnsuited(lens, column).empty() || !lensUnsound(lens).empty()) continue;
    Value value = Value::integer(anyNumber(random));
    if (column.type == TypeClass::Real)
      value = Value::real(std::ldexp(static_cast<double>(random() % 100000), static_cast<int>(random() % 40) - 30));
    if (column.type == TypeClass::Decimal)
      value = Value::decimal(std::to_string(anyNumber(random)) + "." + std::to_string(random() % 1000));
    if (column.type == TypeClass::Text) value = Value::text(random() % 2 == 0 ? "1" : "one");
    if (random() % 4 == 0 && column.type == TypeClass::Integer)
      value = Value::integer(static_cast<std::int64_t>(random() % 14));
    const auto text = shownThrough(lens, column, value);
    if (!text) continue;
    ++seen;
    const auto back = typedThrough(lens, column, *text);
    ASSERT_TRUE(back) << *text << ": " << back.error().message;
    ASSERT_EQ(0, compareValues(*back, value)) << *text << ": " << canonicalText(value) << ", " << canonicalText(*back);
  }
  EXPECT_GT(seen, 2500U);
}

TEST(LensTest, ADocumentComesBackAndWhatIsWrongInOneIsNamed) {
  Lens metres = lensOf(LensKind::Factor);
  metres.column = "girth";
  metres.factor = "0.001";
  metres.behind = "m";
  Lens days = lensOf(LensKind::Moment, StoredUnit::Day);
  days.column = "day";
  days.since = "1899-12-30";
  Lens flags = lensOf(LensKind::Flags);
  flags.column = "flags";
  flags.bits = {"street", "", "park"};
  Lens mask = lensOf(LensKind::Masked);
  mask.table = "\"odd.name\"";
  const std::vector<Lens> all{lensOf(LensKind::Duration, StoredUnit::Minute, DurationForm::Clock), metres, days, flags,
                              mask};
  const auto back = lensesFromJson(lensesToJson(all));
  ASSERT_TRUE(back) << back.error().text();
  ASSERT_EQ(all.size(), back->size());
  for (std::size_t i = 0; i < all.size(); ++i) EXPECT_EQ(all[i], (*back)[i]) << i;

  std::ifstream in(std::string(TEST_DATA) + "/../../docs/formats.md");
  const std::string formats{std::istreambuf_iterator<char>(in), {}};
  const std::size_t from = formats.find("```json", formats.find("## Lenses")) + 7;
  const auto described = lensesFromJson(formats.substr(from, formats.find("```", from) - from));
  ASSERT_TRUE(described) << described.error().text();
  EXPECT_EQ(6U, described->size());

  const auto wrong = [](const std::string& lens) {
    const auto read = lensesFromJson(R"({"format": "iterandum-lenses", "version": 1, "lenses": [)" + lens + "]}");
    return read ? std::string("read") : read.error().place + ": " + read.error().message;
  };
  EXPECT_EQ("/lenses/0/kind: one of duration, moment, labels, factor, flags, masked is wanted here, not 'x'",
            wrong(R"({"table": "t", "column": "c", "kind": "x"})"));
  EXPECT_THAT(wrong(R"({"table": "t", "column": "c", "kind": "duration", "unit": "s", "factor": "2"})"),
              HasSubstr("/lenses/0/factor"));
  EXPECT_THAT(wrong(R"({"table": "t", "column": "c", "kind": "factor", "factor": "0"})"), HasSubstr("not nought"));
  EXPECT_THAT(wrong(R"({"table": "t", "column": "c", "kind": "moment", "unit": "h"})"), HasSubstr("counted in ns"));
  EXPECT_THAT(
      wrong(
          R"({"table": "t", "column": "c", "kind": "labels", "labels": [{"stored": "a", "shown": "b"}, {"stored": "b", "shown": "c"}]})"),
      HasSubstr("'b' is the label of one code and is a code itself"));
  EXPECT_THAT(
      wrong(R"({"table": "t", "column": "c", "kind": "labels", "labels": [{"stored": "a", "shown": "stored b"}]})"),
      HasSubstr("says something else"));
  EXPECT_THAT(wrong(R"({"table": "t", "column": "c", "kind": "flags", "bits": ["a", "A"]})"),
              HasSubstr("cannot be told"));
  EXPECT_THAT(
      wrong(R"({"table": "t", "column": "c", "kind": "masked"}, {"table": "t", "column": "c", "kind": "masked"})"),
      HasSubstr("/lenses/1: there is a lens for t.c already"));
  EXPECT_EQ("/format: 'iterandum-rules' is not iterandum-lenses",
            lensesFromJson(R"({"format": "iterandum-rules", "version": 1, "lenses": []})").error().text());
}

TEST(LensTest, WhatAColumnSpeaksForIsOffered) {
  Table table;
  table.name = {"", "tree"};
  const auto likeliest = [&](const char* name, TypeClass type, std::vector<Value> some) {
    Column column = columnOf(type);
    column.name = name;
    const auto offers = likelyLenses(table, column, some);
    if (offers.empty()) return std::string("none");
    const auto text = lensesToJson({offers.front()});
    const auto from = text.find("\"kind\"");
    return text.substr(from, text.find('}', from) - from);
  };
  const auto whole = TypeClass::Integer;
  EXPECT_THAT(likeliest("watering_every_s", whole, {Value::integer(345600)}), HasSubstr(R"("duration", "unit": "s")"));
  EXPECT_THAT(likeliest("took_ms", whole, {}), HasSubstr(R"("unit": "ms")"));
  EXPECT_THAT(likeliest("done_at_epoch", whole, {Value(), Value::integer(1700000000)}),
              HasSubstr(R"("moment", "unit": "s")"));
  EXPECT_THAT(likeliest("seen_ms", whole, {Value::integer(1700000000000)}), HasSubstr(R"("moment", "unit": "ms")"));
  EXPECT_THAT(likeliest("girth_mm", whole, {Value::integer(5)}), HasSubstr(R"("factor": "0.001", "behind": "m")"));
  EXPECT_THAT(likeliest("felled", TypeClass::Text, {Value::text("Y"), Value::text("N")}), HasSubstr("labels"));
  EXPECT_EQ("none", likeliest("felled", TypeClass::Text, {Value::text("Y"), Value::text("N"), Value::text("yes")}));
  EXPECT_EQ("none", likeliest("streets", TypeClass::Text, {Value::text("a")}));
  EXPECT_EQ("none", likeliest("condition", whole, {Value::integer(3)}));
}

}  // namespace
}  // namespace iterandum::test
