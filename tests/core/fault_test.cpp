// Faults on purpose: locks, full disks, read-only files, kills in the middle. Only two endings are right: the database
// is fully changed, or it is untouched and the error says so.
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include <chrono>
#include <csignal>
#include <fstream>
#include <thread>

#include "core/store/store.h"
#include "support/log_hand.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;

TEST(FaultTest, AHeldLockIsWaitedForAndThenSaidWithTheProgramThatHoldsIt) {
  TestDatabase db(kSmallRegister);
  int ready[2];
  ASSERT_EQ(0, pipe(ready));
  const pid_t holder = fork();
  if (holder == 0) {
    sqlite3* other = nullptr;
    sqlite3_open(db.path().c_str(), &other);
    sqlite3_exec(other, "BEGIN EXCLUSIVE", nullptr, nullptr, nullptr);
    (void)!write(ready[1], "x", 1);
    pause();
    _exit(0);
  }
  char byte = 0;
  ASSERT_EQ(1, read(ready[0], &byte, 1));
  auto session = openSession(db.path());
  ASSERT_FALSE(session.has_value()) << "an exclusive lock keeps readers out too";
  EXPECT_EQ(ErrorKind::LockTimeout, session.error().kind);
  EXPECT_THAT(session.error().message, HasSubstr("(process " + std::to_string(holder) + ") holds a lock"));
  kill(holder, SIGKILL);
  waitpid(holder, nullptr, 0);
  EXPECT_EQ("applied", db.apply("edit tree tree_id=7 condition:2->3"));
}

TEST(FaultTest, AWriterThatHoldsTheLockMakesApplyFailWithNothingWritten) {
  TestDatabase db(kSmallRegister);
  (void)db.catalogue();
  const std::string before = db.dump();
  db.run("BEGIN IMMEDIATE");
  EXPECT_THAT(db.apply("edit tree tree_id=7 condition:2->3"), HasSubstr("did not get the lock"));
  db.run("ROLLBACK");
  EXPECT_EQ(before, db.dump());
  EXPECT_EQ("applied", db.apply("edit tree tree_id=7 condition:2->3"));
}

TEST(FaultTest, AFullDiskLeavesTheDatabaseAsItWas) {
  // A database may not grow beyond its pages of now: SQLite reports SQLITE_FULL as for a full disk.
  TestDatabase db(kSmallRegister);
  const std::string before = db.dump();
  std::string changes;
  for (int i = 0; i < 400; ++i) changes += "add log message=\"" + std::string(300, 'x') + std::to_string(i) + "\"\n";
  const ChangeList list = TestDatabase::changes(changes);
  // The limit belongs to the connection that writes, so the file size limit of the process is used instead.
  const pid_t child = fork();
  if (child == 0) {
    std::signal(SIGXFSZ, SIG_IGN);
    rlimit limit{};
    limit.rlim_cur = limit.rlim_max = static_cast<rlim_t>(std::filesystem::file_size(db.path())) + 4096;
    setrlimit(RLIMIT_FSIZE, &limit);
    Progress progress;
    const auto result = applyChanges(db.session(), db.catalogue(), list, {}, progress);
    _exit(!result && (result.error().kind == ErrorKind::StorageFull || result.error().kind == ErrorKind::CannotOpen)
              ? 0
              : 1);
  }
  int status = 0;
  waitpid(child, &status, 0);
  EXPECT_EQ(0, WEXITSTATUS(status));
  EXPECT_EQ(before, db.dump());
}

class KillTest : public EngineTest {};
ITERANDUM_ON_ALL_ENGINES(KillTest);

// Kills the process at a point in time; the end must be one of the two. The last kill comes after the apply.
TEST_P(KillTest, AKillAtAnyMomentOfAnApplyLeavesAllOrNothing) {
  int whole = 0;
  constexpr int kSteps = 16;
  std::string changes;
  std::string additions;
  for (int i = 100; i <= 2100; ++i) {
    const std::string id = std::to_string(i);
    changes += "edit tree tree_id=" + id + " condition:2->3\n";
    additions += (i > 100 ? ", (" : "(") + id + ", 'K" + id + "', 1, 2)";
  }
  const ChangeList list = TestDatabase::changes(changes);
  TestDatabase db(smallRegister(GetParam()), GetParam());
  for (int step = 0; step < kSteps; ++step) {
    db.run("DELETE FROM tree WHERE tree_id >= 100");
    db.run("INSERT INTO tree (tree_id, tag, species_id, condition) VALUES " + additions);
    int done[2];
    ASSERT_EQ(0, pipe(done));
    const pid_t child = fork();
    if (child == 0) {
      Progress progress;
      auto session = openSession(db.address());
      auto catalogue = (*session)->readCatalogue(progress);
      (void)!write(done[1], "o", 1);
      (void)applyChanges(**session, *catalogue, list, {}, progress);
      (void)!write(done[1], "x", 1);
      pause();
      _exit(0);
    }
    char byte = 0;
    ASSERT_EQ(1, read(done[0], &byte, 1));
    if (step + 1 < kSteps) {
      std::this_thread::sleep_for(std::chrono::milliseconds(step * step));
    } else {
      ASSERT_EQ(1, read(done[0], &byte, 1));
    }
    close(done[0]);
    close(done[1]);
    kill(child, SIGKILL);
    waitpid(child, nullptr, 0);
    const std::string counts = db.rows("SELECT count(*) FROM tree WHERE condition = 3 AND tree_id >= 100");
    EXPECT_TRUE(counts == "0" || counts == "2001") << counts << " at step " << step;
    whole += counts == "2001" ? 1 : 0;
  }
  EXPECT_LT(0, whole) << "the last kill comes after the apply";
}

