// set, merge and recipe from outside: change files that apply, what is said, exit statuses, files and words that are
// off.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <fstream>

#include "cli/cli_fixture.h"
#include "core/store/store.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;
using ::testing::Not;

class CliManyTest : public CliRegisterTest {
 protected:
  std::string trees(const std::string& acts) {
    return applied("set $DB tree " + acts, "tree_id, tag, species_id, condition, height, note");
  }
};
ITERANDUM_ON_ALL_ENGINES(CliManyTest);

TEST_P(CliManyTest, SetStagesWhatApplies) {
  EXPECT_EQ("7|T7|1|3|12.5|old\n8|T8|1|3|9|-\n9|T9|2|4|20.25|", trees("--where 'condition = 2' --to condition=3"));
  EXPECT_EQ("7|T7|1|3|12.5|-\n8|T8|1|3|9|-\n9|T9|2|4|20.25|-", trees("--clear note"));
  EXPECT_THAT(read("changes.json"), HasSubstr("note to no value in 2 records"));
  EXPECT_EQ("7|T7|1|3|12.5|\n8|T8|1|3|9|\n9|T9|2|4|20.25|", trees("--to note="));
  EXPECT_EQ("7|T7|1|3|12.5|T7: lime, 1\n8|T8|1|3|9|T8: lime, 2\n9|T9|2|4|20.25|T9: oak, 3",
            trees("--compute \"note=[tag] & ': ' & [species.name] & ', ' & row()\" --sort tree_id"));
  EXPECT_EQ("7|T7|1|3|12.5|T7 - LIME, 1\n8|T8|1|3|9|T8 - LIME, 2\n9|T9|2|4|20.25|T9 - Oak, 3",
            trees("--replace note --find ': ' --with ' - ' --replace NOTE --find '(OAK)|lime' --with 'LIME' --pattern "
                  "--replace note --find 'LIME, 3' --with 'Oak, 3' --end --exact"));
  EXPECT_EQ("7|QH-007|1|3|13|T7 - LIME, 1\n8|QH-008|1|3|9.5|T8 - LIME, 2\n9|QH-009|2|4|20.75|T9 - Oak, 3",
            trees("--compute \"tag='QH-' & pad([tree_id], 3)\" --compute 'height=[height] + 0.5'"));
  write("map.csv", "3,5\n4,\n");
  EXPECT_EQ("7|QH-007|1|5|13|T7 - LIME, 1\n8|QH-008|1|5|9.5|T8 - LIME, 2\n9|QH-009|2|-|20.75|T9 - Oak, 3",
            trees("--map condition=map.csv"));
}

TEST_P(CliManyTest, AReferenceIsSaidByNameAsInTheWindow) {
  EXPECT_EQ("7|T7|2|3|12.5|old\n8|T8|1|2|9|-\n9|T9|2|4|20.25|",
            trees("--where 'tree_id = 7' --to species_id=Oak --to condition=3"));
  EXPECT_THAT(read("changes.json"), HasSubstr("species_id to Oak"));
  write("map.csv", "lime,oak\n2,lime\n");
  EXPECT_EQ("7|T7|1|3|12.5|old\n8|T8|2|2|9|-\n9|T9|1|4|20.25|", trees("--map species_id=map.csv"));
  // What stands for none is said, and fails as what it is typed as.
  EXPECT_EQ(3, run("set $DB tree --to species_id=Elmm -o changes.json"));
  EXPECT_THAT(err, HasSubstr("note: species_id: no record of species is called 'Elmm'"));
  EXPECT_THAT(err, HasSubstr("tree tree_id=7, species_id: a whole number is wanted"));
  db.run("INSERT INTO species (species_id, name) VALUES (77, 'Ash x')");
  db.run("INSERT INTO species (species_id, name) VALUES (78, 'Ash  x')");
  EXPECT_EQ(3, run("set $DB tree --to \"species_id=ASH X\" -o changes.json"));
  EXPECT_THAT(err, HasSubstr("several records of species are called 'ASH X'; the key is wanted instead"));
  // A key is a key, also one that is nowhere: the review says so.
  EXPECT_EQ(0, run("set $DB tree --to species_id=4711 -o changes.json")) << err;
  EXPECT_EQ(3, run("review $DB changes.json"));
  EXPECT_THAT(out, HasSubstr("4711"));
}

