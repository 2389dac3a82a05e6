// Two windows on one database, each with a thread and a connection of its own, as two programs have: what is staged in
// one is staged in both, nothing of it is lost, and nothing is written twice.

#include <cstdlib>
#include <deque>
#include <map>
#include <random>
#include <set>

#include "app/session/applying.h"
#include "app/session/shared_log.h"
#include "app/window_fixture.h"
#include "core/engines/sqlite/sqlite_handle.h"
#include "core/store/receipt_keeper.h"
#include "support/log_hand.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;
using ::testing::Not;

class TwoWindowsTest : public WindowTest {
 protected:
  void SetUp() override {
    WindowTest::SetUp();
    second = another();
  }
  void TearDown() override {
    second.reset();
    WindowTest::TearDown();
  }
  std::unique_ptr<MainWindow> another() {
    auto out = std::make_unique<MainWindow>(db.file("state/store.sqlite"));
    out->show();
    out->open(QString::fromStdString(db.path()));
    EXPECT_TRUE(wait([&] { return out->desk() != nullptr; }));
    return out;
  }
  static StagedWork& work(MainWindow& in) { return in.desk()->staged(); }
  static void grade(MainWindow& in, int tree, int from, int to) {
    const std::string title = "tree " + std::to_string(tree) + " to " + std::to_string(to);
    work(in).stageEdits(
        QString::fromStdString(title),
        {{{{"", "tree"}, {Value::integer(tree)}, 0}, "condition", Value::integer(from), Value::integer(to)}});
  }
  static void add(MainWindow& in, const char* caption) {
    work(in).stageAddition(*in.desk()->catalogue().find({"", "photo"}), {{"caption", Value::text(caption)}});
  }
  static std::string titles(MainWindow& in) {
    const ChangeSet& changes = in.desk()->changes();
    std::string out;
    for (std::size_t i = 0; i < changes.position(); ++i) out += (out.empty() ? "" : "; ") + changes.gestures()[i].title;
    return out;
  }
  void bothHave(const std::string& wanted) {
    EXPECT_TRUE(wait([&] { return titles(*window) == wanted && titles(*second) == wanted; }))
        << titles(*window) << " | " << titles(*second);
  }
  static std::string said(MainWindow& in) {
    auto* label = in.findChild<QLabel*>("message");
    return label->isVisible() ? label->text().toStdString() : std::string();
  }
  std::string photos() { return db.rows("SELECT caption FROM photo WHERE photo_id > 2 ORDER BY 1"); }

  std::unique_ptr<MainWindow> second;
};

TEST_F(TwoWindowsTest, WhatIsStagedInOneIsStagedInBoth) {
  EXPECT_THAT(said(*second), HasSubstr("What is staged in one of them is staged in both"));
  grade(*window, 7, 2, 3);
  bothHave("tree 7 to 3");
  grade(*second, 8, 2, 4);
  bothHave("tree 7 to 3; tree 8 to 4");
  // Each of them knowing nothing of the other yet.
  grade(*window, 7, 2, 5);
  grade(*second, 8, 2, 1);
  EXPECT_TRUE(wait([&] { return titles(*window) == titles(*second) && window->desk()->changes().position() == 4; }));
  EXPECT_EQ("edit 7 condition=5; edit 8 condition=1", staged());
  EXPECT_TRUE(second->findChild<Rail*>() != nullptr);
}

// A window that opens the same database again is no other window.
TEST_F(TwoWindowsTest, OpenedAgainItIsTheSameWindow) {
  second.reset();
  grade(*window, 7, 2, 3);
  const Desk* before = window->desk();
  window->open(QString::fromStdString(db.path()));
  ASSERT_TRUE(wait([&] { return window->desk() != nullptr && window->desk() != before; }));
  EXPECT_EQ("edit 7 condition=3", staged());
  EXPECT_THAT(message().toStdString(), Not(HasSubstr("another window")));
  grade(*window, 8, 2, 3);
  EXPECT_EQ("edit 7 condition=3; edit 8 condition=3", staged());
}

TEST_F(TwoWindowsTest, EitherUndoesWhatIsLast) {
  grade(*window, 7, 2, 3);
  bothHave("tree 7 to 3");
  work(*second).undo();
  bothHave("");
  work(*window).redo();
  bothHave("tree 7 to 3");
}

// New records of two windows are not taken for one.
TEST_F(TwoWindowsTest, BothAddRecordsAtOnce) {
  for (const char* caption : {"a", "b"}) add(*window, caption);
  for (const char* caption : {"c", "d"}) add(*second, caption);
  ASSERT_TRUE(wait([&] { return counts().added == 4 && second->desk()->changes().counts().added == 4; }));
  second->desk()->applying().start("four");
  ASSERT_TRUE(wait([&] { return changes().empty() && second->desk()->changes().empty(); }));
  EXPECT_EQ("a\nb\nc\nd", photos());
}

