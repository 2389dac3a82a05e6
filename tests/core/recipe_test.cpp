// Recipes: as a document there and back, broken ones refused with their place, questions answered, and the opposite.
#include "core/acts/recipe.h"

#include <gmock/gmock.h>

#include <random>

#include "core/acts/record_acts.h"
#include "core/store/store.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;

Recipe everything() {
  Recipe recipe;
  recipe.name = "spring \"round\"";
  recipe.table = "tree";
  recipe.scope = Scope{"tree", {{"", "condition > 2"}, {"note", "old"}}, {{"tag", true, false, false}}, {"tag"}};
  recipe.questions = {{"grade", "New grade", RecipeQuestion::Kind::Number, "3"},
                      {"when", "", RecipeQuestion::Kind::Day, std::nullopt},
                      {"word", "", RecipeQuestion::Kind::Text, ""}};
  recipe.acts.resize(5);
  recipe.acts[0] = {Act::Kind::To, "condition", "{grade}", {}, {}, false, {}};
  recipe.acts[1] = {Act::Kind::Clear, "note", {}, {}, {}, false, {}};
  recipe.acts[2] = {Act::Kind::Compute, "note", "{word} & year({when}) & {grade} + 1", {}, {}, false, {}};
  recipe.acts[3] = {Act::Kind::Replace, "note", "{word}|x{y}", "$1", Act::Where::Pattern, true, {}};
  recipe.acts[4] = {
      Act::Kind::Map, "condition", {}, {}, {}, false, {{"1", "2"}, {std::nullopt, ""}, {"{grade}", std::nullopt}}};
  return recipe;
}

TEST(RecipeTest, GoesThereAndBackAsADocument) {
  const Recipe recipe = everything();
  const auto again = recipeFromJson(recipeToJson(recipe));
  ASSERT_TRUE(again.has_value()) << again.error().text();
  EXPECT_EQ(recipe, *again);
}

TEST(RecipeTest, ABrokenDocumentIsRefusedWithItsPlace) {
  const std::string whole = recipeToJson(everything());
  const auto refused = [&](const std::string& part, const std::string& other, const std::string& what) {
    std::string document = whole;
    ASSERT_NE(std::string::npos, document.find(part)) << part;
    document.replace(document.find(part), part.size(), other);
    const auto read = recipeFromJson(document);
    ASSERT_FALSE(read.has_value()) << other;
    EXPECT_EQ(ErrorKind::InvalidFile, read.error().kind);
    EXPECT_THAT(read.error().text(), HasSubstr(what));
  };
  refused("\"version\": 1", "\"version\": 2", "/version");
  refused("iterandum-recipe", "iterandum-scope", "/format");
  refused("\"compute\"", "\"conjure\"", "/acts/2/act: 'conjure' is none of to, clear");
  refused("\"find\"", "\"seek\"", "/acts/3/seek");
  refused("\"pattern\"", "\"somewhere\"", "/acts/3/where");
  refused("[null, \"\"]", "[null]", "/acts/4/map/1");
  refused("\"number\"", "\"amount\"", "/asks/0/kind");
  refused("condition > 2\"", "condition > 2\", \"more\": 1", "/scope/where/0/more");
  // Cut off anywhere, it is refused and nothing else happens.
  for (std::size_t end = 0; end + 2 < whole.size(); end += 7) EXPECT_FALSE(recipeFromJson(whole.substr(0, end))) << end;
}

TEST(RecipeTest, QuestionsAreAnsweredOrSaidToBeOpen) {
  const Recipe recipe = everything();
  EXPECT_THAT(answered(recipe, {}).error().message, HasSubstr("asks for 'when'"));
  EXPECT_THAT(answered(recipe, {{"when", "soon"}}).error().message, HasSubstr("a day like"));
  EXPECT_THAT(answered(recipe, {{"when", "2026-03-01"}, {"grade", "x"}}).error().message,
              HasSubstr("a number is wanted"));
  EXPECT_THAT(answered(recipe, {{"colour", "red"}}).error().message, HasSubstr("does not ask for 'colour'"));
  const auto ready = answered(recipe, {{"when", "2026-03-01"}, {"word", "{grade}"}});
  ASSERT_TRUE(ready.has_value());
  EXPECT_EQ("3", ready->acts[0].text);
  EXPECT_EQ("{word} & year({when}) & {grade} + 1", ready->acts[2].text);
  // An answer is no question again, and other braces stay.
  EXPECT_EQ("{grade}|x{y}", ready->acts[3].text);
  EXPECT_EQ("3", ready->acts[4].map[2].first);
  TestDatabase db(kSmallRegister);
  RecordNeeds needs;
  const auto expression = Expression::parse(*db.catalogue().find({"", "tree"}), recipe.acts[2].text,
                                            ready->context(expressionContextNow(contextNow(db.catalogue()))), needs);
  EXPECT_FALSE(expression->of({}).has_value());  // a text and a number
  EXPECT_EQ("{grade}20264",
            textOf(*Expression::parse(*db.catalogue().find({"", "tree"}), "{word} & year({when}) & ({grade} + 1)",
                                      ready->context(expressionContextNow(contextNow(db.catalogue()))), needs)
                        ->of({})));
}

TEST(RecipeTest, TheOppositeIsOfferedWhereItCanBeTold) {
  TestDatabase db(
      "CREATE TABLE t (id INTEGER PRIMARY KEY, checked BOOLEAN, side TEXT CHECK (side IN ('left', 'right')), n "
      "INTEGER)");
  const Table& table = *db.catalogue().find({"", "t"});
  const auto opposite = [&](const Act& act) {
    Recipe recipe;
    recipe.acts = {act};
    const auto out = oppositeOf(recipe, table);
    return out ? out->acts[0].text + (out->acts[0].map.empty() ? "" : *out->acts[0].map[0].first) : "none";
  };
  EXPECT_EQ("no", opposite({Act::Kind::To, "checked", "yes", {}, {}, false, {}}));
  EXPECT_EQ("yes", opposite({Act::Kind::To, "checked", "0", {}, {}, false, {}}));
  EXPECT_EQ("right", opposite({Act::Kind::To, "side", "left", {}, {}, false, {}}));
  EXPECT_EQ("none", opposite({Act::Kind::To, "n", "5", {}, {}, false, {}}));
  EXPECT_EQ("none", opposite({Act::Kind::Compute, "n", "1", {}, {}, false, {}}));
  EXPECT_EQ("b", opposite({Act::Kind::Map, "side", {}, {}, {}, false, {{"a", "b"}}}));
  EXPECT_EQ("none", opposite({Act::Kind::Map, "side", {}, {}, {}, false, {{"a", "b"}, {"c", "b"}}}));
}

TEST(RecipeTest, IsKeptInTheStore) {
  TemporaryFolder folder;
  {
    auto store = *Store::open(folder.file("store.db"));
    ASSERT_TRUE(store->saveRecipe("here", everything()));
    Recipe other = everything();
    other.name = "another";
    ASSERT_TRUE(store->saveRecipe("here", other));
    other.table = "street";
    ASSERT_TRUE(store->saveRecipe("here", other));
  }
  auto store = *Store::open(folder.file("store.db"));
  const auto recipes = *store->recipes("here");
  ASSERT_EQ(2U, recipes.size());
  EXPECT_EQ("street", recipes[0].table);
  EXPECT_EQ(everything(), recipes[1]);
  EXPECT_TRUE(store->recipes("elsewhere")->empty());
  ASSERT_TRUE(store->forgetRecipe("here", "another"));
  EXPECT_EQ(1U, store->recipes("here")->size());
}

}  // namespace
}  // namespace iterandum::test