TEST_P(CliManyTest, OnlyWhatDiffersIsWrittenAndTheCountsAreSaid) {
  ASSERT_EQ(0, run("set $DB tree --to condition=2 -o -"));
  EXPECT_EQ("3 records are meant: 1 changes, 2 are so already, 0 fail\n", err);
  EXPECT_THAT(out, HasSubstr("\"key\": {\"tree_id\": 9}, \"cells\": {\"condition\": {\"from\": 4, \"to\": 2}}"));
  EXPECT_THAT(out, Not(HasSubstr("\"tree_id\": 7")));
  ASSERT_EQ(0, run("set $DB tree --where 'condition = 5' --to condition=2 -o -"));
  EXPECT_THAT(out, HasSubstr("\"changes\": []"));
  // Back to what it was is no change.
  ASSERT_EQ(0, run("set $DB tree --to condition=5 --compute 'condition=[condition] - 5' --clear condition "
                   "--compute 'condition=if tree_id = 9 then 4 else 2' -o -"));
  EXPECT_THAT(out, HasSubstr("\"changes\": []"));
}

TEST_P(CliManyTest, WhatFailsIsNamedAndNothingIsWritten) {
  EXPECT_EQ(3, run("set $DB tree --compute 'condition=4 / ([condition] - 2)' -o changes.json"));
  EXPECT_THAT(err, HasSubstr("tree tree_id=7, condition: division by zero (position 3)"));
  EXPECT_THAT(err, HasSubstr("tree tree_id=8"));
  EXPECT_FALSE(exists("changes.json"));
  EXPECT_EQ(0, run("set $DB tree --compute 'condition=4 / ([condition] - 2)' --leave-out-failed -o changes.json"));
  EXPECT_THAT(read("changes.json"), HasSubstr("\"from\": 4, \"to\": 2"));
  EXPECT_EQ(3, run("set $DB tree --to condition=many -o changes2.json"));
  EXPECT_EQ(3, run("set $DB tree --to condition=9 -o changes2.json"));
  EXPECT_EQ(3, run("set $DB tree --clear tag -o changes2.json"));
  EXPECT_EQ(0, run("set $DB tree --where 'tree_id > 99' --to condition=many -o changes2.json"));
}