TEST_F(TwoWindowsTest, WhatOneAppliedIsStagedNowhereAndReadAgain) {
  openTable("tree");
  const std::string before = column("condition");
  grade(*second, 7, 2, 3);
  ASSERT_TRUE(wait([&] { return counts().cells == 1; }));
  second->desk()->applying().start("by the second");
  ASSERT_TRUE(wait([&] { return changes().empty(); }));
  EXPECT_EQ("3", db.rows("SELECT condition FROM tree WHERE tree_id = 7"));
  EXPECT_TRUE(wait([&] { return settled() && column("condition") != before; })) << column("condition");
  EXPECT_THAT(message().toStdString(), HasSubstr("Another window applied what was staged"));
}

// Pressed in both at the same moment: it is written once, and who came second is told.
TEST_F(TwoWindowsTest, TheSameIsAppliedOnce) {
  add(*window, "once");
  ASSERT_TRUE(wait([&] { return second->desk()->changes().counts().added == 1; }));
  QStringList failed;
  int applied = 0;
  for (MainWindow* one : {window.get(), second.get()}) {
    QObject::connect(&one->desk()->applying(), &Applying::failed, one, [&](const QString& m) { failed << m; });
    QObject::connect(&one->desk()->applying(), &Applying::applied, one, [&] { ++applied; });
  }
  window->desk()->applying().start("first");
  second->desk()->applying().start("second");
  ASSERT_TRUE(
      wait([&] { return applied + failed.size() == 2 && changes().empty() && second->desk()->changes().empty(); }));
  EXPECT_EQ("once", photos());
  EXPECT_EQ(1, applied);
  EXPECT_THAT(failed.join(QLatin1Char(' ')).toStdString(), HasSubstr("another window"));
}

// What was staged meanwhile in the other window, on a record that is still new there, follows it.
TEST_F(TwoWindowsTest, WhatTheOtherDoesToANewRecordGoesToTheOneThatItBecame) {
  add(*window, "new");
  ASSERT_TRUE(wait([&] { return second->desk()->changes().counts().added == 1; }));
  const std::uint64_t id = changes().table({"", "photo"})->added().begin()->first;
  QObject::connect(&window->desk()->applying(), &Applying::started, second.get(), [&] {
    work(*second).stageEdits("caption", {{{{"", "photo"}, {}, id}, "caption", Value(), Value::text("corrected")}});
  });
  window->desk()->applying().start("added");
  ASSERT_TRUE(wait([&] {
    return !window->desk()->applying().running() && counts().edited == 1 && counts().added == 0;
  })) << staged();
  ASSERT_TRUE(wait([&] { return second->desk()->changes().counts().edited == 1; }));
  EXPECT_EQ("new", photos());
  second->desk()->applying().start("corrected");
  ASSERT_TRUE(wait([&] { return changes().empty() && second->desk()->changes().empty(); }));
  EXPECT_EQ("corrected", photos());
}

TEST_F(TwoWindowsTest, WhatIsBeingAppliedIsUndoneInNeither) {
  grade(*window, 7, 2, 3);
  bothHave("tree 7 to 3");
  auto other = SqliteHandle::open(db.path(), SQLITE_OPEN_READWRITE);
  ASSERT_TRUE((*other)->run("BEGIN IMMEDIATE").has_value());
  window->desk()->applying().start("waits for a lock");
  const auto store = Store::open(db.file("state/store.sqlite"));
  ASSERT_TRUE(store.has_value());
  const LogHand looking(**store, second->desk()->info().address);
  ASSERT_TRUE(wait([&] { return (*store)->stagedState(looking.claimed.id, looking.owner())->heldElsewhere; }));
  // At once, when nothing of it has been heard yet; and later.
  work(*second).undo();
  EXPECT_TRUE(wait([&] {
    return said(*second).find("Another window is applying what you undid") != std::string::npos;
  })) << said(*second);
  EXPECT_TRUE(wait([&] { return titles(*second) == "tree 7 to 3"; })) << "it is back";
  work(*second).undo();
  EXPECT_EQ("tree 7 to 3", titles(*second));
  EXPECT_THAT(said(*second), HasSubstr("being applied in another window"));
  grade(*second, 8, 2, 4);
  ASSERT_TRUE((*other)->run("ROLLBACK").has_value());
  bothHave("tree 8 to 4");
  EXPECT_EQ("3", db.rows("SELECT condition FROM tree WHERE tree_id = 7"));
  work(*second).undo();
  bothHave("");
}

