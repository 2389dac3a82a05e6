// The command line from outside: the built binary, its exit statuses, its output, hostile files and databases.
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <sys/stat.h>
#include <sys/wait.h>

#include <cstdio>
#include <fstream>

#include "core/store/store.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;
using ::testing::StartsWith;

struct Ran {
  int status = -1;
  std::string out;
  std::string err;
};

class CliTest : public ::testing::Test {
 protected:
  Ran run(const std::string& arguments, const std::string& input = "") {
    std::ofstream(db.file("stdin"), std::ios::binary) << input;
    const std::string command = "XDG_STATE_HOME='" + db.file("state") + "' " CLI_BINARY " " + arguments + " < '" +
                                db.file("stdin") + "' 2> '" + db.file("stderr") + "'";
    Ran ran;
    FILE* pipe = popen(command.c_str(), "r");
    char buffer[4096];
    std::size_t n = 0;
    while ((n = fread(buffer, 1, sizeof buffer, pipe)) > 0) ran.out.append(buffer, n);
    const int status = pclose(pipe);
    ran.status = WIFEXITED(status) ? WEXITSTATUS(status) : -1;
    ran.err = read("stderr");
    return ran;
  }
  [[nodiscard]] std::string read(const std::string& name) const {
    std::ifstream in(db.file(name), std::ios::binary);
    return {std::istreambuf_iterator<char>(in), {}};
  }
  [[nodiscard]] std::string path() const { return "'" + db.path() + "'"; }
  static std::string file(const std::string& changes) {
    return R"({"format":"iterandum-changes","version":1,"changes":[)" + changes + "]}";
  }
  const std::string regrade =
      file(R"({"action":"edit","table":"tree","key":{"tree_id":7},"cells":{"condition":{"from":2,"to":3}}})");
  const std::string conflict =
      file(R"({"action":"edit","table":"tree","key":{"tree_id":7},"cells":{"condition":{"from":1,"to":3}}})");
  TestDatabase db{kSmallRegister};
};

TEST_F(CliTest, WordsThatAreOffEndWithTwo) {
  for (const char* call : {"", "mend x", "show", "review onlyone", "apply a b --on-conflict perhaps",
                           "tables x --format csv", "show x y --limit many", "revert r"}) {
    EXPECT_EQ(2, run(call).status) << call;
  }
  EXPECT_EQ(0, run("--help").status);
  EXPECT_EQ(0, run("show --help").status);
  EXPECT_EQ(2, run("show " + path() + " shrub").status);
  EXPECT_THAT(run("show " + path() + " tre").err, HasSubstr("did you mean tree?"));
  EXPECT_EQ(2, run("show " + path() + " tree --where 'condition >= much'").status);
  EXPECT_EQ(2, run("show " + path() + " tree --sort colour").status);
  EXPECT_EQ(2, run("show " + path() + " tree --columns 'tag,,note'").status);
}

TEST_F(CliTest, DatabasesThatCannotBeOpenedEndWithFive) {
  std::ofstream(db.file("text.db"))
      << "not a database at all, though it is long enough to look at: 0123456789 0123456789 0123456789 0123456789";
  for (const std::string& name : {db.file("nowhere.db"), db.file("text.db"), std::string("/tmp"),
                                  std::string(":memory:"), std::string("file:x?mode=memory")}) {
    const Ran ran = run("tables '" + name + "'");
    EXPECT_EQ(5, ran.status) << name << ran.err;
    EXPECT_EQ("", ran.out);
  }
  EXPECT_EQ(0, run("tables 'sqlite:" + db.path() + "'").status);
}