TEST_P(CliManyTest, WordsAndFilesThatAreOff) {
  for (const char* call :
       {"set $DB tree -o x",
        "set $DB tree --swap note -o x",
        "set $DB tree --swap note=note -o x",
        "set $DB tree --swap note=colour -o x",
        "set $DB tree --to condition -o x",
        "set $DB tree --to colour=3 -o x",
        "set $DB --to condition=3 -o x",
        "set $DB tree --find a --with b -o x",
        "set $DB tree --replace note --find a -o x",
        "set $DB tree --exact -o x",
        "set $DB tree --replace note --find '' --with b -o x",
        "set $DB tree --replace note --find a --with b --whole --end -o x",
        "set $DB tree --replace note --find '(' --with b --pattern -o x",
        "set $DB tree --to condition=3",
        "set $DB tree --compute 'condition=[condition' -o x",
        "set $DB tree --to double_height=3 -o x",
        "set $DB tree --where 'colour = 3' --to condition=3 -o x",
        "set $DB tree --sort colour --to condition=3 -o x",
        "merge $DB tree --keep '{\"tree_id\": 7}' -o x",
        "merge $DB tree --keep 7 --drop 8 -o x",
        "merge $DB tree --keep '{\"tree_id\": 7}' --drop '{\"tree_id\": 99}' -o x",
        "merge $DB tree --keep '{\"tree_id\": 7}' --drop '{\"tree_id\": 7}' -o x",
        "merge $DB tree --keep '{\"tree_id\": 7}' --drop '{\"tree_id\": 8}' --take 'colour={\"tree_id\": 8}' -o x",
        "recipe $DB -o x",
        "recipe $DB nothing -o x",
        "recipe $DB a --file b -o x"}) {
    EXPECT_EQ(2, run(call)) << call << "\n" << err;
    EXPECT_FALSE(exists("x")) << call;
  }
  EXPECT_EQ(4, run("set $DB tree --map condition=nowhere.csv -o x"));
  write("twice.csv", "1,2\n1,3\n");
  EXPECT_EQ(4, run("set $DB tree --map condition=twice.csv -o x"));
  EXPECT_THAT(err, HasSubstr("twice"));
  write("three.csv", "1,2,3\n");
  EXPECT_EQ(4, run("set $DB tree --map condition=three.csv -o x"));
  EXPECT_EQ(4, run("set $DB tree --map condition=twice.csv -o twice.csv"));
  EXPECT_EQ(4, run("set $DB tree --to condition=3 -o nowhere/x"));
  EXPECT_EQ(0, run("set $DB tree --to condition=3 -o -", "| head -n 1; exit ${PIPESTATUS[0]}"));
}

TEST_P(CliManyTest, TwoColumnsAreExchanged) {
  db.run("UPDATE tree SET note = 'twin' WHERE tree_id = 7");
  ASSERT_EQ(0, run("set $DB tree --where 'tree_id = 7' --swap 'tag=\"note\"' -o changes.json")) << err;
  EXPECT_THAT(read("changes.json"),
              HasSubstr(R"("tag": {"from": "T7", "to": "twin"}, "note": {"from": "twin", "to": "T7"})"));
  ASSERT_EQ(0, run("apply $DB changes.json")) << err;
  EXPECT_EQ("twin|T7", db.rows("SELECT tag, note FROM tree WHERE tree_id = 7"));
}

TEST_P(CliManyTest, MergingRepointsAndSaysWhatWouldBeThereTwice) {
  db.run("INSERT INTO inspection VALUES (8, '2025-03-02', 'poor'), (8, '2024-01-01', 'sound')");
  const std::string call =
      "merge $DB tree --keep '{\"tree_id\": 7}' --drop '{\"tree_id\": 8}' --drop '{\"TREE_ID\": 9}' "
      "--take 'Height={\"tree_id\": 9}' -o changes.json";
  EXPECT_EQ(3, run(call));
  EXPECT_THAT(err,
              HasSubstr("inspection tree_id=8, inspected_on=2025-03-02 would be the same as inspection tree_id=7"));
  EXPECT_FALSE(exists("changes.json"));
  ASSERT_EQ(0, run(call + " --drop-doubles")) << err;
  ASSERT_EQ(0, run("apply $DB changes.json")) << out << err;
  EXPECT_EQ("7|20.25", db.rows("SELECT tree_id, height FROM tree"));
  EXPECT_EQ("7|2024-01-01|sound\n7|2025-03-02|sound\n7|2025-05-05|unknown\n7|2026-03-02|poor",
            db.rows("SELECT tree_id, inspected_on, grade FROM inspection ORDER BY inspected_on"));
  EXPECT_EQ("1|7\n2|7", db.rows("SELECT photo_id, tree_id FROM photo ORDER BY photo_id"));
}

