#include "app/session/shared_log.h"

#include <algorithm>
#include <iterator>
#include <unordered_map>

#include "app/values/shown_value.h"
#include "core/store/log_owner.h"

namespace iterandum {
namespace {

using namespace std::chrono_literals;

constexpr auto kPoll = 500ms;
constexpr auto kPollAfterFailure = 5s;

bool wasDone(const Result<StagedState>& result) { return result.has_value(); }
bool wasDone(const Result<std::optional<StagedState>>& result) { return result && *result; }

std::unordered_set<GestureId> allOf(const StagedOrder& order) {
  std::unordered_set<GestureId> out(order.done.begin(), order.done.end());
  out.insert(order.undone.begin(), order.undone.end());
  return out;
}

}  // namespace

SharedLog::SharedLog(std::shared_ptr<StoreThread> storeThread, ChangeSet& changes)
    : storeThread_(std::move(storeThread)),
      changes_(changes),
      owner_(newLogOwner()),
      there_(std::make_shared<There>()) {
  timer_.setInterval(kPoll);
  connect(&timer_, &QTimer::timeout, this, &SharedLog::poll);
}

void SharedLog::setAddress(const std::string& address) { address_ = address; }

SharedLog::~SharedLog() {
  storeThread_->post(
      nullptr,
      [there = there_, owner = owner_](Store& store) {
        return there->log == 0 ? Status() : store.releaseStaged(there->log, owner);
      },
      [](Status&&) {});
}

std::function<Result<StagedLog>(Store&)> SharedLog::claim() const {
  return [there = there_, address = address_, owner = owner_](Store& store) {
    Result<StagedLog> claimed = store.claimStaged(address, owner);
    if (claimed) there->log = claimed->id;
    return claimed;
  };
}

// New records of two windows must not be taken for each other.
void SharedLog::nameAdditions(std::size_t window) {
  if (window_ == window) return;
  window_ = window;
  changes_.takeAddedIdsFrom(1 + window * ChangeSet::kAddedIds);
}

void SharedLog::begin(StagedLog& log) {
  ids_ = log.state.order.done;
  ids_.insert(ids_.end(), log.state.order.undone.begin(), log.state.order.undone.end());
  changes_.restore(std::move(log.gestures), log.position());
  nameAdditions(log.window);
  sent_ = allOf(log.state.order);
  settle(log.state.order.done, log.state.order.done);
  known_ = settled_;
  applied_ = log.state.applied;
  note(log.state);
}

std::vector<GestureId> SharedLog::doneIds() const {
  return {ids_.begin(), ids_.begin() + static_cast<std::ptrdiff_t>(changes_.position())};
}

// --- what is done here
// -----------------------------------------------------------------------------------------------

void SharedLog::appended() {
  ids_.resize(changes_.position() - 1);
  ids_.push_back(newGestureId());
  push();
}

void SharedLog::moved() { push(); }

void SharedLog::push() {
  ++version_;
  if (forget_ && forgetting_ == 0 && !forget_->stale) return pushForgotten();
  pushMerged(wholeNext_);
}

StagedView SharedLog::view(bool whole) {
  StagedView out;
  out.known = known_;
  out.wanted.done = doneIds();
  out.wanted.undone.assign(ids_.begin() + static_cast<std::ptrdiff_t>(changes_.position()), ids_.end());
  for (std::size_t i = 0; i < ids_.size(); ++i) {
    if (whole || !sent_.contains(ids_[i])) out.packed[ids_[i]] = packGesture(changes_.gestures()[i]);
    sent_.insert(ids_[i]);
  }
  return out;
}

// What is behind something that failed is not done: the order is part of what is kept.
template <typename Work, typename Done>
void SharedLog::send(Work work, Done done) {
  ++inFlight_;
  storeThread_->post(
      this,
      [there = there_, owner = owner_, address = address_, epoch = epoch_, sequence = sequence_++,
       work = std::move(work)](Store& store) -> decltype(work(store, 0)) {
        if (epoch > there->epoch) {
          there->epoch = epoch;
          there->next = 0;
        }
        if (sequence != there->next) return fail(ErrorKind::Cancelled, "what was done before could not be kept");
        if (there->log == 0) {
          ITERANDUM_ASSIGN(const StagedLog claimed, store.claimStaged(address, owner));
          there->log = claimed.id;
        }
        auto result = work(store, there->log);
        if (wasDone(result)) ++there->next;
        return result;
      },
      std::move(done));
}

void SharedLog::pushMerged(bool whole) {
  StagedView made = view(whole);
  const StagedOrder wanted = made.wanted;
  known_ = wanted.done;
  wholeNext_ = false;
  send([owner = owner_, made = std::move(made)](Store& store,
                                                std::int64_t log) { return store.mergeStaged(log, owner, made); },
       [this, wanted, whole, epoch = epoch_](Result<StagedState>&& state) {
         --inFlight_;
         if (!state) return failed(state.error(), epoch, whole);
         heard(*state, wanted);
       });
}

void SharedLog::pushForgotten() {
  StagedView made = view(true);
  const StagedOrder wanted = made.wanted;
  known_ = wanted.done;
  wholeNext_ = false;
  ++forgetting_;
  send([owner = owner_, before = forget_->before, made = std::move(made)](
           Store& store, std::int64_t log) { return store.replaceStaged(log, owner, before, made); },
       [this, wanted, epoch = epoch_, which = forgets_](Result<std::optional<StagedState>>&& state) {
         --inFlight_;
         --forgetting_;
         if (!state) return failed(state.error(), epoch, true);
         if (!*state) return epoch == epoch_ ? forgottenInVain() : void();
         if (which == forgets_) forget_.reset();
         applied_ = (*state)->applied;
         heard(**state, wanted);
       });
}

// Others were there before: what they did has to be read first. What was staged here since has to get there by itself.
void SharedLog::forgottenInVain() {
  ++epoch_;
  sequence_ = 0;
  forget_->stale = true;
  known_.assign(forget_->rewritten.begin(), forget_->rewritten.end());
  for (const std::vector<GestureId>* kept : {&acknowledged_, &settled_})
    known_.insert(known_.end(), kept->begin(), kept->end());
  const std::unordered_set<GestureId> there(known_.begin(), known_.end());
  for (const GestureId id : ids_) {
    if (!there.contains(id)) sent_.erase(id);
  }
  known_.assign(forget_->rewritten.begin(), forget_->rewritten.end());
  readAgain_ = true;
  push();
}

void SharedLog::failed(const Error& error, std::uint64_t epoch, bool whole) {
  if (epoch != epoch_) return;  // it came behind one that failed
  ++epoch_;
  sequence_ = 0;
  known_ = acknowledged_;
  known_.insert(known_.end(), settled_.begin(), settled_.end());
  if (forget_) known_.assign(forget_->rewritten.begin(), forget_->rewritten.end());
  wholeNext_ = true;
  // Once more with all of it: others may have dropped what was undone here and is done again.
  if (!whole) return push();
  emit notKept(toQ(error.text()));
}

void SharedLog::heard(const StagedState& state, const StagedOrder& wanted) {
  settle(state.order.done, wanted.done);
  note(state);
  if (state.order != wanted || state.applied != applied_) readAgain_ = true;
  if (state.heldElsewhere) {
    const std::unordered_set<GestureId> wants(wanted.done.begin(), wanted.done.end());
    const bool refused = std::any_of(state.order.done.begin(), state.order.done.end(),
                                     [&](GestureId id) { return !wants.contains(id) && sent_.contains(id); });
    if (refused) emit undoRefused();
  }
  if (readAgain_ && inFlight_ == 0) read();
}

void SharedLog::settle(const std::vector<GestureId>& there, const std::vector<GestureId>& wanted) {
  // What others did and nobody here has seen yet is not known here.
  acknowledged_.clear();
  std::copy_if(there.begin(), there.end(), std::back_inserter(acknowledged_),
               [&](GestureId id) { return sent_.contains(id); });
  settled_ = wanted;
}

void SharedLog::note(const StagedState& state) {
  revision_ = state.revision;
  noteHolder(state);
  if (!timer_.isActive()) timer_.start();
}

void SharedLog::noteHolder(const StagedState& state) {
  const bool left = heldElsewhere_ && !state.heldElsewhere && state.applied == applied_;
  heldElsewhere_ = state.heldElsewhere;
  if (left) emit holderLeft();
}

// --- being applied
// ---------------------------------------------------------------------------------------------------

std::shared_future<Result<std::int64_t>> SharedLog::hold() {
  if (wholeNext_) push();
  const auto kept = std::make_shared<std::promise<Result<std::int64_t>>>();
  if (forget_) {
    kept->set_value(fail(ErrorKind::TryAgain, "what was applied before is just being taken out of what is staged"));
    return kept->get_future().share();
  }
  storeThread_->post(
      nullptr,
      [there = there_, owner = owner_, done = doneIds(), epoch = epoch_, next = sequence_,
       kept](Store& store) -> Status {
        if (there->log == 0) {
          kept->set_value(std::int64_t{0});
        } else if (next != 0 && (there->epoch != epoch || there->next != next)) {
          kept->set_value(fail(ErrorKind::InvalidFile, "what is staged could not be kept on disk"));
        } else if (Status held = store.holdStaged(there->log, owner, done); !held) {
          kept->set_value(fail(held.error()));
        } else {
          kept->set_value(there->log);
        }
        return {};
      },
      [](Status&&) {});
  return kept->get_future().share();
}

void SharedLog::letGo() {
  storeThread_->post(
      nullptr,
      [there = there_, owner = owner_](Store& store) {
        return there->log == 0 ? Status() : store.letGoStaged(there->log, owner);
      },
      [](Status&&) {});
}

void SharedLog::forgetApplied(std::size_t gestures, const AppliedAdditions& added,
                              const std::optional<SplitChanges>& part) {
  if (!forget_) forget_ = Forget{doneIds(), {}, {}, false};
  forget_->all.push_back({std::min(gestures, changes_.position()), added, part});
  forgetHere(forget_->all.back());
}

void SharedLog::sendForgotten() {
  ++forgets_;
  ++version_;
  pushForgotten();
}

void SharedLog::forgetHere(const Applied& one) {
  std::size_t applied = one.gestures;
  if (one.part) {
    // As if it had been staged so: the part, the rest, and what came since.
    std::vector<Gesture> all{one.part->part, one.part->rest};
    const std::vector<Gesture>& now = changes_.gestures();
    all.insert(all.end(), now.begin() + static_cast<std::ptrdiff_t>(applied),
               now.begin() + static_cast<std::ptrdiff_t>(changes_.position()));
    changes_.replaceAll(std::move(all));
    applied = 1;
  }
  changes_.forgetApplied(applied, one.added);
  ids_.clear();
  while (ids_.size() < changes_.gestures().size()) ids_.push_back(newGestureId());
  forget_->rewritten = {ids_.begin(), ids_.end()};
}

// --- what others did
// -------------------------------------------------------------------------------------------------

void SharedLog::poll() {
  if (polling_ || reading_ || inFlight_ > 0) return;
  polling_ = true;
  storeThread_->post(
      this,
      [there = there_, owner = owner_](Store& store) -> Result<StagedState> {
        return store.stagedState(there->log, owner);
      },
      [this](Result<StagedState>&& state) {
        polling_ = false;
        timer_.setInterval(state ? kPoll : kPollAfterFailure);
        if (!state) return;
        noteHolder(*state);
        if (inFlight_ == 0 && state->revision != revision_) read();
      });
}

void SharedLog::read() {
  if (reading_) {
    readAgain_ = true;
    return;
  }
  reading_ = true;
  readAgain_ = false;
  std::unordered_set<GestureId> has;
  if (!forget_) has.insert(ids_.begin(), ids_.end());
  storeThread_->post(
      this,
      [there = there_, owner = owner_, has = std::move(has)](Store& store) -> Result<StagedLog> {
        if (there->log == 0) return fail(ErrorKind::NotFound, "there is no log yet");
        return store.readStaged(there->log, owner, has);
      },
      [this, version = version_](Result<StagedLog>&& log) {
        reading_ = false;
        if (!log) {
          revision_ = 0;  // the next look will find it another one
          return;
        }
        if (inFlight_ > 0) {
          readAgain_ = true;  // when that was heard of
        } else if (version != version_ || readAgain_) {
          read();
        } else {
          take(std::move(*log));
        }
      });
}

std::vector<std::pair<GestureId, Gesture>> SharedLog::unsaved(const StagedLog& log) const {
  std::unordered_set<GestureId> lies = allOf(log.state.order);
  lies.insert(acknowledged_.begin(), acknowledged_.end());
  lies.insert(settled_.begin(), settled_.end());
  if (forget_) lies.insert(forget_->rewritten.begin(), forget_->rewritten.end());
  std::vector<std::pair<GestureId, Gesture>> out;
  for (std::size_t i = 0; i < changes_.position(); ++i) {
    if (!lies.contains(ids_[i])) out.emplace_back(ids_[i], changes_.gestures()[i]);
  }
  return out;
}

std::vector<Gesture> SharedLog::gesturesOf(const std::vector<GestureId>& ids, const StagedLog& log) const {
  std::unordered_map<GestureId, const Gesture*> by;
  std::size_t at = 0;
  for (const std::vector<GestureId>* side : {&log.state.order.done, &log.state.order.undone}) {
    for (const GestureId id : *side) by[id] = &log.gestures[at++];
  }
  for (std::size_t i = 0; i < ids_.size() && !forget_; ++i) by[ids_[i]] = &changes_.gestures()[i];
  std::vector<Gesture> out;
  for (const GestureId id : ids) out.push_back(*by.at(id));
  return out;
}

// What is done here already and goes on is not done anew.
void SharedLog::become(const StagedOrder& order, const StagedLog& log) {
  const std::vector<GestureId> before = doneIds();
  const auto same = std::mismatch(before.begin(), before.end(), order.done.begin(), order.done.end());
  const std::vector<GestureId> went(same.first, before.end());
  const std::vector<GestureId> came(same.second, order.done.end());
  std::vector<Gesture> undone = gesturesOf(order.undone, log);
  std::vector<Gesture> coming = gesturesOf(went.empty() ? came : order.done, log);
  for (const Gesture& gesture : gesturesOf(went, log)) emit touched(gesture);
  for (const Gesture& gesture : gesturesOf(came, log)) emit touched(gesture);
  if (went.empty()) {
    for (Gesture& gesture : coming) changes_.apply(std::move(gesture));
  } else {
    changes_.replaceAll(std::move(coming));
  }
  changes_.setUndone(std::move(undone));
  ids_ = order.done;
  ids_.insert(ids_.end(), order.undone.begin(), order.undone.end());
}

void SharedLog::take(StagedLog&& log) {
  StagedOrder order = log.state.order;
  std::vector<std::pair<GestureId, Gesture>> more = unsaved(log);
  bool again = !more.empty();
  const bool others = log.state.applied != applied_;
  StagedOrder here;
  here.done = doneIds();
  here.undone.assign(ids_.begin() + static_cast<std::ptrdiff_t>(changes_.position()), ids_.end());
  const bool differs = order != here || again;
  if (forget_) {
    const std::vector<GestureId>& before = forget_->before;
    const std::size_t count = forget_->all.front().gestures;
    const bool lies =
        order.done.size() >= count &&
        std::equal(before.begin(), before.begin() + static_cast<std::ptrdiff_t>(count), order.done.begin());
    changes_.restore(std::move(log.gestures), order.done.size());
    ids_ = order.done;
    ids_.insert(ids_.end(), order.undone.begin(), order.undone.end());
    if (lies) {
      forget_->before = order.done;
      forget_->stale = false;
      for (const Applied& one : forget_->all) forgetHere(one);
      again = true;
    } else {
      forget_.reset();  // another window did
    }
  } else if (differs) {
    become(order, log);
  }
  sent_ = allOf(order);
  settle(order.done, order.done);
  known_ = settled_;
  applied_ = log.state.applied;
  note(log.state);
  nameAdditions(log.window);
  for (auto& [id, gesture] : more) {
    changes_.apply(std::move(gesture));
    ids_.resize(changes_.position() - 1);
    ids_.push_back(id);
  }
  if (again) push();
  if (differs || forget_) emit changed();
  if (others) emit appliedElsewhere();
  if (!log.written.empty() && !forget_) emit written(log.written);
}

}  // namespace iterandum
