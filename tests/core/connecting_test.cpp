// Connecting: the customary files of each client library, sockets, encryption, and servers that are old, silent or
// gone.
#include <sys/stat.h>

#include <cstdlib>
#include <fstream>
#include <thread>

#include "core/engines/common/address.h"
#include "core/engines/connection_trial.h"
#include "support/fake_server.h"
#include "support/proxy.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;
using ::testing::StartsWith;

// A variable of the environment for as long as the object lives.
class Variable {
 public:
  Variable(const char* name, const std::string& value) : name_(name) {
    if (const char* old = std::getenv(name)) old_ = old;
    setenv(name, value.c_str(), 1);
  }
  Variable(const Variable&) = delete;
  Variable& operator=(const Variable&) = delete;
  ~Variable() {
    if (old_) {
      setenv(name_, old_->c_str(), 1);
    } else {
      unsetenv(name_);
    }
  }

 private:
  const char* name_;
  std::optional<std::string> old_;
};

std::string serverFile(const std::string& name) { return std::getenv("ITERANDUM_TEST_SERVERS") + ("/" + name); }

// What opening comes to: "good" with what the line is encrypted by, or the step that failed with its words.
std::string opened(const std::string& address, const OpenOptions& options = {}) {
  const auto session = openSession(address, options);
  if (!session) return session.error().step + ": " + session.error().message;
  return "good " + (*session)->info().encryption;
}

class ConnectingTest : public EngineTest {
 protected:
  void SetUp() override {
    if (std::getenv("ITERANDUM_TEST_SERVERS") == nullptr) GTEST_SKIP() << "the servers' folder is not known";
    db = std::make_unique<TestDatabase>(smallRegister(GetParam()), GetParam());
    parts = *serverAddress(db->address());
  }
  [[nodiscard]] bool isPostgreSql() const { return GetParam() == Engine::PostgreSql; }
  [[nodiscard]] std::string scheme() const { return isPostgreSql() ? "postgresql://" : "mariadb://"; }
  // The database's address by another port.
  [[nodiscard]] std::string addressBy(unsigned port) const {
    return scheme() + parts.user + "@127.0.0.1:" + std::to_string(port) + "/" + parts.database;
  }
  std::unique_ptr<TestDatabase> db;
  ServerAddress parts;
};
ITERANDUM_ON_SERVERS(ConnectingTest);

TEST_P(ConnectingTest, TheServersCertificateIsCheckedAsTheAddressSays) {
  const auto with = [&](const std::string& authority, const std::string& host) {
    const std::string file = serverFile("certificates/" + authority + ".crt");
    const std::string check =
        isPostgreSql() ? "?sslmode=verify-full&sslrootcert=" + file : "?ssl-verify-server-cert=1&ssl-ca=" + file;
    return scheme() + parts.user + "@" + host + ":" + parts.hosts[0].port + "/" + parts.database + check;
  };
  EXPECT_EQ("good TLSv1.3", opened(with("authority", "127.0.0.1")));
  const std::string stranger = opened(with("stranger", "127.0.0.1"));
  EXPECT_THAT(stranger, StartsWith("tls: "));
  EXPECT_THAT(stranger, HasSubstr("certificate"));
  EXPECT_THAT(opened(with("authority", "localhost")), StartsWith("tls: ")) << "another host's certificate";
  EXPECT_THAT(opened(with("no-such-file", "127.0.0.1")), StartsWith("tls: "));
  EXPECT_EQ("good ", opened(db->address())) << "as nothing was asked for";
}

TEST_P(ConnectingTest, ASocketOfThisComputerIsTaken) {
  const std::string address =
      isPostgreSql() ? "postgresql://quill@/" + parts.database + "?host=" + serverFile("postgresql") +
                           "&port=" + parts.hosts[0].port
                     : "mariadb://quill@localhost/" + parts.database + "?socket=" + serverFile("mariadb/socket");
  EXPECT_EQ("good ", opened(address));
}

TEST_P(ConnectingTest, TheCustomaryFilesAreRead) {
  const std::string rights = isPostgreSql()
                                 ? "DO $$ BEGIN CREATE ROLE clerk LOGIN PASSWORD 'lime tree'; EXCEPTION WHEN OTHERS "
                                   "THEN NULL; END $$; GRANT SELECT ON tree TO clerk"
                                 : "GRANT SELECT ON " + parts.database + ".* TO clerk@'%'";
  db->run(rights);
  TemporaryFolder home;
  const auto write = [&](const std::string& name, const std::string& text) {
    std::ofstream(home.file(name)) << text;
    chmod(home.file(name).c_str(), 0600);
    return home.file(name);
  };
  const std::string clerk = scheme() + "clerk@127.0.0.1:" + parts.hosts[0].port + "/" + parts.database;
  EXPECT_THAT(opened(clerk), StartsWith("password: "));
  if (isPostgreSql()) {
    const Variable passwords("PGPASSFILE", write("passwords", "127.0.0.1:*:*:clerk:lime tree\n"));
    EXPECT_EQ("good ", opened(clerk));
    const Variable services("PGSERVICEFILE", write("services", "[trees]\nhost=127.0.0.1\nport=" + parts.hosts[0].port +
                                                                   "\nuser=clerk\ndbname=" + parts.database + "\n"));
    EXPECT_EQ("good ", opened("postgresql:///?service=trees"));
    EXPECT_THAT(opened("postgresql:///?service=shrubs"), HasSubstr("shrubs"));
  } else {
    write(".my.cnf",
          "[client]\nhost=127.0.0.1\nport=" + parts.hosts[0].port + "\nuser=clerk\npassword=\"lime tree\"\n");
    {
      const Variable place("HOME", home.file(""));
      EXPECT_EQ("good ", opened(clerk));
      EXPECT_EQ("good ", opened("mariadb:///" + parts.database));
    }
    // Such a file may also say how a session is to begin: our own settings come after it.
    write(".my.cnf",
          "[client]\ninit-command=\"SET sql_mode = 'ANSI_QUOTES,NO_BACKSLASH_ESCAPES', time_zone = '+09:00'\"\n");
    const Variable place("HOME", home.file(""));
    db->forget();
    EXPECT_EQ("applied", db->apply("edit tree tree_id=7 tag:\"T7\"->\"a\\\\'\""));
    EXPECT_EQ("a\\'", db->rows("SELECT tag FROM tree WHERE tree_id = 7"));
  }
}

