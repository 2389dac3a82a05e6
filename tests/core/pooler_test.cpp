// Through a pooler that lends a line to the server for one transaction at a time: nothing of ours stays set in it for
// whoever gets it next, and nothing of somebody else's gets into what is read and written.
#include <cstdlib>
#include <set>

#include "core/apply/apply.h"
#include "core/engines/postgresql/pg_handle.h"
#include "core/engines/session.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

class PoolerTest : public ::testing::Test {
 protected:
  void SetUp() override {
    if (std::getenv("ITERANDUM_TEST_POOLER") == nullptr) GTEST_SKIP() << "no pooler: tools/servers start FOLDER";
    db_ = std::make_unique<TestDatabase>(smallRegister(Engine::PostgreSql), Engine::PostgreSql);
  }
  void TearDown() override {
    if (!db_) return;
    // The pooler keeps its lines, which stand in the way of dropping the database.
    db_->run(
        "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = current_database() AND pid <> "
        "pg_backend_pid()");
  }
  [[nodiscard]] std::string pooled() const {
    return std::getenv("ITERANDUM_TEST_POOLER") + db_->address().substr(db_->address().rfind('/'));
  }
  [[nodiscard]] std::unique_ptr<PgHandle> stranger() const {
    const std::string address = pooled();
    Progress progress;
    auto handle =
        PgHandle::open({{"host", "127.0.0.1"},
                        {"port", address.substr(address.rfind(':') + 1, address.rfind('/') - address.rfind(':') - 1)},
                        {"user", "quill"},
                        {"dbname", address.substr(address.rfind('/') + 1)}},
                       progress);
    if (!handle) throw std::runtime_error(handle.error().message);
    return std::move(*handle);
  }

  std::unique_ptr<TestDatabase> db_;
};

// Every setting whose value is another one than the server starts with, and the process that it is set in.
constexpr const char* kSet =
    "SELECT pg_backend_pid(), coalesce(string_agg(name || '=' || setting, ' ' ORDER BY name), '') FROM pg_settings "
    "WHERE source = 'session'";

TEST_F(PoolerTest, NothingStaysSetForWhoComesNext) {
  Progress progress;
  // Two lines at once, so that both of the pooler's have been used.
  auto one = openSession(pooled());
  auto two = openSession(pooled());
  ASSERT_TRUE(one && two) << (one ? two.error().text() : one.error().text());
  const auto catalogue = (*one)->readCatalogue(progress);
  ASSERT_TRUE(catalogue) << catalogue.error().text();
  const ChangeList changes = TestDatabase::changes(
      "edit tree tree_id=7 condition:2->3\nedit tree tree_id=8 note:null->\"x\"\nadd species name=\"ash\"");
  LambdaKeeper keeper([&](const Receipt&, ReceiptStage) {
    // Meanwhile the other session reads, for which it needs the other line.
    EXPECT_TRUE((*two)->readCatalogue(progress));
    return Status();
  });
  ApplyOptions options;
  options.keeper = &keeper;
  const auto review = reviewChanges(**one, *catalogue, changes, {}, progress);
  ASSERT_TRUE(review && review->ready) << (review ? "" : review.error().text());
  const auto applied = applyChanges(**one, *catalogue, changes, options, progress);
  ASSERT_TRUE(applied) << applied.error().text();
  ASSERT_TRUE(applied->receipt.has_value());
  EXPECT_EQ("3", db_->rows("SELECT condition FROM tree WHERE tree_id = 7"));
  // A stranger who holds one line gets what the other one is set to.
  std::set<std::string> processes;
  const auto holds = stranger();
  ASSERT_TRUE(holds->run("BEGIN", progress));
  const auto another = stranger();
  for (PgHandle* who : {holds.get(), another.get()}) {
    const auto rows = who->query(kSet, {}, progress);
    ASSERT_TRUE(rows) << rows.error().text();
    processes.insert(rows->string(0, 0));
    EXPECT_THAT(rows->string(0, 1), ::testing::Not(::testing::HasSubstr("_timeout=")));
    EXPECT_THAT(rows->string(0, 1), ::testing::Not(::testing::HasSubstr("read_only")));
    EXPECT_THAT(rows->string(0, 1), ::testing::Not(::testing::HasSubstr("client_min_messages")));
    EXPECT_THAT(rows->string(0, 1), ::testing::Not(::testing::HasSubstr("enable_")));
    EXPECT_THAT(rows->string(0, 1), ::testing::Not(::testing::HasSubstr("search_path")));
    EXPECT_THAT(rows->string(0, 1), ::testing::Not(::testing::HasSubstr("extra_float_digits")));
  }
  EXPECT_EQ(2U, processes.size()) << "both lines were looked at";
  EXPECT_TRUE(another->run("CREATE TABLE strangers (id integer)", progress)) << "it may write";
}

// What somebody left set in a line that we are lent: dates the other way round, a short time, a strange path.
TEST_F(PoolerTest, WhatOthersLeftSetIsNotOurs) {
  Progress progress;
  db_->run("CREATE TABLE moment (id integer PRIMARY KEY, on_day date, at timestamptz, held double precision)");
  db_->run("INSERT INTO moment VALUES (1, '2025-02-03', '2025-02-03 04:05:06+00', 0.1)");
  const auto one = stranger();
  const auto two = stranger();
  ASSERT_TRUE(one->run("BEGIN", progress));
  for (PgHandle* who : {one.get(), two.get()}) {
    ASSERT_TRUE(who->run(
        "SET datestyle = 'SQL, DMY'; SET timezone = 'Asia/Kolkata'; SET extra_float_digits = -3; SET bytea_output = "
        "'escape'; SET statement_timeout = '7s'; SET lc_monetary = 'C'",
        progress));
  }
  ASSERT_TRUE(one->run("COMMIT", progress));
  auto session = openSession(pooled());
  ASSERT_TRUE(session) << session.error().text();
  const auto catalogue = (*session)->readCatalogue(progress);
  ASSERT_TRUE(catalogue) << catalogue.error().text();
  std::vector<ValueTuple> rows;
  Query query;
  query.table = catalogue->find({"", "moment"});
  query.columns = {"id", "on_day", "at", "held"};
  for (int i = 0; i < 4; ++i) {
    rows.clear();
    ASSERT_TRUE((*session)->select(
        query,
        [&](ValueTuple&& row) {
          rows.push_back(std::move(row));
          return true;
        },
        progress));
    EXPECT_EQ("1|2025-02-03|2025-02-03 04:05:06+00|0.1", rowsText(rows));
  }
  const auto applied = applyChanges(
      **session, *catalogue,
      TestDatabase::changes("edit moment id=1 on_day:\"2025-02-03\"->\"2025-03-04\" held:0.1->0.2"), {}, progress);
  ASSERT_TRUE(applied && applied->receipt) << (applied ? "" : applied.error().text());
  EXPECT_EQ("1|2025-03-04", db_->rows("SELECT id, to_char(on_day, 'YYYY-MM-DD') FROM moment"));
}

}  // namespace
}  // namespace iterandum::test
