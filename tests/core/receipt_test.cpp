// Receipts: as JSON, as packed bytes, and taken back.
#include "core/apply/receipt.h"

#include "support/test_database.h"

namespace iterandum::test {
namespace {

// Applies the reversal of the last receipt, having gone through its JSON form.
std::string takeBackIn(TestDatabase& db) {
  const auto receipt = readReceiptJson(receiptJson(db.receipt()));
  if (!receipt) return "error: " + receipt.error().text();
  const auto changes = readChangeFile(writeChangeFile(revertReceipt(*receipt).changes));
  if (!changes) return "error: " + changes.error().text();
  Progress progress;
  const auto result = applyChanges(db.session(), db.catalogue(), *changes, {}, progress);
  if (!result) return "error: " + result.error().text();
  return result->receipt ? "applied" : findingsText(result->review);
}

class ReceiptTest : public EngineTest {
 protected:
  std::string takeBack() { return takeBackIn(db); }
  TestDatabase db{smallRegister(GetParam()), GetParam()};
};
ITERANDUM_ON_ALL_ENGINES(ReceiptTest);

class ReceiptOnSqliteTest : public ::testing::Test {
 protected:
  std::string takeBack() { return takeBackIn(db); }
  TestDatabase db{kSmallRegister};
};

TEST_P(ReceiptTest, EditsRemovalsAdditionsAndCascadesAreTakenBack) {
  db.run("UPDATE tree SET stamped = 'stamped'");  // what the trigger would set
  const std::string before = db.dump();
  ASSERT_EQ("applied", db.apply("edit tree tree_id=8 condition:2->3 note:null->\"\"\nremove tree tree_id=7 "
                                "tag:\"T7\"\nadd species name=\"ash\" @a\n"
                                "edit tree tree_id=9 species_id:2->{\"ref\":\"a\"}\nedit photo photo_id=2 "
                                "photo_id:2->20"));
  ASSERT_NE(before, db.dump());
  EXPECT_EQ("applied", takeBack());
  EXPECT_EQ(before, db.dump());
}

TEST_F(ReceiptOnSqliteTest, TakingBackBringsEverythingBack) {
  db.run("DROP TRIGGER stamp");
  const std::string before = db.dump();
  ASSERT_EQ("applied", db.apply("edit tree tree_id=8 condition:2->3 note:null->\"\"\nremove tree tree_id=7 "
                                "tag:\"T7\"\nadd species name=\"ash\" @a\n"
                                "edit tree tree_id=9 species_id:2->{\"ref\":\"a\"}\nedit photo photo_id=2 "
                                "photo_id:2->20\nedit log rowid=3 message:2.5->\"x\"\nremove log rowid=1 line:1"));
  ASSERT_NE(before, db.dump());
  EXPECT_EQ("applied", takeBack());
  EXPECT_EQ(before, db.dump());
}

TEST_P(ReceiptTest, TakingBackIsGuardedByWhatTheReceiptLeftBehind) {
  ASSERT_EQ("applied", db.apply("edit tree tree_id=7 condition:2->3"));
  db.run("UPDATE tree SET condition = 5 WHERE tree_id = 7");
  EXPECT_EQ("cell-changed 0 tree[7].condition from=3 to=2 now=5", takeBack());
}

TEST_F(ReceiptOnSqliteTest, ValuesOfTheWrongTypeComeBackAsTheyWere) {
  db.run(
      "CREATE TABLE mess (id INTEGER PRIMARY KEY, n INTEGER, m INTEGER, t TEXT, u TEXT);"
      "INSERT INTO mess VALUES (7, 'tall', 1.5, X'00FF', CAST(X'FF41' AS TEXT)), (8, X'01', 2, 'x', 'y')");
  const std::string before = db.dump();
  ASSERT_EQ("applied",
            db.apply("edit mess id=7 n:\"tall\"->12 m:1.5->2 t->\"clean\" u->\"clean\"\nremove mess id=8 m:2"));
  ASSERT_NE(before, db.dump());
  EXPECT_EQ("applied", takeBack());
  EXPECT_EQ(before, db.dump());
}

TEST_F(ReceiptOnSqliteTest, PackedBytesReadBackTheSame) {
  ASSERT_EQ(
      "applied",
      db.apply("edit tree tree_id=8 condition:2->3\nremove tree tree_id=7 tag:\"T7\"\nadd log message=\"\\u0000\""));
  const auto unpacked = unpackReceipt(packReceipt(db.receipt()));
  ASSERT_TRUE(unpacked.has_value());
  EXPECT_EQ(receiptJson(db.receipt()), receiptJson(*unpacked));
}

TEST_F(ReceiptOnSqliteTest, DamagedBytesAreAnErrorAtEveryLength) {
  ASSERT_EQ("applied", db.apply("edit tree tree_id=8 condition:2->3"));
  const std::string packed = packReceipt(db.receipt());
  for (std::size_t size = 0; size < packed.size(); ++size) {
    EXPECT_FALSE(unpackReceipt(std::string_view(packed).substr(0, size)).has_value()) << size;
  }
}

TEST_F(ReceiptOnSqliteTest, BrokenDocumentsNameThePlace) {
  EXPECT_EQ("/format", readReceiptJson(R"({"format":"iterandum-changes","version":1,"results":[]})").error().place);
  EXPECT_EQ("/version", readReceiptJson(R"({"format":"iterandum-receipt","version":2,"results":[]})").error().place);
  EXPECT_EQ("/results/0/action",
            readReceiptJson(
                R"({"format":"iterandum-receipt","version":1,"results":[{"change":0,"table":"t","action":"mend"}]})")
                .error()
                .place);
  EXPECT_EQ(
      "/results/0/before",
      readReceiptJson(
          R"({"format":"iterandum-receipt","version":1,"results":[{"change":0,"table":"t","action":"remove","key":{"id":1}}]})")
          .error()
          .place);
}

}  // namespace
}  // namespace iterandum::test
