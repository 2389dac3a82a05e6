// Probing: the engines that are known hold what is counted on; a database that does not is found out, and nothing of
// the probe is left behind.
#include "core/engines/probe.h"

#include <gmock/gmock.h>

#include "support/test_database.h"

namespace iterandum::test {
namespace {

class ProbeTest : public EngineTest {
 protected:
  std::string probed(bool byReading = false) {
    ProbeOptions options;
    options.byReadingAlone = byReading;
    options.table = "iterandum_probe_test";
    Progress progress;
    const auto answers = probeDatabase(db.address(), options, progress);
    if (!answers) return answers.error().text();
    std::string out;
    for (const Probed& one : *answers) {
      if (one.answer == Probed::Answer::Holds) continue;
      out += one.what + ": " + answerInWords(one.answer) + "; " + one.detail + "; " + one.then + "\n";
    }
    asked = answers->size();
    return out;
  }
  TestDatabase db{smallRegister(GetParam()), GetParam()};
  std::size_t asked = 0;
};

TEST_P(ProbeTest, WhatIsCountedOnHoldsAndNothingIsLeftBehind) {
  const std::string before = db.dump();
  const std::string seen = probed();
  EXPECT_EQ(12U, asked);
  if (GetParam() == Engine::MariaDb) {
    EXPECT_EQ(
        "what code of the database writes besides can be told: does not hold; the server does not say it; The review "
        "shows what references take along, not what triggers do elsewhere.\n",
        seen);
  } else {
    EXPECT_EQ("", seen);
  }
  EXPECT_EQ(before, db.dump());
  db.forget();
  EXPECT_EQ(nullptr, db.catalogue().find({"", "iterandum_probe_test"}));
}

TEST_P(ProbeTest, ByReadingAloneNothingIsTriedThatWrites) {
  const std::string before = db.dump();
  const std::string seen = probed(true);
  EXPECT_THAT(seen, ::testing::HasSubstr("what is rolled back is gone: not tried; it was asked for by reading alone"));
  EXPECT_THAT(seen, ::testing::Not(::testing::HasSubstr("does not hold")));
  EXPECT_EQ(12U, asked);
  EXPECT_EQ(before, db.dump());
}

TEST_P(ProbeTest, ATableOfThatNameIsNotTouched) {
  db.run("CREATE TABLE iterandum_probe_test (kept INTEGER)");
  db.run("INSERT INTO iterandum_probe_test VALUES (5)");
  EXPECT_THAT(probed(), ::testing::HasSubstr("not tried; no table of its own could be made"));
  EXPECT_EQ("5", db.rows("SELECT kept FROM iterandum_probe_test"));
}

ITERANDUM_ON_ALL_ENGINES(ProbeTest);

// Storage that cannot roll back, as a server's default.
TEST(ProbeOfAWeakServerTest, IsFoundOut) {
  const std::vector<Engine> servers = serversAtHand();
  if (std::find(servers.begin(), servers.end(), Engine::MariaDb) == servers.end()) GTEST_SKIP() << "no MariaDB server";
  TestDatabase db("CREATE TABLE t (id INTEGER PRIMARY KEY);", Engine::MariaDb);
  const std::string was = db.rows("SELECT @@global.default_storage_engine");
  db.run("SET GLOBAL default_storage_engine = 'Aria'");
  ProbeOptions options;
  options.table = "iterandum_probe_test";
  Progress progress;
  const auto answers = probeDatabase(db.address(), options, progress);
  db.run("SET GLOBAL default_storage_engine = '" + was + "'");
  ASSERT_TRUE(answers) << answers.error().text();
  std::string seen;
  for (const Probed& one : *answers) {
    if (one.answer == Probed::Answer::DoesNot) seen += one.what + "\n";
  }
  EXPECT_THAT(seen, ::testing::HasSubstr("what is rolled back is gone\n"));
  EXPECT_THAT(seen, ::testing::HasSubstr("a record that is locked stays as it is until the end\n"));
  db.forget();
  EXPECT_EQ(nullptr, db.catalogue().find({"", "iterandum_probe_test"}));
}

}  // namespace
}  // namespace iterandum::test