TEST_P(ConnectingTest, AServerThatIsTooOldIsSaid) {
  const FakeServer old(isPostgreSql() ? "" : mariaDbGreeting("5.5.68-MariaDB"),
                       isPostgreSql() ? postgreSqlGreeting("9.6.24") : mariaDbWelcome());
  EXPECT_THAT(opened(scheme() + "u@127.0.0.1:" + old.port() + "/d"),
              HasSubstr(isPostgreSql() ? "the server is PostgreSQL 9; version 12 or newer is needed"
                                       : "the server is MariaDB 5.5.68-MariaDB; MariaDB 10.6 or newer is needed"));
}

TEST_P(ConnectingTest, AServerThatNeverAnswersIsGivenUp) {
  const FakeServer silent("", "");
  const std::string timeout = isPostgreSql() ? "?connect_timeout=1" : "?connect-timeout=1";
  const std::string said = opened(scheme() + "u@127.0.0.1:" + silent.port() + "/d" + timeout);
  EXPECT_THAT(said, StartsWith("port: "));
  EXPECT_THAT(said, HasSubstr("the server did not answer in time"));
}

TEST_P(ConnectingTest, ConnectingCanBeStopped) {
  const FakeServer silent("", "");
  Progress progress;
  std::thread somebody([&] {
    std::this_thread::sleep_for(std::chrono::milliseconds(100));
    progress.cancel();
  });
  // Without the stop it would take an hour.
  const std::string timeout = isPostgreSql() ? "?connect_timeout=3600" : "?connect-timeout=3600";
  const auto session = openSession(scheme() + "u@127.0.0.1:" + silent.port() + "/d" + timeout, {}, progress);
  somebody.join();
  ASSERT_FALSE(session.has_value());
  EXPECT_EQ(ErrorKind::Cancelled, session.error().kind);
}

// Counting is one single step of SQLite's machine, which is long where the file has to come from a slow disk first.
TEST(SqliteStoppingTest, TheCountOfAWholeTableIsStopped) {
  TestDatabase db;
  db.run(
      "CREATE TABLE many (id INTEGER PRIMARY KEY); WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n "
      "WHERE "
      "i < 2000000) INSERT INTO many SELECT i FROM n");
  Query query;
  query.table = db.catalogue().find({"", "many"});
  ASSERT_NE(nullptr, query.table);
  int stopped = 0;
  for (int round = 0; round < 20; ++round) {
    Progress progress;
    std::thread somebody([&] {
      std::this_thread::sleep_for(std::chrono::milliseconds(1));
      progress.cancel();
    });
    const auto count = db.session().count(query, progress);
    somebody.join();
    if (count) continue;
    EXPECT_EQ(ErrorKind::Cancelled, count.error().kind) << count.error().text();
    ++stopped;
  }
  EXPECT_LT(0, stopped);
  Progress progress;
  EXPECT_EQ(2000000U, db.session().count(query, progress).value());
}

TEST_P(ConnectingTest, WhatWaitsForASilentServerCanBeStoppedAndNothingWasWritten) {
  Proxy line(static_cast<unsigned>(std::stoul(parts.hosts[0].port)), 0);
  const std::string before = db->dump();
  {
    auto session = openSession(addressBy(line.port()));
    ASSERT_TRUE(session.has_value()) << session.error().message;
    Progress progress;
    std::thread somebody([&] {
      std::this_thread::sleep_for(std::chrono::milliseconds(100));
      progress.cancel();
    });
    line.fallSilent();
    const auto result = applyChanges(**session, db->catalogue(),
                                     TestDatabase::changes("edit tree tree_id=7 condition:2->3"), {}, progress);
    somebody.join();
    ASSERT_FALSE(result.has_value());
    EXPECT_TRUE(result.error().kind == ErrorKind::ConnectionLost || result.error().kind == ErrorKind::Cancelled)
        << result.error().message;
  }
  EXPECT_EQ(before, db->dump());
}

// The window's catalogue may be older than the database: what is not there any more is said, and nothing is written.
TEST_P(ConnectingTest, WhatWasRenamedOrDroppedMeanwhileIsSaid) {
  (void)db->catalogue();
  db->run("ALTER TABLE tree RENAME COLUMN condition TO grade");
  const std::string before = db->dump();
  EXPECT_THAT(db->apply("edit tree tree_id=7 condition:2->3"), HasSubstr("condition"));
  db->run("DROP TABLE photo");
  EXPECT_THAT(db->apply("edit photo photo_id=1 caption:\"crown\"->\"b\""), HasSubstr("photo"));
  db->forget();
  EXPECT_EQ("structure-changed 0 tree[7].condition", db->apply("edit tree tree_id=7 condition:2->3"));
}

}  // namespace
}  // namespace iterandum::test
