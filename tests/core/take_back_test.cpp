// A part of a receipt taken back: over random schemas and random change sets, some records first and then the others
// come to what was there before; what a record cannot go without comes along; nothing else is touched.
#include <cstdlib>

#include "core/apply/take_back.h"
#include "core/changes/change_set.h"
#include "support/random_world.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;

unsigned rounds(Engine engine) {
  if (const char* wish = std::getenv("ITERANDUM_RANDOM_ROUNDS")) return static_cast<unsigned>(std::atoi(wish));
  return engine == Engine::Sqlite ? 300 : 30;
}

class TakeBackTest : public EngineTest {
 protected:
  [[nodiscard]] Result<ApplyResult> apply(const ChangeList& list) {
    Progress progress;
    return applyChanges(db.session(), db.catalogue(), list, {}, progress);
  }
  [[nodiscard]] static std::vector<ReceiptRow> rowsOf(const Receipt& receipt, const std::string& table = {}) {
    std::vector<ReceiptRow> out;
    for (std::uint32_t b = 0; b < receipt.blocks.size(); ++b) {
      if (!table.empty() && receipt.blocks[b].table.name != table) continue;
      for (std::uint32_t r = 0; r < receipt.blocks[b].rows(); ++r) out.push_back({b, r});
    }
    return out;
  }
  [[nodiscard]] ChangeList part(const Receipt& receipt, const std::vector<ReceiptRow>& chosen) {
    auto taken = takeBackPart(db.catalogue(), receipt, chosen, 100);
    EXPECT_TRUE(taken) << (taken ? "" : taken.error().text());
    if (!taken) return {};
    along = taken->along;
    ChangeSet changes;
    changes.apply(std::move(taken->gesture));
    return changes.toChangeList("back");
  }
  // Whether it was written; the reason is in `refused`.
  bool write(const ChangeList& list) {
    if (list.empty()) return true;
    const auto applied = apply(list);
    EXPECT_TRUE(applied) << (applied ? "" : applied.error().text());
    if (!applied || applied->receipt) return applied.has_value();
    refused += findingsText(applied->review);
    return false;
  }

  void one(const World& world, const std::vector<WorldChange>& steps, std::mt19937& random) {
    SCOPED_TRACE(linesOf(world, steps));
    if (!wantedAfter(world, steps)) return;
    const std::string start = textOf(world);
    const auto applied = apply(TestDatabase::changes(linesOf(world, steps)));
    ASSERT_TRUE(applied && applied->receipt) << (applied ? findingsText(applied->review) : applied.error().text());
    const std::string then = textOf(worldIn(db, world));
    std::vector<ReceiptRow> chosen;
    for (const ReceiptRow& row : rowsOf(*applied->receipt)) {
      if (random() % 3 == 0) chosen.push_back(row);
    }
    std::vector<ReceiptRow> others;
    const ChangeList first = part(*applied->receipt, chosen);
    for (const ReceiptRow& row : rowsOf(*applied->receipt)) {
      const bool taken = std::find(chosen.begin(), chosen.end(), row) != chosen.end() ||
                         std::find(along.begin(), along.end(), row) != along.end();
      if (!taken) others.push_back(row);
    }
    const bool firstWritten = write(first);
    if (!firstWritten) {
      ++firstRefused;
      ASSERT_EQ(then, textOf(worldIn(db, world)));
    }
    // What is left comes back too, whichever way; else all of it does.
    if (firstWritten && write(part(*applied->receipt, others))) {
      ++done;
      ASSERT_EQ(start, textOf(worldIn(db, world))) << "some first, then the others";
      return;
    }
    if (firstWritten) ++restRefused;
    reasons += refused + linesOf(world, steps) + "\n";
    refused.clear();
    db.empty();
    db.run(sqlOf(world, GetParam()));
  }

  TestDatabase db{{}, GetParam()};
  std::vector<ReceiptRow> along;
  std::string refused;
  std::string reasons;
  unsigned done = 0;
  unsigned firstRefused = 0;
  unsigned restRefused = 0;
};
ITERANDUM_ON_ALL_ENGINES(TakeBackTest);