// A window that dies between the commit and saying so: the other one, which lives on, finds out from the records.
TEST_F(TwoWindowsTest, WhatADyingWindowWroteIsStagedNoMore) {
  second.reset();
  add(*window, "written");
  grade(*window, 7, 2, 3);
  const auto store = Store::open(db.file("state/store.sqlite"));
  ASSERT_TRUE(store.has_value());
  ASSERT_TRUE(work(*window).hold().get().has_value());
  work(*window).letGo();
  LogHand dying(**store, window->desk()->info().address);
  ASSERT_TRUE(wait([&] { return dying.hold().has_value(); }));
  EXPECT_TRUE(wait([&] {
    work(*window).undo();
    return said(*window).find("being applied in another window") != std::string::npos;
  })) << said(*window);
  ASSERT_TRUE(wait([&] { return changes().position() == 2; }));
  class Unheard : public StoreReceiptKeeper {
   public:
    using StoreReceiptKeeper::StoreReceiptKeeper;
    Status confirm() override { return {}; }
  };
  Unheard keeper(**store, StagedForReceipt{dying.claimed.id, 2, std::nullopt});
  ApplyOptions options;
  options.keeper = &keeper;
  Progress progress;
  const auto applied = applyChanges(db.session(), db.catalogue(), changes().toChangeList("dies"), options, progress);
  ASSERT_TRUE(applied && applied->receipt);
  EXPECT_FALSE(changes().empty());
  auto handle = SqliteHandle::open(db.file("state/store.sqlite"), SQLITE_OPEN_READWRITE);
  ASSERT_TRUE((*handle)->run("UPDATE staging SET holder = 'gone 1 1 1'").has_value());
  EXPECT_TRUE(wait([&] { return changes().empty(); })) << staged();
  EXPECT_EQ("written", photos());
}

TEST_F(TwoWindowsTest, WhatBothStagedIsThereAgain) {
  grade(*window, 7, 2, 3);
  grade(*second, 8, 2, 4);
  window.reset();
  grade(*second, 9, 2, 4);
  second.reset();
  start();
  EXPECT_EQ("edit 7 condition=3; edit 8 condition=4; edit 9 condition=4", staged());
}

// A change that could not be kept comes in behind what others did meanwhile, once there is room again.
TEST_F(TwoWindowsTest, WhatCouldNotBeKeptComesLater) {
  const auto run = [&](const char* sql) {
    auto handle = SqliteHandle::open(db.file("state/store.sqlite"), SQLITE_OPEN_READWRITE);
    const Status done = (*handle)->run(sql);
    ASSERT_TRUE(done.has_value()) << done.error().text();
  };
  run("CREATE TRIGGER full BEFORE INSERT ON staged_gesture BEGIN SELECT RAISE(FAIL, 'no room'); END");
  grade(*window, 7, 2, 3);
  grade(*window, 8, 2, 3);
  EXPECT_TRUE(wait([&] { return message().contains(QStringLiteral("is not on disk")); }));
  EXPECT_EQ("edit 7 condition=3; edit 8 condition=3", staged()) << "it is staged all the same";
  window->desk()->applying().start("not kept");
  ASSERT_TRUE(wait([&] { return !window->desk()->applying().running(); }));
  EXPECT_EQ("2", db.rows("SELECT condition FROM tree WHERE tree_id = 7"));
  run("DROP TRIGGER full");
  grade(*second, 7, 2, 5);
  ASSERT_TRUE(wait([&] { return titles(*second) == "tree 7 to 5; tree 7 to 3; tree 8 to 3"; })) << titles(*second);
  bothHave("tree 7 to 5; tree 7 to 3; tree 8 to 3");
}

