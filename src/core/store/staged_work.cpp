// Staged work in the store: a log of gestures for each database, which all windows that have it open share. Whoever
// changes it says what it knew of it, so that no window cuts off or clears what another one did.
#include <algorithm>

#include "core/store/log_owner.h"
#include "core/store/staged_merge.h"
#include "core/store/store.h"

namespace iterandum {
namespace {

constexpr const char* kCannotRead = "cannot read what is staged";
constexpr const char* kCannotKeep = "cannot keep what was staged";

std::size_t commonPrefix(const std::vector<GestureId>& a, const std::vector<GestureId>& b) {
  return static_cast<std::size_t>(std::mismatch(a.begin(), a.end(), b.begin(), b.end()).first - a.begin());
}

std::vector<GestureId> allOf(const StagedOrder& order) {
  std::vector<GestureId> out = order.done;
  out.insert(out.end(), order.undone.begin(), order.undone.end());
  return out;
}

}  // namespace

// --- who has a log
// ---------------------------------------------------------------------------------------------------

Status Store::forgetDeadWindows(const std::string& address) {
  std::vector<std::string> dead;
  ITERANDUM_ASSIGN(
      SqliteStatement windows,
      handle_->prepare(
          "SELECT DISTINCT owner FROM staged_window w JOIN staging s ON s.id = w.log WHERE s.address = ?1"));
  windows.bind(1, std::string_view(address));
  ITERANDUM_TRY(eachRow(windows, kCannotRead, [&](const SqliteStatement& row) {
    if (std::string owner = row.text(0); !logOwnerRuns(owner)) dead.push_back(std::move(owner));
  }));
  for (const std::string& owner : dead) {
    ITERANDUM_ASSIGN(SqliteStatement forget, handle_->prepare("DELETE FROM staged_window WHERE owner = ?1"));
    forget.bind(1, std::string_view(owner));
    ITERANDUM_TRY(execute(forget, kCannotKeep));
  }
  return {};
}

// That of the windows which have the database open; else the oldest with work in it.
Result<std::int64_t> Store::logFor(const std::string& address, StagedLog& told) {
  std::int64_t shared = 0;
  std::int64_t oldest = 0;
  std::int64_t empty = 0;
  ITERANDUM_ASSIGN(
      SqliteStatement logs,
      handle_->prepare("SELECT id, EXISTS (SELECT 1 FROM staged_window w WHERE w.log = s.id), EXISTS (SELECT 1 FROM "
                       "staged_gesture g WHERE g.log = s.id) FROM staging s WHERE address = ?1 ORDER BY id"));
  logs.bind(1, std::string_view(address));
  ITERANDUM_TRY(eachRow(logs, kCannotRead, [&](const SqliteStatement& row) {
    const bool works = row.integer(2) != 0;
    if (works) ++told.left;
    if (row.integer(1) != 0 && shared == 0) shared = row.integer(0);
    std::int64_t& first = works ? oldest : empty;
    if (first == 0) first = row.integer(0);
    if (works && shared == row.integer(0)) oldest = shared;
  }));
  const std::int64_t log = shared != 0 ? shared : oldest != 0 ? oldest : empty;
  if (log != 0 && log == oldest) --told.left;
  if (log != 0) return log;
  ITERANDUM_ASSIGN(SqliteStatement add, handle_->prepare("INSERT INTO staging (address, position) VALUES (?1, 0)"));
  add.bind(1, std::string_view(address));
  ITERANDUM_TRY(execute(add, kCannotKeep));
  return sqlite3_last_insert_rowid(handle_->raw());
}

Status Store::addWindow(StagedLog& log, const std::string& owner) {
  std::vector<std::size_t> taken;
  ITERANDUM_ASSIGN(SqliteStatement windows,
                   handle_->prepare("SELECT owner, number FROM staged_window WHERE log = ?1 AND owner <> ?2"));
  windows.bind(1, log.id);
  windows.bind(2, std::string_view(owner));
  ITERANDUM_TRY(eachRow(windows, kCannotRead, [&](const SqliteStatement& row) {
    log.others.push_back(row.text(0));
    taken.push_back(static_cast<std::size_t>(row.integer(1)));
  }));
  if (taken.empty()) {
    // Nobody is left who could bring any of it again.
    ITERANDUM_ASSIGN(SqliteStatement forget, handle_->prepare("DELETE FROM staged_gone WHERE log = ?1"));
    forget.bind(1, log.id);
    ITERANDUM_TRY(execute(forget, kCannotKeep));
  }
  while (std::find(taken.begin(), taken.end(), log.window) != taken.end()) ++log.window;
  ITERANDUM_ASSIGN(SqliteStatement add, handle_->prepare("INSERT OR REPLACE INTO staged_window VALUES (?1, ?2, ?3)"));
  add.bind(1, log.id);
  add.bind(2, std::string_view(owner));
  add.bind(3, static_cast<std::int64_t>(log.window));
  return execute(add, kCannotKeep);
}

Result<std::size_t> Store::windowNumber(std::int64_t log, const std::string& owner) {
  std::size_t number = 0;
  ITERANDUM_ASSIGN(SqliteStatement one,
                   handle_->prepare("SELECT number FROM staged_window WHERE log = ?1 AND owner = ?2"));
  one.bind(1, log);
  one.bind(2, std::string_view(owner));
  ITERANDUM_TRY(eachRow(one, kCannotRead,
                        [&](const SqliteStatement& row) { number = static_cast<std::size_t>(row.integer(0)); }));
  return number;
}

Result<StagedLog> Store::claimStaged(const std::string& address, const std::string& owner) {
  return inTransaction([&]() -> Result<StagedLog> {
    StagedLog log;
    ITERANDUM_TRY(forgetDeadWindows(address));
    ITERANDUM_ASSIGN(log.id, logFor(address, log));
    ITERANDUM_TRY(addWindow(log, owner));
    ITERANDUM_TRY(readGestures(log, {}));
    ITERANDUM_ASSIGN(StagedRow row, stagedRow(log.id, owner));
    log.state = std::move(row.state);
    if (!log.state.heldElsewhere) {
      ITERANDUM_ASSIGN(log.written, writtenOf(log.id));
    }
    return log;
  });
}

Status Store::releaseStaged(std::int64_t log, const std::string& owner) {
  return inTransaction([&]() -> Result<bool> {
           ITERANDUM_ASSIGN(SqliteStatement letGo,
                            handle_->prepare("UPDATE staging SET holder = '', held = 0, revision = revision + 1 WHERE "
                                             "id = ?1 AND holder = ?2"));
           letGo.bind(1, log);
           letGo.bind(2, std::string_view(owner));
           ITERANDUM_TRY(execute(letGo, kCannotKeep));
           ITERANDUM_ASSIGN(SqliteStatement gone,
                            handle_->prepare("DELETE FROM staged_window WHERE log = ?1 AND owner = ?2"));
           gone.bind(1, log);
           gone.bind(2, std::string_view(owner));
           ITERANDUM_TRY(execute(gone, kCannotKeep));
           ITERANDUM_ASSIGN(SqliteStatement empty,
                            handle_->prepare("DELETE FROM staging WHERE id = ?1 AND NOT EXISTS (SELECT 1 FROM "
                                             "staged_gesture WHERE log = ?1) AND NOT EXISTS (SELECT 1 FROM "
                                             "staged_window WHERE log = ?1)"));
           empty.bind(1, log);
           ITERANDUM_TRY(execute(empty, kCannotKeep));
           ITERANDUM_ASSIGN(SqliteStatement gesturesGone,
                            handle_->prepare("DELETE FROM staged_gone WHERE log NOT IN (SELECT id FROM staging)"));
           ITERANDUM_TRY(execute(gesturesGone, kCannotKeep));
           return true;
         })
      .map([](bool) {});
}

// --- what lies in it
// -------------------------------------------------------------------------------------------------

Result<Store::StagedRow> Store::stagedRow(std::int64_t log, const std::string& owner) {
  StagedRow out;
  std::size_t position = 0;
  bool there = false;
  ITERANDUM_ASSIGN(SqliteStatement one,
                   handle_->prepare("SELECT position, revision, applied, holder, held FROM staging WHERE id = ?1"));
  one.bind(1, log);
  ITERANDUM_TRY(eachRow(one, kCannotRead, [&](const SqliteStatement& row) {
    there = true;
    position = static_cast<std::size_t>(row.integer(0));
    out.state.revision = static_cast<std::uint64_t>(row.integer(1));
    out.state.applied = static_cast<std::uint64_t>(row.integer(2));
    const std::string holder = row.text(3);
    out.state.heldElsewhere = !holder.empty() && holder != owner && logOwnerRuns(holder);
    if (out.state.heldElsewhere) out.held = static_cast<std::size_t>(row.integer(4));
  }));
  if (!there) return fail(ErrorKind::InvalidFile, "the log of what is staged is gone from the program's own store");
  ITERANDUM_ASSIGN(SqliteStatement ids, handle_->prepare("SELECT id FROM staged_gesture WHERE log = ?1 ORDER BY seq"));
  ids.bind(1, log);
  ITERANDUM_TRY(eachRow(ids, kCannotRead, [&](const SqliteStatement& row) {
    StagedOrder& order = out.state.order;
    (order.done.size() < position ? order.done : order.undone).push_back(static_cast<GestureId>(row.integer(0)));
  }));
  return out;
}

Result<StagedState> Store::stagedState(std::int64_t log, const std::string& owner) {
  ITERANDUM_ASSIGN(StagedRow row, stagedRow(log, owner));
  return std::move(row.state);
}

Result<StagedLog> Store::readStaged(std::int64_t log, const std::string& owner,
                                    const std::unordered_set<GestureId>& has) {
  return inTransaction([&]() -> Result<StagedLog> {
    StagedLog out;
    out.id = log;
    ITERANDUM_TRY(readGestures(out, has));
    ITERANDUM_ASSIGN(StagedRow row, stagedRow(log, owner));
    out.state = std::move(row.state);
    ITERANDUM_ASSIGN(out.window, windowNumber(log, owner));
    if (!out.state.heldElsewhere) {
      ITERANDUM_ASSIGN(out.written, writtenOf(log));
    }
    return out;
  });
}

// What cannot be read is set aside, not dropped, and the rest goes on without it.
Status Store::readGestures(StagedLog& log, const std::unordered_set<GestureId>& has) {
  ITERANDUM_ASSIGN(const StagedRow row, stagedRow(log.id, {}));
  const StagedOrder& before = row.state.order;
  StagedOrder kept;
  std::vector<std::string> unreadable;
  ITERANDUM_ASSIGN(SqliteStatement one,
                   handle_->prepare("SELECT packed FROM staged_gesture WHERE log = ?1 AND seq = ?2"));
  std::int64_t seq = 0;
  for (const GestureId id : allOf(before)) {
    one.bind(1, log.id);
    one.bind(2, seq);
    Result<Gesture> gesture = Gesture();
    bool found = has.contains(id);
    const auto unpack = [&](const SqliteStatement& packedRow) {
      found = true;
      std::string bytes = packedRow.text(0);
      gesture = unpackGesture(bytes);
      if (!gesture) unreadable.push_back(std::move(bytes));
    };
    if (!found) ITERANDUM_TRY(eachRow(one, kCannotRead, unpack));
    if (!found)
      return fail(ErrorKind::InvalidFile, "the program's own store is damaged: a staged gesture is not found");
    if (gesture) {
      log.gestures.push_back(std::move(*gesture));
      (static_cast<std::size_t>(seq) < before.done.size() ? kept.done : kept.undone).push_back(id);
    }
    ++seq;
  }
  log.setAside = unreadable.size();
  if (unreadable.empty()) return {};
  for (const std::string& bytes : unreadable) ITERANDUM_TRY(setAside(log.id, bytes));
  return writeOrder(log.id, before, kept, {});
}

Status Store::setAside(std::int64_t log, const std::string& packed) {
  ITERANDUM_ASSIGN(SqliteStatement aside,
                   handle_->prepare("INSERT INTO aside (address, at, packed) SELECT address, datetime('now'), ?2 FROM "
                                    "staging WHERE id = ?1"));
  aside.bind(1, log);
  aside.bindBlob(2, packed);
  return execute(aside, "cannot set aside what cannot be read");
}

// --- changing it
// -----------------------------------------------------------------------------------------------------

Status Store::addGesture(std::int64_t log, std::size_t seq, GestureId id, const std::string& packed) {
  ITERANDUM_ASSIGN(SqliteStatement add, handle_->prepare("INSERT INTO staged_gesture VALUES (?1, ?2, ?3, ?4)"));
  add.bind(1, log);
  add.bind(2, static_cast<std::int64_t>(seq));
  add.bind(3, static_cast<std::int64_t>(id));
  add.bindBlob(4, packed);
  return execute(add, kCannotKeep);
}

Status Store::writeOrder(std::int64_t log, const StagedOrder& before, const StagedOrder& now,
                         const std::map<GestureId, std::string>& packed) {
  const std::vector<GestureId> had = allOf(before);
  const std::vector<GestureId> has = allOf(now);
  const std::size_t same = commonPrefix(had, has);
  std::map<GestureId, std::int64_t> rest;  // where they lie behind that
  for (std::size_t i = same; i < had.size(); ++i) rest[had[i]] = static_cast<std::int64_t>(i);
  // Out of the way first: a place is given once.
  std::vector<std::pair<std::int64_t, std::int64_t>> moves;
  std::vector<std::pair<std::size_t, GestureId>> fresh;
  for (std::size_t i = same; i < has.size(); ++i) {
    if (const auto at = rest.find(has[i]); at != rest.end()) {
      moves.emplace_back(at->second, -1 - static_cast<std::int64_t>(i));
      rest.erase(at);
    } else {
      fresh.emplace_back(i, has[i]);
    }
  }
  for (const auto& [id, seq] : rest) {
    ITERANDUM_ASSIGN(SqliteStatement drop, handle_->prepare("DELETE FROM staged_gesture WHERE log = ?1 AND seq = ?2"));
    drop.bind(1, log);
    drop.bind(2, seq);
    ITERANDUM_TRY(execute(drop, kCannotKeep));
  }
  for (const auto& [from, to] : moves) {
    ITERANDUM_ASSIGN(SqliteStatement move,
                     handle_->prepare("UPDATE staged_gesture SET seq = ?3 WHERE log = ?1 AND seq = ?2"));
    move.bind(1, log);
    move.bind(2, from);
    move.bind(3, to);
    ITERANDUM_TRY(execute(move, kCannotKeep));
  }
  ITERANDUM_ASSIGN(SqliteStatement place,
                   handle_->prepare("UPDATE staged_gesture SET seq = -1 - seq WHERE log = ?1 AND seq < 0"));
  place.bind(1, log);
  ITERANDUM_TRY(execute(place, kCannotKeep));
  for (const auto& [seq, id] : fresh) {
    const auto at = packed.find(id);
    if (at == packed.end()) {
      return fail(ErrorKind::InvalidFile, "a gesture before this one was not kept; all of them have to be kept again");
    }
    ITERANDUM_TRY(addGesture(log, seq, id, at->second));
  }
  // What a receipt says of the first gestures holds for as long as they are the first.
  ITERANDUM_TRY(unlinkBeyond(log, commonPrefix(before.done, now.done)));
  return markChanged(log, now.done.size(), false);
}

Status Store::markChanged(std::int64_t log, std::size_t position, bool applied) {
  ITERANDUM_ASSIGN(SqliteStatement move,
                   handle_->prepare("UPDATE staging SET position = ?2, revision = revision + 1, applied = applied + ?3 "
                                    "WHERE id = ?1"));
  move.bind(1, log);
  move.bind(2, static_cast<std::int64_t>(position));
  move.bind(3, std::int64_t{applied ? 1 : 0});
  return execute(move, kCannotKeep);
}

Result<StagedState> Store::mergeStaged(std::int64_t log, const std::string& owner, const StagedView& view) {
  return inTransaction([&]() -> Result<StagedState> {
    ITERANDUM_ASSIGN(const StagedRow row, stagedRow(log, owner));
    ITERANDUM_ASSIGN(SqliteStatement applied, handle_->prepare("SELECT 1 FROM staged_gone WHERE log = ?1 AND id = ?2"));
    std::optional<Error> unread;
    const auto gone = [&](GestureId id) {
      bool found = false;
      applied.bind(1, log);
      applied.bind(2, static_cast<std::int64_t>(id));
      if (Status read = eachRow(applied, kCannotRead, [&](const SqliteStatement&) { found = true; }); !read)
        unread = std::move(read.error());
      return found;
    };
    const StagedOrder merged = mergedOrder(row.state.order, view.known, view.wanted, row.held, gone);
    if (unread) return fail(std::move(*unread));
    if (merged == row.state.order) return row.state;
    ITERANDUM_TRY(writeOrder(log, row.state.order, merged, view.packed));
    StagedState out = row.state;
    ++out.revision;
    out.order = merged;
    return out;
  });
}

Result<std::optional<StagedState>> Store::replaceStaged(std::int64_t log, const std::string& owner,
                                                        const std::vector<GestureId>& before,
                                                        const StagedView& gestures) {
  return inTransaction([&]() -> Result<std::optional<StagedState>> {
    ITERANDUM_ASSIGN(const StagedRow row, stagedRow(log, owner));
    if (row.state.order.done != before || row.state.heldElsewhere) return std::optional<StagedState>();
    ITERANDUM_TRY(writeOrder(log, row.state.order, gestures.wanted, gestures.packed));
    ITERANDUM_TRY(unlinkBeyond(log, 0));
    for (const GestureId id : before) {
      ITERANDUM_ASSIGN(SqliteStatement gone, handle_->prepare("INSERT OR IGNORE INTO staged_gone VALUES (?1, ?2)"));
      gone.bind(1, log);
      gone.bind(2, static_cast<std::int64_t>(id));
      ITERANDUM_TRY(execute(gone, kCannotKeep));
    }
    ITERANDUM_TRY(markChanged(log, gestures.wanted.done.size(), true));
    ITERANDUM_TRY(setHolder(log, {}, 0));
    ITERANDUM_ASSIGN(StagedRow now, stagedRow(log, owner));
    return std::optional(std::move(now.state));
  });
}

Status Store::setHolder(std::int64_t log, const std::string& holder, std::size_t held) {
  ITERANDUM_ASSIGN(
      SqliteStatement hold,
      handle_->prepare("UPDATE staging SET holder = ?2, held = ?3, revision = revision + 1 WHERE id = ?1"));
  hold.bind(1, log);
  hold.bind(2, std::string_view(holder));
  hold.bind(3, static_cast<std::int64_t>(held));
  return execute(hold, kCannotKeep);
}

Status Store::holdStaged(std::int64_t log, const std::string& owner, const std::vector<GestureId>& done) {
  return inTransaction([&]() -> Result<bool> {
           ITERANDUM_ASSIGN(const StagedRow row, stagedRow(log, owner));
           if (row.state.heldElsewhere)
             return fail(ErrorKind::LockTimeout, "another window is applying what is staged just now");
           if (commonPrefix(row.state.order.done, done) != done.size()) {
             return fail(ErrorKind::TryAgain,
                         "another window changed what is staged meanwhile; look at what it is now, and apply that");
           }
           // Whoever wrote it may have died before taking it out.
           ITERANDUM_ASSIGN(const std::vector<WrittenStaged> written, writtenOf(log));
           if (!written.empty()) {
             return fail(ErrorKind::TryAgain,
                         "some of what is staged was written by another window, and is just being taken out");
           }
           ITERANDUM_TRY(setHolder(log, owner, done.size()));
           return true;
         })
      .map([](bool) {});
}

Status Store::letGoStaged(std::int64_t log, const std::string& owner) {
  return inTransaction([&]() -> Result<bool> {
           ITERANDUM_ASSIGN(const StagedRow row, stagedRow(log, owner));
           if (!row.state.heldElsewhere) ITERANDUM_TRY(setHolder(log, {}, 0));
           return true;
         })
      .map([](bool) {});
}

}  // namespace iterandum
