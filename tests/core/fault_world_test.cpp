// Faults over random schemas and change sets: a line that drops at some message, a stop at some step, a lock that is
// held meanwhile, a receipt that cannot be kept. Whatever happens, all of it is there or nothing, and what is said is
// true.
#include <atomic>
#include <thread>

#include "support/proxy.h"
#include "support/random_world.h"

namespace iterandum::test {
namespace {

// What came of an apply, in one word, with all that was said.
struct Ended {
  bool applied = false;
  std::optional<Error> error;
  std::string findings;
};

class FaultWorldTest : public EngineTest {
 protected:
  // A world, and change sets over it that go through when nothing gets in their way.
  void makeWorld(unsigned seed) {
    random = std::make_unique<RandomWorld>(seed, GetParam());
    world = random->world();
    db.empty();
    db.run(sqlOf(world, GetParam()));
  }
  // Nothing where no good one was found among many.
  bool makeChanges() {
    for (int tries = 0; tries < 60; ++tries) {
      const auto steps = random->changes(world);
      const auto after = wantedAfter(world, steps);
      if (!after || textOf(*after) == textOf(world)) continue;
      lines = linesOf(world, steps);
      if (db.review(lines) != "ready") continue;
      wanted = textOf(*after);
      return true;
    }
    return false;
  }
  [[nodiscard]] std::string state() const { return textOf(worldIn(db, world)); }
  void startAnew() {
    db.empty();
    db.run(sqlOf(world, GetParam()));
  }

  static Ended applyAt(const std::string& address, const ChangeList& changes, Progress& progress,
                       ReceiptKeeper* keeper = nullptr,
                       std::chrono::milliseconds lockTimeout = std::chrono::seconds(10)) {
    Progress unstopped;
    auto session = openSession(address);
    if (!session) return {false, session.error(), {}};
    auto catalogue = (*session)->readCatalogue(unstopped);
    if (!catalogue) return {false, catalogue.error(), {}};
    ApplyOptions options;
    options.keeper = keeper;
    options.lockTimeout = lockTimeout;
    auto result = applyChanges(**session, *catalogue, changes, options, progress);
    if (!result) return {false, result.error(), {}};
    return {result->receipt.has_value(), std::nullopt, findingsText(result->review)};
  }
  void expectTrue(const Ended& ended) {
    const std::string said = ended.error ? ended.error->text() : ended.findings;
    if (ended.applied) {
      EXPECT_EQ(wanted, state()) << "said to be applied";
    } else if (ended.error && ended.error->kind == ErrorKind::OutcomeUnknown) {
      const std::string now = state();
      EXPECT_TRUE(now == wanted || now == textOf(world)) << "half of it: " << said;
    } else {
      EXPECT_EQ(textOf(world), state()) << "said not to be written: " << said;
    }
  }

