// Three servers that are one cluster: what it refuses at the end, what it refuses altogether, and that nobody's write
// is lost between two of them. `tools/servers cluster` starts them.
#include <signal.h>

#include <chrono>
#include <cstdlib>
#include <fstream>
#include <random>
#include <sstream>
#include <thread>

#include "core/apply/apply.h"
#include "core/apply/outcome.h"
#include "core/engines/session.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;
using namespace std::chrono_literals;

// A session of ours on one of the servers.
struct Member {
  std::unique_ptr<Session> session;
  Catalogue catalogue;

  Result<ApplyResult> apply(const ChangeList& list, ReceiptKeeper* keeper = nullptr) {
    Progress progress;
    ApplyOptions options;
    options.keeper = keeper;
    return applyChanges(*session, catalogue, list, options, progress);
  }
  Result<Review> review(const ChangeList& list) {
    Progress progress;
    return reviewChanges(*session, catalogue, list, {}, progress);
  }
  Result<std::map<std::int64_t, std::int64_t>> values(const char* table) {
    Progress progress;
    std::map<std::int64_t, std::int64_t> out;
    Query query;
    query.table = catalogue.find({"", table});
    query.columns = {"id", "v"};
    ITERANDUM_TRY(session->select(
        query,
        [&out](ValueTuple&& row) {
          out[row[0].asInteger()] = row[1].asInteger();
          return true;
        },
        progress));
    return out;
  }
};

class ClusterTest : public ::testing::Test {
 protected:
  void SetUp() override {
    const char* all = std::getenv("ITERANDUM_TEST_CLUSTER");
    if (all == nullptr) GTEST_SKIP() << "no cluster is running: tools/servers cluster FOLDER";
    std::istringstream in(all);
    for (std::string one; in >> one;) servers.push_back(one);
    ASSERT_EQ(3U, servers.size());
    other = otherMariaDb(servers[0]);
    other->run(
        "CREATE TABLE tally (id INT PRIMARY KEY, v INT NOT NULL); INSERT INTO tally SELECT seq, 0 FROM seq_1_to_60;"
        "CREATE TABLE slow (id INT PRIMARY KEY, v INT NOT NULL); INSERT INTO slow SELECT seq, 0 FROM seq_1_to_60;"
        "CREATE TABLE made (id INT PRIMARY KEY AUTO_INCREMENT, v INT);"
        "CREATE TRIGGER slowly BEFORE UPDATE ON slow FOR EACH ROW SET @slept = SLEEP(0.05)");
  }
  void TearDown() override {
    if (servers.empty()) return;
    wakeAll();
    if (other) {
      EXPECT_TRUE(within(60s, [&] { return ready(); })) << "the cluster comes together again";
      other->run("SET GLOBAL wsrep_max_ws_rows = 0");
    }
  }