TEST_F(CliTest, ShowWritesTablesCsvAndJson) {
  EXPECT_EQ("tag,note\r\nT7,old\r\nT8,\r\nT9,\"\"\r\n",
            run("show " + path() + " tree --columns tag,note --format csv").out);
  EXPECT_EQ("tag,note\r\nT7,old\r\nT8,none\r\nT9,\"\"\r\n",
            run("show " + path() + " tree --columns tag,note --format csv --null none").out);
  EXPECT_EQ("[\n{\"tag\":\"T9\",\"height\":20.25},\n{\"tag\":\"T8\",\"height\":9}\n]\n",
            run("show " + path() + " tree --columns tag,height --sort tag:desc --limit 2 --format json").out);
  EXPECT_EQ("[]\n", run("show " + path() + " tree --where 'condition > 4' --format json").out);
  const std::string table =
      run("show " + path() + " tree --columns tag,note --where 'condition <= 2' --where 'note no value'").out;
  EXPECT_THAT(table, HasSubstr("T8   no value"));
  EXPECT_THAT(table, ::testing::Not(HasSubstr("T7")));
}

TEST_F(CliTest, ShowBorrowsColumnsAndTakesSavedScopes) {
  EXPECT_EQ("species.name,tag\r\noak,T9\r\nlime,T7\r\nlime,T8\r\n",
            run("show " + path() + " tree --columns species.name,tag --sort species.name:desc --format csv").out);
  EXPECT_THAT(run("show " + path() + " tree --columns specie.name").err, HasSubstr("'specie' is no reference of tree"));
  const std::string saved = db.file("poor.json");
  std::ofstream(saved) << scopeToJson("poor", {"tree", {{"species.name", "lime"}}, {{"tag", true}}, {"tag"}});
  EXPECT_EQ("tag\r\nT8\r\nT7\r\n", run("show " + path() + " --scope-file " + saved + " --format csv").out);
  EXPECT_EQ("tag\r\nT7\r\n", run("show " + path() + " --scope-file " + saved + " --where 'note old' --format csv").out);
  EXPECT_EQ(2, run("show " + path()).status);
  const Ran missing = run("show " + path() + " --scope poor");
  EXPECT_EQ(2, missing.status);
  EXPECT_THAT(missing.err, HasSubstr("no scope 'poor' is saved for this database"));
  {
    auto store = Store::open(db.file("state/iterandum/store.sqlite"));
    ASSERT_TRUE(store.has_value()) << store.error().text();
    ASSERT_TRUE(
        (*store)->saveScope(db.session().info().address, {"poor", {"tree", {{"", "condition > 3"}}, {}, {"tag"}}}));
  }
  EXPECT_EQ("tag\r\nT9\r\n", run("show " + path() + " --scope poor --format csv").out);
  db.run("ALTER TABLE tree RENAME COLUMN condition TO grade");
  const Ran dropped = run("show " + path() + " --scope poor");
  EXPECT_EQ(2, dropped.status);
  EXPECT_THAT(dropped.err, HasSubstr("--where 'condition > 3', position 1: 'condition' is no column of tree; it has"));
  std::ofstream(saved) << "{\"format\": \"iterandum-scope\", \"version\": 1, \"table\": 5}";
  EXPECT_EQ(4, run("show " + path() + " --scope-file " + saved).status);
}

TEST_F(CliTest, NothingInARecordCanPlayWithTheTerminal) {
  db.run("UPDATE tree SET note = char(27) || '[2J' || char(10) || char(155) || CAST(X'FF' AS TEXT) WHERE tree_id = 7");
  const std::string out = run("show " + path() + " tree --columns note --limit 1").out;
  EXPECT_THAT(out, HasSubstr("\\x1b[2J\\n\\xc2\\x9b\\xff"));
}

TEST_F(CliTest, TablesListsThemAll) {
  const Ran ran = run("tables " + path() + " --format json");
  EXPECT_EQ(0, ran.status);
  EXPECT_THAT(ran.out,
              HasSubstr(R"("name": "inspection", "kind": "table", "records": 3, "key": ["tree_id", "inspected_on"])"));
}

TEST_F(CliTest, ReviewSaysReadyOrBlocked) {
  Ran ran = run("review " + path() + " -", regrade);
  EXPECT_EQ(0, ran.status) << ran.err;
  EXPECT_THAT(ran.out, HasSubstr("ready to apply"));
  ran = run("review " + path() + " - --format json", conflict);
  EXPECT_EQ(3, ran.status);
  EXPECT_THAT(ran.out, HasSubstr(R"("ready": false)"));
  EXPECT_EQ(3, run("review " + path() + " - --no-rehearsal", conflict).status);
  EXPECT_EQ("2", db.rows("SELECT condition FROM tree WHERE tree_id = 7"));
}