TEST_P(CliManyTest, DoublesAreListedAndOneOfEachIsLeft) {
  db.run(
      "INSERT INTO species VALUES (4, 'old lime'), (5, 'elms'), (6, 'Old  Lime'); UPDATE tree SET species_id = 6 WHERE "
      "tree_id = 8");
  ASSERT_EQ(0, run("doubles $DB species --alike name --compare nearly --format json")) << err;
  EXPECT_EQ("[\n  {\"keep\": {\"species_id\": 4}, \"others\": [{\"species_id\": 6}]}\n]\n", out);
  EXPECT_EQ("6 records were compared: 1 group of doubles, 2 records, 1 of them besides the one that stays\n", err);
  ASSERT_EQ(0, run("doubles $DB species --alike name --compare loosely --sort species_id:desc")) << err;
  EXPECT_EQ("  stays  species 6: 'Old  Lime'\n  goes   species 4: 'old lime'\n  they differ in name\n\n", out);
  // Removed alone, what points at it stands in the way; merged it comes along.
  ASSERT_EQ(0, run("doubles $DB species --alike name --compare loosely -o alone.json")) << err;
  EXPECT_EQ(3, run("apply $DB alone.json"));
  ASSERT_EQ(0, run("doubles $DB species --alike name --compare loosely --merge -o changes.json")) << err;
  ASSERT_EQ(0, run("apply $DB changes.json")) << err;
  EXPECT_EQ("7|1\n8|4\n9|2", db.rows("SELECT tree_id, species_id FROM tree ORDER BY 1"));
  EXPECT_EQ("1\n2\n3\n4\n5", db.rows("SELECT species_id FROM species ORDER BY 1"));
  for (const char* call :
       {"doubles $DB species -o x", "doubles $DB species --alike colour -o x",
        "doubles $DB species --alike name --compare roughly -o x", "doubles $DB species --alike name --merge",
        "doubles $DB species --alike name --drop-doubles -o x"}) {
    EXPECT_EQ(2, run(call)) << call << err;
    EXPECT_FALSE(exists("x"));
  }
}

TEST_P(CliManyTest, RecipesFromAFileAndByName) {
  const std::string recipe = R"json({"format": "iterandum-recipe", "version": 1, "name": "regrade", "table": "tree",
    "asks": [{"name": "grade", "kind": "number", "usual": "4"}],
    "acts": [{"act": "to", "column": "condition", "value": "{grade}"},
             {"act": "compute", "column": "note", "expression": "'was ' & ({grade} - 1)"}]})json";
  write("recipe.json", recipe);
  ASSERT_EQ(0, run("recipe $DB --file recipe.json --where 'tree_id = 7' -o changes.json")) << err;
  EXPECT_THAT(read("changes.json"),
              HasSubstr(R"("condition": {"from": 2, "to": 4}, "note": {"from": "old", "to": "was 3"})"));
  ASSERT_EQ(0, run("recipe $DB --file - --where 'tree_id = 7' --ask grade=5 -o -", "< recipe.json")) << err;
  EXPECT_THAT(out, HasSubstr("was 4"));
  EXPECT_EQ(2, run("recipe $DB --file recipe.json --ask colour=5 -o x"));
  EXPECT_EQ(2, run("recipe $DB --file recipe.json --ask grade=many -o x"));
  write("broken.json", recipe.substr(0, 100));
  EXPECT_EQ(4, run("recipe $DB --file broken.json -o x"));
  std::string other = recipe;
  other.replace(other.find("\"condition\""), 11, "\"colour\"");
  write("other.json", other);
  EXPECT_EQ(4, run("recipe $DB --file other.json -o x"));
  EXPECT_THAT(err, HasSubstr("'colour' is no column of tree"));
  {
    auto store = *Store::open(db.file("state") + "/iterandum/store.sqlite");
    ASSERT_TRUE(store->saveRecipe(db.session().info().address, *recipeFromJson(recipe)));
  }
  ASSERT_EQ(0, run("recipe $DB regrade --where 'tree_id = 9' --ask grade=1 -o -")) << err;
  EXPECT_THAT(out, HasSubstr("was 0"));
}

}  // namespace
}  // namespace iterandum::test