// Random hands on three windows' staged work, each at its own pace.
class ManyHandsTest : public ::testing::Test {
 protected:
  struct Hand {
    std::unique_ptr<StagedWork> work;
    bool applying = false;
  };
  int below(int n) { return static_cast<int>(random_() % static_cast<unsigned>(n)); }
  void join() {
    auto hand = std::make_unique<Hand>();
    Hand* raw = hand.get();
    auto thread = std::make_shared<StoreThread>(db_.file("state/store.sqlite"));
    hand->work = std::make_unique<StagedWork>(thread, [raw] { return raw->applying; });
    hand->work->setAddress("sqlite:/x");
    hand->work->useCatalogue(catalogue_);
    bool joined = false;
    thread->post(hand->work.get(), hand->work->claim(), [&, raw](Result<StagedLog>&& log) {
      ASSERT_TRUE(log.has_value()) << log.error().text();
      (void)raw->work->take(std::move(*log));
      joined = true;
    });
    ASSERT_TRUE(QTest::qWaitFor([&] { return joined; }));
    hands_.push_back(std::move(hand));
  }
  static std::vector<std::string> titles(const StagedWork& work) {
    std::vector<std::string> out;
    for (std::size_t i = 0; i < work.changes().position(); ++i) out.push_back(work.changes().gestures()[i].title);
    return out;
  }
  void stage(Hand& hand) {
    const int number = ++number_;
    const std::string title = "g" + std::to_string(number);
    hand.work->stageEdits(QString::fromStdString(title),
                          {{{{"", "tree"}, {Value::integer(1 + below(4))}, 0}, "note", Value(), Value::text(title)}});
    never_.insert(title);
  }
  void undo(Hand& hand) {
    if (!hand.work->changes().canUndo()) return;
    never_.erase(hand.work->changes().lastGesture().title);
    hand.work->undo();
  }
  // What is applied goes; what others do meanwhile stays.
  void apply(Hand& hand) {
    const std::vector<std::string> what = titles(*hand.work);
    if (!hand.work->hold().get()) return;
    hand.applying = true;
    for (int i = below(3); i > 0; --i) stage(*hands_[static_cast<std::size_t>(below(static_cast<int>(hands_.size())))]);
    if (below(2) == 0) QTest::qWait(below(5));
    for (const std::string& title : what) {
      never_.erase(title);
      EXPECT_TRUE(applied_.insert(title).second) << title << " was applied twice";
    }
    hand.work->forgetApplied(what.size(), {});
    hand.applying = false;
  }
  void agree() {
    const auto same = [&] {
      return std::all_of(hands_.begin(), hands_.end(),
                         [&](const auto& hand) { return titles(*hand->work) == titles(*hands_[0]->work); });
    };
    // Nobody has anything on its way any more, and everybody has looked since.
    ASSERT_TRUE(QTest::qWaitFor(
        [&] {
          if (!same()) return false;
          for (const auto& hand : hands_) hand->work->lookForWritten();
          QTest::qWait(30);
          return same();
        },
        8000));
    const std::vector<std::string> there = titles(*hands_[0]->work);
    const std::set<std::string> all(there.begin(), there.end());
    EXPECT_EQ(there.size(), all.size()) << "something is there twice";
    for (const std::string& title : never_) EXPECT_TRUE(all.contains(title)) << title << " is lost";
    for (const std::string& title : all) EXPECT_FALSE(applied_.contains(title)) << title << " would be written again";
    for (const auto& hand : hands_) {
      // The state is what the gestures come to.
      ChangeSet anew;
      for (std::size_t i = 0; i < there.size(); ++i) anew.apply(hand->work->changes().gestures()[i]);
      EXPECT_EQ(inWords(anew), inWords(hand->work->changes()));
    }
  }
  static std::string inWords(const ChangeSet& changes) {
    std::string out;
    for (const auto& [index, change] : changes.toChangeList("").inOrder())
      out += canonicalText(change.key[0]) + "=" + canonicalText(change.cells[0].to) + " ";
    return out;
  }

  TestDatabase db_{kSmallRegister};
  std::shared_ptr<const Catalogue> catalogue_ = std::make_shared<const Catalogue>(db_.catalogue());
  std::mt19937 random_;
  std::deque<std::unique_ptr<Hand>> hands_;
  int number_ = 0;
  std::set<std::string> never_;  // undone or applied by anybody
  std::set<std::string> applied_;
};

TEST_F(ManyHandsTest, NothingIsLostAndNothingIsAppliedTwice) {
  const char* asked = std::getenv("ITERANDUM_RANDOM_ROUNDS");
  const unsigned rounds = asked == nullptr ? 6U : static_cast<unsigned>(std::stoul(asked));
  for (unsigned seed = 1; seed <= rounds && !HasFailure(); ++seed) {
    SCOPED_TRACE("seed " + std::to_string(seed));
    random_.seed(seed);
    while (hands_.size() < 3) join();
    for (int step = 0; step < 120 && !HasFailure(); ++step) {
      Hand& hand = *hands_[static_cast<std::size_t>(below(static_cast<int>(hands_.size())))];
      const int what = below(100);
      if (what < 55) {
        stage(hand);
      } else if (what < 70) {
        undo(hand);
      } else if (what < 78) {
        hand.work->redo();
      } else if (what < 84) {
        apply(hand);
      } else if (what < 97) {
        QTest::qWait(below(3));
      } else {
        agree();
      }
    }
    agree();
    hands_.pop_front();  // one leaves, and another one comes
  }
}

}  // namespace
}  // namespace iterandum::test