TEST_F(CliTest, ApplyRevertAndApplyAgainComeBackToTheStart) {
  const std::string before = db.rows("SELECT condition FROM tree");
  Ran ran = run("apply " + path() + " - --receipt '" + db.file("r.json") + "'", regrade);
  EXPECT_EQ(0, ran.status) << ran.err;
  EXPECT_EQ("3", db.rows("SELECT condition FROM tree WHERE tree_id = 7"));
  EXPECT_EQ(0, run("revert '" + db.file("r.json") + "' -o '" + db.file("back.json") + "'").status);
  EXPECT_EQ(0, run("apply " + path() + " '" + db.file("back.json") + "'").status);
  EXPECT_EQ(before, db.rows("SELECT condition FROM tree"));
  ran = run("apply " + path() + " - --format json", regrade);
  EXPECT_THAT(ran.out, HasSubstr(R"("format": "iterandum-receipt")"));
  EXPECT_EQ(0, run("revert - -o -", ran.out).status);
  struct stat info {};
  ASSERT_EQ(0, stat(db.file("state/iterandum/store.sqlite").c_str(), &info));
  EXPECT_EQ(0600U, info.st_mode & 0777U);
}

TEST_F(CliTest, ConflictsFollowTheOrderGiven) {
  EXPECT_EQ(3, run("apply " + path() + " -", conflict).status);
  EXPECT_EQ(0, run("apply " + path() + " - --on-conflict theirs", conflict).status);
  EXPECT_EQ("2", db.rows("SELECT condition FROM tree WHERE tree_id = 7"));
  EXPECT_EQ(0, run("apply " + path() + " - --on-conflict mine", conflict).status);
  EXPECT_EQ("3", db.rows("SELECT condition FROM tree WHERE tree_id = 7"));
}

TEST_F(CliTest, BadChangeFilesEndWithFourAndNameThePlace) {
  const Ran ran = run("review " + path() + " -", file(R"({"action":"mend"})"));
  EXPECT_EQ(4, ran.status);
  EXPECT_THAT(ran.err, HasSubstr("/changes/0/action"));
  EXPECT_EQ(4, run("apply " + path() + " '" + db.file("missing.json") + "'").status);
  EXPECT_EQ(4, run("apply " + path() + " /").status);
  EXPECT_EQ(4, run("revert - -o -", regrade).status);
}

TEST_F(CliTest, AReceiptThatCannotBeWrittenMeansNothingIsApplied) {
  EXPECT_EQ(4, run("apply " + path() + " - --receipt /proc/nowhere/r.json", regrade).status);
  EXPECT_EQ(4, run("apply " + path() + " - --receipt /dev/full", regrade).status);
  EXPECT_EQ("2", db.rows("SELECT condition FROM tree WHERE tree_id = 7"));
  std::filesystem::remove_all(db.file("state"));
  std::ofstream(db.file("state")) << "a file where the folder of the store should be";
  EXPECT_EQ(4, run("apply " + path() + " -", regrade).status);
  EXPECT_EQ("2", db.rows("SELECT condition FROM tree WHERE tree_id = 7"));
}

