// Working copies from outside: handed out, corrected with another program's library, brought back and applied.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "cli/cli_fixture.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;
using ::testing::Not;

class CliWorkingCopyTest : public CliRegisterTest {
 protected:
  // What the other program saw of the copy.
  std::string correct(const std::string& words) {
    const int status = run(words, "", CORRECT_COPY);
    return status == 0 ? out : std::to_string(status) + ": " + err;
  }
};
ITERANDUM_ON_ALL_ENGINES(CliWorkingCopyTest);

TEST_P(CliWorkingCopyTest, GoesOutComesBackAndIsApplied) {
  ASSERT_EQ(0, run("hand-out $DB tree --columns tag,species_id,condition,note -o out.xlsx")) << err;
  EXPECT_EQ("3 records handed out\n", err);
  const std::string seen = correct("out.xlsx back.xlsx 7=condition:4 8=note:leaning");
  EXPECT_THAT(seen, HasSubstr("protected: True\nopen: tag, species_id, condition, note\n"
                              "out of sight: iterandum lists, iterandum\n"));
  ASSERT_EQ(0, run("bring-back $DB back.xlsx -o changes.json")) << err;
  EXPECT_THAT(err, HasSubstr("3 rows: 2 records change in 2 cells, 1 is as it was handed out, 0 fail\n"));
  EXPECT_THAT(out + read("changes.json"), HasSubstr("\"condition\": {\"from\": 2, \"to\": 4}"));
  db.run("UPDATE tree SET note = 'theirs' WHERE tree_id = 8");
  EXPECT_EQ(3, run("apply $DB changes.json")) << "changed in the database meanwhile: a conflict, not a loss";
  EXPECT_EQ("theirs", db.rows("SELECT note FROM tree WHERE tree_id = 8"));
  EXPECT_EQ(0, run("apply $DB changes.json --on-conflict mine")) << err;
  EXPECT_EQ("4\nleaning", db.rows("SELECT condition FROM tree WHERE tree_id = 7") + "\n" +
                              db.rows("SELECT note FROM tree WHERE tree_id = 8"));
}

TEST_P(CliWorkingCopyTest, OnlyWhatIsOpenedCanBeChangedAndReferencesAreChosenByName) {
  ASSERT_EQ(0, run("hand-out $DB tree --where 'tree_id <= 8' --columns tag,species_id,condition --open Species_ID "
                   "-o out.xlsx"))
      << err;
  const std::string name = db.rows("SELECT name FROM species ORDER BY name");
  const std::string seen = correct("out.xlsx back.xlsx 7=species_id:" + name.substr(0, name.find('\n')));
  EXPECT_THAT(seen, HasSubstr("open: species_id\n"));
  EXPECT_THAT(seen, HasSubstr("choices: " + name.substr(0, name.find('\n'))));
  ASSERT_EQ(0, run("bring-back $DB back.xlsx -o -")) << err;
  EXPECT_THAT(err, HasSubstr("2 rows: "));
  EXPECT_EQ(2, run("hand-out $DB tree --open tree_id -o out.xlsx"));
  EXPECT_THAT(err, HasSubstr("'tree_id' cannot be opened for changes: it says which record it is"));
  EXPECT_EQ(2, run("hand-out $DB tree --open colour -o out.xlsx"));
}

TEST_P(CliWorkingCopyTest, WhereTwoDisagreeNothingIsWrittenUntilItIsSaidWhoseWordCounts) {
  ASSERT_EQ(0, run("hand-out $DB tree --columns condition,note -o out.xlsx"));
  (void)correct("out.xlsx anna.xlsx 7=condition:4 8=condition:1");
  (void)correct("out.xlsx bram.xlsx 7=condition:5 8=condition:1");
  EXPECT_EQ(3, run("bring-back $DB anna.xlsx bram.xlsx -o changes.json"));
  EXPECT_FALSE(exists("changes.json"));
  EXPECT_THAT(err, HasSubstr("they disagree: condition of tree 7 (2): 4 in anna.xlsx, 5 in bram.xlsx"));
  EXPECT_THAT(applied("bring-back $DB anna.xlsx bram.xlsx --prefer anna.xlsx", "condition"),
              ::testing::StartsWith("4\n1\n"));
  EXPECT_EQ(2, run("bring-back $DB anna.xlsx --prefer carl.xlsx -o changes.json"));
  EXPECT_EQ(4, run("bring-back $DB anna.xlsx -o anna.xlsx")) << "the copy itself is not written over";
}

TEST_P(CliWorkingCopyTest, StageSaysThatItIsAWorkingCopy) {
  ASSERT_EQ(0, run("hand-out $DB tree --columns species_id -o out.xlsx"));
  EXPECT_EQ(4, run("stage $DB tree --from out.xlsx -o changes.json"));
  EXPECT_THAT(err, HasSubstr("bring-back"));
  write("list.csv", "tree_id,note\n7,x\n");
  EXPECT_EQ(4, run("bring-back $DB list.csv -o changes.json"));
  EXPECT_THAT(err, HasSubstr("list.csv: it is no working copy that was handed out"));
}

}  // namespace
}  // namespace iterandum::test