  template <typename Done>
  static bool within(std::chrono::seconds limit, const Done& done) {
    for (const auto end = std::chrono::steady_clock::now() + limit; std::chrono::steady_clock::now() < end;) {
      if (done()) return true;
      std::this_thread::sleep_for(50ms);
    }
    return false;
  }
  [[nodiscard]] bool ready() const {
    return rowsText(other->rows("SHOW STATUS LIKE 'wsrep_ready'")) == "wsrep_ready|ON" &&
           rowsText(other->rows("SHOW STATUS LIKE 'wsrep_cluster_size'")) == "wsrep_cluster_size|3";
  }
  [[nodiscard]] Member on(std::size_t server) const {
    const std::string address = servers[server] + other->address().substr(other->address().rfind('/'));
    Member out;
    // What was made on another server arrives a moment later.
    EXPECT_TRUE(within(10s, [&] {
      auto opened = openSession(address);
      if (!opened) return false;
      Progress progress;
      auto catalogue = (*opened)->readCatalogue(progress);
      if (!catalogue || catalogue->find({"", "made"}) == nullptr) return false;
      out.session = std::move(*opened);
      out.catalogue = std::move(*catalogue);
      return true;
    }));
    return out;
  }
  [[nodiscard]] static ChangeList edits(const char* table, const std::map<std::int64_t, std::int64_t>& from,
                                        std::int64_t by) {
    ChangeList list;
    for (const auto& [id, v] : from) {
      list.add({Action::Edit,
                {"", table},
                {"id"},
                {Value::integer(id)},
                {{"v", true, Value::integer(v), Value::integer(v + by)}},
                {}});
    }
    return list;
  }
  [[nodiscard]] std::string sum(const char* table) const {
    return rowsText(other->rows(std::string("SELECT count(*), sum(v) FROM ") + table));
  }
  // Two of the three stand still, so that the first has no majority.
  void freezeOthers() const { signalOthers(SIGSTOP); }
  void wakeAll() const { signalOthers(SIGCONT); }
  void signalOthers(int number) const {
    for (const char* server : {"2", "3"}) {
      std::ifstream file(std::string(std::getenv("ITERANDUM_TEST_CLUSTER_FOLDER")) + "/" + server + "/pid");
      pid_t pid = 0;
      file >> pid;
      ASSERT_GT(pid, 0);
      ASSERT_EQ(0, kill(pid, number));
    }
  }

  std::vector<std::string> servers;
  std::unique_ptr<OtherConnection> other;
};

TEST_F(ClusterTest, NobodysWriteIsLostBetweenTwoServers) {
  constexpr int kRounds = 120;
  std::array<int, 2> written{};
  std::array<int, 2> refused{};
  std::vector<std::thread> writers;
  for (std::size_t n = 0; n < 2; ++n) {
    writers.emplace_back([&, n] {
      Member member = on(n);
      std::mt19937 random(static_cast<unsigned>(n) + 1);
      for (int round = 0; round < kRounds; ++round) {
        const auto now = member.values("tally");
        ASSERT_TRUE(now) << now.error().text();
        std::map<std::int64_t, std::int64_t> some;
        while (some.size() < 3) {
          const std::int64_t id = 1 + static_cast<std::int64_t>(random() % 8);
          some[id] = now->at(id);
        }
        const auto applied = member.apply(edits("tally", some, 1));
        const bool quicker = !applied && applied.error().kind == ErrorKind::TryAgain;
        ASSERT_TRUE(applied || quicker) << applied.error().text();
        // Who wrote the same number is in nobody's way: it is so already, and not counted.
        if (applied && applied->receipt)
          written[n] += static_cast<int>(applied->receipt->appliedCount());
        else
          ++refused[n];
        if (applied && !applied->receipt) {
          ASSERT_THAT(findingsText(applied->review), HasSubstr("cell-changed"));
        }
      }
    });
  }
  for (std::thread& writer : writers) writer.join();
  other->run("SET SESSION wsrep_sync_wait = 1");
  EXPECT_EQ("60|" + std::to_string(written[0] + written[1]), sum("tally"));
  EXPECT_GT(written[0], 0);
  EXPECT_GT(written[1], 0);
  EXPECT_GT(refused[0] + refused[1], 0) << "they did stand in each other's way";
  std::cout << written[0] << " and " << written[1] << " cells written, " << refused[0] << " and " << refused[1]
            << " change sets refused\n";
}

TEST_F(ClusterTest, WhoIsOvertakenOnceIsReviewedAgainAndToldWhatChanged) {
  Member here = on(0);
  Member there = on(1);
  const auto before = here.values("slow");
  ASSERT_TRUE(before) << before.error().text();
  std::thread quick([&] {
    std::this_thread::sleep_for(500ms);
    const auto applied = there.apply(TestDatabase::changes("remove slow id=60\n"));
    EXPECT_TRUE(applied && applied->receipt);
  });
  const auto applied = here.apply(edits("slow", *before, 1));
  quick.join();
  ASSERT_TRUE(applied) << applied.error().text();
  EXPECT_FALSE(applied->receipt.has_value());
  EXPECT_EQ("record-gone 59 slow[60]", findingsText(applied->review));
  EXPECT_EQ("59|0", sum("slow"));
}

