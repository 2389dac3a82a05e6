// A server and a standby that follows it, each started for one test: what is said when the first is lost at any moment
// and the other takes over is so on the one that is left. `tools/servers pair` starts them.
#include <signal.h>

#include <chrono>
#include <cstdlib>
#include <fstream>
#include <thread>

#include "core/apply/apply.h"
#include "core/apply/outcome.h"
#include "core/engines/postgresql/pg_handle.h"
#include "core/engines/session.h"
#include "support/proxy.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

using ::testing::AllOf;
using ::testing::HasSubstr;
using namespace std::chrono_literals;

constexpr const char* kNothingDone = "1|1, 2|1, 3|1, 4|1";
constexpr const char* kAllDone = "1|2, 2|1, 4|1, 5|9";
constexpr const char* kChanges =
    "edit tree tree_id=1 condition:1->2\nremove tree tree_id=3\nadd tree tree_id=5 condition=9";

class PairTest : public ::testing::Test {
 protected:
  void SetUp() override {
    if (std::getenv("ITERANDUM_TEST_SERVERS") == nullptr) GTEST_SKIP() << "no servers: tools/servers start FOLDER";
  }
  void TearDown() override {
    if (started_) tell("wake");
  }

  static void tell(const std::string& action, const std::string& more = {}) {
    const std::string command =
        std::string(SERVERS) + " " + action + " " + std::getenv("ITERANDUM_TEST_SERVERS") + " " + more;
    ASSERT_EQ(0, std::system(command.c_str())) << command;
  }
  void startPair(bool synchronous) {
    tell("pair", synchronous ? "synchronous" : "");
    std::ifstream(std::string(std::getenv("ITERANDUM_TEST_SERVERS")) + "/pair/ports") >> first_ >> second_;
    ASSERT_GT(second_, 0U);
    started_ = true;
    run(first_,
        "CREATE TABLE tree (tree_id integer PRIMARY KEY, condition integer); INSERT INTO tree SELECT n, 1 FROM "
        "generate_series(1, 4) n");
    ASSERT_EQ(kNothingDone, arrived(kNothingDone));
  }
  static std::unique_ptr<PgHandle> on(unsigned port) {
    Progress progress;
    auto handle = PgHandle::open(
        {{"host", "127.0.0.1"}, {"port", std::to_string(port)}, {"user", "quill"}, {"dbname", "postgres"}}, progress);
    if (!handle) throw std::runtime_error(handle.error().message);
    return std::move(*handle);
  }
  static void run(unsigned port, const std::string& sql) {
    Progress progress;
    const Status done = on(port)->run(sql, progress);
    if (!done) throw std::runtime_error(done.error().message);
  }
  static std::string trees(unsigned port) {
    Progress progress;
    const auto rows = on(port)->query("SELECT string_agg(tree_id || '|' || condition, ', ' ORDER BY tree_id) FROM tree",
                                      {}, progress);
    return rows ? rows->string(0, 0) : rows.error().message;
  }
  // What the standby shows, once it is that or a while has gone by.
  [[nodiscard]] std::string arrived(const std::string& wanted) const {
    std::string now;
    for (int i = 0; i < 200 && now != wanted; ++i) {
      std::this_thread::sleep_for(20ms);
      now = trees(second_);
    }
    return now;
  }
  [[nodiscard]] static std::string address(const std::string& hosts, const std::string& parameters = {}) {
    return "postgresql://quill@" + hosts + "/postgres" + parameters;
  }
  [[nodiscard]] static std::string host(unsigned port) { return "127.0.0.1:" + std::to_string(port); }
  static Result<ApplyResult> apply(const std::string& address, ReceiptKeeper* keeper, Progress& progress,
                                   const std::string& changes = kChanges) {
    ITERANDUM_ASSIGN(const auto session, openSession(address));
    ITERANDUM_ASSIGN(const Catalogue catalogue, session->readCatalogue(progress));
    ApplyOptions options;
    options.keeper = keeper;
    return applyChanges(*session, catalogue, TestDatabase::changes(changes), options, progress);
  }
  // Whatever was said is so on the server that is left.
  void expectTrue(const Result<ApplyResult>& applied) const {
    const std::string now = trees(second_);
    EXPECT_TRUE(now == kNothingDone || now == kAllDone) << now << ": half of it";
    if (applied) {
      ASSERT_TRUE(applied->receipt.has_value());
      EXPECT_EQ(kAllDone, now) << "said to be applied";
    } else if (applied.error().kind != ErrorKind::OutcomeUnknown) {
      EXPECT_EQ(kNothingDone, now) << applied.error().text();
    }
  }

