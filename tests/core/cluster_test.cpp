// Three servers that are one cluster: what it refuses at the end, what it refuses altogether, and that nobody's write
// is lost between two of them. `tools/servers cluster` starts them.
#include <signal.h>

#include <chrono>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <random>
#include <sstream>
#include <thread>

#include "core/apply/apply.h"
#include "core/apply/outcome.h"
#include "core/engines/session.h"
#include "support/proxy.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

using ::testing::AllOf;
using ::testing::HasSubstr;
using ::testing::Not;
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
  // Two of the three stand still, so that the first has no majority. A signal is only on its way when kill() returns:
  // a thread that runs meanwhile may still agree to a commit, so each is waited for.
  void freezeOthers() const {
    signalOthers(SIGSTOP);
    for (const pid_t pid : others()) {
      EXPECT_TRUE(within(10s, [&] { return standsStill(pid); })) << pid;
    }
  }
  void wakeAll() const { signalOthers(SIGCONT); }
  void signalOthers(int number) const {
    for (const pid_t pid : others()) ASSERT_EQ(0, kill(pid, number));
  }
  [[nodiscard]] static std::vector<pid_t> others() {
    std::vector<pid_t> out;
    for (const char* server : {"2", "3"}) {
      std::ifstream file(std::string(std::getenv("ITERANDUM_TEST_CLUSTER_FOLDER")) + "/" + server + "/pid");
      pid_t pid = 0;
      file >> pid;
      EXPECT_GT(pid, 1) << server;
      if (pid > 1) out.push_back(pid);
    }
    return out;
  }
  [[nodiscard]] static bool standsStill(pid_t pid) {
    for (const auto& thread : std::filesystem::directory_iterator("/proc/" + std::to_string(pid) + "/task")) {
      std::ifstream file(thread.path() / "stat");
      const std::string stat((std::istreambuf_iterator<char>(file)), std::istreambuf_iterator<char>());
      const std::size_t name = stat.rfind(") ");
      if (name == std::string::npos || stat[name + 2] != 'T') return false;
    }
    return true;
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
  // It may be looked for at a moment when it is gone, and so more often the busier the machine.
  for (int i = 0; i < 30; ++i) {
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

// --- several servers in one address

class ServersInTurnTest : public ClusterTest {
 protected:
  [[nodiscard]] std::string database() const { return other->address().substr(other->address().rfind('/')); }
  [[nodiscard]] static std::string host(unsigned port) { return "127.0.0.1:" + std::to_string(port); }
  [[nodiscard]] unsigned port(std::size_t server) const {
    return static_cast<unsigned>(std::stoul(servers[server].substr(servers[server].rfind(':') + 1)));
  }
  [[nodiscard]] std::string address(const std::string& hosts) const { return "mariadb://quill@" + hosts + database(); }
  static Result<Member> open(const std::string& address) {
    Progress progress;
    Member out;
    ITERANDUM_ASSIGN(out.session, openSession(address));
    ITERANDUM_ASSIGN(out.catalogue, out.session->readCatalogue(progress));
    return out;
  }
  // Which server answers.
  static std::string nodeOf(const Member& member) {
    Progress progress;
    std::string out;
    Query query;
    query.table = member.catalogue.find({"", "whoami"});
    query.columns = {"node"};
    (void)member.session->select(
        query,
        [&out](ValueTuple&& row) {
          out = row[0].asString();
          return false;
        },
        progress);
    return out;
  }
  void SetUp() override {
    ClusterTest::SetUp();
    if (IsSkipped()) return;
    other->run(
        "CREATE FUNCTION node_name() RETURNS VARCHAR(40) DETERMINISTIC RETURN @@wsrep_node_name; CREATE VIEW whoami AS "
        "SELECT node_name() AS node");
    ASSERT_TRUE(on(1).session && on(2).session) << "the tables are there on all";
  }
  void TearDown() override {
    if (!servers.empty()) isolate(2, false);
    ClusterTest::TearDown();
  }
  // Alive, and cut off from the others.
  void isolate(std::size_t server, bool is) const {
    auto there = openSession(servers[server]);
    ASSERT_TRUE(there);
    Progress progress;
    (void)(*there)->runForProbe(
        "SET GLOBAL wsrep_provider_options = 'gmcast.isolate=" + std::string(is ? "1" : "0") + "'", progress);
  }
  static void kill9(std::size_t server) {
    std::ifstream file(std::string(std::getenv("ITERANDUM_TEST_CLUSTER_FOLDER")) + "/" + std::to_string(server + 1) +
                       "/pid");
    pid_t pid = 0;
    file >> pid;
    ASSERT_GT(pid, 1);
    ASSERT_EQ(0, kill(pid, SIGKILL));
  }
  void startAgain(std::size_t server) const {
    const std::string folder = std::getenv("ITERANDUM_TEST_CLUSTER_FOLDER");
    const std::string command =
        std::string(SERVERS) + " member " + folder.substr(0, folder.rfind('/')) + " " + std::to_string(server + 1);
    ASSERT_EQ(0, std::system(command.c_str()));
    ASSERT_TRUE(within(60s, [&] { return ready(); }));
  }
};

TEST_F(ServersInTurnTest, TheFirstThatAnswersAndTakesPartIsTaken) {
  const Proxy nobody(1, 0);  // nothing listens behind it
  const auto second = open(address(host(nobody.port()) + "," + host(port(1)) + "," + host(port(0))));
  ASSERT_TRUE(second) << second.error().text();
  EXPECT_EQ("server2", nodeOf(*second));
  isolate(2, true);
  ASSERT_TRUE(within(30s, [&] {
    auto there = open(address(host(port(2))));
    if (!there) return false;
    const auto read = there->values("tally");
    return !read && read.error().kind == ErrorKind::NotServing;
  })) << "cut off from the others it refuses";
  const auto next = open(address(host(port(2)) + "," + host(port(0))));
  ASSERT_TRUE(next) << next.error().text();
  EXPECT_EQ("server1", nodeOf(*next));
  const auto none = open(address(host(nobody.port()) + "," + host(port(2))));
  ASSERT_FALSE(none);
  EXPECT_THAT(none.error().text(), AllOf(HasSubstr("none of the servers can be used: " + host(nobody.port()) + ": "),
                                         HasSubstr(host(port(2)) + ": it has lost touch with most of its cluster")));
  isolate(2, false);
  ASSERT_TRUE(within(60s, [&] { return ready(); }));
  // Who is not let in is told so by the first; the others are not asked for the same.
  const auto unknown = open("mariadb://nobody@" + host(port(1)) + "," + host(port(0)) + database());
  ASSERT_FALSE(unknown);
  EXPECT_THAT(unknown.error().text(), AllOf(HasSubstr("password"), Not(HasSubstr("none of the servers"))));
}

TEST_F(ServersInTurnTest, TheAnswerToTheCommitIsLostAndAnotherServerKnowsIt) {
  Proxy line(port(1), 0);
  line.cutAt("COMMIT", Proxy::Moment::AfterItIsDone);
  line.refuseAfterCut();
  auto member = open(address(host(line.port()) + "," + host(port(2))));
  ASSERT_TRUE(member) << member.error().text();
  // Read elsewhere: looking at records ends with the same word.
  const auto before = on(1).values("tally");
  ASSERT_TRUE(before) << before.error().text();
  const auto applied = member->apply(edits("tally", *before, 1));
  ASSERT_TRUE(line.hasCut());
  ASSERT_TRUE(applied) << applied.error().text();
  EXPECT_TRUE(applied->receipt.has_value());
  EXPECT_EQ("server3", nodeOf(*member));
  other->run("SET SESSION wsrep_sync_wait = 1");
  EXPECT_EQ("60|60", sum("tally"));
}

// The server that was lost may be at it still: another one has no proof that it is not. And a number of a connection
// there is somebody else's here, who is not to be sent away.
TEST_F(ServersInTurnTest, ACommitThatNeverArrivedIsNotKnownOnAnotherServerAndNobodyElseIsEnded) {
  Proxy line(port(1), 0);
  line.cutAt("COMMIT", Proxy::Moment::BeforeItIsDone);
  line.refuseAfterCut();
  const auto number = [](OtherConnection& connection) {
    return std::stoll(rowsText(connection.rows("SELECT CONNECTION_ID()")));
  };
  // The numbers on the one are brought beyond those on the other.
  const long long there = number(*otherMariaDb(servers[2]));
  while (number(*otherMariaDb(servers[1])) < there + 2) {
  }
  auto member = open(address(host(line.port()) + "," + host(port(2))));
  ASSERT_TRUE(member) << member.error().text();
  // Read elsewhere: looking at records ends with the same word.
  const auto before = on(1).values("tally");
  ASSERT_TRUE(before) << before.error().text();
  const long long ours = std::stoll(rowsText(
      otherMariaDb(servers[1])
          ->rows("SELECT max(ID) FROM information_schema.PROCESSLIST WHERE DB = '" + database().substr(1) + "'")));
  std::unique_ptr<OtherConnection> bystander;
  while (!bystander || number(*bystander) < ours) bystander = otherMariaDb(servers[2]);
  ASSERT_EQ(ours, number(*bystander)) << "the same number on the other server";
  std::optional<Receipt> receipt;
  LambdaKeeper keeper([&](const Receipt& r, ReceiptStage) {
    receipt = r;
    return Status();
  });
  const auto applied = member->apply(edits("tally", *before, 1), &keeper);
  ASSERT_TRUE(line.hasCut());
  ASSERT_FALSE(applied);
  EXPECT_EQ(ErrorKind::OutcomeUnknown, applied.error().kind) << applied.error().text();
  EXPECT_EQ(0, keeper.dropped) << "the receipt waits";
  EXPECT_EQ(ours, number(*bystander)) << "it is still there";
  // Asked on the server itself it is known.
  Member later = on(1);
  Progress progress;
  const auto state = writtenState(*later.session, later.catalogue, *receipt, progress);
  ASSERT_TRUE(state) << state.error().text();
  EXPECT_EQ(WrittenState::NotWritten, *state);
  EXPECT_EQ("60|0", sum("tally"));
  // The session goes on, where it is.
  const auto again = member->apply(edits("tally", *before, 1));
  ASSERT_TRUE(again && again->receipt) << (again ? findingsText(again->review) : again.error().text());
}

// Killed, with nothing said to anybody, at each of some moments; what is said is so on those that are left, and on the
// one that was killed once it is back.
TEST_F(ServersInTurnTest, AServerIsKilledAnywhereInAnApplyAndWhatIsSaidIsSo) {
  std::int64_t times = 0;
  for (const std::uint64_t at : {std::uint64_t{40}, std::uint64_t{0}}) {
    SCOPED_TRACE("killed at " + (at == 0 ? std::string("its answer to COMMIT") : "message " + std::to_string(at)));
    Proxy line(port(2), at);
    if (at == 0) line.cutAt("COMMIT", Proxy::Moment::AfterItIsDone);
    line.refuseAfterCut();
    line.onCut([] { kill9(2); });
    auto member = open(address(host(line.port()) + "," + host(port(1))));
    ASSERT_TRUE(member) << member.error().text();
    const auto before = on(1).values("slow");
    ASSERT_TRUE(before) << before.error().text();
    const auto applied = member->apply(edits("slow", *before, 1));
    ASSERT_TRUE(line.hasCut());
    other->run("SET SESSION wsrep_sync_wait = 1");
    ASSERT_TRUE(within(
        30s, [&] { return rowsText(other->rows("SHOW STATUS LIKE 'wsrep_cluster_size'")) == "wsrep_cluster_size|2"; }));
    const std::string none = "60|" + std::to_string(times * 60);
    const std::string all = "60|" + std::to_string((times + 1) * 60);
    const std::string now = sum("slow");
    EXPECT_TRUE(now == none || now == all) << now << ": half of it";
    if (applied) {
      EXPECT_EQ(all, now);
    } else if (applied.error().kind != ErrorKind::OutcomeUnknown) {
      EXPECT_EQ(none, now) << applied.error().text();
    }
    if (now == all) ++times;
    startAgain(2);
    Member back = on(2);
    std::int64_t total = 0;
    const auto there = back.values("slow");
    ASSERT_TRUE(there) << there.error().text();
    for (const auto& [id, v] : *there) total += v;
    EXPECT_EQ(now, "60|" + std::to_string(total)) << "as it is on those that stayed";
  }
}

TEST_F(ClusterTest, AParentThatIsRemovedElsewhereMeanwhileIsMissed) {
  other->run(
      "CREATE TABLE species (species_id INT PRIMARY KEY, name VARCHAR(20)); INSERT INTO species VALUES (1, 'lime'), "
      "(2, 'ash'); CREATE TABLE tree (tree_id INT PRIMARY KEY, species_id INT, FOREIGN KEY (species_id) REFERENCES "
      "species (species_id)); INSERT INTO tree VALUES (7, 1)");
  Member here = on(0);
  Member there = on(1);
  ASSERT_TRUE(within(10s, [&] {
    Progress progress;
    auto read = there.session->readCatalogue(progress);
    if (read) there.catalogue = std::move(*read);
    return there.catalogue.find({"", "tree"}) != nullptr;
  }));
  bool removed = false;
  LambdaKeeper keeper([&](const Receipt&, ReceiptStage) {
    if (!std::exchange(removed, true)) {
      const auto gone = there.apply(TestDatabase::changes("remove species species_id=2 name:\"ash\""));
      EXPECT_TRUE(gone && gone->receipt) << (gone ? findingsText(gone->review) : gone.error().text());
    }
    return Status();
  });
  const auto applied = here.apply(
      TestDatabase::changes("edit tree tree_id=7 species_id:1->2\nadd tree tree_id=8 species_id=1"), &keeper);
  ASSERT_TRUE(applied) << applied.error().text();
  EXPECT_FALSE(applied->receipt.has_value());
  EXPECT_THAT(findingsText(applied->review), HasSubstr("parent-missing 0 tree[7]"));
  EXPECT_EQ("7|1", rowsText(other->rows("SELECT * FROM tree")));
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