TEST_P(TakeBackTest, SomeRecordsAndThenTheOthersComeToWhatWasThereBefore) {
  constexpr unsigned kOfASchema = 10;
  const char* wish = std::getenv("ITERANDUM_RANDOM_SEED");
  const unsigned from = wish == nullptr ? 1 : static_cast<unsigned>(std::atoi(wish));
  const unsigned schemas = std::max(1U, rounds(GetParam()) / kOfASchema);
  for (unsigned seed = from; seed < from + schemas && !HasFailure(); ++seed) {
    SCOPED_TRACE("ITERANDUM_RANDOM_SEED=" + std::to_string(seed) + " ITERANDUM_RANDOM_ROUNDS=10");
    RandomWorld random(seed, GetParam());
    std::mt19937 picks(seed);
    const World world = random.world();
    SCOPED_TRACE(sqlOf(world, GetParam()));
    db.empty();
    db.run(sqlOf(world, GetParam()));
    for (unsigned i = 0; i < kOfASchema && !HasFailure(); ++i) one(world, random.changes(world), picks);
  }
  std::cout << done << " came back, of " << firstRefused << " the first part was refused, of " << restRefused
            << " the rest\n";
  if (std::getenv("ITERANDUM_RANDOM_SHOW") != nullptr) std::cout << reasons;
  EXPECT_GT(done, (firstRefused + restRefused) * 4) << reasons;
}

TEST_P(TakeBackTest, OneRecordAloneLeavesTheOthersAsTheyAre) {
  db.run(smallRegister(GetParam()));
  const auto applied =
      apply(TestDatabase::changes("edit tree tree_id=7 note:\"old\"->\"one\"\n"
                                  "edit tree tree_id=8 note:null->\"two\"\n"));
  ASSERT_TRUE(applied && applied->receipt) << (applied ? findingsText(applied->review) : applied.error().text());
  const auto all = rowsOf(*applied->receipt);
  ASSERT_EQ(2U, all.size());
  ASSERT_TRUE(write(part(*applied->receipt, {all[1]})));
  EXPECT_TRUE(along.empty());
  EXPECT_EQ("one|-", db.rows("SELECT a.note, b.note FROM tree a JOIN tree b ON b.tree_id = 8 WHERE a.tree_id = 7"));
  // A second time somebody else's value would be written over: it is so already.
  const ChangeList again = part(*applied->receipt, {all[1]});
  const auto twice = apply(again);
  ASSERT_TRUE(twice) << twice.error().text();
  EXPECT_EQ("one|-", db.rows("SELECT a.note, b.note FROM tree a JOIN tree b ON b.tree_id = 8 WHERE a.tree_id = 7"));
}

TEST_P(TakeBackTest, WhatARemovalTookAlongComesBackWithIt) {
  db.run(
      "CREATE TABLE street (street_id INTEGER PRIMARY KEY);"
      "CREATE TABLE lamp (lamp_id INTEGER PRIMARY KEY, street_id INTEGER, FOREIGN KEY (street_id) REFERENCES street "
      "(street_id) ON DELETE CASCADE);"
      "INSERT INTO street VALUES (1), (2); INSERT INTO lamp VALUES (10, 1), (11, 1), (20, 2)");
  const auto applied = apply(TestDatabase::changes("remove street street_id=1\nremove street street_id=2\n"));
  ASSERT_TRUE(applied && applied->receipt) << (applied ? findingsText(applied->review) : applied.error().text());
  const std::vector<ReceiptRow> streets = rowsOf(*applied->receipt, "street");
  ASSERT_EQ(2U, streets.size());
  ASSERT_TRUE(write(part(*applied->receipt, {streets[0]}))) << refused;
  EXPECT_EQ(2U, along.size()) << "its two lamps";
  EXPECT_EQ("10|1\n11|1", db.rows("SELECT * FROM lamp ORDER BY 1"));
  EXPECT_EQ("1", db.rows("SELECT * FROM street"));
  // A lamp alone cannot stand without its street: that comes along, and with it nothing else.
  const std::vector<ReceiptRow> lamps = rowsOf(*applied->receipt, "lamp");
  ASSERT_EQ(3U, lamps.size());
  ASSERT_TRUE(write(part(*applied->receipt, {lamps[2]}))) << refused;
  EXPECT_EQ("10|1\n11|1\n20|2", db.rows("SELECT * FROM lamp ORDER BY 1"));
  EXPECT_EQ("1\n2", db.rows("SELECT * FROM street ORDER BY 1"));
}

TEST_P(TakeBackTest, ATableThatIsGoneIsSaid) {
  db.run(smallRegister(GetParam()));
  const auto applied = apply(TestDatabase::changes("edit tree tree_id=7 note:\"old\"->\"one\"\n"));
  ASSERT_TRUE(applied && applied->receipt);
  const auto taken = takeBackPart(Catalogue(), *applied->receipt, rowsOf(*applied->receipt), 1);
  ASSERT_FALSE(taken);
  EXPECT_THAT(taken.error().text(), HasSubstr("there is no table"));
}

}  // namespace
}  // namespace iterandum::test
