// A program that dies between the commit and taking what was applied out of its log: nothing is applied twice for it,
// nothing that was not written is lost.
#include <QFile>

#include "app/session/applying.h"
#include "app/window_fixture.h"
#include "core/changes/part_of_changes.h"
#include "core/engines/sqlite/sqlite_handle.h"
#include "core/store/receipt_keeper.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;

// The store as it lay on the disk when the program died between the commit and taking what was applied out of the log.
class DiedTest : public WindowTest {
 protected:
  void stageSome() {
    StagedWork& staged = window->desk()->staged();
    const Catalogue& catalogue = window->desk()->catalogue();
    staged.stageAddition(*catalogue.find({"", "photo"}), {{"caption", Value::text("new")}});
    staged.stageEdits("note",
                      {{{{"", "tree"}, {Value::integer(7)}, 0}, "note", Value::text("old"), Value::text("mine")}});
  }
  // Applies, and lets the window begin again with the store as it was before what was applied had left the log.
  void applyAndDie(const std::optional<SplitChanges>& part, const std::string& andThen = {}) {
    const std::string store = db.file("state/store.sqlite");
    QObject::connect(&window->desk()->applying(), &Applying::written, window.get(), [this, store] {
      for (const char* end : {"", "-wal"}) {
        ASSERT_TRUE(QFile::copy(QString::fromStdString(store + end), QString::fromStdString(store + end + ".died")));
      }
    });
    // And something more is staged meanwhile, which was not applied.
    QObject::connect(&window->desk()->applying(), &Applying::started, window.get(), [this] {
      window->desk()->staged().stageEdits(
          "later", {{{{"", "tree"}, {Value::integer(8)}, 0}, "note", Value(), Value::text("later")}});
    });
    window->desk()->applying().start("before it died", part);
    ASSERT_TRUE(wait([&] { return !window->desk()->applying().running(); }));
    window.reset();
    for (const char* end : {"", "-wal", "-shm"}) QFile::remove(QString::fromStdString(store + end));
    for (const char* end : {"", "-wal"}) {
      ASSERT_TRUE(QFile::rename(QString::fromStdString(store + end + ".died"), QString::fromStdString(store + end)));
    }
    {
      auto handle = SqliteHandle::open(store, SQLITE_OPEN_READWRITE);
      ASSERT_TRUE(handle.has_value()) << handle.error().text();
      ASSERT_TRUE(
          (*handle)
              ->run("UPDATE staged_window SET owner = 'nobody'; UPDATE staging SET holder = 'nobody'; " + andThen)
              .has_value());
    }
    start();
    ASSERT_TRUE(wait([&] { return window->desk() != nullptr; }));
  }
  static constexpr const char* kNotConfirmed = "UPDATE receipt SET pending = 1, seq = NULL, digest = NULL";
};

TEST_F(DiedTest, WhatWasWrittenIsStagedNoMore) {
  stageSome();
  applyAndDie(std::nullopt);
  EXPECT_EQ("edit 8 note=later", staged());
  EXPECT_THAT(message().toStdString(), HasSubstr("“before it died” had been written, though"));
  EXPECT_EQ("3", db.rows("SELECT count(*) FROM photo"));
  // And it stays so.
  window.reset();
  start();
  EXPECT_EQ("edit 8 note=later", staged());
}

TEST_F(DiedTest, TheDatabaseIsAskedWhereNobodyHeardOfTheCommit) {
  stageSome();
  applyAndDie(std::nullopt, kNotConfirmed);
  EXPECT_EQ("edit 8 note=later", staged());
  EXPECT_EQ("3", db.rows("SELECT count(*) FROM photo"));
}

TEST_F(DiedTest, OfAPartTheRestIsStagedStill) {
  stageSome();
  const auto list = changes().toChangeList("");
  PickedChange addition;
  for (const auto& [index, change] : list.inOrder()) {
    if (change.action == Action::Add) addition.change = index;
  }
  applyAndDie(splitChanges(window->desk()->catalogue(), changes(), {addition}), kNotConfirmed);
  EXPECT_EQ("edit 7 note=mine; edit 8 note=later", staged());
  EXPECT_EQ("3|new", db.rows("SELECT photo_id, caption FROM photo WHERE photo_id > 2"));
}

// The window lives, and did not hear whether it was written: applying again asks first.
TEST_F(DiedTest, WhatWasWrittenUnheardIsNotAppliedAgain) {
  class Unheard : public StoreReceiptKeeper {
   public:
    using StoreReceiptKeeper::StoreReceiptKeeper;
    Status confirm() override { return {}; }
  };
  stageSome();
  const Result<std::int64_t> log = window->desk()->staged().hold().get();
  ASSERT_TRUE(log.has_value());
  window->desk()->staged().letGo();
  const auto store = Store::open(db.file("state/store.sqlite"));
  ASSERT_TRUE(store.has_value());
  Unheard keeper(**store, StagedForReceipt{*log, 2, std::nullopt});
  ApplyOptions options;
  options.keeper = &keeper;
  Progress progress;
  const auto applied = applyChanges(db.session(), db.catalogue(), changes().toChangeList("unheard"), options, progress);
  ASSERT_TRUE(applied && applied->receipt);
  EXPECT_EQ("3", db.rows("SELECT count(*) FROM photo"));
  QString failed;
  QObject::connect(&window->desk()->applying(), &Applying::failed, window.get(),
                   [&](const QString& message) { failed = message; });
  window->desk()->applying().start("again");
  ASSERT_TRUE(wait([&] { return changes().empty(); })) << staged();
  EXPECT_EQ("3", db.rows("SELECT count(*) FROM photo"));
  EXPECT_THAT(failed.toStdString(), HasSubstr("had been written, though nobody was told"));
}

TEST_F(DiedTest, WhatWasNotWrittenIsStagedStill) {
  stageSome();
  // As if the commit had never been.
  QObject::connect(&window->desk()->applying(), &Applying::written, window.get(), [this] {
    db.run("DELETE FROM photo WHERE photo_id = 3; UPDATE tree SET note = 'old' WHERE tree_id = 7");
  });
  applyAndDie(std::nullopt, kNotConfirmed);
  EXPECT_EQ("add caption=new; edit 7 note=mine; edit 8 note=later", staged());
}

}  // namespace
}  // namespace iterandum::test
