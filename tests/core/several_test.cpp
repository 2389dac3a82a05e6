// Several people at one database, and lines that drop: every change set is written whole or not at all, and what is
// said of it is true.
#include <sys/wait.h>
#include <unistd.h>

#include <random>

#include "core/engines/common/address.h"
#include "support/proxy.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

std::vector<Engine> serversAtHand() {
  std::vector<Engine> out;
  for (const Engine e : enginesAtHand()) {
    if (e != Engine::Sqlite) out.push_back(e);
  }
  return out;
}

class LostConnectionTest : public EngineTest {};
GTEST_ALLOW_UNINSTANTIATED_PARAMETERIZED_TEST(LostConnectionTest);
INSTANTIATE_TEST_SUITE_P(On, LostConnectionTest, ::testing::ValuesIn(serversAtHand()),
                         [](const auto& tested) { return engineName(tested.param); });

// The address of the database through a relay.
std::string through(const Proxy& proxy, const std::string& address) {
  const std::size_t from = address.rfind(':');
  const std::size_t to = address.find('/', from);
  return address.substr(0, from + 1) + std::to_string(proxy.port()) + address.substr(to);
}
unsigned portOf(const std::string& address) {
  return static_cast<unsigned>(std::stoul(serverAddress(address)->hosts[0].port));
}

// Opens, reads the catalogue and applies; the error's kind, or nothing when it was applied.
std::optional<Error> applyAt(const std::string& address, const ChangeList& changes) {
  Progress progress;
  auto session = openSession(address);
  if (!session) return session.error();
  auto catalogue = (*session)->readCatalogue(progress);
  if (!catalogue) return catalogue.error();
  auto result = applyChanges(**session, *catalogue, changes, {}, progress);
  if (!result) return result.error();
  return std::nullopt;
}

TEST_P(LostConnectionTest, WhereverTheLineDropsWhatIsSaidIsTrue) {
  TestDatabase db(smallRegister(GetParam()), GetParam());
  const ChangeList changes = TestDatabase::changes(
      "edit tree tree_id=7 condition:2->3\nedit tree tree_id=8 note:null->\"x\"\nadd species name=\"ash\"\nremove "
      "inspection tree_id=9 inspected_on=\"2025-05-05\" grade:\"unknown\"");
  const std::string before = db.dump();
  int written = 0;
  int notWritten = 0;
  constexpr std::uint64_t kMost = 500;
  std::uint64_t at = 1;
  for (bool dropped = true; dropped && at < kMost; ++at) {
    SCOPED_TRACE("the line drops at message " + std::to_string(at));
    const Proxy proxy(portOf(db.address()), at);
    const auto error = applyAt(through(proxy, db.address()), changes);
    dropped = proxy.hasCut();
    if (!error) {
      ++written;
      EXPECT_NE(before, db.dump()) << "said to be written";
      db.empty();
      db.run(smallRegister(GetParam()));
      continue;
    }
    ++notWritten;
    EXPECT_TRUE(error->kind == ErrorKind::ConnectionLost || error->kind == ErrorKind::CannotOpen) << error->message;
    ASSERT_EQ(before, db.dump()) << "said not to be written: " << error->message;
  }
  EXPECT_LT(at, kMost);
  EXPECT_GT(notWritten, 10);
  EXPECT_GE(written, 1) << "the last run has no drop";
}

TEST_P(LostConnectionTest, ALostAnswerToTheCommitIsFoundOut) {
  TestDatabase db(smallRegister(GetParam()), GetParam());
  const ChangeList changes = TestDatabase::changes("edit tree tree_id=7 condition:2->3\nadd species name=\"ash\"");
  const std::string before = db.dump();
  {
    Proxy proxy(portOf(db.address()), 0);
    proxy.cutAt("COMMIT", Proxy::Moment::BeforeItIsDone);
    const auto error = applyAt(through(proxy, db.address()), changes);
    ASSERT_TRUE(proxy.hasCut());
    ASSERT_TRUE(error.has_value());
    EXPECT_EQ(ErrorKind::ConnectionLost, error->kind) << error->message;
    EXPECT_THAT(error->message, ::testing::HasSubstr("nothing was written"));
    EXPECT_EQ(before, db.dump());
  }
  Proxy proxy(portOf(db.address()), 0);
  proxy.cutAt("COMMIT", Proxy::Moment::AfterItIsDone);
  const auto error = applyAt(through(proxy, db.address()), changes);
  ASSERT_TRUE(proxy.hasCut());
  EXPECT_FALSE(error.has_value()) << error->message;
  EXPECT_EQ("3", db.rows("SELECT condition FROM tree WHERE tree_id = 7"));
}

// --- several processes
// ------------------------------------------------------------------------------------------------

class SeveralPeopleTest : public EngineTest {};
ITERANDUM_ON_ALL_ENGINES(SeveralPeopleTest);