TEST(FaultTest, StagedWorkIsThereAfterAKill) {
  TemporaryFolder folder;
  const std::string path = folder.file("state/store.sqlite");
  const pid_t child = fork();
  if (child == 0) {
    auto store = Store::open(path);
    LogHand log(**store, "sqlite:/x");
    for (std::size_t i = 0; i < 5; ++i) {
      log.stage("gesture " + std::to_string(i));
      log.send();
    }
    log.undo();
    log.send();
    kill(getpid(), SIGKILL);
  }
  waitpid(child, nullptr, 0);
  auto store = Store::open(path);
  ASSERT_TRUE(store.has_value());
  const LogHand log(**store, "sqlite:/x");
  EXPECT_EQ(4U, log.order().done.size());
  EXPECT_EQ("gesture 4", log.undone());
  EXPECT_EQ(0U, log.claimed.others.size()) << "the window that was killed";
}

struct BadFile {
  const char* name;
  std::string content;
  const char* says;
};

TEST(FaultTest, FilesThatAreNoDatabaseAreSaidClearly) {
  TemporaryFolder folder;
  TestDatabase good(kSmallRegister);
  std::ifstream in(good.path(), std::ios::binary);
  std::string bytes((std::istreambuf_iterator<char>(in)), {});
  std::string torn = bytes.substr(0, bytes.size() / 2);
  std::string scrambled = bytes;
  for (std::size_t i = 100; i < 4000; ++i) scrambled[i] = static_cast<char>(i * 31);
  const BadFile files[] = {{"text.txt",
                            "these are not the records you want, by far not, not at all, and it is longer than a "
                            "header of a database file would be",
                            "no SQLite database"},
                           {"torn.db", torn, "damaged"},
                           {"scrambled.db", scrambled, "damaged"},
                           {"noise.db", std::string(5000, '\x7f'), "no SQLite database"}};
  for (const BadFile& f : files) {
    SCOPED_TRACE(f.name);
    std::ofstream(folder.file(f.name), std::ios::binary) << f.content;
    auto session = openSession(folder.file(f.name));
    Error error;
    if (!session) {
      error = session.error();
    } else {
      Progress progress;
      const auto catalogue = (*session)->readCatalogue(progress);
      if (catalogue) {
        Query all;
        all.table = &catalogue->tables().back();
        Status status = (*session)->select(
            all, [](ValueTuple&&) { return true; }, progress);
        for (const Table& t : catalogue->tables()) {
          all.table = &t;
          if (status)
            status = (*session)->select(
                all, [](ValueTuple&&) { return true; }, progress);
        }
        ASSERT_FALSE(status.has_value());
        error = status.error();
      } else {
        error = catalogue.error();
      }
    }
    EXPECT_EQ(ErrorKind::CannotOpen, error.kind);
    EXPECT_THAT(error.message, HasSubstr(f.says));
  }
  EXPECT_THAT(openSession(folder.file("nowhere.db")).error().message, HasSubstr("there is no file"));
  EXPECT_THAT(openSession("/tmp").error().message, HasSubstr("is a folder"));
  EXPECT_EQ(ErrorKind::CannotOpen, openSession(":memory:").error().kind);
}

TEST(FaultTest, TheStoreIsForItsOwnerAlone) {
  TemporaryFolder folder;
  const std::string path = folder.file("state/store.sqlite");
  ASSERT_TRUE(Store::open(path).has_value());
  EXPECT_EQ(std::filesystem::perms::owner_read | std::filesystem::perms::owner_write,
            std::filesystem::status(path).permissions());
}

}  // namespace
}  // namespace iterandum::test
