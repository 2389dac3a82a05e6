// Staged work in the store: a log of gestures for each window, so that no window cuts off or clears another one's.
#include "core/store/log_owner.h"
#include "core/store/store.h"

namespace iterandum {

Result<StagedLog> Store::claimStaged(const std::string& address, const std::string& owner) {
  return inTransaction([&]() -> Result<StagedLog> {
    StagedLog log;
    std::int64_t position = 0;
    ITERANDUM_ASSIGN(SqliteStatement logs,
                     handle_->prepare("SELECT id, owner, position FROM staging WHERE address = ?1 ORDER BY id"));
    logs.bind(1, std::string_view(address));
    ITERANDUM_TRY(eachRow(logs, "cannot read what is staged", [&](const SqliteStatement& row) {
      if (logOwnerRuns(row.text(1))) {
        ++log.openElsewhere;
      } else if (log.id == 0) {
        log.id = row.integer(0);
        position = row.integer(2);
      } else {
        ++log.left;
      }
    }));
    if (log.id == 0) {
      ITERANDUM_ASSIGN(log.id, newStaged(address, owner));
      return log;
    }
    ITERANDUM_ASSIGN(SqliteStatement take, handle_->prepare("UPDATE staging SET owner = ?2 WHERE id = ?1"));
    take.bind(1, log.id);
    take.bind(2, std::string_view(owner));
    ITERANDUM_TRY(execute(take, "cannot keep what is staged"));
    ITERANDUM_TRY(readLog(log, position));
    ITERANDUM_ASSIGN(log.written, writtenOf(log.id));
    return log;
  });
}

Result<std::int64_t> Store::newStaged(const std::string& address, const std::string& owner) {
  ITERANDUM_ASSIGN(SqliteStatement add,
                   handle_->prepare("INSERT INTO staging (address, owner, position) VALUES (?1, ?2, 0)"));
  add.bind(1, std::string_view(address));
  add.bind(2, std::string_view(owner));
  ITERANDUM_TRY(execute(add, "cannot keep what is staged"));
  return sqlite3_last_insert_rowid(handle_->raw());
}

// What cannot be read is set aside, not dropped, and the rest goes on without it.
Status Store::readLog(StagedLog& log, std::int64_t position) {
  std::vector<std::string> packed;
  std::vector<std::string> unreadable;
  ITERANDUM_ASSIGN(SqliteStatement gestures,
                   handle_->prepare("SELECT seq, packed FROM staged_gesture WHERE log = ?1 ORDER BY seq"));
  gestures.bind(1, log.id);
  ITERANDUM_TRY(eachRow(gestures, "cannot read what is staged", [&](const SqliteStatement& row) {
    std::string bytes = row.text(1);
    auto gesture = unpackGesture(bytes);
    if (!gesture) {
      unreadable.push_back(std::move(bytes));
      return;
    }
    if (row.integer(0) < position) ++log.position;
    log.gestures.push_back(std::move(*gesture));
    packed.push_back(std::move(bytes));
  }));
  log.setAside = unreadable.size();
  if (unreadable.empty()) return {};
  for (const std::string& bytes : unreadable) {
    ITERANDUM_ASSIGN(
        SqliteStatement aside,
        handle_->prepare("INSERT INTO aside (address, at, packed) SELECT address, datetime('now'), ?2 FROM "
                         "staging WHERE id = ?1"));
    aside.bind(1, log.id);
    aside.bindBlob(2, bytes);
    ITERANDUM_TRY(execute(aside, "cannot set aside what cannot be read"));
  }
  return writeLog(log.id, packed, log.position);
}

Status Store::writeLog(std::int64_t log, const std::vector<std::string>& gestures, std::size_t position) {
  ITERANDUM_ASSIGN(SqliteStatement drop, handle_->prepare("DELETE FROM staged_gesture WHERE log = ?1"));
  drop.bind(1, log);
  ITERANDUM_TRY(execute(drop, "cannot keep what was staged"));
  for (std::size_t i = 0; i < gestures.size(); ++i) ITERANDUM_TRY(addGesture(log, i, gestures[i]));
  return moveTo(log, position);
}

Status Store::addGesture(std::int64_t log, std::size_t seq, const std::string& packed) {
  ITERANDUM_ASSIGN(SqliteStatement add, handle_->prepare("INSERT INTO staged_gesture VALUES (?1, ?2, ?3)"));
  add.bind(1, log);
  add.bind(2, static_cast<std::int64_t>(seq));
  add.bindBlob(3, packed);
  return execute(add, "cannot keep what was staged");
}

Status Store::moveTo(std::int64_t log, std::size_t position) {
  ITERANDUM_ASSIGN(SqliteStatement move, handle_->prepare("UPDATE staging SET position = ?2 WHERE id = ?1"));
  move.bind(1, log);
  move.bind(2, static_cast<std::int64_t>(position));
  return execute(move, "cannot keep what was undone");
}

Status Store::linkStaged(std::int64_t receipt, const StagedForReceipt& staged) {
  ITERANDUM_ASSIGN(SqliteStatement add, handle_->prepare("INSERT INTO staged_receipt VALUES (?1, ?2, ?3, ?4, ?5)"));
  add.bind(1, receipt);
  add.bind(2, staged.log);
  add.bind(3, static_cast<std::int64_t>(staged.gestures));
  // They live until the statement was run.
  std::string part;
  std::string rest;
  if (staged.partAndRest) {
    part = packGesture(staged.partAndRest->first);
    rest = packGesture(staged.partAndRest->second);
    add.bindBlob(4, part);
    add.bindBlob(5, rest);
  }
  return execute(add, "cannot keep what the receipt is about");
}

Status Store::unlinkBeyond(std::int64_t log, std::size_t gestures) {
  ITERANDUM_ASSIGN(SqliteStatement drop,
                   handle_->prepare("DELETE FROM staged_receipt WHERE log = ?1 AND gestures > ?2"));
  drop.bind(1, log);
  drop.bind(2, static_cast<std::int64_t>(gestures));
  return execute(drop, "cannot keep what was staged");
}

Result<std::vector<WrittenStaged>> Store::writtenOf(std::int64_t log) {
  ITERANDUM_ASSIGN(
      SqliteStatement links,
      handle_->prepare("SELECT l.gestures, l.part, l.rest, r.packed FROM staged_receipt l JOIN receipt r ON "
                       "r.id = l.receipt WHERE l.log = ?1 AND r.pending = 0 ORDER BY l.receipt"));
  links.bind(1, log);
  std::vector<WrittenStaged> out;
  std::optional<Error> unread;
  const auto take = [&](const SqliteStatement& row) -> Status {
    WrittenStaged written;
    written.staged.log = log;
    written.staged.gestures = static_cast<std::size_t>(row.integer(0));
    if (!row.isNull(1)) {
      ITERANDUM_ASSIGN(Gesture part, unpackGesture(row.text(1)));
      ITERANDUM_ASSIGN(Gesture rest, unpackGesture(row.text(2)));
      written.staged.partAndRest.emplace(std::move(part), std::move(rest));
    }
    ITERANDUM_ASSIGN(written.receipt, unpackReceipt(row.text(3)));
    out.push_back(std::move(written));
    return {};
  };
  ITERANDUM_TRY(eachRow(links, "cannot read what was written of what is staged", [&](const SqliteStatement& row) {
    if (Status taken = take(row); !taken) unread = std::move(taken.error());
  }));
  if (unread) return fail(std::move(*unread));
  return out;
}

Result<std::vector<std::int64_t>> Store::undecidedOf(std::int64_t log) {
  ITERANDUM_ASSIGN(
      SqliteStatement links,
      handle_->prepare("SELECT r.id FROM staged_receipt l JOIN receipt r ON r.id = l.receipt WHERE l.log = "
                       "?1 AND r.pending = 1 ORDER BY r.id"));
  links.bind(1, log);
  std::vector<std::int64_t> out;
  ITERANDUM_TRY(eachRow(links, "cannot read what was being applied",
                        [&](const SqliteStatement& row) { out.push_back(row.integer(0)); }));
  return out;
}

Result<std::vector<std::int64_t>> Store::undecidedReceipts(const std::string& address) {
  ITERANDUM_ASSIGN(
      SqliteStatement links,
      handle_->prepare("SELECT r.id, s.owner FROM staged_receipt l JOIN receipt r ON r.id = l.receipt JOIN "
                       "staging s ON s.id = l.log WHERE s.address = ?1 AND r.pending = 1 ORDER BY r.id"));
  links.bind(1, std::string_view(address));
  std::vector<std::int64_t> out;
  ITERANDUM_TRY(eachRow(links, "cannot read what was being applied", [&](const SqliteStatement& row) {
    if (!logOwnerRuns(row.text(1))) out.push_back(row.integer(0));
  }));
  return out;
}

Status Store::appendGesture(std::int64_t log, std::size_t position, const std::string& packed) {
  return inTransaction([&]() -> Result<bool> {
           ITERANDUM_ASSIGN(SqliteStatement drop,
                            handle_->prepare("DELETE FROM staged_gesture WHERE log = ?1 AND seq >= ?2"));
           drop.bind(1, log);
           drop.bind(2, static_cast<std::int64_t>(position));
           ITERANDUM_TRY(execute(drop, "cannot keep what was staged"));
           ITERANDUM_ASSIGN(SqliteStatement count,
                            handle_->prepare("SELECT count(*) FROM staged_gesture WHERE log = ?1"));
           count.bind(1, log);
           std::int64_t before = -1;
           ITERANDUM_TRY(eachRow(count, "cannot keep what was staged",
                                 [&](const SqliteStatement& row) { before = row.integer(0); }));
           if (before != static_cast<std::int64_t>(position)) {
             return fail(ErrorKind::InvalidFile,
                         "a gesture before this one was not kept; all of them have to be kept again");
           }
           ITERANDUM_TRY(unlinkBeyond(log, position));
           ITERANDUM_TRY(addGesture(log, position, packed));
           ITERANDUM_TRY(moveTo(log, position + 1));
           return true;
         })
      .map([](bool) {});
}

Status Store::setPosition(std::int64_t log, std::size_t position) {
  return inTransaction([&]() -> Result<bool> {
           ITERANDUM_TRY(unlinkBeyond(log, position));
           ITERANDUM_TRY(moveTo(log, position));
           return true;
         })
      .map([](bool) {});
}

Status Store::replaceStaged(std::int64_t log, const std::vector<std::string>& gestures, std::size_t position) {
  return inTransaction([&]() -> Result<bool> {
           ITERANDUM_TRY(unlinkBeyond(log, 0));
           ITERANDUM_TRY(writeLog(log, gestures, position));
           return true;
         })
      .map([](bool) {});
}

Status Store::releaseStaged(std::int64_t log) {
  return inTransaction([&]() -> Result<bool> {
           ITERANDUM_ASSIGN(SqliteStatement free, handle_->prepare("UPDATE staging SET owner = '' WHERE id = ?1"));
           free.bind(1, log);
           ITERANDUM_TRY(execute(free, "cannot keep what was staged"));
           ITERANDUM_ASSIGN(SqliteStatement empty,
                            handle_->prepare("DELETE FROM staging WHERE id = ?1 AND NOT EXISTS (SELECT 1 FROM "
                                             "staged_gesture WHERE log = ?1)"));
           empty.bind(1, log);
           ITERANDUM_TRY(execute(empty, "cannot keep what was staged"));
           return true;
         })
      .map([](bool) {});
}

}  // namespace iterandum