constexpr int kProcesses = 4;
constexpr int kTransfers = 15;
constexpr int kAccounts = 5;

// Moves one from an account to another, many times, as what was read says; and counts itself in the same change set.
// The exit status says whether all of it went as it may.
int transfer(const std::string& address, int who) {
  Progress progress;
  auto session = openSession(address);
  if (!session) return 2;
  auto catalogue = (*session)->readCatalogue(progress);
  if (!catalogue) return 3;
  const Table* table = catalogue->find({"", "account"});
  std::mt19937 random(static_cast<unsigned>(who));
  int attempt = 0;
  for (int done = 0; done < kTransfers;) {
    const int from = static_cast<int>(random() % kAccounts);
    const int to = static_cast<int>(from + 1 + random() % (kAccounts - 1)) % kAccounts;
    std::map<std::int64_t, std::int64_t> held;
    std::map<std::int64_t, std::string> last;
    Query query;
    query.table = table;
    query.columns = {"id", "held", "last"};
    const auto take = [&](ValueTuple&& row) {
      held[row[0].asInteger()] = row[1].asInteger();
      last[row[0].asInteger()] = canonicalText(row[2]);
      return true;
    };
    if (!(*session)->select(query, take, progress)) return 4;
    std::string lines;
    // Who wrote last is a cell of its own: the same amount by somebody else is not "already so" then.
    const std::string me = std::to_string(who) + "-" + std::to_string(++attempt);
    const auto edit = [&](int id, std::int64_t by) {
      lines += "edit account id=" + std::to_string(id) + " held:" + std::to_string(held[id]) + "->" +
               std::to_string(held[id] + by) + " last:\"" + last[id] + "\"->\"" + me + "\"\n";
    };
    edit(from, -1);
    edit(to, 1);
    edit(100 + who, 1);
    ApplyOptions options;
    options.lockTimeout = std::chrono::seconds(60);
    auto result = applyChanges(**session, *catalogue, TestDatabase::changes(lines), options, progress);
    if (!result) {
      std::fprintf(stderr, "process %d: %s\n", who, result.error().message.c_str());
      return 5;
    }
    if (result->receipt) ++done;  // else somebody else was there first: read again
  }
  return 0;
}

TEST_P(SeveralPeopleTest, OverlappingChangeSetsAreWholeAndSerial) {
  std::string schema =
      "CREATE TABLE account (id integer PRIMARY KEY, held integer NOT NULL, last varchar(20) NOT NULL);";
  for (int i = 0; i < kAccounts; ++i) schema += "INSERT INTO account VALUES (" + std::to_string(i) + ", 50, '');";
  for (int i = 0; i < kProcesses; ++i) schema += "INSERT INTO account VALUES (" + std::to_string(100 + i) + ", 0, '');";
  TestDatabase db(schema, GetParam());
  std::vector<pid_t> children;
  for (int who = 0; who < kProcesses; ++who) {
    const pid_t child = fork();
    if (child == 0) _exit(transfer(db.address(), who));
    children.push_back(child);
  }
  for (const pid_t child : children) {
    int status = 0;
    waitpid(child, &status, 0);
    EXPECT_TRUE(WIFEXITED(status) && WEXITSTATUS(status) == 0) << "status " << WEXITSTATUS(status);
  }
  // Nothing was lost and nothing written twice: what was moved is all there, and every change set counted itself once.
  EXPECT_EQ("250", db.rows("SELECT sum(held) FROM account WHERE id < 100"));
  EXPECT_EQ("15|15", db.rows("SELECT min(held), max(held) FROM account WHERE id >= 100"));
}

TEST_P(SeveralPeopleTest, ALockThatIsHeldIsWaitedForAndSaid) {
  if (GetParam() == Engine::Sqlite) GTEST_SKIP() << "a lock of SQLite is of the whole file: see FaultTest";
  TestDatabase db(smallRegister(GetParam()), GetParam());
  const std::string before = db.dump();
  db.run(GetParam() == Engine::MariaDb ? "START TRANSACTION" : "BEGIN");
  db.run("UPDATE tree SET note = 'mine' WHERE tree_id = 7");
  const std::string said = db.apply("edit tree tree_id=7 condition:2->3");
  EXPECT_THAT(said, ::testing::StartsWith("error: did not get the lock on tree within 1 s; it "));
  EXPECT_THAT(said, ::testing::HasSubstr("held by "));
  EXPECT_THAT(said, ::testing::EndsWith("; nothing was written"));
  EXPECT_EQ("applied", db.apply("edit tree tree_id=8 condition:2->3")) << "another record is free";
  db.run("ROLLBACK");
  EXPECT_EQ("applied", db.apply("edit tree tree_id=7 condition:2->3"));
}

}  // namespace
}  // namespace iterandum::test