  unsigned first_ = 0;
  unsigned second_ = 0;
  bool started_ = false;
};

TEST_F(PairTest, AStandbyIsForLookingAndSaysHowFarItIs) {
  startPair(false);
  auto session = openSession(address(host(second_)));
  ASSERT_TRUE(session) << session.error().text();
  EXPECT_THAT((*session)->info().readOnly,
              AllOf(HasSubstr("the server is a standby, which only follows another one"),
                    HasSubstr("the last change that had arrived here when it was opened was made at 20")));
  Progress progress;
  const auto catalogue = (*session)->readCatalogue(progress);
  ASSERT_TRUE(catalogue) << catalogue.error().text();
  Query query;
  query.table = catalogue->find({"", "tree"});
  EXPECT_EQ(4U, *(*session)->count(query, progress));
  const auto refused = apply(address(host(second_)), nullptr, progress);
  ASSERT_FALSE(refused);
  EXPECT_EQ(ErrorKind::ReadOnly, refused.error().kind);
  EXPECT_THAT(refused.error().text(), AllOf(HasSubstr("standby"), HasSubstr("nothing was written")));
}

TEST_F(PairTest, OfSeveralHostsTheOneIsTakenThatIsAskedFor) {
  startPair(false);
  const std::string both = host(second_) + "," + host(first_);
  Progress progress;
  auto any = openSession(address(both));
  ASSERT_TRUE(any) << any.error().text();
  EXPECT_THAT((*any)->info().readOnly, HasSubstr("standby")) << "in the order in which they are named";
  auto primary = openSession(address(both, "?target_session_attrs=primary"));
  ASSERT_TRUE(primary) << primary.error().text();
  EXPECT_EQ("", (*primary)->info().readOnly);
  EXPECT_THAT((*primary)->info().address, HasSubstr(both));
  const auto applied = apply(address(both, "?target_session_attrs=read-write"), nullptr, progress);
  ASSERT_TRUE(applied && applied->receipt);
  EXPECT_EQ(kAllDone, arrived(kAllDone));
  tell("kill");
  const auto none = openSession(address(host(first_) + "," + host(second_), "?target_session_attrs=primary"));
  ASSERT_FALSE(none);
  EXPECT_THAT(none.error().message, HasSubstr("127.0.0.1"));
}

// The server ends at each of the messages of an apply in turn, and the standby takes over before anybody knows.
TEST_F(PairTest, TheServerIsLostAtAnyMessageAndWhatIsSaidIsSoOnTheOther) {
  int written = 0;
  int notWritten = 0;
  std::uint64_t step = 5;
  for (std::uint64_t at = 2;; at += step) {
    startPair(true);
    Proxy line(first_, at);
    line.refuseAfterCut();
    line.onCut([&] {
      tell("kill");
      tell("promote");
    });
    SCOPED_TRACE("lost at message " + std::to_string(at));
    Progress progress;
    const auto applied = apply(address(host(line.port()) + "," + host(second_)), nullptr, progress);
    if (!line.hasCut()) {
      EXPECT_TRUE(applied && applied->receipt) << "nothing was in the way";
      EXPECT_EQ(kAllDone, arrived(kAllDone));
      break;
    }
    expectTrue(applied);
    ++(trees(second_) == kAllDone ? written : notWritten);
    if (HasFatalFailure()) return;
  }
  EXPECT_GT(notWritten, 3);
  std::cout << notWritten << " times nothing was written, " << written << " times all\n";
}

TEST_F(PairTest, LostJustBeforeItsCommitNothingIsWritten) {
  startPair(true);
  Progress progress;
  LambdaKeeper keeper([&](const Receipt&, ReceiptStage) {
    tell("kill");
    tell("promote");
    return Status();
  });
  const auto applied = apply(address(host(first_) + "," + host(second_)), &keeper, progress);
  ASSERT_FALSE(applied);
  EXPECT_EQ(ErrorKind::ConnectionLost, applied.error().kind) << applied.error().text();
  EXPECT_THAT(applied.error().text(), HasSubstr("nothing was written"));
  EXPECT_EQ(1, keeper.dropped);
  expectTrue(applied);
}