TEST_F(CliTest, ACopyBeforeHoldsWhatWasThereAndStandsInNobodysPlace) {
  const std::string copy = db.file("before.sqlite");
  EXPECT_EQ(4, run("apply " + path() + " - --copy-first " + path(), regrade).status) << "not onto the database";
  EXPECT_EQ(4, run("apply " + path() + " - --copy-first /proc/nowhere/c.sqlite", regrade).status);
  EXPECT_EQ("2", db.rows("SELECT condition FROM tree WHERE tree_id = 7")) << "no copy, no apply";
  EXPECT_EQ(2, run("apply " + path() + " - --copy-first -", regrade).status);
  EXPECT_EQ(
      4, run("apply " + path() + " - --receipt " + db.file("./a.json") + " --copy-first " + db.file("a.json"), regrade)
             .status);
  // Where nothing is applied nothing is left, so that the same call can be made again.
  db.run("UPDATE tree SET condition = 1 WHERE tree_id = 7");
  EXPECT_EQ(3, run("apply " + path() + " - --copy-first " + copy, regrade).status);
  EXPECT_FALSE(std::filesystem::exists(copy));
  db.run("UPDATE tree SET condition = 2 WHERE tree_id = 7");
  const std::string was = db.dump();
  EXPECT_EQ(0, run("apply " + path() + " - --copy-first " + copy, regrade).status);
  EXPECT_EQ("3", db.rows("SELECT condition FROM tree WHERE tree_id = 7"));
  EXPECT_EQ(was, otherSqlite(copy)->dump());
  const Ran again = run("apply " + path() + " - --copy-first " + copy, regrade);
  EXPECT_EQ(4, again.status);
  EXPECT_THAT(again.err, HasSubstr("there is a file of that name"));
  EXPECT_EQ(was, otherSqlite(copy)->dump());
}

TEST_F(CliTest, ALockThatIsHeldEndsWithFive) {
  db.run("BEGIN IMMEDIATE");
  const Ran ran = run("apply " + path() + " - --lock-timeout 0.2", regrade);
  EXPECT_EQ(5, ran.status);
  EXPECT_THAT(ran.err, HasSubstr("holds a lock on it"));
  db.run("ROLLBACK");
}

TEST_F(CliTest, AFullOutputIsAnError) { EXPECT_EQ(4, run("show " + path() + " tree > /dev/full").status); }

TEST_F(CliTest, LargeShowsComeWhole) {
  db.run(
      "CREATE TABLE wide (id INTEGER PRIMARY KEY, t TEXT); WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 "
      "FROM n WHERE i < 200000) INSERT INTO wide SELECT i, hex(zeroblob(100)) FROM n");
  const Ran ran = run("show " + path() + " wide --format csv");
  EXPECT_EQ(200001, std::count(ran.out.begin(), ran.out.end(), '\n'));
}

// The same calls, the same change file and the same answers on every engine.
class CliOnEnginesTest : public CliTest, public ::testing::WithParamInterface<Engine> {
 protected:
  TestDatabase server{smallRegister(GetParam()), GetParam()};
  [[nodiscard]] std::string address() const { return "'" + server.address() + "'"; }
};
ITERANDUM_ON_ALL_ENGINES(CliOnEnginesTest);

TEST_P(CliOnEnginesTest, ShowSaysTheSame) {
  EXPECT_EQ("[\n{\"tag\":\"T9\",\"note\":\"\"},\n{\"tag\":\"T8\",\"note\":null}\n]\n",
            run("show " + address() + " tree --columns tag,note --sort tag:desc --limit 2 --format json").out);
  EXPECT_EQ("tag,condition\r\nT9,4\r\n",
            run("show " + address() + " tree --columns tag,condition --where 'condition > 2' --format csv").out);
  EXPECT_THAT(run("tables " + address() + " --format json").out,
              HasSubstr(R"("name": "inspection", "kind": "table", "records": 3, "key": ["tree_id", "inspected_on"])"));
}

TEST_P(CliOnEnginesTest, BorrowedColumnsAndScopesSayTheSame) {
  EXPECT_EQ(
      "[\n{\"tag\":\"T9\",\"species.name\":\"oak\"},\n{\"tag\":\"T8\",\"species.name\":\"lime\"}\n]\n",
      run("show " + address() +
          " tree --columns tag,species.name --sort species.name:desc --sort tag:natural:desc --limit 2 --format json")
          .out);
  const std::string saved = db.file("scope.json");
  std::ofstream(saved) << scopeToJson(
      "", {"inspection", {{"tree.species.name", "lime"}, {"inspected_on", "2026"}}, {}, {}});
  EXPECT_EQ("tree_id,inspected_on,grade\r\n7,2026-03-02,poor\r\n",
            run("show " + address() + " --scope-file " + saved + " --format csv").out);
}