TEST_F(ClusterTest, WhoIsOvertakenAgainAndAgainIsToldSoInWords) {
  Member here = on(0);
  Member there = on(1);
  const auto before = here.values("slow");
  ASSERT_TRUE(before) << before.error().text();
  std::atomic<bool> over = false;
  std::thread quick([&] {
    while (!over) {
      // Gone and there again as it was: nothing that a comparison could find.
      (void)there.apply(TestDatabase::changes("remove slow id=60\n"));
      (void)there.apply(TestDatabase::changes("add slow id=60 v=0\n"));
      std::this_thread::sleep_for(100ms);
    }
  });
  Result<ApplyResult> applied;
  for (int i = 0; i < 5; ++i) {
    applied = here.apply(edits("slow", *before, 1));
    if (!applied) break;
  }
  over = true;
  quick.join();
  EXPECT_EQ("60|0", sum("slow"));
  ASSERT_FALSE(applied) << findingsText(applied->review);
  EXPECT_EQ(ErrorKind::TryAgain, applied.error().kind) << applied.error().text();
  EXPECT_THAT(applied.error().text(), HasSubstr("others kept changing the same records, and were quicker 8 times; "
                                                "nothing was written. Try again in a while"));
}

TEST_F(ClusterTest, AServerWithoutTheMajoritySaysSo) {
  Member here = on(0);
  const auto before = here.values("tally");
  ASSERT_TRUE(before) << before.error().text();
  freezeOthers();
  ASSERT_TRUE(within(30s, [&] { return !ready(); }));
  const auto said = [](const Error& error) {
    EXPECT_EQ(ErrorKind::NotServing, error.kind) << error.text();
    EXPECT_THAT(error.text(), HasSubstr("lost touch with most of its cluster"));
    EXPECT_THAT(error.text(), HasSubstr("use another server of the cluster"));
  };
  ASSERT_TRUE(within(30s, [&] { return !here.values("tally"); }));
  said(here.values("tally").error());
  const auto review = here.review(edits("tally", *before, 1));
  ASSERT_FALSE(review);
  said(review.error());
  const auto applied = here.apply(edits("tally", *before, 1));
  ASSERT_FALSE(applied);
  said(applied.error());
  EXPECT_THAT(applied.error().text(), HasSubstr("nothing was written"));
  wakeAll();
  ASSERT_TRUE(within(60s, [&] { return ready(); }));
  const auto again = here.apply(edits("tally", *before, 1));
  ASSERT_TRUE(again) << again.error().text();
  EXPECT_TRUE(again->receipt.has_value()) << "the same session goes on";
  EXPECT_EQ("60|60", sum("tally"));
}

// The others stand still while the COMMIT is on its way to them: what is said afterwards is so.
TEST_F(ClusterTest, ACommitUnderWhichTheClusterBreaksIsNotKnownUntilItIsTogetherAgain) {
  Member here = on(0);
  const auto before = here.values("tally");
  ASSERT_TRUE(before) << before.error().text();
  std::optional<Receipt> receipt;
  LambdaKeeper keeper([&](const Receipt& r, ReceiptStage) {
    receipt = r;
    freezeOthers();  // the last thing before the COMMIT
    return Status();
  });
  const auto applied = here.apply(edits("tally", *before, 1), &keeper);
  ASSERT_FALSE(applied) << "there was nobody to agree";
  EXPECT_EQ(ErrorKind::OutcomeUnknown, applied.error().kind) << applied.error().text();
  EXPECT_THAT(applied.error().text(), HasSubstr("the server lost touch with its cluster while committing, and whether "
                                                "the change set was written is not known"));
  EXPECT_EQ(0, keeper.dropped) << "the receipt waits";
  wakeAll();
  ASSERT_TRUE(within(60s, [&] { return ready(); }));
  Progress progress;
  ASSERT_TRUE(receipt.has_value());
  const auto state = writtenState(*here.session, here.catalogue, *receipt, progress);
  ASSERT_TRUE(state) << state.error().text();
  const std::string now = sum("tally");
  EXPECT_TRUE(now == "60|60" || now == "60|0") << now << ": all or nothing";
  EXPECT_EQ(now == "60|60" ? WrittenState::Written : WrittenState::NotWritten, *state);
}