TEST_F(PairTest, TheAnswerToTheCommitIsLostWithTheServerAndTheOtherKnowsIt) {
  startPair(true);
  Proxy line(first_, 0);
  line.cutAt("COMMIT", Proxy::Moment::AfterItIsDone);
  line.refuseAfterCut();
  line.onCut([&] {
    tell("kill");
    tell("promote");
  });
  Progress progress;
  const auto applied = apply(address(host(line.port()) + "," + host(second_)), nullptr, progress);
  ASSERT_TRUE(line.hasCut());
  ASSERT_TRUE(applied) << applied.error().text();
  EXPECT_TRUE(applied->receipt.has_value());
  expectTrue(applied);
}

// A standby shows what it has. As long as there is nobody else to ask it is not known.
TEST_F(PairTest, AStandbyDoesNotTellWhatBecameOfACommit) {
  startPair(false);
  Proxy line(first_, 0);
  line.cutAt("COMMIT", Proxy::Moment::AfterItIsDone);
  line.refuseAfterCut();
  line.onCut([&] {
    // Nothing arrives there any more; then it answers again, and knows nothing of it.
    tell("kill");
  });
  tell("freeze");
  std::thread awake([&] {
    while (!line.hasCut()) std::this_thread::sleep_for(10ms);
    tell("wake");
  });
  Progress progress;
  std::optional<Receipt> receipt;
  LambdaKeeper keeper([&](const Receipt& r, ReceiptStage) {
    receipt = r;
    return Status();
  });
  const auto applied = apply(address(host(line.port()) + "," + host(second_)), &keeper, progress);
  awake.join();
  ASSERT_FALSE(applied);
  EXPECT_EQ(ErrorKind::OutcomeUnknown, applied.error().kind) << applied.error().text();
  EXPECT_EQ(0, keeper.dropped) << "the receipt waits";
  // Asked later, on the standby: it is not known still. Once that is the server, it is.
  auto later = openSession(address(host(second_)));
  ASSERT_TRUE(later);
  const auto catalogue = (*later)->readCatalogue(progress);
  ASSERT_TRUE(catalogue && receipt);
  const auto unsure = writtenState(**later, *catalogue, *receipt, progress);
  const bool there = trees(second_) == kAllDone;
  if (there) {
    EXPECT_TRUE(unsure && *unsure == WrittenState::Written);
  } else {
    ASSERT_FALSE(unsure);
    EXPECT_THAT(unsure.error().text(), HasSubstr("only the server that takes the writes can tell"));
  }
  tell("promote");
  const auto sure = writtenState(**later, *catalogue, *receipt, progress);
  ASSERT_TRUE(sure) << sure.error().text();
  EXPECT_EQ(trees(second_) == kAllDone ? WrittenState::Written : WrittenState::NotWritten, *sure);
}

TEST_F(PairTest, AWaitForAStandbyThatIsGoneCanBeStoppedAndIsTold) {
  startPair(true);
  tell("freeze");
  Progress progress;
  std::atomic<bool> over = false;
  bool waited = false;
  std::thread stops([&] {
    std::this_thread::sleep_for(1500ms);
    waited = !over;
    progress.cancel();
  });
  const auto applied = apply(address(host(first_)), nullptr, progress);
  over = true;
  stops.join();
  EXPECT_TRUE(waited) << "a COMMIT waits for the standby";
  ASSERT_TRUE(applied) << applied.error().text();
  ASSERT_TRUE(applied->receipt.has_value());
  EXPECT_EQ(
      "it is written on this server, but the standby that it waits for has not confirmed it: should this server be "
      "lost before the standby is back, so is this change set",
      applied->notReached);
  EXPECT_EQ(kAllDone, trees(first_));
  EXPECT_EQ(std::nullopt, applied->afterwards) << "the receipt is where it should be";
  tell("wake");
  EXPECT_EQ(kAllDone, arrived(kAllDone));
  Progress another;
  const auto next = apply(address(host(first_)), nullptr, another, "edit tree tree_id=1 condition:2->1");
  ASSERT_TRUE(next && next->receipt);
  EXPECT_EQ("", next->notReached);
}

}  // namespace
}  // namespace iterandum::test
