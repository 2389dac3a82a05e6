// A copy of the whole database before anything is applied: of one moment, whole or not there at all.
#include <signal.h>
#include <sys/resource.h>
#include <sys/stat.h>

#include <atomic>
#include <filesystem>
#include <fstream>
#include <thread>

#include "support/test_database.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;

class CopyTest : public EngineTest {
 protected:
  Status copy(const std::string& path) {
    Progress progress;
    return db.session().copyTo(path, progress);
  }
  [[nodiscard]] std::string folder() const {
    std::string names;
    for (const auto& entry : std::filesystem::directory_iterator(std::filesystem::path(db.file("x")).parent_path())) {
      if (entry.path().filename().string().rfind("copy", 0) == 0) names += entry.path().filename().string() + " ";
    }
    return names;
  }
  TestDatabase db{smallRegister(GetParam()), GetParam()};
};
ITERANDUM_ON_ALL_ENGINES(CopyTest);

TEST_P(CopyTest, ItHoldsWhatTheDatabaseHeldOrIsRefusedByEnginesThatHaveNoFile) {
  const std::string path = db.file("copy one.sqlite");
  const Status done = copy(path);
  ASSERT_EQ(db.session().info().canBeCopied, GetParam() == Engine::Sqlite);
  if (GetParam() != Engine::Sqlite) {
    ASSERT_FALSE(done);
    EXPECT_EQ(ErrorKind::Unsupported, done.error().kind);
    EXPECT_FALSE(std::filesystem::exists(path));
    return;
  }
  ASSERT_TRUE(done) << done.error().text();
  EXPECT_EQ(db.dump(), otherSqlite(path)->dump());
  struct stat about {};
  ASSERT_EQ(0, stat(path.c_str(), &about));
  EXPECT_EQ(0600U, about.st_mode & 0777U) << "nobody else reads it";
  EXPECT_EQ("copy one.sqlite ", folder()) << "nothing lies beside it";
}

class CopyOfAFileTest : public CopyTest {};
INSTANTIATE_TEST_SUITE_P(On, CopyOfAFileTest, ::testing::Values(Engine::Sqlite),
                         [](const auto& tested) { return engineName(tested.param); });

TEST_P(CopyOfAFileTest, NothingIsWrittenOverAndNothingIsLeftWhereItFails) {
  const std::string path = db.file("copy.sqlite");
  std::ofstream(path) << "mine";
  Status done = copy(path);
  ASSERT_FALSE(done);
  EXPECT_THAT(done.error().text(), HasSubstr("there is a file of that name"));
  std::string content;
  std::ifstream(path) >> content;
  EXPECT_EQ("mine", content);
  std::filesystem::remove(path);

  done = copy(db.file("no folder/copy.sqlite"));
  ASSERT_FALSE(done);
  EXPECT_EQ(ErrorKind::InvalidFile, done.error().kind);

  Progress stopped;
  stopped.cancel();
  done = db.session().copyTo(path, stopped);
  ASSERT_FALSE(done);
  EXPECT_EQ(ErrorKind::Cancelled, done.error().kind);
  EXPECT_EQ("", folder());

  // As on a disk that is full.
  const auto before = signal(SIGXFSZ, SIG_IGN);
  rlimit usual{};
  getrlimit(RLIMIT_FSIZE, &usual);
  rlimit small = usual;
  small.rlim_cur = 8192;
  setrlimit(RLIMIT_FSIZE, &small);
  done = copy(path);
  setrlimit(RLIMIT_FSIZE, &usual);
  signal(SIGXFSZ, before);
  ASSERT_FALSE(done);
  EXPECT_THAT(done.error().text(), HasSubstr("the copy could not be made"));
  EXPECT_EQ("", folder());
  EXPECT_EQ("3", db.rows("SELECT count(*) FROM tree")) << "the database itself is as it was";
}

// Money moves between two records all the while; in the copy none is lost or there twice.
TEST_P(CopyOfAFileTest, OthersGoOnWorkingAndItIsOfOneMoment) {
  for (const char* mode : {"DELETE", "WAL"}) {
    SCOPED_TRACE(mode);
    db.empty();
    db.run(
        std::string("PRAGMA journal_mode = ") + mode +
        "; CREATE TABLE pot (pot_id INTEGER PRIMARY KEY, coins INTEGER, filler TEXT); WITH RECURSIVE n(i) AS (SELECT "
        "1 UNION ALL SELECT i + 1 FROM n WHERE i < 40000) INSERT INTO pot SELECT i, 10, printf('%.400c', 'x') FROM n");
    db.forget();
    std::atomic<bool> over = false;
    std::atomic<int> moved = 0;
    std::thread others([&] {
      auto busy = otherSqlite(db.path());
      busy->run("PRAGMA busy_timeout = 10000");
      for (unsigned i = 0; !over; ++i) {
        const std::string one = std::to_string(1 + (i * 7919) % 40000);
        const std::string two = std::to_string(1 + (i * 10473 + 13) % 40000);
        busy->run("BEGIN IMMEDIATE; UPDATE pot SET coins = coins - 1 WHERE pot_id = " + one +
                  "; UPDATE pot SET coins = coins + 1 WHERE pot_id = " + two + "; COMMIT");
        ++moved;
      }
    });
    const std::string path = db.file(std::string("copy ") + mode + ".sqlite");
    const Status done = copy(path);
    over = true;
    others.join();
    ASSERT_TRUE(done) << done.error().text();
    EXPECT_GT(moved, 0);
    const auto held = otherSqlite(path);
    EXPECT_EQ("40000|400000", rowsText(held->rows("SELECT count(*), sum(coins) FROM pot")));
    EXPECT_EQ("ok", rowsText(held->rows("PRAGMA integrity_check")));
  }
}

}  // namespace
}  // namespace iterandum::test
