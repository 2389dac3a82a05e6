// The language of conditions: what is understood, what it means in the database, and errors that point at the place.
#include "core/scope/condition_text.h"

#include "support/test_database.h"

namespace iterandum::test {
namespace {

class ConditionTest : public EngineTest {
 protected:
  // The tags of the trees that fit, or the error.
  std::string trees(const std::string& text) {
    const Table* table = db.catalogue().find({"", "tree"});
    auto condition = parseCondition(*table, text);
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
  // Files fold letters by Unicode's full rules, servers by their own.
  EXPECT_EQ(GetParam() == Engine::Sqlite ? "T8" : "", trees("note contains GROSSE"));
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
  EXPECT_THAT(trees(""), ::testing::HasSubstr("is no column"));
}

TEST_P(ConditionTest, WordsOfTheSentence) {
  const Table* table = db.catalogue().find({"", "tree"});
  EXPECT_EQ("condition is 2 or less", conditionInWords(*parseCondition(*table, "condition <= 2")));
  EXPECT_EQ("note contains ol and height has no value",
            conditionInWords(bothHold(*parseCondition(*table, "note ol"), *parseCondition(*table, "height no value"))));
}

}  // namespace
}  // namespace iterandum::test