  TestDatabase db{{}, GetParam()};
  std::unique_ptr<RandomWorld> random;
  World world;
  std::string lines;
  std::string wanted;
};
ITERANDUM_ON_ALL_ENGINES(FaultWorldTest);

TEST_P(FaultWorldTest, AStopAtAnyStepLeavesAllOrNothing) {
  int stopped = 0;
  int applied = 0;
  for (unsigned seed = 1; seed <= 12 && !HasFailure(); ++seed) {
    makeWorld(seed);
    if (!makeChanges()) continue;
    SCOPED_TRACE(sqlOf(world, GetParam()) + lines);
    const ChangeList changes = TestDatabase::changes(lines);
    {
      // At the last moment there is: the receipt is kept, the commit is next.
      Progress progress;
      LambdaKeeper keeper([&](const Receipt&, ReceiptStage) {
        progress.cancel();
        return Status();
      });
      const Ended ended = applyAt(db.address(), changes, progress, &keeper);
      expectTrue(ended);
      EXPECT_TRUE(ended.error && ended.error->kind == ErrorKind::Cancelled);
      EXPECT_EQ(1, keeper.dropped);
      ++stopped;
    }
    for (int at = 1; at < 60 && !HasFailure(); at += 1 + at / 6) {
      int steps = 0;
      Progress* own = nullptr;
      Progress progress([&](const std::string&, std::uint64_t, std::uint64_t) {
        if (++steps == at) own->cancel();
      });
      own = &progress;
      const Ended ended = applyAt(db.address(), changes, progress);
      expectTrue(ended);
      if (!ended.applied) {
        ++stopped;
        EXPECT_TRUE(ended.error && ended.error->kind == ErrorKind::Cancelled)
            << (ended.error ? ended.error->text() : ended.findings);
        continue;
      }
      ++applied;
      startAnew();
      if (steps < at) break;
    }
  }
  EXPECT_LT(5, stopped);
  EXPECT_LT(5, applied);
}

TEST_P(FaultWorldTest, AReceiptThatCannotBeKeptMeansThatNothingIsWritten) {
  int tried = 0;
  for (unsigned seed = 100; seed < 115 && !HasFailure(); ++seed) {
    makeWorld(seed);
    if (!makeChanges()) continue;
    SCOPED_TRACE(sqlOf(world, GetParam()) + lines);
    ++tried;
    Progress progress;
    LambdaKeeper full([](const Receipt&, ReceiptStage) { return Status(fail(ErrorKind::InvalidFile, "no room")); });
    const Ended refused = applyAt(db.address(), TestDatabase::changes(lines), progress, &full);
    expectTrue(refused);
    EXPECT_FALSE(refused.applied);
    EXPECT_EQ(0, full.confirmed);
    EXPECT_EQ(1, full.dropped);
    // What was kept before the commit is what there is after it.
    std::optional<Receipt> kept;
    LambdaKeeper good([&](const Receipt& receipt, ReceiptStage) {
      kept = receipt;
      return Status();
    });
    expectTrue(applyAt(db.address(), TestDatabase::changes(lines), progress, &good));
    EXPECT_EQ(1, good.confirmed);
    ASSERT_TRUE(kept.has_value());
    const auto again = unpackReceipt(packReceipt(*kept));
    ASSERT_TRUE(again.has_value());
    db.forget();
    const auto back = applyChanges(db.session(), db.catalogue(), revertReceipt(*again).changes, {}, progress);
    ASSERT_TRUE(back && back->receipt) << (back ? findingsText(back->review) : back.error().text());
    EXPECT_EQ(textOf(world), state());
  }
  EXPECT_LT(5, tried);
}

TEST_P(FaultWorldTest, WhoeverHoldsARecordMeanwhileIsWaitedForOrSaid) {
  int said = 0;
  for (unsigned seed = 200; seed < 206 && !HasFailure(); ++seed) {
    makeWorld(seed);
    if (!makeChanges()) continue;
    SCOPED_TRACE(sqlOf(world, GetParam()) + lines);
    db.forget();
    // Everything is held, by somebody who then changes his mind.
    db.run(GetParam() == Engine::Sqlite ? "BEGIN IMMEDIATE" : "BEGIN");
    for (const WorldTable& table : world.tables) db.run("UPDATE " + table.name + " SET v = v");
    Progress progress;
    const Ended ended = applyAt(db.address(), TestDatabase::changes(lines), progress, nullptr, std::chrono::seconds(1));
    db.run("ROLLBACK");
    expectTrue(ended);
    // A change set of nothing but additions needs none of what is held.
    if (ended.applied) continue;
    ++said;
    ASSERT_TRUE(ended.error.has_value()) << ended.findings;
    EXPECT_EQ(ErrorKind::LockTimeout, ended.error->kind) << ended.error->text();
    expectTrue(applyAt(db.address(), TestDatabase::changes(lines), progress));
  }
  EXPECT_LT(1, said);
}

class FaultWorldOnServersTest : public FaultWorldTest {};
ITERANDUM_ON_SERVERS(FaultWorldOnServersTest);

TEST_P(FaultWorldOnServersTest, ALineThatDropsAnywhereIsToldTruly) {
  int dropped = 0;
  int applied = 0;
  int unknown = 0;
  for (unsigned seed = 300; seed < 306 && !HasFailure(); ++seed) {
    makeWorld(seed);
    if (!makeChanges()) continue;
    SCOPED_TRACE(sqlOf(world, GetParam()) + lines);
    const ChangeList changes = TestDatabase::changes(lines);
    db.forget();
    for (std::uint64_t at = 5; at < 400 && !HasFailure(); at += 3) {
      std::string address = db.address();
      const std::size_t colon = address.find(':', address.find('@'));
      const std::size_t slash = address.find('/', colon);
      const Proxy line(static_cast<unsigned>(std::stoul(address.substr(colon + 1, slash - colon - 1))), at);
      address.replace(colon + 1, slash - colon - 1, std::to_string(line.port()));
      Progress progress;
      const Ended ended = applyAt(address, changes, progress);
      expectTrue(ended);
      dropped += line.hasCut() ? 1 : 0;
      if (ended.error && ended.error->kind == ErrorKind::OutcomeUnknown) {
        ++unknown;
        startAnew();
      }
      if (!ended.applied) continue;
      ++applied;
      startAnew();
      if (!line.hasCut()) break;
    }
  }
  EXPECT_LT(20, dropped);
  EXPECT_EQ(0, unknown) << "the server was there to be asked";
  EXPECT_LT(2, applied);
}

}  // namespace
}  // namespace iterandum::test
