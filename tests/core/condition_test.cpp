// The language of conditions: what is understood, what it means in the database, and errors that point at the place.
#include "core/scope/column_path.h"
#include "core/scope/condition_text.h"
#include "core/scope/period.h"

#include "support/test_database.h"

namespace iterandum::test {
namespace {

class ConditionTest : public EngineTest {
 protected:
  // The tags of the trees that fit, or the error.
  std::string trees(const std::string& text) {
    const Table* table = db.catalogue().find({"", "tree"});
    auto condition = parseCondition(*table, text, context());
    if (!condition) return condition.error().text();
    Query query;
    query.table = table;
    query.columns = {"tag"};
    query.where = *condition;
    std::string out;
    Progress progress;
    const Status status = db.session().select(
        query,
        [&](ValueTuple&& row) {
          out += (out.empty() ? "" : " ") + canonicalText(row[0]);
          return true;
        },
        progress);
    const auto count = db.session().count(query, progress);
    EXPECT_TRUE(count && *count == static_cast<std::uint64_t>(std::count(out.begin(), out.end(), 'T')));
    return status ? out : status.error().text();
  }
  // The words of the sentence, or the error.
  std::string words(const std::string& text) {
    const Table& tree = *db.catalogue().find({"", "tree"});
    auto condition = parseCondition(tree, text, context());
    return condition ? conditionInWords(tree, *condition) : condition.error().text();
  }
  ConditionContext context() {
    using namespace std::chrono;
    return {&db.catalogue(), sys_days(2026y / November / 26)};
  }
  TestDatabase db{smallRegister(GetParam()), GetParam()};
};
ITERANDUM_ON_ALL_ENGINES(ConditionTest);

TEST_P(ConditionTest, Comparisons) {
  EXPECT_EQ("T7 T8", trees("condition <= 2"));
  EXPECT_EQ("T9", trees("condition > 2"));
  EXPECT_EQ("T9", trees("condition=4"));
  EXPECT_EQ("T7 T8", trees("condition is not 4"));
  EXPECT_EQ("T8", trees("height < 12.5"));
  EXPECT_EQ("T7", trees("tag = T7"));
  EXPECT_EQ("", trees("tag = t7")) << "equal is exact";
}

TEST_P(ConditionTest, NoValueAndEmptyTextAreTwoThings) {
  EXPECT_EQ("T8", trees("note no value"));
  EXPECT_EQ("T8", trees("note is null"));
  EXPECT_EQ("T9", trees("note = ''"));
  EXPECT_EQ("T7 T9", trees("note has a value"));
  EXPECT_EQ("T8 T9", trees("note != old")) << "who asks for others than old wants to see those without a value";
}

TEST_P(ConditionTest, PartsOfATextWithoutRegardToCase) {
  db.run("UPDATE tree SET note = 'Große ÄSTE' WHERE tree_id = 8");
  EXPECT_EQ("T7", trees("note OL"));
  EXPECT_EQ("T8", trees("note contains äste"));
  EXPECT_EQ("", trees("note contains GROSSE")) << "letter by letter, on every engine";
  EXPECT_EQ("T8", trees("note starts gro"));
  EXPECT_EQ("T7", trees("note ends 'D'"));
  EXPECT_EQ("", trees("note contains '%'")) << "no wildcards";
}

TEST_P(ConditionTest, OperatorsCanBeQuoted) {
  db.run("UPDATE tree SET note = '>= 3' WHERE tree_id = 7; UPDATE tree SET note = 'no value' WHERE tree_id = 8");
  EXPECT_EQ("T7", trees("note '>= 3'"));
  EXPECT_EQ("T8", trees("note = 'no value'"));
}

TEST_P(ConditionTest, MistakesPointAtThePlace) {
  EXPECT_THAT(trees("colour = 3"),
              ::testing::StartsWith("position 1: 'colour' is no column of tree; it has tree_id, tag"));
  EXPECT_EQ("position 12: a whole number is wanted in condition, not 'much'",
            trees("condition = much").replace(0, 11, "position 12").substr(0, 200));
  EXPECT_THAT(trees("condition"), ::testing::HasSubstr("a condition is wanted after the column"));
  EXPECT_THAT(trees("note = 'open"), ::testing::StartsWith("position 8: the quote that opens here is not closed"));
  EXPECT_THAT(trees("condition >="), ::testing::HasSubstr("a value is wanted here"));
  EXPECT_THAT(trees(""), ::testing::HasSubstr("a column of tree is wanted here: tree_id, tag"));
}

TEST_P(ConditionTest, AndOrNotAndBrackets) {
  EXPECT_EQ("T7 T9", trees("condition = 4 or tag = T7"));
  EXPECT_EQ("T8", trees("condition <= 2 and note no value"));
  EXPECT_EQ("T8 T9", trees("tag = T8 or T9")) << "the second is about the same column";
  EXPECT_EQ("T7", trees("not (condition = 4 or note no value)"));
  EXPECT_EQ("T8 T9", trees("(condition = 4 and note = '') or (condition = 2 and height < 10)"));
  EXPECT_EQ("T8 T9", trees("not note = old")) << "what has no value is not old";
  EXPECT_EQ("T7 T8 T9", trees("tag T7 or T8 or T9"));
  EXPECT_EQ("T9", trees("tag != T7 and T8"));
  EXPECT_THAT(trees("tag is not T7 or T8"), ::testing::HasSubstr("can be read in two ways"));
  EXPECT_EQ("T7 T9", trees("condition > 3 or tag T7"));
}

TEST_P(ConditionTest, NotBehindAColumnIsTheSameAsInItsCell) {
  EXPECT_EQ("T7 T8", trees("species.name not oak"));
  EXPECT_EQ("T9", trees("condition not 2"));
  EXPECT_EQ("T8 T9", trees("note not old")) << "what has no value does not hold it";
  EXPECT_EQ("", trees("note 'not old'")) << "quoted, it is a text";
  EXPECT_EQ("T9", trees("condition not 2 and tag not T7"));
}

TEST_P(ConditionTest, RangesListsAndPatterns) {
  EXPECT_EQ("T7 T8", trees("height between 9 and 12.5"));
  EXPECT_EQ("T7 T8", trees("height 9 .. 12.5"));
  EXPECT_EQ("T9", trees("height 13.."));
  EXPECT_EQ("T9", trees("height is not between 1 and 13"));
  EXPECT_EQ("T7 T9", trees("tag in (T7, T9, 'T 10')"));
  EXPECT_EQ("T8", trees("tag not in (T7, T9)"));
  EXPECT_EQ("T8 T9", trees("note one of '', no value"));
  EXPECT_EQ("T7 T8 T9", trees("tag like t?"));
  EXPECT_EQ("", trees("tag like exactly t?"));
  EXPECT_EQ("T7", trees("note like *LD"));
  EXPECT_EQ("", trees("note like \\*"));
  EXPECT_EQ("T8 T9", trees("note does not contain ol"));
  EXPECT_EQ("", trees("note contains exactly OL"));
  db.run("UPDATE tree SET note = 'a[b%_*' WHERE tree_id = 8");
  EXPECT_EQ("T8", trees("note like 'A[B%_\\*'")) << "what is special to an engine is not special here";
}

TEST_P(ConditionTest, TextsAreOrderedByLettersWhateverTheCollation) {
  db.run(
      "UPDATE tree SET note = 'Zander' WHERE tree_id = 7; UPDATE tree SET note = 'apfel' WHERE tree_id = 8;"
      "UPDATE tree SET note = 'Apfel b' WHERE tree_id = 9");
  EXPECT_EQ("T8 T9", trees("note < b"));
  EXPECT_EQ("T7", trees("note >= APFEL and note > 'apfel b'"));
  EXPECT_EQ("T8 T9", trees("note between A and M"));
}

TEST_P(ConditionTest, ColumnsOfTheSameRecordAreCompared) {
  EXPECT_EQ("T8 T9", trees("height > [condition] and tag != T7"));
  EXPECT_EQ("", trees("condition = [height]"));
  EXPECT_THAT(trees("condition = [tag]"), ::testing::HasSubstr("hold values of different kinds"));
  EXPECT_THAT(trees("condition = [girth]"), ::testing::StartsWith("position 13: 'girth' is no column of tree"));
}

TEST_P(ConditionTest, DaysAreSaidAsPeopleSayThem) {
  const auto inspections = [&](const std::string& text) {
    return trees("any inspection where (inspected_on " + text + ")");
  };
  EXPECT_EQ("T7 T9", inspections("2025"));
  EXPECT_EQ("T7", inspections("this year"));
  EXPECT_EQ("T7 T9", inspections("last year"));
  EXPECT_EQ("T7", inspections("= 2025-03"));
  EXPECT_EQ("T9", inspections("> 2025-03 and < 2026"));
  EXPECT_EQ("T7", inspections("<= 2025-03"));
  EXPECT_EQ("T7", inspections("between 2025-01 and 2025-03"));
  EXPECT_EQ("T7", inspections("last 12 months"));
  EXPECT_EQ("", inspections("last 30 days"));
  EXPECT_EQ("T7 T9", inspections("< today"));
  EXPECT_EQ("T9", inspections("> 20 months ago and < 2026-03"));
  EXPECT_EQ("T7", inspections("2026-03-02"));
}

TEST_P(ConditionTest, ThroughReferences) {
  EXPECT_EQ("T7 T8", trees("species.name = lime"));
  EXPECT_EQ("T9", trees("species_id.name OA"));
  EXPECT_EQ("T9", trees("species.name is not lime"));
  EXPECT_EQ("T7 T8 T9", trees("species.name oa or li and condition 2"));
  EXPECT_EQ("T7 T8", trees("(species.name oa or li) and condition 2"));
  db.run("UPDATE photo SET tree_id = NULL WHERE photo_id = 2");
  const Table* photo = db.catalogue().find({"", "photo"});
  const auto photos = [&](const std::string& text) {
    auto condition = parseCondition(*photo, text, context());
    if (!condition) return condition.error().text();
    Progress progress;
    const auto count = db.session().count({photo, {}, *condition, {}, {}}, progress);
    return count ? std::to_string(*count) : count.error().text();
  };
  EXPECT_EQ("1", photos("tree.species.name = lime"));
  EXPECT_EQ("1", photos("tree.species.name is not lime")) << "a photo of no tree is of no lime";
  EXPECT_EQ("1", photos("tree.note no value"));
  EXPECT_EQ("1", photos("tree.tag has a value"));
  EXPECT_THAT(trees("specie.name = x"), ::testing::HasSubstr("'specie' is no reference of tree; it points at species"));
  EXPECT_THAT(trees("species.colour = x"), ::testing::HasSubstr("'colour' is no column of species"));
}

TEST_P(ConditionTest, RecordsThatPointHere) {
  EXPECT_EQ("T8", trees("no inspection"));
  EXPECT_EQ("T7 T9", trees("any inspection"));
  EXPECT_EQ("T7", trees("count of inspection >= 2"));
  EXPECT_EQ("T8 T9", trees("count of inspection < 2"));
  EXPECT_EQ("T8 T9", trees("no inspection where (grade = poor or grade = sound)"));
  EXPECT_EQ("T7", trees("condition 2 and any photo"));
  EXPECT_THAT(trees("count of species > 1"), ::testing::HasSubstr("'species' is no table that points at tree"));
  EXPECT_THAT(trees("no inspection where (colour = 3)"), ::testing::HasSubstr("'colour' is no column of inspection"));
}

TEST_P(ConditionTest, AFilterCellIsAboutItsColumn) {
  const Table& tree = *db.catalogue().find({"", "tree"});
  const auto cell = [&](const char* column, const std::string& text) {
    const auto condition = parseColumnCondition(tree, {{}, column}, text, context());
    return condition ? conditionInWords(tree, *condition) : condition.error().text();
  };
  EXPECT_EQ("", cell("note", "  "));
  EXPECT_EQ("note contains ol or note has no value", cell("note", "ol or no value"));
  EXPECT_EQ("condition is 2 or less and height is above 9", cell("condition", "<= 2 and height > 9"));
  EXPECT_EQ("note contains 'no value added'", cell("note", "no value added"));
  EXPECT_EQ("note contains 'O''Brien (junior), twice'", cell("note", "O'Brien (junior), twice"));
  EXPECT_EQ("note contains tag", cell("note", "tag")) << "a word alone is a text, though a column is called so";
  EXPECT_EQ("condition is not 3", cell("condition", "not 3"));
  EXPECT_EQ("note does not contain x", cell("note", "not x"));
  EXPECT_EQ("position 4: nothing is left open that this would close", cell("condition", "<=2)"));
}

TEST_P(ConditionTest, WordsOfTheSentence) {
  EXPECT_EQ("condition is 2 or less", words("condition <= 2"));
  EXPECT_EQ("note contains ol and height has no value", words("note ol and height no value"));
  EXPECT_EQ("(tag is T7 or tag is T8) and note is not like a*", words("(tag = T7 or T8) and note is not like a*"));
  EXPECT_EQ("height is between 9 and 12.5", words("height between 9 and 12.5"));
  EXPECT_EQ("tag is one of T7, T8", words("tag in (T7, T8)"));
  EXPECT_EQ("species.name is not lime", words("species.name != lime"));
  EXPECT_EQ("no inspection where inspected_on is this year", words("no inspection where (inspected_on this year)"));
  EXPECT_EQ("number of inspection is 2 or more", words("count of inspection >= 2"));
  EXPECT_EQ("height is above [condition]", words("height > [condition]"));
}

TEST_P(ConditionTest, TheDifferentValuesOfAColumnWithHowManyHaveThem) {
  db.run("UPDATE tree SET note = 'Old' WHERE tree_id = 9");
  const auto values = [&](const char* table, const char* column, const std::string& where, std::uint64_t most) {
    Query query;
    query.table = db.catalogue().find({"", table});
    if (!where.empty()) query.where = *parseCondition(*query.table, where, context());
    std::vector<std::string> out;
    Progress progress;
    const Status status = db.session().distinctValues(
        query, *readColumnPath(*query.table, column, &db.catalogue()), most,
        [&](Value&& v, std::uint64_t n) {
          out.push_back((v.isNull() ? "-" : canonicalText(v)) + ":" + std::to_string(n));
          return true;
        },
        progress);
    EXPECT_TRUE(status.has_value());
    // Those that are equally common come in the database's own order.
    std::sort(out.begin(), out.end());
    return ::testing::PrintToString(out);
  };
  using Strings = std::vector<std::string>;
  EXPECT_EQ(::testing::PrintToString(Strings{"2:2", "4:1"}), values("tree", "condition", "", 10));
  EXPECT_EQ(::testing::PrintToString(Strings{"2:2"}), values("tree", "condition", "", 1)) << "the commonest";
  EXPECT_EQ(::testing::PrintToString(Strings{"-:1", "Old:1", "old:1"}), values("tree", "note", "", 10));
  EXPECT_EQ(::testing::PrintToString(Strings{"2:2"}), values("tree", "condition", "species.name = lime", 10));
  EXPECT_EQ(::testing::PrintToString(Strings{"lime:2", "oak:1"}), values("tree", "species.name", "", 10)) << "borrowed";
}

TEST_P(ConditionTest, WhatIsNestedWithoutEndIsRefused) {
  EXPECT_THAT(trees(std::string(1000, '(') + "tag = T7"), ::testing::HasSubstr("nested too deep"));
  std::string nots;
  for (int i = 0; i < 1000; ++i) nots += "not ";
  EXPECT_THAT(trees(nots + "tag = T7"), ::testing::HasSubstr("nested too deep"));
}

TEST(PeriodTest, StretchesOfDays) {
  using namespace std::chrono;
  const sys_days today = 2026y / November / 26;  // a Thursday
  struct {
    const char* said;
    const char* from;
    const char* to;
  } const cases[] = {
      {"today", "2026-11-26", "2026-11-27"},        {"Yesterday", "2026-11-25", "2026-11-26"},
      {"this week", "2026-11-23", "2026-11-30"},    {"last week", "2026-11-16", "2026-11-23"},
      {"next month", "2026-12-01", "2027-01-01"},   {"last year", "2025-01-01", "2026-01-01"},
      {"last 7 days", "2026-11-20", "2026-11-27"},  {"next 2 weeks", "2026-11-27", "2026-12-11"},
      {"9 months ago", "2026-02-26", "2026-02-27"}, {"in 3 months", "2027-02-26", "2027-02-27"},
      {"2024", "2024-01-01", "2025-01-01"},         {"2024-02", "2024-02-01", "2024-03-01"},
      {"2024-02-29", "2024-02-29", "2024-03-01"},
  };
  for (const auto& c : cases) {
    const auto period = periodOf(c.said, today);
    ASSERT_TRUE(period.has_value()) << c.said;
    EXPECT_EQ(c.from, isoDay(period->from)) << c.said;
    EXPECT_EQ(c.to, isoDay(period->to)) << c.said;
  }
  EXPECT_EQ("2024-02-29", isoDay(periodOf("1 month ago", sys_days(2024y / March / 31))->from))
      << "the month's last day";
  for (const char* none :
       {"", "todays", "this days", "last x days", "2024-13", "2023-02-29", "last 999999999 years", "ago"}) {
    EXPECT_FALSE(periodOf(none, today).has_value()) << none;
  }
}

}  // namespace
}  // namespace iterandum::test
