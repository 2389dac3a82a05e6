// Random change sets over random schemas, with references of every rule, over several columns and to the table itself:
// what is applied is what the oracle says, to the last record; what a receipt says is true; taking back restores
// everything; and the script comes to the same end in the plain client.
#include <cstdlib>
#include <map>

#include "support/random_world.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

// How many change sets; ITERANDUM_RANDOM_ROUNDS says otherwise. Each schema serves for some of them.
unsigned rounds(Engine engine) {
  if (const char* wish = std::getenv("ITERANDUM_RANDOM_ROUNDS")) return static_cast<unsigned>(std::atoi(wish));
  return engine == Engine::Sqlite ? 1500 : 150;
}
unsigned firstSeed() {
  const char* wish = std::getenv("ITERANDUM_RANDOM_SEED");
  return wish == nullptr ? 1 : static_cast<unsigned>(std::atoi(wish));
}
constexpr unsigned kChangeSetsOfASchema = 10;

class RandomSchemaTest : public EngineTest {
 protected:
  [[nodiscard]] std::string stateOf(const World& world) const { return textOf(worldIn(db, world)); }

  void takeBack() {
    Progress progress;
    const auto back = applyChanges(db.session(), db.catalogue(), revertReceipt(db.receipt()).changes, {}, progress);
    ASSERT_TRUE(back && back->receipt) << (back ? findingsText(back->review) : back.error().text());
  }

  // The script of what is staged, run on the very same records.
  void scriptComesTo(const std::string& changes, const std::string& wanted, const World& world) {
    Progress progress;
    ReviewOptions options;
    options.rehearse = false;
    const auto review = reviewChanges(db.session(), db.catalogue(), TestDatabase::changes(changes), options, progress);
    ASSERT_TRUE(review.has_value());
    const std::string script = reviewScript(*review);
    const std::string said = db.runInPlainClient(script);
    EXPECT_EQ("", said) << script;
    EXPECT_EQ(wanted, stateOf(world)) << script;
  }

  void one(const World& world, const std::vector<WorldChange>& steps, bool withScript) {
    const std::string changes = linesOf(world, steps);
    SCOPED_TRACE(changes);
    const std::string start = textOf(world);
    const std::optional<World> wanted = wantedAfter(world, steps);
    const std::string review = db.review(changes);
    ASSERT_EQ(start, stateOf(world)) << "a review leaves nothing behind: " << review;
    const std::string outcome = db.apply(changes);
    if (outcome != "applied") {
      EXPECT_EQ(review, outcome);
      EXPECT_EQ(start, stateOf(world)) << "nothing was written: " << outcome;
      ++(wanted ? refusedThough : refused);
      if (!wanted) return;
      ++why[outcome.substr(0, outcome.find(' '))];
      if (std::getenv("ITERANDUM_RANDOM_SHOW") != nullptr)
        std::cout << changes << outcome << "\n" << sqlOf(world, GetParam()) << "\n";
      return;
    }
    ASSERT_TRUE(wanted.has_value()) << "applied, though a rule forbids it:\n" << stateOf(world);
    ASSERT_EQ(textOf(*wanted), stateOf(world));
    ++applied;
    takeBack();
    ASSERT_EQ(start, stateOf(world)) << "taken back";
    if (!withScript) return;
    scriptComesTo(changes, textOf(*wanted), world);
    takeBack();
    ASSERT_EQ(start, stateOf(world)) << "the script's work, taken back";
  }

  TestDatabase db{{}, GetParam()};
  unsigned applied = 0;
  unsigned refused = 0;
  unsigned refusedThough = 0;  // the oracle sees a way
  std::map<std::string, unsigned> why;
};
ITERANDUM_ON_ALL_ENGINES(RandomSchemaTest);

TEST_P(RandomSchemaTest, WhatIsAskedForIsWhatIsThereOrThereIsAFinding) {
  const unsigned schemas = std::max(1U, rounds(GetParam()) / kChangeSetsOfASchema);
  for (unsigned seed = firstSeed(); seed < firstSeed() + schemas && !HasFailure(); ++seed) {
    SCOPED_TRACE("ITERANDUM_RANDOM_SEED=" + std::to_string(seed) + " ITERANDUM_RANDOM_ROUNDS=10");
    RandomWorld random(seed, GetParam());
    const World world = random.world();
    SCOPED_TRACE(sqlOf(world, GetParam()));
    db.empty();
    db.run(sqlOf(world, GetParam()));
    ASSERT_EQ(textOf(world), stateOf(world));
    for (unsigned i = 0; i < kChangeSetsOfASchema && !HasFailure(); ++i) one(world, random.changes(world), i % 5 == 0);
  }
  std::string reasons;
  for (const auto& [finding, count] : why) reasons += finding + " " + std::to_string(count) + " ";
  std::cout << applied << " applied, " << refused << " refused as they must be, " << refusedThough
            << " refused that could be done: " << reasons << "\n";
  EXPECT_LT((applied + refused) / 10, applied) << "too few were good ones for this to say much";
  if (GetParam() == Engine::Sqlite) {
    EXPECT_LT(refusedThough * 20, applied + refusedThough);
  }
}

}  // namespace
}  // namespace iterandum::test
