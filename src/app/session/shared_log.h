// SharedLog: keeps what is staged here in step with the log in the store, which all windows that have the database open
// share.
//
// What is done here is sent to the store's thread at once, in order, together with what was known of the log; what
// others did is heard within half a second, and comes in between. Lives on the interface thread.
#pragma once

#include <QObject>
#include <QTimer>
#include <functional>
#include <future>
#include <memory>
#include <optional>
#include <string>
#include <unordered_set>
#include <vector>

#include "app/session/store_thread.h"
#include "core/apply/applied_additions.h"
#include "core/changes/change_set.h"
#include "core/changes/part_of_changes.h"
#include "core/store/store.h"

namespace iterandum {

class SharedLog : public QObject {
  Q_OBJECT
 public:
  // `changes` outlives it; whoever else changes them says so by the functions below.
  SharedLog(std::shared_ptr<StoreThread> storeThread, ChangeSet& changes);
  SharedLog(const SharedLog&) = delete;
  SharedLog& operator=(const SharedLog&) = delete;
  ~SharedLog() override;  // the log is left to other windows

  void setAddress(const std::string& address);
  [[nodiscard]] const std::string& owner() const { return owner_; }
  // Joins the log that is there for the database, or a new one: a task for the store's thread.
  [[nodiscard]] std::function<Result<StagedLog>(Store&)> claim() const;
  // What that gave takes the place of the changes; the gestures are taken out of it.
  void begin(StagedLog& log);

  // A gesture was staged.
  void appended();
  // Something was undone or done again.
  void moved();
  // What the first `gestures` come to, or a part of it, was applied: it is staged no more, here; and with
  // sendForgotten() elsewhere.
  void forgetApplied(std::size_t gestures, const AppliedAdditions& added, const std::optional<SplitChanges>& part);
  void sendForgotten();

  // The number of the log, once everything that was staged lies in it and nobody else takes anything out until letGo()
  // or forgetApplied(). Errors: Store::holdStaged; InvalidFile when it could not be kept. Broken where the store cannot
  // be opened.
  [[nodiscard]] std::shared_future<Result<std::int64_t>> hold();
  void letGo();
  [[nodiscard]] bool heldElsewhere() const { return heldElsewhere_; }
  // Looks for what others did.
  void read();

 signals:
  // The changes are about to be others, or are so now; this gesture came or went.
  void touched(const iterandum::Gesture& gesture);
  void changed();
  // Another window applied some of what was staged.
  void appliedElsewhere();
  // Who was applying is gone, or let go: what became of it is for the database to say.
  void holderLeft();
  // What was undone here is being applied elsewhere, and stays.
  void undoRefused();
  void written(const std::vector<iterandum::WrittenStaged>& written);
  void notKept(const QString& why);

 private:
  // On the store's thread.
  struct There {
    std::int64_t log = 0;  // 0: none yet
    // Of what was sent, the next that may be done: what comes behind a failure is not.
    std::uint64_t epoch = 1;
    std::uint64_t next = 0;
  };
  struct Applied {
    std::size_t gestures = 0;  // the first of those that are done
    AppliedAdditions added;
    std::optional<SplitChanges> part;
  };
  struct Forget {
    std::vector<GestureId> before;            // what was done when it was applied
    std::vector<Applied> all;                 // one after the other
    std::unordered_set<GestureId> rewritten;  // what the rest has become
    bool stale = false;                       // something else than `before` lies there: it has to be read first
  };
  template <typename Work, typename Done>
  void send(Work work, Done done);
  void push();
  void pushMerged(bool whole);
  void pushForgotten();
  [[nodiscard]] StagedView view(bool whole);
  [[nodiscard]] std::vector<GestureId> doneIds() const;
  void forgottenInVain();
  void failed(const Error& error, std::uint64_t epoch, bool whole);
  void heard(const StagedState& state, const StagedOrder& wanted);
  void note(const StagedState& state);
  void noteHolder(const StagedState& state);
  void settle(const std::vector<GestureId>& there, const std::vector<GestureId>& wanted);
  void poll();
  void take(StagedLog&& log);
  // The gestures of these ids, from the log that was read or from here.
  [[nodiscard]] std::vector<Gesture> gesturesOf(const std::vector<GestureId>& ids, const StagedLog& log) const;
  // Done here, and lying nowhere yet.
  [[nodiscard]] std::vector<std::pair<GestureId, Gesture>> unsaved(const StagedLog& log) const;
  void become(const StagedOrder& order, const StagedLog& log);
  void forgetHere(const Applied& applied);
  void nameAdditions(std::size_t window);

  std::shared_ptr<StoreThread> storeThread_;
  ChangeSet& changes_;
  std::string address_;
  std::string owner_;
  std::shared_ptr<There> there_;
  std::vector<GestureId> ids_;    // of all gestures of the changes
  std::vector<GestureId> known_;  // done in the log, what was sent included
  // What lay in the log when it was last heard of, and what was wanted then: what is missing of that was taken out by
  // others, and what is here besides never got there.
  std::vector<GestureId> acknowledged_;
  std::vector<GestureId> settled_;
  std::unordered_set<GestureId> sent_;  // the store has these, or is about to
  std::uint64_t epoch_ = 1;
  std::uint64_t sequence_ = 0;
  std::size_t inFlight_ = 0;
  std::uint64_t version_ = 0;  // of what is here
  bool wholeNext_ = false;     // something was not kept
  std::optional<Forget> forget_;
  std::uint64_t forgets_ = 0;   // which of them it is
  std::size_t forgetting_ = 0;  // how many are on their way
  bool reading_ = false;
  bool readAgain_ = false;
  bool polling_ = false;
  std::size_t window_ = 0;
  std::uint64_t revision_ = 0;
  std::uint64_t applied_ = 0;
  bool heldElsewhere_ = false;
  QTimer timer_;
};

}  // namespace iterandum