TEST_F(ClusterTest, MoreThanItTakesAtOnceIsSaidByTheReview) {
  other->run("SET GLOBAL wsrep_max_ws_rows = 50");
  Member here = on(0);
  std::string lines;
  for (int id = 1; id <= 60; ++id) lines += "remove tally id=" + std::to_string(id) + "\n";
  const ChangeList all = TestDatabase::changes(lines);
  const auto review = here.review(all);
  ASSERT_FALSE(review) << findingsText(*review);
  EXPECT_EQ(ErrorKind::StorageFull, review.error().kind);
  EXPECT_THAT(review.error().text(), HasSubstr("more than the cluster takes in one transaction"));
  EXPECT_THAT(review.error().text(), HasSubstr("apply it in parts"));
  const auto applied = here.apply(all);
  ASSERT_FALSE(applied);
  EXPECT_THAT(applied.error().text(), HasSubstr("nothing was written"));
  const auto part = here.apply(TestDatabase::changes(lines.substr(0, lines.find("remove tally id=41\n"))));
  ASSERT_TRUE(part) << part.error().text();
  EXPECT_TRUE(part->receipt.has_value()) << findingsText(part->review);
  EXPECT_EQ("20|0", sum("tally"));
  // What was refused and tried again in halves counts once.
  other->run(
      "CREATE TRIGGER unlucky BEFORE INSERT ON made FOR EACH ROW IF NEW.v = 13 THEN SIGNAL SQLSTATE '45000' SET "
      "MESSAGE_TEXT = 'not 13'; END IF");
  std::string additions = "add made v=13\n";
  for (int v = 101; v <= 140; ++v) additions += "add made v=" + std::to_string(v) + "\n";
  const auto refused = on(0).review(TestDatabase::changes(additions));
  ASSERT_TRUE(refused) << refused.error().text();
  EXPECT_THAT(findingsText(*refused), HasSubstr("database-refused 0"));
  // The servers take no edits in batches under such a limit, be they ever so few.
  const auto edit = here.apply(edits("slow", {{1, 0}, {2, 0}}, 1));
  ASSERT_FALSE(edit) << findingsText(edit->review);
  EXPECT_THAT(edit.error().text(), HasSubstr("ask whoever runs it to set it to 0"));
  EXPECT_EQ("60|0", sum("slow"));
}

// Each server gives out numbers of its own, with gaps.
TEST_F(ClusterTest, NewRecordsAreKnownByTheNumbersThatTheServerGave) {
  Member there = on(1);
  const auto applied = there.apply(TestDatabase::changes("add made v=1\nadd made v=2\nadd made v=3\n"));
  ASSERT_TRUE(applied && applied->receipt) << (applied ? findingsText(applied->review) : applied.error().text());
  other->run("SET SESSION wsrep_sync_wait = 1");
  std::vector<ValueTuple> said;
  for (const ReceiptBlock& block : applied->receipt->blocks) {
    const auto v =
        static_cast<std::size_t>(std::find(block.columns.begin(), block.columns.end(), "v") - block.columns.begin());
    for (std::size_t r = 0; r < block.rows(); ++r) said.push_back({block.keys[0].at(r), block.after[v].at(r)});
  }
  EXPECT_EQ(rowsText(other->rows("SELECT id, v FROM made ORDER BY id")), rowsText(said));
  const auto back = there.apply(revertReceipt(*applied->receipt).changes);
  ASSERT_TRUE(back && back->receipt);
  EXPECT_EQ("0|-", sum("made"));
}

}  // namespace
}  // namespace iterandum::test