TEST_P(CliOnEnginesTest, ApplyRevertAndApplyAgainComeBackToTheStart) {
  const std::string before = server.dump();
  const std::string changes = file(
      R"({"action":"edit","table":"tree","key":{"tree_id":8},"cells":{"height":{"from":9,"to":"10.25"},"note":{"from":null,"to":"x"}}},)"
      R"({"action":"remove","table":"inspection","key":{"tree_id":9,"inspected_on":"2025-05-05"}},)"
      R"({"action":"add","table":"species","label":"a","cells":{"name":{"to":"ash"}}},)"
      R"({"action":"add","table":"tree","cells":{"tag":{"to":"T10"},"species_id":{"to":{"ref":"a"}}}})");
  EXPECT_EQ(0, run("review " + address() + " -", changes).status);
  EXPECT_EQ(before, server.dump()) << "a review leaves nothing behind";
  Ran ran = run("apply " + address() + " - --receipt '" + db.file("r.json") + "'", changes);
  EXPECT_EQ(0, ran.status) << ran.err;
  EXPECT_EQ("ash",
            server.rows("SELECT s.name FROM tree t JOIN species s ON s.species_id = t.species_id WHERE t.tag = 'T10'"));
  EXPECT_EQ(0, run("revert '" + db.file("r.json") + "' -o '" + db.file("back.json") + "'").status);
  ran = run("apply " + address() + " '" + db.file("back.json") + "'");
  EXPECT_EQ(0, ran.status) << ran.err << ran.out;
  EXPECT_EQ(before, server.dump());
}

TEST_P(CliOnEnginesTest, ConflictsBlockAndNothingIsWritten) {
  const std::string before = server.dump();
  const Ran ran = run("apply " + address() + " - --format json", conflict);
  EXPECT_EQ(3, ran.status) << ran.err;
  EXPECT_THAT(ran.out, HasSubstr(R"("kind": "cell-changed")"));
  EXPECT_EQ(before, server.dump());
}

TEST_F(CliTest, ServersThatCannotBeReachedEndWithFiveAndNoPasswordIsShown) {
  for (const char* scheme : {"postgresql", "mariadb"}) {
    const Ran ran = run("tables '" + std::string(scheme) + "://u:geheim@127.0.0.1:1/x'");
    EXPECT_EQ(5, ran.status) << ran.err;
    EXPECT_THAT(ran.err, HasSubstr("no server listens at that host and port"));
    EXPECT_THAT(ran.err + ran.out, ::testing::Not(HasSubstr("geheim")));
  }
  EXPECT_EQ(5, run("tables 'mariadb://u@127.0.0.1/x?nonsense=1'").status);
}

TEST_P(CliOnEnginesTest, APasswordOfTheEnvironmentIsTakenAndAWrongOneSaid) {
  if (GetParam() == Engine::Sqlite) GTEST_SKIP() << "no passwords";
  std::string clerk = server.address();
  clerk.replace(clerk.find("quill@"), 6, "clerk@");
  if (GetParam() == Engine::PostgreSql) {
    // One clerk for all of the server; another test may have made it already.
    server.run("DO $$ BEGIN CREATE ROLE clerk LOGIN PASSWORD 'lime tree'; EXCEPTION WHEN OTHERS THEN NULL; END $$");
  } else {
    server.run("GRANT ALL ON " + clerk.substr(clerk.rfind('/') + 1) + ".* TO clerk@'%'");
  }
  Ran ran = run("tables '" + clerk + "'");
  EXPECT_EQ(5, ran.status);
  EXPECT_THAT(ran.err, HasSubstr("a password is wanted"));
  setenv("ITERANDUM_PASSWORD", "oak", 1);
  ran = run("tables '" + clerk + "'");
  EXPECT_EQ(5, ran.status);
  EXPECT_THAT(ran.err, HasSubstr("the user's name or the password is not right"));
  setenv("ITERANDUM_PASSWORD", "lime tree", 1);
  EXPECT_EQ(0, run("tables '" + clerk + "'").status);
  unsetenv("ITERANDUM_PASSWORD");
}

}  // namespace
}  // namespace iterandum::test
